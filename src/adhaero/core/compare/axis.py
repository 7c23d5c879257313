"""A numeric factor as an axis: where treatments lie on it, a straight line, and a curve where one fits.

For each stratum (each combination of the other factors) its own line. What is enough is not judged here: a question
about the factor decides that (core.questions).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from adhaero.core.compare.analysis import Row, values_of
from adhaero.core.compare.data import listed
from adhaero.core.compare.planned import Setting
from adhaero.core.compare.standing import Standing, several, standing
from adhaero.core.plan.comparisons import Family
from adhaero.core.statistics.curves import CurveFit, fit_curve
from adhaero.core.statistics.trend import lack_of_fit, line

RISES = ("delay", "weibull")
SHAPES: dict[str, tuple[str, ...]] = {
    "clamp_s": RISES, "cure_s": RISES, "gap_mm": ("gap",),
}  # fmt: skip
"""Which curves are tried along a factor, beside the straight line."""
POINTS = 60


@dataclass(frozen=True)
class AxisPoint:
    """A treatment on the axis."""

    x: float
    letter: str
    level: str


@dataclass(frozen=True)
class CurvePoint:
    """A fitted curve at ``x`` with its interval."""

    x: float
    value: float
    low: float | None
    high: float | None


@dataclass(frozen=True)
class Slope:
    """A straight line along the levels: what it rises by for one unit of the factor, with its interval, and the p value
    of the levels lying off it (lack of fit).
    """

    by: float
    low: float
    high: float
    lack_p: float | None


@dataclass(frozen=True)
class Series:
    """One stratum along the axis: its treatments and the curve, if any fits; ``text`` says where the fitted curve
    reaches nine tenths of its own top, and which levels have no figure.
    """

    stratum: str
    points: list[AxisPoint]
    reference: str
    shape: str
    curve: list[CurvePoint]
    reaches_90: tuple[float, float, float] | None
    slope: Slope | None
    text: str


@dataclass(frozen=True)
class Axis:
    """A factor as an axis, in its ``unit``."""

    factor: str
    name: str
    unit: str
    series: list[Series]


@dataclass(frozen=True)
class Levels:
    """What is needed of a numeric factor: its name, where each treatment lies on it (by letter), how a place is named,
    its reference level, and the ``unit`` in which it is told, of which one is ``one_unit`` on the axis.
    """

    key: str
    name: str
    at: dict[str, float]
    level: Callable[[float], str]
    reference: float
    unit: str = ""
    one_unit: float = 1.0


def along(f: Family, levels: Levels, s: Setting) -> Axis:
    """Return everything along one factor."""
    strata: dict[str, list[str]] = {}
    for p in f.pairs:
        own = strata.setdefault(p.stratum, [])
        own += [x for x in (p.first, p.second) if x not in own and x in s.rows and x in levels.at]
    found = [_series(name, own, levels, s) for name, own in strata.items()]
    return Axis(levels.key, levels.name, levels.unit, [x for x in found if x is not None])


def _series(stratum: str, letters: Sequence[str], levels: Levels, s: Setting) -> Series | None:
    used = sorted((x for x in letters if s.rows[x].summary.n > 0), key=levels.at.__getitem__)
    if len(used) < 2:
        return None
    points = [AxisPoint(levels.at[x], x, levels.level(levels.at[x])) for x in used]
    reference = next((x for x in used if levels.at[x] == levels.reference), "")
    rows, at = [s.rows[x] for x in used], [levels.at[x] for x in used]
    bounded = any(r.summary.bounded for r in rows)
    slope = None if bounded else _slope(rows, at, levels, s)
    fit = None if bounded else _best(levels.key, rows, at, s)
    reaches = _reaches(fit)
    told = [] if reaches is None else [
        f"The fitted curve reaches nine tenths of its own top at {levels.level(reaches[0])} "
        f"({levels.level(reaches[1])} to {levels.level(reaches[2])})."
    ]  # fmt: skip
    missing: dict[Standing, list[str]] = {}
    for x in sorted(set(letters) - set(used), key=levels.at.__getitem__):
        missing.setdefault(standing(s.rows[x].group, s.rows[x].summary), []).append(levels.level(levels.at[x]))
    told += [f"{listed(own, 4)} {several(own, why)}." for why, own in missing.items()]
    curve = [] if fit is None else _curve(fit, min(at), max(at))
    return Series(stratum, points, reference, fit.shape if fit else "", curve, reaches, slope, " ".join(told))


def _slope(rows: Sequence[Row], at: Sequence[float], levels: Levels, s: Setting) -> Slope | None:
    """The straight line for one unit of the factor."""
    values = [
        (x / levels.one_unit, v) for r, x in zip(rows, at, strict=True) for v in values_of(r.group, s.fallen_as_zero)
    ]
    xs, ys = [x for x, _ in values], [v for _, v in values]
    fitted = line(xs, ys)
    if fitted is None or fitted.ci_low is None or fitted.ci_high is None:
        return None
    lack = lack_of_fit(xs, ys, fitted)
    return Slope(fitted.slope, fitted.ci_low, fitted.ci_high, lack.p if lack else None)


def _best(key: str, rows: Sequence[Row], at: Sequence[float], s: Setting) -> CurveFit | None:
    """The curve that fits best by AICc, if it fits better than a straight line."""
    values = [(x, v) for r, x in zip(rows, at, strict=True) for v in values_of(r.group, s.fallen_as_zero)]
    xs, ys = [x for x, _ in values], [v for _, v in values]
    fits = [f for shape in SHAPES.get(key, ()) if (f := fit_curve(shape, xs, ys)) is not None and f.aicc is not None]
    best = min(fits, key=lambda f: f.aicc or 0.0, default=None)
    straight = line(xs, ys)
    known = straight.aicc if straight else None
    if best is None or (known is not None and best.aicc is not None and known < best.aicc):
        return None
    return best


def _reaches(fit: CurveFit | None) -> tuple[float, float, float] | None:
    at, ends = (fit.reaches(), fit.reaches_interval()) if fit else (None, None)
    return None if at is None or ends is None else (at, *ends)


def _curve(fit: CurveFit, first: float, last: float) -> list[CurvePoint]:
    found = []
    even = np.linspace(first, last, POINTS)
    # On an axis by logarithms the early part is wide: points enough for both.
    at = np.unique(np.concatenate([even, np.geomspace(first, last, POINTS)])) if first > 0 else even
    for x in at.tolist():
        band = fit.band(x)
        found.append(CurvePoint(x, fit.value(x), band[0] if band else None, band[1] if band else None))
    return found
