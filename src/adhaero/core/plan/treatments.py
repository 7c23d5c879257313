"""From a plan to its treatments: every combination of levels, the single ones, and solid references of their woods."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from adhaero.core.grain import ACROSS, ALONG
from adhaero.core.plan.document import Extra, Level, Plan, level_name, method_of, treatment_name
from adhaero.core.plan.records import (
    SOLID_GRAIN,
    Solid,
    cell_count,
    cell_ids,
    cells,
    control_cell,
    form_of,
    record_of,
    record_of_extra,
    sizes_of,
    solid_key,
    solids_of,
)

SOLID, JOINT = "solid", "joint"


@dataclass(frozen=True)
class Treatment:
    """One combination of levels, a single treatment, or a solid reference of one species.

    ``id`` names it in the plan for good, ``letter`` in short; ``changed`` are the fields outside the factors in which
    it differs from the plan's constants; ``sizes`` are those of its pieces, in mm.
    """

    id: str
    letter: str
    label: str
    role: str
    cell: tuple[int, ...] | None
    record: dict[str, Level]
    replicates: int
    is_control: bool
    control: str | None = None
    form: str = "lap"
    changed: tuple[str, ...] = ()
    sizes: Mapping[str, float] = field(default_factory=dict)


def letter(index: int) -> str:
    """A, B, ... Z, AA, AB, ..."""
    text = ""
    index += 1
    while index:
        index, rest = divmod(index - 1, 26)
        text = chr(65 + rest) + text
    return text


def other_species(record: Mapping[str, Level]) -> str:
    """Material of the second adherend: the first one's unless stated."""
    level = record.get("species_b")
    return str(level.value) if level is not None and level.value else str(record["species"].value)


def treatments(plan: Plan) -> list[Treatment]:
    """All treatments in grid order, the single ones, then a solid reference for every species among them (percentages
    need their own wood); after them what each amendment brought, in the same order.
    """
    grid = {cell: max((f.levels[c].late for f, c in zip(plan.factors, cell, strict=True)), default=0)
            for cell in cells(plan)}  # fmt: skip
    found: list[Treatment] = []
    for stage in sorted({0, *grid.values(), *(e.late for e in plan.extras)}):
        own = [cell for cell, late in grid.items() if late == stage]
        found += [_of_cell(plan, cell, len(found) + i) for i, cell in enumerate(own)]
        found += [_single(plan, e, len(found) + i) for i, e in enumerate(e for e in plan.extras if e.late == stage)]
        if stage == 0 or own:
            found += _new_solids(plan, found)
    return found


def _of_cell(plan: Plan, cell: tuple[int, ...], place: int) -> Treatment:
    names = [treatment_name(f, f.levels[c]) for f, c in zip(plan.factors, cell, strict=True)]
    record, is_control = record_of(plan, cell), cell == control_cell(plan)
    form = form_of(plan, record)
    return Treatment(
        id=_cell_id(plan, cell),
        letter=letter(place),
        label=" · ".join(names),
        role=JOINT,
        cell=cell,
        record=record,
        replicates=cell_count(plan, cell),
        is_control=is_control,
        control="standard" if is_control else None,
        form=form,
        changed=_off_constants(plan, record),
        sizes=sizes_of(plan, form, record),
    )


def _new_solids(plan: Plan, found: Sequence[Treatment]) -> list[Treatment]:
    """The solid references of the joints found so far that are not among them yet."""
    solids = solids_of(plan, [t.record for t in found if t.role == JOINT])
    both = {s.grain for s in solids} == {ALONG, ACROSS}
    usual = method_of(plan).solid_grain
    made = [_solid(plan, s, 0, tell=both or s.grain != usual) for s in solids]
    new = [t for t in made if t.id not in {x.id for x in found}]
    return [replace(t, letter=letter(len(found) + i)) for i, t in enumerate(new)]


def _solid(plan: Plan, s: Solid, place: int, *, tell: bool) -> Treatment:
    label = f"Solid {level_name('species', s.species).lower()}"
    record = {"species": s.species}
    if s.grain:
        label += f" {s.grain} the grain" if tell else ""
        record[SOLID_GRAIN] = Level(s.grain)
    return Treatment(
        f"solid:{solid_key(plan, s.species, s.grain)}",
        letter(place),
        label,
        SOLID,
        None,
        record,
        s.count,
        is_control=False,
        control="solid",
        changed=(SOLID_GRAIN,) if s.grain else (),
        sizes=plan.sizes,
    )


def _cell_id(plan: Plan, cell: tuple[int, ...]) -> str:
    return "+".join(f"{key}={level}" for key, level in cell_ids(plan, cell).items())


def _off_constants(plan: Plan, record: Mapping[str, Level]) -> tuple[str, ...]:
    """Fields that are no factor and yet not as they are for all: by the glue's label, or by what a word stands for."""
    varied = {f.key for f in plan.factors}
    return tuple(k for k, v in record.items() if k not in varied and v != plan.constants.get(k))


def _single(plan: Plan, e: Extra, place: int) -> Treatment:
    record = record_of_extra(plan, e)
    form, keys = form_of(plan, record), tuple(dict.fromkeys([*e.changes, *_off_constants(plan, record)]))
    return Treatment(e.id, letter(place), e.label, JOINT, None, record, e.replicates, False, e.control, form, keys,
                     sizes_of(plan, form, record))  # fmt: skip
