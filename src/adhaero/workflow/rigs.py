"""The rigs of the shop: how each is set up, what its lines mean, its check weights, and its state before a break."""

from __future__ import annotations

import math
import re
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from adhaero.core.breaking.instrument import DRIFT_SHARE, Calibration, Instrument, Line, Measures, checked
from adhaero.core.house_network import in_house
from adhaero.core.quantity import Dimension, parse, unit
from adhaero.core.refusal import Doubts, Refusal, refuse
from adhaero.core.units import Units
from adhaero.rig.protocol import MAX_LINE, TooSlow, line_reader
from adhaero.store import rigs, shop
from adhaero.store.rigs import RigEvent, SetUp
from adhaero.workflow.context import Act, AppContext, NotFound, iso

NOT_LOOKED_OVER, DRIFTED = "not looked over", "rig drifted"


def set_up(
    rig: str, fixture: str, instrument: Instrument, *, capacity: float, step: float, working_share: float = 0.8,
    reason: str = "", pattern: str = "", load_point: str = "", weakest: str = "", weakest_n: float | None = None,
) -> SetUp:  # fmt: skip
    """A set-up by what its instrument shows: capacity and step in its base unit (N, MPa, N m). Raises ``Refusal``."""
    i = checked(instrument)
    line_reader(pattern)
    newtons = 1.0 if i.measures is Measures.TRAVEL else i.factor
    s = SetUp(0, rig.strip(), fixture.strip(), capacity * newtons, step * newtons, working_share, reason.strip(), "", i,
              pattern, load_point.strip(), weakest.strip(), weakest_n)  # fmt: skip
    if not 1 <= len(s.rig) <= 80:
        raise refuse("name", "the rig has no name, or one of over 80 characters", "Give it a short name.")
    if not (math.isfinite(s.capacity_n) and 1 <= s.capacity_n <= 10_000_000):
        what = f"a capacity of {s.capacity_n:g} N is not possible"
        raise refuse("capacity", what, "Check the number and its unit, and the lever or piston.")
    if not 0 < s.resolution_n <= s.capacity_n / 20:
        raise refuse("step", "the step must be above 0 and under a twentieth of the capacity", "Check it.")
    if not 0 < s.working_share <= 1:
        raise refuse("working_share", "must be above 0 and at most 100 %", "80 % is usual.")
    if s.weakest_n is not None and not 0 < s.weakest_n <= 10_000_000:
        raise refuse(
            "weakest_n", f"{s.weakest_n:g} N is not possible", "Type what the weakest part bears, or leave it."
        )
    if not s.fixture:
        raise refuse("fixture", "the fixture has no name", "Say what holds the piece, for example 'shear fixture 1'.")
    return s


