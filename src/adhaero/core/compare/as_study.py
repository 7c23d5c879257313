"""Turns treatments into the study that the judge works on: a unit for each piece, a sample for each treatment."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.data import Group
from adhaero.core.observation import WOOD_MODES
from adhaero.core.piece_record import Known
from adhaero.core.plan.treatments import SOLID
from adhaero.core.questions.study import TREATMENT, WOOD, Cell, Factor, Level, Sample, Study, Unit

_PASSES = {"passes": True, "fails": False}


@dataclass(frozen=True)
class Shared:
    """What pieces (by code) share: ``name`` of one, whether the plan states it, and the block of each piece."""

    name: str
    planned: bool
    of: Mapping[str, str]

    @property
    def blocks(self) -> tuple[str, bool]:
        """Return the name of the blocks and whether they were planned."""
        return self.name, self.planned


def side_by_side(rows: Iterable[Row], shared: Shared | None) -> Study:
    """Return a study whose only factor is the treatment (its levels are letters). Solid pieces are kept apart, by
    letter too.
    """
    known = list(rows)
    joints = [r for r in known if r.group.role != SOLID]
    levels = tuple(Level(r.group.letter, r.group.label) for r in joints)
    cells = tuple(cell_of({TREATMENT: r.group.letter}, r, {}, shared) for r in joints)
    solid = {r.group.letter: sample_of(r.group, shared) for r in known if r.group.role == SOLID}
    return Study((Factor(TREATMENT, "treatment", levels),), cells, solid, shared=shared.blocks if shared else None)


def cell_of(levels: Mapping[str, str], r: Row, passed: Mapping[str, str], shared: Shared | None) -> Cell:
    """Return a treatment as the cell of these levels; ``passed`` is how pieces (by code) came out by the plan's
    rule.
    """
    return Cell(levels, units_of(r.group, passed, shared), r.unbroken, r.left_out, r.void)


def sample_of(g: Group, shared: Shared | None = None) -> Sample:
    """Return a treatment as a sample."""
    return Sample(units_of(g, {}, shared))


def units_of(g: Group, passed: Mapping[str, str], shared: Shared | None) -> tuple[Unit, ...]:
    """Return the pieces of a treatment, or its parents, with what fell apart marked as such."""
    by_code = {p.code: p for p in g.pieces}
    given = g.units(fallen_as_zero=False)
    found = [Unit(d.known, d.low, d.high, _mode(by_code[codes[0]].failure_mode or ""),
                  _PASSES.get(passed.get(codes[0], "")), codes[0] if len(codes) == 1 else "", _block(codes, shared))
             for d, codes in given]  # fmt: skip
    counted = {c for _, codes in given for c in codes}
    seen = (p for p in g.pieces if p.code not in counted and p.opened)
    return (*found, *(Unit(Known.NONE, mode=_mode(p.failure_mode or ""), passed=_PASSES.get(passed.get(p.code, "")))
                      for p in seen))  # fmt: skip


def _block(codes: Sequence[str], shared: Shared | None) -> str:
    own = {shared.of.get(c, "") for c in codes} if shared is not None else set()
    return own.pop() if len(own) == 1 else ""


def _mode(mode: str) -> str:
    """A failure mode as questions know it: where in the wood is no matter to them."""
    return WOOD if mode in WOOD_MODES else mode
