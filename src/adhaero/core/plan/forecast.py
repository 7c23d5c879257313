"""What loads to expect, before a piece is cut: from the user's own results first, else from handbook values.

Without history a joint is taken to bear a share of what solid wood bears that is loaded the same way (core.grain): by
the form, the grain that meets, the glue family, its age, gap, pressure and conditioning (core.plan.shares). The spread
given with it is wide on purpose (CV 30 %). Loads are taken to be lognormal.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from scipy import special

from adhaero.core.joint import METALS
from adhaero.core.materials.wood import WOODS
from adhaero.core.plan.design import SOLID, Treatment, other_species
from adhaero.core.plan.document import Level, Plan, method_of
from adhaero.core.plan.fields import SIZE
from adhaero.core.plan.records import SOLID_GRAIN
from adhaero.core.plan.shares import exposed_share, glue_share, line_share, made_share, unknown_factors

HANDBOOK_CV, SOLID_CV = 0.30, 0.20
ENOUGH = 3
"""Own pieces of a kind from which on they are asked before the handbook."""
TOO_STRONG = 0.05
"""Share of pieces beyond the rig's working range that is pointed out."""
READABLE_STEPS = 50
"""Steps of the rig that a load should have, so that reading it costs no more than 1 %."""

Key = tuple[str, str, str, str, str, str]


@dataclass(frozen=True)
class History:
    """What the user's own pieces of one kind gave: mean figure of merit, its CV, and their number.

    The figures are those of fully cured, tight and well pressed joints: each is divided by its ``made_share`` before.
    """

    mean: float
    cv: float
    n: int


@dataclass(frozen=True)
class Expected:
    """A treatment's expected load in N: typical, and the range of nine pieces in ten; shares of pieces from 0 to 1.

    ``beyond`` would not break within the rig's working range, ``unreadable`` break at too few steps of it.
    ``unknown`` names what the forecast takes no account of.
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
    unknown: tuple[str, ...] = ()


@dataclass(frozen=True)
class Range:
    """What the rig reads: its working limit and its step, N."""

    limit_n: float
    resolution_n: float


def kind_of(method: str, form: str, record: Mapping[str, Level], role: str, *, conditioning: str = "") -> Key:
    """What makes two treatments the same kind for a forecast; another ``conditioning`` may be asked after."""

    def word(key: str, usual: str = "") -> str:
        level = record.get(key)
        return str(level.value) if level is not None and level.value is not None else usual

    if role == SOLID:
        return method, "", word("species"), "", word(SOLID_GRAIN), "solid"
    went = conditioning or word("conditioning", "dry")
    return method, form, word("species"), word("glue", "none"), went, word("orientation")


def expected(plan: Plan, t: Treatment, history: Mapping[Key, History], rig: Range | None) -> Expected | None:
    """The forecast of one treatment: from own pieces of its kind, else from own dry ones, else from handbook values.

    ``None`` for a wood or a glue that nothing is known of: no other one stands in for it.
    """
    method = method_of(plan)
    found = _of_solid(plan, t, history) if t.role == SOLID else _of_joint(plan, t, history)
    if found is None:
        return None
    figure, cv, source, unknown = found
    return _spread(t.letter, figure, cv, 1 / method.per_newton(t.sizes), rig, source, unknown)


Found = tuple[float, float, str, tuple[str, ...]]
"""Figure, its CV, where it comes from, and what it does not know."""


def _own(history: Mapping[Key, History], key: Key) -> History | None:
    own = history.get(key)
    return own if own is not None and own.n >= ENOUGH else None


def _of_solid(plan: Plan, t: Treatment, history: Mapping[Key, History]) -> Found | None:
    own, wood = _own(history, kind_of(plan.method, "", t.record, SOLID)), WOODS.get(str(t.record["species"].value))
    if own is not None:
        return own.mean, max(own.cv, 0.03), f"your own {own.n} pieces of this kind", ()
    if wood is None:
        return None
    grain = t.record.get(SOLID_GRAIN, Level(None)).value
    return method_of(plan).solid_in(wood, plan.sizes, str(grain or "")), SOLID_CV, wood.source, ()


def _of_joint(plan: Plan, t: Treatment, history: Mapping[Key, History]) -> Found | None:
    made, exposed = made_share(plan, t.record), exposed_share(t.record)
    unknown = tuple(dict.fromkeys((*unknown_factors(plan), *made.unknown, *exposed.unknown)))
    own = _own(history, kind_of(plan.method, t.form, t.record, t.role))
    if own is not None:
        return own.mean * made.share, max(own.cv, 0.03), f"your own {own.n} pieces of this kind", unknown
    dry = _own(history, kind_of(plan.method, t.form, t.record, t.role, conditioning="dry"))
    if dry is not None:
        source = f"your own {dry.n} dry pieces; what this conditioning leaves by rule of thumb"
        return dry.mean * made.share * exposed.share, HANDBOOK_CV, source, unknown
    glue = glue_share(plan, t.record)
    woods = [WOODS.get(str(t.record["species"].value)), WOODS.get(other_species(t.record))]
    woods = woods[:1] if other_species(t.record) in METALS else woods
    if glue is None or None in woods:
        return None
    method, orientation = method_of(plan), str(t.record["orientation"].value)
    halves = method.loading(t.form, orientation)
    known = [w for w in woods if w is not None]
    solid = min(method.solid_in(w, t.sizes, d) for w, d in zip(known, halves or ("", ""), strict=False))
    share = line_share(t.form, orientation, halves) * glue * made.share * exposed.share
    return solid * share, HANDBOOK_CV, f"{known[0].source}; share of the joint by rule of thumb", unknown


def _spread(
    letter: str, figure: float, cv: float, newton: float, rig: Range | None, source: str, unknown: tuple[str, ...]
) -> Expected:
    sigma = math.sqrt(math.log1p(cv * cv))
    load = figure * newton
    middle = math.log(load) - sigma * sigma / 2 if load > 0 else -math.inf
    low, high = (math.exp(middle + z * sigma) for z in (-1.645, 1.645))

    def over(limit: float) -> float:
        return float(special.ndtr((middle - math.log(limit)) / sigma))

    beyond = over(rig.limit_n) if rig else None
    unreadable = 1 - over(READABLE_STEPS * rig.resolution_n) if rig else None
    return Expected(letter, figure, cv, load, low, high, beyond, unreadable, source, unknown)


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
        # A treatment with that size of its own keeps it.
        scaled = (replace(t, sizes={**t.sizes, size.key: float(value)}) if SIZE + size.key not in t.record else t
                  for t in treatments)  # fmt: skip
        loads = (expected(smaller, t, history, rig) for t in scaled)
        found = (e.beyond or 0.0 for e in loads if e is not None)
        if max(found, default=0.0) <= TOO_STRONG:
            return size.key, float(value)
        value -= 1
    return None


def largest_fitting(load_n: float, size_mm: float, limit_n: float, power: float) -> int:
    """Largest whole-mm section at which a load that grows with ``size ** power`` stays within ``limit_n``.

    From a pilot: a square section in bending grows with the cube, a lap of fixed width with its first power.
    """
    return max(0, math.floor(size_mm * float((limit_n / load_n) ** (1 / power)) + 1e-9))
