"""The plan as a document: what a batch asks, varies, holds constant and makes.

The document is versioned JSON. A draft may be incomplete; ``problems`` says what keeps it from being locked and
``warnings`` what the user should know. Quantities are in SI (``pressure_mpa``, ``clamp_s``), free ones in their own
unit.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, replace
from itertools import product
from typing import Any

from adhaero.core.method import Method, nominal_sizes
from adhaero.core.method_catalogue import METHODS
from adhaero.core.plan.fields import FIELDS, value_name
from adhaero.core.quantity import BASE, Dimension, shown
from adhaero.core.refusal import Problem, Refusal

FORMAT = 3
"""2 brought joint forms, single treatments and the costs; 3 brought tolerances, spares, dummies, claims and side
questions that name their treatments. Older documents are read as what they meant.
"""
MAX_SPECIMENS = 5000
Value = str | float | None


@dataclass(frozen=True)
class Level:
    """One level of a factor: a text, a number (known quantities in SI), or ``None`` for 'none'.

    ``unit`` is the unit it was typed in, for showing it the same way.
    """

    value: Value
    unit: str = ""


@dataclass(frozen=True)
class Factor:
    """What is varied. ``key`` is a field of the record, or a key of the user's own with its ``name``."""

    key: str
    name: str
    levels: tuple[Level, ...]


@dataclass(frozen=True)
class Assumptions:
    """What the advice before and the verdict after are based on; shares are fractions."""

    cv: float = 0.15
    alpha: float = 0.05
    power: float = 0.8
    matters: float = 0.10
    fallen_as_zero: bool = True
    humidity_low_pct: float = 35.0
    humidity_high_pct: float = 65.0


@dataclass(frozen=True)
class Costs:
    """What a piece takes, for the count of hours and money; times in s, prices in the user's currency."""

    cut_s: float = 240.0
    glue_s: float = 150.0
    break_s: float = 180.0
    wood_per_m3: float = 2400.0
    glue_per_kg: float = 15.0
    spread_g_m2: float = 180.0


@dataclass(frozen=True)
class Extra:
    """A single treatment outside the grid: the plan's usual record with ``changes`` over it.

    ``control`` is what it serves as: plain, untreated, dry, time-zero, standard, or nothing. ``late`` ones came by an
    amendment and are lettered after everything else.
    """

    label: str
    changes: Mapping[str, Level]
    replicates: int
    control: str | None = None
    late: bool = False


@dataclass(frozen=True)
class Asked:
    """A side question, or a claim to be tested, with the labels of the treatments that answer it."""

    text: str
    treatments: tuple[str, ...] = ()


@dataclass(frozen=True)
class Plan:
    """A plan. ``constants`` holds the fields that are not varied; ``control`` the level index of each factor.

    ``dropped`` lists cells (level indices) that are not made, ``extra_replicates`` cells with a count of their own,
    ``extras`` single treatments beside the grid. ``start`` names the question that the plan began from,
    ``tolerance_mm`` how far a measured size may be off before the piece is questioned,
    ``guesses`` the load in N that is guessed for a treatment (by its label); locking the plan seals them.
    ``tolerances`` says how far a field may leave its planned value, in its base unit, before it is pointed out.
    ``spares`` are made of every treatment in case one is spoiled, ``dummies`` only fill places in clamps, and
    ``solid_own`` are solid references with a count of their own, by species.
    Treatments of a ``side_question`` stay out of the main comparison.
    """

    question: str = ""
    guess: str = ""
    target: str = "joint"
    policy: str = "same-for-all"
    method: str = "compression-shear"
    sizes: Mapping[str, float] = field(default_factory=dict)
    factors: tuple[Factor, ...] = ()
    constants: Mapping[str, Level] = field(default_factory=dict)
    replicates: int = 6
    control: tuple[int, ...] | None = None
    solid_reference: int = 4
    dropped: tuple[tuple[int, ...], ...] = ()
    extra_replicates: tuple[tuple[tuple[int, ...], int], ...] = ()
    side_questions: tuple[Asked, ...] = ()
    claims: tuple[Asked, ...] = ()
    extras: tuple[Extra, ...] = ()
    start: str = "own"
    tolerance_mm: float = 1.0
    guesses: Mapping[str, float] = field(default_factory=dict)
    tolerances: Mapping[str, float] = field(default_factory=dict)
    spares: int = 0
    dummies: int = 0
    solid_own: Mapping[str, int] = field(default_factory=dict)
    assumptions: Assumptions = Assumptions()
    costs: Costs = Costs()
    format: int = FORMAT

    def to_json(self) -> dict[str, Any]:
        """The document as plain JSON values."""
        return asdict(self)


