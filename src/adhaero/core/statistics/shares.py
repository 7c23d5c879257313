"""Counts of pieces and outcomes in words that have an order: exact intervals and exact tests.

Intervals are Clopper and Pearson's; tests of shares Fisher's (two-sided: all tables at most as likely as the one
seen); pairs of ordered outcomes by Wilcoxon's rank sum, exact without ties. Several tests are adjusted by Holm.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from adhaero.core.statistics.adjust import holm

_SAME = 1e-7
"""Relative difference below which two tables are equally likely (rounding)."""
_MOST_TABLES = 2_000_000
_EXACT_BELOW = 50


@dataclass(frozen=True)
class Share:
    """``hits`` of ``n`` pieces as a share with its exact interval; ``share`` is ``None`` of no pieces."""

    hits: int
    n: int
    share: float | None
    low: float
    high: float


def share(hits: int, n: int, alpha: float = 0.05) -> Share:
    """A share with its Clopper-Pearson interval; of no pieces anything is possible."""
    if n == 0:
        return Share(0, 0, None, 0.0, 1.0)
    low = float(scipy.special.betaincinv(hits, n - hits + 1, alpha / 2)) if hits else 0.0
    high = float(scipy.special.betaincinv(hits + 1, n - hits, 1 - alpha / 2)) if hits < n else 1.0
    return Share(hits, n, hits / n, low, high)


def fisher(a: Share, b: Share) -> float:
    """Two-sided p of Fisher's exact test that two shares are the same."""
    # Loaded where it is needed: it takes as long to load as half of the program.
    from scipy import stats

    table = np.array([[a.hits, a.n - a.hits], [b.hits, b.n - b.hits]])
    return float(stats.fisher_exact(table).pvalue)


def fisher_overall(counts: Sequence[tuple[int, int]]) -> float | None:
    """P of Fisher's exact test that all shares (hits, n) are the same; ``None`` where there are too many tables."""
    counts = [c for c in counts if c[1]]
    total = sum(hits for hits, _ in counts)
    # Log chance of the tables of the groups so far, by how many hits they have.
    tables: dict[int, np.ndarray] = {0: np.zeros(1)}
    for i, (_, n) in enumerate(counts):
        rest = sum(m for _, m in counts[i + 1 :])
        grown: dict[int, list[np.ndarray]] = {}
        for have, own in tables.items():
            for hits in range(max(0, total - have - rest), min(n, total - have) + 1):
                grown.setdefault(have + hits, []).append(own + _log_choose(n, hits))
        tables = {have: np.concatenate(parts) for have, parts in grown.items()}
        if sum(len(own) for own in tables.values()) > _MOST_TABLES:
            return None
    whole = tables[total] - _log_choose(sum(n for _, n in counts), total)
    seen = sum(_log_choose(n, hits) for hits, n in counts) - _log_choose(sum(n for _, n in counts), total)
    return min(1.0, float(np.exp(whole[whole <= seen + math.log1p(_SAME)]).sum()))


def _log_choose(n: int, k: int) -> float:
    return float(scipy.special.gammaln(n + 1) - scipy.special.gammaln(k + 1) - scipy.special.gammaln(n - k + 1))


@dataclass(frozen=True)
class RankSum:
    """A pair of treatments: ``w`` counts the pairs of pieces in which the first is higher (ties half)."""

    first: int
    second: int
    w: float
    p: float
    exact: bool
    p_holm: float


def rank_sums(groups: Sequence[Sequence[float]]) -> list[RankSum | None]:
    """Wilcoxon's test of all pairs; ``None`` for a pair whose outcomes are all equal."""
    from scipy import stats

    tested: list[tuple[int, int, tuple[float, float, bool] | None]] = []
    for i in range(len(groups)):
        for j in range(i + 1, len(groups)):
            both = [*groups[i], *groups[j]]
            if len(set(both)) < 2:
                tested.append((i, j, None))
                continue
            exact = len(set(both)) == len(both) and max(len(groups[i]), len(groups[j])) < _EXACT_BELOW
            found = stats.mannwhitneyu(groups[i], groups[j], method="exact" if exact else "asymptotic")
            tested.append((i, j, (float(found.statistic), min(1.0, float(found.pvalue)), exact)))
    adjusted = iter(holm([f[1] for _, _, f in tested if f is not None]))
    return [None if f is None else RankSum(i, j, *f, next(adjusted)) for i, j, f in tested]
