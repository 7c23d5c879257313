"""Everything that stands about the pieces of a batch, loaded once for a stage to work with."""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from functools import cached_property
from typing import Any, NamedTuple, TypeVar

from adhaero.core.glue import told
from adhaero.core.glue.clamping import pressure_mpa
from adhaero.core.glue.exposure import Path, path_of
from adhaero.core.joint_forms import Form
from adhaero.core.method import Method
from adhaero.core.plan.codes import read_code
from adhaero.core.plan.design import COUNTS, TRIAL
from adhaero.core.plan.document import Level, Plan, method_of
from adhaero.core.refusal import Refusal, refuse
from adhaero.store import actions, batches, breaks, glueups, shop, specimens
from adhaero.store.breaks import Observed
from adhaero.store.glueups import Event, Glueup, Member, Mix
from adhaero.store.specimens import Measured, Specimen, StoredTreatment
from adhaero.workflow.workshop import Workshop, moment, need_batch, need_locked

CALIPER_MM = 0.05
"""Uncertainty of one size read with a caliper on wood: half of the last tenth."""
MOST_PATCHED = 300
"""Touched pieces above which reading all of them is as quick."""
T = TypeVar("T")


@dataclass(frozen=True)
class Part:
    """What a piece was made into after the lock: ``part``, its new place in the order, the code it stands for."""

    part: str
    place: int | None = None
    instead_of: str = ""
    reason: str = ""