def plan_from_json(document: Mapping[str, Any]) -> Plan:
    """A plan from its document. Raises ``Refusal`` for another format or a wrong shape."""
    try:
        if document["format"] not in range(1, FORMAT + 1):
            raise Refusal(
                [
                    Problem(
                        "format",
                        f"plan format {document['format']} is not known",
                        "Open it with the version of the program that wrote it.",
                    )
                ]
            )
        rest = dict(document)
        rest["factors"] = tuple(
            Factor(f["key"], f["name"], tuple(Level(**v) for v in f["levels"])) for f in document["factors"]
        )
        rest["constants"] = {k: Level(**v) for k, v in document["constants"].items()}
        rest["assumptions"] = Assumptions(**document["assumptions"])
        rest["costs"] = Costs(**document.get("costs", {}))
        rest["extras"] = tuple(_extra(e) for e in document.get("extras", ()))
        rest["guesses"] = {str(k): float(v) for k, v in document.get("guesses", {}).items()}
        rest["tolerances"] = {str(k): float(v) for k, v in document.get("tolerances", {}).items()}
        rest["solid_own"] = {str(k): int(v) for k, v in document.get("solid_own", {}).items()}
        for key in ("side_questions", "claims"):
            rest[key] = tuple(_asked(a) for a in document.get(key, ()))
        if document["format"] < 3:
            rest.pop("predictions", None)
        rest["format"] = FORMAT
        rest["control"] = None if document["control"] is None else tuple(document["control"])
        rest["dropped"] = tuple(tuple(c) for c in document["dropped"])
        rest["extra_replicates"] = tuple((tuple(c), n) for c, n in document["extra_replicates"])
        return Plan(**rest)
    except (KeyError, TypeError, AttributeError, ValueError) as error:
        if isinstance(error, Refusal):
            raise
        raise Refusal([Problem("plan", f"the document is not a plan: {error}", "Check the file.")]) from error


def _extra(e: Mapping[str, Any]) -> Extra:
    return Extra(e["label"], {k: Level(**v) for k, v in e["changes"].items()}, int(e["replicates"]), e.get("control"),
                 bool(e.get("late", False)))  # fmt: skip


def _asked(a: Mapping[str, Any] | str) -> Asked:
    return Asked(a) if isinstance(a, str) else Asked(a["text"], tuple(a["treatments"]))


def first_plan() -> Plan:
    """The plan a new batch starts from: everything usual, nothing asked yet."""
    return Plan(
        sizes=nominal_sizes(METHODS["compression-shear"]),
        constants={k: usual_level(k) for k, f in FIELDS.items() if f.needed and k != "glue"},
        factors=(Factor("glue", "Glue", ()),),
    )


def usual_level(key: str) -> Level:
    """The usual value of a known field."""
    return Level(FIELDS[key].usual, _usual_unit(FIELDS[key].dimension))


def _usual_unit(dimension: Dimension | None) -> str:
    usual = {Dimension.TIME: "h", Dimension.STRESS: "MPa", Dimension.LENGTH: "mm", Dimension.SPREAD: "g/m²"}
    return usual.get(dimension, "") if dimension else ""


