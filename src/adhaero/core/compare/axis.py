"""A numeric factor as an axis: the plateau, whether there is a trend, and a curve where one fits.

For each stratum (each combination of the other factors) its own line. The plateau is a walk of one-sided bounds from
the reference level; with bounds among the figures, of the ratios of medians.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from adhaero.core.compare.analysis import Row, values_of
from adhaero.core.compare.bounds import bounds_of, smallest_figure
from adhaero.core.compare.data import listed, p_in_words
from adhaero.core.compare.in_blocks import Fits
from adhaero.core.compare.planned import Setting
from adhaero.core.compare.standing import Standing, several, standing
from adhaero.core.plan.comparisons import Family
from adhaero.core.statistics import censored_intervals
from adhaero.core.statistics.curves import CurveFit, fit_curve
from adhaero.core.statistics.plateau import farthest, plateau
from adhaero.core.statistics.trend import jonckheere, lack_of_fit, line

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
    """One stratum along the axis: its treatments, the levels within the plateau (by letter) and the curve, if any
    fits; ``text`` says what is found, ``short`` its first sentence, ``within`` the plateau where there is one.
    ``missing`` are the levels without a figure, by how far they are.
    """

    stratum: str
    points: list[AxisPoint]
    reference: str
    plateau: list[str]
    shape: str
    curve: list[CurvePoint]
    reaches_90: tuple[float, float, float] | None
    trend_p: float | None
    slope: Slope | None
    text: str
    short: str
    within: str
    missing: dict[Standing, list[str]]


@dataclass(frozen=True)
class Axis:
    """A factor as an axis, in its ``unit``; ``matters`` is how much less still counts as the same."""

    factor: str
    name: str
    unit: str
    matters: float
    series: list[Series]

    @property
    def sentences(self) -> list[str]:
        """What is found, stratum by stratum."""
        return [f"{s.stratum}: {s.text}" if s.stratum else s.text for s in self.series]


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


def along(f: Family, levels: Levels, s: Setting, shared: Fits | None = None) -> Axis:
    """Everything along one factor; ``shared`` is what blocks take out of it."""
    strata: dict[str, list[str]] = {}
    for p in f.pairs:
        own = strata.setdefault(p.stratum, [])
        own += [x for x in (p.first, p.second) if x not in own and x in s.rows and x in levels.at]
    found = [_series(name, own, levels, s, shared) for name, own in strata.items()]
    return Axis(levels.key, levels.name, levels.unit, s.matters, [x for x in found if x is not None])


def _series(
    stratum: str, letters: Sequence[str], levels: Levels, s: Setting, shared: Fits | None
) -> Series | None:  # fmt: skip
    used = sorted((x for x in letters if s.rows[x].summary.n > 0), key=levels.at.__getitem__)
    points = [AxisPoint(levels.at[x], x, levels.level(levels.at[x])) for x in used]
    reference = next((x for x in used if levels.at[x] == levels.reference), None)
    if len(used) < 2:
        return None
    rows = [s.rows[x] for x in used]
    bounded = any(r.summary.bounded for r in rows)
    within: list[str] = []
    told, plateau_ = "", ""
    if reference is not None:
        place = used.index(reference)
        lows = _lows(used, place, s, shared, bounded=bounded)
        within, plateau_, told = _plateau(used, place, levels, s, lows)
    trend_p, trend = (None, "") if bounded else _trend(rows, [levels.at[x] for x in used], levels, s)
    slope = None if bounded else _slope(rows, [levels.at[x] for x in used], levels, s)
    fit = None if bounded else _best(levels.key, rows, [levels.at[x] for x in used], s)
    reaches = _reaches(fit)
    curve = [] if fit is None else _curve(fit, min(levels.at[x] for x in used), max(levels.at[x] for x in used))
    more = "" if reaches is None else (
        f" Nine tenths of its plateau are reached at {levels.level(reaches[0])} "
        f"({levels.level(reaches[1])} to {levels.level(reaches[2])})."
    )  # fmt: skip
    # Where the last level is the reference the question is from when on; else whether it changes along the levels.
    first, then = (told, trend) if reference == used[-1] or not trend else (trend, told)
    missing: dict[Standing, list[str]] = {}
    for x in sorted(set(letters) - set(used), key=levels.at.__getitem__):
        missing.setdefault(standing(s.rows[x].group, s.rows[x].summary), []).append(levels.level(levels.at[x]))
    left = "".join(f" {listed(own, 4)} {several(own, why)}." for why, own in missing.items())
    nothing = [levels.level(levels.at[x]) for x in used if _is_nothing(s.rows[x])]
    if nothing:
        left = f" Next to nothing: {listed(nothing, 4)}.{left}"
    text = f"{first} {then}{more}{left}".replace("  ", " ").strip()
    return Series(stratum, points, reference or "", within, fit.shape if fit else "", curve, reaches, trend_p, slope,
                  text, first.split(". ")[0].rstrip("."), plateau_, missing)  # fmt: skip


def _is_nothing(r: Row) -> bool:
    """Whether nothing is left of a treatment."""
    return r.summary.mean == 0


def _lows(
    used: Sequence[str], place: int, s: Setting, shared: Fits | None, *, bounded: bool
) -> list[float | None]:  # fmt: skip
    """One-sided 95 % lower bounds of the ratio to the reference, level by level."""
    if shared is not None and all(shared.together(x, used[place]) for x in used):
        return [None if i == place else shared.ratio(x, used[place]).interval(2 * 0.05)[0] for i, x in enumerate(used)]
    rows = [s.rows[x] for x in used]
    if not bounded:
        found = plateau([values_of(r.group, s.fallen_as_zero) for r in rows], place, s.matters)
        lows = {r.level: r.low for r in found.levels}
        return [lows.get(i) for i in range(len(used))]
    smallest = smallest_figure(rows)
    f = censored_intervals.family([bounds_of(r, smallest, fallen_as_zero=s.fallen_as_zero) for r in rows])
    others = [i for i in range(len(used)) if i != place]
    ends = censored_intervals.intervals(f, [(i, place) for i in others], [2 * 0.05] * len(others))
    return [None if i == place or (e := ends[others.index(i)]) is None else e.low for i in range(len(used))]


def _plateau(
    used: Sequence[str], place: int, levels: Levels, s: Setting, lows: Sequence[float | None]
) -> tuple[list[str], str, str]:  # fmt: skip
    """The levels that are within the share of the reference, by their letters; these in words; and the sentence."""
    named = [levels.level(levels.at[x]) for x in used]
    first, last = (place if end is None else end for end in farthest(lows, place, s.matters))
    # The walk asks only that a level is not less: one that is more is not "within" anything.
    higher = any(low is not None and low > 1 for low in lows[first : last + 1])
    share = f"{_share(s, higher=higher)} of {named[place]}"
    if place == len(used) - 1:
        if first == place:
            text = f"No level below {named[place]} is shown to be {_share(s)} of it. It may still be so."
            return [used[place]], "", text
        text = f"From {named[first]} on {share}"
        below = f"; {named[first - 1]} is not shown to be" if first else ""
        return list(used[first:]), text, f"{text}{below}."
    if first == last == place:
        return [used[place]], "", f"No other level is shown to be {share}."
    text = f"{f'Up to {named[last]}' if first == place == 0 else f'From {named[first]} to {named[last]}'} {share}"
    return list(used[first : last + 1]), text, f"{text}."


def _share(s: Setting, *, higher: bool = False) -> str:
    return f"at least {100 * (1 - s.matters):.0f} %" if higher else f"within {100 * s.matters:.0f} %"


def _trend(rows: Sequence[Row], at: Sequence[float], levels: Levels, s: Setting) -> tuple[float | None, str]:
    """Whether the figure goes along with the level at all."""
    values = [(x, v) for r, x in zip(rows, at, strict=True) for v in values_of(r.group, s.fallen_as_zero)]
    found = jonckheere([x for x, _ in values], [v for _, v in values])
    if found is None:
        return None, ""
    if found.p >= s.alpha:
        return found.p, f"No trend is shown ({p_in_words(found.p)})."
    p = p_in_words(found.p)
    goes = "rises" if found.z > 0 else "falls"
    means = [r.summary.mean or 0.0 for r in rows]
    top = max(means)
    # On the whole it may rise and still be past its best at the end.
    if max(means[0], means[-1]) < top * (1 - s.matters):
        return found.p, f"It {goes} on the whole ({p}), with its highest at {levels.level(at[means.index(top)])}."
    return found.p, f"It {goes} along the levels ({p})."


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
