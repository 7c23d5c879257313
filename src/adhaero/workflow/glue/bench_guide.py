"""The guide at the bench: what to lay out for a run, what joints in clamps wait for, and the limits of the glue."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from adhaero.core.glue.clamping import force_n
from adhaero.core.glue.limits import SIZED_WAIT_S, Limits, joints_per_mix, limits
from adhaero.core.glue.pressing import CLAMPLESS, PRESSED
from adhaero.core.materials.bottle import BottleEvent, state
from adhaero.core.materials.glue import GLUES
from adhaero.core.plan.document import Level
from adhaero.core.quantity import Dimension
from adhaero.core.units import Units
from adhaero.store import bottles, clamps, glueups
from adhaero.store.bottles import Bottle, StoredEvent
from adhaero.store.glueups import Event, OpenMix
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import AppContext, iso, moment
from adhaero.workflow.glue.demand import FREE, clamp_labels, unglued
from adhaero.workflow.glue.gluing import holds
from adhaero.workflow.glue.tasks import FORGOTTEN, Task, tasks
from adhaero.workflow.glue.working_hours import working_hours
from adhaero.workflow.piece_records import piece_record
from adhaero.workflow.record_loading import load

USUAL_SPREAD_G_M2 = 180.0
WASTE = 1.5
FEW = 12
Place = tuple[str, tuple[int, ...], int]
"""A kind of clamp and the numbers of those on a joint."""
NOWHERE: Place = ("", (), 0)


@dataclass(frozen=True)
class GuidePiece:
    """A joint of the run, or a panel with its ``sections``: ``force_n`` is what must press on it, ``together`` the
    joints side by side in its clamp, ``clamps`` the clamps along its line, which share the force; ``pressed_by`` says
    in words what presses it instead.

    ``coat``: it wants a first thin coat, ``coat_at`` it got one. ``stands_s`` is how long it is to stand open, by plan.
    """

    code: str
    sections: int
    parent: str
    treatment: str
    label: str
    orientation: str
    form: str
    area_mm2: float
    force_n: float | None
    clamp: str
    pressed_by: str
    together: int
    clamps: int
    coat: bool
    coat_at: str | None
    stands_s: float | None
    steps: list[StepAtBench]
    spread_at: str | None
    closed_at: str | None
    notes: list[str]


@dataclass(frozen=True)
class StepAtBench:
    """A step of the protocol on the joint at the bench: what was said of it, when, and its wait and hold in s."""

    id: str
    text: str
    state: str
    at: str | None
    wait_s: float | None
    within_s: float | None


@dataclass(frozen=True)
class TaskView:
    """What joints in or out of clamps wait for at the bench, and the clamps they are in."""

    kind: str
    at: str
    codes: list[str]
    clamps: list[str]
    what: str
    glueup: int


@dataclass(frozen=True)
class BenchBottle:
    """A bottle to choose, what it holds, and what speaks against it."""

    label: str
    holds: str
    doubts: str


@dataclass(frozen=True)
class Guide:
    """A run at the bench. ``open_s`` and ``pot_s`` hold for the bottle and the air of the mix (or those asked for)."""

    batch_id: int
    name: str
    method: str
    run: int
    glue: str
    glue_name: str
    open_s: float | None
    pot_s: float | None
    limits_text: str
    coat_wait_s: float
    joints_per_mix: int | None
    grams: float
    pieces: list[GuidePiece]
    mixed_at: str | None
    mix_key: str | None
    glueup: int | None
    bottles: list[BenchBottle]
    force_known: str | None
    left: int
    tasks: list[TaskView]


def guide(
    w: AppContext, batch_id: int, run: int | None = None, bottle: str | None = None, air_c: float | None = None
) -> Guide:
    """The run to glue now: the one that was begun, else the next of the schedule, else what one pot of glue allows.

    ``bottle`` and ``air_c`` are those of a mix not made yet: the limits are shown for them. No bottle is chosen for
    anybody.
    """
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        kept = clamps.schedule(conn, batch_id)
        labels = clamp_labels(clamps.clamps(conn))
        known, went = {b.label: b for b in bottles.bottles(conn)}, bottles.events(conn)
        mix, usual = glueups.open_mix(conn, batch_id, iso(w.now() - FORGOTTEN)), working_hours(conn)
        number, codes, places = _run(record, kept.document if kept else None, run, mix)
        pieces = [record.of_code(c)[0] for c in codes]
    family = pieces[0].glue if pieces else ""
    of_family, _ = record.glue_of(family, known.get(family))
    glue = GLUES.get(of_family)
    product = record.plan.products.get(family)
    named = [b for b in known.values() if b.label == family or (product and b.id == product.bottle)]
    able = named or [b for b in known.values() if b.family == of_family] or list(known.values())
    air = mix.air_c if mix else air_c
    found = _limits(record, family, known, mix.bottle if mix else bottle or "", usual.air_c if air is None else air)
    shared = [places.get(c, NOWHERE) for c in codes]
    return Guide(
        batch_id=batch_id,
        name=record.batch.name,
        method=record.plan.method,
        run=number,
        glue=family,
        glue_name=glue.name if glue else family,
        open_s=found.open_s,
        pot_s=found.pot_s,
        limits_text=_in_words(found, record.units),
        coat_wait_s=SIZED_WAIT_S,
        joints_per_mix=joints_per_mix(found, usual.pace.joint_s, usual.pace.mix_s),
        grams=sum(_grams(record, s) for s in pieces),
        pieces=[
            _piece(record, s, _clamp(place, labels), shared.count(place) if place[0] else 1, len(place[1]) or 1)
            for s, place in zip(pieces, shared, strict=True)
        ],
        mixed_at=mix.at if mix else None,
        mix_key=mix.key if mix else None,
        glueup=mix.number if mix else None,
        bottles=[BenchBottle(b.label, holds(b.family), _doubts(b, went.get(b.id, []), w.now())) for b in able],
        force_known=mix.force_known if mix else None,
        left=len(record.as_units(unglued(record))),
        tasks=[_task(record, t, labels) for t in tasks(record, w.now())],
    )


def _doubts(b: Bottle, events: list[StoredEvent], now: datetime) -> str:
    """What to know of a bottle before it is used: past its date, frozen, thickened."""
    past = (now.date() - date.fromisoformat(b.expires_on)).days if b.expires_on else 0
    said = [f"past its date by {past} days"] if past > 0 else []
    went = state([BottleEvent(e.kind, moment(e.at), e.note) for e in events], now)
    return ", ".join([*said, *([went] if went else [])])


def _limits(record: BatchRecord, family: str, known: dict[str, Bottle], label: str, air_c: float | None) -> Limits:
    bottle = known.get(label)
    return limits(*record.glue_of(family, bottle), air_c)


def _in_words(found: Limits, units: Units) -> str:
    """Where the limits come from."""
    source = "the label's figures" if found.stated & {"open_s", "pot_s"} else "usual for the glue; the label wins"
    cold = ""
    if found.least_c is not None and found.at_c < found.least_c:
        cold = f" Its label wants {units.text(found.least_c, Dimension.TEMPERATURE)} at least."
    return f"At {units.text(found.at_c, Dimension.TEMPERATURE)}, {source}.{cold}"


def _run(
    record: BatchRecord, schedule: dict[str, Any] | None, wanted: int | None, mix: OpenMix | None
) -> tuple[int, list[str], dict[str, Place]]:
    """(run, codes in order, code -> place) of what is glued now."""
    waiting = {record.unit_code(s): s for s in unglued(record)}
    places: dict[str, Place] = {}
    runs: list[tuple[int, list[str]]] = []
    if schedule is not None:
        places = {
            c["code"]: (c["clamp"], (c["number"], *c.get("also", ())), int(c.get("dummies", 0)))
            for c in schedule["courses"]
        }
        runs = [(s["run"] + 1, list(s["codes"])) for s in schedule["slots"] if s["kind"] == "glue"]
    if mix is not None:
        number = next((n for n, codes in runs if set(codes) & set(mix.codes)), 0)
        return number, mix.codes, places
    for number, codes in runs:
        left = [c for c in codes if c in waiting]
        if left and wanted in (None, number):
            return number, left, places
    return 0, _by_hand(record, waiting), places


def _by_hand(record: BatchRecord, waiting: dict[str, Specimen]) -> list[str]:
    """Without a schedule: the next joints of one glue in the random order, a dozen at most, none that has to be glued
    apart from the others.
    """
    ordered = sorted(waiting.items(), key=lambda x: x[1].glue_order)
    alike = [(code, s.glue, record.apart(s)) for code, s in ordered]
    return [code for code, *own in alike if own == list(alike[0][1:])][:FEW]


def _grams(record: BatchRecord, s: Specimen) -> float:
    spread, faces = record.level(s, "spread_g_m2"), record.level(s, "faces")
    rate = float(spread.value) if spread is not None and isinstance(spread.value, float | int) else USUAL_SPREAD_G_M2
    both = 2 if faces == Level("both") else 1
    return record.spread_mm2(s) * 1e-6 * rate * both * WASTE


def _clamp(place: Place, labels: dict[str, str]) -> str:
    kind, numbers, dummies = place
    if kind.startswith(FREE):
        return labels[kind]
    beside = f", beside {dummies} {'dummy' if dummies == 1 else 'dummies'}" if dummies else ""
    return f"{labels[kind]} {', '.join(str(n) for n in numbers)}{beside}" if kind in labels else ""


def _piece(record: BatchRecord, s: Specimen, clamp: str, together: int, clamps: int) -> GuidePiece:
    t, area = record.treatments[s.treatment_id], record.spread_mm2(s)
    own = record.as_one(s)
    open_s, closed = record.level(s, "open_s"), record.closed.get(s.id)
    coat, spread = record.last(s.id, "coat"), record.last(s.id, "spread")
    means = record.pressed_by(s)
    return GuidePiece(
        code=record.unit_code(s),
        sections=len(own) if len(own) > 1 else 0,
        parent=record.home_in_words(s),
        treatment=t.letter,
        label=t.label,
        orientation=s.orientation,
        form=record.form(s).key,
        area_mm2=area,
        force_n=None
        if s.pressure_mpa is None or means in CLAMPLESS
        else force_n(s.pressure_mpa, record.pressed_mm2(s)),
        clamp="" if means in CLAMPLESS else clamp,
        pressed_by=PRESSED.get(means, ""),
        together=together,
        clamps=clamps,
        coat=s.prep == "sized",
        coat_at=coat.at if coat else None,
        stands_s=float(open_s.value) if open_s is not None and isinstance(open_s.value, float | int) else None,
        steps=[
            StepAtBench(m.step.id, m.step.text, m.state, iso(m.at) if m.at else None, m.step.wait_s, m.step.within_s)
            for m in piece_record(record, s).protocol
        ],
        spread_at=spread.at if spread else None,
        closed_at=closed.at if closed else None,
        notes=[e.note for e in record.joint_records.get(s.id, ()) if e.kind == "note"],
    )


def _task(record: BatchRecord, t: Task, labels: dict[str, str]) -> TaskView:
    used = [_own_clamp(record.closed.get(record.of_code(c)[0].id), labels) for c in t.codes]
    return TaskView(t.kind, t.at, list(t.codes), sorted({c for c in used if c}), t.what, t.glueup)


def _own_clamp(closed: Event | None, labels: dict[str, str]) -> str:
    """The clamp that a joint was closed in, where the bench took it down."""
    if closed is None or closed.value.get("clamp") not in labels:
        return ""
    return _clamp((closed.value["clamp"], (closed.value["number"], *closed.value.get("also", ())), 0), labels)


def scheduled_clamp(conn: sqlite3.Connection, batch_id: int, code: str) -> dict[str, Any]:
    """The clamp that the schedule gives a joint; empty without one."""
    kept = clamps.schedule(conn, batch_id)
    course = next((c for c in kept.document["courses"] if c["code"] == code), None) if kept else None
    return {k: course[k] for k in ("clamp", "number", "also") if course.get(k)} if course else {}
