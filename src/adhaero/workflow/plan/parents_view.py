"""The parents of a plan in words: how many, of what length, from which strips."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from adhaero.core.parents import KINDS, counted_pieces, kinds_for, length_mm, parent_blanks
from adhaero.core.plan import design
from adhaero.core.plan.document import Plan, method_of
from adhaero.core.plan.parents import together
from adhaero.core.plan.treatments import JOINT, Treatment
from adhaero.core.quantity import Dimension
from adhaero.core.units import Units


@dataclass(frozen=True)
class ParentKind:
    """A kind of parent that pieces of a test can come from: its name, what its pieces are called, whether it is sawn
    after gluing.
    """

    key: str
    name: str
    piece: str
    sawn: bool
    between_mm: float


@dataclass(frozen=True)
class ParentsView:
    """How many parents the plan makes, and what they are in words."""

    count: int
    words: str


def parent_kinds(method: str) -> list[ParentKind]:
    """The kinds of parents for a method."""
    found = [(key, KINDS[key]) for key in kinds_for(method)]
    return [ParentKind(key, k.name, k.piece, k.sawn, k.between_mm) for key, k in found]


def parents_view(plan: Plan, made: Sequence[Treatment], units: Units) -> ParentsView | None:
    """The parents of a plan without problems; those of its first treatment stand for all."""
    p = plan.parents
    if p is None:
        return None
    kind = KINDS[p.kind]
    count = len({s.parent for s in design.specimens(plan, 0, ()) if s.parent is not None})
    t = next(t for t in made if t.role == JOINT)
    n = together(plan, made)[t.id]
    loaded = method_of(plan).loading(t.form, str(t.record["orientation"].value)) or ()
    cut = parent_blanks(p, n, plan.method, t.sizes, t.form, loaded)[0]
    sizes = " x ".join(units.text(x, Dimension.LENGTH) for x in (cut.length_mm, cut.width_mm, cut.thickness_mm))
    long = units.text(length_mm(p, n, plan.method, t.sizes), Dimension.LENGTH)
    name = kind.name.lower() + "s" * (count != 1)
    each = f"glued from two strips of {sizes}" if kind.sawn else f"a board of {sizes}"
    return ParentsView(count, f"{count} {name} of {counted_pieces(p.kind, n)}, {long} long, each {each}")
