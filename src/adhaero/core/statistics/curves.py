"""Strength along time, gap or age: shapes of a curve, fitted by least squares.

A shape is its formula with its slopes in the parameters; a new one is a line in ``SHAPES``. Standard errors come from
the slopes and rss / df. What has no best fit (a curve without its plateau, a plateau without its rise) is ``None``,
never what a search left off at.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from adhaero.core.statistics.descriptive import antilog, t_quantile

Array = NDArray[np.float64]


@dataclass(frozen=True)
class CurveShape:
    """``value(x, p)`` and ``slopes(x, p)`` (one column a parameter); ``starts(x, y)`` are where a search begins.
    ``held`` is the place of a parameter that may lie on its bound of 0, where it is no longer counted.
    """

    names: tuple[str, ...]
    value: Callable[[Array, Array], Array]
    slopes: Callable[[Array, Array], Array]
    starts: Callable[[Array, Array], list[list[float]]]
    held: int | None = None


def _delay(x: Array, p: Array) -> Array:
    return np.asarray(p[0] * -np.expm1(-(x - p[2]) / p[1]))


def _delay_slopes(x: Array, p: Array) -> Array:
    e = np.exp(-(x - p[2]) / p[1])
    return np.column_stack([1 - e, -p[0] * e * (x - p[2]) / p[1] ** 2, -p[0] * e / p[1]])


def _grown(x: Array, p: Array) -> tuple[Array, Array, Array]:
    """(x / tau)^k, what is left of the exponential, and log(x / tau), 0 at x = 0."""
    with np.errstate(divide="ignore", over="ignore"):
        u = (x / p[1]) ** p[2]
        log = np.where(x > 0, np.log(np.where(x > 0, x, 1.0) / p[1]), 0.0)
    return u, np.exp(-u), log


def _weibull(x: Array, p: Array) -> Array:
    return np.asarray(p[0] * (1 - _grown(x, p)[1]))


def _weibull_slopes(x: Array, p: Array) -> Array:
    u, e, log = _grown(x, p)
    return np.column_stack([1 - e, -p[0] * e * u * p[2] / p[1], p[0] * e * u * log])


def _gap(x: Array, p: Array) -> Array:
    return np.asarray(p[0] * _grown(x, p)[1])


def _gap_slopes(x: Array, p: Array) -> Array:
    u, e, log = _grown(x, p)
    return np.column_stack([e, p[0] * e * u * p[2] / p[1], -p[0] * e * u * log])


def _middle(x: Array) -> float:
    return float(np.median(x[x > 0])) if (x > 0).any() else 1.0


SHAPES: dict[str, CurveShape] = {
    "delay": CurveShape(
        ("smax", "tau", "t0"), _delay, _delay_slopes,
        lambda x, y: [[1.1 * y.max(), _middle(x) * a, float(x.min()) * b] for a in (0.1, 0.3, 1.0, 3.0)
                      for b in (0.05, 0.5)],
        held=2,
    ),
    "weibull": CurveShape(
        ("smax", "tau", "k"), _weibull, _weibull_slopes,
        lambda x, y: [[1.1 * y.max(), _middle(x) * a, k] for a in (0.3, 1.0, 3.0) for k in (0.6, 1.0, 2.0)],
    ),
    "gap": CurveShape(
        ("s0", "g0", "p"), _gap, _gap_slopes,
        lambda x, y: [[1.05 * y.max(), _middle(x) * a, k] for a in (0.5, 1.5, 4.0) for k in (0.6, 1.0, 2.0)],
    ),
}  # fmt: skip
"""Rise with a delay, smax (1 - exp(-(t - t0) / tau)); Weibull's rise, smax (1 - exp(-(t / tau)^k)); decay with a gap,
s0 exp(-(g / g0)^p).
"""
FAR = 50.0
"""A plateau or a time so many times beyond the data is none that the data show."""
FLAT = 1e-6
"""What is left of a rise at the first level, below which all of them lie on the plateau."""

ALONG = 1e-7
"""Share of the largest singular value below which slopes run along with each other: half of the digits are gone."""


@dataclass(frozen=True)
class CurveFit:
    """The fitted curve. ``se`` is ``None`` for a parameter on its bound, and without residual degrees of freedom;
    ``fitted`` are the places of those that were fitted. ``covariance`` allows for scatter that grows with the strength
    (J. G. MacKinnon & H. White, J. Econometrics 29, 1985: HC3): intervals rest on it, ``se`` on rss / df.
    """

    shape: str
    estimate: tuple[float, ...]
    se: tuple[float | None, ...]
    covariance: Array | None
    n: int
    rss: float
    fitted: tuple[int, ...]
    at_bound: bool

    @property
    def df(self) -> int:
        return self.n - len(self.fitted)

    @property
    def residual_se(self) -> float | None:
        return math.sqrt(self.rss / self.df) if self.df > 0 else None

    @property
    def aicc(self) -> float | None:
        """Akaike's criterion for few pieces, the scatter counted as a parameter."""
        return aicc(self.n, self.rss, len(self.fitted) + 1)

    def value(self, x: float) -> float:
        """The curve at ``x``."""
        return float(SHAPES[self.shape].value(np.array([x]), np.array(self.estimate))[0])

    def band(self, x: float, level: float = 0.95) -> tuple[float, float] | None:
        """The interval of the curve at ``x`` (delta method, t)."""
        if self.covariance is None or self.df < 1:
            return None
        slope = SHAPES[self.shape].slopes(np.array([x]), np.array(self.estimate))[0, list(self.fitted)]
        half = t_quantile(level, self.df) * math.sqrt(max(0.0, float(slope @ self.covariance @ slope)))
        middle = self.value(x)
        return middle - half, middle + half

    def reaches(self, share: float = 0.9) -> float | None:
        """When a rise has come to ``share`` of its plateau."""
        rest = -math.log(1 - share)
        if self.shape == "delay":
            return self.estimate[2] + self.estimate[1] * rest
        return self.estimate[1] * rest ** (1 / self.estimate[2]) if self.shape == "weibull" else None

    def reaches_interval(self, share: float = 0.9, level: float = 0.95) -> tuple[float, float] | None:
        """The interval of that time: delta method on its logarithm, t."""
        at = self.reaches(share)
        if at is None or at <= 0 or self.covariance is None or self.df < 1:
            return None
        rest, p = -math.log(1 - share), self.estimate
        if self.shape == "delay":
            slope = np.array([0.0, rest, 1.0])
        else:
            slope = np.array([0.0, at / p[1], -at * math.log(rest) / p[2] ** 2])
        own = slope[list(self.fitted)] / at
        half = t_quantile(level, self.df) * math.sqrt(max(0.0, float(own @ self.covariance @ own)))
        high = at * antilog(half)
        return None if math.isinf(high) else (at * antilog(-half), high)


