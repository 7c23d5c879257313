"""The planned comparisons, judged: within each stratum, and pooled over strata.

A family is judged in one way. Where every figure is exact, ratios of means with variances of their own; where bounds
are among them, ratios of medians by maximum likelihood, so that no treatment drops out for a bound; where no scatter
can be fitted (all broke in the same step), by order alone. What treatments share (a board, an evening) is taken out
first, where that can be done (in_blocks). Tests are adjusted within the family by Holm; the interval
of each comparison is at the level of its step, so that it excludes 1 where, and only where, the two are told apart.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from adhaero.core.compare.analysis import Row, values_of
from adhaero.core.compare.bounds import bounds_of, smallest_figure
from adhaero.core.compare.data import WEAK_N, too_few
from adhaero.core.compare.in_blocks import Fits, Shared, fit_shared, over_pairs
from adhaero.core.compare.outcome import Outcome, outcome_of_ratio
from adhaero.core.compare.standing import standing
from adhaero.core.plan.comparisons import ADDED, Contrast, Family, Within
from adhaero.core.statistics import censored_intervals, contrasts
from adhaero.core.statistics.adjust import holm, step_alphas
from adhaero.core.statistics.gehan import gehan

MEANS, MEDIANS, BLOCKS, ORDER, NONE = "means", "medians", "blocks", "order", "none"
"""How a comparison was judged; ``none`` where nothing may be claimed."""


@dataclass(frozen=True)
class Judged:
    """``first`` against ``second`` (letters): ratio of means or medians with its interval (shares; infinite or ``None``
    where it has no end), p adjusted within the family, and the outcome. ``by_order`` is p of the test free of any
    shape, where bounds are among the figures; ``alpha`` is the risk at the step of its test, ``why`` says why nothing
    can be told.
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
    alpha: float | None = None
    why: str = ""
    of_wood: bool = False


@dataclass(frozen=True)
class Over:
    """A contrast pooled over its strata: mean of the log ratios, whether strata agree (``q_p``), and those left out."""

    name: str
    first: str
    second: str
    strata: int
    left_out: tuple[str, ...]
    ratio: float
    low: float
    high: float
    p: float
    q_p: float | None
    outcome: Outcome
    lowest: float
    highest: float

    @property
    def agree(self) -> bool:
        """Whether the strata may have one ratio."""
        return self.q_p is None or self.q_p >= 0.05


@dataclass(frozen=True)
class FamilyResult:
    """A family judged: its comparisons within strata, and what is pooled over them; ``shared`` are the fits where what
    its treatments share was taken out, ``left_in`` the comparisons as they end where it is not.
    """

    family: Family
    route: str
    comparisons: list[Judged]
    pooled: list[Over]
    shared: Fits | None = None
    left_in: tuple[Judged, ...] = ()


@dataclass(frozen=True)
class Setting:
    """What judging needs beside the rows (by letter): risk, smallest difference that matters (a share), whether
    what fell apart counts as 0, and what treatments share.
    """

    rows: Mapping[str, Row]
    alpha: float = 0.05
    matters: float = 0.10
    fallen_as_zero: bool = True
    shared: Shared | None = None


def judge_families(found: Sequence[Family], s: Setting) -> list[FamilyResult]:
    """Judge every family that stands; what is not made, or left out, is compared with nothing."""
    return [r for f in found if not f.struck and (r := _judge(f, s)).comparisons]


def judge_pair(first: Row, second: Row, s: Setting) -> Judged:
    """One comparison by itself, judged in the same way."""
    a, b = first.group, second.group
    family = Family("pair", ADDED, "", (Contrast("", a.label, b.label, (Within(a.letter, b.letter),)),))
    return _judge(family, replace(s, rows={a.letter: first, b.letter: second})).comparisons[0]


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
    told = [p for p in pairs if not _why_not(p, s)]
    used = {x for p in told for x in (p.first, p.second)}
    bounded = any(s.rows[x].summary.bounded for x in used)
    fits = fit_shared({x: s.rows[x] for x in used}, s.shared, fallen_as_zero=s.fallen_as_zero)
    if fits is not None and all(fits.together(p.first, p.second) for p in told):
        in_blocks = dict(zip(told, _by_blocks(told, fits, s), strict=True))
        over = [o for c in f.contrasts if len(c.pairs) > 1 and (o := _over(c, f, s, fits=fits)) is not None]
        plain = tuple(_judge(f, replace(s, shared=None)).comparisons)
        return FamilyResult(f, BLOCKS, [in_blocks.get(p) or _untold(p, s) for p in pairs], over, fits, plain)
    route = MEDIANS if bounded else MEANS
    judged = dict(zip(told, _by_medians(told, s) if bounded else _by_means(told, s), strict=True)) if told else {}
    comparisons = [judged[p] if p in judged else _untold(p, s) for p in pairs]
    over = [o for c in f.contrasts if len(c.pairs) > 1 and (o := _over(c, f, s, bounded=bounded)) is not None]
    return FamilyResult(f, route, comparisons, over)


