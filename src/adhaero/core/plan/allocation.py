"""Which piece comes from which board: boards are blocks, so that no board favours a treatment.

The counts form a table, treatments by boards, with given row sums (the pieces of a treatment) and column sums (the
places used on a board). Each cell is rounded up or down from its fair share, which always can be done: a table with
integral margins has a controlled rounding (Bacharach 1966; it is a transport problem, whose corners are integral). With
equal replicates a board then holds each treatment as often as any other, give or take one.
"""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

_EPS = 1e-9


def loads(capacities: Sequence[int], needed: int) -> list[int]:
    """Places to use on each board: as equal as the boards allow. ``ValueError`` when they cannot hold all."""
    if sum(capacities) < needed:
        raise ValueError("the boards cannot hold all pieces")
    used = [0] * len(capacities)
    left = needed
    order = sorted(range(len(capacities)), key=lambda b: capacities[b])
    for place, b in enumerate(order):
        share = -(-left // (len(order) - place))
        used[b] = min(capacities[b], share)
        left -= used[b]
    return used


def counts(pieces: Sequence[int], used: Sequence[int], rng: random.Random) -> list[list[int]]:
    """``counts[t][b]``: pieces of treatment t on board b; rows and columns sum to ``pieces`` and ``used``."""
    from scipy import optimize

    total = sum(pieces)
    rows, columns = len(pieces), len(used)
    if not total:
        return [[0] * columns for _ in pieces]
    fair = np.array([[p * u / total for u in used] for p in pieces])
    low, high = np.floor(fair + _EPS), np.ceil(fair - _EPS)
    margins = np.zeros((rows + columns, rows, columns))
    for t in range(rows):
        margins[t, t, :] = 1
    for b in range(columns):
        margins[rows + b, :, b] = 1
    found = optimize.linprog(
        np.array([rng.random() for _ in range(rows * columns)]),
        A_eq=margins.reshape(rows + columns, rows * columns),
        b_eq=np.array([*pieces, *used], dtype=float),
        bounds=list(zip(low.ravel().tolist(), high.ravel().tolist(), strict=True)),
    )
    assert found.x is not None, "a rounding always exists"
    return [[round(v) for v in row] for row in found.x.reshape(rows, columns)]


@dataclass(frozen=True)
class Balance:
    """How evenly the boards carry the treatments.

    ``worst`` is the largest difference between two treatments on one board beyond what their numbers make unavoidable
    (0: as balanced as can be). ``confounded``: every treatment has boards of its own.
    """

    worst: int
    confounded: bool


def balance(table: Sequence[Sequence[int]]) -> Balance:
    """The balance of a table of counts, found from the table alone."""
    total = sum(map(sum, table))
    used = [sum(column) for column in zip(*table, strict=True)]
    worst = 0
    for row in table:
        for x, u in zip(row, used, strict=True):
            fair = sum(row) * u / total if total else 0.0
            worst = max(worst, int(max(np.floor(fair + _EPS) - x, x - np.ceil(fair - _EPS), 0)))
    several = [t for t in table if sum(t)]
    shared = any(sum(c > 0 for c in column) > 1 for column in zip(*table, strict=True))
    return Balance(worst, len(several) > 1 and not shared)


def deal(table: Sequence[Sequence[int]], rng: random.Random) -> list[list[int]]:
    """For each board the treatments of its places, in random order."""
    dealt = []
    for column in zip(*table, strict=True):
        own = [t for t, count in enumerate(column) for _ in range(count)]
        rng.shuffle(own)
        dealt.append(own)
    return dealt
