"""How a claim ends by its figures: one comparison, judged as the planned ones are (core.compare.planned).

A claim says that a treatment is stronger or weaker than another, the same for practical purposes, or bears at least a
share of it. It is supported where the whole 95 % interval of the ratio says so, not supported where the whole interval
says otherwise, and can't be told yet in between. It is one comparison that was planned, so its risk is not shared.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.data import p_in_words
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import BLOCKS, MEDIANS, Judged, Setting, judge_pair
from adhaero.core.plan.claim_kinds import SAME, SHARE, STRONGER, WEAKER
from adhaero.core.units import half_up

SUPPORTED, NOT_SUPPORTED, NOT_TESTED, UNKNOWN = "supported", "not supported", "not tested", "can't tell yet"
_BY = {MEDIANS: ", by medians fitted to limits", BLOCKS: ", with blocks taken out"}


@dataclass(frozen=True)
class ClaimEnd:
    """How a claim ends by its figures, and the comparison that decides it in words."""

    state: str
    text: str


def end_of(
    says: str,
    share: float,
    first: Row | None,
    second: Row | None,
    s: Setting,
    judged: Judged | None = None,
    risk: float | None = None,
) -> ClaimEnd:
    """The end of a claim about ``first`` against ``second``; ``share`` is a fraction of the second. It is judged in the
    setting ``s``, at its own ``risk``, unless it is ``judged`` already.
    """
    for row in (first, second):
        if row is None or row.summary.n == 0:
            return ClaimEnd(NOT_TESTED, f"{row.group.label if row else 'one of the two'} has no result")
    assert first is not None
    assert second is not None
    names = f"{first.group.label} against {second.group.label}"
    j = judged or judge_pair(first, second, s, risk)
    claimed = f"; {half_up(100 * share, 0):.0f} % was claimed" if says == SHARE else ""
    if j.low is None and j.high is None:
        return _without_ratio(says, names, j, claimed)
    low, high = j.low or 0.0, math.inf if j.high is None else j.high
    ends = (
        f"{half_up(100 * low, 0):.0f} % or more"
        if math.isinf(high)
        else f"{half_up(100 * low, 0):.0f} to {half_up(100 * high, 0):.0f} %"
    )
    ratio = "" if j.ratio is None else f"{half_up(100 * j.ratio, 0):.0f} % "
    text = f"{names}: {ratio}({ends}){_BY.get(j.route, '')}{claimed}"
    return ClaimEnd(_state(says, share, low, high, s.matters), text)


def _without_ratio(says: str, names: str, j: Judged, claimed: str) -> ClaimEnd:
    """Where there is no ratio a test may still tell which of the two is more: that decides who is stronger, no more."""
    if j.outcome not in (Outcome.BETTER, Outcome.WORSE) or j.p is None:
        return ClaimEnd(UNKNOWN, f"{names}: {j.why or 'there is no ratio'}{claimed}")
    more = j.outcome is Outcome.BETTER
    text = f"{names}: {'more' if more else 'less'} ({p_in_words(j.p)}), without a ratio{claimed}"
    if says not in (STRONGER, WEAKER):
        return ClaimEnd(UNKNOWN, text)
    return ClaimEnd(SUPPORTED if more == (says == STRONGER) else NOT_SUPPORTED, text)


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
