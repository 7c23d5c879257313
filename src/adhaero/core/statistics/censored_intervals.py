"""Intervals and tests that hold with few pieces and many bounds: profile likelihood, calibrated.

The plain likelihood ratio LR is too sure of itself with few pieces. With d failures (those between two loads count) and
k locations, LR = d log(1 + t^2 / (d - k)), and t has d - k degrees of freedom. With exact data that is the t interval
of the logarithms; with bounds it is held against simulation in ``benchmarks/coverage.py``. Nothing is said with
d <= k.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from adhaero.core.statistics.censored import Bounds, one_group
from adhaero.core.statistics.censored_groups import AT_LEAST, GroupsFit, Sample, fit_groups, sample
from adhaero.core.statistics.censored_likelihood import Array, Pieces, Shape, has_top, highest, pieces, with_median
from adhaero.core.statistics.descriptive import antilog

_DOUBLINGS = 12
_HALVINGS = 40
_CLOSE = 1e-6
FEW = 1.2
"""By what the threshold of a median is raised where only two pieces failed and others are bounds: with bounds on most
pieces it covered 93.5 % without and 95.2 % with it (n = 3, 1,000 intervals each, ``benchmarks/coverage.py``).
"""


@dataclass(frozen=True)
class Interval:
    """An interval of a median or a ratio in its own unit; an infinite end was not found."""

    low: float
    high: float


def threshold(t: float, failures: int, locations: int) -> float:
    """How far twice the log likelihood may fall at a quantile ``t``."""
    df = failures - locations
    return failures * math.log1p(t * t / df)


def p_value(lr: float, failures: int, locations: int) -> float:
    """Two-sided p of a likelihood ratio."""
    df = failures - locations
    t = math.sqrt(max(0.0, math.expm1(lr / failures)) * df)
    return float(2 * scipy.special.stdtr(df, -t))


def _ends(profile: Callable[[Array], Array], middle: Array, reach: float, side: int) -> Array:
    """Where ``profile`` (how far twice the log likelihood has fallen, less what is allowed) crosses 0, from ``middle``
    outwards on one ``side``; infinite where it stays below.
    """
    inside, width = middle.copy(), np.full(len(middle), reach)
    outside = inside + side * width
    open_ = np.ones(len(middle), bool)
    for _ in range(_DOUBLINGS):
        below = profile(outside) < 0
        open_ &= below
        if not open_.any():
            break
        inside = np.where(open_, outside, inside)
        width = np.where(open_, 2 * width, width)
        outside = np.where(open_, inside + side * width, outside)
    for _ in range(_HALVINGS):
        half = (inside + outside) / 2
        below = profile(half) < 0
        inside, outside = np.where(below, half, inside), np.where(below, outside, half)
        if np.abs(outside - inside)[~open_].max(initial=0.0) < _CLOSE:
            break
    return np.where(open_, side * math.inf, (inside + outside) / 2)


def median_interval(data: Sequence[Bounds], shape: Shape, level: float = 0.95) -> Interval | None:
    """The interval of the median of one treatment; ``None`` with fewer than two failures, or no estimate."""
    p = one_group(data)
    failures = int(np.isfinite(p.high).sum())
    if failures < 2 or not has_top(p):
        return None
    top = highest(shape, p, 1)
    allowed = threshold(float(scipy.special.stdtrit(failures - 1, 0.5 + level / 2)), failures, 1)
    if failures == 2 < len(p.high):
        allowed *= FEW
    best, middle = float(top.loglik[0]), top.log_median[:, 0]

    def fallen(at: Array) -> Array:
        return 2 * (best - with_median(shape, p, at)) - allowed

    reach = 3 * float(top.scale[0]) / math.sqrt(failures)
    low, high = (float(_ends(fallen, middle, reach, side)[0]) for side in (-1, 1))
    return Interval(antilog(low), antilog(high))


@dataclass(frozen=True)
class RatioOfMedians:
    """First over second treatment with p. ``one_sided`` where only one of them failed at all: then there is no ratio,
    but a bound of it may be found; without either the ``reason`` says why.
    """

    ratio: float | None
    p: float | None
    one_sided: bool = False
    reason: str | None = None


@dataclass(frozen=True)
class Family:
    """Treatments compared with one scale. ``fit`` is ``None`` where nothing can be estimated."""

    groups: Sequence[Sequence[Bounds]]
    sample: Sample
    fit: GroupsFit | None
    shape: Shape

    @property
    def df(self) -> int:
        """What is left to judge the scatter by."""
        return self.sample.failures - self.sample.k


def family(groups: Sequence[Sequence[Bounds]], shape: Shape = "lognormal") -> Family:
    """Fit the treatments of one family."""
    s = sample(groups)
    return Family(groups, s, fit_groups(s, shape) if s.groups else None, shape)


TOO_FEW = "too few failures to judge the scatter by"
MANY = 40
"""Pairs from which on the profile of each takes too long: then by Wald's standard error, raised by sqrt(d / (d - k)).
With exact data both are the same.
"""
NEITHER = "neither failed at a load that is known"


def ratios(f: Family, pairs: Sequence[tuple[int, int]]) -> list[RatioOfMedians]:
    """Ratios of medians of these pairs (places in the family), each with its p."""
    if f.fit is None or f.df < 1:
        return [RatioOfMedians(None, None, reason=TOO_FEW)] * len(pairs)
    found = []
    inside = _inside(f, pairs)
    logs, se = _wald(f, inside)
    if len(inside) > MANY:
        p = 2 * scipy.special.stdtr(f.df, -np.abs(logs / se))
    else:
        fallen = 2 * (f.fit.loglik - _profile(f, inside)(np.zeros(len(inside))))
        p = np.array([p_value(float(x), f.sample.failures, f.sample.k) for x in fallen])
    known = {pair: (math.exp(logs[n]), float(p[n])) for n, pair in enumerate(inside)}
    place = set(f.sample.groups)
    for a, b in pairs:
        if (a, b) in known:
            found.append(RatioOfMedians(*known[a, b]))
            continue
        out = {g for g in (a, b) if g not in place}
        one_sided = len(out) == 1 and f.sample.left_out[min(out)] == AT_LEAST
        found.append(RatioOfMedians(None, None, one_sided, NEITHER if len(out) > 1 else f.sample.left_out[min(out)]))
    return found


def intervals(f: Family, pairs: Sequence[tuple[int, int]], alphas: Sequence[float]) -> list[Interval | None]:
    """Intervals of these ratios, each at a level ``1 - alpha`` of its own; a one-sided bound where one of the two never
    failed; ``None`` where there is neither.
    """
    if f.fit is None or f.df < 1:
        return [None] * len(pairs)
    inside, best = _inside(f, pairs), f.fit.loglik
    by_pair = dict(zip(pairs, alphas, strict=True))
    t = np.array([float(scipy.special.stdtrit(f.df, 1 - by_pair[pair] / 2)) for pair in inside])
    middle, se = _wald(f, inside)
    found: dict[tuple[int, int], Interval | None] = {}
    if len(inside) > MANY:
        low, high = middle - t * se, middle + t * se
    elif inside:
        allowed = np.array([threshold(x, f.sample.failures, f.sample.k) for x in t])
        profile = _profile(f, inside)

        def fallen(at: Array) -> Array:
            return np.asarray(2 * (best - profile(at)) - allowed)

        reach = float(2 * t.max(initial=1.0) * f.fit.scale / math.sqrt(f.sample.failures / f.sample.k))
        low, high = (_ends(fallen, middle, reach, side) for side in (-1, 1))
    if inside:
        found = {pair: Interval(antilog(low[n]), antilog(high[n])) for n, pair in enumerate(inside)}
    return [found[p] if p in found else _one_sided(f, *p, alpha) for p, alpha in zip(pairs, alphas, strict=True)]


def _wald(f: Family, pairs: Sequence[tuple[int, int]]) -> tuple[Array, Array]:
    """Log ratios of pairs in the model, and their standard errors raised by sqrt(d / (d - k))."""
    assert f.fit is not None
    place = {g: n for n, g in enumerate(f.sample.groups)}
    a = np.array([place[x] for x, _ in pairs], int)
    b = np.array([place[x] for _, x in pairs], int)
    location, v = f.fit.top.location[0], f.fit.covariance * f.sample.failures / f.df
    return location[a] - location[b], np.sqrt(v[a, a] + v[b, b] - 2 * v[a, b])


def _inside(f: Family, pairs: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """The pairs of which both are in the model."""
    used = set(f.sample.groups)
    return [p for p in dict.fromkeys(pairs) if used.issuperset(p)]


@dataclass(frozen=True)
class PooledMedians:
    """The mean log ratio over strata, with t of d - k degrees of freedom, and what bounds add to them; ``q`` of one
    ratio in all strata.
    """

    strata: int
    ratio: float
    low: float
    high: float
    p: float
    q_p: float | None


def _told_by_bounds(f: Family) -> float:
    """What the bounds tell of the scatter, in failures: of each the share of pieces that lie below it by the fit.

    A bound far below all failures tells nothing; one that half of the pieces would not have held, half of a failure.
    Without them over 99 % of the pooled intervals cover (three or six pieces, six bounds of ten); with them 94 to 99 %
    (``benchmarks/coverage.py``).
    """
    assert f.fit is not None
    data, top = f.sample.data, f.fit.top
    held = np.isinf(data.high) & (data.high > 0)
    z = (data.low[held] - top.location[0][data.group[held]]) / top.scale[0]
    below = scipy.special.ndtr(z) if f.shape == "lognormal" else -np.expm1(-np.exp(z))
    return float(below.sum())


def pooled(f: Family, strata: Sequence[tuple[int, int]], alpha: float = 0.05) -> PooledMedians | None:
    """Pool the log ratios of strata of which both treatments are in the model. Wald's standard error, raised by
    sqrt(d / (d - k)): with exact data that is the t interval of the logarithms with one variance. Bounds count
    in d for what they tell (``_told_by_bounds``).
    """
    inside = _inside(f, strata)
    if f.fit is None or f.df < 1 or not inside:
        return None
    place = {g: n for n, g in enumerate(f.sample.groups)}
    k = f.sample.k
    each = np.zeros((len(inside), k + 1))
    for n, (a, b) in enumerate(inside):
        each[n, place[a]] += 1
        each[n, place[b]] -= 1
    told = _told_by_bounds(f)
    df = f.df + told
    v = f.fit.covariance * (f.sample.failures + told) / df
    logs, covariance = each[:, :k] @ f.fit.top.location[0], each @ v @ each.T
    middle, se = float(logs.mean()), math.sqrt(float(covariance.mean()))
    half = float(scipy.special.stdtrit(df, 1 - alpha / 2)) * se
    q_p = None
    if len(inside) > 1:
        off = logs[1:] - logs[0]
        turn = np.hstack([-np.ones((len(inside) - 1, 1)), np.eye(len(inside) - 1)])
        q = float(off @ np.linalg.pinv(turn @ covariance @ turn.T) @ off) / (len(inside) - 1)
        q_p = float(scipy.special.fdtrc(len(inside) - 1, df, q))
    return PooledMedians(
        len(inside), antilog(middle), antilog(middle - half), antilog(middle + half),
        float(2 * scipy.special.stdtr(df, -abs(middle / se))), q_p,
    )  # fmt: skip


def _profile(f: Family, pairs: Sequence[tuple[int, int]]) -> Callable[[Array], Array]:
    """The highest log likelihood where the log ratio of each pair is held: then both share a location, once the
    logarithms of the first are lowered by the ratio.
    """
    data, k = f.sample.data, f.sample.k
    place = {g: n for n, g in enumerate(f.sample.groups)}
    first = np.array([data.group == place[a] for a, _ in pairs], bool)
    first = first.reshape(len(pairs), len(data.group))
    merged = np.where(first, np.array([[place[b]] for _, b in pairs], int).reshape(-1, 1), data.group)
    # The last place takes the one that is left over, so that places run on without a gap.
    left_over = np.array([[place[a]] for a, _ in pairs], int).reshape(-1, 1)
    merged = np.where(merged == k - 1, left_over, merged).astype(np.intp)
    exact = (first & data.exact).sum(1)

    def profile(at: Array) -> Array:
        if not len(at):
            return np.empty(0)
        one = data.shifted(np.where(first, at[:, None], 0.0), merged)
        return np.asarray(highest(f.shape, one, k - 1).loglik - at * exact)

    return profile


def _one_sided(f: Family, first: int, second: int, alpha: float) -> Interval | None:
    """A treatment without any failure against one in the model: its median lies above a bound that the likelihood,
    which rises to where it says nothing, has fallen to; one-sided.
    """
    reasons = f.sample.left_out
    upward = reasons.get(first) == AT_LEAST
    other, free = (second, first) if upward else (first, second)
    if f.fit is None or other in reasons or reasons.get(free) != AT_LEAST:
        return None
    low, high = np.array(f.groups[free], float).reshape(-1, 2).T
    place, data = f.sample.groups.index(other), f.sample.data
    extra = pieces(low, high, np.full(len(low), place, np.intp))
    own = slice(len(data.group), None)
    both = Pieces(np.append(data.low, extra.low), np.append(data.high, extra.high),
                  np.append(data.group, extra.group))  # fmt: skip
    best = f.fit.loglik
    allowed = threshold(float(scipy.special.stdtrit(f.df, 1 - alpha)), f.sample.failures, f.sample.k)

    def fallen(at: Array) -> Array:
        by = np.zeros((len(at), len(both.group)))
        by[:, own] = at[:, None]
        return 2 * (best - highest(f.shape, both.shifted(by, both.group), f.sample.k).loglik) - allowed

    # Far up the likelihood is that of the others alone: the bound is met on the way down from there.
    start = np.array([float(extra.low.max() - f.fit.top.location[0, place]) + 8 * f.fit.scale])
    bound = float(_ends(fallen, start, f.fit.scale, -1)[0])
    return Interval(antilog(bound), math.inf) if upward else Interval(0.0, antilog(-bound))
