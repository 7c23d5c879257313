"""Tests whether several ratios could be one and the same, by the intervals of their differences."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import combinations

from adhaero.core.claims.judge import Judge, Pair


def differences(pairs: Sequence[Pair], judge: Judge, risk: float) -> Iterator[tuple[float, float]]:
    """Return the interval, at ``risk``, of the difference of every two of these log ratios that have one.

    It is put together from those of its two parts (MOVER: G. Y. Zou and A. Donner, Statistics in Medicine 27, 2008),
    which keeps the few pieces of each in it.
    """
    logs = []
    for p in pairs:
        found = judge.found(p)
        low, high = found.interval(risk)
        if found.ratio and low and high:
            logs.append((math.log(found.ratio), math.log(low), math.log(high)))
    for (x, x_low, x_high), (y, y_low, y_high) in combinations(logs, 2):
        yield x - y - math.hypot(x - x_low, y_high - y), x - y + math.hypot(x_high - x, y - y_low)


def differ(pairs: Sequence[Pair], judge: Judge, risk: float) -> bool:
    """Return whether any two of these ratios are shown to differ, all of them sharing the risk."""
    among = max(1, math.comb(len(pairs), 2))
    return any(low > 0 or high < 0 for low, high in differences(pairs, judge, risk / among))
