"""The likelihood of strengths of which only bounds are known, and its highest point.

A strength is lognormal or Weibull, so that its logarithm y has a location and a scale: (y - location) / scale follows
the normal, or the smallest extreme value. A piece is known by ``lower`` and ``upper``: equal is exact, an infinite
``upper`` held its last load, a ``lower`` of 0 broke under its first. Treatments have a location each, and share the
scale (accelerated failure).

In ``eta = location / scale`` and ``theta = 1 / scale`` the likelihood is concave (J. Burridge, J. R. Statist. Soc. B
43, 1981), so that Newton's steps, halved where they overshoot, find the one highest point. Many problems are solved at
once: ``weights`` has a row for each, with how often every piece counts in it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy
from numpy.typing import NDArray

Array = NDArray[np.float64]
Shape = Literal["lognormal", "weibull"]
SHAPES: tuple[Shape, ...] = ("lognormal", "weibull")
"""The shape taken first, and the one it is held against."""

LOG_LOG_2 = float(np.log(np.log(2)))
_HALF_LOG_2PI = 0.5 * float(np.log(2 * np.pi))
_STEPS = 60
_ENOUGH = 1e-15


def median_place(shape: Shape) -> float:
    """Where the median lies, in scales above the location."""
    return 0.0 if shape == "lognormal" else LOG_LOG_2


@dataclass(frozen=True)
class Pieces:
    """Logarithms of the bounds of ``n`` pieces (-inf, inf where there is none), and the treatment of each; with a row
    for every problem where they differ between problems.
    """

    low: Array
    high: Array
    group: NDArray[np.intp]

    @property
    def exact(self) -> NDArray[np.bool_]:
        """Which are known exactly."""
        return np.asarray(np.atleast_2d(self.low)[0] == np.atleast_2d(self.high)[0])

    def shifted(self, by: Array | float, group: NDArray[np.intp]) -> Pieces:
        """The same, with logarithms lowered ``by`` that much, in other groups."""
        return Pieces(self.low - by, self.high - by, group)


def pieces(lower: Array, upper: Array, group: NDArray[np.intp]) -> Pieces:
    """From bounds in any unit; a ``lower`` of 0 or below and an infinite ``upper`` are no bounds."""
    with np.errstate(divide="ignore"):
        return Pieces(np.log(np.maximum(lower, 0.0)), np.log(upper), group)


@dataclass(frozen=True)
class Top:
    """The highest points of many problems. Logarithms lie around ``centre``: ``eta`` (problems x groups) and ``theta``
    are those of y - centre. ``loglik`` is of the loads themselves; minus its second derivatives are ``h_eta`` (the
    diagonal), ``h_cross`` and ``h_theta``.
    """

    shape: Shape
    centre: float
    eta: Array
    theta: Array
    loglik: Array
    h_eta: Array
    h_cross: Array
    h_theta: Array

    @property
    def location(self) -> Array:
        """Locations of the logarithms, problems x groups."""
        return self.eta / self.theta[:, None] + self.centre

    @property
    def scale(self) -> Array:
        """The common scale of each problem."""
        return 1 / self.theta

    @property
    def log_median(self) -> Array:
        """Logarithms of the medians, problems x groups."""
        return self.location + median_place(self.shape) * self.scale[:, None]

    def covariance(self, problem: int = 0) -> Array:
        """Covariance of (locations, log scale) of one problem, from the information at its highest point."""
        eta, theta = self.eta[problem], float(self.theta[problem])
        k = len(eta)
        # A group that is known by one wide step alone, beside others of next to no scatter, tells nothing of its place.
        information = np.diag(np.append(np.maximum(self.h_eta[problem], NOTHING), self.h_theta[problem]))
        information[:k, k] = information[k, :k] = self.h_cross[problem]
        turn = np.zeros((k + 1, k + 1))
        turn[:k, :k] = np.eye(k) / theta
        turn[:k, k] = -eta / theta**2
        turn[k, k] = -1 / theta
        return np.asarray(turn @ np.linalg.inv(information) @ turn.T)


NOTHING = 1e-200
"""Information that is none, and whose variance numbers still hold."""
ALIKE = 1e-6
"""Loads that differ by less than this share are one load: no rig shows more, and a scatter of it has no likelihood that
numbers could hold.
"""


def has_top(p: Pieces) -> bool:
    """Whether the likelihood has a highest point: not where one load within each group fits all of its pieces, nor
    where they lie off it by no more than ``ALIKE``; and not where pieces only held, or only fell apart below what held:
    there any scatter will do, the wider the better.
    """
    if not (np.isfinite(p.low) & np.isfinite(p.high)).any() and _parted(p):
        return False
    for g in np.unique(p.group):
        own = p.group == g
        if p.low[own].max() > p.high[own].min() + ALIKE:
            return True
    return False


def _parted(p: Pieces) -> bool:
    """Whether in each group all that broke below a load did so below all that held."""
    for g in np.unique(p.group):
        own = p.group == g
        broke, held = p.high[own & np.isneginf(p.low)], p.low[own & np.isposinf(p.high)]
        if broke.size and held.size and broke.max() > held.min():
            return False
    return True


def of_exact(shape: Shape, z: Array) -> tuple[Array, Array, Array]:
    """Log density of the standard shape at z with its first and second derivative."""
    if shape == "lognormal":
        return -0.5 * z * z - _HALF_LOG_2PI, -z, np.full_like(z, -1.0)
    e = np.exp(z)
    return z - e, 1 - e, -e


def _log_between(shape: Shape, low: Array, high: Array) -> Array:
    """Log of the chance of lying between two points, worked out on the side of the smaller tail."""
    if shape == "lognormal":
        turned = low > 0
        a, b = np.where(turned, -high, low), np.where(turned, -low, high)
        far, near = scipy.special.log_ndtr(b), scipy.special.log_ndtr(a)
        return np.asarray(far + np.log1p(-np.exp(near - far)))
    below, above = np.exp(low), np.exp(high)
    return np.asarray(-below + np.log(-np.expm1(below - above)))


def of_bounds(shape: Shape, low: Array, high: Array) -> tuple[Array, Array, Array, Array, Array, Array]:
    """Log chance between two points, its slopes in each of them, and its second derivatives (low, high, both)."""
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        log_d = _log_between(shape, low, high)
        r_low, r_high = (np.where(np.isinf(z), 0.0, np.exp(of_exact(shape, z)[0] - log_d)) for z in (low, high))
        curve_low, curve_high = (np.where(np.isinf(z), 0.0, of_exact(shape, z)[1]) for z in (low, high))
    return (
        log_d, -r_low, r_high,
        -r_low * curve_low - r_low * r_low, r_high * curve_high - r_high * r_high, r_low * r_high,
    )  # fmt: skip


def _sum(values: Array, group: NDArray[np.intp], k: int) -> Array:
    """Sums by group, along the last axis."""
    place = np.arange(len(values))[:, None] * k + group
    sums = np.bincount(place.ravel(), values.ravel(), len(values) * k)
    return np.asarray(sums.reshape(len(values), k), float)


def _slopes(shape: Shape, p: Pieces, weights: Array, eta: Array, theta: Array) -> tuple[Array, ...]:
    """Log likelihood with its gradient and information in eta and theta; a row for every problem."""
    k = eta.shape[1]
    loglik = np.zeros(len(theta))
    g_eta, h_eta, h_cross = np.zeros_like(eta), np.zeros_like(eta), np.zeros_like(eta)
    g_theta, h_theta = np.zeros(len(theta)), np.zeros(len(theta))
    for exact in (True, False):
        own = p.exact == exact
        if not own.any():
            continue
        low, high, w = p.low[..., own], p.high[..., own], weights[:, own]
        group = np.broadcast_to(p.group[..., own], w.shape)
        at = np.take_along_axis(eta, group, 1)
        z = theta[:, None] * high - at
        if exact:
            f, f1, f2 = of_exact(shape, z)
            loglik += (w * (f - high)).sum(1) + w.sum(1) * np.log(theta)
            slope, bend = w * f1, w * f2
            g_theta += (slope * high).sum(1) + w.sum(1) / theta
            h_theta += -(bend * high * high).sum(1) + w.sum(1) / theta**2
            cross = bend * high
        else:
            f, l1, u1, l2, u2, lu = of_bounds(shape, theta[:, None] * low - at, z)
            y_low, y_high = (np.where(np.isinf(y), 0.0, y) for y in (low, high))
            loglik += (w * f).sum(1)
            slope, bend = w * (l1 + u1), w * (l2 + u2 + 2 * lu)
            g_theta += (w * (l1 * y_low + u1 * y_high)).sum(1)
            cross = w * (l2 * y_low + u2 * y_high + lu * (y_low + y_high))
            h_theta += -(w * (l2 * y_low**2 + u2 * y_high**2 + 2 * lu * y_low * y_high)).sum(1)
        g_eta -= _sum(slope, group, k)
        h_eta -= _sum(bend, group, k)
        h_cross += _sum(cross, group, k)
    return loglik, g_eta, g_theta, h_eta, h_cross, h_theta


def _start(p: Pieces, weights: Array, k: int) -> tuple[Array, Array]:
    middle = np.where(np.isinf(p.low), p.high, np.where(np.isinf(p.high), p.low, (p.low + p.high) / 2))
    middle, group = np.broadcast_to(middle, weights.shape), np.broadcast_to(p.group, weights.shape)
    n = np.maximum(_sum(weights, group, k), 1e-9)
    location = _sum(weights * middle, group, k) / n
    rest = (weights * (middle - np.take_along_axis(location, group, 1)) ** 2).sum(1) / np.maximum(weights.sum(1), 1)
    theta = 1 / np.sqrt(np.maximum(rest, 0.02**2))
    return location * theta[:, None], theta


def highest(shape: Shape, p: Pieces, k: int, weights: Array | None = None) -> Top:
    """The highest points of the likelihood of ``k`` groups; ``has_top`` must hold for every problem.

    ``p.low`` and ``p.high`` may have a row for every problem too. Groups without any failure have no highest point and
    must be left out before.
    """
    if weights is None:
        weights = np.ones((p.low.shape[0] if p.low.ndim == 2 else 1, p.low.shape[-1]))
    # Shifting all logarithms to their middle keeps the steps well scaled; it is put back at the end.
    ends = np.concatenate([p.low[np.isfinite(p.low)], p.high[np.isfinite(p.high)]])
    centre = float(ends.mean())
    near = p.shifted(centre, p.group)
    eta, theta = _start(near, weights, k)
    now = _slopes(shape, near, weights, eta, theta)
    for _ in range(_STEPS):
        loglik, g_eta, g_theta, h_eta, h_cross, h_theta = now
        # The information has the form of an arrow: solved by what theta leaves of it.
        h = np.maximum(h_eta, 1e-300)
        left = np.maximum(h_theta - (h_cross**2 / h).sum(1), 1e-300)
        d_theta = (g_theta - (h_cross * g_eta / h).sum(1)) / left
        d_eta = (g_eta - h_cross * d_theta[:, None]) / h
        gain = (g_eta * d_eta).sum(1) + g_theta * d_theta
        if not (np.abs(gain) > _ENOUGH).any():
            break
        step = np.minimum(1.0, np.where(d_theta < 0, -0.9 * theta / np.minimum(d_theta, -1e-300), 1.0))
        for _ in range(40):
            tried = _slopes(shape, near, weights, eta + step[:, None] * d_eta, theta + step * d_theta)
            worse = ~(tried[0] >= loglik - 1e-12 * np.abs(loglik)) & (np.abs(gain) > _ENOUGH)
            if not worse.any():
                break
            step = np.where(worse, step / 2, step)
        eta, theta = eta + step[:, None] * d_eta, theta + step * d_theta
        now = tried
    loglik, _, _, h_eta, h_cross, h_theta = now
    exact = weights[:, p.exact].sum(1)
    return Top(shape, centre, eta, theta, loglik - centre * exact, h_eta, h_cross, h_theta)


def with_median(shape: Shape, p: Pieces, medians: Array) -> Array:
    """The highest log likelihood (of loads) of one treatment whose log median is each of ``medians``."""
    one = p.shifted(medians[:, None], np.zeros_like(p.group))
    weights = np.ones(one.low.shape)
    eta = np.full((len(medians), 1), -median_place(shape))
    theta = _start(one, weights, 1)[1]
    for _ in range(_STEPS):
        loglik, _, slope, _, _, bend = _slopes(shape, one, weights, eta, theta)
        move = slope / np.maximum(bend, 1e-300)
        if not (np.abs(slope * move) > _ENOUGH).any():
            break
        step = np.minimum(1.0, np.where(move < 0, -0.9 * theta / np.minimum(move, -1e-300), 1.0))
        for _ in range(40):
            worse = ~(_slopes(shape, one, weights, eta, theta + step * move)[0] >= loglik - 1e-12 * np.abs(loglik))
            if not worse.any():
                break
            step = np.where(worse, step / 2, step)
        theta = theta + step * move
    return np.asarray(loglik - medians * weights[:, p.exact].sum(1))
