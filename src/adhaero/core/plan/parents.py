"""Which pieces of a plan share a parent, and whether a plan's parents can be made."""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Mapping, Sequence

from adhaero.core.parents import BACKING, KINDS, counted_pieces, kinds_for, line_sizes, needed_mm
from adhaero.core.plan.document import Plan
from adhaero.core.plan.fields import FIELDS, SIZE
from adhaero.core.plan.records import base_cell, cell_ids
from adhaero.core.plan.treatments import Treatment
from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Problems
from adhaero.core.units import Units

AFTER_THE_SAW = ("cure_s", "conditioning")
"""Fields that may differ between the sections of one panel: they begin when it is sawn."""
MOST_EACH, MOST_ON_ONE = 50, 200


def group_of(plan: Plan, t: Treatment) -> Hashable:
    """What the parents of a treatment have in common: all levels but those that vary within a parent."""
    assert plan.parents is not None
    within = plan.parents.within
    ids: dict[str, object] = dict(cell_ids(plan, t.cell if t.cell is not None else base_cell(plan)))
    if t.cell is None:
        own = next((e.changes for e in plan.extras if e.id == t.id), {})
        ids |= {key: (level.value, level.unit) for key, level in own.items()}
    return tuple(sorted((k, v) for k, v in ids.items() if k not in within))


def dealt(plan: Plan, planned: Sequence[Treatment], slots: Sequence[tuple[int, int]]) -> list[int | None]:
    """For every slot (treatment, replicate) of a joint the number of its parent, from 1; ``None`` without parents."""
    p = plan.parents
    if p is None:
        return [None] * len(slots)
    numbers: dict[Hashable, int] = {}
    found: list[int | None] = []
    for t, replicate in slots:
        key = group_of(plan, planned[t]), (replicate - 1) // p.each
        found.append(numbers.setdefault(key, len(numbers) + 1))
    return found


def together(plan: Plan, planned: Sequence[Treatment]) -> dict[str, int]:
    """How many pieces share a full parent, by the id of each treatment of joints; empty without parents."""
    p = plan.parents
    if p is None:
        return {}
    groups = {t.id: group_of(plan, t) for t in planned if t.role != "solid"}
    sizes = Counter(groups.values())
    return {t: p.each * sizes[own] for t, own in groups.items()}


def line_of(plan: Plan, sizes: Mapping[str, float], of_one: int) -> Mapping[str, float]:
    """The sizes of what is glued at once, of pieces of which ``of_one`` share a parent."""
    return sizes if plan.parents is None else line_sizes(plan.parents, of_one, plan.method, sizes)


def units_of(plan: Plan, pieces: int) -> int:
    """How many units so many pieces of a treatment are: whole parents, where a parent holds several of it."""
    return pieces if plan.parents is None else -(-pieces // plan.parents.each)


def check_parents(plan: Plan, planned: Sequence[Treatment], p: Problems, units: Units) -> None:
    """Every reason why the parents of a plan cannot be made."""
    made = plan.parents
    if made is None:
        return
    if not p.check(made.kind in kinds_for(plan.method), "parents.kind", "pieces of this test do not come from one",
                   "Make each piece on its own, or choose another method."):  # fmt: skip
        return
    kind = KINDS[made.kind]
    p.check(1 <= made.each <= MOST_EACH, "parents.each", f"a {kind.name.lower()} gives 1 to {MOST_EACH}",
            "Type how many are in one.")  # fmt: skip
    p.check(0 <= made.between_mm <= 500, "parents.between_mm", "the saw takes up to 500 mm between two",
            "A cut of the saw takes 3 mm.")  # fmt: skip
    stated = made.length_mm
    p.check(stated is None or 10 <= stated <= 8000, "parents.length_mm",
            f"a {kind.name.lower()} must be 10 to 8000 mm long", "Check its unit.")  # fmt: skip
    factors = {f.key: f.name for f in plan.factors}
    for key in made.within:
        if not p.check(key in factors, "parents.within", f"{key[:40]!r} does not differ", "Choose it again."):
            continue
        name, one = factors[key], kind.name.lower()
        if kind.sawn and key in FIELDS and key not in AFTER_THE_SAW:
            p.add("parents.within", f"a {one} is glued as one: its {kind.piece}s cannot differ in {name.lower()}",
                  "Only age, conditioning or something of your own may differ within it.")  # fmt: skip
        if made.kind == BACKING and (key == "species" or key.startswith(SIZE)):
            p.add("parents.within", f"one board has one {name.lower()}", "Let it differ from board to board.")
    if p.found:
        return
    of_one = together(plan, planned)
    for t in planned:
        if t.role == "solid":
            continue
        n = of_one[t.id]
        p.check(n <= MOST_ON_ONE, "parents.each", f"{n} pieces in one {kind.name.lower()} are too many", "Make less.")
        takes = needed_mm(made, n, plan.method, t.sizes)
        if stated is not None and stated < takes - 1e-6:
            said, wanted = (units.text(x, Dimension.LENGTH) for x in (stated, takes))
            p.add("parents.length_mm", f"{said} do not hold {counted_pieces(made.kind, n)}: they take {wanted}",
                  "Make it longer, or leave the length to the program.")  # fmt: skip
            return
