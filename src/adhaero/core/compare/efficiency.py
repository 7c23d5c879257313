"""Joint efficiency: a joint against solid wood that is loaded the same way.

Ratio of means with Fieller's interval; where bounds are among the figures of either, ratio of fitted medians with the
calibrated interval, so that a joint that broke in the wood keeps its share.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from adhaero.core.compare.bounds import bounds_of, smallest_figure
from adhaero.core.compare.case import Case
from adhaero.core.compare.data import WEAK_N
from adhaero.core.statistics import censored_intervals


class OfSolid(NamedTuple):
    """A ratio of medians with its interval; without an upper end where there is none."""

    ratio: float
    low: float
    high: float | None


def with_bounds(case: Case) -> dict[str, OfSolid]:
    """By letter, for treatments with bounds of their own or in their solid reference."""
    solid = {r.group.solid: r for r in case.analysis.rows if r.group.role == "solid"}
    found = {}
    for r in case.analysis.rows:
        reference = solid.get(r.group.solid)
        if r.group.role == "solid" or reference is None or not (r.summary.bounded or reference.summary.bounded):
            continue
        if min(r.summary.n, reference.summary.n) < WEAK_N:
            continue
        s, rows = case.setting, [r, reference]
        smallest = smallest_figure(rows)
        f = censored_intervals.family([bounds_of(x, smallest, fallen_as_zero=s.fallen_as_zero) for x in rows])
        (ratio,) = censored_intervals.ratios(f, [(0, 1)])
        (ends,) = censored_intervals.intervals(f, [(0, 1)], [case.alpha])
        if ratio.ratio is not None and ends is not None:
            high = ends.high if ends.high is not None and math.isfinite(ends.high) else None
            scale = r.group.solid_scale
            found[r.group.letter] = OfSolid(ratio.ratio / scale, (ends.low or 0.0) / scale, high and high / scale)
    return found
