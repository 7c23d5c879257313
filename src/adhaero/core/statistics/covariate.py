"""A covariate within treatments: whether the figure goes along with the wood's density or moisture, all else alike.

The model is figure = treatment + slope x covariate, by least squares (analysis of covariance with one slope for all).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

LEAST = 8
"""Pieces below which a slope is not told."""


@dataclass(frozen=True)
class Slope:
    """The common slope with its standard error, degrees of freedom and p; ``means`` of the covariate by treatment."""

    slope: float
    se: float
    df: int
    p: float
    means: list[float]


def common_slope(values: Sequence[float], treatments: Sequence[int], covariate: Sequence[float]) -> Slope | None:
    """The slope within treatments (numbered from 0); ``None`` with too few pieces, or where the covariate does not vary
    within any treatment.
    """
    y, t, x = np.array(values, float), np.array(treatments, int), np.array(covariate, float)
    k = int(t.max(initial=-1)) + 1
    df = len(y) - k - 1
    if len(y) < LEAST or df < 1:
        return None
    x_means = np.array([x[t == i].mean() for i in range(k)])
    y_means = np.array([y[t == i].mean() for i in range(k)])
    dx, dy = x - x_means[t], y - y_means[t]
    sxx = float((dx**2).sum())
    if sxx <= 1e-12 * max(1.0, float((x**2).sum())):
        return None
    slope = float((dx * dy).sum()) / sxx
    rest = float(((dy - slope * dx) ** 2).sum())
    se = math.sqrt(rest / df / sxx)
    p = 2 * float(scipy.special.stdtr(df, -abs(slope / se))) if se > 0 else 0.0
    return Slope(slope, se, df, p, x_means.tolist())
