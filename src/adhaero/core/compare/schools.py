"""Ranks by every school of averaging, side by side, and how sure the first place is.

A school is one rule for all treatments of a table: where one of them cannot be reckoned so, it has no place. Ties share
a place. How often each treatment would come first by its mean is told by drawing its pieces again (bootstrap).
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from adhaero.core.compare.analysis import Row, values_of
from adhaero.core.compare.data import listed
from adhaero.core.compare.estimates import Estimate
from adhaero.core.compare.planned import Setting
from adhaero.core.statistics.tolerance import LEAST, lower_limit

DRAWS = 2000
SEED = 2000
Rule = Callable[[Sequence[float]], float | None]


def _middle(values: Sequence[float]) -> float | None:
    return math.fsum(sorted(values)[1:-1]) / (len(values) - 2) if len(values) >= 3 else None


def _without_lowest(values: Sequence[float]) -> float | None:
    return math.fsum(sorted(values)[1:]) / (len(values) - 1) if len(values) >= 3 else None


def _limit(values: Sequence[float]) -> float | None:
    found = lower_limit(values) if len(values) >= LEAST else None
    return found.limit if found else None


SCHOOLS: dict[str, tuple[str, Rule]] = {
    "mean": ("mean of all", lambda v: math.fsum(v) / len(v)),
    "median": ("median", lambda v: float(np.median(v))),
    "middle": ("without highest and lowest", _middle),
    "lowest-dropped": ("lowest dropped", _without_lowest),
    "minimum": ("lowest piece", lambda v: min(v)),
    "limit": ("passed by 95 % (75 % sure)", _limit),
}
"""School -> its name and its rule."""
USUAL = "mean"


@dataclass(frozen=True)
class School:
    """What a school gives each treatment (by letter), their places, and which places differ from those by the mean."""

    key: str
    name: str
    values: dict[str, float]
    places: dict[str, int]
    moved: list[str]


@dataclass(frozen=True)
class Schools:
    """All schools; ``first`` is how often (a share) each treatment came first, ``text`` whether the order depends on
    the school.
    """

    schools: list[School]
    first: dict[str, float]
    text: str


def by_every_school(s: Setting) -> Schools | None:
    """The treatments with exact figures; ``None`` with fewer than two."""
    rows = {x: r for x, r in s.rows.items() if r.group.role != "solid" and not r.summary.bounded and r.summary.n}
    if len(rows) < 2:
        return None
    data = {x: values_of(r.group, s.fallen_as_zero) for x, r in rows.items()}
    found: list[School] = []
    for key, (name, _) in SCHOOLS.items():
        own = {x: v for x, values in data.items() if (v := _reckoned(rows[x], values, key, s)) is not None}
        if len(own) < 2:
            continue
        places = _places(own)
        usual = found[0].places if found else places
        found.append(School(key, name, own, places, [x for x in places if places[x] != usual.get(x)]))
    return Schools(found, _first(data), _text(found, rows))


def by_school(s: Setting, key: str) -> dict[str, Estimate]:
    """What one school gives each treatment (by letter), without an interval; none where it cannot be reckoned so."""
    name, _ = SCHOOLS[key]
    found = {}
    for x, r in s.rows.items():
        if not r.summary.n or r.summary.bounded:
            continue
        v = _reckoned(r, values_of(r.group, s.fallen_as_zero), key, s)
        if v is not None:
            found[x] = Estimate(name, v, None, None)
    return found


@lru_cache(maxsize=8192)
def _by_rule(key: str, values: tuple[float, ...]) -> float | None:
    return SCHOOLS[key][1](values)


def _reckoned(row: Row, values: Sequence[float], key: str, s: Setting) -> float | None:
    """A school drops no piece that fell apart unless it counts as 0: what is left would be the better ones."""
    if row.summary.n_fell_apart and not s.fallen_as_zero:
        return None
    return _by_rule(key, tuple(values))


def _places(values: Mapping[str, float]) -> dict[str, int]:
    order = sorted(values.values())
    return {x: 1 + len(order) - bisect_right(order, v * (1 + 1e-12)) for x, v in values.items()}


def _first(data: Mapping[str, Sequence[float]]) -> dict[str, float]:
    means = np.array([_drawn(tuple(v), place) for place, v in enumerate(data.values())])
    best = means == means.max(0)
    shares = (best / best.sum(0)).mean(1)
    return {x: float(share) for x, share in zip(data, shares, strict=True)}


@lru_cache(maxsize=1024)
def _drawn(values: tuple[float, ...], place: int) -> NDArray[np.float64]:
    """Means of one treatment's pieces drawn again; kept, since a new break changes one treatment only."""
    rng = np.random.default_rng((SEED, place))
    return np.asarray(np.array(values)[rng.integers(0, len(values), (DRAWS, len(values)))].mean(1))


def _text(found: Sequence[School], rows: Mapping[str, Row]) -> str:
    """Who comes first by which school, where they do not agree."""
    firsts = {f.name: [x for x, place in f.places.items() if place == 1] for f in found}
    if len({tuple(own) for own in firsts.values()}) < 2:
        return ""
    said = "; ".join(f"{listed([rows[x].group.label for x in own], 3)} by {name}" for name, own in firsts.items())
    return f"The winner depends on how you average: {said}."
