"""The plan as a document: what a batch asks, varies, holds constant and makes.

The document is versioned JSON. A draft may be incomplete; ``problems`` says what keeps it from being locked and
``warnings`` what the user should know. Quantities are in SI (``pressure_mpa``, ``clamp_s``), free ones in their own
unit.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from itertools import product
from typing import Any

from adhaero.core.materials.glue import GLUES
from adhaero.core.method import METHODS, Method
from adhaero.core.plan.fields import FIELDS, value_name
from adhaero.core.quantity import BASE, Dimension, shown
from adhaero.core.refusal import Problem, Problems, Refusal

FORMAT = 1
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


@dataclass(frozen=True)
class Plan:
    """A plan. ``constants`` holds the fields that are not varied; ``control`` the level index of each factor.

    ``dropped`` lists cells (level indices) that are not made, ``extra_replicates`` cells with a count of their own.
    ``predictions`` and ``side_questions`` are carried for the record.
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
    side_questions: tuple[str, ...] = ()
    predictions: tuple[str, ...] = ()
    assumptions: Assumptions = Assumptions()
    format: int = FORMAT

    def to_json(self) -> dict[str, Any]:
        """The document as plain JSON values."""
        return asdict(self)


def plan_from_json(document: Mapping[str, Any]) -> Plan:
    """A plan from its document. Raises ``Refusal`` for another format or a wrong shape."""
    try:
        if document["format"] != FORMAT:
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
        for key in ("side_questions", "predictions"):
            rest[key] = tuple(document[key])
        rest["control"] = None if document["control"] is None else tuple(document["control"])
        rest["dropped"] = tuple(tuple(c) for c in document["dropped"])
        rest["extra_replicates"] = tuple((tuple(c), n) for c, n in document["extra_replicates"])
        return Plan(**rest)
    except (KeyError, TypeError, AttributeError, ValueError) as error:
        if isinstance(error, Refusal):
            raise
        raise Refusal([Problem("plan", f"the document is not a plan: {error}", "Check the file.")]) from error


def first_plan() -> Plan:
    """The plan a new batch starts from: everything usual, nothing asked yet."""
    method = METHODS["compression-shear"]
    return Plan(
        sizes={s.key: s.nominal_mm for s in method.sizes},
        constants={k: Level(f.usual, _usual_unit(f.dimension)) for k, f in FIELDS.items() if k != "glue"},
        factors=(Factor("glue", "Glue", ()),),
    )


def _usual_unit(dimension: Dimension | None) -> str:
    return {Dimension.TIME: "h", Dimension.STRESS: "MPa"}.get(dimension, "") if dimension else ""


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


def problems(plan: Plan) -> list[Problem]:
    """Everything that keeps the plan from being locked, each with its field and remedy."""
    p = Problems()
    p.check(
        bool(plan.question.strip()),
        "question",
        "the question is empty",
        "Say what you want to find out.",
    )
    p.check(len(plan.question) <= 500, "question", "is longer than 500 characters", "Shorten it.")
    p.check(len(plan.guess) <= 2000, "guess", "is longer than 2000 characters", "Shorten it.")
    try:
        method_of(plan).refuse_bad_sizes(plan.sizes)
    except Refusal as refusal:
        p.take(refusal)
    p.check(
        1 <= len(plan.factors) <= 4,
        "factors",
        "one to four factors are needed",
        "Choose what differs.",
    )
    keys = [f.key for f in plan.factors]
    p.check(len(set(keys)) == len(keys), "factors", "a factor stands twice", "Take one of them out.")
    for i, factor in enumerate(plan.factors):
        _check_factor(i, factor, p)
    for key, known in FIELDS.items():
        if key in keys:
            continue
        level = plan.constants.get(key)
        if p.check(
            level is not None,
            f"constants.{key}",
            f"{known.name} is not stated",
            "Say what it is for all.",
        ):
            assert level is not None
            _check_value(f"constants.{key}", key, level, p)
    p.check(
        1 <= plan.replicates <= 500,
        "replicates",
        f"{plan.replicates} pieces of each is not possible",
        "Take 1 to 500.",
    )
    p.check(
        0 <= plan.solid_reference <= 500,
        "solid_reference",
        "must be 0 to 500",
        "Take 4 or more, or none.",
    )
    a = plan.assumptions
    p.check(
        0 < a.cv <= 1.5,
        "assumptions.cv",
        "a scatter outside 0 to 150 % is not possible",
        "15 % is usual for glued wood.",
    )
    p.check(0 < a.matters < 1, "assumptions.matters", "must be between 0 and 100 %", "10 % is usual.")
    p.check(0 < a.alpha < 0.5, "assumptions.alpha", "must be between 0 and 50 %", "5 % is usual.")
    p.check(
        a.alpha < a.power < 1,
        "assumptions.power",
        "must lie between alpha and 100 %",
        "80 % is usual.",
    )
    if plan.control is not None:
        fits = len(plan.control) == len(plan.factors) and all(
            0 <= c < len(f.levels) for c, f in zip(plan.control, plan.factors, strict=False)
        )
        p.check(fits, "control", "the control is not one of the treatments", "Choose it again.")
    if not p.found:
        total = len(cells(plan)) * plan.replicates + plan.solid_reference
        p.check(
            total <= MAX_SPECIMENS,
            "replicates",
            f"{total} pieces are more than one batch can hold",
            f"Stay under {MAX_SPECIMENS}: fewer levels or pieces, or two batches.",
        )
        _check_times(plan, p)
    return p.found  # fmt: skip


