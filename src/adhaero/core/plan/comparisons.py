"""What a plan compares, told before the first break: sentences that the user sees, strikes out and adds to.

Of one factor every level is set against its control level, else (numbers) against the last one, else all against each
other. Of several factors each is compared so within every combination of the others, and pooled over them: a control
is a level of a factor, not a cell of the grid. A single treatment is set against the one that it differs least from.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import combinations

from adhaero.core.plan.document import AddedComparison, Asked, Factor, Level, Plan, treatment_name
from adhaero.core.plan.level_order import in_order
from adhaero.core.plan.treatments import JOINT, Treatment, treatments
from adhaero.core.refusal import Problems, Refusal

FACTOR, SINGLE, ADDED, SIDE = "factor", "single", "added", "side"
KEPT = "conditioning"
"""The factor whose comparisons are told as what is kept of the control level."""
LEAST_LEVELS = 3
"""Levels from which on numbers make an axis."""
FROM_THE_LEAST = ("gap_mm",)
"""Numeric factors whose lowest level is the sound one; of the others the highest is what the rest comes up to."""


@dataclass(frozen=True)
class Within:
    """Two treatments (by letter), the first set against the second, and the stratum that both are of."""

    first: str
    second: str
    stratum: str = ""


@dataclass(frozen=True)
class Contrast:
    """One level (or treatment) against another, in every stratum where both are made."""

    name: str
    first: str
    second: str
    pairs: tuple[Within, ...]


@dataclass(frozen=True)
class Family:
    """Comparisons that are one question, and are corrected together. ``of`` is the factor's key, ``kind`` factor,
    single, added or side; ``strata`` names what the comparisons are within; ``axis`` is whether the levels are numbers.
    """

    id: str
    kind: str
    sentence: str
    contrasts: tuple[Contrast, ...]
    of: str = ""
    strata: str = ""
    axis: bool = False
    every_pair: bool = False
    struck: bool = False

    @property
    def pairs(self) -> list[Within]:
        """All comparisons within strata."""
        return [p for c in self.contrasts for p in c.pairs]


@dataclass(frozen=True)
class _Grid:
    """The grid by the ids of its levels."""

    plan: Plan
    by_cell: Mapping[tuple[int, ...], Treatment] = field(default_factory=dict)


def families(plan: Plan, made: Sequence[Treatment] | None = None) -> list[Family]:
    """Every family that follows from the plan, those struck out too, and what was added. ``made`` are its treatments,
    where they are known; those that answer a side question of their own are left to it.
    """
    made = treatments(plan) if made is None else made
    aside = {i for q in plan.side_questions if not q.against for i in q.treatments}
    joints = [t for t in made if t.role == JOINT]
    grid = _Grid(plan, {t.cell: t for t in joints if t.cell is not None and t.id not in aside})
    found = [f for i, _ in enumerate(plan.factors) if (f := _of_factor(grid, i)) is not None]
    found += [f for t in joints if t.cell is None and t.id not in aside and (f := _single(grid, t)) is not None]
    by_id = {t.id: t for t in joints}
    if not plan.factors:
        found += _of_survey(plan, [t for t in joints if t.id not in aside])
    found += [f for q in plan.side_questions if (f := _aside(q, by_id)) is not None]
    found += [f for a in plan.compared.added if (f := _added(a, by_id)) is not None]
    return [replace(f, struck=f.id in plan.compared.struck) for f in found]


def is_axis(factor: Factor) -> bool:
    """Whether the levels of a factor are numbers, enough of them to make an axis."""
    numbers = [level for level in factor.levels if isinstance(level.value, float | int)]
    return len(numbers) == len(factor.levels) >= LEAST_LEVELS


def _of_factor(grid: _Grid, place: int) -> Family | None:
    """The levels of the factor at a place, within each combination of the others."""
    plan, factor = grid.plan, grid.plan.factors[place]
    key, axis = f"factor:{factor.key}", is_axis(factor)
    every = key in plan.compared.every_pair
    control = factor.place(plan.control.get(factor.key, ""))
    if control is None and axis and not every:
        rising = in_order(replace(factor, order="value")).levels
        control = factor.levels.index(rising[0 if factor.key in FROM_THE_LEAST else -1])
    against = None if every else control
    places = range(len(factor.levels))
    wanted = (
        [(b, a) for a, b in combinations(places, 2)]
        if against is None
        else [(i, against) for i in places if i != against]
    )
    by_level: dict[int, list[tuple[int, ...]]] = {}
    for cell in grid.by_cell:
        by_level.setdefault(cell[place], []).append(cell)
    contrasts = [c for a, b in wanted if (c := _contrast(grid, place, a, b, by_level.get(a, ()))).pairs]
    if not contrasts:
        return None
    others = [f.name.lower() for i, f in enumerate(plan.factors) if i != place and len(f.levels) > 1]
    within = f" within each {' and '.join(others)}" if others else ""
    if against is None:
        sentence = f"Compare all levels of {factor.name.lower()} with each other{within}"
    elif factor.key == KEPT:
        sentence = f"What is kept of {_name(factor, against)}{within}"
    else:
        names = [_name(factor, i) for i in places if i != against]
        told = " and ".join(names) if len(names) <= 2 else f"each level of {factor.name.lower()}"
        sentence = f"Compare {told} with {_name(factor, against)}{within}"
    return Family(key, FACTOR, sentence, tuple(contrasts), factor.key, " and ".join(others), axis, against is None)


def _contrast(grid: _Grid, place: int, first: int, second: int, cells: Sequence[tuple[int, ...]]) -> Contrast:
    """One level (by its place) against another in each of the ``cells`` of the first."""
    factors = grid.plan.factors
    pairs = []
    for cell in cells:
        t = grid.by_cell[cell]
        other = grid.by_cell.get((*cell[:place], second, *cell[place + 1 :]))
        if other is not None:
            rest = [(f, f.levels[c]) for i, (f, c) in enumerate(zip(factors, cell, strict=True)) if i != place]
            name = " · ".join(treatment_name(f, level) for f, level in rest if len(f.levels) > 1)
            pairs.append(Within(t.letter, other.letter, name))
    names = _name(factors[place], first), _name(factors[place], second)
    return Contrast(f"{names[0]} against {names[1]}", *names, tuple(pairs))


def _name(factor: Factor, place: int) -> str:
    return treatment_name(factor, factor.levels[place])


def _single(grid: _Grid, t: Treatment) -> Family | None:
    """A single treatment against the cell of the grid that it differs least from; of equals the control."""

    def off(other: Treatment) -> tuple[int, bool]:
        keys = {*t.record, *other.record}
        usual = Level(None)
        return sum(t.record.get(k, usual) != other.record.get(k, usual) for k in keys), not other.is_control

    near = min(grid.by_cell.values(), key=off, default=None)
    if near is None:
        return None
    contrast = Contrast(f"{t.label} against {near.label}", t.label, near.label, (Within(t.letter, near.letter),))
    return Family(f"single:{t.id}", SINGLE, f"Compare {t.label} with {near.label}", (contrast,))


def _of_survey(plan: Plan, own: Sequence[Treatment]) -> list[Family]:
    """The treatments of a survey: each against its control, without one each with every other."""
    key = "factor:treatment"
    control = None if key in plan.compared.every_pair else next((t for t in own if t.control is not None), None)
    pairs = [(t, control) for t in own if t is not control] if control else [(b, a) for a, b in combinations(own, 2)]
    if not pairs:
        return []
    contrasts = tuple(
        Contrast(f"{a.label} against {b.label}", a.label, b.label, (Within(a.letter, b.letter),)) for a, b in pairs
    )
    against = f"with {control.label}" if control else "with each other"
    sentence = f"Compare all treatments {against}"
    return [Family(key, FACTOR, sentence, contrasts, "treatment", every_pair=control is None)]


def _aside(q: Asked, by_id: Mapping[str, Treatment]) -> Family | None:
    """The treatments of a side question against its own control, else the plan's, else all against each other."""
    own = [by_id[i] for i in q.treatments if i in by_id]
    control = by_id.get(q.against) or next((t for t in by_id.values() if t.is_control), None)
    pairs = [(t, control) for t in own if t is not control] if control else [(b, a) for a, b in combinations(own, 2)]
    if not pairs:
        return None
    contrasts = tuple(
        Contrast(f"{a.label} against {b.label}", a.label, b.label, (Within(a.letter, b.letter),)) for a, b in pairs
    )
    against = f" (against {control.label})" if control else ""
    return Family(f"side:{q.id}", SIDE, f"{q.text}{against}", contrasts, every_pair=control is None)


