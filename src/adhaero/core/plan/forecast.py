"""What loads to expect, before a piece is cut: from the user's own results first, else from handbook values.

Without history a joint is taken to bear a share of what solid wood bears in the same test: by the grain that meets,
the joint form, the conditioning and the glue family. The shares are rules of thumb for forecasts only; the spread given
with them is wide on purpose (CV 30 %). Loads are taken to be lognormal.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from scipy import special

from adhaero.core.materials.wood import WOODS
from adhaero.core.method import Method
from adhaero.core.plan.design import SOLID, Treatment, other_species
from adhaero.core.plan.document import Level, Plan, method_of

HANDBOOK_CV, SOLID_CV = 0.30, 0.20
TOO_STRONG = 0.05
"""Share of pieces beyond the rig's working range that is pointed out."""
READABLE_STEPS = 50
"""Steps of the rig that a load should have, so that reading it costs no more than 1 %."""

_GRAIN = {"long-parallel": 0.8, "long-crossed": 0.5, "long-end": 0.35, "end-end": 0.25}
_FORM = {
    "scarf": 0.75, "finger": 0.6, "mitre": 0.3, "mitre-spline-along": 0.35, "mitre-spline-across": 0.5,
    "mitre-key": 0.4, "rebate": 0.35, "comb": 0.6, "dovetail": 0.6, "mortise-tenon": 0.55, "dowelled": 0.4,
    "loose-tenon-along": 0.4, "loose-tenon-across": 0.5, "half-lap": 0.4,
}  # fmt: skip
_CONDITIONED = {
    "soak-24h": 0.55, "soak-24h-dried": 0.8, "soak-7d": 0.4, "boil-6h": 0.25, "freeze-thaw-5": 0.7,
    "freeze-thaw-20": 0.5, "wet-cold-3wk": 0.6, "hot-60": 0.6, "swing-10": 0.8, "outdoors": 0.7,
}  # fmt: skip
_GLUE = {"contact": 0.25, "hot-melt": 0.2, "construction": 0.5, "none": 0.02}

Key = tuple[str, str, str, str, str, str]


@dataclass(frozen=True)
class History:
    """What the user's own pieces of one kind gave: mean figure of merit, its CV, and their number."""

    mean: float
    cv: float
    n: int


@dataclass(frozen=True)
class Expected:
    """A treatment's expected load in N: typical, and the range of nine pieces in ten; shares of pieces from 0 to 1.

    ``beyond`` would not break within the rig's working range, ``unreadable`` break at too few steps of it.
    """

    letter: str
    figure: float
    cv: float
    load_n: float
    low_n: float
    high_n: float
    beyond: float | None
    unreadable: float | None
    source: str


@dataclass(frozen=True)
class Range:
    """What the rig reads: its working limit and its step, N."""

    limit_n: float
    resolution_n: float


def kind_of(method: str, form: str, record: Mapping[str, Level], role: str) -> Key:
    """What makes two treatments the same kind for a forecast."""

    def word(key: str, usual: str = "") -> str:
        level = record.get(key)
        return str(level.value) if level is not None and level.value is not None else usual

    if role == SOLID:
        return method, "", word("species"), "", "", "solid"
    return method, form, word("species"), word("glue", "none"), word("conditioning", "dry"), word("orientation")


def _share(method: Method, t: Treatment) -> float:
    def word(key: str) -> str:
        level = t.record.get(key)
        return str(level.value) if level is not None and level.value is not None else "none"

    share = _FORM.get(t.form, _GRAIN.get(word("orientation"), 0.5))
    return share * _CONDITIONED.get(word("conditioning"), 1.0) * _GLUE.get(word("glue"), 1.0)


def expected(plan: Plan, t: Treatment, history: Mapping[Key, History], rig: Range | None) -> Expected:
    """The forecast of one treatment."""
    method, sizes = method_of(plan), plan.sizes
    own = history.get(kind_of(plan.method, t.form, t.record, t.role))
    if own is not None and own.n >= 3:
        figure, cv = own.mean, max(own.cv, 0.03)
        source = f"your own {own.n} pieces of this kind"
    else:
        species = str(t.record["species"].value)
        wood = WOODS.get(species, WOODS["ash"])
        softer = WOODS.get(other_species(t.record), wood)
        solid = min(method.solid_figure(w, sizes) for w in (wood, softer))
        figure, cv = (solid, SOLID_CV) if t.role == SOLID else (solid * _share(method, t), HANDBOOK_CV)
        source = f"{wood.source}; share of the joint by rule of thumb" if t.role != SOLID else wood.source
    return _spread(t.letter, figure, cv, 1 / method.per_newton(sizes), rig, source)


def _spread(letter: str, figure: float, cv: float, newton: float, rig: Range | None, source: str) -> Expected:
    sigma = math.sqrt(math.log1p(cv * cv))
    load = figure * newton
    middle = math.log(load) - sigma * sigma / 2 if load > 0 else -math.inf
    low, high = (math.exp(middle + z * sigma) for z in (-1.645, 1.645))

    def over(limit: float) -> float:
        return float(special.ndtr((middle - math.log(limit)) / sigma))

    beyond = over(rig.limit_n) if rig else None
    unreadable = 1 - over(READABLE_STEPS * rig.resolution_n) if rig else None
    return Expected(letter, figure, cv, load, low, high, beyond, unreadable, source)


def fitting_size(
    plan: Plan, treatments: list[Treatment], history: Mapping[Key, History], rig: Range
) -> tuple[str, float] | None:
    """The largest whole-mm value of the method's first size with which the rig breaks 19 of 20 pieces of each.

    ``None`` when no sane value does.
    """
    method = method_of(plan)
    size = next(s for s in method.sizes_for() if s.key == method.working)
    value = math.floor(plan.sizes[size.key])
    while value >= size.low:
        smaller = replace(plan, sizes={**plan.sizes, size.key: float(value)})
        found = (expected(smaller, t, history, rig).beyond or 0.0 for t in treatments)
        if max(found, default=0.0) <= TOO_STRONG:
            return size.key, float(value)
        value -= 1
    return None


def largest_fitting(load_n: float, size_mm: float, limit_n: float, power: float) -> int:
    """Largest whole-mm section at which a load that grows with ``size ** power`` stays within ``limit_n``.

    From a pilot: a square section in bending grows with the cube, a lap of fixed width with its first power.
    """
    return max(0, math.floor(size_mm * float((limit_n / load_n) ** (1 / power)) + 1e-9))
