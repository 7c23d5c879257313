"""How a claim ends by its figures: one planned ratio of means with Fieller's interval (core.statistics.ratio).

A claim says that a treatment is stronger or weaker than another, the same for practical purposes, or bears at least a
share of it. It is supported where the whole 95 % interval of the ratio says so, not supported where the whole interval
says otherwise, and can't be told yet in between. It is one comparison that was planned, so its risk is not shared.
"""

from __future__ import annotations

from dataclasses import dataclass

from adhaero.core.compare.analysis import Row, values_of
from adhaero.core.plan.claim_kinds import SAME, SHARE, STRONGER, WEAKER
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
