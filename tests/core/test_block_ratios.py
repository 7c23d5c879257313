"""Ratios within blocks: against least squares done elsewhere, by simulation, and what must not matter."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.statistics.block_ratios import fieller, fit_blocks
from adhaero.core.statistics.blocked import blocked

A, B = [500.0, 620, 560, 700], [540.0, 655, 605, 740]
BOARDS = [1, 2, 3, 4] * 2


def exactly(values: list[float]) -> list[tuple[float, float]]:
    return [(v, v) for v in values]


def test_boards_out_of_a_small_difference() -> None:
    """Difference 40 with p below 0.001 by board; 7 % more."""
    fit = fit_blocks(exactly(A + B), [0] * 4 + [1] * 4, BOARDS)
    other = blocked(A + B, [0] * 4 + [1] * 4, BOARDS)
    assert fit is not None
    assert other is not None
    found = fit.ratio(1, 0)
    assert found.p == pytest.approx(other.differences[0].p, rel=1e-9)
    assert found.p < 0.001
    assert math.exp(found.value) == pytest.approx(635 / 595)
    low, high = found.interval(0.05)
    assert 1 < low < 635 / 595 < high
    assert fit.blocks_p == pytest.approx(other.blocks.p, rel=1e-9)


@settings(deadline=None, max_examples=60)
@given(st.integers(0, 10_000), st.floats(0.01, 0.2))
def test_the_interval_leaves_out_one_where_the_test_tells_apart(seed: int, alpha: float) -> None:
    rng = np.random.default_rng(seed)
    values = (100 * np.exp(rng.normal(0, 0.2, 12))).tolist()
    fit = fit_blocks(exactly(values), [0, 1, 2] * 4, [b for b in range(4) for _ in range(3)])
    assert fit is not None
    found = fit.ratio(1, 0)
    low, high = found.interval(alpha)
    assert (found.p < alpha) == (low > 1 or high < 1)


def test_bounds_are_bounds_within_blocks() -> None:
    """Bonds that differ by a fifth on boards that scatter by a third, in wood that breaks under a fifth of them."""
    rng, covered, fitted = np.random.default_rng(1), 0, 0
    for _ in range(250):
        board, data, treatments, boards = rng.normal(0, 0.3, 6), [], [], []
        for place, middle in enumerate((0.0, 0.2, 0.1)):
            for b in range(6):
                bond, wood = np.exp(board[b] + np.array([middle, 0.3]) + rng.normal(0, 0.15, 2))
                data.append((float(bond), float(bond)) if bond < wood else (float(wood), math.inf))
                treatments.append(place)
                boards.append(b)
        fit = fit_blocks(data, treatments, boards)
        if fit is not None:
            low, high = fit.ratio(1, 0).interval(0.05)
            fitted += 1
            covered += low <= math.exp(0.2) <= high
    assert fitted > 200
    assert 0.93 <= covered / fitted <= 0.995


def test_with_bounds_that_bound_nothing_it_is_least_squares_on_logarithms() -> None:
    """A bound far below everything changes next to nothing, and the rest follows the plain model of logarithms."""
    data = [*exactly(A + B), (1.0, math.inf)]
    fit = fit_blocks(data, [0] * 4 + [1] * 5, [*BOARDS, 4])
    by_hand = blocked([math.log(v) for v in A + B], [0] * 4 + [1] * 4, BOARDS)
    assert fit is not None
    assert by_hand is not None
    assert fit.ratio(1, 0).value == pytest.approx(-by_hand.differences[0].diff, rel=1e-4)
    assert fit.scatter == pytest.approx(by_hand.scatter, rel=1e-3)


def test_nothing_is_fitted_where_nothing_connects() -> None:
    assert fit_blocks(exactly([1, 2, 3, 4, 5, 6]), [0, 0, 0, 1, 1, 1], [1, 1, 2, 3, 3, 4]) is None
    assert fit_blocks(exactly(A), [0] * 4, [1, 1, 2, 2]) is None
    assert fit_blocks([], [], []) is None
    assert fit_blocks([(1.0, math.inf)] * 4 + exactly(A), [0] * 4 + [1] * 4, BOARDS) is None


def test_no_upper_end_against_what_is_not_told_from_nothing() -> None:
    assert fieller(10, 1, 1, 1, 0, 2) == (0.0, math.inf)
    low, high = fieller(10, 10, 0.01, 0.01, 0.0, 2)
    assert low == pytest.approx(1 / high)