def _added(a: AddedComparison, by_id: Mapping[str, Treatment]) -> Family | None:
    first, second = by_id.get(a.first), by_id.get(a.second)
    if first is None or second is None:
        return None
    contrast = Contrast(f"{first.label} against {second.label}", first.label, second.label,
                        (Within(first.letter, second.letter),))  # fmt: skip
    return Family(f"added:{a.id}", ADDED, f"Compare {first.label} with {second.label}", (contrast,))


def primary(found: Sequence[Family]) -> Family | None:
    """The family whose answer comes first: what is kept, where that is asked; else the first factor that is no mere
    wood, else whatever there is.
    """
    standing = [f for f in found if not f.struck]
    rank = {KEPT: 0, "species": 2}
    return min(standing, key=lambda f: (f.kind == SIDE, f.kind != FACTOR, rank.get(f.of, 1)), default=None)


def at_once(plan: Plan) -> int:
    """How many comparisons the largest family that stands makes, which is what planning allows for; at least 1, as long
    as the treatments cannot be made.
    """
    try:
        found = families(plan)
    except Refusal:
        return 1
    return max([1, *(len(f.pairs) for f in found if not f.struck)])


def check(plan: Plan, p: Problems) -> None:
    """Note in ``p`` added comparisons that compare nothing."""
    known = {t.id for t in treatments(plan)}
    for i, a in enumerate(plan.compared.added):
        place = f"compared.added.{i}"
        p.check({a.first, a.second} <= known, place, "an added comparison names a treatment that is not made",
                "Choose two that are.")  # fmt: skip
        p.check(a.first != a.second, place, "an added comparison sets a treatment against itself",
                "Choose another one.")  # fmt: skip
