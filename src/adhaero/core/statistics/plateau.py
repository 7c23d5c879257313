"""From which level on is it within a share of the reference level: a walk of one-sided bounds.

From the reference outwards, level by level, as long as the one-sided lower bound of the ratio of means to the reference
stays above 1 - d. Each step is taken only after the one before has passed, so that no correction is needed (a fixed
sequence of tests; W. Maurer, L. Hothorn, W. Lehmacher 1995).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from adhaero.core.statistics.contrasts import LogRatio, log_ratio
from adhaero.core.statistics.ratio import Interval, ratio_of_means


@dataclass(frozen=True)
class AgainstReference:
    """A level's ratio to the reference with its one-sided lower bound, by Fieller and by the logarithm."""

    level: int
    ratio: float | None
    fieller: Interval | None
    low: float | None
    log: LogRatio | None


@dataclass(frozen=True)
class Plateau:
    """The levels beside the reference in their order; ``before`` and ``after`` are the farthest levels that passed on
    either side of it, by Fieller's bound; ``None`` where the nearest failed or there is none.
    """

    reference: int
    levels: list[AgainstReference]
    before: int | None
    after: int | None
    before_by_log: int | None
    after_by_log: int | None


def plateau(levels: Sequence[Sequence[float]], reference: int, share: float = 0.1, level: float = 0.95) -> Plateau:
    """Walk outwards from the ``reference`` (a place among the levels, which are in order); ``share`` is how much less
    still counts as the same, ``level`` the one-sided confidence.
    """
    base = tuple(levels[reference])
    rows = {i: _against(i, tuple(own), base, level) for i, own in enumerate(levels) if i != reference}
    by_fieller = [rows[i].low if i in rows else None for i in range(len(levels))]
    by_log = [log.low if i in rows and (log := rows[i].log) else None for i in range(len(levels))]
    ends = farthest(by_fieller, reference, share), farthest(by_log, reference, share)
    return Plateau(reference, list(rows.values()), *ends[0], *ends[1])


def farthest(lows: Sequence[float | None], reference: int, share: float) -> tuple[int | None, int | None]:
    """The walk: the farthest levels before and after the reference that are reached while every bound on the way stays
    above 1 - ``share``; ``None`` where the nearest fails or there is none.
    """
    ends = []
    for way in (range(reference - 1, -1, -1), range(reference + 1, len(lows))):
        last = None
        for i in way:
            low = lows[i]
            if low is None or low < 1 - share:
                break
            last = i
        ends.append(last)
    return ends[0], ends[1]


@lru_cache(maxsize=8192)
def _against(place: int, own: tuple[float, ...], reference: tuple[float, ...], level: float) -> AgainstReference:
    two_sided = 2 * level - 1
    ratio = ratio_of_means(own, reference, two_sided)
    if ratio is None:
        return AgainstReference(place, None, None, None, None)
    f = ratio.fieller
    low = None if f is None else f.ci_low if f.ci_low is not None else f.low_without_high
    return AgainstReference(place, ratio.ratio, f, low, log_ratio(own, reference, two_sided))
