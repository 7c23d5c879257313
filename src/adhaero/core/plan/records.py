"""What a plan's document stands for: its cells, and the whole record of every treatment."""

from __future__ import annotations

from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import product

from adhaero.core.cut.blanks import SIXTEENTH_MM
from adhaero.core.glue.pressing import CLAMPLESS
from adhaero.core.joint import orientation_of
from adhaero.core.joint_forms import DEPTH, FORMS, THICKNESS, WIDTH, Size
from adhaero.core.method_catalogue import METHODS
from adhaero.core.plan.document import Cell, Extra, Factor, Level, Plan, level_text, method_of
from adhaero.core.plan.fields import AT_RELEASE, FIELDS, SIZE, UNTIL_BROKEN
from adhaero.core.plan.fraction import held_apart
from adhaero.core.plan.glues import BY_LABEL, as_label_says, label_of
from adhaero.core.plan.level_order import in_order
from adhaero.core.quantity import BASE, Dimension, unit
from adhaero.core.units import METRIC, Units

OF_A_GLUEUP = ("air_c", "humidity_pct")
"""Fields that are one for everything that is glued at once, whatever the plan says."""
MATERIAL = ("species", "species_b")
AT_CORNERS = ("racking", "corner-pull", "cross-lap-pull")
"""Methods that break pieces which meet at a right angle."""
SOLID_GRAIN = "solid_grain"
"""Key in the record of a solid piece: how it is loaded, along or across its grain."""


def cell_ids(plan: Plan, cell: Sequence[int]) -> dict[str, str]:
    """A cell given by the places of its levels, by ids."""
    return {f.key: f.levels[i].id for f, i in zip(plan.factors, cell, strict=True)}


def is_in(plan: Plan, cell: Sequence[int], pattern: Cell) -> bool:
    """Whether a cell (places) is one of those that a pattern of ids names."""
    own = cell_ids(plan, cell)
    return all(own.get(key, level) == level for key, level in pattern.items())


def control_cell(plan: Plan) -> tuple[int, ...] | None:
    """The cell (places) with the control level of every factor; ``None`` while a factor has none."""
    places = [f.place(plan.control.get(f.key, "")) for f in plan.factors]
    found = tuple(p for p in places if p is not None)
    return found if places and len(found) == len(places) else None


def cell_count(plan: Plan, cell: Sequence[int]) -> int:
    """How many pieces of a cell are made."""
    return next((n for pattern, n in plan.extra_replicates if is_in(plan, cell, pattern)), plan.replicates)


def cells(plan: Plan) -> list[tuple[int, ...]]:
    """Places of the levels of every treatment that is made, the last factor running fastest; none without factors: a
    survey has single treatments only.
    """
    if not plan.factors:
        return []
    grid = product(*(range(len(f.levels)) for f in plan.factors))
    whole, partial = set(), []
    for pattern in plan.dropped:
        places = tuple(f.place(pattern.get(f.key, "")) for f in plan.factors)
        if None in places or len(pattern) != len(places):
            partial.append(pattern)
        else:
            whole.add(places)
    return [c for c in grid if c not in whole and not any(is_in(plan, c, pattern) for pattern in partial)]


def is_fraction(plan: Plan) -> bool:
    """Whether some factor can only be compared over all combinations: no two that are made differ in it alone."""
    return len(plan.factors) > 2 and bool(held_apart(cells(plan), len(plan.factors)))


def judged_over_all(plan: Plan) -> bool:
    """Whether one or two pieces of each combination are enough, because each factor is judged over all combinations:
    three pieces of every level, and three left over for the scatter.
    """
    effects = 1 + sum(len(f.levels) - 1 for f in plan.factors)
    pieces = sum(cell_count(plan, c) for c in cells(plan))
    return len(plan.factors) > 1 and least_at_a_level(plan) >= 3 and pieces - effects >= 3


