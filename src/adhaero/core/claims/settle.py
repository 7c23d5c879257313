"""How many more pieces would settle a claim that is unclear, if the true difference is the one seen now.

A difference of at least the margin is settled when it is shown; a smaller one when its interval lies within the margin.
Close to the margin no number of pieces settles it. The scatter is itself only known from these pieces: the chance is
the mean over what it may truly be (chi-square with the degrees of freedom of the claim), so that the promised chance
holds on average and not only for those whose scatter happened to come out right.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from functools import lru_cache

import numpy as np
import scipy

from adhaero.core.claims.claim import Basis, Claim, Relation
from adhaero.core.claims.judge import Judge
from adhaero.core.plan.power import power
from adhaero.core.statistics import moderated

MOST = 500
"""A larger number is not worth recommending."""
CLOSE = 0.1
"""Share of the margin by which a difference must lie away from it to be settled by numbers."""
STEPS = 24
"""Values of the true scatter over which the chance is averaged."""


def more_of_each(c: Claim, judge: Judge) -> int | None:
    """Return how many more pieces of each; ``None`` where it is settled, can't be told, or takes too many."""
    if c.relation is not Relation.UNCLEAR or c.basis is not Basis.MEANS or not c.ratio or c.id not in judge.judged:
        return None
    scatter = _scatter(c, judge)
    if scatter is None:
        return None
    (cv, df), margin, risk = scatter, judge.inference.margin, judge.judged[c.id][1]
    size = abs(math.log(c.ratio))
    if size >= math.log1p(margin) * (1 + CLOSE):
        n = to_be_shown(size, cv, df, risk, judge.inference.power)
    elif size <= -math.log1p(-margin) * (1 - CLOSE):
        n = to_be_alike(math.log1p(margin) - size, cv, df, risk, judge.inference.power)
    else:
        return None
    return None if n is None or n - c.n > MOST else max(1, n - c.n)


def _scatter(c: Claim, judge: Judge) -> tuple[float, float] | None:
    """The CV of one piece of the two together, and its degrees of freedom."""
    pair, _ = judge.judged[c.id]
    if len(pair.first) == 1:
        a, b = judge.steadied(pair.first[0]), judge.steadied(pair.second[0])
        if a is None or b is None:
            return None
        df = moderated.log_ratio(a, b, judge.prior).df
        return math.sqrt((a.used + b.used) / 2), df
    # Over several strata: what the width of the interval says, as of the smaller side.
    low, high = judge.found(pair).interval(0.5)
    df = float(sum(max(0, len(s.held) - 1) for side in (pair.first, pair.second) for s in side))
    if not low or not high or df < 1:
        return None
    wide = math.log(high / low) / 2 / float(scipy.special.stdtrit(df, 0.75))
    return wide * math.sqrt(c.n / 2), df


@lru_cache(maxsize=256)
def _scales(df: float) -> tuple[float, ...]:
    """Equally likely values of true over estimated standard deviation."""
    at = (np.arange(STEPS) + 0.5) / STEPS
    return tuple(np.sqrt(df / scipy.special.chdtri(df, 1 - at)).tolist())


def chance(n: int, size: float, cv: float, df: float, risk: float) -> float:
    """Return the chance that ``n`` pieces of each show a true log ratio ``size``, over what the scatter may be."""
    return math.fsum(power(n, size, cv * k, risk, both_tails=False) for k in _scales(df)) / STEPS


@lru_cache(maxsize=4096)
def to_be_shown(size: float, cv: float, df: float, risk: float, wanted: float) -> int | None:
    """Return the pieces of each that show a log ratio ``size`` with the chance ``wanted``; ``None``: too many."""
    n = 2 + bisect_left(range(2, 2 * MOST), True, key=lambda n: chance(n, size, cv, df, risk) >= wanted)
    return n if n < 2 * MOST else None


@lru_cache(maxsize=4096)
def to_be_alike(room: float, cv: float, df: float, risk: float, wanted: float) -> int | None:
    """Return the pieces of each for which the interval of a log ratio stays within ``room`` of it on both sides."""

    def fits(n: int) -> bool:
        t = float(scipy.special.stdtrit(2 * n - 2, 1 - risk / 2))
        # The middle wanders by its standard error, and both ends have to stay inside.
        z = [(room / (cv * k * math.sqrt(2 / n))) - t for k in _scales(df)]
        return math.fsum(max(0.0, 2 * float(scipy.special.ndtr(x)) - 1) for x in z) / STEPS >= wanted

    n = 2 + bisect_left(range(2, 2 * MOST), True, key=fits)
    return n if n < 2 * MOST else None
