"""A fraction of a grid: which combinations to make where all of them are too many, and what is mixed up by it.

With two levels each the fraction is the regular one of the highest resolution that generators give (G. E. P. Box and
J. S. Hunter, Technometrics 3, 1961): further factors run along products of the others. Otherwise the combinations are
exchanged, one by one, for those that raise the determinant of the information about the main effects most (V. V.
Fedorov, Theory of Optimal Experiments, 1972), from several random starts.
"""

from __future__ import annotations

import random
from collections.abc import Iterator, Sequence
from itertools import combinations, product
from math import prod

import numpy as np
import numpy.typing as npt

Cell = tuple[int, ...]
Array = npt.NDArray[np.float64]
PARTS = {"half": 2, "third": 3, "quarter": 4}
"""Name of a fraction -> what the size of the grid is divided by."""
STARTS, ROUNDS = 2, 20
MOST_TRIED = 150
"""Combinations up to which every exchange is tried in each round; of more a random part."""


def fraction(levels: Sequence[int], part: int, seed: int = 1) -> list[Cell]:
    """Return the cells (places of levels) of ``1 / part`` of the grid, in grid order; ``[]`` where so few cells could
    not tell the main effects apart.
    """
    grid = list(product(*(range(n) for n in levels)))
    size = len(grid) // part
    if size < least(levels):
        return []
    regular = _regular(len(levels), part) if set(levels) == {2} else None
    return regular if regular is not None else _exchanged(grid, levels, size, seed)


def least(levels: Sequence[int]) -> int:
    """Return the fewest cells from which every main effect can be told."""
    return 1 + sum(n - 1 for n in levels)


def _regular(factors: int, part: int) -> list[Cell] | None:
    """The regular fraction with the longest shortest word; ``None`` where the part is no power of two."""
    words = {2: 1, 4: 2}.get(part)
    if words is None or factors < words + 3:
        return None
    free = factors - words
    generators = [g for n in range(free, 1, -1) for g in combinations(range(free), n)]
    best: tuple[int, int] = (0, 0)
    chosen: tuple[Cell, ...] = ()
    for own in combinations(generators, words):
        lengths = sorted(len(w) for w in _words(own, free))
        rank = (lengths[0], -lengths.count(lengths[0]))
        if rank > best:
            best, chosen = rank, own
    rows = []
    for base in product((0, 1), repeat=free):
        # With the first level for +1, the cell of all first levels is always made.
        rows.append((*base, *(sum(base[i] for i in g) % 2 for g in chosen)))
    return sorted(rows)


def _words(generators: Sequence[Cell], free: int) -> Iterator[frozenset[int]]:
    """The words of a regular fraction: products of factors that are the same in every cell."""
    own = [frozenset((*g, free + i)) for i, g in enumerate(generators)]
    for n in range(1, len(own) + 1):
        for several in combinations(own, n):
            word: frozenset[int] = frozenset()
            for w in several:
                word ^= w
            yield word


def _exchanged(grid: Sequence[Cell], levels: Sequence[int], size: int, seed: int) -> list[Cell]:
    x = _effects(grid, levels)
    rng = random.Random(f"fraction {seed}")
    best: tuple[float, list[int]] = (-np.inf, [])
    for _ in range(STARTS):
        chosen = sorted({0, *rng.sample(range(1, len(grid)), size - 1)})
        chosen, value = _improved(x, chosen, rng)
        if value > best[0]:
            best = value, chosen
    return [grid[i] for i in sorted(best[1])]


def _improved(x: Array, chosen: list[int], rng: random.Random) -> tuple[list[int], float]:
    """Exchange rows as long as the determinant rises; the first row (all first levels) stays."""
    ridge = 1e-6 * np.eye(x.shape[1])
    for _ in range(ROUNDS):
        changed = False
        others = [i for i in range(len(x)) if i not in chosen]
        for place in rng.sample(range(1, len(chosen)), len(chosen) - 1):
            tried = others if len(others) <= MOST_TRIED else rng.sample(others, MOST_TRIED)
            inverse = np.linalg.inv(x[chosen].T @ x[chosen] + ridge)
            out, new = x[chosen[place]], x[tried]
            # The determinant after one exchange, as a multiple (Fedorov's delta).
            d_out, d_new = float(out @ inverse @ out), np.einsum("ij,jk,ik->i", new, inverse, new)
            cross = new @ inverse @ out
            gain = (1 + d_new) * (1 - d_out) + cross**2
            at = int(gain.argmax())
            if gain[at] > 1 + 1e-9:
                others[others.index(tried[at])] = chosen[place]
                chosen[place] = tried[at]
                changed = True
        if not changed:
            break
    return chosen, float(np.linalg.slogdet(x[chosen].T @ x[chosen] + ridge)[1])


def _effects(cells: Sequence[Cell], levels: Sequence[int], together: int = 1) -> Array:
    """Columns of all effects of up to ``together`` factors: levels against the mean of all (sum contrasts)."""
    columns = [np.ones(len(cells))]
    for n in range(1, together + 1):
        for own in combinations(range(len(levels)), n):
            columns += [c for _, c in _columns(cells, levels, own)]
    return np.column_stack(columns)


def _columns(cells: Sequence[Cell], levels: Sequence[int], own: Sequence[int]) -> Iterator[tuple[Cell, Array]]:
    """The columns of one effect: products of sum contrasts of its factors."""
    for which in product(*(range(levels[f] - 1) for f in own)):
        column = np.ones(len(cells))
        for f, k in zip(own, which, strict=True):
            last = levels[f] - 1
            column *= [1.0 if c[f] == k else -1.0 if c[f] == last else 0.0 for c in cells]
        yield which, column


def mixed_up(cells: Sequence[Cell], levels: Sequence[int]) -> list[tuple[int, tuple[int, int]]]:
    """Return (factor, two others) where the cells that are made cannot tell the effect of the factor from what the two
    others do together, wholly or in part.
    """
    if not cells or len(cells) >= prod(levels):
        return []
    found = []
    for f in range(len(levels)):
        main = [_centred(c) for _, c in _columns(cells, levels, (f,))]
        for a, b in combinations([g for g in range(len(levels)) if g != f], 2):
            pair = [_centred(c) for _, c in _columns(cells, levels, (a, b))]
            if any(abs(float(m @ p)) > 0.5 for m in main for p in pair):
                found.append((f, (a, b)))
    return found


def held_apart(cells: Sequence[Cell], factors: int) -> list[int]:
    """Return the factors (by place) that no two of these cells differ in alone: their levels can be compared by a model
    of all factors only.
    """
    found = []
    for f in range(factors):
        others = [(*c[:f], *c[f + 1 :]) for c in cells]
        if cells and len(set(others)) == len(others):
            found.append(f)
    return found


def _centred(column: Array) -> Array:
    off = column - column.mean()
    size = float(np.linalg.norm(off))
    return np.asarray(off / size if size > 1e-9 else off)
