"""Whether a figure rises or falls along a numeric factor: a line with its lack of fit, and a test free of any shape.

The line is by least squares over x or over log x; its lack of fit holds the level means around the line against the
scatter within levels. Jonckheere and Terpstra count the pairs that rise with x, ties as half; the variance is
corrected for ties in both (M. G. Kendall, Rank Correlation Methods, 1970: a quarter of that of S).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from adhaero.core.statistics.curves import aicc
from adhaero.core.statistics.descriptive import t_quantile

Array = NDArray[np.float64]
NOTHING_LEFT = 1e-20
"""Share of the squares below which a line leaves no residual."""


@dataclass(frozen=True)
class Line:
    """The line; no standard error where it leaves no residual or no degree of freedom."""

    intercept: float
    slope: float
    df: int
    se: float | None
    t: float | None
    p: float | None
    ci_low: float | None
    ci_high: float | None
    centre: float
    spread_x: float
    rss: float
    total: float

    @property
    def residual(self) -> float | None:
        """Scatter around the line."""
        return math.sqrt(self.rss / self.df) if self.df > 0 else None

    @property
    def se_intercept(self) -> float | None:
        """Standard error of the value at 0."""
        return None if self.se is None else self.se * math.sqrt(self.spread_x / (self.df + 2) + self.centre**2)

    @property
    def aicc(self) -> float | None:
        """Akaike's criterion for few pieces, as of the other curves."""
        return aicc(self.df + 2, self.rss, 3)

    def band(self, x: float, level: float = 0.95) -> tuple[float, float] | None:
        """The interval of the mean at ``x``."""
        if self.se is None:
            return None
        within = self.spread_x / (self.df + 2) + (x - self.centre) ** 2
        half = t_quantile(level, self.df) * self.se * math.sqrt(within)
        middle = self.intercept + self.slope * x
        return middle - half, middle + half


@dataclass(frozen=True)
class LackOfFit:
    """How far the level means lie off the line."""

    sum_sq_lack: float
    df_lack: int
    sum_sq_pure: float
    df_pure: int
    f: float
    p: float


def line(x: Sequence[float], y: Sequence[float], level: float = 0.95) -> Line | None:
    """The least-squares line; ``None`` with one x only."""
    xs, ys = np.array(x, float), np.array(y, float)
    if len(set(x)) < 2:
        return None
    mx, my = math.fsum(x) / len(x), math.fsum(y) / len(y)
    sxx = float(((xs - mx) ** 2).sum())
    slope = float(((xs - mx) * (ys - my)).sum()) / sxx
    intercept = my - slope * mx
    rest, total = float(((ys - intercept - slope * xs) ** 2).sum()), float(((ys - my) ** 2).sum())
    df = len(x) - 2
    if df < 1 or rest <= NOTHING_LEFT * total or rest == 0:
        return Line(intercept, slope, df, None, None, None, None, None, mx, sxx, rest, total)
    se = math.sqrt(rest / df / sxx)
    t, half = slope / se, t_quantile(level, df) * se
    p = float(2 * scipy.special.stdtr(df, -abs(t)))
    return Line(intercept, slope, df, se, t, p, slope - half, slope + half, mx, sxx, rest, total)


def lack_of_fit(x: Sequence[float], y: Sequence[float], fitted: Line) -> LackOfFit | None:
    """The lack of fit of a line; ``None`` without three levels, a repeated one, and scatter within levels."""
    xs, ys = np.array(x, float), np.array(y, float)
    at, place = np.unique(xs, return_inverse=True)
    n = np.bincount(place)
    df_lack, df_pure = len(at) - 2, len(x) - len(at)
    if df_lack < 1 or df_pure < 1:
        return None
    means = np.bincount(place, ys) / n
    pure = float(((ys - means[place]) ** 2).sum())
    lack = float((n * (means - fitted.intercept - fitted.slope * at) ** 2).sum())
    if pure == 0:
        return None
    f = lack / df_lack / (pure / df_pure)
    return LackOfFit(lack, df_lack, pure, df_pure, f, float(scipy.special.fdtrc(df_lack, df_pure, f)))


@dataclass(frozen=True)
class Jonckheere:
    """``j`` pairs that rise, with the mean and variance of no trend; a falling trend has ``z`` below 0."""

    j: float
    mean: float
    variance: float
    z: float
    p: float


def jonckheere(x: Sequence[float], y: Sequence[float]) -> Jonckheere | None:
    """The test of a trend in any shape; ``None`` with one level, or where all values are equal."""
    xs, ys = np.array(x, float), np.array(y, float)
    if len(set(x)) < 2 or len(set(y)) < 2:
        return None
    above = xs[:, None] > xs[None, :]
    j = float((above * (ys[:, None] > ys[None, :])).sum() + (above * (ys[:, None] == ys[None, :])).sum() / 2)
    n = len(x)
    t, u = np.unique(xs, return_counts=True)[1].astype(float), np.unique(ys, return_counts=True)[1].astype(float)
    mean = (n * n - float((t * t).sum())) / 4

    def of_s(c: Array | float) -> float:
        return float(np.sum(c * (c - 1.0) * (2.0 * c + 5.0)))

    def pairs(c: Array) -> float:
        return float((c * (c - 1)).sum())

    def threes(c: Array) -> float:
        return float((c * (c - 1) * (c - 2)).sum())

    variance = (of_s(float(n)) - of_s(t) - of_s(u)) / 18 + pairs(t) * pairs(u) / (2 * n * (n - 1))
    if n > 2:
        variance += threes(t) * threes(u) / (9 * n * (n - 1) * (n - 2))
    variance /= 4
    z = (j - mean) / math.sqrt(variance)
    return Jonckheere(j, mean, variance, z, float(2 * scipy.special.ndtr(-abs(z))))