def aicc(n: int, rss: float, k: int) -> float | None:
    """Akaike's criterion with its correction for few pieces; ``None`` where n - k - 1 is not above 0."""
    if n - k - 1 <= 0 or rss <= 0:
        return None
    return n * (math.log(2 * math.pi * rss / n) + 1) + 2 * k + 2 * k * (k + 1) / (n - k - 1)


def fit_curve(shape: str, x: Sequence[float], y: Sequence[float]) -> CurveFit | None:
    """Fit a shape of ``SHAPES``; ``None`` where the levels are too few for it, there is no best fit, or they do not
    tell its parameters apart.
    """
    s, xs, ys = SHAPES[shape], np.array(x, float), np.array(y, float)
    if len(set(x)) < len(s.names) or len(x) < len(s.names) or not (ys > 0).any():
        return None
    every = tuple(range(len(s.names)))
    found = _search(s, xs, ys, every)
    if s.held is not None and (found is None or found[0][s.held] <= 1e-6):
        every = tuple(i for i in every if i != s.held)
        found = _search(s, xs, ys, every)
    if found is None or not _shown(shape, found[0], xs, ys):
        return None
    p, rss = found
    df = len(x) - len(every)
    slopes = s.slopes(xs, p)[:, list(every)]
    bread = _bread(slopes)
    if bread is None:
        return None
    covariance: Array | None = None
    se: list[float | None] = [None] * len(p)
    if df > 0:
        se = [math.sqrt(bread[every.index(i), every.index(i)] * rss / df) if i in every else None
              for i in range(len(p))]  # fmt: skip
        leverage = np.einsum("ij,jk,ik->i", slopes, bread, slopes)
        off = (ys - s.value(xs, p)) / np.maximum(1 - leverage, 1e-6)
        covariance = bread @ (slopes.T * off**2) @ slopes @ bread
    at_bound = len(every) < len(s.names)
    return CurveFit(shape, tuple(float(v) for v in p), tuple(se), covariance, len(x), rss, every, at_bound)


def _bread(slopes: Array) -> Array | None:
    """The inverse of the slopes' cross product, by their singular values: it has no negative variance. ``None`` where
    the slopes run along with each other.
    """
    size = np.linalg.norm(slopes, axis=0)
    if not (size > 0).all():
        return None
    _, values, ways = np.linalg.svd(slopes / size, full_matrices=False)
    if values[-1] < ALONG * values[0]:
        return None
    half = (ways.T / values) / size[:, None]
    return np.asarray(half @ half.T)


def _search(s: CurveShape, x: Array, y: Array, free: tuple[int, ...]) -> tuple[Array, float] | None:
    """The parameters with the least squares, those not ``free`` held at 0."""
    scale = float(np.abs(y).max())
    places = list(free)

    def whole(p: Array) -> Array:
        q = np.zeros(len(s.names))
        q[places] = p
        return q

    def off(p: Array) -> Array:
        return np.asarray((s.value(x, whole(p)) - y) / scale)

    def slopes(p: Array) -> Array:
        return np.asarray(s.slopes(x, whole(p))[:, places] / scale)

    # Loaded with the first curve: the program starts sooner without it.
    from scipy import optimize

    best: tuple[Array, float] | None = None
    for start in s.starts(x, y):
        begin = np.maximum(np.array(start)[places], 1e-8)
        with np.errstate(all="ignore"):
            found = optimize.least_squares(
                off,
                begin,
                jac=slopes,
                bounds=(1e-12, np.inf),
                x_scale=np.maximum(begin, 1e-6),
                ftol=1e-15,
                xtol=1e-15,
                gtol=1e-15,
                max_nfev=400,
            )
        rss = float(2 * found.cost * scale**2)
        if np.isfinite(rss) and (best is None or rss < best[1] * (1 - 1e-12)):
            best = whole(found.x), rss
    return best


def _shown(shape: str, p: Array, x: Array, y: Array) -> bool:
    """Whether the data show what the parameters say: neither a plateau far beyond them, nor one without its rise."""
    if p[0] > FAR * y.max() or p[1] > FAR * x.max():
        return False
    if shape == "gap":
        return True
    first = float(x[x > 0].min())
    return bool(SHAPES[shape].value(np.array([first]), p)[0] < p[0] * (1 - FLAT))
