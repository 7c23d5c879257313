"""From a locked plan to its specimens: codes, what they are made for, and random orders to glue and break them in."""

from __future__ import annotations

import random
from collections.abc import Container, Sequence
from dataclasses import dataclass, replace

from adhaero.core.parents import KINDS
from adhaero.core.plan.blocks import AT_BREAK, block_of
from adhaero.core.plan.codes import new_codes
from adhaero.core.plan.document import Plan
from adhaero.core.plan.parents import dealt
from adhaero.core.plan.records import cell_ids, is_in
from adhaero.core.plan.treatments import JOINT, SOLID, Treatment, treatments

COUNTS, SPARE, DUMMY, TRIAL = "counts", "spare", "dummy", "trial"
"""What a piece is made for: to be counted; to take the place of a spoiled one; to fill a clamp; to learn the method."""


@dataclass(frozen=True)
class NewSpecimen:
    """A piece to be made: its code, its treatment (index), its number within it, its place in the random orders,
    its part, the number of the parent that it is made with, its block, and the name that its owner gave it.
    """

    code: str
    treatment: int
    replicate: int
    break_order: int
    glue_order: int
    part: str = COUNTS
    parent: int | None = None
    block: int | None = None
    name: str = ""


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
