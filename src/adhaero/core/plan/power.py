"""How many pieces, and what a number of pieces can show.

Two-sided two-sample t test with equal n; the standard deviation is ``cv * mean`` in both groups. Power comes from the
noncentral t distribution with both tails counted, unless told otherwise. For several comparisons the error rate is
divided by their number (Bonferroni), a little stricter than the simultaneous intervals used afterwards.

Source: Cohen, Statistical power analysis for the behavioral sciences, chapter 2; checked against tables made with R.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Literal

import numpy as np
import scipy

Against = Literal["all pairs", "one control"]


def comparisons(treatments: int, against: Against) -> int:
    """Number of comparisons among ``treatments``: every pair, or each against one control."""
    if treatments < 2:
        return 0
    return treatments * (treatments - 1) // 2 if against == "all pairs" else treatments - 1


def power(n: float, difference: float, cv: float, alpha: float, *, both_tails: bool = True) -> float:
    """Chance that n pieces in each of two treatments show a true difference.

    ``difference`` and ``cv`` are fractions of the reference mean; ``n`` may be fractional, 2 or more (below 2
    there is no scatter to judge by, and the power is 0).
    """
    df = 2.0 * (n - 1.0)
    if df <= 0:
        return 0.0
    shift = difference / cv * math.sqrt(n / 2.0)
    edge = float(scipy.special.stdtrit(df, 1.0 - alpha / 2.0))
    found = 1.0 - _nct_cdf(edge, df, shift)
    return found + _nct_cdf(-edge, df, shift) if both_tails else found


def _nct_cdf(t: float, df: float, shift: float) -> float:
    """Noncentral t; the far tail, where the library gives NaN, counts as 0 or 1."""
    value = float(scipy.special.nctdtr(df, shift, t))
    if math.isnan(value):
        return float(scipy.special.ndtr(t - shift))
    return min(max(value, 0.0), 1.0)


@lru_cache(maxsize=1024)
def pieces_needed(
    difference: float, cv: float, alpha: float, wanted: float, *, both_tails: bool = True
) -> tuple[int, float | None] | None:
    """Pieces per treatment for a power of ``wanted``: rounded up, and real-valued.

    The real value is ``None`` where 2 pieces already suffice. ``None`` as a whole when no number would: a difference
    of 0, or one that would take over ten million pieces.
    """
    from scipy import optimize

    if difference <= 0:
        return None

    def lacking(n: float) -> float:
        return power(n, difference, cv, alpha, both_tails=both_tails) - wanted

    if lacking(2.0) >= 0:
        return 2, None
    high = 4.0
    while lacking(high) < 0:
        high *= 4
        if high > 1e7:
            return None
    n = float(optimize.brentq(lacking, max(2.0, high / 4), high, xtol=1e-10, rtol=1e-13))
    return math.ceil(n - 1e-9), n


@lru_cache(maxsize=4096)
def smallest_difference(n: int, cv: float, alpha: float, wanted: float, *, both_tails: bool = True) -> float | None:
    """Smallest true difference (fraction of the reference mean) that n pieces show with a power of ``wanted``.

    ``None`` for fewer than two pieces: no scatter, no test.
    """
    from scipy import optimize

    if n < 2:
        return None

    def lacking(difference: float) -> float:
        return power(n, difference, cv, alpha, both_tails=both_tails) - wanted

    if lacking(0.0) >= 0:
        return 0.0
    high = 4 * cv
    while lacking(high) < 0:
        high *= 2
    return float(optimize.brentq(lacking, 0.0, high, xtol=1e-13, rtol=1e-13))


def difference_curve(counts: list[int], cv: float, alpha: float, wanted: float) -> list[tuple[int, float]]:
    """(n, smallest difference) for each count of two or more: what to draw under the choice of n."""
    pairs = ((n, smallest_difference(n, cv, alpha, wanted)) for n in counts)
    return [(n, d) for n, d in pairs if d is not None and np.isfinite(d)]
