"""From a locked plan to treatments and specimens: codes, a random order to break them in, and full records."""

from __future__ import annotations

import random
from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, field, replace

from adhaero.core.grain import ACROSS, ALONG
from adhaero.core.parents import KINDS
from adhaero.core.plan.blocks import AT_BREAK, block_of
from adhaero.core.plan.codes import new_codes
from adhaero.core.plan.document import Extra, Level, Plan, level_name, method_of, treatment_name
from adhaero.core.plan.parents import dealt
from adhaero.core.plan.records import (
    SOLID_GRAIN,
    Solid,
    cell_count,
    cell_ids,
    cells,
    control_cell,
    form_of,
    is_in,
    record_of,
    record_of_extra,
    sizes_of,
    solid_key,
    solids_of,
)

SOLID, JOINT = "solid", "joint"
COUNTS, SPARE, DUMMY, TRIAL = "counts", "spare", "dummy", "trial"
"""What a piece is made for: to be counted; to take the place of a spoiled one; to fill a clamp; to learn the method."""


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


@dataclass(frozen=True)
class NewSpecimen:
    """A piece to be made: its code, its treatment (index), its number within it, its place in the random orders,
    its part, the number of the parent that it is made with, and its block.
    """

    code: str
    treatment: int
    replicate: int
    break_order: int
    glue_order: int
    part: str = COUNTS
    parent: int | None = None
    block: int | None = None


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


def specimens(plan: Plan, seed: int, taken: Container[str]) -> list[NewSpecimen]:
    """The pieces of a plan with codes not yet ``taken``, in treatment order.

    One shuffle of all pieces gives the order to break them in, another the order to glue them in, so that neither the
    day nor a tiring arm favours a treatment. The same seed gives the same codes and orders. Spares and dummies are
    glued among the others, and come last in the order to break. Pieces with a parent are glued one after the other;
    those on a backing board are broken so too.
    """
    planned = treatments(plan)
    slots = [(t, r + 1, COUNTS) for t, tr in enumerate(planned) for r in range(tr.replicates)]
    counted = len(slots)
    joints = [(t, tr.replicates) for t, tr in enumerate(planned) if tr.role == JOINT]
    slots += [(t, made + r + 1, SPARE) for t, made in joints for r in range(plan.spares)]
    slots += [(joints[0][0], joints[0][1] + plan.spares + r + 1, DUMMY) for r in range(plan.dummies)]
    with_parent = [i for i, (t, _, part) in enumerate(slots) if planned[t].role == JOINT and part != DUMMY]
    numbers = dealt(plan, planned, [slots[i][:2] for i in with_parent])
    parents: list[int | None] = [None] * len(slots)
    for i, number in zip(with_parent, numbers, strict=True):
        parents[i] = number
    codes = new_codes(len(slots), seed, taken)
    rng = random.Random(f"orders {seed}")
    sawn = plan.parents is not None and KINDS[plan.parents.kind].sawn
    b, each = plan.blocks, plan.parents.each if plan.parents else 1
    blocks = [None if part == DUMMY else block_of(b, r, each if planned[t].role == JOINT else 1)
              for t, r, part in slots]  # fmt: skip
    at_break = b is not None and b.kind in AT_BREAK
    breaking = _shuffled([None] * counted if sawn else parents[:counted], rng)
    break_order = _by_block(breaking, blocks[:counted]) if at_break else breaking
    gluing = _shuffled(parents, rng)
    glue_order = _by_block(gluing, blocks) if b is not None and not at_break else gluing
    break_order += range(counted + 1, len(slots) + 1)
    return [
        NewSpecimen(code, t, r, at_rig, glued, part, parent, block)
        for code, (t, r, part), at_rig, glued, parent, block in zip(
            codes, slots, break_order, glue_order, parents, blocks, strict=True
        )
    ]


def _by_block(order: Sequence[int], blocks: Sequence[int | None]) -> list[int]:
    """Places in an order, block after block; what has no block comes last."""
    ranked = sorted(range(len(order)), key=lambda i: (blocks[i] or 1000, order[i]))
    places = {i: n for n, i in enumerate(ranked, 1)}
    return [places[i] for i in range(len(order))]


def _shuffled(parents: Sequence[int | None], rng: random.Random) -> list[int]:
    """Places from 1 in random order; what has one parent stays together."""
    if not any(parents):
        order = list(range(1, len(parents) + 1))
        rng.shuffle(order)
        return order
    own: dict[object, list[int]] = {}
    for i, parent in enumerate(parents):
        own.setdefault((i,) if parent is None else parent, []).append(i)
    groups = list(own.values())
    rng.shuffle(groups)
    for group in groups:
        rng.shuffle(group)
    places = {i: n for n, i in enumerate((i for group in groups for i in group), 1)}
    return [places[i] for i in range(len(parents))]


def more_specimens(
    treatment: int, made: int, count: int, after: int, seed: int, taken: Container[str], each: int = 0, parents: int = 0
) -> list[NewSpecimen]:
    """Further pieces of one treatment, which has ``made`` so far: they come after the ``after`` pieces of the batch.

    Their order among themselves is random. That they come last is a departure that the record shows: the hour, the
    rig and the hand run along with it. Where ``each`` of them share a parent, they get new ones, numbered after the
    ``parents`` that there are: a panel that is glued gains no section.
    """
    codes = new_codes(count, seed, taken)
    places = list(range(1, count + 1))
    random.Random(f"more {seed}").shuffle(places)
    return [
        NewSpecimen(
            code,
            treatment,
            made + i,
            after + place,
            after + place,
            parent=parents + 1 + (i - 1) // each if each else None,
        )
        for i, (code, place) in enumerate(zip(codes, places, strict=True), 1)
    ]


def with_more(plan: Plan, t: Treatment, count: int) -> Plan:
    """The plan's document after ``count`` more pieces of a treatment were decided."""
    if t.cell is not None:
        rest = [(c, n) for c, n in plan.extra_replicates if not is_in(plan, t.cell, c)]
        return replace(plan, extra_replicates=(*rest, (cell_ids(plan, t.cell), t.replicates + count)))
    if t.role == SOLID:
        return replace(plan, solid_own={**plan.solid_own, t.id.removeprefix("solid:"): t.replicates + count})
    extras = tuple(replace(e, replicates=e.replicates + count) if e.id == t.id else e for e in plan.extras)
    return replace(plan, extras=extras)
