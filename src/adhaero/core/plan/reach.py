"""What a number of pieces can show of what the plan compares."""

from __future__ import annotations

from dataclasses import dataclass

from adhaero.core.plan.comparisons import at_once
from adhaero.core.plan.document import Plan
from adhaero.core.plan.parents import units_of
from adhaero.core.plan.power import difference_curve, pieces_needed, smallest_difference

NUMBERS = (2, 3, 4, 5, 6, 8, 10, 12, 15, 20, 30)


@dataclass(frozen=True)
class Reach:
    """What a number of pieces can show; differences are fractions of the reference mean.

    ``one_pair`` is for a single comparison, ``planned`` for the largest family of comparisons of the plan, ``at_once``
    of them (Bonferroni). ``needed`` is the number for the difference that matters to the user, in that family.
    """

    n: int
    at_once: int
    one_pair: float | None
    planned: float | None
    needed: int | None
    curve: list[tuple[int, float]]


def reach(plan: Plan) -> Reach:
    """What the planned replicates can show at the assumed CV. Where several pieces of a treatment share a parent, the
    parents are counted: sections of one panel are no panels.
    """
    a, n, several = plan.assumptions, units_of(plan, plan.replicates), at_once(plan)
    needed = pieces_needed(a.matters, a.cv, a.alpha / several, a.power)
    return Reach(
        n=n,
        at_once=several,
        one_pair=smallest_difference(n, a.cv, a.alpha, a.power),
        planned=smallest_difference(n, a.cv, a.alpha / several, a.power),
        needed=None if needed is None else needed[0],
        curve=difference_curve(sorted({*NUMBERS, n}), a.cv, a.alpha / several, a.power),
    )