def least_at_a_level(plan: Plan) -> int:
    """The fewest pieces that any level of any factor has over all cells that are made."""
    made: dict[tuple[int, int], int] = {}
    for cell in cells(plan):
        for place, level in enumerate(cell):
            made[place, level] = made.get((place, level), 0) + cell_count(plan, cell)
    return min(made.values(), default=plan.replicates)


def record_of(plan: Plan, cell: tuple[int, ...]) -> dict[str, Level]:
    """The whole record of a treatment: constants with this cell's levels over them, free factors included."""
    record = dict(plan.constants)
    for factor, index in zip(plan.factors, cell, strict=True):
        record[factor.key] = factor.levels[index]
    return resolved(plan, record, [f.key for f in plan.factors])


def resolved(plan: Plan, record: dict[str, Level], stated: Container[str]) -> dict[str, Level]:
    """A record with what its words stand for: numbers where they mean one, and the means of pressing.

    Where each glue is used as its label says, pressure and clamp time come from there, unless they are ``stated``:
    varied or given for this treatment. An age "at release" is the clamp time, a clamp time "until broken" the age. What
    takes no clamp has no clamp time. The grain is that of the joint's form, unless it is ``stated``.
    """
    found = dict(record)
    grain, form = found.get("orientation"), level_text(found.get("form")) or method_of(plan).forms[0]
    if grain is not None and isinstance(grain.value, str) and "orientation" not in stated:
        corner = method_of(plan).key in AT_CORNERS
        found["orientation"] = replace(grain, value=orientation_of(form, grain.value, corner=corner))
    if plan.policy == BY_LABEL and (glue := record.get("glue")) is not None:
        label = label_of(plan, glue.value) or {}
        for key, value in as_label_says(label).items():
            old = record.get(key, Level(None))
            if key not in stated:
                found[key] = Level(value, old.unit if isinstance(old.value, float | int) else "")
    pressure = found.get("pressure_mpa")
    if pressure is not None and isinstance(pressure.value, str):
        found["press_by"] = Level(pressure.value)
        found["pressure_mpa"] = replace(pressure, value=0.0 if pressure.value == "nothing" else None)
    elif pressure is not None and pressure.value == 0:
        found["press_by"] = Level("nothing")
    means = level_text(found.get("press_by"))
    if means in CLAMPLESS and "pressure_mpa" in found:
        # Stated as a means of its own: no clamp presses with the usual pressure then.
        found["pressure_mpa"] = replace(found["pressure_mpa"], value=0.0 if means == "nothing" else None)
    clamp, cure = found.get("clamp_s"), found.get("cure_s")
    if clamp is not None and cure is not None:
        if cure.value == AT_RELEASE:
            found["cure_s"] = replace(cure, value=clamp.value, unit=clamp.unit)
        elif clamp.value == UNTIL_BROKEN:
            found["clamp_s"] = replace(clamp, value=cure.value, unit=cure.unit)
        if means in CLAMPLESS:
            found["clamp_s"] = replace(clamp, value=0.0)
    return found


def clamps_until_broken(plan: Plan) -> bool:
    """Return whether a clamp time of the plan is stated as "until broken"."""
    varied = [level for f in plan.factors if f.key == "clamp_s" for level in f.levels]
    given = [r["clamp_s"] for r in (plan.constants, *(e.changes for e in plan.extras)) if "clamp_s" in r]
    return any(level.value == UNTIL_BROKEN for level in (*varied, *given))


def next_late(plan: Plan) -> int:
    """The number of the next amendment that brings a treatment."""
    levels = (level.late for f in plan.factors for level in f.levels)
    return 1 + max([0, *levels, *(e.late for e in plan.extras)])


def whole_factors(plan: Plan) -> list[Factor]:
    """The factors with one level for everything that is glued at once."""
    return [f for f in plan.factors if f.whole or f.key in OF_A_GLUEUP]


def base_cell(plan: Plan) -> tuple[int, ...]:
    """The cell that single treatments start from: the control levels, and the first level of a factor without one."""
    return tuple(f.place(plan.control.get(f.key, "")) or 0 for f in plan.factors)


