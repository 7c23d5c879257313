"""What a number of pieces takes: hours, wood, glue, money and time at the rig."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from adhaero.core.cut.blanks import Blank, blanks
from adhaero.core.joint_forms import FORMS
from adhaero.core.parents import KINDS, block_blanks, parent_blanks
from adhaero.core.plan.document import Plan
from adhaero.core.plan.parents import line_of, together
from adhaero.core.plan.treatments import SOLID, Treatment

WASTE = 1.35
"""Rough wood to finished blanks: kerf, planing and off-cuts; the layout on real boards says it exactly."""
GLUE_WASTE = 1.5


@dataclass(frozen=True)
class Cost:
    """Of ``n`` pieces of each treatment: number of pieces and blanks, hands-on hours, wood in dm3, glue in g, money."""

    n: int
    pieces: int
    blanks: int
    cut_h: float
    glue_h: float
    break_h: float
    wood_dm3: float
    glue_g: float
    money: float

    @property
    def hours(self) -> float:
        """Hands-on hours in all."""
        return self.cut_h + self.glue_h + self.break_h


def cost(plan: Plan, made: Sequence[Treatment]) -> Cost:
    """What the plan takes as it stands; ``made`` are its treatments."""
    c = plan.costs
    joints = [t for t in made if t.role != SOLID]
    # Spares and dummies are cut and glued, and not broken; dummies are like the first treatment's pieces.
    number = {t.id: t.replicates + (plan.spares if t.role != SOLID else 0) for t in made}
    if joints:
        number[joints[0].id] += plan.dummies
    of_one = together(plan, made)
    cut = [x for t in made for x in _cut(plan, t, number[t.id], of_one.get(t.id, 1))]
    count = round(sum(n for n, _ in cut))
    volume = WASTE * math.fsum(n * b.length_mm * b.width_mm * b.thickness_mm for n, b in cut)
    sawn = plan.parents is not None and KINDS[plan.parents.kind].sawn
    runs = {t.id: number[t.id] / (of_one[t.id] if sawn else 1) for t in joints}
    area = math.fsum(
        runs[t.id] * FORMS[t.form].glued_area_mm2(line_of(plan, t.sizes, of_one.get(t.id, 1))) for t in joints
    )
    glue_g = area * 1e-6 * c.spread_g_m2 * GLUE_WASTE
    broken = sum(t.replicates for t in made)
    return Cost(
        n=plan.replicates,
        pieces=sum(number.values()),
        blanks=count,
        cut_h=count * c.cut_s / 2 / 3600,
        glue_h=sum(runs.values()) * c.glue_s / 3600,
        break_h=broken * c.break_s / 3600,
        wood_dm3=volume * 1e-6,
        glue_g=glue_g,
        money=volume * 1e-9 * c.wood_per_m3 + glue_g / 1000 * c.glue_per_kg,
    )


def _cut(plan: Plan, t: Treatment, pieces: int, of_one: int) -> list[tuple[float, Blank]]:
    """(number, blank) of a treatment's pieces, with their share of the parents; ``of_one`` pieces come from one."""
    p = plan.parents
    if p is None or t.role == SOLID:
        return [(pieces, b) for b in blanks(plan.method, t.role, t.sizes, t.form, own=plan.blank_sizes)]
    of_parent = parent_blanks(p, of_one, plan.method, t.sizes, t.form)
    own = () if KINDS[p.kind].sawn else block_blanks(plan.method, t.sizes, t.form)
    return [*((pieces / of_one, b) for b in of_parent), *((pieces, b) for b in own)]


def costs(plan: Plan, made: Sequence[Treatment], counts: Sequence[int]) -> list[Cost]:
    """The same for other numbers of pieces of each treatment of the grid."""

    def with_each(n: int) -> list[Treatment]:
        return [t if t.cell is None else replace(t, replicates=n) for t in made]

    return [cost(replace(plan, replicates=n), with_each(n)) for n in counts]
