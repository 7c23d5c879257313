"""Curves that a logger left in a file: looked at first, then taken as a pull of a piece, all or nothing."""

from __future__ import annotations

import sqlite3
import zlib
from dataclasses import dataclass, replace
from typing import Any

from adhaero.core.breaking import curve_file
from adhaero.core.breaking.curve_file import Array, Columns, FirstLook
from adhaero.core.breaking.instrument import Instrument, Measures
from adhaero.core.breaking.proposal import BOUNDS, Proposal, judged, propose
from adhaero.core.breaking.trace import course, thin
from adhaero.core.plan.codes import read_code
from adhaero.core.quantity import unit
from adhaero.core.refusal import Refusal, refuse
from adhaero.store import curves, pulls, rigs, specimens
from adhaero.store.rigs import SetUp
from adhaero.workflow.context import Act, AppContext
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.record_loading import load
from adhaero.workflow.rigs import need_set_up

SHOWN = 6
POINTS = 800
CHUNK = 20_000


@dataclass(frozen=True)
class CurveLook:
    """A file as it is understood: its heads and first rows, the columns, and what its curve shows, or why it cannot be
    read (``trouble``). Loads are those on the piece, N; ``bound`` says why the load is not exact (empty: it is), and
    ``low_n`` and ``high_n`` between which limits it lies.
    """

    heads: list[str]
    rows: list[list[str]]
    count: int
    columns: Columns
    trouble: str
    seconds: float
    rate_hz: float
    peak_n: float
    peak_s: float
    first_drop_n: float | None
    broke: bool
    bound: str
    low_n: float | None
    high_n: float | None
    start_n: float
    off: bool
    points: list[tuple[float, float]]


def look(w: AppContext, text: str, columns: Columns | None) -> CurveLook:
    """How a file would be read; without ``columns`` as its heads suggest. Writes nothing."""
    t = curve_file.table(text)
    with w.db.read() as conn:
        used = rigs.in_use(conn)
    i = used.set_up.instrument if used else Instrument()
    c = columns or _able(curve_file.guess(t), i)
    shown = CurveLook(list(t.heads), [list(r) for r in t.rows[:SHOWN]], len(t.rows), c, "", 0, 0, 0, 0, None, False,
                      "", None, None, 0, False, [])  # fmt: skip
    try:
        rows = curve_file.read(t, c, i)
        seen = curve_file.first_look(rows, used.set_up.resolution_n if used else 1.0)
        found = _judged(rows, seen, used.set_up if used else None)
    except Refusal as refusal:
        said = "; ".join(f"{p.field}: {p.message}. {p.remedy}" for p in refusal.problems[:3])
        return replace(shown, trouble=said)
    r = found.reading
    return replace(
        shown, seconds=r.seconds, rate_hz=seen.rate_hz, peak_n=r.peak_n, peak_s=r.peak_s, broke=r.broke,
        first_drop_n=r.first_crack_n, bound=BOUNDS.get(found.bound_by or "", ""),
        low_n=found.low_n, high_n=found.high_n, start_n=seen.start_n, off=seen.is_off,
        points=[(a, b) for a, b in thin(rows[:, :2], POINTS).tolist()],
    )  # fmt: skip


def _judged(rows: Array, seen: FirstLook, s: SetUp | None) -> Proposal:
    capacity_n, step_n = (s.capacity_n, s.resolution_n) if s else (None, 1.0)
    proposal = propose(seen.reading, capacity_n)
    assert proposal is not None
    return judged(proposal, rows, step_n, capacity_n)


def _able(c: Columns, i: Instrument) -> Columns:
    """With a unit of load that the instrument knows: its own where the file names none."""
    try:
        unit(c.load_unit, i.dimension)
    except Refusal:
        return replace(c, load_unit=i.unit)
    return c


def take(w: AppContext, code: str, text: str, c: Columns, person: str, key: str | None) -> dict[str, Any]:
    """Take a file as a pull of a piece, of any batch; it waits to be judged like one at the rig. Returns its batch."""
    with w.db.read() as conn:
        found = specimens.find_code(conn, read_code(code))
        s = need_set_up(conn).set_up
    if found is None:
        raise refuse("code", f"there is no piece {code}", "Read the label again.")
    if s.instrument.measures is Measures.TRAVEL:
        raise refuse("rig", f"{s.rig} measures travel: it gives no load", "Use another rig: under Shop.")
    rows = curve_file.read(curve_file.table(text), c, s.instrument)
    proposal = _judged(rows, curve_file.first_look(rows, s.resolution_n), s)
    proposal = replace(proposal, course=course(rows, proposal.reading))

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, found[1], action_id)
        piece = find_piece(conn, record, code)
        if record.method.loadless:
            raise refuse("code", "its method has no load to record", "Say how the piece gave way.")
        pull_id = pulls.add_ended(conn, piece.id, s.id, w.stamp(), proposal.to_json(), action_id)
        for n, at in enumerate(range(0, len(rows), CHUNK)):
            curves.append(conn, pull_id, n, rows[at : at + CHUNK])
        return {"id": found[1]}

    request = f"{code}{c}{zlib.crc32(text.encode())}"
    act = Act("break", "curve", f"Took a curve of {code} from a file", found[1], person, key=key, request=request,
              undoable=False)  # fmt: skip
    return w.perform(act, body)
