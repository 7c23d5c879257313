"""Values that lie apart: advice, never an exclusion.

Grubbs (Technometrics 11, 1969) for one, and the generalised ESD test for up to three (B. Rosner, Technometrics 25,
1983), both two-sided: the number of outliers is the last step whose statistic passes.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import scipy

from adhaero.core.statistics.pairwise import variance


@dataclass(frozen=True)
class Grubbs:
    """The value farthest off the mean (by its place), with its statistic, p and critical value."""

    suspect: int
    g: float
    p: float
    critical: float

    @property
    def outlier(self) -> bool:
        """Whether it lies apart."""
        return self.g > self.critical


@dataclass(frozen=True)
class Rosner:
    """The steps: statistic, its critical value, and the place of what is taken out; how many lie apart."""

    r: list[float]
    critical: list[float]
    removed: list[int]
    outliers: int


def grubbs(values: Sequence[float], alpha: float = 0.05) -> Grubbs | None:
    """Test of the farthest value; ``None`` with fewer than three, or no spread."""
    n = len(values)
    if n < 3 or min(values) == max(values):
        return None
    suspect, g = _farthest(list(enumerate(values)))
    left = (n - 1) ** 2 - n * g * g
    p = 0.0
    # The largest value that G can take leaves the others without spread.
    if left > 1e-9 * (n - 1) ** 2:
        t = math.sqrt(n * (n - 2) * g * g / left)
        p = min(1.0, 2 * n * float(scipy.special.stdtr(n - 2, -t)))
    return Grubbs(suspect, g, p, _critical(n, alpha))


def rosner(values: Sequence[float], most: int = 3, alpha: float = 0.05) -> Rosner:
    """Test of up to ``most`` values; it stops where no spread is left."""
    left = list(enumerate(values))
    r: list[float] = []
    critical: list[float] = []
    removed: list[int] = []
    for _ in range(min(most, len(values) - 2)):
        own = [v for _, v in left]
        if min(own) == max(own):
            break
        place, statistic = _farthest(left)
        r.append(statistic)
        critical.append(_critical(len(left), alpha))
        removed.append(place)
        left = [(i, v) for i, v in left if i != place]
    found = max((i + 1 for i, (own, limit) in enumerate(zip(r, critical, strict=True)) if own > limit), default=0)
    return Rosner(r, critical, removed, found)


def _farthest(values: Sequence[tuple[int, float]]) -> tuple[int, float]:
    """The place of the value farthest off the mean (of equals the first), and how many SDs that is."""
    own = [v for _, v in values]
    mean = math.fsum(own) / len(own)
    sd = math.sqrt(variance(own, mean))
    # Equal distances may differ in their last digit: the first of them is named.
    far = max(abs(v - mean) for v in own)
    place = next(i for i, v in values if abs(v - mean) >= far * (1 - 1e-12))
    return place, far / sd


def _critical(n: int, alpha: float) -> float:
    t = -float(scipy.special.stdtrit(n - 2, alpha / (2 * n)))
    return (n - 1) * t / math.sqrt(n * (n - 2 + t * t))
