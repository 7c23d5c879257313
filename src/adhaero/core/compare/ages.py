"""Whether treatments that were to be of one age at the break came to it at different ones."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median

APART = 0.2
"""Share of the younger age by which the middle ages of two treatments may differ before it is pointed out."""
H = 3600.0


@dataclass(frozen=True)
class AgeGap:
    """Two treatments, the younger first, with the range of their ages in s."""

    younger: str
    older: str
    young_s: tuple[float, float]
    old_s: tuple[float, float]

    def in_words(self) -> str:
        """For example "Age differs: A was broken at 24 to 26 h, B at 46 to 49 h"."""
        return f"Age differs: {self.younger} was broken at {_range(self.young_s)}, {self.older} at {_range(self.old_s)}"


def _range(ages: tuple[float, float]) -> str:
    divide, unit = (H, "h") if ages[1] < 72 * H else (24 * H, "days")
    low, high = (f"{a / divide:.3g}" for a in ages)
    return f"{low} {unit}" if low == high else f"{low} to {high} {unit}"


def age_gap(ages_s: Mapping[str, Sequence[float]], apart: float = APART) -> AgeGap | None:
    """The widest gap between treatments that were planned alike, if it is wider than ``apart``.

    Middle ages are medians: one straggler makes no gap.
    """
    middles = {t: median(own) for t, own in ages_s.items() if own}
    if len(middles) < 2:
        return None
    young, old = min(middles, key=lambda t: middles[t]), max(middles, key=lambda t: middles[t])
    if middles[old] <= middles[young] * (1 + apart):
        return None
    return AgeGap(young, old, (min(ages_s[young]), max(ages_s[young])), (min(ages_s[old]), max(ages_s[old])))
