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
from scipy import special

from adhaero.core.statistics.censored import Bounds, one_group
from adhaero.core.statistics.censored_groups import AT_LEAST, GroupsFit, Sample, fit_groups, sample
from adhaero.core.statistics.censored_likelihood import Array, Pieces, Shape, has_top, highest, pieces, with_median

_DOUBLINGS = 12
_HALVINGS = 40
_CLOSE = 1e-7


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
    return float(2 * special.stdtr(df, -t))


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
    allowed = threshold(float(special.stdtrit(failures - 1, 0.5 + level / 2)), failures, 1)
    best, middle = float(top.loglik[0]), top.log_median[:, 0]

    def fallen(at: Array) -> Array:
        return 2 * (best - with_median(shape, p, at)) - allowed

    reach = 3 * float(top.scale[0]) / math.sqrt(failures)
    low, high = (float(_ends(fallen, middle, reach, side)[0]) for side in (-1, 1))
    return Interval(math.exp(low), math.exp(high))


@dataclass(frozen=True)
class RatioOfMedians:
    """First over second treatment: ratio with its interval at the level, at that of the family, and p. An at-least
    ``first`` (or ``second``) has no ratio, but a one-sided bound.
    """

    ratio: float | None
    interval: Interval | None
    family: Interval | None
    p: float | None
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


def ratios(
    f: Family, pairs: Sequence[tuple[int, int]], level: float = 0.95, tests: int | None = None
) -> list[RatioOfMedians]:
    """Ratios of medians of these pairs (places in the family); ``tests`` is how many the family's level is shared by
    (Bonferroni), those in the model unless told.
    """
    if f.fit is None or f.df < 1:
        return [RatioOfMedians(None, None, None, None, TOO_FEW)] * len(pairs)
    place = {g: n for n, g in enumerate(f.sample.groups)}
    inside = [(n, place[a], place[b]) for n, (a, b) in enumerate(pairs) if a in place and b in place]
    found = [_one_sided(f, a, b, level) for a, b in pairs]
    if not inside:
        return found
    tests = len(inside) if tests is None else max(1, tests)
    best, location = f.fit.loglik, f.fit.top.location[0]
    first, second = np.array([a for _, a, _ in inside]), np.array([b for _, _, b in inside])
    middle = location[first] - location[second]
    profile = _profile(f, first, second)
    lr = 2 * (best - profile(np.zeros(len(inside))))
    ends = []
    for own_level in (level, 1 - (1 - level) / tests):
        t = float(special.stdtrit(f.df, 0.5 + own_level / 2))
        allowed = threshold(t, f.sample.failures, f.sample.k)

        def fallen(at: Array, allowed: float = allowed) -> Array:
            return 2 * (best - profile(at)) - allowed

        reach = 2 * t * f.fit.scale / math.sqrt(f.sample.failures / f.sample.k)
        ends.append([_ends(fallen, middle, reach, side) for side in (-1, 1)])
        if tests == 1:
            ends.append(ends[0])
            break
    for m, (n, _, _) in enumerate(inside):
        own, shared = (Interval(math.exp(low[m]), math.exp(high[m])) for low, high in ends)
        p = p_value(float(lr[m]), f.sample.failures, f.sample.k)
        found[n] = RatioOfMedians(math.exp(middle[m]), own, shared, p)
    return found


def _profile(f: Family, first: Array, second: Array) -> Callable[[Array], Array]:
    """The highest log likelihood where the log ratio of each pair is held: then both share a location, once the
    logarithms of the first are lowered by the ratio.
    """
    data, k = f.sample.data, f.sample.k
    group = data.group
    exact_in = np.array([int(((group == i) & data.exact).sum()) for i in range(k)])

    def profile(at: Array) -> Array:
        found = np.empty(len(at))
        for n, (a, b) in enumerate(zip(first, second, strict=True)):
            by = np.where(group == a, at[n], 0.0)
            merged = np.where(group == a, b, group)
            used = np.unique(merged)
            one = data.shifted(by, np.searchsorted(used, merged))
            found[n] = float(highest(f.shape, one, len(used)).loglik[0]) - at[n] * exact_in[a]
        return found

    return profile


def _one_sided(f: Family, first: int, second: int, level: float) -> RatioOfMedians:
    """A treatment without any failure against one in the model: its median lies above a bound that the likelihood,
    which rises to where it says nothing, has fallen to; one-sided.
    """
    reasons = f.sample.left_out
    upward = reasons.get(first) == AT_LEAST
    other = second if upward else first
    if f.fit is None or other in reasons or (not upward and reasons.get(second) != AT_LEAST):
        return RatioOfMedians(None, None, None, None, "neither has a median")
    free = first if upward else second
    low, high = np.array(f.groups[free], float).reshape(-1, 2).T
    place = f.sample.groups.index(other)
    extra = pieces(low, high, np.full(len(low), place, np.intp))
    data = f.sample.data
    own = slice(len(data.group), None)
    both = Pieces(np.append(data.low, extra.low), np.append(data.high, extra.high),
                  np.append(data.group, extra.group))  # fmt: skip
    best = f.fit.loglik
    t = float(special.stdtrit(f.df, level))
    allowed = threshold(t, f.sample.failures, f.sample.k)

    def fallen(at: Array) -> Array:
        by = np.zeros((len(at), len(both.group)))
        by[:, own] = at[:, None]
        return 2 * (best - highest(f.shape, both.shifted(by, both.group), f.sample.k).loglik) - allowed

    # Far up the likelihood is that of the others alone: the bound is met on the way down from there.
    start = np.array([float(extra.low.max() - f.fit.top.location[0, place]) + 8 * f.fit.scale])
    bound = float(_ends(fallen, start, f.fit.scale, -1)[0])
    if upward:
        return RatioOfMedians(None, Interval(math.exp(bound), math.inf), None, None, "none failed: at least")
    return RatioOfMedians(None, Interval(0.0, math.exp(-bound)), None, None, "none of the other failed: at most")
