"""Where a figure reaches a share of its reference along an axis, by joining the levels: straight, and over log x.

No curve is assumed. The range is where the upper ends of the intervals reach it first, and the lower ends last; where
one of them does not within the levels, that end is open: nothing is drawn out beyond the data.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from adhaero.core.compare.axis import Axis, Series
from adhaero.core.compare.estimates import Estimate


@dataclass(frozen=True)
class Reached:
    """Where a ``share`` of the reference is reached in a stratum of an axis, as a sentence; places on it, ``None``
    where it is not reached within the levels.
    """

    factor: str
    stratum: str
    share: float
    straight: float | None
    by_log: float | None
    earliest: float | None
    latest: float | None
    text: str


def crossing(x: Sequence[float], y: Sequence[float], target: float, *, log: bool = False) -> float | None:
    """Where joined points first reach ``target`` from below; at the first point if that is there already. Over log x
    where asked for, which 0 has none of.
    """
    at = list(zip(x, y, strict=True))
    if log and min(x, default=0.0) <= 0:
        return None
    if at and at[0][1] >= target:
        return at[0][0]
    for (x0, y0), (x1, y1) in pairwise(at):
        if y0 < target <= y1:
            share = (target - y0) / (y1 - y0)
            if log:
                return math.exp(math.log(x0) + share * (math.log(x1) - math.log(x0)))
            return x0 + share * (x1 - x0)
    return None


def reached(
    axes: Sequence[Axis], told: Mapping[str, Estimate], share: float, level: Mapping[str, Callable[[float], str]]
) -> list[Reached]:
    """Every stratum of every axis; ``level`` names a place on the axis of a factor."""
    found = [_of(a, s, told, share, level[a.factor]) for a in axes for s in a.series if a.factor in level]
    return [x for x in found if x is not None]


def _of(
    a: Axis, s: Series, told: Mapping[str, Estimate], share: float, named: Callable[[float], str]
) -> Reached | None:  # fmt: skip
    points = [(p.x, told[p.letter]) for p in s.points if p.letter in told]
    if s.reference not in told or len(points) < 2:
        return None
    target = share * told[s.reference].value
    x = [at for at, _ in points]
    middle = [e.value for _, e in points]
    straight, by_log = (crossing(x, middle, target, log=log) for log in (False, True))
    bounded = all(e.low is not None and e.high is not None for _, e in points)
    ends = [[e.high or 0.0 for _, e in points], [e.low or 0.0 for _, e in points]]
    earliest, latest = (crossing(x, own, target) for own in ends) if bounded else (None, None)
    what = f"{100 * share:g} % of {named(next(p.x for p in s.points if p.letter == s.reference))}"
    if straight is None:
        text = f"{what} is not reached from below within the levels."
    else:
        over = "" if by_log is None else f", at {named(by_log)} over log"
        text = f"{what} is reached at {named(straight)} with straight joins{over}"
        first = "" if earliest is None else named(earliest)
        last = "beyond the last level" if latest is None else named(latest)
        text += f"; by the intervals from {first or 'before the first level'} to {last}." if bounded else "."
    return Reached(a.factor, s.stratum, share, straight, by_log, earliest, latest, text)
