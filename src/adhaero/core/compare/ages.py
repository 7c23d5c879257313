"""Whether treatments that were to be of one age at the break came to it at different ones."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median

from adhaero.core.times import span

APART = 0.2
"""Share of the younger age by which the middle ages of two treatments may differ before it is pointed out."""
LEAST_S = 600.0
"""And by how much at least: a pause between two breaks is no age."""


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
    low, high = (span(x) for x in ages)
    if low == high:
        return low
    return f"{low.split()[0]} to {high}" if low.split()[-1] == high.split()[-1] else f"{low} to {high}"


def age_gap(ages_s: Mapping[str, Sequence[float]], apart: float = APART) -> AgeGap | None:
    """The widest gap between treatments that were planned alike, if it is wider than ``apart``.

    Middle ages are medians: one straggler makes no gap.
    """
    middles = {t: median(own) for t, own in ages_s.items() if own}
    if len(middles) < 2:
        return None
    young, old = min(middles, key=lambda t: middles[t]), max(middles, key=lambda t: middles[t])
    if middles[old] - middles[young] <= max(LEAST_S, apart * middles[young]):
        return None
    return AgeGap(young, old, (min(ages_s[young]), max(ages_s[young])), (min(ages_s[old]), max(ages_s[old])))
