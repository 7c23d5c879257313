"""Pairs of treatments, each with a variance of its own.

Welch's test of equal means (Biometrika 38, 1951) and all pairs by Games and Howell (J. Educ. Statist. 1, 1976): with
``se = sqrt(s1^2/n1 + s2^2/n2)`` and Welch's degrees of freedom, ``q = |t| sqrt 2`` refers to the studentized range of
all treatments, and the interval is ``diff +- q_crit / sqrt 2 * se``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from adhaero.core.statistics import studentized_range

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
    return Welch(float(f), k - 1.0, float(df_den), float(scipy.special.fdtrc(k - 1, df_den, f)))


class Tails(NamedTuple):
    """Upper tails of the studentized range worked out once: for these q and degrees of freedom of k groups; and the
    ``pairs`` with the ``table`` of their figures, a column each.
    """

    k: int
    q: Array
    df: Array
    p: Array
    table: Array | None = None
    pairs: Sequence[Pair] = ()


def games_howell(groups: Sequence[Sequence[float]], alpha: float = 0.05) -> list[Pair]:
    """All pairs in the order (0, 1), (0, 2), ..., with simultaneous intervals of level ``1 - alpha``.

    A pair is without test where either treatment has a single value, or neither has any spread. Every group needs at
    least one value.
    """
    return games_howell_again(groups, alpha, None)[0]


def games_howell_again(
    groups: Sequence[Sequence[float]], alpha: float, known: Tails | None
) -> tuple[list[Pair], Tails | None]:
    """The same; ``known`` are the tails of the last look: after a break only the pairs of one treatment are new."""
    k = len(groups)
    if k < 2:
        return [], None
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
    p, half, tails = np.full(len(i), np.nan), np.full(len(i), np.nan), known
    if testable.any():
        tails = _tails(q[testable], k, df[testable], known)
        p[testable] = tails.p
        edge = studentized_range.quantile(alpha, k, df[testable])
        half[testable] = edge / math.sqrt(2) * se[testable]
    table = np.array((i, j, diff, se, df, t, q, p, diff - half, diff + half))
    rows = _pairs(table, known)
    return rows, None if tails is None else tails._replace(table=table, pairs=rows)


def _pairs(table: Array, known: Tails | None) -> list[Pair]:
    """A pair of each column of the table; those whose figures are those of the last look are taken from it."""
    if known is not None and known.table is not None and known.table.shape == table.shape:
        rows, same = list(known.pairs), (known.table == table) | (np.isnan(known.table) & np.isnan(table))
        new = np.flatnonzero(~same.all(0))
    else:
        rows, new = [Pair(0, 0, 0.0)] * table.shape[1], np.arange(table.shape[1])
    for place, (first, second, *rest) in zip(new.tolist(), table[:, new].T.tolist(), strict=True):
        pair = Pair(int(first), int(second), *rest)
        rows[place] = pair if pair.p == pair.p else Pair(pair.first, pair.second, pair.diff)
    return rows


def _tails(q: Array, k: int, df: Array, known: Tails | None) -> Tails:
    if known is None or known.k != k or len(known.q) != len(q):
        return Tails(k, q, df, studentized_range.tail(q, k, df))
    new = (known.q != q) | (known.df != df)
    p = known.p.copy()
    if new.any():
        p[new] = studentized_range.tail(q[new], k, df[new])
    return Tails(k, q, df, p)
