"""One treatment in figures, with bounds kept as bounds."""

from __future__ import annotations

import math
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy

from adhaero.core.piece_record import Datum, Known


@dataclass(frozen=True)
class Summary:
    """Figures of exact values. ``None`` is undefined: spread needs two values, the trimmed mean three.

    ``cv`` is a fraction; ``ci_low``/``ci_high`` the two-sided t interval of the mean; quartiles are type 7.
    """

    n: int
    mean: float | None
    sd: float | None
    cv: float | None
    se: float | None
    ci_low: float | None
    ci_high: float | None
    median: float | None
    q1: float | None
    q3: float | None
    min: float | None
    max: float | None
    mean_without_extremes: float | None


MOST_LOG = math.log(sys.float_info.max)


def t_quantile(level: float, df: float) -> float:
    """Two-sided t quantile of a confidence ``level``."""
    return float(scipy.special.stdtrit(df, 0.5 + level / 2))


def antilog(x: float) -> float:
    """e to the ``x``; infinite where no number holds it: an end of an interval that lies so far off is none."""
    return math.exp(x) if x < MOST_LOG else math.inf


def z_quantile(level: float) -> float:
    """Two-sided normal quantile of a confidence ``level``."""
    return float(scipy.special.ndtri(0.5 + level / 2))


def summarise(values: Sequence[float], level: float = 0.95) -> Summary:
    """Summary of exact values, in the unit of the values."""
    return _summarise(tuple(values), level)


@lru_cache(maxsize=2048)
def _summarise(values: tuple[float, ...], level: float) -> Summary:
    """Kept, since between two looks at a batch most treatments have not changed."""
    x = np.sort(np.asarray(values, dtype=float))
    n = len(x)
    if n == 0:
        return Summary(0, *([None] * 12))
    # fsum: equal values must have exactly their own mean, and no spread at all.
    mean = math.fsum(x) / n
    q1, median, q3 = (float(v) for v in np.quantile(x, (0.25, 0.5, 0.75)))
    sd = se = low = high = None
    if n > 1:
        sd = 0.0 if x[0] == x[-1] else math.sqrt(math.fsum((x - mean) ** 2) / (n - 1))
        se = sd / math.sqrt(n)
        half = t_quantile(level, n - 1) * se
        low, high = mean - half, mean + half
    return Summary(
        n=n,
        mean=mean,
        sd=sd,
        cv=sd / mean if sd is not None and mean else None,
        se=se,
        ci_low=low,
        ci_high=high,
        median=median,
        q1=q1,
        q3=q3,
        min=float(x[0]),
        max=float(x[-1]),
        mean_without_extremes=math.fsum(x[1:-1]) / (n - 2) if n >= 3 else None,
    )


@dataclass(frozen=True)
class TreatmentSummary:
    """One treatment with every kind of observation.

    ``exact`` describes the treatment only where ``bounded`` is false: then every counted piece has an exact figure.
    Where bounds are among them, the mean is only known to be at least ``mean_low`` (and at most ``mean_high``, if
    every bound has an upper end), and no spread is claimed. ``n`` counts the pieces behind the mean.
    """

    n: int
    n_exact: int
    n_between: int
    n_at_least: int
    n_fell_apart: int
    exact: Summary
    bounded: bool
    mean_low: float | None
    mean_high: float | None
    mean_without_fallen: float | None
    min_low: float | None

    @property
    def mean(self) -> float | None:
        """The mean, if there is one number for it."""
        return None if self.bounded else self.exact.mean


def summarise_data(data: Sequence[Datum], *, fallen_as_zero: bool = True, level: float = 0.95) -> TreatmentSummary:
    """Summary of the counted pieces of one treatment.

    ``fallen_as_zero`` counts pieces that fell apart before the test as a figure of 0; otherwise they are left out of
    the mean and only counted.
    """
    kinds = [d.known for d in data]
    standing = [d for d in data if d.known is not Known.BELOW]
    used = list(data) if fallen_as_zero else standing
    point = [d for d in used if d.known in (Known.EXACT, Known.BELOW)]
    bounded = len(point) < len(used)
    exact = summarise([d.low for d in point], level)

    def mean(values: list[float]) -> float | None:
        return math.fsum(values) / len(values) if values else None

    high = mean([d.high for d in used])
    return TreatmentSummary(
        n=len(used),
        n_exact=kinds.count(Known.EXACT),
        n_between=kinds.count(Known.BETWEEN),
        n_at_least=kinds.count(Known.AT_LEAST),
        n_fell_apart=kinds.count(Known.BELOW),
        exact=exact,
        bounded=bounded,
        mean_low=mean([d.low for d in used]),
        mean_high=None if high is None or math.isinf(high) else high,
        mean_without_fallen=None if bounded else mean([d.low for d in standing]),
        min_low=min((d.low for d in used), default=None),
    )
