"""Where a figure crosses a share of its reference along an axis, by joining the levels: straight, and over log x.

No curve is assumed. Where the figure begins above that share and ends below it, it is where it falls below for good;
else where it first gets there. The range is by the ends of the intervals of the levels; where one of them does not
cross within the levels, that end is open: nothing is drawn out beyond the data.
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
    """Where a ``share`` of the reference is crossed in a stratum of an axis, as a sentence; places on it, ``None``
    where it is not crossed within the levels. ``falls``: from above.
    """

    factor: str
    stratum: str
    share: float
    falls: bool
    straight: float | None
    by_log: float | None
    earliest: float | None
    latest: float | None
    text: str


def crossing(x: Sequence[float], y: Sequence[float], target: float, *, log: bool = False) -> float | None:
    """Return where joined points first reach ``target`` from below; the first point if that is there already. Over
    log x where asked for, which 0 has none of.
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


def falling(x: Sequence[float], y: Sequence[float], target: float, *, log: bool = False) -> float | None:
    """Return where joined points fall below ``target`` for good; ``None`` where the last one does not lie below it."""
    if not y or y[-1] >= target or y[0] < target:
        return None
    if log and min(x) <= 0:
        return None
    # Read from the end, a fall for good is the first rise to the target.
    turned = [-math.log(v) if log else -v for v in reversed(x)]
    at = crossing(turned, list(reversed(y)), target)
    return None if at is None else math.exp(-at) if log else -at


def reached(
    axes: Sequence[Axis], told: Mapping[str, Estimate], share: float, level: Mapping[str, Callable[[float], str]]
) -> list[Reached]:
    """Return it for every stratum of every axis; ``level`` names a place on the axis of a factor."""
    found = [_of(a, s, told, share, level[a.factor]) for a in axes for s in a.series if a.factor in level]
    return [x for x in found if x is not None]


def _of(
    a: Axis, s: Series, told: Mapping[str, Estimate], share: float, named: Callable[[float], str]
) -> Reached | None:  # fmt: skip
    points = [(p.x, told[p.letter]) for p in s.points if p.letter in told]
    if s.reference not in told or len(points) < 2:
        return None
    target = share * told[s.reference].value
    x, middle = [at for at, _ in points], [e.value for _, e in points]
    falls = middle[0] >= target and min(middle) < target
    cross = falling if falls else crossing
    straight, by_log = (cross(x, middle, target, log=log) for log in (False, True))
    bounded = all(e.low is not None and e.high is not None for _, e in points)
    highs, lows = ([e.high or 0.0 for _, e in points], [e.low or 0.0 for _, e in points])
    earliest, latest = (cross(x, own, target) for own in ((lows, highs) if falls else (highs, lows)))
    if not bounded:
        earliest = latest = None
    what = f"{100 * share:g} % of {named(next(p.x for p in s.points if p.letter == s.reference))}"
    ends = (named(earliest) if earliest is not None else "", named(latest) if latest is not None else "")
    text = _told(what, x, middle, target, straight, by_log, ends if bounded else None, named, falls=falls)
    return Reached(a.factor, s.stratum, share, falls, straight, by_log, earliest, latest, text)


def _told(
    what: str, x: Sequence[float], middle: Sequence[float], target: float, straight: float | None,
    by_log: float | None, ends: tuple[str, str] | None, named: Callable[[float], str], *, falls: bool,
) -> str:  # fmt: skip
    if min(middle) >= target:
        return f"Every level tested has at least {what}."
    if max(middle) < target:
        return f"No level tested has {what}."
    if straight is None:
        return f"It falls below {what} and comes back to it within the levels."
    over = "" if by_log is None else f" (on a logarithmic scale at {named(by_log)})"
    text = f"{'It falls below' if falls else 'It reaches'} {what} at {named(straight)}, joining the levels{over}"
    if ends is None:
        return f"{text}."
    first, last = ends[0] or "before the first level", ends[1] or "beyond the levels tested"
    return f"{text}; by the intervals from {first} to {last}."
