"""Planned comparisons: each treatment against its own, within a stratum and pooled over strata; no variance is pooled.

Within a family tests are adjusted by Holm, intervals by Bonferroni. Ratios are of plain means: Fieller's interval, and
that of the logarithm by the delta method (a = s1^2/(n1 m1^2), b = s2^2/(n2 m2^2), Satterthwaite's degrees of freedom).
Pooled is the plain mean of the strata's log ratios, each counting alike; whether strata agree is told by Cochran's Q
(Biometrics 10, 1954).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

import scipy

from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.descriptive import antilog, t_quantile
from adhaero.core.statistics.pairwise import variance
from adhaero.core.statistics.ratio import Interval, ratio_of_means

Values = Sequence[float]


@dataclass(frozen=True)
class LogRatio:
    """The logarithm of a ratio of plain means, with what its interval rests on."""

    log_ratio: float
    se: float
    df: float
    p: float
    low: float
    high: float
    parts: tuple[tuple[float, int], tuple[float, int]]
    """Squared standard error and n of either side."""


class Moments(NamedTuple):
    """Of one side: how many, their mean, and its squared standard error (NaN of a single value)."""

    n: int
    mean: float
    v: float


def moments(values: Values) -> Moments:
    """What a comparison takes from one side."""
    n, mean = len(values), math.fsum(values) / len(values)
    return Moments(n, mean, variance(values, mean) / n)


def log_ratio(first: Values, second: Values, level: float = 0.95) -> LogRatio | None:
    """The log ratio of the means; ``None`` where a mean is not above 0, a side has one value, or neither any spread.
    ``low`` and ``high`` are of the ratio.
    """
    return _log_ratio(tuple(first), tuple(second), level)


# After one piece changed nearly all comparisons are asked for again with the very same figures.
@lru_cache(maxsize=8192)
def _log_ratio(first: tuple[float, ...], second: tuple[float, ...], level: float) -> LogRatio | None:
    return log_ratio_of(moments(first), moments(second), level)


def log_ratio_of(first: Moments, second: Moments, level: float = 0.95) -> LogRatio | None:
    """The same from what is known of both sides."""
    if min(first.n, second.n) < 2 or min(first.mean, second.mean) <= 0 or first.v + second.v == 0:
        return None
    a, b = first.v / first.mean**2, second.v / second.mean**2
    parts, total = ((a, first.n), (b, second.n)), a + b
    df = satterthwaite(parts)
    middle, se = math.log(first.mean / second.mean), math.sqrt(total)
    half = t_quantile(level, df) * se
    p = float(2 * scipy.special.stdtr(df, -abs(middle / se)))
    return LogRatio(middle, se, df, p, antilog(middle - half), antilog(middle + half), parts)


def satterthwaite(parts: Sequence[tuple[float, int]]) -> float:
    """Degrees of freedom of a sum of variances, each of n values."""
    return math.fsum(v for v, _ in parts) ** 2 / math.fsum(v * v / (n - 1) for v, n in parts)


@dataclass(frozen=True)
class Contrast:
    """One comparison of a family. ``None`` is undefined: a side with one value has no test, and no spread none."""

    n: tuple[int, int]
    means: tuple[float, float]
    diff: float
    se: float | None
    df: float | None
    t: float | None
    p: float | None
    p_holm: float | None
    ci_low: float | None
    ci_high: float | None
    low_family: float | None
    high_family: float | None
    ratio: float | None
    fieller: Interval | None
    log_ratio: LogRatio | None


def family(pairs: Sequence[tuple[Values, Values]], level: float = 0.95, tests: int | None = None) -> list[Contrast]:
    """The comparisons of one family, first against second. ``tests`` is by how many the level is shared; those that
    have a p, unless told.
    """
    tests_ = [welch(moments(a), moments(b)) for a, b in pairs]
    known = [w.p for w in tests_ if w.p is not None]
    adjusted = iter(holm(known))
    share = max(1, len(known) if tests is None else tests)
    shared = 1 - (1 - level) / share
    return [_contrast(a, b, w, level, shared, adjusted) for (a, b), w in zip(pairs, tests_, strict=True)]


class Welch(NamedTuple):
    """Welch's test of two means; ``None`` of a single value, or without any spread."""

    diff: float
    se: float | None = None
    df: float | None = None
    t: float | None = None
    p: float | None = None


def welch(first: Moments, second: Moments) -> Welch:
    """The test of two means, each with a variance of its own."""
    diff = first.mean - second.mean
    if min(first.n, second.n) < 2 or first.v + second.v == 0:
        return Welch(diff)
    df = satterthwaite(((first.v, first.n), (second.v, second.n)))
    se = math.sqrt(first.v + second.v)
    return Welch(diff, se, df, diff / se, float(2 * scipy.special.stdtr(df, -abs(diff / se))))


def _contrast(a: Values, b: Values, w: Welch, level: float, shared: float, adjusted: Iterator[float]) -> Contrast:
    means = math.fsum(a) / len(a), math.fsum(b) / len(b)
    ends: tuple[float | None, ...] = (None,) * 4
    p_holm = None
    if w.p is not None and w.df is not None and w.se is not None:
        p_holm = next(adjusted)
        own, wide = (t_quantile(x, w.df) * w.se for x in (level, shared))
        ends = w.diff - own, w.diff + own, w.diff - wide, w.diff + wide
    ratio = ratio_of_means(a, b, level)
    return Contrast(
        (len(a), len(b)), means, w.diff, w.se, w.df, w.t, w.p, p_holm, ends[0], ends[1], ends[2], ends[3],
        ratio.ratio if ratio else None, ratio.fieller if ratio else None, log_ratio(a, b, level),
    )  # fmt: skip


@dataclass(frozen=True)
class Pooled:
    """The same comparison over ``strata``: the mean of the log ratios. ``q`` is Cochran's, with its p, of one ratio in
    all strata.
    """

    strata: int
    log_ratio: float
    se: float
    df: float
    t: float
    p: float
    ratio: float
    low: float
    high: float
    q: float | None
    q_df: int | None
    q_p: float | None


def pooled(strata: Sequence[tuple[Values, Values]], level: float = 0.95) -> Pooled | None:
    """Pool the ratios of strata that share no treatment; ``None`` where one of them has no log ratio."""
    own = [log_ratio(a, b, level) for a, b in strata]
    known = [r for r in own if r is not None]
    if not known or len(known) < len(own):
        return None
    k = len(known)
    middle, se = math.fsum(r.log_ratio for r in known) / k, math.sqrt(math.fsum(r.se**2 for r in known)) / k
    df = satterthwaite([part for r in known for part in r.parts])
    half = t_quantile(level, df) * se
    q = q_p = None
    if k > 1:
        weights = [1 / r.se**2 for r in known]
        centre = math.fsum(w * r.log_ratio for w, r in zip(weights, known, strict=True)) / math.fsum(weights)
        q = math.fsum(w * (r.log_ratio - centre) ** 2 for w, r in zip(weights, known, strict=True))
        q_p = float(scipy.special.chdtrc(k - 1, q))
    return Pooled(
        k, middle, se, df, middle / se, float(2 * scipy.special.stdtr(df, -abs(middle / se))), math.exp(middle),
        antilog(middle - half), antilog(middle + half), q, k - 1 if k > 1 else None, q_p,
    )  # fmt: skip
