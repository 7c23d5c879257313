"""Break: the queue in random order, pulls on the rig, and what was observed."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, replace
from operator import attrgetter
from typing import Any

from adhaero.core.materials.wood import WOODS
from adhaero.core.method import FAILURE_NAMES
from adhaero.core.observation import Kind, Observation, checked
from adhaero.core.plan.document import Level
from adhaero.core.quantity import BASE, Dimension, shown
from adhaero.core.refusal import refuse
from adhaero.rig import fate
from adhaero.store import actions, breaks, curves, shop
from adhaero.store.breaks import Pull
from adhaero.store.specimens import Specimen
from adhaero.workflow.breaking.rig_session import thin
from adhaero.workflow.facts import Facts, find_piece, load
from adhaero.workflow.workshop import Act, NotFound, Workshop, iso


@dataclass(frozen=True)
class BreakRow:
    """A piece in the queue, or broken. ``figure_low`` and ``figure_high`` bound its figure of merit."""

    code: str
    treatment: str
    label: str
    role: str
    break_order: int
    part: str
    area_mm2: float
    form: str
    orientation: str
    measured: bool
    ready: str | None
    due_at: str | None
    kind: str | None
    low_n: float | None
    high_n: float | None
    held_s: float | None
    figure_low: float | None
    figure_high: float | None
    uncertainty: float | None
    failure_mode: str | None
    wood_failure_pct: float | None
    note: str
    reason: str
    pull_id: int | None


@dataclass(frozen=True)
class LoosePull:
    """A pull without a result: interrupted by a crash, or ended and not yet judged."""

    pull: Pull
    code: str


@dataclass(frozen=True)
class BreakView:
    """The break stage: ``rows`` in the random order; ``next`` is the first piece without an observation."""

    batch_id: int
    name: str
    method: str
    figure_name: str
    rows: list[BreakRow]
    next: str | None
    done: int
    loose: list[LoosePull]
    failure_modes: list[tuple[str, str]]
    cautions: list[str]
    fixture: str
    rig: str
    capacity_n: float | None
    working_share: float
    simulated: bool
    loadless: bool


def _ready(facts: Facts, s: Specimen, w: Workshop) -> tuple[str | None, str | None]:
    """Why a joint should not be broken yet (``None``: it may), and when its cure time is reached."""
    if s.role == "solid":
        return None, None
    member = facts.members.get(s.id)
    if member is None:
        return "not glued yet", None
    due, (wet, dry) = facts.due_at(s), facts.conditioning(s)
    if s.id not in facts.unclamped:
        return "still in the clamp", iso(due)
    if wet and (s.id, "in") not in facts.conditioned:
        return "not conditioned yet", iso(due)
    if dry and (s.id, "out") not in facts.conditioned:
        return "still in its conditioning", iso(due)
    late = "its conditioning is not over" if wet else "its cure time is not over"
    return (late if w.now() < due else None), iso(due)


def _row(facts: Facts, s: Specimen, ready: str | None, due: str | None) -> BreakRow:
    t, o = facts.treatments[s.treatment_id], facts.observed.get(s.id)
    scale = facts.per_newton(s.id)
    seen = o.observation if o else None
    return BreakRow(
        code=s.code,
        treatment=t.letter,
        label=t.label,
        role=s.role,
        break_order=facts.place(s),
        part=facts.part(s),
        area_mm2=facts.area_mm2(s),
        form=facts.form(s).key,
        orientation=s.orientation,
        measured=facts.is_measured(s.id),
        ready=ready,
        due_at=due,
        kind=seen.kind.value if seen else None,
        low_n=seen.low_n if seen else None,
        high_n=seen.high_n if seen else None,
        held_s=seen.held_s if seen else None,
        figure_low=seen.low_n * scale if seen and seen.low_n is not None else None,
        figure_high=seen.high_n * scale if seen and seen.high_n is not None else None,
        uncertainty=facts.uncertainty(s.id, seen.low_n) if seen and seen.low_n else None,
        failure_mode=seen.failure_mode if seen else None,
        wood_failure_pct=seen.wood_failure_pct if seen else None,
        note=seen.note if seen else "",
        reason=seen.reason if seen else "",
        pull_id=o.pull_id if o else None,
    )


def view(w: Workshop, batch_id: int) -> BreakView:
    """The queue, what is broken, and the rig."""
    with w.db.read() as conn:
        facts = load(w, conn, batch_id)
        rig, setup = shop.rig(conn), shop.set_up(conn)
        code = {s.id: s.code for s in facts.pieces}
        loose = [LoosePull(p, code[p.specimen_id]) for p in breaks.loose_pulls(conn, batch_id)]
    rows = []
    for s in facts.to_break:
        ready = (None, None) if s.id in facts.observed else _ready(facts, s, w)
        rows.append(facts.row("break", s, _row, *ready))
    rows.sort(key=attrgetter("break_order"))
    return BreakView(
        batch_id=batch_id,
        name=facts.batch.name,
        method=facts.plan.method,
        figure_name=facts.method.figure_name,
        rows=rows,
        next=next((r.code for r in rows if r.kind is None), None),
        done=sum(r.kind is not None for r in rows),
        loose=loose,
        failure_modes=[(k, FAILURE_NAMES[k]) for k in facts.method.failure_modes],
        cautions=list(facts.method.cautions),
        fixture=setup.fixture if setup else "",
        rig=rig.name if rig else "",
        capacity_n=rig.capacity_n if rig else None,
        working_share=rig.working_share if rig else 0.8,
        simulated=w.hand_port is not None,
        loadless=facts.method.loadless,
    )


def begin_pull(w: Workshop, batch_id: int, code: str, person: str, key: str | None) -> dict[str, Any]:
    """Begin to record a pull of a piece. Out of turn is allowed. Returns the pull's id."""
    begun: list[tuple[int, str]] = []

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        w.rig.ready()
        facts = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, facts, code)
        if piece.id in facts.observed:
            raise refuse("code", f"{piece.code} is already broken", "Undo its result first, or take the next piece.")
        if facts.method.loadless:
            raise refuse("pull", "this method has no load to record", "Say how the piece gave way.")
        setup = shop.set_up(conn)
        if setup is None:
            raise refuse("rig", "the rig has no set-up yet", "Name the fixture under Shop.")
        pull_id = breaks.open_pull(conn, piece.id, setup.id, w.stamp(), action_id)
        begun.append((pull_id, piece.code))
        return {"id": pull_id}

    act = Act("break", "pull", f"Began to pull {code}", batch_id, person, key=key, request=code, undoable=False)
    answer = w.perform(act, body)
    if begun:
        w.rig.begin(*begun[0])
    return answer


