"""The levels that a question is about, each with its pieces by stratum; shared by all kinds of question."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from adhaero.core.claims.claim import Claim, Relation
from adhaero.core.claims.judge import Apart, Judge, Pair
from adhaero.core.questions.question import Line, Question, Standing
from adhaero.core.questions.study import Cell, Factor, Sample, Study

OF_RELATION = {
    Relation.STRONGER: Standing.STRONGER, Relation.WEAKER: Standing.WEAKER, Relation.ALIKE: Standing.ALIKE,
    Relation.UNCLEAR: Standing.UNCLEAR, Relation.NOT_ENOUGH_DATA: Standing.NOT_ENOUGH_DATA,
    Relation.NOT_COMPARED: Standing.NOT_COMPARED,
}  # fmt: skip


@dataclass(frozen=True)
class Levels:
    """The levels a question is ``of``, with other factors fixed (``at``) and all the rest pooled."""

    study: Study
    judge: Judge
    of: Factor
    at: Mapping[str, str]
    free: tuple[str, ...] = ()

    @cached_property
    def strata(self) -> list[dict[str, str]]:
        """What is pooled over."""
        found = self.study.strata([self.of.key, *self.at, *self.free])
        return [s for s in found if any(_has(c, {**s, **self.at}) for c in self.study.cells)]

    @property
    def ids(self) -> list[str]:
        """The ids of the levels that occur here, in the order of the plan."""
        seen = {c.levels[self.of.key] for c in self.study.cells if _has(c, self.at)}
        return [x.id for x in self.of.levels if x.id in seen]

    def by_stratum(self, level: str, **more: str) -> list[Sample]:
        """The pieces of a level in each stratum."""
        return [self.study.sample({**self.at, **s, **more, self.of.key: level}) for s in self.strata]

    def all_of(self, level: str, **more: str) -> Sample:
        """All pieces of a level."""
        return self.study.sample({**self.at, **more, self.of.key: level})

    def pair(self, subject: str, object_: str) -> Pair:
        """Two levels to be compared."""
        within = " | ".join(self.at.values())
        named = [f"{x} | {within}" if within else x for x in (subject, object_)]
        apart = Apart(self.of.key, subject, object_, self.at)
        return Pair(named[0], named[1], self.by_stratum(subject), self.by_stratum(object_), apart)

    def height(self, level: str) -> float:
        """How high a level lies as measured: the mean over strata of the logarithms of their means."""
        means = [m for s in self.by_stratum(level) if (m := s.mean) is not None and m > 0]
        return math.fsum(map(math.log, means)) / len(means) if means else -math.inf

    def missing(self, level: str) -> Standing | None:
        """Why a level can't be judged; ``None`` if it can."""
        return missing(self.all_of(level), self.judge.inference.least)

    def line(self, level: str, standing: Standing, claim: Claim | None = None) -> Line:
        """A row of the answer."""
        within = next(iter(self.at.values()), "")
        return line_of(level, self.all_of(level), standing, claim, within)


def _has(c: Cell, levels: Mapping[str, str]) -> bool:
    return all(c.levels.get(k) == v for k, v in levels.items())


def missing(s: Sample, least: int) -> Standing | None:
    """Why a sample can't be judged; ``None`` if it can."""
    if not s.units:
        return Standing.STILL_TO_BREAK if s.unbroken or not (s.left_out or s.excluded) else (
            Standing.LEFT_OUT if s.left_out else Standing.NOT_ENOUGH_DATA
        )  # fmt: skip
    if not s.held:
        return Standing.NOTHING_LEFT if s.fallen else Standing.NOT_ENOUGH_DATA
    return Standing.NOT_ENOUGH_DATA if len(s.held) < least else None


def line_of(level: str, s: Sample, standing: Standing, claim: Claim | None = None, within: str = "") -> Line:
    """A row of the answer about a sample."""
    return Line(
        level, standing, within, len(s.held), s.fallen, s.unbroken, s.mean, s.unbounded > 0, s.mean_high,
        min((u.low for u in s.held), default=None),
        claim.ratio if claim else None, claim.low if claim else None, claim.high if claim else None,
        in_wood=s.in_wood, told=sum(bool(u.mode) for u in s.units),
    )  # fmt: skip


def levels_of(q: Question, study: Study, judge: Judge) -> list[Levels]:
    """Return the levels of a question: once, or once for each level of the factor it is answered within."""
    of = study.factor(q.of)
    free = (q.along,) if q.along else ()
    if not q.within:
        return [Levels(study, judge, of, {}, free)]
    return [Levels(study, judge, of, {q.within: w.id}, free) for w in study.factor(q.within).levels]
