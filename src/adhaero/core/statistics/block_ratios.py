"""Ratios within blocks: strength = treatment + block.

With exact figures the model is one of plain means by least squares, as in ``blocked``, and the interval of a ratio is
Fieller's with the covariance of the two means, so that it excludes 1 where the difference is told from 0. With bounds
among them it is one of logarithms, lognormal: the location of each is a row of a design matrix, likelihood and Newton's
steps are those of ``censored_likelihood``, in ``gamma = coefficients / scale`` and ``theta = 1 / scale``, where it is
concave. Standard errors are raised by sqrt(d / (d - k)) for d failures and k coefficients, with t of d - k degrees of
freedom, which with exact figures is least squares on the logarithms.
"""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import scipy

from adhaero.core.statistics.blocked import NOTHING_LEFT, rest_of
from adhaero.core.statistics.censored import Bounds
from adhaero.core.statistics.censored_likelihood import Array, Pieces, of_bounds, of_exact, pieces
from adhaero.core.statistics.descriptive import antilog, t_quantile

_STEPS, _ENOUGH = 60, 1e-14
_FAR = 1e4
"""Coefficients (in scales) beyond this run away: no highest point."""
LEAST_DF = 2
"""Degrees of freedom below which nothing is judged within blocks."""


@dataclass(frozen=True)
class Contrast:
    """A difference of logarithms with its standard error, t and p; ``plain`` are the two means with their variances and
    covariance, where the ratio is one of plain means.
    """

    value: float
    se: float
    df: float
    p: float
    plain: tuple[float, float, float, float, float] | None = None

    def interval(self, alpha: float) -> tuple[float, float]:
        """The interval of the ratio at the level 1 - ``alpha``; without an upper end where the second mean is not told
        from 0.
        """
        if self.plain is not None:
            return fieller(*self.plain, t_quantile(1 - alpha, self.df))
        half = t_quantile(1 - alpha, self.df) * self.se
        return antilog(self.value - half), antilog(self.value + half)


def fieller(first: float, second: float, v_first: float, v_second: float, both: float, t: float) -> tuple[float, float]:
    """The interval of first / second by their variances, their covariance and a quantile of t (E. C. Fieller, J. R.
    Statist. Soc. B 16, 1954).
    """
    a, b, c = second**2 - t * t * v_second, first * second - t * t * both, first**2 - t * t * v_first
    if a <= 0:
        return 0.0, math.inf
    root = math.sqrt(max(0.0, b * b - a * c))
    return max(0.0, (b - root) / a), (b + root) / a


@dataclass(frozen=True)
class BlockFit:
    """``means`` are log middles of the treatments as if every block carried them, with their ``covariance``;
    ``scatter`` is that of the logarithms within blocks, ``without`` where blocks are left in; ``blocks_p`` of there
    being no difference between the ``blocks``; ``plain`` are means with their covariance where all figures are exact.
    """

    means: Array
    covariance: Array
    df: int
    blocks: int
    scatter: float
    without: float
    blocks_p: float
    plain: tuple[Array, Array] | None = None

    @property
    def taken_out(self) -> float:
        """Share of the squared scatter that the blocks take out; below 0 where they take out nothing."""
        return 1 - (self.scatter / self.without) ** 2

    def contrast(self, weights: Array) -> Contrast:
        """Of the log middles."""
        value = float(weights @ self.means)
        se = math.sqrt(max(0.0, float(weights @ self.covariance @ weights)))
        return Contrast(value, se, self.df, float(2 * scipy.special.stdtr(self.df, -abs(value) / se)))

    def ratio(self, first: int, second: int) -> Contrast:
        """Of one treatment to another, by their places."""
        found = self.contrast(self._unit(first) - self._unit(second))
        if self.plain is None:
            return found
        means, cov = self.plain
        a, b = float(means[first]), float(means[second])
        se = math.sqrt(float(cov[first, first] + cov[second, second] - 2 * cov[first, second]))
        p = float(2 * scipy.special.stdtr(self.df, -abs(a - b) / se))
        sides = (a, b, float(cov[first, first]), float(cov[second, second]), float(cov[first, second]))
        return replace(found, p=p, plain=sides)

    def _unit(self, place: int) -> Array:
        return np.asarray(np.eye(len(self.means))[place], float)


def fit_blocks(data: Sequence[Bounds], treatments: Sequence[int], blocks: Sequence[Hashable]) -> BlockFit | None:
    """Fit strengths known by their bounds. ``None`` where it cannot be done: a mean that is 0, one
    treatment or block, treatments that no chain of blocks connects, one without a failure, or too little left to judge
    the scatter by.
    """
    # A block in which nothing failed may lie anywhere above: it says nothing of the treatments.
    told = {b for (_, high), b in zip(data, blocks, strict=True) if math.isfinite(high)}
    kept = [i for i, b in enumerate(blocks) if b in told]
    order = {b: i for i, b in enumerate(dict.fromkeys(blocks[i] for i in kept))}
    t, b = np.array([treatments[i] for i in kept], int), np.array([order[blocks[i]] for i in kept], int)
    k, m = max(treatments, default=-1) + 1, len(order)
    low, high = (np.array([data[i][end] for i in kept], float) for end in (0, 1))
    failed = np.isfinite(high)
    failures = int(failed.sum())
    df = failures - (k + m - 1)
    if k < 2 or m < 2 or df < LEAST_DF:
        return None
    of_t, of_b = np.eye(k)[t], np.eye(m)[b]
    design = np.hstack([of_t, of_b[:, 1:]])
    if np.linalg.matrix_rank(design[failed]) < k + m - 1:
        return None
    weights = np.hstack([np.eye(k), np.full((k, m - 1), 1 / m)])
    if (low == high).all():
        return _by_squares(low, design, of_t, weights, df)
    if (high <= 0).any():
        return None
    p = pieces(low, high, np.zeros(len(t), np.intp))
    full, bare = _highest(p, design), _highest(p, of_t)
    if full is None or bare is None:
        return None
    raised = failures / df
    lr = max(0.0, 2 * (full.loglik - bare.loglik))
    # The likelihood ratio as an F: with exact data it is the one of the squares.
    f = math.expm1(lr / failures) * df / (m - 1)
    return BlockFit(
        means=weights @ full.coefficients,
        covariance=weights @ full.covariance @ weights.T * raised,
        df=df,
        blocks=m,
        scatter=full.scale * math.sqrt(raised),
        without=bare.scale * math.sqrt(failures / (failures - k)),
        blocks_p=float(scipy.special.fdtrc(m - 1, df, f)),
    )


