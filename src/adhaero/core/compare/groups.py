"""Treatments against each other, with variances of their own: omnibus test, all pairs, letters, and the rank route.

Sources: Welch 1951 (Biometrika 38); Games & Howell 1976 (J. Educ. Statist. 1); Kruskal & Wallis 1952; Dunn 1964;
Holm 1979. Letters are the maximal sets of treatments of which no pair differs (Piepho 2004).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import special

from adhaero.core.compare import studentized_range

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Welch:
    """Welch's one-way test: F with its degrees of freedom and p."""

    f: float
    df_num: float
    df_den: float
    p: float


class Pair(NamedTuple):
    """First minus second treatment. Everything but ``diff`` is ``None`` where no pair test exists.

    ``df`` is Welch's; ``q = |t| sqrt 2`` refers to the studentized range of all treatments; the interval is
    simultaneous over all pairs.
    """

    first: int
    second: int
    diff: float
    se: float | None = None
    df: float | None = None
    t: float | None = None
    q: float | None = None
    p: float | None = None
    ci_low: float | None = None
    ci_high: float | None = None


def _moments(groups: Sequence[Sequence[float]]) -> tuple[Array, Array, Array]:
    n = np.array([len(g) for g in groups], float)
    mean = np.array([math.fsum(g) / len(g) for g in groups])
    var = np.array([variance(g, m) for g, m in zip(groups, mean, strict=True)])
    return n, mean, var


def variance(values: Sequence[float], mean: float) -> float:
    """Variance with n - 1; exactly 0 for equal values, NaN for a single one."""
    if len(values) < 2:
        return math.nan
    if min(values) == max(values):
        return 0.0
    return math.fsum((v - mean) ** 2 for v in values) / (len(values) - 1)


def welch_anova(groups: Sequence[Sequence[float]]) -> Welch | None:
    """Welch's test of equal means; ``None`` when a treatment has a single value or no spread."""
    k = len(groups)
    if k < 2 or any(len(g) < 2 for g in groups):
        return None
    n, mean, var = _moments(groups)
    if np.any(var == 0):
        return None
    weight = n / var
    total = weight.sum()
    centre = (weight * mean).sum() / total
    h = ((1 - weight / total) ** 2 / (n - 1)).sum()
    f = (weight * (mean - centre) ** 2).sum() / (k - 1) / (1 + 2 * (k - 2) * h / (k * k - 1))
    df_den = (k * k - 1) / (3 * h)
    return Welch(float(f), k - 1.0, float(df_den), float(special.fdtrc(k - 1, df_den, f)))


def games_howell(groups: Sequence[Sequence[float]], alpha: float = 0.05) -> list[Pair]:
    """All pairs in the order (0, 1), (0, 2), ..., with simultaneous intervals of level ``1 - alpha``.

    A pair is without test where either treatment has a single value, or neither has any spread. Every group needs at
    least one value.
    """
    k = len(groups)
    if k < 2:
        return []
    n, mean, var = _moments(groups)
    i, j = np.triu_indices(k, 1)
    a, b = var[i] / n[i], var[j] / n[j]
    with np.errstate(divide="ignore", invalid="ignore"):
        se2 = np.where(a + b > 0, a + b, np.nan)
        df = se2**2 / (a**2 / (n[i] - 1) + b**2 / (n[j] - 1))
    se, diff = np.sqrt(se2), mean[i] - mean[j]
    t = diff / se
    q = np.abs(t) * math.sqrt(2)
    testable = ~np.isnan(df)
    p, half = np.full(len(i), np.nan), np.full(len(i), np.nan)
    if testable.any():
        p[testable] = _tails(q[testable], k, df[testable])
        edge = studentized_range.quantile(alpha, k, df[testable])
        half[testable] = edge / math.sqrt(2) * se[testable]
    columns = (c.tolist() for c in (i, j, diff, se, df, t, q, p, diff - half, diff + half))
    rows = map(Pair._make, zip(*columns, strict=True))
    return [row if row.p == row.p else Pair(row.first, row.second, row.diff) for row in rows]


