"""Everything that stands about the pieces of a batch, loaded once for a stage to work with."""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from functools import cached_property

from adhaero.core.method import Method
from adhaero.core.plan.codes import read_code
from adhaero.core.plan.document import Plan, method_of
from adhaero.core.refusal import Refusal, refuse
from adhaero.store import actions, batches, breaks, glueups, shop, specimens
from adhaero.store.breaks import Observed
from adhaero.store.glueups import Event, Glueup, Member
from adhaero.store.specimens import Measured, Specimen, StoredTreatment
from adhaero.workflow.workshop import Workshop, need_batch, need_locked

CALIPER_MM = 0.05
"""Uncertainty of one size read with a caliper on wood: half of the last tenth."""


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
    resolution_n: float

    def sizes(self, specimen_id: int) -> dict[str, float]:
        """Sizes in mm: measured where they are, nominal otherwise."""
        own = {k: m.value for k, m in self.measured.get(specimen_id, {}).items()}
        return {**self.plan.sizes, **own}

    def is_measured(self, specimen_id: int) -> bool:
        """Whether the glued area rests on measured sizes."""
        own = self.measured.get(specimen_id, {})
        return "width" in own and "overlap" in own

    def area_mm2(self, specimen_id: int) -> float:
        """Glued area in mm2 (for a solid piece, the sheared area)."""
        return self.method.glued_area_mm2(self.sizes(specimen_id))

    def uncertainty(self, specimen_id: int, load_n: float) -> float:
        """Of the figure of merit of a load: half a step of the rig and the caliper's error, added in squares."""
        if load_n <= 0:
            return 0.0
        sizes = self.sizes(specimen_id)
        parts = [self.resolution_n / 2 / load_n, *(CALIPER_MM / sizes[k] for k in ("width", "overlap") if k in sizes)]
        return load_n / self.area_mm2(specimen_id) * math.sqrt(sum(p * p for p in parts))

    def by_code(self) -> dict[str, Specimen]:
        """Pieces by code."""
        return self._codes

    @cached_property
    def _codes(self) -> dict[str, Specimen]:
        return {s.code: s for s in self.pieces}


def load(w: Workshop, conn: sqlite3.Connection, batch_id: int, before: int | None = None) -> Facts:
    """The facts of a locked batch; ``Refusal`` while its plan is a draft.

    Every fact is caused by an action, so facts loaded once hold until the next action. ``before`` is the action that
    is being carried out, and that has changed nothing yet.
    """
    return w.kept(("facts", batch_id), version(conn, before), lambda: fresh(conn, batch_id))


def version(conn: sqlite3.Connection, before: int | None = None) -> Hashable:
    """Changes whenever facts may have changed."""
    return actions.last_id(conn, before), shop.rig(conn)


def fresh(conn: sqlite3.Connection, batch_id: int) -> Facts:
    """The facts as they are in this transaction, changes made in it included."""
    locked = need_locked(conn, batch_id)
    rig = shop.rig(conn)
    measured: dict[int, dict[str, Measured]] = {}
    for m in specimens.measured(conn, batch_id):
        measured.setdefault(m.specimen_id, {})[m.quantity] = m
    return Facts(
        batch=need_batch(conn, batch_id),
        plan=locked.plan,
        method=method_of(locked.plan),
        treatments={t.id: t for t in specimens.treatments(conn, batch_id)},
        pieces=specimens.specimens(conn, batch_id),
        measured=measured,
        glueups={g.id: g for g in glueups.glueups(conn, batch_id)},
        members={m.specimen_id: m for m in glueups.members(conn, batch_id)},
        unclamped={e.specimen_id: e for e in glueups.events(conn, batch_id) if e.kind == "unclamped"},
        observed={o.specimen_id: o for o in breaks.observed(conn, batch_id)},
        resolution_n=rig.resolution_n if rig else 1.0,
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
