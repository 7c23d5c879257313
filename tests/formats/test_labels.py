"""2D codes of labels: a square with its three finders and quiet zone, different for every half."""

from __future__ import annotations

import re

import numpy as np

from adhaero.formats.labels import Symbol, symbol


def modules(s: Symbol) -> np.ndarray:
    """The path drawn on a grid."""
    grid = np.zeros((s.size, s.size), dtype=bool)
    for x, y, run in re.findall(r"M(\d+) (\d+)h(\d+)v1h-\d+z", s.path):
        grid[int(y), int(x) : int(x) + int(run)] = True
    return grid


FINDER = np.array([[c == "#" for c in row] for row in
                   ("#######", "#.....#", "#.###.#", "#.###.#", "#.###.#", "#.....#", "#######")])  # fmt: skip


def test_finders_and_quiet_zone() -> None:
    grid = modules(symbol("7GSF-A"))
    n = len(grid)
    assert n == 21 + 8
    for y, x in ((4, 4), (4, n - 11), (n - 11, 4)):
        assert (grid[y : y + 7, x : x + 7] == FINDER).all()
    assert not grid[:4].any()
    assert not grid[:, -4:].any()


def test_both_halves_differ() -> None:
    assert symbol("7GSF-A") != symbol("7GSF-B")
    assert symbol("7GSF-A") == symbol("7GSF-A")
