"""Reading the record of a batch: once, and then only what was touched since."""

from __future__ import annotations

import sqlite3
from collections.abc import Hashable, Sequence
from dataclasses import replace
from typing import Any, NamedTuple, TypedDict, TypeVar

from adhaero.core.breaking.proposal import Proposal
from adhaero.core.observation import Kind
from adhaero.core.plan.document import Level, method_of
from adhaero.core.units import Units
from adhaero.store import actions, bottles, glueups, observations, parents, pulls, rigs, shop, specimens
from adhaero.store.bottles import Bottle, StoredEvent
from adhaero.store.glueups import Event, Member
from adhaero.store.observations import Observed
from adhaero.store.rigs import SetUp
from adhaero.store.specimens import Measured, Specimen
from adhaero.workflow.batch_record import BatchRecord, Part
from adhaero.workflow.context import AppContext, need_batch, need_locked

FOLLOWING = frozenset({"planned", "compared", "_codes", "ids"})
"""What a record works out of its plan and its list of pieces alone."""
MOST_PATCHED = 300
"""Touched pieces above which reading all of them is as quick."""
T = TypeVar("T")


def load(w: AppContext, conn: sqlite3.Connection, batch_id: int, before: int | None = None) -> BatchRecord:
    """The record of a locked batch; ``Refusal`` while its plan is a draft.

    Everything in it is caused by an action, so a record loaded once holds until the next action, and then only the
    pieces that it touched are read again. ``before`` is the action that is being carried out, and that has changed
    nothing yet.
    """

    def make(old: tuple[Hashable, BatchRecord] | None) -> BatchRecord:
        if old is not None:
            patched = _patched(conn, old[1], since=old[0], now=stands, before=before)
            if patched is not None:
                return patched
        return fresh(conn, batch_id)

    stands = version(conn, before)
    return w.cached(("facts", batch_id), stands, make)


def version(conn: sqlite3.Connection, before: int | None = None) -> Hashable:
    """Changes whenever facts may have changed: with every action."""
    return actions.last_id(conn, before)


def fresh(conn: sqlite3.Connection, batch_id: int) -> BatchRecord:
    """The facts as they are in this transaction, changes made in it included."""
    locked = need_locked(conn, batch_id)
    about = _about(conn, batch_id)
    amended: dict[int, dict[str, Level]] = {}
    drawn: dict[int, Event] = {}
    for e in glueups.events(conn, batch_id):
        if e.kind == "drawn":
            drawn[e.specimen_id] = e
        if e.kind == "amended":
            amended.setdefault(e.specimen_id, {}).update({k: Level(**v) for k, v in e.value.items()})
    return BatchRecord(
        batch=need_batch(conn, batch_id),
        plan=locked.plan,
        method=method_of(locked.plan),
        treatments={t.id: t for t in specimens.treatments(conn, batch_id)},
        pieces=[
            _as_amended(_as_drawn(s, drawn.get(s.id)), amended.get(s.id)) for s in specimens.specimens(conn, batch_id)
        ],
        parents={p.id: p for p in parents.parents(conn, batch_id)},
        glueups={g.id: g for g in glueups.glueups(conn, batch_id)},
        measured=about.measured,
        members=about.members,
        unclamped=about.unclamped,
        observed=about.observed,
        loadings=about.loadings,
        parts=about.parts,
        closed=about.closed,
        conditioned=about.conditioned,
        amended=amended,
        joint_records=about.joint_records,
        mixes=glueups.mixes(conn, batch_id),
        not_run=about.not_run,
        shown=about.shown,
        **_shared(conn),
    )


class _Shared(TypedDict):
    """What pieces draw on that belongs to the shop."""

    bottles: dict[str, tuple[Bottle, tuple[StoredEvent, ...]]]
    set_ups: dict[int, SetUp]
    units: Units


def _shared(conn: sqlite3.Connection) -> _Shared:
    went_through = bottles.events(conn)
    return {
        "bottles": {b.label: (b, tuple(went_through.get(b.id, ()))) for b in bottles.bottles(conn)},
        "set_ups": rigs.set_ups(conn),
        "units": shop.units(conn),
    }


def _as_drawn(s: Specimen, drawn: Event | None) -> Specimen:
    """A piece that was taken from store for an occasion: of the treatment that it was taken for, at its age."""
    if drawn is None:
        return s
    return replace(s, treatment_id=int(drawn.value["treatment"]), cure_s=drawn.value["cure_s"])


def _as_amended(s: Specimen, own: dict[str, Level] | None) -> Specimen:
    """A piece with the planned values that an amendment gave it in place of those written at the lock."""
    if not own:
        return s
    text = {k: str(own[k].value or "none") for k in ("glue", "orientation", "prep") if k in own}
    number = {k: own[k].value for k in ("pressure_mpa", "clamp_s", "cure_s") if k in own}
    return replace(s, **text, **number)  # type: ignore[arg-type]


