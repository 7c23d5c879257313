"""One treatment of which some strengths are only bounds: lognormal and Weibull by maximum likelihood.

Wald figures come with the fit; the intervals that are shown are by the calibrated profile (``censored_intervals``).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from adhaero.core.statistics.censored_likelihood import (
    ALIKE,
    SHAPES,
    Pieces,
    Shape,
    has_top,
    highest,
    median_place,
    pieces,
)
from adhaero.core.statistics.descriptive import antilog, z_quantile

Bounds = tuple[float, float]
"""What is known of one strength: from, to. Equal is exact; 0 and infinity are no bounds."""

NO_FAILURE = "none failed: every strength is above its load"
NO_LOAD = "none failed at a load that is known: what held and what fell apart tell no scatter"
ONE_LOAD = "one load fits all of them: there is no spread to judge by"


@dataclass(frozen=True)
class Fit:
    """A fitted shape: ``location`` and ``scale`` of the logarithm, with the covariance of (location, log scale); the
    median with its Wald interval, in the unit of the loads.
    """

    shape: Shape
    n: int
    failures: int
    location: float
    scale: float
    loglik: float
    covariance: tuple[tuple[float, float], tuple[float, float]]
    log_median: float
    se_log_median: float
    median_low: float
    median_high: float

    @property
    def median(self) -> float:
        return math.exp(self.log_median)

    @property
    def mean(self) -> float:
        """Mean of the fitted shape."""
        if self.shape == "lognormal":
            return math.exp(self.location + self.scale**2 / 2)
        return math.exp(self.location) * float(scipy.special.gamma(1 + self.scale))

    def quantile(self, share: float) -> float:
        """The strength that ``share`` of the pieces stay below."""
        z = float(scipy.special.ndtri(share)) if self.shape == "lognormal" else math.log(-math.log1p(-share))
        return math.exp(self.location + self.scale * z)

    @property
    def aicc(self) -> float | None:
        """Akaike's criterion with its correction for few pieces; ``None`` with fewer than four."""
        k, rest = 2, self.n - 3
        return -2 * self.loglik + 2 * k + 2 * k * (k + 1) / rest if rest > 0 else None


@dataclass(frozen=True)
class Fitted:
    """Both shapes, or the reason why there is no estimate. ``lowest`` and ``highest`` are the smallest and the largest
    load that was borne, where nothing failed.
    """

    fits: dict[Shape, Fit]
    reason: str | None
    lowest: float | None
    highest: float | None

    @property
    def best(self) -> Fit | None:
        """The shape that fits better (by AICc, lognormal where that is undefined)."""
        if not self.fits:
            return None
        first, second = (self.fits[s] for s in SHAPES)
        return second if second.aicc is not None and first.aicc is not None and second.aicc < first.aicc else first

    @property
    def disagree(self) -> bool:
        """Whether the medians of the two shapes lie further apart than a tenth."""
        return bool(self.fits) and abs(math.log(self.fits["lognormal"].median / self.fits["weibull"].median)) > 0.1


def one_group(data: Sequence[Bounds]) -> Pieces:
    """The data of a single treatment."""
    low, high = np.array(data, float).reshape(-1, 2).T
    return pieces(low, high, np.zeros(len(data), np.intp))


def fit(data: Sequence[Bounds], level: float = 0.95) -> Fitted:
    """Fit both shapes to strengths of which only bounds may be known."""
    if not data:
        return Fitted({}, "no piece", None, None)
    failures = sum(math.isfinite(high) for _, high in data)
    if not failures:
        loads = [low for low, _ in data]
        return Fitted({}, NO_FAILURE, min(loads), max(loads))
    p = one_group(data)
    if not has_top(p):
        return Fitted({}, ONE_LOAD if p.low.max() <= p.high.min() + ALIKE else NO_LOAD, None, None)
    return Fitted({shape: _fit(shape, p, failures, level) for shape in SHAPES}, None, None, None)


def _fit(shape: Shape, p: Pieces, failures: int, level: float) -> Fit:
    top = highest(shape, p, 1)
    location, scale, place = float(top.location[0, 0]), float(top.scale[0]), median_place(shape)
    v = top.covariance()
    to_median = np.array([1.0, place * scale])
    se = math.sqrt(float(to_median @ v @ to_median))
    median, half = location + place * scale, z_quantile(level) * se
    covariance = ((float(v[0, 0]), float(v[0, 1])), (float(v[1, 0]), float(v[1, 1])))
    return Fit(shape, len(p.group), failures, location, scale, float(top.loglik[0]), covariance, median, se,
               antilog(median - half), antilog(median + half))  # fmt: skip


def competing(loads: Sequence[Bounds], by_bond: Sequence[bool]) -> tuple[list[Bounds], list[Bounds]]:
    """Bond and wood as competing risks: a piece breaks at the weaker of the two, so that a failure in the wood says
    that the bond bore at least the load (its lower end, where it broke between two), and the other way round. The
    causes are taken to be independent. Bounds of the bond, and of the wood.
    """
    bond = [b if own else (b[0], math.inf) for b, own in zip(loads, by_bond, strict=True)]
    wood = [(b[0], math.inf) if own else b for b, own in zip(loads, by_bond, strict=True)]
    return bond, wood
