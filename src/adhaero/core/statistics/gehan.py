"""Two treatments with bounds, free of any shape: Gehan's scores on intervals, with a permutation test.

A piece scores +1 for each that it is surely above, -1 for each that it is surely below, 0 where the bounds overlap
(E. A. Gehan, Biometrika 52, 1965). The sum of the scores of one treatment is held against those of all ways to deal
the pieces out; where those are very many, against the normal distribution with their mean and variance.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
import scipy
from numpy.typing import NDArray

from adhaero.core.statistics.censored import Bounds

ALL_WAYS = 20_000


@dataclass(frozen=True)
class Gehan:
    """``score`` is above 0 where the first is higher; ``exact`` whether all ways were counted."""

    score: int
    p: float
    exact: bool


def scores(data: Sequence[Bounds]) -> NDArray[np.int64]:
    """The score of each piece among all of them."""
    low, high = np.array(data, float).reshape(-1, 2).T
    exact = low == high
    # Where one ends as another begins the order is known, unless both are that very value.
    below = (high[:, None] <= low[None, :]) & ~(exact[:, None] & exact[None, :] & (low[:, None] == low[None, :]))
    below &= ~np.eye(len(low), dtype=bool)
    return np.asarray(below.sum(0) - below.sum(1))


def gehan(first: Sequence[Bounds], second: Sequence[Bounds]) -> Gehan | None:
    """The test of two treatments; ``None`` where either is empty or nothing is surely above another."""
    own = scores([*first, *second])
    if not first or not second or not own.any():
        return None
    n, m = len(own), len(first)
    seen = int(own[:m].sum())
    exact = math.comb(n, m) <= ALL_WAYS
    if exact:
        sums = np.array([own[list(way)].sum() for way in combinations(range(n), m)])
        p = float((np.abs(sums) >= abs(seen)).mean())
    else:
        variance = m * (n - m) / (n * (n - 1)) * float((own * own).sum())
        p = float(2 * scipy.special.ndtr(-abs(seen) / math.sqrt(variance)))
    return Gehan(seen, p, exact)