def use(w: AppContext, s: SetUp, port: str, key: str | None = None) -> None:
    """Use a rig in this set-up and connect to it. Anything changed, or a reason given, is a new set-up; an earlier one
    named again is that one.
    """
    _check_port(port)
    if w.rig.is_open():
        raise refuse("rig", "a pull is going on", "End it first: a pull belongs to the set-up that it began with.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        return {"id": rigs.use(conn, s, port, w.stamp(), action_id)}

    act = Act("shop", "rig", f"Use {s.rig} with {s.fixture}", reason=s.reason, key=key, request=f"{s}{port}")
    w.perform(act, body)
    connect(w)


_SERIAL = re.compile(r"/dev/(tty|cu\.|pts/|serial/|rfcomm)[\w./:-]{0,100}|COM\d{1,3}")
_SOCKET = re.compile(r"socket://([\w.-]{1,80}):(\d{1,5})")


def _check_port(port: str) -> None:
    """Raise ``Refusal`` unless it is a serial device, or a host on the shop's own network."""
    remedy = "Write /dev/ttyUSB0, COM3 or socket://127.0.0.1:4545."
    found = _SOCKET.fullmatch(port)
    if port and found is None and (".." in port or not _SERIAL.fullmatch(port)):
        raise refuse("port", f"{port[:60]!r} is no serial port and no address of a rig", remedy)
    if found is not None:
        host = found[1]
        near = in_house(host) or host == "localhost" or "." not in host or host.endswith(".local")
        if not near or not 0 < int(found[2]) < 65536:
            raise refuse("port", f"{host} is not on the shop's own network", "A rig is read on this network only.")


def port_in_use(w: AppContext) -> str:
    """Where the rig in use is read; empty without one."""
    with w.db.read() as conn:
        used = rigs.in_use(conn)
    return used.port if used is not None else ""


def take_up(w: AppContext, setup_id: int, key: str | None = None) -> None:
    """Use an earlier set-up again, at the port in use."""
    with w.db.read() as conn:
        found, used = rigs.set_ups(conn).get(setup_id), rigs.in_use(conn)
    if found is None:
        raise NotFound(f"There is no set-up {setup_id}.")
    use(w, replace(found, reason=""), used.port if used else "", key)


def connect(w: AppContext) -> None:
    """Read the rig that is in use, if it has a port."""
    with w.db.read() as conn:
        used = rigs.in_use(conn)
    if used is not None:
        s = used.set_up
        # A rig that measures travel has no load to read.
        port = "" if s.instrument.measures is Measures.TRAVEL else used.port
        w.rig.connect(port, s.capacity_n, s.instrument, s.pattern)


def need_set_up(conn: sqlite3.Connection) -> rigs.RigUse:
    """The set-up in use; ``Refusal`` where there is none."""
    used = rigs.in_use(conn)
    if used is None:
        raise refuse("rig", "the rig has no set-up yet", "Name the rig and its fixture under Shop.")
    return used


# What is typed -------------------------------------------------------------------------------------------------------


def typed_load(text: str, s: SetUp | None, units: Units, field: str) -> float | None:
    """Load on the piece (N) for what was typed of an instrument: a bare number is in its unit, or in the shop's own.
    An empty text is none.
    """
    if not text.strip():
        return None
    i = s.instrument if s else Instrument()
    if i.measures is Measures.TRAVEL:
        remedy = "Choose 'its load was not read', or name under Shop the rig that it was broken with."
        raise refuse(field, f"{s.rig if s else 'it'} measures travel: it gives no load", remedy)
    load = i.load_n(_typed(text, i, units, field))
    if load < 0:
        raise refuse(field, f"a load of {text.strip()} is below zero", "Type the load without a sign.")
    return load


def _typed(text: str, i: Instrument, units: Units, field: str) -> float:
    own = units.symbol(Dimension.FORCE) if i.measures is Measures.FORCE else i.unit
    try:
        return parse(text, i.dimension, own).base
    except Refusal as refusal:
        problem = refusal.problems[0]
        remedy = problem.remedy
        if i.dimension is not Dimension.FORCE:
            remedy = f"The rig in use shows a {i.measures.value}: type that, or choose the other set-up under Shop."
        elif _is_pressure(text):
            remedy = (
                "A pressure alone is no load: say under Shop that the rig measures pressure, and the area of its "
                "piston; or choose 'its load was not read', and write there what the gauge showed."
            )
        raise refuse(field, problem.message, remedy) from refusal


def _is_pressure(text: str) -> bool:
    try:
        return bool(parse(text, Dimension.STRESS, "MPa").base) and not text.strip()[-1].isdigit()
    except Refusal:
        return False


def calibrated(
    w: AppContext, rig: str, i: Instrument, rows: Sequence[tuple[str, str]] | None, person: str
) -> Instrument:
    """An instrument with the calibration of these known weights; with ``None`` the one that this rig has now, as long
    as it shows its readings as it did then.
    """
    with w.db.read() as conn:
        units, used = shop.units(conn), rigs.in_use(conn)
    if rows:
        return replace(i, calibration=calibration_of(rows, checked(i), units, w.stamp(), person))
    now = used.set_up.instrument if used is not None and used.set_up.rig == rig.strip() else None
    same = now is not None and (now.dimension, now.nominal) == (i.dimension, i.nominal)
    if rows is None and now is not None and same:
        return replace(i, calibration=now.calibration)
    return i


def calibration_of(rows: Sequence[tuple[str, str]], i: Instrument, units: Units, at: str, who: str) -> Calibration:
    """A calibration from known weights and what was shown, as typed."""
    points: list[tuple[float, float]] = []
    for n, (known, shown) in enumerate(rows):
        field = f"calibration.{n}"
        try:
            real = parse(known, Dimension.FORCE, units.symbol(Dimension.FORCE)).base
        except Refusal as refusal:
            raise refuse(field, refusal.problems[0].message, refusal.problems[0].remedy) from refusal
        points.append((real, _typed(shown, i, units, field) * i.nominal))
    return Calibration(tuple(points), at, who)


# State of the rig ----------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class RigState:
    """What to know of the rig in use before a break.

    ``capacity`` and ``step`` are in the base unit of what it measures; the load on the piece is ``factor`` x what is
    shown + ``offset_n`` (``plain``: the same). ``drift`` (share) is that of the last check weight, ``drifted`` whether
    it is too much; since ``overload_at`` nobody looked it over. ``line`` is the calibration worked out, its residuals
    in the order of its points.
    """

    measures: str
    unit: str
    dimension: str
    capacity: float
    step: float
    factor: float
    offset_n: float
    plain: bool
    words: list[str]
    checked_at: str | None
    drift: float | None
    drifted: bool
    overload_at: str | None
    overload_code: str
    line: Line | None


def state(conn: sqlite3.Connection, s: SetUp, units: Units) -> RigState:
    """How the rig stands."""
    i = s.instrument
    check = next((e for e in reversed(rigs.events(conn, s.rig, "check")) if e.setup_id == s.id), None)
    drift = i.drift(check.known_n, check.shown) if check and check.known_n and check.shown is not None else None
    off_n = abs(drift) * check.known_n if drift is not None and check and check.known_n else 0.0
    overload = _overload(conn, s)
    travel = i.measures is Measures.TRAVEL
    newtons = 1.0 if travel else i.factor
    return RigState(
        measures=i.measures.value,
        unit=i.unit,
        dimension=i.dimension.value,
        capacity=s.capacity_n / newtons,
        step=s.resolution_n / newtons,
        factor=0.0 if travel else i.factor,
        offset_n=i.offset_n,
        plain=i.is_plain,
        words=in_words(i, units),
        checked_at=check.at if check else None,
        drift=drift,
        drifted=drift is not None and abs(drift) > DRIFT_SHARE and off_n > 2 * s.resolution_n,
        overload_at=overload[0] if overload else None,
        overload_code=overload[1] if overload else "",
        line=i.calibration.line if i.calibration else None,
    )


def _overload(conn: sqlite3.Connection, s: SetUp) -> tuple[str, str] | None:
    last = rigs.last_overload(conn, s.rig)
    looked = rigs.events(conn, s.rig, "inspected")
    return last if last and not any(e.at >= last[0] for e in looked) else None


def in_words(i: Instrument, units: Units) -> list[str]:
    """How the load on the piece follows from what is shown."""
    said: list[str] = []
    if i.piston_mm2 and i.measures is Measures.PRESSURE:
        said.append(f"pressure on a piston of {units.text(i.piston_mm2, Dimension.AREA)}")
    if i.arm_mm and i.measures is Measures.MOMENT:
        said.append(f"moment at an arm of {units.typed(i.arm_mm, Dimension.LENGTH)}")
    if i.measures is Measures.TRAVEL:
        said.append("travel: it gives no load")
    if i.lever != 1:
        said.append(f"lever {i.lever:g} : 1")
    if i.tare_n:
        said.append(f"{units.typed(i.tare_n, Dimension.FORCE)} hang there anyhow, and count")
    if i.own_n and i.own_at:
        way = "against the load" if i.own_at < 0 else "with the load"
        adds = units.text(abs(i.own_n * i.own_at), Dimension.FORCE)
        said.append(f"the lever's own weight acts {way}: {adds} at the load point")
    if i.calibration:
        line, n = i.calibration.line, len(i.calibration.points)
        offset = f" and {units.text(line.offset_n, Dimension.FORCE)} more" if line.offset_n else ""
        said.append(f"calibrated with {n} known weight{'s' * (n != 1)}: × {line.factor:.4f}{offset}")
    return said


def ask(conn: sqlite3.Connection, s: SetUp | None, units: Units, doubts: Doubts) -> list[str]:
    """Ask about a rig that was overloaded and not looked over since; returns what is to be flagged of a reading made
    with it.
    """
    if s is None:
        return []
    now = state(conn, s, units)
    if now.overload_at is not None:
        message = f"{s.rig} was at the end of its range with {now.overload_code}, and nobody has looked it over since"
        remedy = "Look for bent parts and check its zero, then say so; or go on: the reading will be flagged."
        doubts.ask(NOT_LOOKED_OVER, message, remedy)
    return [NOT_LOOKED_OVER] * (now.overload_at is not None) + [DRIFTED] * now.drifted


def tell(
    w: AppContext, kind: str, person: str, key: str | None, *, known: str = "", shown: str = "", note: str = "",
    at: datetime | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Write down of the rig in use that a check weight was read (``known`` and ``shown`` as typed), or that it was
    looked over.
    """

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        s, units = need_set_up(conn).set_up, shop.units(conn)
        event = RigEvent(s.rig, s.id, kind, iso(at or w.now()), note=note.strip(), person=person)
        if kind == "check":
            if s.instrument.measures is Measures.TRAVEL:
                raise refuse("known", "a rig that measures travel has no check weight", "Leave it.")
            real = parse(known, Dimension.FORCE, units.symbol(Dimension.FORCE)).base
            if real <= 0:
                raise refuse("known", "the check weight weighs nothing", "Type what it weighs, like 25 kg.")
            event = replace(event, known_n=real, shown=_typed(shown, s.instrument, units, "shown"))
        return {"id": rigs.add_event(conn, event, action_id)}

    said = "Read a check weight" if kind == "check" else "Looked the rig over"
    return w.perform(Act("shop", f"rig {kind}", said, None, person, note, key=key, request=f"{known}{shown}{note}{at}"),
                     body)  # fmt: skip


@dataclass(frozen=True)
class ReadLine:
    """A line as it came, what is read in it (``None``: nothing), and the load on the piece, N."""

    text: str
    shown: float | None
    load_n: float | None


@dataclass(frozen=True)
class Preview:
    """The last lines, oldest first."""

    lines: list[ReadLine]


def preview(w: AppContext, i: Instrument, pattern: str, lines: Sequence[str] = ()) -> Preview:
    """How the last lines of the rig in use (or these) would be read by an instrument and a pattern."""
    read, _ = line_reader(pattern), unit(i.unit, i.dimension)
    try:
        found = [(text[:MAX_LINE], read(text)) for text in (lines or w.rig.tail())]
    except TooSlow as error:
        raise refuse(
            "pattern", "takes too long with these lines", "Use a simpler one, or the column's number."
        ) from error
    return Preview([
        ReadLine(text, line.force, _on_piece(i, line.force)) if line else ReadLine(text, None, None)
        for text, line in found
    ])  # fmt: skip


def _on_piece(i: Instrument, shown: float) -> float | None:
    load = shown * i.signal_factor + i.carried_n
    return load if math.isfinite(load) else None
