"""Treatments by ranks: Kruskal and Wallis (1952) with tie correction, and Dunn's pairs (1964), adjusted by Holm."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from adhaero.core.statistics.adjust import holm

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Kruskal:
    """Kruskal-Wallis with tie correction."""

    h: float
    df: int
    p: float


def kruskal_wallis(groups: Sequence[Sequence[float]]) -> Kruskal | None:
    """Rank test of one distribution for all; ``None`` when all values are equal."""
    if len(groups) < 2 or len({v for g in groups for v in g}) < 2:
        return None
    mean_ranks, sizes, tie_loss = _mean_ranks(groups)
    n = int(sizes.sum())
    spread = float((sizes * (mean_ranks - (n + 1) / 2) ** 2).sum())
    h = 12 / (n * (n + 1)) * spread / (1 - tie_loss / (n**3 - n))
    return Kruskal(h, len(groups) - 1, float(scipy.special.chdtrc(len(groups) - 1, h)))


def _mean_ranks(groups: Sequence[Sequence[float]]) -> tuple[Array, Array, float]:
    """Mean rank of each group over all data (ties share their mean rank), the sizes, and sum(t^3 - t) of the ties."""
    values = np.concatenate([np.asarray(g, float) for g in groups])
    _, place, ties = np.unique(values, return_inverse=True, return_counts=True)
    ranks = (np.cumsum(ties) - (ties - 1) / 2)[place]
    sizes = np.array([len(g) for g in groups], float)
    starts = np.cumsum([0, *sizes[:-1]]).astype(int)
    return np.add.reduceat(ranks, starts) / sizes, sizes, float((ties.astype(float) ** 3 - ties).sum())


@dataclass(frozen=True)
class RankPair:
    """Dunn's comparison of mean ranks; ``p_holm`` is adjusted over all pairs."""

    first: int
    second: int
    mean_rank_diff: float
    z: float
    p: float
    p_holm: float


def dunn(groups: Sequence[Sequence[float]]) -> list[RankPair] | None:
    """All pairs on mean ranks over the whole data; ``None`` when all values are equal."""
    if len({v for g in groups for v in g}) < 2:
        return None
    means, sizes, tie_loss = _mean_ranks(groups)
    total = float(sizes.sum())
    variance = total * (total + 1) / 12 - tie_loss / (12 * (total - 1))
    pairs = [(i, j) for i in range(len(groups)) for j in range(i + 1, len(groups))]
    z = [(means[i] - means[j]) / math.sqrt(variance * (1 / sizes[i] + 1 / sizes[j])) for i, j in pairs]
    p = [float(2 * scipy.special.ndtr(-abs(v))) for v in z]
    return [
        RankPair(i, j, float(means[i] - means[j]), float(v), p1, p2)
        for (i, j), v, p1, p2 in zip(pairs, z, p, holm(p), strict=True)
    ]
