"""What loads to expect, before a piece is cut: from the user's own results first, else from handbook values.

Without history a joint is taken to bear a share of what solid wood bears that is loaded the same way (core.grain): by
the form, the grain that meets, the glue family, its age, gap, pressure and conditioning (core.plan.shares). The spread
given with it is wide on purpose (CV 30 %). Loads are taken to be lognormal.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import scipy

from adhaero.core.joint import METALS
from adhaero.core.joint_forms import FREE
from adhaero.core.plan.document import Level, Plan, method_of
from adhaero.core.plan.fields import SIZE
from adhaero.core.plan.inserts import section_and_skin
from adhaero.core.plan.records import SOLID_GRAIN
from adhaero.core.plan.shares import exposed_share, glue_share, line_share, made_share, unknown_factors
from adhaero.core.plan.treatments import SOLID, Treatment, other_species
from adhaero.core.plan.woods import wood_of

HANDBOOK_CV, SOLID_CV = 0.30, 0.20
OWN_PIECES = "your own"
ENOUGH = 3
"""Own pieces of a kind from which on they are asked before the handbook."""
TOO_STRONG = 0.05
"""Share of pieces beyond the rig's working range that is pointed out."""
READABLE_STEPS = 50
"""Steps of the rig that a load should have, so that reading it costs no more than 1 %."""

Key = tuple[str, str, str, str, str, str]


@dataclass(frozen=True)
class History:
    """What the user's own pieces of one kind gave: mean figure of merit, its CV within treatments with its degrees of
    freedom, and their number.

    The figures are those of fully cured, tight and well pressed joints: each is divided by its ``made_share`` before.
    """

    mean: float
    cv: float
    n: int
    df: int = 0


@dataclass(frozen=True)
class Expected:
    """A treatment's expected load in N: typical, and a range; shares of pieces from 0 to 1.

    The range is that of nine pieces in ten where it rests on own pieces. Else it is a ``rough`` guess: rules of thumb
    were never checked to hold nine pieces in ten, and may be off by a factor of three.

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
    rough: bool = False


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

    ``None`` for a wood, a glue or a joint form that nothing is known of: no other one stands in for it.
    """
    method = method_of(plan)
    found = _of_solid(plan, t, history) if t.role == SOLID else _of_joint(plan, t, history)
    if found is None:
        return None
    figure, cv, source, unknown = found
    if figure <= 0:
        # The handbook says nothing of what this method measures: no forecast, not one of 0 N.
        return None
    e = _spread(t.letter, figure, cv, 1 / method.per_newton(t.sizes), rig, source, unknown)
    if source.startswith(OWN_PIECES):
        return e
    return replace(e, rough=True)


Found = tuple[float, float, str, tuple[str, ...]]
"""Figure, its CV, where it comes from, and what it does not know."""


def _own(history: Mapping[Key, History], key: Key) -> History | None:
    own = history.get(key)
    return own if own is not None and own.n >= ENOUGH else None


def _of_solid(plan: Plan, t: Treatment, history: Mapping[Key, History]) -> Found | None:
    own, wood = _own(history, kind_of(plan.method, "", t.record, SOLID)), wood_of(plan, str(t.record["species"].value))
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
    woods = [wood_of(plan, str(t.record["species"].value)), wood_of(plan, other_species(t.record))]
    woods = woods[:1] if other_species(t.record) in METALS else woods
    if glue is None or None in woods or t.form == FREE:
        return None
    method, orientation = method_of(plan), str(t.record["orientation"].value)
    halves = method.loading(t.form, orientation)
    known = [w for w in woods if w is not None]
    solid = min(method.solid_in(w, t.sizes, d) for w, d in zip(known, halves or ("", ""), strict=False))
    glued = glue * made.share * exposed.share
    figure = solid * line_share(t.form, orientation, halves) * glued
    if method.key == "racking" and (bears := section_and_skin(t.form, t.sizes, known[0])) is not None:
        figure = min(figure, bears[0], bears[1] * glued)
    return figure, HANDBOOK_CV, f"{known[0].source}; share of the joint by rule of thumb", unknown


def _spread(
    letter: str, figure: float, cv: float, newton: float, rig: Range | None, source: str, unknown: tuple[str, ...]
) -> Expected:
    sigma = math.sqrt(math.log1p(cv * cv))
    load = figure * newton
    middle = math.log(load) - sigma * sigma / 2 if load > 0 else -math.inf
    low, high = (math.exp(middle + z * sigma) for z in (-1.645, 1.645))

    def over(limit: float) -> float:
        return float(scipy.special.ndtr((middle - math.log(limit)) / sigma))

    beyond = over(rig.limit_n) if rig else None
    unreadable = 1 - over(READABLE_STEPS * rig.resolution_n) if rig else None
    return Expected(letter, figure, cv, load, low, high, beyond, unreadable, source, unknown)


def fitting_sizes(
    plan: Plan, treatments: Sequence[Treatment], history: Mapping[Key, History], rig: Range
) -> list[dict[str, float]]:
    """Sizes (mm) with which the rig breaks 19 of 20 pieces of each treatment, one way of changing them after the other:
    the method's first size, a square section of a bar, a longer arm. Of each way the largest piece that is sane.
    """
    return [found for way in _ways(plan) if (found := _first_that_fits(plan, treatments, history, rig, way))]


def _ways(plan: Plan) -> Iterator[Iterator[dict[str, float]]]:
    """Ways to a weaker piece or a longer lever, each from the next whole mm on."""
    method = method_of(plan)
    sizes = {s.key: s for s in method.sizes_for()}
    working = sizes[method.working]
    yield ({working.key: float(v)} for v in range(math.floor(plan.sizes[working.key]), math.ceil(working.low) - 1, -1))
    if {"width", "depth", "span"} <= sizes.keys():
        least = math.ceil(max(sizes["width"].low, sizes["depth"].low))
        most = math.floor(max(plan.sizes["width"], plan.sizes["depth"]))
        yield ({"width": float(v), "depth": float(v)} for v in range(most, least - 1, -1))
    if "arm" in sizes:
        yield ({"arm": float(v)} for v in range(math.ceil(plan.sizes["arm"] / 10) * 10, int(sizes["arm"].high) + 1, 10))


def _first_that_fits(
    plan: Plan, treatments: Sequence[Treatment], history: Mapping[Key, History], rig: Range,
    way: Iterator[dict[str, float]],
) -> dict[str, float] | None:  # fmt: skip
    for change in way:
        smaller = replace(plan, sizes={**plan.sizes, **change})
        # A treatment with that size of its own keeps it.
        scaled = (
            replace(t, sizes={**t.sizes, **{k: v for k, v in change.items() if SIZE + k not in t.record}})
            for t in treatments
        )
        loads = (expected(smaller, t, history, rig) for t in scaled)
        if max((e.beyond or 0.0 for e in loads if e is not None), default=0.0) <= TOO_STRONG:
            return change
    return None


def largest_fitting(load_n: float, size_mm: float, limit_n: float, power: float) -> int:
    """Largest whole-mm section at which a load that grows with ``size ** power`` stays within ``limit_n``.

    From a pilot: a square section in bending grows with the cube, a lap of fixed width with its first power.
    """
    return max(0, math.floor(size_mm * float((limit_n / load_n) ** (1 / power)) + 1e-9))
