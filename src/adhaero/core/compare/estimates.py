"""One figure for every treatment, with its interval: the mean, or with bounds among its figures the fitted median.

Medians come from one model with a scale for all treatments that have figures, as the comparisons do; intervals are
Wald's raised by sqrt(d / (d - k)), with t of d - k degrees of freedom. What never failed is at least its smallest load.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import scipy

from adhaero.core.compare.bounds import bounds_of, smallest_figure
from adhaero.core.compare.data import WEAK_N
from adhaero.core.compare.planned import Setting
from adhaero.core.statistics import censored_intervals
from adhaero.core.statistics.descriptive import antilog

MEAN, MEDIAN, AT_LEAST = "mean", "median", "at least"


@dataclass(frozen=True)
class Estimate:
    """``of`` says what ``value`` is: a mean, a median, or the smallest load that was borne; ``low`` and ``high`` are
    ``None`` where there is no interval.
    """

    of: str
    value: float
    low: float | None
    high: float | None


def estimates(s: Setting) -> Mapping[str, Estimate]:
    """By letter; what has no figure has no estimate."""
    found: dict[str, Estimate] = {}
    bounded = []
    for letter, r in s.rows.items():
        if r.summary.bounded:
            bounded.append(letter)
        elif r.summary.mean is not None:
            told = r.summary.n >= WEAK_N
            e = r.summary.exact
            found[letter] = Estimate(MEAN, r.summary.mean, e.ci_low if told else None, e.ci_high if told else None)
    if not bounded:
        return found
    # One kind of figure for all of them: a mean beside medians would be ranked by another rule.
    joints = [x for x, r in s.rows.items() if r.summary.n and r.group.role != "solid"]
    return {**found, **_medians(s, list(dict.fromkeys([*joints, *bounded])))}


def _medians(s: Setting, wanted: list[str]) -> dict[str, Estimate]:
    used = [x for x, r in s.rows.items() if r.summary.n >= WEAK_N and r.group.role != "solid"] or wanted
    used = list(dict.fromkeys([*used, *wanted]))
    smallest = smallest_figure([s.rows[x] for x in used])
    data = {x: bounds_of(s.rows[x], smallest, fallen_as_zero=s.fallen_as_zero) for x in used}
    used = [x for x in used if data[x]]
    f = censored_intervals.family([data[x] for x in used])
    place = {used[i]: n for n, i in enumerate(f.sample.groups)}
    found = {}
    for letter in wanted:
        lows = [low for low, _ in data.get(letter, ()) if low > 0]
        if letter in place and f.fit is not None and f.df >= 1:
            m = f.fit.medians[place[letter]]
            half = float(scipy.special.stdtrit(f.df, 1 - s.alpha / 2)) * m.se_log_median
            half *= math.sqrt(f.sample.failures / f.df)
            ends = (antilog(m.log_median - half), antilog(m.log_median + half))
            low, high = ends if s.rows[letter].summary.n >= WEAK_N and ends[1] < math.inf else (None, None)
            found[letter] = Estimate(MEDIAN, math.exp(m.log_median), low, high)
        elif lows:
            found[letter] = Estimate(AT_LEAST, min(lows), None, None)
    return found
