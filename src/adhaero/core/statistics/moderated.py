"""Ratios of means with few pieces: the scatter of each treatment is steadied by that of the others.

Three pieces say little about their own scatter; what they leave open, the other treatments of the batch help to know.
The squared CV c of each treatment is shrunk towards a prior (inverse chi-square; its moments by logarithms as in
G. K. Smyth, Statistical Applications in Genetics and Molecular Biology 3, 2004), lifted where it is luckily small and
never lowered:

    u = max(c, (d0 s0^2 + d c) / (d0 + d)),   f = d + d0 min(1, s0^2 / c),   d0 at most 12
    ln(m1 / m2),   SE^2 = u1 / n1 + u2 / n2,   df by Satterthwaite with f, at most the sum of d in the prior
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import scipy

from adhaero.core.statistics.contrasts import Moments, moments
from adhaero.core.statistics.ratio import LogRatio

Values = Sequence[float]
MOST_PRIOR_DF = 12.0
"""More degrees of freedom are never borrowed: scatters are less alike than a few treatments make them look."""


@dataclass(frozen=True)
class Prior:
    """What the treatments of a batch together tell about their scatter: ``df`` borrowed at most, the squared CV they
    point to, the sum of their own degrees of freedom, and how many they are. ``raw_df`` is not bounded (infinite: no
    treatment differs from the others by more than chance).
    """

    df: float
    cv2: float
    total_df: float
    groups: int
    raw_df: float = math.inf


@dataclass(frozen=True)
class Steadied:
    """One treatment: number, mean, its own squared CV, the one that is used, and its degrees of freedom."""

    n: int
    mean: float
    cv2: float
    used: float
    df: float


def prior_of(groups: Sequence[Values]) -> Prior | None:
    """Return the prior of these treatments; ``None`` where fewer than two of them have any spread."""
    known = [(m.n - 1, _cv2(m)) for g in groups if len(g) > 1 and (m := moments(g)).mean > 0 and m.v > 0]
    if len(known) < 2:
        return None
    psi, trigamma = scipy.special.digamma, scipy.special.polygamma
    e = [math.log(c) - float(psi(d / 2)) + math.log(d / 2) for d, c in known]
    mean = math.fsum(e) / len(e)
    spread = math.fsum((x - mean) ** 2 for x in e) / (len(e) - 1)
    spread -= math.fsum(float(trigamma(1, d / 2)) for d, _ in known) / len(known)
    total = float(sum(d for d, _ in known))
    if spread <= 0:
        return Prior(MOST_PRIOR_DF, math.fsum(c for _, c in known) / len(known), total, len(known))
    raw = 2 * _trigamma_inverse(spread)
    cv2 = math.exp(mean + float(psi(raw / 2)) - math.log(raw / 2))
    return Prior(min(raw, MOST_PRIOR_DF), cv2, total, len(known), raw)


def _cv2(m: Moments) -> float:
    return m.n * m.v / m.mean**2


def _trigamma_inverse(x: float) -> float:
    """The inverse of the trigamma function at ``x``, by Newton's method on its reciprocal (Smyth 2004, appendix)."""
    y = 0.5 + 1 / x
    for _ in range(50):
        value = float(scipy.special.polygamma(1, y))
        step = value * (1 - value / x) / float(scipy.special.polygamma(2, y))
        y += step
        if -step / y < 1e-10:
            break
    return y


def steadied(values: Values, prior: Prior | None) -> Steadied | None:
    """Return a treatment with its steadied scatter; ``None`` for a single value, a mean of 0, or no scatter at all."""
    if len(values) < 2 or (m := moments(values)).mean <= 0:
        return None
    c, d = _cv2(m), m.n - 1
    if prior is None:
        return Steadied(m.n, m.mean, c, c, float(d)) if c > 0 else None
    used = max(c, (prior.df * prior.cv2 + d * c) / (prior.df + d))
    df = d + prior.df * min(1.0, prior.cv2 / c if c > 0 else 1.0)
    return Steadied(m.n, m.mean, c, used, df)


def log_ratio(first: Steadied, second: Steadied, prior: Prior | None) -> LogRatio:
    """Return the log ratio of two treatments."""
    a, b = first.used / first.n, second.used / second.n
    df = (a + b) ** 2 / (a * a / first.df + b * b / second.df)
    if prior is not None:
        df = min(df, prior.total_df)
    middle, se = math.log(first.mean / second.mean), math.sqrt(a + b)
    return LogRatio.of(middle, se, df)