def _by_squares(y: Array, design: Array, of_t: Array, weights: Array, df: int) -> BlockFit | None:
    rest, without = rest_of(design, y), rest_of(of_t, y)
    if rest <= NOTHING_LEFT * float(((y - y.mean()) ** 2).sum()):
        return None
    inverse = np.linalg.inv(design.T @ design)
    means = weights @ (inverse @ design.T @ y)
    covariance = weights @ inverse @ weights.T * rest / df
    if (means <= 0).any():
        return None
    more = design.shape[1] - of_t.shape[1]
    f = (without - rest) / more / (rest / df)
    return BlockFit(
        means=np.log(means),
        covariance=covariance / np.outer(means, means),
        df=df,
        blocks=more + 1,
        scatter=math.sqrt(rest / df),
        without=math.sqrt(without / (df + more)),
        blocks_p=float(scipy.special.fdtrc(more, df, f)),
        plain=(means, covariance),
    )


@dataclass(frozen=True)
class _Top:
    coefficients: Array
    covariance: Array
    scale: float
    loglik: float


def _slopes(p: Pieces, design: Array, gamma: Array, theta: float) -> tuple[float, Array, Array]:
    """Log likelihood with its gradient and information in (gamma, theta)."""
    at, n = design @ gamma, design.shape[1]
    loglik, gradient, information = 0.0, np.zeros(n + 1), np.zeros((n + 1, n + 1))
    e, x = p.exact, design
    y = p.high[e]
    f, f1, f2 = of_exact("lognormal", theta * y - at[e])
    loglik += float((f - y).sum()) + len(y) * math.log(theta)
    gradient += np.append(-x[e].T @ f1, f1 @ y + len(y) / theta)
    around = np.column_stack([-x[e], y])
    information -= (around * f2[:, None]).T @ around
    information[n, n] += len(y) / theta**2
    if not e.all():
        o = ~e
        low, high = p.low[o], p.high[o]
        f, l1, u1, l2, u2, lu = of_bounds("lognormal", theta * low - at[o], theta * high - at[o])
        below, above = (np.column_stack([-x[o], np.where(np.isinf(v), 0.0, v)]) for v in (low, high))
        loglik += float(f.sum())
        gradient += below.T @ l1 + above.T @ u1
        cross = (below * lu[:, None]).T @ above
        information -= (below * l2[:, None]).T @ below + (above * u2[:, None]).T @ above + cross + cross.T
    return loglik, gradient, information


def _highest(p: Pieces, design: Array) -> _Top | None:
    ends = np.concatenate([p.low[np.isfinite(p.low)], p.high[np.isfinite(p.high)]])
    centre = float(ends.mean())
    near = p.shifted(centre, p.group)
    middle = np.where(
        np.isinf(near.low), near.high, np.where(np.isinf(near.high), near.low, (near.low + near.high) / 2)
    )
    start = np.linalg.lstsq(design, middle, rcond=None)[0]
    spread = math.sqrt(max(rest_of(design, middle) / len(middle), 0.02**2))
    if near.exact.all() and rest_of(design, middle) <= 1e-12 * max(float(middle @ middle), 1e-12):
        return None
    gamma, theta = np.asarray(start / spread, float), 1 / spread
    now = _slopes(near, design, gamma, theta)
    for _ in range(_STEPS):
        loglik, gradient, information = now
        try:
            move = np.linalg.solve(information, gradient)
        except np.linalg.LinAlgError:
            return None
        gain = float(gradient @ move)
        if not math.isfinite(gain) or np.abs(gamma).max() > _FAR:
            return None
        if abs(gain) < _ENOUGH:
            break
        step = min(1.0, 0.9 * theta / -move[-1]) if move[-1] < 0 else 1.0
        for _ in range(40):
            now = _slopes(near, design, gamma + step * move[:-1], theta + step * move[-1])
            if now[0] >= loglik - 1e-12 * abs(loglik):
                break
            step /= 2
        gamma, theta = gamma + step * move[:-1], theta + step * float(move[-1])
    n = design.shape[1]
    turn = np.zeros((n, n + 1))
    turn[:, :n], turn[:, n] = np.eye(n) / theta, -gamma / theta**2
    covariance = turn @ np.linalg.inv(now[2]) @ turn.T
    # Every row of the design carries one treatment: the centre goes back into the treatments alone.
    coefficients = gamma / theta + centre * np.linalg.lstsq(design, np.ones(len(design)), rcond=None)[0]
    return _Top(coefficients, covariance, 1 / theta, loglik_of(now[0], centre, near))


def loglik_of(found: float, centre: float, p: Pieces) -> float:
    """The log likelihood of the loads themselves, from that of the shifted logarithms."""
    return found - centre * int(p.exact.sum())
