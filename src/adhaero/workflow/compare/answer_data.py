"""The pieces of a batch as the study that its questions are asked of."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import fmean

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.data import Group
from adhaero.core.compare.in_blocks import Shared
from adhaero.core.compare.lasting import Lasted
from adhaero.core.observation import WOOD_MODES
from adhaero.core.piece_record import Known
from adhaero.core.plan.document import Plan
from adhaero.core.questions.planned_study import placed
from adhaero.core.questions.study import WOOD, Cell, Factor, Level, Sample, Study, Unit
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.as_done import as_done

PASSES = {"passes": True, "fails": False}
TREATMENT = "treatment"
"""The one factor of treatments that are set side by side."""


@dataclass(frozen=True)
class Asked:
    """A study with what its cells are called and cost: ``treatments`` are levels by letter, ``cost`` by letter."""

    study: Study
    treatments: Mapping[str, Mapping[str, str]]
    cost: Mapping[str, float]

    def letters(self, levels: Mapping[str, str]) -> list[str]:
        """The treatments that have all of these levels."""
        return [x for x, own in self.treatments.items() if all(own.get(k) == v for k, v in levels.items())]

    def priced(self, factor: str) -> Study:
        """The study with what a joint costs at each level of a factor: the mean of the treatments that have a price."""
        known: dict[str, list[float]] = {}
        for letter, levels in self.treatments.items():
            if letter in self.cost:
                known.setdefault(levels[factor], []).append(self.cost[letter])
        return replace(self.study, cost={level: fmean(own) for level, own in known.items()})

    def lasting(self, pieces: Collection[Lasted]) -> Study:
        """The study in times instead of strengths: how long each piece was known whole, and if it gave way."""
        own: dict[str, list[Unit]] = {}
        for p in pieces:
            known = Known.EXACT if p.failed else Known.AT_LEAST
            own.setdefault(p.letter, []).append(Unit(known, p.time_s, p.time_s if p.failed else math.inf))
        cells = (Cell(levels, tuple(own.get(letter, ()))) for letter, levels in self.treatments.items())
        return replace(self.study, cells=tuple(c for c in cells if c.units), solid={})


def asked_of(
    record: BatchRecord, rows: Sequence[Row], passed: Mapping[str, str], cost: Mapping[str, float],
    shared: Shared | None,
) -> Asked:  # fmt: skip
    """Return the pieces of a batch as a study; ``shared`` is what pieces of several treatments have in common."""
    plan = record.plan
    shown = [r for r in rows if r.group.letter in record.planned]
    made, levels = placed(plan, [record.planned[r.group.letter] for r in shown if r.group.role != "solid"])
    cells = (
        Cell(levels[r.group.letter], _units(r.group, passed, shared), r.unbroken, r.left_out, r.void)
        for r in shown
        if r.group.letter in levels
    )
    solid, by = _solid(record, rows, plan)
    made = _as_made(record, made)
    return Asked(Study(made, tuple(cells), solid, by, shared=_blocks(shared)), levels, cost)


def _as_made(record: BatchRecord, factors: Sequence[Factor]) -> tuple[Factor, ...]:
    """The factors with the levels as they were made: their real sizes, and names that say so."""
    done = as_done(record)

    def level(f: Factor, x: Level) -> Level:
        real = done.get((f.key, x.id))
        return x if real is None else Level(x.id, real.name, x.size if real.value is None else real.value)

    return tuple(replace(f, levels=tuple(level(f, x) for x in f.levels)) for f in factors) if done else tuple(factors)


def side_by_side(rows: Sequence[Row], shared: Shared | None) -> Asked:
    """Return treatments as a study of one factor: the treatment itself, whatever they differ in."""
    joints = [r for r in rows if r.group.role != "solid"]
    levels = tuple(Level(r.group.letter, r.group.label) for r in joints)
    treatments = {r.group.letter: {TREATMENT: r.group.letter} for r in joints}
    cells = (
        Cell(treatments[r.group.letter], _units(r.group, {}, shared), r.unbroken, r.left_out, r.void) for r in joints
    )
    return Asked(Study((Factor(TREATMENT, "treatment", levels),), tuple(cells), shared=_blocks(shared)), treatments, {})


def _blocks(shared: Shared | None) -> tuple[str, bool] | None:
    return None if shared is None else (shared.name, shared.planned)


def _units(g: Group, passed: Mapping[str, str], shared: Shared | None) -> tuple[Unit, ...]:
    by_code = {p.code: p for p in g.pieces}
    found = [Unit(d.known, d.low, d.high, _mode(by_code[codes[0]].failure_mode or ""),
                  PASSES.get(passed.get(codes[0], "")), codes[0] if len(codes) == 1 else "", _block(codes, shared))
             for d, codes in g.units(fallen_as_zero=False)]  # fmt: skip
    counted = {c for _, codes in g.units(fallen_as_zero=False) for c in codes}
    seen = (p for p in g.pieces if p.code not in counted and p.opened)
    return (*found, *(Unit(Known.NONE, mode=_mode(p.failure_mode or ""), passed=PASSES.get(passed.get(p.code, "")))
                      for p in seen))  # fmt: skip


def _block(codes: Sequence[str], shared: Shared | None) -> str:
    own = {shared.of.get(c, "") for c in codes} if shared is not None else set()
    return own.pop() if len(own) == 1 else ""


def _mode(mode: str) -> str:
    """A failure mode as questions know it: where in the wood is no matter to them."""
    return WOOD if mode in WOOD_MODES else mode


def _solid(record: BatchRecord, rows: Sequence[Row], plan: Plan) -> tuple[dict[str, Sample], str]:
    """The solid pieces by the level that decides which of them a joint is held against."""
    own = {r.group.solid: Sample(_units(r.group, {}, None)) for r in rows if r.group.role == "solid"}
    joints = [(r, record.planned[r.group.letter]) for r in rows
              if r.group.role != "solid" and r.group.letter in record.planned and not r.group.no_solid]  # fmt: skip
    keys = {r.group.solid for r, _ in joints if r.group.solid}
    if len(keys) == 1:
        return ({"": own[k]} if (k := keys.pop()) in own else {}), ""
    for i, f in enumerate(plan.factors):
        by_level: dict[str, set[str]] = {}
        for r, t in joints:
            if t.cell is not None:
                by_level.setdefault(f.levels[t.cell[i]].id, set()).add(r.group.solid)
        if by_level and all(len(k) == 1 for k in by_level.values()):
            return {level: own[k] for level, ks in by_level.items() if (k := next(iter(ks))) in own}, f.key
    return {}, ""
