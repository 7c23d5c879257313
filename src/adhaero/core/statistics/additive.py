"""Cells that differ in several factors at once, compared by a model in which the factors' effects multiply.

In a fraction of a grid no two cells differ in one factor alone, and in a grid of single pieces no cell has a scatter.
Then the logarithm of each figure is taken as the sum of one effect of every factor (least squares; see any text on
regression with dummy variables); what that leaves over, interactions among it, is the scatter that effects are judged
by. An effect is known only where the cells that were made tell it apart from all others.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from adhaero.core.statistics.ratio import LogRatio

LEAST_DF = 3
"""Degrees of freedom below which the scatter is not known well enough."""
Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class AdditiveFit:
    """The fit: ``columns`` finds the effect of a level (factor, level) against the first level of its factor (``None``:
    that one itself), ``effects`` with their unscaled covariance ``cov``, the standard deviation of what is left over,
    its degrees of freedom; ``known`` projects on what the cells tell apart.
    """

    columns: Mapping[tuple[str, str], int | None]
    effects: Array
    cov: Array
    scatter: float
    df: int
    known: Array

    def log_ratio(self, factor: str, first: str, second: str) -> LogRatio | None:
        """Return the log ratio of two levels of a factor; ``None`` if these cells can't tell them apart."""
        if (factor, first) not in self.columns or (factor, second) not in self.columns:
            return None
        c = np.zeros(len(self.effects))
        for level, sign in ((first, 1.0), (second, -1.0)):
            at = self.columns[factor, level]
            if at is not None:
                c[at] += sign
        if self.scatter <= 0 or np.abs(self.known @ c - c).max() > 1e-8:
            return None
        return LogRatio.of(float(c @ self.effects), self.scatter * math.sqrt(float(c @ self.cov @ c)), self.df)


def fit_additive(cells: Sequence[tuple[Mapping[str, str], Sequence[float]]]) -> AdditiveFit | None:
    """Fit the model to cells, each with its levels by factor and its loads. Return ``None`` if fewer than ``LEAST_DF``
    degrees of freedom are left for the scatter.
    """
    rows = [(levels, math.log(v)) for levels, values in cells for v in values if v > 0]
    columns: dict[tuple[str, str], int | None] = {}
    width = 1
    for key in rows[0][0] if rows else ():
        for n, level in enumerate(dict.fromkeys(levels[key] for levels, _ in rows)):
            columns[key, level] = None if n == 0 else width
            width += n > 0
    x = np.zeros((len(rows), width))
    x[:, 0] = 1.0
    for i, (levels, _) in enumerate(rows):
        for key, level in levels.items():
            at = columns[key, level]
            if at is not None:
                x[i, at] = 1.0
    y = np.array([v for _, v in rows])
    df = len(rows) - int(np.linalg.matrix_rank(x)) if rows else 0
    if df < LEAST_DF:
        return None
    cov: Array = np.asarray(np.linalg.pinv(x.T @ x), np.float64)
    effects = cov @ x.T @ y
    left_over = y - x @ effects
    scatter, known = math.sqrt(float(left_over @ left_over) / df), np.asarray(cov @ x.T @ x, np.float64)
    return AdditiveFit(columns, effects, cov, scatter, df, known)