def discard_pull(w: Workshop, batch_id: int, pull_id: int, reason: str, person: str, key: str | None) -> dict[str, Any]:
    """Set a pull aside: it stays on record, and its piece goes back into the queue."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        found = breaks.pull(conn, pull_id)
        if found is None:
            raise NotFound(f"There is no pull {pull_id}.")
        if found.state == "open":
            raise refuse("pull", "this pull is still going on", "End it first.")
        breaks.end_pull(conn, pull_id, "discarded", None, w.stamp())
        return {"id": pull_id}

    act = Act(
        "break", "discard", "Set a pull aside", batch_id, person, reason, key=key, request=str(pull_id), undoable=False
    )
    answer = w.perform(act, body)
    w.rig.forget(pull_id)
    return answer


def _from_trace(pull: Pull | None, o: Observation) -> tuple[Observation, float | None]:
    """Fill in from the trace what was not typed; returns the first crack too."""
    proposal = pull.proposal if pull else None
    if proposal is None:
        return o, None
    if o.low_n is None and o.kind in (Kind.EXACT, Kind.AT_LEAST, Kind.HELD):
        peak = round(float(proposal["peak_n"]), 3)
        o = replace(o, low_n=peak, high_n=peak if o.kind is Kind.EXACT else None)
    return o, proposal.get("first_crack_n")


def _plausible(facts: Facts, piece: Specimen, o: Observation) -> None:
    method, scale = facts.method, facts.per_newton(piece.id)
    top, dimension = method.plausible[1], method.figure_dimension
    for field, load_n in (("low_n", o.low_n), ("high_n", o.high_n)):
        if load_n is not None and load_n * scale > top:
            figure, most = (shown(v, BASE[dimension], dimension) for v in (load_n * scale, top))
            raise refuse(
                field,
                f"{shown(load_n, 'N', Dimension.FORCE)} on this piece would be {figure}; no joint bears over {most}",
                "Check the unit of the load, and the measured sizes.",
            )


def observe(
    w: Workshop,
    batch_id: int,
    code: str,
    o: Observation,
    *,
    pull_id: int | None,
    source: str,
    person: str,
    key: str | None,
) -> dict[str, Any]:
    """Write down how a piece ended. A load left empty is taken from the pull's trace.

    An observation of a piece that has one replaces it; the old one stays on record. Returns the next piece's code.
    """

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        facts = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, facts, code)
        pull = breaks.pull(conn, pull_id) if pull_id is not None else None
        if pull_id is not None and (pull is None or pull.specimen_id != piece.id):
            raise refuse("pull_id", f"this pull is not one of {piece.code}", "Begin a pull of this piece.")
        if pull is not None and pull.state == "open":
            raise refuse("pull_id", "the pull is still going on", "End it first.")
        seen, crack = _from_trace(pull, o)
        if seen.kind is Kind.FELL_APART:
            seen = replace(seen, low_n=0.0, high_n=0.0)
        checked(seen)
        if facts.method.loadless and seen.kind not in (Kind.SEEN, Kind.FELL_APART, Kind.VOID):
            raise refuse("kind", "this method has no load", "Choose how it gave way, fell apart, or does not count.")
        _plausible(facts, piece, seen)
        setup = shop.set_up(conn)
        breaks.add_observation(
            conn,
            piece.id,
            seen,
            source=source,
            now=w.stamp(),
            person=person,
            pull_id=pull_id,
            setup_id=pull.setup_id if pull else (setup.id if setup else None),
            first_crack_n=crack,
            action_id=action_id,
        )
        queue = sorted((s for s in facts.to_break if s.id not in facts.observed), key=facts.place)
        following = next((s.code for s in queue if s.id != piece.id), None)
        turn = len(facts.observed) + 1
        if piece in queue and piece is not queue[0]:
            # Departures from the random order are allowed, and on record.
            note = f"Broke {piece.code} out of turn: planned as number {facts.place(piece)}, broken as number {turn}"
            actions.say(conn, action_id, note)
        return {"code": piece.code, "next": following}

    act = Act(
        "break", "observe", f"Broke {code}", batch_id, person, key=key, request=f"{code}{o}{pull_id}",
        after={"kind": o.kind.value, "low_n": o.low_n},
    )  # fmt: skip
    answer = w.perform(act, body)
    if pull_id is not None:
        w.rig.forget(pull_id)
    return answer


@dataclass(frozen=True)
class Curve:
    """A pull's curve, zero-corrected: (s, N) with its marks in the proposal."""

    pull_id: int
    state: str
    points: list[tuple[float, float]]
    proposal: dict[str, Any] | None


