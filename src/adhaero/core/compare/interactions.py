"""Two crossed factors: what each takes out given the other, and whether the effect of one depends on the other.

On logarithms, so that "depends" means by another ratio, not by another load; type II (statistics.factorial). With more
than two factors each two are judged within every combination of the others.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

from adhaero.core.compare.analysis import values_of
from adhaero.core.compare.data import listed, p_in_words
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import FamilyResult, Setting
from adhaero.core.statistics.factorial import factorial

MOST_STRATA = 6


@dataclass(frozen=True)
class Crossed:
    """A factor that is crossed with others: its key, its name, the names of its levels."""

    key: str
    name: str
    levels: tuple[str, ...]


@dataclass(frozen=True)
class Interaction:
    """Two factors (names) in a ``stratum`` of the others: p of each given the other and of their interaction."""

    first: str
    second: str
    stratum: str
    p_first: float
    p_second: float
    p_both: float | None
    text: str


def interactions(
    factors: Sequence[Crossed], cells: Mapping[str, Sequence[int]], s: Setting, results: Sequence[FamilyResult]
) -> list[Interaction]:
    """All of them; ``cells`` are the places of each treatment's levels (by letter), in the order of ``factors``.
    Treatments with bounds or without a figure above 0 have no logarithm: where one is among them nothing is said.
    """
    crossed = [i for i, f in enumerate(factors) if len(f.levels) > 1]
    found = []
    for a, b in combinations(crossed, 2):
        strata: dict[tuple[int, ...], list[str]] = {}
        for letter, cell in cells.items():
            rest = tuple(x for i, x in enumerate(cell) if i not in (a, b))
            strata.setdefault(rest, []).append(letter)
        if len(strata) > MOST_STRATA:
            continue
        others = [f for i, f in enumerate(factors) if i not in (a, b)]
        for rest, letters in strata.items():
            name = " · ".join(f.levels[x] for f, x in zip(others, rest, strict=True))
            one = _of_two(factors[a], factors[b], {x: (cells[x][a], cells[x][b]) for x in letters}, name, s, results)
            found += [one] if one else []
    return found


def _of_two(
    a: Crossed, b: Crossed, cells: Mapping[str, tuple[int, int]], stratum: str, s: Setting,
    results: Sequence[FamilyResult],
) -> Interaction | None:  # fmt: skip
    rows = [s.rows[x] for x in cells if x in s.rows]
    if not rows or any(r.summary.bounded for r in rows):
        return None
    values = [(v, cells[r.group.letter]) for r in rows for v in values_of(r.group, s.fallen_as_zero)]
    if not values or min(v for v, _ in values) <= 0:
        return None
    found = factorial([math.log(v) for v, _ in values], [i for _, (i, _) in values], [j for _, (_, j) in values])
    if found is None:
        return None
    p = found.interaction.p if found.interaction else None
    text = _in_words(a, b, cells, stratum, p, s, results, (found.a.p, found.b.p))
    return Interaction(a.name, b.name, stratum, found.a.p, found.b.p, p, text)


def _in_words(
    a: Crossed, b: Crossed, cells: Mapping[str, tuple[int, int]], stratum: str, p: float | None, s: Setting,
    results: Sequence[FamilyResult], alone: tuple[float, float],
) -> str:  # fmt: skip
    where = f"{stratum}: " if stratum else ""
    mains = f"{a.name} {p_in_words(alone[0])}, {b.name.lower()} {p_in_words(alone[1])}"
    if p is None:
        return f"{where}{mains}; whether one depends on the other is not tested."
    if p >= s.alpha:
        return f"{where}{mains}; that one depends on the other is not shown ({p_in_words(p)})."
    told = _where_it_matters(a, b, cells, results) or _where_it_matters(b, a, cells, results, turned=True)
    detail = f": {told}" if told else ""
    return f"{where}What {a.name.lower()} does depends on {b.name.lower()} ({p_in_words(p)}){detail}."


def _where_it_matters(
    a: Crossed, b: Crossed, cells: Mapping[str, tuple[int, int]], results: Sequence[FamilyResult], *,
    turned: bool = False,
) -> str:  # fmt: skip
    """On which levels of ``b`` something of ``a`` is told apart, and on which not: "it matters on oak, not on ash"."""
    family = next((r for r in results if r.family.of == a.key and r.family.kind == "factor"), None)
    if family is None:
        return ""
    ends: dict[int, list[Outcome]] = {}
    for j in family.comparisons:
        if j.first in cells and j.second in cells:
            ends.setdefault(cells[j.first][0 if turned else 1], []).append(j.outcome)
    apart = (Outcome.BETTER, Outcome.WORSE)
    yes = [b.levels[x] for x, own in sorted(ends.items()) if any(o in apart for o in own)]
    no = [b.levels[x] for x, own in sorted(ends.items()) if not any(o in apart for o in own)]
    if yes and no:
        return f"{a.name.lower()} matters on {listed(yes, 4)}, and is not shown to on {listed(no, 4)}"
    return f"{a.name.lower()} matters on each, but not alike" if yes else ""
