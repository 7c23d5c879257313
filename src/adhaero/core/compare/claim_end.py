"""How a claim ends by its figures: one planned ratio of means with Fieller's interval (core.statistics.ratio).

A claim says that a treatment is stronger or weaker than another, the same for practical purposes, or bears at least a
share of it. It is supported where the whole 95 % interval of the ratio says so, not supported where the whole interval
says otherwise, and can't be told yet in between; with bounds among the figures by the ratio of fitted medians. It is
one comparison that was planned, so its risk is not shared.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from adhaero.core.compare.analysis import Row, values_of
from adhaero.core.compare.data import WEAK_N
from adhaero.core.compare.planned import Setting, judge_families
from adhaero.core.plan.claim_kinds import SAME, SHARE, STRONGER, WEAKER
from adhaero.core.plan.comparisons import ADDED, Contrast, Family, Within
from adhaero.core.statistics.ratio import ratio_of_means

SUPPORTED, NOT_SUPPORTED, NOT_TESTED, UNKNOWN = "supported", "not supported", "not tested", "can't tell yet"


@dataclass(frozen=True)
class ClaimEnd:
    """How a claim ends by its figures, and the comparison that decides it in words."""

    state: str
    text: str


def end_of(
    says: str, share: float, first: Row | None, second: Row | None, *, matters: float, fallen_as_zero: bool
) -> ClaimEnd:
    """The end of a claim about ``first`` against ``second``. ``share`` and ``matters`` are fractions of the second's
    mean.
    """
    for row in (first, second):
        if row is None or row.summary.n == 0:
            return ClaimEnd(NOT_TESTED, f"{row.group.label if row else 'one of the two'} has no result")
    assert first is not None
    assert second is not None
    names = f"{first.group.label} against {second.group.label}"
    if (first.summary.bounded or second.summary.bounded) and min(first.summary.n, second.summary.n) >= WEAK_N:
        return _with_bounds(says, share, first, second, matters=matters, fallen_as_zero=fallen_as_zero)
    for row in (first, second):
        if row.untested is not None:
            return ClaimEnd(UNKNOWN, f"{names}: of {row.group.label.lower()}, {row.untested}")
    found = ratio_of_means(values_of(first.group, fallen_as_zero), values_of(second.group, fallen_as_zero))
    if found is None or found.fieller is None or found.fieller.ci_low is None or found.fieller.ci_high is None:
        why = found.reason if found and found.reason else "there is no ratio"
        return ClaimEnd(UNKNOWN, f"{names}: {why}")
    low, high = found.fieller.ci_low, found.fieller.ci_high
    state = _state(says, share, low, high, matters)
    claimed = f"; {100 * share:.0f} % was claimed" if says == SHARE else ""
    text = f"{names}: {100 * found.ratio:.0f} % ({100 * low:.0f} to {100 * high:.0f} %){claimed}"
    return ClaimEnd(state, text)


def _with_bounds(says: str, share: float, first: Row, second: Row, *, matters: float, fallen_as_zero: bool) -> ClaimEnd:
    """The same by the ratio of medians that takes bounds as bounds, as the planned comparisons do."""
    names = f"{first.group.label} against {second.group.label}"
    pair = Within(first.group.letter, second.group.letter)
    family = Family("claim", ADDED, "", (Contrast(names, first.group.label, second.group.label, (pair,)),))
    rows = {r.group.letter: r for r in (first, second)}
    (found,) = judge_families([family], Setting(rows, matters=matters, fallen_as_zero=fallen_as_zero))
    j = found.comparisons[0]
    if j.low is None and j.high is None:
        return ClaimEnd(UNKNOWN, f"{names}: {j.why or 'bounds leave no ratio'}")
    low, high = j.low or 0.0, math.inf if j.high is None else j.high
    ends = f"{100 * low:.0f} % or more" if math.isinf(high) else f"{100 * low:.0f} to {100 * high:.0f} %"
    ratio = "" if j.ratio is None else f"{100 * j.ratio:.0f} % "
    claimed = f"; {100 * share:.0f} % was claimed" if says == SHARE else ""
    text = f"{names}: {ratio}({ends}), by medians fitted with bounds{claimed}"
    return ClaimEnd(_state(says, share, low, high, matters), text)


def _state(says: str, share: float, low: float, high: float, matters: float) -> str:
    alike = 1 - matters <= low and high <= 1 + matters
    if says == STRONGER:
        yes, no = low > 1, high <= 1 or alike
    elif says == WEAKER:
        yes, no = high < 1, low >= 1 or alike
    elif says == SAME:
        yes, no = alike, low > 1 or high < 1
    else:
        yes, no = low >= share, high < share
    return SUPPORTED if yes else NOT_SUPPORTED if no else UNKNOWN