def record_of_extra(plan: Plan, extra: Extra) -> dict[str, Level]:
    """The whole record of a single treatment: the plan's usual record with its changes over it.

    A factor of the user's own says nothing about it unless it is stated: a fast epoxy has no viscosity of the PVA's.
    """
    own = {f.key for f in plan.factors if f.key not in FIELDS}
    cell = zip(plan.factors, base_cell(plan), strict=True)
    usual = {**plan.constants, **{f.key: f.levels[i] for f, i in cell if f.key not in own}}
    return resolved(plan, {**usual, **extra.changes}, [*(f.key for f in plan.factors), *extra.changes])


def records(plan: Plan) -> list[dict[str, Level]]:
    """The records of all joints that the plan makes: the grid, then the single treatments; before there are any, what
    is the same for all.
    """
    made = [record_of(plan, c) for c in cells(plan)] + [record_of_extra(plan, e) for e in plan.extras]
    return made if made or plan.factors else [resolved(plan, dict(plan.constants), [])]


def forms_of(plan: Plan) -> tuple[str, ...]:
    """The joint forms that the plan makes, each once, as its method can break them."""
    method = method_of(plan)
    made = records(plan) if all(f.levels for f in plan.factors) else []
    found = [method.form(level_text(r.get("form"))).key for r in made or [dict(plan.constants)]]
    return tuple(dict.fromkeys(found))


def sizes_of(plan: Plan, form: str, record: Mapping[str, Level]) -> dict[str, float]:
    """The sizes (mm) of a treatment's pieces: the plan's, over them those of its joint form, over them its own."""
    own = {k.removeprefix(SIZE): float(v.value) for k, v in record.items()
           if k.startswith(SIZE) and isinstance(v.value, float | int)}  # fmt: skip
    return {**plan.sizes, **plan.form_sizes.get(form, {}), **own}


def form_has_own(plan: Plan, forms: Container[str]) -> dict[str, tuple[Size, ...]]:
    """Where there are several joint forms, the sizes that each has for itself: the length of a spline is not that of
    the keys. The outer sizes are those of all.
    """
    method = method_of(plan)
    outer = {s.key for s in method.own_sizes} | {WIDTH.key, DEPTH.key, THICKNESS.key}
    found = {f: tuple(s for s in FORMS[f].sizes if s.key not in outer) for f in method.forms if f in forms}
    return found if len(found) > 1 else {}


def as_set(size: Size, mm: float, units: Units) -> float:
    """A usual size as it is set on a stop: whole sixteenths where the shop thinks in inches."""
    if size.dimension is not Dimension.LENGTH or units.symbol(Dimension.LENGTH) != "in":
        return mm
    return max(1, round(mm / SIXTEENTH_MM)) * SIXTEENTH_MM


def said_in_shop(level: Level, key: str, units: Units) -> Level:
    """A usual level as the shop says it: 30 psi and not 0.2 MPa, a round number of its own unit. Times stay."""
    dimension = FIELDS[key].dimension if key in FIELDS else None
    if dimension in (None, Dimension.TIME) or not isinstance(level.value, float | int):
        return level
    own = unit(units.symbol(dimension), dimension)
    if own.symbol == (level.unit or BASE[dimension]):
        return level
    return replace(level, value=own.to_base(float(f"{own.from_base(level.value):.1g}")), unit=own.symbol)


def in_shop_units(plan: Plan, units: Units) -> Plan:
    """A plan that begins, with its usual sizes as the shop sets them and its levels as it says them."""
    factors = tuple(replace(f, levels=tuple(said_in_shop(x, f.key, units) for x in f.levels)) for f in plan.factors)
    constants = {k: said_in_shop(x, k, units) for k, x in plan.constants.items()}
    known = {s.key: s for s in method_of(plan).sizes_for(able_forms(plan))}
    sizes = {k: as_set(known[k], v, units) if k in known else v for k, v in plan.sizes.items()}
    fine = SIXTEENTH_MM / 2 if units.symbol(Dimension.LENGTH) == "in" else plan.tolerance_mm
    return replace(plan, sizes=sizes, tolerance_mm=fine, factors=factors, constants=constants)


