"""Times to an event, of pieces that are still whole too: Kaplan and Meier's survival, and the log-rank test.

The test is Mantel and Haenszel's with all times weighing the same and the hypergeometric variance; survival has
Greenwood's variance and an interval on log(-log S).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from adhaero.core.statistics.descriptive import antilog, z_quantile

Times = Sequence[tuple[float, bool]]
"""Of each piece: how long, and whether it failed then (else it was stopped whole)."""


@dataclass(frozen=True)
class LogRank:
    """The test; ``expected`` failures of each treatment, were all the same."""

    chisq: float
    df: int
    p: float
    expected: list[float]


@dataclass(frozen=True)
class SurvivalAt:
    """At a time: pieces at risk (that time or later), survival with its interval; ``None`` where it is not known."""

    time: float
    at_risk: int
    survival: float | None
    low: float | None
    high: float | None


def log_rank(groups: Sequence[Times]) -> LogRank | None:
    """Test of one survival for all; ``None`` where nothing failed or there is one treatment."""
    failed_at = sorted({t for g in groups for t, failed in g if failed})
    if len(groups) < 2 or not failed_at:
        return None
    k = len(groups)
    seen = np.array([sum(failed for _, failed in g) for g in groups], float)
    expected, variance = np.zeros(k), np.zeros((k, k))
    for at in failed_at:
        risk = np.array([sum(t >= at for t, _ in g) for g in groups], float)
        n, d = risk.sum(), float(sum(t == at and failed for g in groups for t, failed in g))
        share = risk / n
        expected += d * share
        if n > 1:
            variance += d * (n - d) / (n - 1) * (np.diag(share) - np.outer(share, share))
    off = (seen - expected)[:-1]
    chisq = float(off @ np.linalg.pinv(variance[:-1, :-1]) @ off)
    df = k - 1
    return LogRank(chisq, df, float(scipy.special.chdtrc(df, chisq)), expected.tolist())


def kaplan_meier(times: Times, at: Sequence[float], level: float = 0.95) -> list[SurvivalAt]:
    """Survival of one treatment at these times; failures at that very time have happened."""
    z = z_quantile(level)
    last = max(t for t, _ in times)
    last_failed = all(failed for t, failed in times if t == last)
    found = []
    for moment in at:
        survival, greenwood = 1.0, 0.0
        for t in sorted({t for t, failed in times if failed and t <= moment}):
            n, d = sum(u >= t for u, _ in times), sum(u == t and failed for u, failed in times)
            survival *= 1 - d / n
            greenwood += d / (n * (n - d)) if n > d else 0.0
        risk = sum(t >= moment for t, _ in times)
        if moment > last and not last_failed:
            found.append(SurvivalAt(moment, risk, None, None, None))
        elif survival in (0.0, 1.0):
            found.append(SurvivalAt(moment, risk, survival, None, None))
        else:
            log_s = math.log(survival)
            half = z * math.sqrt(greenwood) / abs(log_s)
            low, high = (survival ** antilog(sign * half) for sign in (1, -1))
            found.append(SurvivalAt(moment, risk, survival, low, high))
    return found
