"""The pieces of a batch as the study that its questions are asked of."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import fmean

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.as_study import Shared, cell_of, sample_of, side_by_side
from adhaero.core.compare.lasting import Lasted
from adhaero.core.piece_record import Known
from adhaero.core.plan.document import Plan
from adhaero.core.questions.planned_study import placed
from adhaero.core.questions.study import TREATMENT, Cell, Factor, Level, Sample, Study, Unit
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.as_done import as_done


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
    cells = (cell_of(levels[r.group.letter], r, passed, shared) for r in shown if r.group.letter in levels)
    solid, by = _solid(record, rows, plan)
    made = _as_made(record, made)
    return Asked(Study(made, tuple(cells), solid, by, shared=shared.blocks if shared else None), levels, cost)


def _as_made(record: BatchRecord, factors: Sequence[Factor]) -> tuple[Factor, ...]:
    """The factors with the levels as they were made: their real sizes, and names that say so."""
    done = as_done(record)

    def level(f: Factor, x: Level) -> Level:
        real = done.get((f.key, x.id))
        return x if real is None else Level(x.id, real.name, x.size if real.value is None else real.value)

    return tuple(replace(f, levels=tuple(level(f, x) for x in f.levels)) for f in factors) if done else tuple(factors)


def asked_side_by_side(rows: Sequence[Row], shared: Shared | None) -> Asked:
    """Return a study whose only factor is the treatment."""
    study = replace(side_by_side(rows, shared), solid={})
    return Asked(study, {c.levels[TREATMENT]: c.levels for c in study.cells}, {})


def _solid(record: BatchRecord, rows: Sequence[Row], plan: Plan) -> tuple[dict[str, Sample], str]:
    """The solid pieces by the level that decides which of them a joint is held against."""
    own = {r.group.solid: sample_of(r.group) for r in rows if r.group.role == "solid"}
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
