"""Several treatments of which some strengths are only bounds: a location each, one scale for all.

Medians with Wald intervals, the likelihood-ratio test of one location for all, pairs by Wald; and, as the check beside
it, pairs with a scale of their own. These are the figures of textbooks; with few pieces they are too sure of
themselves, and what is shown is calibrated (``censored_intervals``).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.censored import Bounds
from adhaero.core.statistics.censored_likelihood import (
    Array,
    Pieces,
    Shape,
    Top,
    has_top,
    highest,
    median_place,
    pieces,
    with_median,
)
from adhaero.core.statistics.descriptive import antilog, z_quantile

AT_LEAST = "at least"
BELOW = "below"


@dataclass(frozen=True)
class Sample:
    """Treatments as data: ``groups`` are the places of those in the model, ``left_out`` the others with the reason
    (none of them failed, or none held a load).
    """

    data: Pieces
    groups: list[int]
    left_out: dict[int, str]
    failures: int

    @property
    def k(self) -> int:
        """How many treatments have a location."""
        return len(self.groups)


def sample(groups: Sequence[Sequence[Bounds]]) -> Sample:
    """The data of the model. A treatment without a failure can lie anywhere above, one that held nothing anywhere
    below: neither has a location.
    """
    left_out = {}
    for place, own in enumerate(groups):
        if not any(math.isfinite(high) for _, high in own):
            left_out[place] = AT_LEAST
        elif not any(low > 0 for low, _ in own):
            left_out[place] = BELOW
    used = [i for i in range(len(groups)) if i not in left_out]
    rows = [(low, high, n) for n, i in enumerate(used) for low, high in groups[i]]
    low, high, group = np.array(rows, float).reshape(-1, 3).T
    failures = int(np.isfinite(high).sum())
    return Sample(pieces(low, high, group.astype(np.intp)), used, left_out, failures)


@dataclass(frozen=True)
class Equal:
    """The likelihood-ratio test of one location for all treatments."""

    loglik: float
    lr: float
    df: int
    p: float


@dataclass(frozen=True)
class Median:
    """A treatment's location and median, by Wald."""

    location: float
    se_location: float
    log_median: float
    se_log_median: float
    low: float
    high: float


@dataclass(frozen=True)
class WaldPair:
    """First over second, by the difference of their locations; places in the model."""

    first: int
    second: int
    log_ratio: float
    se: float
    z: float
    p: float
    p_holm: float
    low: float
    high: float


@dataclass(frozen=True)
class OwnScales:
    """A pair with a scale each: the test of equal medians."""

    scales: tuple[float, float]
    log_ratio: float
    loglik: float
    loglik_equal: float
    lr: float
    p: float


@dataclass(frozen=True)
class GroupsFit:
    """The model fitted. Lists follow ``sample.groups``."""

    sample: Sample
    top: Top
    scale: float
    se_log_scale: float
    loglik: float
    covariance: Array
    equal: Equal | None
    medians: list[Median]

    def pairs(self, level: float = 0.95) -> list[WaldPair]:
        """All pairs by Wald."""
        return _pairs(self.top, self.covariance, level)


def fit_groups(s: Sample, shape: Shape, level: float = 0.95) -> GroupsFit | None:
    """The model of one shape; ``None`` where no treatment has a location, or one load fits each of them."""
    if not s.groups or not has_top(s.data):
        return None
    top = highest(shape, s.data, s.k)
    v, scale, loglik = top.covariance(), float(top.scale[0]), float(top.loglik[0])
    equal = None
    if s.k > 1:
        one = highest(shape, s.data.shifted(0.0, np.zeros_like(s.data.group)), 1)
        lr = 2 * (loglik - float(one.loglik[0]))
        equal = Equal(float(one.loglik[0]), lr, s.k - 1, float(scipy.special.chdtrc(s.k - 1, max(0.0, lr))))
    return GroupsFit(s, top, scale, math.sqrt(v[-1, -1]), loglik, v, equal, _medians(top, v, level))


def _medians(top: Top, v: Array, level: float) -> list[Median]:
    k, z = len(v) - 1, z_quantile(level)
    place = median_place(top.shape) * float(top.scale[0])
    found = []
    for i, location in enumerate(top.location[0].tolist()):
        to_median = np.zeros(k + 1)
        to_median[i], to_median[k] = 1.0, place
        se = math.sqrt(float(to_median @ v @ to_median))
        middle = location + place
        found.append(Median(location, math.sqrt(v[i, i]), middle, se, antilog(middle - z * se),
                            antilog(middle + z * se)))  # fmt: skip
    return found


def _pairs(top: Top, v: Array, level: float) -> list[WaldPair]:
    location, quantile = top.location[0], z_quantile(level)
    rows = []
    for i in range(len(location)):
        for j in range(i + 1, len(location)):
            diff = float(location[i] - location[j])
            se = math.sqrt(v[i, i] + v[j, j] - 2 * v[i, j])
            rows.append((i, j, diff, se, diff / se, float(2 * scipy.special.ndtr(-abs(diff / se)))))
    adjusted = holm([r[-1] for r in rows])
    return [
        WaldPair(*row, p, antilog(row[2] - quantile * row[3]), antilog(row[2] + quantile * row[3]))
        for row, p in zip(rows, adjusted, strict=True)
    ]


def own_scales(first: Sequence[Bounds], second: Sequence[Bounds], shape: Shape) -> OwnScales | None:
    """Two treatments with a scale each; ``None`` where one load fits all pieces of either, or it has no location."""
    both = [sample([first]), sample([second])]
    if any(not s.groups or not has_top(s.data) for s in both):
        return None
    tops = [highest(shape, s.data, 1) for s in both]
    medians = [float(t.log_median[0, 0]) for t in tops]
    loglik = sum(float(t.loglik[0]) for t in tops)
    equal = _equal_medians(shape, [s.data for s in both], medians)
    lr = max(0.0, 2 * (loglik - equal))
    p = float(scipy.special.chdtrc(1, lr))
    scales = (float(tops[0].scale[0]), float(tops[1].scale[0]))
    return OwnScales(scales, medians[0] - medians[1], loglik, equal, lr, p)


ZOOMS = 4
"""Each looks twenty times closer; four of them leave the peak to less than the rounding of the likelihood."""


def _equal_medians(shape: Shape, both: Sequence[Pieces], medians: Sequence[float]) -> float:
    """The highest log likelihood with a common median. It can have two peaks, both between the two medians."""

    def height(at: Array) -> Array:
        return np.asarray(sum(with_median(shape, own, at) for own in both))

    grid = np.linspace(min(medians), max(medians), 41)
    heights = height(grid)
    peaks = [i for i in range(41) if heights[i] >= heights[max(0, i - 1) : i + 2].max()]
    best = float(heights.max())
    for i in peaks:
        low, high = grid[max(0, i - 1)], grid[min(40, i + 1)]
        for _ in range(ZOOMS):
            near = np.linspace(low, high, 41)
            own = height(near)
            top = int(own.argmax())
            best, low, high = max(best, float(own[top])), near[max(0, top - 1)], near[min(40, top + 1)]
    return best