class _About(NamedTuple):
    """What is read for each piece anew when it was touched."""

    measured: dict[int, dict[str, Measured]]
    members: dict[int, Member]
    unclamped: dict[int, Event]
    observed: dict[int, Observed]
    loadings: dict[int, tuple[Observed, ...]]
    parts: dict[int, Part]
    closed: dict[int, Event]
    conditioned: dict[tuple[int, str], Event]
    joint_records: dict[int, list[Event]]
    not_run: dict[int, str]
    shown: dict[int, Proposal]


_APART = ("drawn", "unclamped", "part", "closed", "conditioned", "amended", "not run")
"""Events that are kept apart; all others are what was told of a piece."""


def counted(loadings: Sequence[Observed], chosen: int | None) -> Observed:
    """The reading that counts of a piece that was loaded several times: the one that was chosen, else the last that
    broke, else the last.
    """
    own = next((o for o in loadings if o.loading == chosen), None)
    # Another reading of the same break counts only where it was chosen.
    firsts = [o for o in loadings if o.beside is None]
    strengths = [o for o in firsts if o.observation.kind is not Kind.PROOF]
    broke = (o for o in reversed(strengths) if o.observation.broke)
    return own or next(broke, (strengths or firsts or list(loadings))[-1])


def _about(conn: sqlite3.Connection, batch_id: int, only: set[int] | None = None) -> _About:
    measured: dict[int, dict[str, Measured]] = {}
    for m in specimens.measured(conn, batch_id, only):
        measured.setdefault(m.specimen_id, {})[m.quantity] = m
    events = glueups.events(conn, batch_id, only)
    said: dict[int, list[Event]] = {}
    for e in events:
        if e.kind not in _APART:
            said.setdefault(e.specimen_id, []).append(e)
    loadings: dict[int, list[Observed]] = {}
    for o in observations.standing(conn, batch_id, only):
        loadings.setdefault(o.specimen_id, []).append(o)
    chosen = {e.specimen_id: int(e.value["loading"]) for e in events if e.kind == "counts"}
    return _About(
        measured,
        {m.specimen_id: m for m in glueups.members(conn, batch_id, only)},
        {e.specimen_id: e for e in events if e.kind == "unclamped"},
        {i: counted(own, chosen.get(i)) for i, own in loadings.items()},
        {i: tuple(own) for i, own in loadings.items() if len(own) > 1},
        {e.specimen_id: Part(**e.value, reason=e.note) for e in events if e.kind == "part"},
        {e.specimen_id: e for e in events if e.kind == "closed"},
        {(e.specimen_id, e.value["way"]): e for e in events if e.kind == "conditioned"},
        said,
        {e.specimen_id: e.note for e in events if e.kind == "not run"},
        pulls.proposals(conn, batch_id, only),
    )


def _patched(
    conn: sqlite3.Connection, old: BatchRecord, *, since: Any, now: Any, before: int | None
) -> BatchRecord | None:
    """Older facts with the touched pieces read again; ``None`` where everything has to be read."""
    if since > now:
        return None
    batch_id = old.batch.id
    anywhere = actions.touched(conn, batch_id, since, before)
    touched = None if anywhere is None else anywhere & old.ids
    if touched is None or len(touched) > MOST_PATCHED:
        return None
    shared = _shared(conn)
    same = all(getattr(old, k) == v for k, v in shared.items())
    if not touched and same:
        return old
    new = _about(conn, batch_id, touched)

    def merged(kept: dict[int, T], read: dict[int, T]) -> dict[int, T]:
        result = dict(kept)
        for piece in touched:
            result.pop(piece, None)
        result.update(read)
        return result

    found = replace(
        old,
        measured=merged(old.measured, new.measured),
        members=merged(old.members, new.members),
        unclamped=merged(old.unclamped, new.unclamped),
        observed=merged(old.observed, new.observed),
        loadings=merged(old.loadings, new.loadings),
        parts=merged(old.parts, new.parts),
        closed=merged(old.closed, new.closed),
        conditioned={k: e for k, e in old.conditioned.items() if k[0] not in touched} | new.conditioned,
        joint_records=merged(old.joint_records, new.joint_records),
        glueups={g.id: g for g in glueups.glueups(conn, batch_id)},
        mixes=glueups.mixes(conn, batch_id),
        not_run=merged(old.not_run, new.not_run),
        shown={**old.shown, **new.shown},
        **shared,
        # What a row says may depend on a bottle or a unit: of another one, all rows are made anew.
        rows={view: merged(known, {}) for view, known in tuple(old.rows.items())} if same else {},
    )
    # What follows from the plan and the list of pieces alone stays as it was worked out.
    # Other threads may be working more of it out just now: the dictionary is not walked.
    found.__dict__.update({k: old.__dict__[k] for k in FOLLOWING if k in old.__dict__})
    return found
