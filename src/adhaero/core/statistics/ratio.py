"""Ratios of two treatments with honest intervals: joint efficiency, retention.

Sources: Fieller 1954 (J. R. Statist. Soc. B 16), with separate variances and Satterthwaite's degrees of freedom at the
estimated ratio; the ratio of geometric means by Welch's interval of the difference of logarithms.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import scipy

from adhaero.core.statistics.descriptive import antilog, t_quantile
from adhaero.core.statistics.pairwise import variance


@dataclass(frozen=True)
class Interval:
    """An interval of a ratio. ``g >= 1`` means that the denominator is not clearly above 0: then it has no two ends,
    but a lower one (``low_without_high``) where the numerator is clear of 0.
    """

    df: float
    g: float
    ci_low: float | None
    ci_high: float | None
    low_without_high: float | None = None


@dataclass(frozen=True)
class LogRatio:
    """The logarithm of a ratio with its standard error, degrees of freedom and two-sided p."""

    log_ratio: float
    se: float
    df: float
    p: float

    @classmethod
    def of(cls, log_ratio: float, se: float, df: float) -> LogRatio:
        """With the p of no difference, by Student's t."""
        return cls(log_ratio, se, df, float(2 * scipy.special.stdtr(df, -abs(log_ratio / se))))

    @property
    def ratio(self) -> float:
        """The ratio itself."""
        return math.exp(self.log_ratio)

    def interval(self, level: float) -> tuple[float, float]:
        """Return the two-sided interval of the ratio."""
        half = t_quantile(level, self.df) * self.se
        return antilog(self.log_ratio - half), antilog(self.log_ratio + half)


@dataclass(frozen=True)
class Geometric:
    """Ratio of geometric means; without interval where a group has one value or neither any spread."""

    ratio: float
    df: float | None
    ci_low: float | None
    ci_high: float | None


@dataclass(frozen=True)
class Ratio:
    """Ratio of means with its intervals; ``None`` where undefined, with the reason in ``reason``."""

    ratio: float
    fieller: Interval | None
    pooled: Interval | None
    geometric: Geometric | None
    reason: str | None


def _fieller(r: float, m2: float, v1: float, v2: float, df: float, level: float) -> Interval:
    t = t_quantile(level, df)
    g = t * t * v2 / (m2 * m2)
    if g >= 1:
        return Interval(df, g, None, None, fieller_low(r * m2, m2, v1, v2, t))
    root = t / m2 * math.sqrt(max(0.0, v1 * (1 - g) + r * r * v2))
    return Interval(df, g, (r - root) / (1 - g), (r + root) / (1 - g))


def fieller_low(m1: float, m2: float, v1: float, v2: float, t: float) -> float | None:
    """The lower root of (m1 - r m2)^2 = t^2 (v1 + r^2 v2); ``None`` where neither mean is clear of 0."""
    clear1, clear2 = m1 * m1 - t * t * v1, m2 * m2 - t * t * v2
    if clear1 <= 0 and clear2 <= 0:
        return None
    root = math.sqrt(max(0.0, m1 * m1 * m2 * m2 - clear1 * clear2))
    return clear1 / (m1 * m2 + root)


def _geometric(a: Sequence[float], b: Sequence[float], level: float) -> Geometric | None:
    if min(a) <= 0 or min(b) <= 0:
        return None
    la, lb = [math.log(v) for v in a], [math.log(v) for v in b]
    ma, mb = math.fsum(la) / len(la), math.fsum(lb) / len(lb)
    ratio = math.exp(ma - mb)
    if min(len(a), len(b)) < 2:
        return Geometric(ratio, None, None, None)
    va, vb = variance(la, ma) / len(la), variance(lb, mb) / len(lb)
    if va + vb == 0:
        return Geometric(ratio, None, None, None)
    df = (va + vb) ** 2 / (va**2 / (len(la) - 1) + vb**2 / (len(lb) - 1))
    half = t_quantile(level, df) * math.sqrt(va + vb)
    return Geometric(ratio, df, ratio * antilog(-half), ratio * antilog(half))


def ratio_of_means(numerator: Sequence[float], denominator: Sequence[float], level: float = 0.95) -> Ratio | None:
    """Mean of ``numerator`` over mean of ``denominator``, two independent treatments.

    ``None`` if either is empty or the denominator's mean is 0.
    """
    if not numerator or not denominator:
        return None
    n1, n2 = len(numerator), len(denominator)
    m1, m2 = math.fsum(numerator) / n1, math.fsum(denominator) / n2
    if m2 == 0:
        return None
    r = m1 / m2
    geometric = _geometric(numerator, denominator, level)
    if min(n1, n2) < 2:
        return Ratio(r, None, None, geometric, "a group of one specimen has no variance")
    s1, s2 = variance(numerator, m1), variance(denominator, m2)
    if s1 == 0 and s2 == 0:
        return Ratio(r, None, None, geometric, "neither group has any spread")
    v1, v2 = s1 / n1, s2 / n2
    pooled_variance = ((n1 - 1) * s1 + (n2 - 1) * s2) / (n1 + n2 - 2)
    pooled = _fieller(r, m2, pooled_variance / n1, pooled_variance / n2, n1 + n2 - 2, level)
    lower = v1**2 / (n1 - 1) + r**4 * v2**2 / (n2 - 1)
    if lower == 0:
        reason = "all values of the numerator are zero: its degrees of freedom cannot be told"
        return Ratio(r, None, pooled, geometric, reason)
    fieller = _fieller(r, m2, v1, v2, (v1 + r * r * v2) ** 2 / lower, level)
    reason_g = "the reference is not clearly above zero" if fieller.g >= 1 else None
    return Ratio(r, fieller, pooled, geometric, reason_g)
