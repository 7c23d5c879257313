"""How many more pieces would settle a comparison that is open, were it truly as it looks now.

A difference that is at least what matters is settled when it is told apart, with the wanted power; a smaller one when
its interval lies within what matters. In between, close to what matters, no number of pieces settles it.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from functools import lru_cache

from adhaero.core.compare.case import Case
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import BLOCKS, MEANS, FamilyResult, Judged
from adhaero.core.plan.power import pieces_needed
from adhaero.core.statistics.descriptive import t_quantile

MOST = 500
"""More than this is no advice."""
CLOSE = 0.1
"""Share of what matters by which a difference must lie away from it to be settled by numbers."""


def more_of_each(case: Case, r: FamilyResult, j: Judged) -> int | None:
    """How many more of each of the two; ``None`` where it is settled, cannot be told, or takes too many."""
    if j.outcome is not Outcome.UNKNOWN or j.route not in (MEANS, BLOCKS) or not j.ratio or j.ratio <= 0:
        return None
    rows = [case.row(x) for x in (j.first, j.second)]
    scatter = _scatter(r, j, case)
    if not scatter:
        return None
    seen, matters = abs(j.ratio - 1), case.matters
    alpha = j.alpha or case.alpha
    if seen >= matters * (1 + CLOSE):
        needed = pieces_needed(seen, scatter, alpha, case.wanted_power)
        n = needed[0] if needed else None
    elif seen <= matters * (1 - CLOSE):
        n = _to_be_same(math.log1p(matters) - abs(math.log(j.ratio)), scatter, alpha, case.wanted_power)
    else:
        return None
    if n is None or n > MOST:
        return None
    return max(1, n - min(row.summary.n for row in rows))


def _scatter(r: FamilyResult, j: Judged, case: Case) -> float | None:
    """Scatter (CV) of one piece about its treatment: within blocks, or pooled over the two."""
    rows = [case.row(x) for x in (j.first, j.second)]
    known = [(row.summary.n - 1, row.summary.exact.cv) for row in rows]
    if any(n < 1 or cv is None for n, cv in known):
        return None
    pooled = math.sqrt(sum(n * (cv or 0.0) ** 2 for n, cv in known) / sum(n for n, _ in known))
    if j.route == BLOCKS and r.shared is not None:
        return pooled * math.sqrt(max(0.0, 1 - r.shared.taken_out))
    return pooled


@lru_cache(maxsize=4096)
def _to_be_same(room: float, scatter: float, alpha: float, power: float) -> int | None:
    """Pieces of each for which the interval of a log ratio stays within ``room`` on both sides with that power."""

    def fits(n: int) -> bool:
        df = 2 * n - 2
        # Both ends have to stay inside: half of what may fail on either side.
        return (t_quantile(1 - alpha, df) + t_quantile(power, df)) * scatter * math.sqrt(2 / n) <= room

    found = 2 + bisect_left(range(2, MOST + 1), True, key=fits)
    return found if found <= MOST else None
