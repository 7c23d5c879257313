"""Two factors at once: what each takes out given the other, and whether the effect of one depends on the other.

Sums of squares of type II: a given b, b given a, the interaction given both; all tests against the residual of the
model with a mean for every cell. A cell without pieces takes a degree of freedom off the interaction.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from adhaero.core.statistics.blocked import NOTHING_LEFT, Array, Term, rest_of


@dataclass(frozen=True)
class Factorial:
    """The terms, and what is left within the cells. ``interaction`` is ``None`` where no cell is left to judge it."""

    a: Term
    b: Term
    interaction: Term | None
    residual: float
    df: int

    @property
    def scatter(self) -> float:
        """Standard deviation within the cells."""
        return float(np.sqrt(self.residual / self.df))


def factorial(values: Sequence[float], a: Sequence[int], b: Sequence[int]) -> Factorial | None:
    """Analyse ``values`` by two factors (levels numbered from 0); ``None`` where a factor has one level, the two cannot
    be told apart, or nothing is left within the cells.
    """
    y = np.array(values, float)
    pairs, cell = np.unique(np.column_stack([a, b]).reshape(-1, 2), axis=0, return_inverse=True)
    of_a, of_b = _columns(pairs[:, 0]), _columns(pairs[:, 1])
    both = np.hstack([of_a, of_b])
    ranks = [int(np.linalg.matrix_rank(m)) for m in (of_a, of_b, both)]
    df = len(y) - len(pairs)
    if min(ranks[0], ranks[1]) < 2 or ranks[2] < ranks[0] + ranks[1] - 1 or df < 1:
        return None
    # A model that is one for each cell leaves what lies within the cells, and what their means leave, weighted.
    n = np.bincount(cell.ravel())
    means = np.bincount(cell.ravel(), y) / n
    within = float(((y - means[cell.ravel()]) ** 2).sum())
    root = np.sqrt(n)
    rest = [rest_of(m * root[:, None], means * root) + within for m in (of_a, of_b, both)] + [within]
    if rest[3] <= NOTHING_LEFT * float(((y - y.mean()) ** 2).sum()):
        return None
    mean_sq = rest[3] / df

    def term(sum_sq: float, own: int) -> Term:
        f = sum_sq / own / mean_sq
        return Term(sum_sq, own, f, float(scipy.special.fdtrc(own, df, f)))

    df_both = len(pairs) - ranks[2]
    return Factorial(
        term(rest[1] - rest[2], ranks[2] - ranks[1]),
        term(rest[0] - rest[2], ranks[2] - ranks[0]),
        term(rest[2] - rest[3], df_both) if df_both else None,
        rest[3],
        df,
    )


def _columns(levels: NDArray[np.int_]) -> Array:
    used, place = np.unique(levels, return_inverse=True)
    return np.eye(len(used))[place]
