"""The lower limit that all but a share of the pieces will pass, with a stated confidence (a characteristic value).

``mean - k sd`` with k from the noncentral t: k = t(confidence; n - 1, z(1 - share) sqrt n) / sqrt n (D. B. Owen 1968).
Lognormal: the same on logarithms.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from adhaero.core.statistics.censored_likelihood import Shape
from adhaero.core.statistics.descriptive import summarise

LEAST = 5
"""Pieces below which the limit is worked out, but means little."""


@dataclass(frozen=True)
class LowerLimit:
    """The limit with the mean and SD it rests on (of logarithms where lognormal)."""

    n: int
    mean: float
    sd: float
    k: float
    limit: float


def factor(n: int, share: float = 0.05, confidence: float = 0.75) -> float:
    """How many SDs below the mean the limit lies with ``n`` pieces."""
    from scipy import stats

    root = math.sqrt(n)
    return float(stats.nct.ppf(confidence, n - 1, float(scipy.special.ndtri(1 - share)) * root)) / root


def lower_limit(
    values: Sequence[float], shape: Shape | None = None, share: float = 0.05, confidence: float = 0.75
) -> LowerLimit | None:
    """The limit by the normal (``shape`` none) or the lognormal; ``None`` with one value, or a logarithm of 0."""
    if len(values) < 2 or (shape is not None and min(values) <= 0):
        return None
    s = summarise(values if shape is None else [float(v) for v in np.log(values)])
    if s.mean is None or s.sd is None:
        return None
    k = factor(s.n, share, confidence)
    limit = s.mean - k * s.sd
    return LowerLimit(s.n, s.mean, s.sd, k, limit if shape is None else math.exp(limit))