_last_tails: dict[int, tuple[Array, Array, Array]] = {}


def _tails(q: Array, k: int, df: Array) -> Array:
    """Upper tails; those of the last look at as many groups are not computed again where nothing changed.

    After a break only the pairs of one treatment are new.
    """
    old = _last_tails.get(k)
    if old is None or len(old[0]) != len(q):
        p = studentized_range.tail(q, k, df)
    else:
        new = (old[0] != q) | (old[1] != df)
        p = old[2].copy()
        if new.any():
            p[new] = studentized_range.tail(q[new], k, df[new])
    _last_tails[k] = q, df, p
    return p


def cliques(order: Sequence[int], pairs: Sequence[Pair], alpha: float = 0.05) -> list[list[int]] | None:
    """The largest sets of treatments of which no pair has p < alpha; one letter belongs to each set.

    ``order`` lists the treatments by descending mean; members follow it, and sets follow their members' places.
    ``None`` when a pair has no p: then letters would claim what nobody tested.
    """
    if any(pair.p is None for pair in pairs):
        return None
    # Sets as bits, by the places of the treatments.
    place = {t: i for i, t in enumerate(order)}
    alike = [0] * len(order)
    for pair in pairs:
        if pair.p is not None and pair.p >= alpha:
            i, j = place[pair.first], place[pair.second]
            alike[i] |= 1 << j
            alike[j] |= 1 << i
    found: list[int] = []

    def grow(clique: int, candidates: int, done: int) -> None:
        """Bron & Kerbosch 1973, with a pivot."""
        if not candidates and not done:
            found.append(clique)
            return
        pivot = max(_bits(candidates | done), key=lambda t: (alike[t] & candidates).bit_count())
        for t in _bits(candidates & ~alike[pivot]):
            grow(clique | 1 << t, candidates & alike[t], done & alike[t])
            candidates &= ~(1 << t)
            done |= 1 << t

    grow(0, (1 << len(order)) - 1, 0)
    return [[order[i] for i in places] for places in sorted(_bits(c) for c in found)]


def _bits(mask: int) -> list[int]:
    return [i for i in range(mask.bit_length()) if mask >> i & 1]


def letters(order: Sequence[int], sets: Sequence[Sequence[int]]) -> dict[int, str]:
    """Treatment -> its letters: two that share a letter were not told apart. After z come aa, bb, ..."""
    names = [chr(97 + i % 26) * (1 + i // 26) for i in range(len(sets))]
    return {t: "".join(n for n, s in zip(names, sets, strict=True) if t in s) for t in order}


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
    return Kruskal(h, len(groups) - 1, float(special.chdtrc(len(groups) - 1, h)))


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


def holm(p: Sequence[float]) -> list[float]:
    """Holm's step-down adjustment, in the order given."""
    order = sorted(range(len(p)), key=p.__getitem__)
    adjusted, running = [0.0] * len(p), 0.0
    for step, index in enumerate(order):
        running = max(running, min(1.0, p[index] * (len(p) - step)))
        adjusted[index] = running
    return adjusted


def dunn(groups: Sequence[Sequence[float]]) -> list[RankPair] | None:
    """All pairs on mean ranks over the whole data; ``None`` when all values are equal."""
    if len({v for g in groups for v in g}) < 2:
        return None
    means, sizes, tie_loss = _mean_ranks(groups)
    total = float(sizes.sum())
    variance = total * (total + 1) / 12 - tie_loss / (12 * (total - 1))
    pairs = [(i, j) for i in range(len(groups)) for j in range(i + 1, len(groups))]
    z = [(means[i] - means[j]) / math.sqrt(variance * (1 / sizes[i] + 1 / sizes[j])) for i, j in pairs]
    p = [float(2 * special.ndtr(-abs(v))) for v in z]
    return [
        RankPair(i, j, float(means[i] - means[j]), float(v), p1, p2)
        for (i, j), v, p1, p2 in zip(pairs, z, p, holm(p), strict=True)
    ]
