"""The planned comparisons: within each stratum, and pooled over strata.

They are judged by the one judge (core.claims.judge), so that no table says of two treatments what an answer does not.
Tests are adjusted within a family by Holm; the interval of each comparison is at the level of its step, so that it
excludes 1 where, and only where, the two are told apart.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from adhaero.core.claims.claim import Basis, Claim, Relation
from adhaero.core.claims.differing import differ
from adhaero.core.claims.judge import Judge, Pair
from adhaero.core.compare.analysis import Row
from adhaero.core.compare.as_study import Shared, sample_of, side_by_side
from adhaero.core.compare.data import WEAK_N, too_few
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.standing import standing
from adhaero.core.inference import Inference
from adhaero.core.plan.comparisons import Contrast, Family, Within
from adhaero.core.questions.study import Sample
from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.gehan import gehan
from adhaero.core.statistics.within_blocks import Fits

MEANS, MEDIANS, BLOCKS, ORDER, FALLEN, NONE = "means", "medians", "blocks", "order", "fallen", "none"
"""How a comparison was judged; ``none`` where nothing may be claimed."""
MOST_BY_ORDER = 400
"""Families of up to this many comparisons also get a test by order, as a check on the fit."""
_ROUTES = {
    Basis.MEANS: MEANS, Basis.ADDITIVE: MEANS, Basis.BLOCKS: BLOCKS, Basis.BOUNDS: MEDIANS, Basis.ORDER: ORDER,
    Basis.FALLEN: FALLEN, Basis.NOTHING: NONE,
}  # fmt: skip
_OUTCOMES = {Relation.STRONGER: Outcome.BETTER, Relation.WEAKER: Outcome.WORSE, Relation.ALIKE: Outcome.SAME}


@dataclass(frozen=True)
class Judged:
    """``first`` against ``second`` (letters): ratio of means or medians with its interval (shares; infinite or ``None``
    where it has no end), p adjusted within the family, and the outcome. ``by_order`` is p of the test free of any
    shape, where bounds are among the figures; ``why`` says why nothing can be told.
    """

    first: str
    second: str
    stratum: str
    route: str
    outcome: Outcome
    ratio: float | None = None
    low: float | None = None
    high: float | None = None
    p: float | None = None
    by_order: float | None = None
    why: str = ""
    of_wood: bool = False


@dataclass(frozen=True)
class Over:
    """A contrast pooled over its strata: mean of the log ratios of what held, whether strata may have one ratio
    (``agree``), and those left out. ``by_fallen``: how many held decides its outcome, not that ratio.
    """

    name: str
    first: str
    second: str
    strata: int
    left_out: tuple[str, ...]
    ratio: float
    low: float
    high: float
    p: float
    agree: bool
    outcome: Outcome
    lowest: float
    highest: float
    by_fallen: bool = False


@dataclass(frozen=True)
class FamilyResult:
    """A family judged: its comparisons within strata, and what is pooled over them; ``shared`` are the fits where what
    its treatments share was taken out, ``left_in`` the comparisons as they end where it is not.
    """

    family: Family
    comparisons: list[Judged]
    pooled: list[Over]
    shared: Fits | None = None
    left_in: tuple[Judged, ...] = ()


@dataclass(frozen=True)
class Setting:
    """What judging needs beside the rows (by letter): risk, smallest difference that matters (a share), whether
    what fell apart counts as 0 in means, and what treatments share.
    """

    rows: Mapping[str, Row]
    alpha: float = 0.05
    matters: float = 0.10
    fallen_as_zero: bool = True
    shared: Shared | None = None

    @cached_property
    def judge(self) -> Judge:
        """The judge that compares these treatments."""
        return Judge(side_by_side(self.rows.values(), self.shared), Inference(self.alpha, self.matters))

    @cached_property
    def without_blocks(self) -> Setting:
        """The same with what treatments share left in."""
        return replace(self, shared=None)

    @cached_property
    def samples(self) -> dict[str, Sample]:
        """The sample of every treatment, solid wood too."""
        study = self.judge.study
        return {**{next(iter(c.levels.values())): study.sample(c.levels) for c in study.cells}, **study.solid}

    def sample(self, row: Row) -> Sample:
        """The sample of a treatment, of this batch or brought from another one."""
        own = self.rows.get(row.group.letter)
        return self.samples[row.group.letter] if own is row else sample_of(row.group)


def judge_families(found: Sequence[Family], s: Setting) -> list[FamilyResult]:
    """Judge every family that stands; what is not made, or left out, is compared with nothing."""
    return [r for f in found if not f.struck and (r := _judge(f, s)).comparisons]


def judge_pair(first: Row, second: Row, s: Setting, risk: float | None = None) -> Judged:
    """Judge one comparison by itself, at ``risk`` (by default that of the setting)."""
    pair = Pair(first.group.letter, second.group.letter, [s.sample(first)], [s.sample(second)])
    (claim,) = s.judge.claims([pair], risk)
    return _judged(claim, "", (first, second), claim.p, None)


def turned(j: Judged) -> Judged:
    """The same comparison the other way round."""
    ends = {Outcome.BETTER: Outcome.WORSE, Outcome.WORSE: Outcome.BETTER}
    low, high = j.low, j.high
    if low is not None or high is not None:
        low, high = (1 / j.high if j.high else 0.0), (1 / j.low if j.low else math.inf)
    ratio = 1 / j.ratio if j.ratio else None
    return replace(j, first=j.second, second=j.first, outcome=ends.get(j.outcome, j.outcome), ratio=ratio, low=low,
                   high=high)  # fmt: skip


def _judge(f: Family, s: Setting) -> FamilyResult:
    pairs = [p for p in f.pairs if p.first in s.rows and p.second in s.rows]
    comparisons = _compared(pairs, s)
    several = [c for c in f.contrasts if len(c.pairs) > 1]
    over = [o for c in several if (o := _over(c, s, s.alpha / len(several))) is not None]
    if all(j.route != BLOCKS for j in comparisons):
        return FamilyResult(f, comparisons, over)
    return FamilyResult(f, comparisons, over, s.judge.in_blocks, tuple(_compared(pairs, s.without_blocks)))


def _compared(pairs: Sequence[Within], s: Setting) -> list[Judged]:
    claims = s.judge.claims([Pair(p.first, p.second, [s.samples[p.first]], [s.samples[p.second]]) for p in pairs])
    adjusted = iter(holm([c.p for c in claims if c.p is not None]))
    by_order = len(pairs) <= MOST_BY_ORDER
    found = []
    for p, c in zip(pairs, claims, strict=True):
        bounded = by_order and c.basis is Basis.BOUNDS
        order = gehan(s.samples[p.first].bounds, s.samples[p.second].bounds) if bounded else None
        own = next(adjusted) if c.p is not None else None
        rows = s.rows[p.first], s.rows[p.second]
        found.append(_judged(c, p.stratum, rows, own, order.p if order else None))
    return found


def _judged(c: Claim, stratum: str, rows: tuple[Row, Row], p: float | None, by_order: float | None) -> Judged:
    wood, outcome = all(_all_in_wood(r) for r in rows), _OUTCOMES.get(c.relation, Outcome.UNKNOWN)
    if c.basis is Basis.NOTHING or (c.basis is Basis.ORDER and c.p is None):
        why = _why_not(rows) or "there is no scatter to judge by"
        return Judged(c.subject, c.object, stratum, NONE, Outcome.UNKNOWN, why=why, of_wood=wood)
    if c.basis is Basis.FALLEN:
        return Judged(c.subject, c.object, stratum, FALLEN, outcome, p=p, of_wood=wood)
    high = math.inf if c.high is None and c.low is not None else c.high
    return Judged(c.subject, c.object, stratum, _ROUTES[c.basis], outcome, c.ratio, c.low, high, p, by_order,
                  of_wood=wood)  # fmt: skip


def _why_not(rows: Sequence[Row]) -> str:
    """Why two treatments cannot be compared at all; empty where they can."""
    for r in rows:
        if r.summary.n == 0:
            return f"{r.group.label} {standing(r.group, r.summary).value}"
        if r.summary.n < WEAK_N:
            return too_few(r.summary.n, r.group.unit, r.group.label)
    return ""


def _all_in_wood(r: Row) -> bool:
    """Whether all examined pieces of a treatment failed in the wood."""
    seen = [x for x in r.group.pieces if x.opened]
    return bool(seen) and all(x.in_wood for x in seen)


def _over(c: Contrast, s: Setting, risk: float) -> Over | None:
    """Pool a contrast over its strata; strata without a ratio are left out and named."""
    own = {p: Pair(p.first, p.second, [s.samples[p.first]], [s.samples[p.second]])
           for p in c.pairs if p.first in s.rows and p.second in s.rows}  # fmt: skip
    single = {p: r for p, pair in own.items() if (r := s.judge.found(pair).ratio) is not None}
    if len(single) < 2:
        return None
    first, second = ([x for p in single for x in getattr(own[p], side)] for side in ("first", "second"))
    (claim,) = s.judge.claims([Pair(c.first, c.second, first, second)], risk)
    if claim.ratio is None or claim.low is None or claim.p is None:
        return None
    high = math.inf if claim.high is None else claim.high
    left_out = tuple(x.stratum for x in c.pairs if x not in single)
    agree = not differ([own[p] for p in single], s.judge, s.alpha)
    return Over(c.name, c.first, c.second, len(single), left_out, claim.ratio, claim.low, high,
                min(1.0, claim.p * s.alpha / risk), agree, _OUTCOMES.get(claim.relation, Outcome.UNKNOWN),
                min(single.values()), max(single.values()), claim.basis is Basis.FALLEN)  # fmt: skip
