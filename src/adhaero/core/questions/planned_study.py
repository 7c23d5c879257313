"""A plan as the study its questions will be asked of: its factors, and every piece still to break."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from adhaero.core.plan.document import Factor as Planned
from adhaero.core.plan.document import Level as PlannedLevel
from adhaero.core.plan.document import Plan, level_name
from adhaero.core.plan.treatments import Treatment
from adhaero.core.questions.study import TREATMENT, Cell, Factor, Level, Sample, Study


def asked_factors(plan: Plan) -> tuple[Planned, ...]:
    """Return the factors that questions can be about. A survey has none; there it is the treatment."""
    if plan.factors:
        return plan.factors
    return (Planned(TREATMENT, "Treatment", tuple(PlannedLevel(e.label, id=e.id) for e in plan.extras)),)


def control_of(plan: Plan, factor: str) -> str:
    """Return the id of the control level of a factor; in a survey, of the treatment that is the control."""
    if factor == TREATMENT and not plan.factors:
        return next((e.id for e in plan.extras if e.control is not None), "")
    return plan.control.get(factor, "")


def placed(plan: Plan, planned: Iterable[Treatment]) -> tuple[tuple[Factor, ...], dict[str, Mapping[str, str]]]:
    """Return the factors of a plan, and the levels of each joint by its letter. A single treatment beside the grid is a
    level of its own of the factor in which it differs, at the usual levels of the others.
    """
    if not plan.factors:
        (treatment,) = asked_factors(plan)
        made = tuple(_level(x.id, str(x.value), None) for x in treatment.levels)
        return (Factor(TREATMENT, treatment.name, made),), {t.letter: {TREATMENT: t.id} for t in planned
                                                            if t.role != "solid"}  # fmt: skip
    factors = {f.key: [_level(x.id, level_name(f.key, x), x.value) for x in f.levels] for f in plan.factors}
    found: dict[str, Mapping[str, str]] = {}
    for t in planned:
        if t.role != "solid":
            found[t.letter] = _levels(plan, t.cell, t.id, t.label, t.changed, factors)
    return tuple(Factor(f.key, f.name, tuple(factors[f.key]), f.key.startswith("gap")) for f in plan.factors), found


def study_of(plan: Plan, planned: Sequence[Treatment]) -> Study:
    """Return a plan as a study in which no piece is broken yet. Solid pieces are one sample for all joints."""
    factors, levels = placed(plan, planned)
    cells = tuple(Cell(levels[t.letter], unbroken=t.replicates) for t in planned if t.letter in levels)
    solid = [t for t in planned if t.role == "solid"]
    return Study(factors, cells, {"": Sample(unbroken=sum(t.replicates for t in solid))} if solid else {})


def _level(id_: str, text: str, value: object) -> Level:
    return Level(id_, text, float(value) if isinstance(value, float | int) else None)


def _levels(
    plan: Plan, cell: Sequence[int] | None, id_: str, label: str, changed: Sequence[str],
    factors: dict[str, list[Level]],
) -> dict[str, str]:  # fmt: skip
    if cell is not None:
        return {f.key: f.levels[i].id for f, i in zip(plan.factors, cell, strict=True)}
    own = next((f.key for f in plan.factors if f.key in changed), plan.factors[0].key)
    if all(x.id != id_ for x in factors[own]):
        factors[own].append(Level(id_, label))
    usual = {f.key: plan.control.get(f.key) or f.levels[0].id for f in plan.factors}
    return {**usual, own: id_}