def completed(plan: Plan, units: Units = METRIC) -> Plan:
    """The plan with its levels in order, and the usual value of every size that is asked for and not stated."""
    if plan.method not in METHODS:
        return plan
    forms = able_forms(plan)
    usual = {s.key: as_set(s, s.nominal, units) for s in METHODS[plan.method].sizes_for(forms)}
    own = {f: sizes for f, sizes in plan.form_sizes.items() if f in forms}
    # A form that is left alone says its sizes where those of all are said.
    alone = own.pop(forms[0], {}) if len(forms) == 1 else {}
    return replace(
        plan,
        sizes={**usual, **plan.sizes, **alone},
        form_sizes=own,
        woods={name: w for name, w in plan.woods.items() if name in materials_of(plan)},
        factors=tuple(in_order(f) for f in plan.factors),
        solid_as_loaded=True,
    )


def materials_of(plan: Plan) -> set[str]:
    """Every species and other material that the plan names."""
    levels = [level for f in plan.factors if f.key in MATERIAL for level in f.levels]
    levels += [r[k] for r in (plan.constants, *(e.changes for e in plan.extras)) for k in MATERIAL if k in r]
    return {level.value for level in levels if isinstance(level.value, str)}


def able_forms(plan: Plan) -> tuple[str, ...]:
    """Those of the named joint forms that the method can break; the others are problems of the plan."""
    return tuple(f for f in wanted_forms(plan) if f in METHODS[plan.method].forms)


def wanted_forms(plan: Plan) -> tuple[str, ...]:
    """The joint forms that the plan names, whether its method can break them or not."""
    made = records(plan) if all(f.levels for f in plan.factors) else [plan.constants]
    return tuple(dict.fromkeys(text for r in made if (text := level_text(r.get("form"))) is not None))


def pieces_in_all(plan: Plan) -> int:
    """Number of pieces that a lock would make, spares and dummies included."""
    joints = sum(cell_count(plan, c) for c in cells(plan)) + sum(e.replicates for e in plan.extras)
    treated = len(cells(plan)) + len(plan.extras)
    solids = sum(s.count for s in solids_of(plan, records(plan)))
    return joints + solids + plan.spares * treated + plan.dummies


@dataclass(frozen=True)
class Solid:
    """A solid reference: its species, the direction it is loaded in ("" where that is no matter), and how many."""

    species: Level
    grain: str
    count: int


def solids_of(plan: Plan, joints: Sequence[Mapping[str, Level]]) -> list[Solid]:
    """The solid references of these joints: of every species, loaded in every way in which its joints are loaded."""
    method = method_of(plan)
    if not method.solid:
        return []
    wanted: dict[tuple[Level, str], None] = {}
    for r in joints:
        grain = method.loading_grain(form_of(plan, r), str(r["orientation"].value)) if "orientation" in r else None
        if grain is None or not plan.solid_as_loaded:
            grain = method.solid_grain
        if "species" in r:
            wanted[(r["species"], grain or "")] = None
    found = [Solid(level, grain, solid_count(plan, level, grain)) for level, grain in wanted]
    return [s for s in found if s.count]


def solid_key(plan: Plan, species: Level, grain: str) -> str:
    """How a solid reference is named in the plan: by its species, and by its grain where that is not the usual one."""
    turned = grain not in ("", method_of(plan).solid_grain)
    return f"{species.value}:{grain}" if turned else str(species.value)


def solid_count(plan: Plan, species: Level, grain: str) -> int:
    """How many solid pieces of a species, loaded in that direction, the plan makes."""
    return plan.solid_own.get(solid_key(plan, species, grain), plan.solid_reference)


def form_of(plan: Plan, record: Mapping[str, Level]) -> str:
    """The joint form of a record, as the plan's method can break it."""
    level = record.get("form")
    return method_of(plan).form(level.value if level is not None else None).key