def _why_not(p: Within, s: Setting) -> str:
    """Why two treatments cannot be compared at all; empty where they can."""
    for letter in (p.first, p.second):
        r = s.rows[letter]
        if r.summary.n == 0:
            return f"{r.group.label} {standing(r.group, r.summary).value}"
        if r.summary.n < WEAK_N:
            return too_few(r.summary.n, r.group.unit, r.group.label)
    return ""


def _untold(p: Within, s: Setting) -> Judged:
    return Judged(p.first, p.second, p.stratum, NONE, Outcome.UNKNOWN, why=_why_not(p, s))


def _all_in_wood(r: Row) -> bool:
    """Whether every piece of a treatment whose face was looked at gave way in the wood."""
    seen = [x for x in r.group.pieces if x.opened]
    return bool(seen) and all(x.in_wood for x in seen)


def _by_means(pairs: Sequence[Within], s: Setting) -> list[Judged]:
    letters = dict.fromkeys(x for p in pairs for x in (p.first, p.second))
    values = {x: values_of(s.rows[x].group, s.fallen_as_zero) for x in letters}
    sides = {x: contrasts.moments(own) for x, own in values.items()}
    p = [contrasts.welch(sides[x.first], sides[x.second]).p for x in pairs]
    known = [x for x in p if x is not None]
    adjusted, alphas = iter(holm(known)), step_alphas(known, s.alpha)
    tested = [(sides[x.first], sides[x.second]) for x, own in zip(pairs, p, strict=True) if own is not None]
    intervals = iter(zip(alphas, contrasts.ratios_by_welch(tested, alphas), strict=True))
    judged, wooden = [], {x: _all_in_wood(s.rows[x]) for x in letters}
    for pair, own in zip(pairs, p, strict=True):
        wood = wooden[pair.first] and wooden[pair.second]
        if own is None:
            judged.append(Judged(pair.first, pair.second, pair.stratum, NONE, Outcome.UNKNOWN,
                                 why="there is no scatter to judge by", of_wood=wood))  # fmt: skip
            continue
        p_holm, (alpha, ends) = next(adjusted), next(intervals)
        if ends is None:
            # Against next to nothing there is no ratio, but still a difference.
            apart = p_holm < s.alpha
            more = Outcome.BETTER if sides[pair.first].mean > sides[pair.second].mean else Outcome.WORSE
            found_out = more if apart else Outcome.UNKNOWN
            judged.append(Judged(pair.first, pair.second, pair.stratum, MEANS, found_out, p=p_holm, of_wood=wood))
            continue
        end = outcome_of_ratio(*ends, s.matters)
        ratio = sides[pair.first].mean / sides[pair.second].mean
        judged.append(Judged(pair.first, pair.second, pair.stratum, MEANS, end, ratio, max(0.0, ends[0]), ends[1],
                             p_holm, alpha=alpha, of_wood=wood))  # fmt: skip
    return judged


def _by_blocks(pairs: Sequence[Within], fits: Fits, s: Setting) -> list[Judged]:
    wooden = {x: _all_in_wood(s.rows[x]) for p in pairs for x in (p.first, p.second)}
    found = [fits.ratio(p.first, p.second) for p in pairs]
    p = [c.p for c in found]
    judged = []
    for pair, c, adjusted, alpha in zip(pairs, found, holm(p), step_alphas(p, s.alpha), strict=True):
        low, high = c.interval(alpha)
        judged.append(Judged(pair.first, pair.second, pair.stratum, BLOCKS, outcome_of_ratio(low, high, s.matters),
                             math.exp(c.value), low, high, adjusted, alpha=alpha,
                             of_wood=wooden[pair.first] and wooden[pair.second]))  # fmt: skip
    return judged


def _fitted(letters: Sequence[str], s: Setting) -> censored_intervals.Family:
    rows = [s.rows[x] for x in letters]
    smallest = smallest_figure(rows)
    return censored_intervals.family([bounds_of(r, smallest, fallen_as_zero=s.fallen_as_zero) for r in rows])