@dataclass(frozen=True)
class Facts:
    """The pieces of a locked batch and what stands about them, by specimen id."""

    batch: batches.Batch
    plan: Plan
    method: Method
    treatments: dict[int, StoredTreatment]
    pieces: list[Specimen]
    measured: dict[int, dict[str, Measured]]
    glueups: dict[int, Glueup]
    members: dict[int, Member]
    unclamped: dict[int, Event]
    observed: dict[int, Observed]
    parts: dict[int, Part]
    closed: dict[int, Event]
    conditioned: dict[tuple[int, str], Event]
    amended: dict[int, dict[str, Level]]
    told: dict[int, list[Event]]
    mixes: dict[int, Mix]
    resolution_n: float
    rows: dict[str, dict[int, tuple[Hashable, Any]]] = field(default_factory=dict, compare=False, repr=False)

    def part(self, piece: Specimen) -> str:
        """What a piece is for now: counts, spare, dummy or trial."""
        changed = self.parts.get(piece.id)
        return changed.part if changed else piece.part

    def place(self, piece: Specimen) -> int:
        """The piece's place in the order to break: a spare that was taken has that of the piece it stands for."""
        changed = self.parts.get(piece.id)
        return changed.place if changed and changed.place is not None else piece.break_order

    @cached_property
    def counting(self) -> list[Specimen]:
        """The pieces that results rest on: no spares, dummies or trials."""
        return [s for s in self.pieces if self.part(s) == COUNTS]

    @cached_property
    def to_break(self) -> list[Specimen]:
        """The pieces that go to the rig: those that count, and trials."""
        return [s for s in self.pieces if self.part(s) in (COUNTS, TRIAL)]

    def sizes(self, specimen_id: int) -> dict[str, float]:
        """Sizes in mm: measured where they are, nominal otherwise; of a joint that slipped, as it really lies."""
        own = {k: m.value for k, m in self.measured.get(specimen_id, {}).items()}
        sizes = {**self.plan.sizes, **own}
        if specimen_id not in self.told:
            return sizes
        shift, fastener = (self.last(specimen_id, k) for k in ("shift", "fastener"))
        return told.moved(sizes, shift.value if shift else None, fastener.value if fastener else None)

    def last(self, specimen_id: int, kind: str) -> Event | None:
        """The latest that was told of a piece, of that kind."""
        return next((e for e in reversed(self.told.get(specimen_id, ())) if e.kind == kind), None)

    def bottle(self, piece: Specimen) -> str:
        """The label of the bottle that a glued joint's glue came from; empty where nobody said."""
        member = self.members[piece.id]
        return member.bottle if member.bottle is not None else self.glueups[member.glueup_id].bottle

    def is_measured(self, specimen_id: int) -> bool:
        """Whether the figure of merit rests on measured sizes."""
        own = self.measured.get(specimen_id, {})
        return all(k in own for k in self.to_measure)

    @cached_property
    def to_measure(self) -> tuple[str, ...]:
        """The sizes that the figure of merit takes from the piece itself; the others belong to the rig's set-up."""
        return tuple(k for k in self.method.figure_sizes if k not in self.method.setup_sizes)

    def level(self, piece: Specimen, key: str) -> Level | None:
        """A field of a piece's planned record: its treatment's level, else what the plan held constant for it."""
        own = self.amended.get(piece.id)
        if own and key in own:
            return own[key]
        return self._levels[piece.treatment_id].get(key, self.plan.constants.get(key))

    @cached_property
    def _levels(self) -> dict[int, dict[str, Level]]:
        return {t.id: {k: v for k, _, v in t.levels} for t in self.treatments.values()}

    def form(self, piece: Specimen) -> Form:
        """The joint form of a piece."""
        return self._forms[piece.treatment_id]

    @cached_property
    def _forms(self) -> dict[int, Form]:
        constant = self.plan.constants.get("form", Level(None))
        return {t: self.method.form(own.get("form", constant).value) for t, own in self._levels.items()}

    def area_mm2(self, piece: Specimen) -> float:
        """Glued area in mm2, of the piece's own joint form and sizes (for a solid piece, that of the plain joint)."""
        form = self.method.form(None) if piece.role == "solid" else self.form(piece)
        return form.glued_area_mm2(self.sizes(piece.id))

    def pressed_at(self, piece: Specimen) -> datetime:
        """When a glued joint was pressed: its own moment where the bench took it down, else its glue-up's."""
        own = self.closed.get(piece.id)
        return moment(own.at if own else self.glueups[self.members[piece.id].glueup_id].started_at)

    def exposure(self, piece: Specimen) -> Path | None:
        """What a piece goes through before its break; ``None`` for most."""
        level = self.level(piece, "conditioning")
        return path_of(str(level.value)) if level is not None else None

    def conditioning(self, piece: Specimen) -> tuple[int, int]:
        """How long a piece is conditioned before its break, and dried afterwards, s; zeros for most."""
        path = self.exposure(piece)
        return (0, 0) if path is None else (int(path.total_s - path.drying_s), int(path.drying_s))

    def due_at(self, piece: Specimen) -> datetime:
        """When a glued joint may be broken: its cure time over, or its conditioning and drying once they began."""
        wet, dry = self.conditioning(piece)
        begun, ended = (self.conditioned.get((piece.id, way)) for way in ("in", "out"))
        if ended is not None:
            return moment(ended.at) + timedelta(seconds=dry)
        begin = moment(begun.at) if begun else self.pressed_at(piece) + timedelta(seconds=piece.cure_s or 0)
        return begin + timedelta(seconds=wet + dry)

    def pressure_mpa(self, piece: Specimen) -> float | None:
        """Clamp pressure in MPa of a glued joint, from its own area; ``None`` where the force is not known.

        A force that was read at the clamp comes before the one that was meant: the first reading, at closing.
        """
        member = self.members.get(piece.id)
        if member is None:
            return None
        read = next((e for e in self.told.get(piece.id, ()) if e.kind == "force"), None)
        if read is not None:
            return pressure_mpa(read.value["force_n"], self.area_mm2(piece))
        glueup = self.glueups[member.glueup_id]
        force = member.force_n if member.force_n is not None else glueup.force_n
        clamps = member.clamps if member.clamps is not None else glueup.clamps
        if force is None or glueup.force_known == "unknown":
            return None
        return pressure_mpa(force * clamps, self.area_mm2(piece))

    def per_newton(self, specimen_id: int) -> float:
        """Figure of merit of one newton on this piece."""
        return self.method.per_newton(self.sizes(specimen_id))

    def uncertainty(self, specimen_id: int, load_n: float) -> float:
        """Of the figure of merit of a load: half a step of the rig and the caliper's error, added in squares."""
        if load_n <= 0:
            return 0.0
        sizes = self.sizes(specimen_id)
        parts = [self.resolution_n / 2 / load_n, *self.method.relative_error(sizes, CALIPER_MM)]
        return load_n * self.method.per_newton(sizes) * math.sqrt(sum(p * p for p in parts))

    def by_code(self) -> dict[str, Specimen]:
        """Pieces by code."""
        return self._codes

    @cached_property
    def _codes(self) -> dict[str, Specimen]:
        return {s.code: s for s in self.pieces}

    @cached_property
    def ids(self) -> frozenset[int]:
        """The pieces by id."""
        return frozenset(s.id for s in self.pieces)

    def row(self, view: str, piece: Specimen, make: Callable[..., T], *more: Hashable) -> T:
        """``make(facts, piece, *more)``, made anew only after the facts of the piece, or ``more``, changed."""
        known = self.rows.setdefault(view, {})
        found = known.get(piece.id)
        if found is not None and found[0] == more:
            value: T = found[1]
            return value
        made = make(self, piece, *more)
        known[piece.id] = more, made
        return made


def load(w: Workshop, conn: sqlite3.Connection, batch_id: int, before: int | None = None) -> Facts:
    """The facts of a locked batch; ``Refusal`` while its plan is a draft.

    Every fact is caused by an action, so facts loaded once hold until the next action, and then only the pieces that
    it touched are read again. ``before`` is the action that is being carried out, and that has changed nothing yet.
    """

    def make(old: tuple[Hashable, Facts] | None) -> Facts:
        if old is not None:
            patched = _patched(conn, old[1], since=old[0], now=stands, before=before)
            if patched is not None:
                return patched
        return fresh(conn, batch_id)

    stands = version(conn, before)
    return w.kept(("facts", batch_id), stands, make)


def version(conn: sqlite3.Connection, before: int | None = None) -> Hashable:
    """Changes whenever facts may have changed: the last action, and the rig."""
    return actions.last_id(conn, before), shop.rig(conn)