def curve(w: Workshop, pull_id: int) -> Curve:
    """The curve of a pull, thinned for drawing so that no peak is lost."""
    with w.db.read() as conn:
        found = breaks.pull(conn, pull_id)
        if found is None:
            raise NotFound(f"There is no pull {pull_id}.")
        rows = curves.curve(conn, pull_id)
    zero = float(found.proposal["zero"]["mean_n"]) if found.proposal else 0.0
    points = [(round(float(t), 4), round(float(f) - zero, 3)) for t, f in rows[:, :2]]
    return Curve(pull_id, found.state, thin(points, 1500), found.proposal)


def piece_for_stand_in(w: Workshop, batch_id: int, code: str) -> fate.Piece:
    """What the simulated rig is told about a piece: what a person would see on the label and in the record."""
    with w.db.read() as conn:
        facts = load(w, conn, batch_id)
        s = find_piece(conn, facts, code)
        gap = facts.level(s, "gap_mm")
        wood = WOODS.get(s.species_a, WOODS["ash"])
        sizes = facts.sizes(s.id)
        strongest_n = facts.method.solid_figure(wood, sizes) / facts.method.per_newton(sizes)
    return fate.Piece(
        solid_n=strongest_n,
        species=s.species_a,
        glue=s.glue or "none",
        prep=s.prep,
        pressure_mpa=s.pressure_mpa or 0.0,
        clamp_s=s.clamp_s or 0.0,
        cure_s=s.cure_s or 0.0,
        gap_mm=float(gap.value) if gap is not None and isinstance(gap.value, float | int) else 0.0,
        conditioning=_word(facts.level(s, "conditioning")),
        orientation=s.orientation,
        solid=s.role == "solid",
    )


def _word(level: Level | None) -> str:
    return level.value if level is not None and isinstance(level.value, str) else ""
