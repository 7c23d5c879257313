"""The plan that a table of specimens bears out, where the table does not bring its own."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import product

from adhaero.core.method import nominal_sizes
from adhaero.core.method_catalogue import METHODS
from adhaero.core.parents import KINDS, Parents
from adhaero.core.plan import design
from adhaero.core.plan.checks import problems
from adhaero.core.plan.document import Extra, Factor, Level, Plan, first_plan, treatment_name
from adhaero.core.plan.fields import FIELDS, SIZE
from adhaero.core.quantity import BASE
from adhaero.core.quantity import unit as unit_of
from adhaero.core.refusal import Problems, Refusal, refuse
from adhaero.formats.specimen_csv import Row

MADE_TO_COUNT = ("", design.COUNTS, design.TRIAL)


def _level(key: str, value: str | float | None, unit: str) -> Level:
    known = FIELDS.get(key)
    if known is not None and known.dimension is not None:
        if isinstance(value, float) and unit:
            return Level(unit_of(unit, known.dimension).to_base(value), unit)
        return Level(value, BASE[known.dimension])
    return Level(value, unit)


def _stated(r: Row) -> dict[str, Level]:
    """What the columns of a row say about the fields of the record; empty cells say nothing."""
    cells: dict[str, str | float | None] = {
        "species": r.species_a, "orientation": r.orientation, "glue": r.glue, "prep": r.prep,
        "pressure_mpa": r.planned_pressure_mpa, "clamp_s": r.planned_clamp_s, "cure_s": r.planned_cure_s,
    }  # fmt: skip
    return {k: _level(k, None if v == "none" else v, "") for k, v in cells.items() if v not in (None, "")}


def plan_of_rows(rows: Sequence[Row], factors: Sequence[tuple[str, str, str]]) -> Plan:
    """The plan that the rows bear out. ``Refusal`` if they make none.

    Rows whose label follows from their factor columns make the grid, of which cells without a row were dropped; other
    joints are single treatments.
    """
    joints = [r for r in rows if r.role == "joint"]
    if not joints:
        raise refuse("file", "there is no joint in it, only solid pieces", "Add the joints.")
    of = {r.code: {k: _level(k, *v) for k, v in r.factors.items()} for r in joints}

    def label(r: Row, keys: Sequence[tuple[str, str, str]]) -> str:
        return " · ".join(treatment_name(Factor(k, n, ()), of[r.code][k]) for k, n, _ in keys if k in of[r.code])

    def level_of(r: Row, key: str) -> Level:
        return of[r.code].get(key, Level(None))

    varied = [f for f in factors if len({of[r.code][f[0]] for r in joints if f[0] in of[r.code]}) > 1] or list(factors)
    grid = [r for r in joints if r.treatment_label == label(r, varied)] or joints
    varied = [f for f in varied if len({of[r.code].get(f[0]) for r in grid}) > 1] or varied
    grid = [r for r in joints if r.treatment_label == label(r, varied)] or joints
    levels = {k: list(dict.fromkeys(level_of(r, k) for r in grid)) for k, _, _ in varied}
    first, base = grid[0], first_plan()
    constants = {k: v for k, v in _stated(first).items() if k not in levels}
    constants |= {k: v for k, v in of[first.code].items() if k not in levels}
    constants = {**{k: v for k, v in base.constants.items() if k not in levels}, **constants}
    counts = Counter(r.treatment_label for r in rows if r.part in MADE_TO_COUNT)
    cells = {tuple(levels[k].index(level_of(r, k)) for k, _, _ in varied): counts[r.treatment_label] for r in grid}
    every = list(product(*(range(len(v)) for v in levels.values())))
    usual = Counter(cells.values()).most_common(1)[0][0]
    chosen = next((of[r.code] for r in grid if r.control), None)
    singles = {r.treatment_label: r for r in joints if r.treatment_label not in {g.treatment_label for g in grid}}
    p = Problems()
    for r in singles.values():
        same = all(any(of[r.code].get(k) == level for level in levels[k]) for k in levels)
        p.check(
            not same or set(_changes(r, of[r.code], constants, levels)) - set(levels) != set(),
            f"row {r.number}: treatment_label", f"{r.treatment_label!r} does not follow from the factor columns",
            "Make label and factor columns agree.",
        )  # fmt: skip
    p.raise_if_any()
    if first.method and first.method not in METHODS:
        raise refuse(f"row {first.number}: method", f"{first.method!r} is not a test method", "Write its key.")
    method = METHODS[first.method or base.method]
    made = tuple(Factor(k, n, tuple(levels[k])) for k, n, _ in varied)

    def named(places: Sequence[int]) -> dict[str, str]:
        return {f.key: f.levels[i].id for f, i in zip(made, places, strict=True)}

    plan = replace(
        base,
        question=first.question or f"Imported: {first.batch}",
        target=first.target or "joint",
        method=method.key,
        sizes=nominal_sizes(method, method.forms, first.nominal),
        form_sizes=_form_sizes(joints, of, first.nominal),
        area_source="as stated in the file" if any("free_area" in r.nominal for r in joints) else "",
        factors=made,
        constants=constants,
        replicates=usual,
        control=named([levels[k].index(chosen.get(k, Level(None))) for k, _, _ in varied])
        if chosen is not None
        else {},
        dropped=tuple(named(c) for c in every if c not in cells),
        extra_replicates=tuple((named(c), n) for c, n in cells.items() if n != usual),
        parents=_parents(joints, of, list(levels)),
        extras=tuple(
            Extra(name, _changes(r, of[r.code], constants, levels), counts[name], r.control or None)
            for name, r in singles.items()
        ),
        solid_reference=max((counts[r.treatment_label] for r in rows if r.role == "solid"), default=0),
    )
    wrong = problems(plan)
    if wrong:
        raise Refusal(wrong)
    return plan


def _parents(joints: Sequence[Row], of: dict[str, dict[str, Level]], keys: Sequence[str]) -> Parents | None:
    """How pieces were made together: the factors that vary within one parent, and how many of a treatment are in it."""
    own: dict[str, list[Row]] = {}
    for r in joints:
        if r.parent:
            own.setdefault(r.parent, []).append(r)
    if not own:
        return None
    kind = next(r.parent_kind for r in joints if r.parent)
    within = [k for k in keys if any(len({of[r.code].get(k) for r in rows}) > 1 for rows in own.values())]
    each = max(max(Counter(r.treatment_label for r in rows).values()) for rows in own.values())
    return Parents(kind, each, tuple(within), None, KINDS[kind].between_mm)


def _form_sizes(
    joints: Sequence[Row], of: dict[str, dict[str, Level]], usual: Mapping[str, float]
) -> dict[str, dict[str, float]]:
    """The sizes that pieces of a joint form have for themselves: not those that have a column of their own."""
    found: dict[str, dict[str, float]] = {}
    for r in joints:
        form = of[r.code].get("form")
        if form is not None and isinstance(form.value, str):
            own = {k: v for k, v in r.nominal.items() if v != usual.get(k, v) and SIZE + k not in of[r.code]}
            found.setdefault(form.value, own)
    return {form: own for form, own in found.items() if own}


def _changes(
    r: Row, own: dict[str, Level], constants: dict[str, Level], levels: dict[str, list[Level]]
) -> dict[str, Level]:
    """In what a single treatment differs from the constants of the plan."""
    stated = {k: v for k, v in _stated(r).items() if k not in levels}
    return {k: v for k, v in {**stated, **own}.items() if constants.get(k) != v}