def fresh(conn: sqlite3.Connection, batch_id: int) -> Facts:
    """The facts as they are in this transaction, changes made in it included."""
    locked = need_locked(conn, batch_id)
    rig, about = shop.rig(conn), _about(conn, batch_id)
    amended: dict[int, dict[str, Level]] = {}
    for e in glueups.events(conn, batch_id):
        if e.kind == "amended":
            amended.setdefault(e.specimen_id, {}).update({k: Level(**v) for k, v in e.value.items()})
    return Facts(
        batch=need_batch(conn, batch_id),
        plan=locked.plan,
        method=method_of(locked.plan),
        treatments={t.id: t for t in specimens.treatments(conn, batch_id)},
        pieces=[_as_amended(s, amended.get(s.id)) for s in specimens.specimens(conn, batch_id)],
        glueups={g.id: g for g in glueups.glueups(conn, batch_id)},
        resolution_n=rig.resolution_n if rig else 1.0,
        measured=about.measured,
        members=about.members,
        unclamped=about.unclamped,
        observed=about.observed,
        parts=about.parts,
        closed=about.closed,
        conditioned=about.conditioned,
        amended=amended,
        told=about.told,
        mixes=glueups.mixes(conn, batch_id),
    )


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
    parts: dict[int, Part]
    closed: dict[int, Event]
    conditioned: dict[tuple[int, str], Event]
    told: dict[int, list[Event]]


_APART = ("unclamped", "part", "closed", "conditioned", "amended")
"""Events that are kept apart; all others are what was told of a piece."""


def _about(conn: sqlite3.Connection, batch_id: int, only: set[int] | None = None) -> _About:
    measured: dict[int, dict[str, Measured]] = {}
    for m in specimens.measured(conn, batch_id, only):
        measured.setdefault(m.specimen_id, {})[m.quantity] = m
    events = glueups.events(conn, batch_id, only)
    said: dict[int, list[Event]] = {}
    for e in events:
        if e.kind not in _APART:
            said.setdefault(e.specimen_id, []).append(e)
    return _About(
        measured,
        {m.specimen_id: m for m in glueups.members(conn, batch_id, only)},
        {e.specimen_id: e for e in events if e.kind == "unclamped"},
        {o.specimen_id: o for o in breaks.observed(conn, batch_id, only)},
        {e.specimen_id: Part(**e.value, reason=e.note) for e in events if e.kind == "part"},
        {e.specimen_id: e for e in events if e.kind == "closed"},
        {(e.specimen_id, e.value["way"]): e for e in events if e.kind == "conditioned"},
        said,
    )


def _patched(conn: sqlite3.Connection, old: Facts, *, since: Any, now: Any, before: int | None) -> Facts | None:
    """Older facts with the touched pieces read again; ``None`` where everything has to be read."""
    if since[1] != now[1] or since[0] > now[0]:
        return None
    batch_id = old.batch.id
    anywhere = actions.touched(conn, batch_id, since[0], before)
    touched = None if anywhere is None else anywhere & old.ids
    if touched is None or len(touched) > MOST_PATCHED:
        return None
    if not touched:
        return old
    new = _about(conn, batch_id, touched)

    def merged(kept: dict[int, T], read: dict[int, T]) -> dict[int, T]:
        result = dict(kept)
        for piece in touched:
            result.pop(piece, None)
        result.update(read)
        return result

    return replace(
        old,
        measured=merged(old.measured, new.measured),
        members=merged(old.members, new.members),
        unclamped=merged(old.unclamped, new.unclamped),
        observed=merged(old.observed, new.observed),
        parts=merged(old.parts, new.parts),
        closed=merged(old.closed, new.closed),
        conditioned={k: e for k, e in old.conditioned.items() if k[0] not in touched} | new.conditioned,
        told=merged(old.told, new.told),
        glueups={g.id: g for g in glueups.glueups(conn, batch_id)},
        mixes=glueups.mixes(conn, batch_id),
        rows={view: merged(known, {}) for view, known in old.rows.items()},
    )


def find_piece(conn: sqlite3.Connection, facts: Facts, text: str, field: str = "code") -> Specimen:
    """The piece of this batch with that code. ``Refusal`` for a wrong code, or one of another batch."""
    try:
        code = read_code(text)
    except Refusal as refusal:
        raise refuse(field, refusal.problems[0].message, refusal.problems[0].remedy) from refusal
    piece = facts.by_code().get(code)
    if piece is not None:
        return piece
    elsewhere = specimens.find_code(conn, code)
    if elsewhere is not None:
        other = need_batch(conn, elsewhere[1])
        raise refuse(field, f"{code} belongs to the batch {other.name!r}", "Put the piece aside, or open that batch.")
    raise refuse(field, f"there is no piece {code}", "Read the label again.")


def find_pieces(conn: sqlite3.Connection, facts: Facts, codes: Sequence[str], field: str = "codes") -> list[Specimen]:
    """The pieces with these codes, each once."""
    found = [find_piece(conn, facts, code, f"{field}.{i}") for i, code in enumerate(codes)]
    for i, piece in enumerate(found):
        if piece in found[:i]:
            raise refuse(f"{field}.{i}", f"{piece.code} stands twice", "Take one of the two out.")
    return found