def _check_factor(i: int, factor: Factor, p: Problems) -> None:
    where = f"factors.{i}"
    p.check(
        bool(factor.name.strip()) and len(factor.name) <= 60,
        f"{where}.name",
        "needs a short name",
        "Name what differs.",
    )
    p.check(
        2 <= len(factor.levels) <= 8,
        f"{where}.levels",
        f"{factor.name or 'the factor'} has {len(factor.levels)} level{'s' * (len(factor.levels) != 1)}",
        "Give it two to eight levels.",
    )
    names = [level_name(factor.key, level) for level in factor.levels]
    for j, name in enumerate(names):
        if name.lower() in (n.lower() for n in names[:j]):
            p.add(f"{where}.levels.{j}", f"{name!r} stands twice", "Change or remove one of the two.")
        _check_value(f"{where}.levels.{j}", factor.key, factor.levels[j], p)  # fmt: skip


def _check_value(where: str, key: str, level: Level, p: Problems) -> None:
    known, value = FIELDS.get(key), level.value
    if value is None:
        p.check(known is None or key == "glue", where, "cannot be 'none'", "Give it a value.")
    elif isinstance(value, str):
        fine = 0 < len(value.strip()) <= 80
        if p.check(fine, where, "is empty or longer than 80 characters", "Type a short text.") and known:
            listed = known.choices is not None and (value in known.choices or known.free_text)
            p.check(
                listed,
                where,
                f"{value!r} is not a value of {known.name}",
                "Choose one from the list.",
            )
    elif known is not None and known.dimension is None:
        p.add(where, f"{known.name} cannot be a number", "Choose one from the list.")
    elif known is not None and known.dimension is not None:
        unit = level.unit or BASE[known.dimension]
        low, high = (shown(v, unit, known.dimension) for v in (known.low, known.high))
        p.check(
            known.low <= value <= known.high, where,
            f"{known.name} of {shown(value, unit, known.dimension)} is outside {low} to {high}",
            "Check the number and its unit.",
        )  # fmt: skip


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


def _check_times(plan: Plan, p: Problems) -> None:
    for cell in cells(plan):
        record = record_of(plan, cell)
        clamp, cure = record["clamp_s"].value, record["cure_s"].value
        if isinstance(clamp, float | int) and isinstance(cure, float | int) and clamp > cure:
            p.add(
                "constants.cure_s",
                f"cure time ({level_name('cure_s', record['cure_s'])}) is shorter than clamp time "
                f"({level_name('clamp_s', record['clamp_s'])}), which is part of it",
                "Cure time runs from closing to breaking: make it longer.",
            )
            return


@dataclass(frozen=True)
class Caveat:
    """Something the user should know before locking: what will happen, at which field, and what helps."""

    field: str
    text: str
    remedy: str


def warnings(plan: Plan) -> list[Caveat]:
    """What the plan cannot find out, or does against the usual. Assumes ``problems(plan)`` is empty."""
    found = [Caveat("sizes", text, "") for text in method_of(plan).warnings(plan.sizes)]
    if plan.replicates == 1:
        found.append(
            Caveat(
                "replicates",
                "One piece shows that it can happen, not how often: no scatter, no test.",
                "Make three or more of each.",
            )
        )
    elif plan.replicates < 3:
        found.append(
            Caveat(
                "replicates",
                "Two pieces give hardly a scatter: only very large differences show.",
                "Make three or more of each.",
            )
        )
    if plan.control is None:
        found.append(
            Caveat(
                "control",
                "No control: nothing to measure 'better' against.",
                "Choose a control level.",
            )
        )
    if plan.solid_reference == 0:
        found.append(
            Caveat(
                "solid_reference",
                "No solid reference: joint efficiency stays unknown.",
                "Add 4 solid pieces.",
            )
        )
    elif plan.solid_reference < 3:
        found.append(
            Caveat(
                "solid_reference",
                "Fewer than three solid pieces: joint efficiency gets no interval worth having.",
                "Make it 4.",
            )
        )
    for cell in cells(plan):
        record = record_of(plan, cell)
        family = GLUES.get(str(record["glue"].value))
        pressure, clamp = record["pressure_mpa"].value, record["clamp_s"].value
        if family is None or isinstance(pressure, str) or pressure is None or not isinstance(clamp, float | int):
            continue
        typed = level_name("pressure_mpa", record["pressure_mpa"])
        low, high = family.pressure_low_mpa, family.pressure_high_mpa
        if not low <= pressure <= high:
            side = "below" if pressure < low else "above"
            found.append(
                Caveat(
                    "constants.pressure_mpa",
                    f"{family.name}: {typed} is {side} the usual {low:g} to {high:g} MPa.",
                    "Check the label, or state that all get the same on purpose.",
                )
            )
        if clamp < family.clamp_s:
            found.append(
                Caveat(
                    "constants.clamp_s",
                    f"{family.name}: {level_name('clamp_s', record['clamp_s'])} in the clamp is "
                    f"shorter than the usual {family.clamp_s / 3600:g} h.",
                    "Lengthen it unless that is the question.",
                )
            )
    return list(dict.fromkeys(found))  # fmt: skip