def level_name(key: str, level: Level) -> str:
    """A level in words: the choice's name, or the number in the unit it was typed in."""
    if level.value is None:
        return "none"
    known = FIELDS.get(key)
    if isinstance(level.value, str):
        return value_name(key, level.value)
    if known is not None and known.dimension is not None:
        return shown(level.value, level.unit or BASE[known.dimension], known.dimension)
    return f"{level.value:g} {level.unit}".strip()


def treatment_name(factor: Factor, level: Level) -> str:
    """A level as it names a treatment: a glue or a species speaks for itself, a number needs its factor's name."""
    name = level_name(factor.key, level)
    known = FIELDS.get(factor.key)
    speaks = known is not None and known.choices is not None
    return name if speaks else f"{factor.name.lower()} {name}"


def method_of(plan: Plan) -> Method:
    """The plan's method; ``Refusal`` if it is unknown."""
    found = METHODS.get(plan.method)
    if found is None:
        raise Refusal([Problem("method", f"{plan.method!r} is not a test method", "Choose one from the list.")])
    return found


def cells(plan: Plan) -> list[tuple[int, ...]]:
    """Level indices of every treatment that is made, the last factor running fastest."""
    grid = product(*(range(len(f.levels)) for f in plan.factors))
    return [c for c in grid if c not in plan.dropped]


def record_of(plan: Plan, cell: tuple[int, ...]) -> dict[str, Level]:
    """The whole record of a treatment: constants with this cell's levels over them, free factors included."""
    record = dict(plan.constants)
    for factor, index in zip(plan.factors, cell, strict=True):
        record[factor.key] = factor.levels[index]
    return record


def base_cell(plan: Plan) -> tuple[int, ...]:
    """The cell that single treatments start from: the control, or the first level of every factor."""
    return plan.control if plan.control is not None else (0,) * len(plan.factors)


def record_of_extra(plan: Plan, extra: Extra) -> dict[str, Level]:
    """The whole record of a single treatment."""
    return {**record_of(plan, base_cell(plan)), **extra.changes}


def records(plan: Plan) -> list[dict[str, Level]]:
    """The records of all joints that the plan makes: the grid, then the single treatments."""
    return [record_of(plan, c) for c in cells(plan)] + [record_of_extra(plan, e) for e in plan.extras]


def forms_of(plan: Plan) -> tuple[str, ...]:
    """The joint forms that the plan makes, each once, as its method can break them."""
    method = method_of(plan)
    found = (
        [method.form(_text(r.get("form"))).key for r in records(plan)] if all(f.levels for f in plan.factors) else []
    )
    return tuple(dict.fromkeys(found)) or (method.form(_text(plan.constants.get("form"))).key,)


def completed(plan: Plan) -> Plan:
    """The plan with the usual value of every size that its method and joint forms ask for and that is not stated."""
    if plan.method not in METHODS:
        return plan
    usual = {s.key: s.nominal for s in METHODS[plan.method].sizes_for(forms_of(plan))}
    return replace(plan, sizes={**usual, **plan.sizes})


def _text(level: Level | None) -> str | None:
    return level.value if level is not None and isinstance(level.value, str) else None


def pieces_in_all(plan: Plan) -> int:
    """Number of pieces that a lock would make, spares and dummies included."""
    own = dict(plan.extra_replicates)
    joints = sum(own.get(c, plan.replicates) for c in cells(plan)) + sum(e.replicates for e in plan.extras)
    treated = len(cells(plan)) + len(plan.extras)
    species = {r["species"] for r in records(plan) if "species" in r} if method_of(plan).solid else set()
    solids = sum(solid_count(plan, level) for level in species)
    return joints + solids + plan.spares * treated + plan.dummies


def solid_count(plan: Plan, species: Level) -> int:
    """How many solid pieces of a species the plan makes."""
    return plan.solid_own.get(str(species.value), plan.solid_reference)
