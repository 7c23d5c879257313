"""The studentized range distribution, vectorised over q and degrees of freedom.

P(Q > q) for k groups and df degrees of freedom is the mean of the upper tail of the range of k standard normals at
``q * s`` over the distribution of s = sqrt(chi2(df) / df). Both integrals are Gauss-Legendre sums: the inner one is
tabulated once for each k as the logarithm of the tail (smooth, so that a cubic spline keeps its relative precision),
the outer one runs over log s between extreme quantiles, which serves 1 as well as 10,000 degrees of freedom.

Source: Copenhaver & Holland 1988, J. Statist. Comput. Simul. 30, for the two integrals; the scheme is ours and is
compared with nested adaptive integrals made elsewhere.
"""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
import scipy
from numpy.typing import ArrayLike, NDArray

if TYPE_CHECKING:
    from scipy.interpolate import CubicSpline

Array = NDArray[np.float64]

_W_MAX = 36.0
_INNER_NODES, _INNER_WEIGHTS = np.polynomial.legendre.leggauss(160)
_OUTER_NODES, _OUTER_WEIGHTS = np.polynomial.legendre.leggauss(128)


def _range_tail(w: Array, k: int) -> Array:
    """P(range of k standard normals > w), accurate in its far tail."""
    centre = (w / 2)[:, None]
    z = centre + 11.0 * _INNER_NODES[None, :]
    log_cdf = scipy.special.log_ndtr(z)
    # Phi(z)^(k-1) - (Phi(z) - Phi(z-w))^(k-1), without losing the small difference
    share = np.exp(scipy.special.log_ndtr(z - w[:, None]) - log_cdf)
    # Rounding can lift the share a hair above 1 at w = 0.
    inside = (k - 1) * np.log1p(-np.minimum(share, 1.0 - 1e-16))
    log_density = -0.5 * z * z - 0.5 * np.log(2 * np.pi)
    values = np.exp(log_density + (k - 1) * log_cdf) * -np.expm1(inside)
    return np.asarray(k * 11.0 * (values @ _INNER_WEIGHTS))


@lru_cache(maxsize=64)
def _log_tail(k: int) -> CubicSpline:
    from scipy.interpolate import CubicSpline

    w = np.linspace(0.0, _W_MAX, 2401)
    return CubicSpline(w, np.log(np.clip(_range_tail(w, k), 1e-300, 1.0)))


def tail(q: ArrayLike, k: int, df: ArrayLike) -> Array:
    """P(Q > q): ``q`` and ``df`` broadcast; ``k`` groups, 2 or more. NaN where q or df is NaN."""
    q_, df_ = np.broadcast_arrays(np.asarray(q, float), np.asarray(df, float))
    shape = q_.shape
    q1, df1 = q_.ravel(), df_.ravel()
    log_range_tail = _log_tail(k)
    half = df1 / 2
    s_low = np.sqrt(scipy.special.gammaincinv(half, 1e-15) / half)
    s_high = np.sqrt(scipy.special.gammainccinv(half, 1e-17) / half)
    # Beyond w = 36 the range has no tail left, so neither has the outer integrand.
    with np.errstate(divide="ignore", invalid="ignore"):
        s_high = np.minimum(s_high, _W_MAX / np.maximum(q1, 1e-12))
        low = np.log(np.minimum(s_low, s_high))
        width = (np.log(s_high) - low) / 2
    x = low[:, None] + width[:, None] * (1 + _OUTER_NODES[None, :])
    s = np.exp(x)
    log_density = (
        np.log(2.0)
        + half[:, None] * np.log(half)[:, None]
        - scipy.special.gammaln(half)[:, None]
        + df1[:, None] * x
        - half[:, None] * s * s
    )
    inner = log_range_tail(np.clip(q1[:, None] * s, 0.0, _W_MAX))
    p = width * (np.exp(log_density + inner) @ _OUTER_WEIGHTS)
    # The mass of s below the lowest node has a range tail of almost 1.
    p = p + scipy.special.gammainc(half, half * np.exp(2 * low)) * np.exp(log_range_tail(0.0))
    p = np.where(q1 <= 0, 1.0, np.clip(p, 0.0, 1.0))
    return np.asarray(np.where(np.isnan(q1) | np.isnan(df1), np.nan, p).reshape(shape))


def quantile(alpha: float, k: int, df: ArrayLike) -> Array:
    """q with P(Q > q) = alpha, for each of ``df`` (1 or more). NaN where df is NaN.

    log q is a smooth function of 1/df, so it is solved once at a few Chebyshev points for each k and alpha, and
    interpolated: thousands of pairs with degrees of freedom of their own cost no more than one.
    """
    df_ = np.asarray(df, float)
    polynomial = _log_quantile(alpha, k)
    return np.asarray(np.exp(polynomial(1.0 / np.maximum(df_, 1.0))))


@lru_cache(maxsize=64)
def _log_quantile(alpha: float, k: int) -> np.polynomial.Chebyshev:
    def solved(inverse_df: Array) -> Array:
        # Monotone, so sixty halvings give the last digits; a secant would be quicker and less sure.
        df = 1.0 / np.maximum(inverse_df, 1e-7)
        low, high = np.full(df.shape, np.log(1e-3)), np.full(df.shape, np.log(1e8))
        for _ in range(60):
            middle = (low + high) / 2
            above = tail(np.exp(middle), k, df) > alpha
            low, high = np.where(above, middle, low), np.where(above, high, middle)
        return np.asarray((low + high) / 2)

    return np.polynomial.Chebyshev.interpolate(solved, 48, domain=[0.0, 1.0])
