"""Treatments and blocks: boards, panels or days that carry several treatments are taken out of the comparison.

The model is value = treatment + block, both fixed, by least squares, so that blocks which lack a treatment are taken
for what they tell. Sums of squares are of type II (each term over the other), adjusted means give every block the same
weight, and all differences share the studentized range (Tukey; Kramer, Biometrics 12, 1956, where the design is not
complete).
"""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from adhaero.core.statistics import studentized_range
from adhaero.core.statistics.descriptive import t_quantile

Array = NDArray[np.float64]
NOTHING_LEFT = 1e-12
"""Share of the squares below which nothing is left to judge by."""


Value = tuple[float, int, object]
"""A figure with its treatment (row) and its block."""


def connected(values: Sequence[Value]) -> list[list[Value]]:
    """The values of treatments that share blocks, directly or through others, together."""
    home: dict[object, int] = {}
    for n, (_, t, b) in enumerate(values):
        ends = {home.get(("t", t), n), home.get(("b", b), n)}
        one = min(ends)
        home = {k: one if h in ends else h for k, h in home.items()} | {("t", t): one, ("b", b): one}
    sets: dict[int, list[Value]] = {}
    for v in values:
        sets.setdefault(home["t", v[1]], []).append(v)
    return list(sets.values())


@dataclass(frozen=True)
class Term:
    """What a term takes out: its sum of squares over the other term, degrees of freedom, F and p."""

    sum_sq: float
    df: int
    f: float
    p: float


@dataclass(frozen=True)
class AdjustedMean:
    """The mean of a treatment (by its place) as if every block carried it, with its t interval."""

    treatment: int
    n: int
    mean: float
    se: float
    ci_low: float
    ci_high: float


@dataclass(frozen=True)
class Difference:
    """First minus second treatment with plain t, and adjusted for all pairs (Tukey)."""

    first: int
    second: int
    diff: float
    se: float
    t: float
    p: float
    ci_low: float
    ci_high: float
    p_tukey: float
    tukey_low: float
    tukey_high: float


@dataclass(frozen=True)
class Blocked:
    """The comparison within blocks. ``scatter`` is the residual standard deviation, ``scatter_with_blocks`` what it is
    where blocks are left in.
    """

    treatments: Term
    blocks: Term
    df: int
    scatter: float
    scatter_with_blocks: float
    means: list[AdjustedMean]
    differences: list[Difference]


def blocked(
    values: Sequence[float], treatments: Sequence[int], blocks: Sequence[Hashable], level: float = 0.95
) -> Blocked | None:
    """Compare ``treatments`` (numbered from 0, each with a value) within ``blocks``.

    ``None`` where that cannot be done: one treatment or one block, treatments that no chain of blocks connects, or
    nothing left to judge the scatter by.
    """
    order = {b: i for i, b in enumerate(dict.fromkeys(blocks))}
    y, t = np.array(values, float), np.array(treatments, int)
    b = np.array([order[x] for x in blocks], int)
    k, m, n = int(t.max(initial=-1)) + 1, len(order), len(values)
    df = n - (k + m - 1)
    if k < 2 or m < 2 or df < 1:
        return None
    of_t, of_b = np.eye(k)[t], np.eye(m)[b]
    design = np.hstack([of_t, of_b[:, 1:]])
    if np.linalg.matrix_rank(design) < k + m - 1:
        return None
    rest = rest_of(design, y)
    if rest <= NOTHING_LEFT * float(((y - y.mean()) ** 2).sum()):
        return None
    mean_sq = rest / df
    inverse = np.linalg.inv(design.T @ design)
    effects = inverse @ design.T @ y
    # An adjusted mean: the treatment's effect, and the mean of all blocks (the first of them is 0).
    weights = np.hstack([np.eye(k), np.full((k, m - 1), 1 / m)])
    by_treatment = rest, df, mean_sq
    without_blocks = rest_of(of_t, y)
    return Blocked(
        treatments=_term(rest_of(of_b, y), by_treatment, k - 1),
        blocks=_term(without_blocks, by_treatment, m - 1),
        df=df,
        scatter=math.sqrt(mean_sq),
        scatter_with_blocks=math.sqrt(without_blocks / (n - k)),
        means=[
            _mean(i, int(of_t[:, i].sum()), float(w @ effects), float(w @ inverse @ w) * mean_sq, df, level)
            for i, w in enumerate(weights)
        ],
        differences=_differences(weights, effects, inverse * mean_sq, df, level),
    )


def rest_of(design: Array, y: Array) -> float:
    """Sum of squares that a design leaves."""
    fitted = design @ np.linalg.lstsq(design, y, rcond=None)[0]
    return float(((y - fitted) ** 2).sum())


def _term(without: float, whole: tuple[float, int, float], df: int) -> Term:
    rest, df_rest, mean_sq = whole
    f = (without - rest) / df / mean_sq
    return Term(without - rest, df, f, float(scipy.special.fdtrc(df, df_rest, f)))


def _mean(place: int, n: int, mean: float, variance: float, df: int, level: float) -> AdjustedMean:
    se = math.sqrt(variance)
    half = t_quantile(level, df) * se
    return AdjustedMean(place, n, mean, se, mean - half, mean + half)


def _differences(weights: Array, effects: Array, covariance: Array, df: int, level: float) -> list[Difference]:
    k = len(weights)
    i, j = np.triu_indices(k, 1)
    contrasts = weights[i] - weights[j]
    diff = contrasts @ effects
    se = np.sqrt(np.einsum("ij,jk,ik->i", contrasts, covariance, contrasts))
    t = diff / se
    p = 2 * scipy.special.stdtr(df, -np.abs(t))
    dfs = np.full(len(i), float(df))
    tukey = studentized_range.tail(np.abs(t) * math.sqrt(2), k, dfs)
    half = t_quantile(level, df) * se
    wide = studentized_range.quantile(1 - level, k, dfs) / math.sqrt(2) * se
    columns = (c.tolist() for c in (i, j, diff, se, t, p, diff - half, diff + half, tukey, diff - wide, diff + wide))
    return [Difference(*row) for row in zip(*columns, strict=True)]