def _by_medians(pairs: Sequence[Within], s: Setting) -> list[Judged]:
    letters = list(dict.fromkeys(x for p in pairs for x in (p.first, p.second)))
    f = _fitted(letters, s)
    places = [(letters.index(p.first), letters.index(p.second)) for p in pairs]
    found = censored_intervals.ratios(f, places)
    # Of very many pairs only those are held against their order that have no fit.
    told = len(places) <= censored_intervals.MANY
    order = [gehan(f.groups[a], f.groups[b]) if told or r.p is None else None
             for (a, b), r in zip(places, found, strict=True)]  # fmt: skip
    wooden = {x: _all_in_wood(s.rows[x]) for x in letters}
    p = [
        r.p if r.p is not None else (g.p if g and not r.one_sided else None) for r, g in zip(found, order, strict=True)
    ]
    # A one-sided bound is a test too, and shares the risk with the others.
    count = sum(x is not None for x in p) + sum(r.one_sided for r in found)
    known = [x for x in p if x is not None] + [1.0] * sum(r.one_sided for r in found)
    adjusted, steps = iter(holm(known)), iter(step_alphas(known, s.alpha))
    alphas = [next(steps) if x is not None else s.alpha / max(1, count) for x in p]
    ends = censored_intervals.intervals(f, places, alphas)
    judged = []
    for pair, r, g, end, own in zip(pairs, found, order, ends, p, strict=True):
        by_order, wood = g.p if g else None, wooden[pair.first] and wooden[pair.second]
        p_holm = next(adjusted) if own is not None else None
        said = (pair.first, pair.second, pair.stratum)
        if end is not None:
            out = outcome_of_ratio(end.low, end.high, s.matters)
            judged.append(Judged(*said, MEDIANS, out, r.ratio, end.low, end.high, p_holm, by_order, of_wood=wood))
        elif own is not None and g is not None and p_holm is not None:
            apart = Outcome.BETTER if g.score > 0 else Outcome.WORSE
            out = apart if p_holm < s.alpha else Outcome.UNKNOWN
            judged.append(Judged(*said, ORDER, out, p=p_holm, by_order=by_order, of_wood=wood))
        else:
            why = r.reason or censored_intervals.TOO_FEW
            judged.append(Judged(*said, NONE, Outcome.UNKNOWN, by_order=by_order, why=why, of_wood=wood))
    return judged


def _over(c: Contrast, f: Family, s: Setting, *, bounded: bool = False, fits: Fits | None = None) -> Over | None:
    """A contrast over its strata; those without a ratio are left out, and named."""
    pairs = [p for p in c.pairs if p.first in s.rows and p.second in s.rows and not _why_not(p, s)]
    alpha = s.alpha / max(1, sum(len(x.pairs) > 1 for x in f.contrasts))
    if fits is not None:
        found = _pooled_blocks(pairs, fits, alpha)
    else:
        found = _pooled_medians(f, pairs, s, alpha) if bounded else _pooled_means(pairs, s, alpha)
    if found is None:
        return None
    used, ratio, low, high, p, q_p, single = found
    p = min(1.0, p * s.alpha / alpha)
    left_out = tuple(x.stratum for x in c.pairs if x not in used)
    return Over(c.name, c.first, c.second, len(used), left_out, ratio, low, high, p, q_p,
                outcome_of_ratio(low, high, s.matters), min(single), max(single))  # fmt: skip


_Pooled = tuple[list[Within], float, float, float, float, float | None, list[float]]


def _pooled_means(pairs: Sequence[Within], s: Setting, alpha: float) -> _Pooled | None:
    values = {x: values_of(s.rows[x].group, s.fallen_as_zero) for p in pairs for x in (p.first, p.second)}
    single = {p: contrasts.log_ratio(values[p.first], values[p.second]) for p in pairs}
    used = [p for p in pairs if single[p] is not None]
    over = contrasts.pooled([(values[p.first], values[p.second]) for p in used], 1 - alpha) if len(used) > 1 else None
    if over is None:
        return None
    ratios = [math.exp(r.log_ratio) for r in single.values() if r is not None]
    return used, over.ratio, over.low, over.high, over.p, over.q_p, ratios


def _pooled_blocks(pairs: Sequence[Within], fits: Fits, alpha: float) -> _Pooled | None:
    if len(pairs) < 2:
        return None
    over, q_p = over_pairs(fits, [(p.first, p.second) for p in pairs])
    low, high = over.interval(alpha)
    single = [math.exp(fits.ratio(p.first, p.second).value) for p in pairs]
    return list(pairs), math.exp(over.value), low, high, over.p, q_p, single


def _pooled_medians(f: Family, pairs: Sequence[Within], s: Setting, alpha: float) -> _Pooled | None:
    letters = list(dict.fromkeys(x for p in f.pairs for x in (p.first, p.second) if x in s.rows))
    fit = _fitted(letters, s)
    places = {p: (letters.index(p.first), letters.index(p.second)) for p in pairs}
    single = {p: r.ratio for p, r in zip(pairs, censored_intervals.ratios(fit, list(places.values())), strict=True)}
    used = [p for p in pairs if single[p] is not None]
    over = censored_intervals.pooled(fit, [places[p] for p in used], alpha) if len(used) > 1 else None
    if over is None:
        return None
    return used, over.ratio, over.low, over.high, over.p, over.q_p, [r for r in single.values() if r is not None]
