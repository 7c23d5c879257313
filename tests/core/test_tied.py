"""Two studies tied by what both broke: against the closed form, and against what is true in simulated studies."""

from __future__ import annotations

import math

import numpy as np
import pytest

from adhaero.core.statistics.contrasts import Moments, log_ratio, moments
from adhaero.core.statistics.tied import tied


def test_four_means_by_hand() -> None:
    # n 5, 4, 6, 5; means 8, 10, 9, 12; sd 0.8, 1.2, 0.9, 0.6.
    sides = [
        Moments(5, 8.0, 0.64 / 5),
        Moments(4, 10.0, 1.44 / 4),
        Moments(6, 9.0, 0.81 / 6),
        Moments(5, 12.0, 0.36 / 5),
    ]
    found = tied(*sides)
    assert found is not None
    assert found.ratio == pytest.approx((8 / 10) / (9 / 12))
    parts = [0.01 / 5, 0.0144 / 4, 0.01 / 6, 0.0025 / 5]
    assert found.se == pytest.approx(math.sqrt(sum(parts)))
    assert found.df == pytest.approx(sum(parts) ** 2 / (parts[0] ** 2 / 4 + parts[1] ** 2 / 3 + parts[2] ** 2 / 5 +
                                                        parts[3] ** 2 / 4))  # fmt: skip


def test_a_reference_without_scatter_leaves_the_plain_ratio() -> None:
    """Where both references are the same number in every piece, the tie adds nothing but its ratio."""
    first, second = [7.1, 8.2, 8.9, 7.7], [9.4, 8.8, 10.1, 9.0]
    quiet = Moments(50, 10.0, 1e-18)
    plain, found = log_ratio(first, second), tied(moments(first), quiet, moments(second), quiet)
    assert plain is not None
    assert found is not None
    assert found.log_ratio == pytest.approx(plain.log_ratio)
    assert found.interval(0.95) == pytest.approx((plain.low, plain.high), rel=1e-6)


def test_nothing_is_told_of_two_pieces_or_of_nothing_borne() -> None:
    fine, few, none = moments([8.0, 9.0, 10.0]), moments([8.0, 9.0]), moments([0.0, 0.0, 0.0])
    assert tied(fine, few, fine, fine) is None
    assert tied(none, fine, fine, fine) is None


@pytest.mark.parametrize("n", [4, 8])
def test_it_covers_the_truth_where_one_rig_reads_a_fifth_more(n: int) -> None:
    """The second study's rig shows 1.2 times the load: untied ratios are wrong, tied ones cover in 93 to 97 %."""
    rng = np.random.default_rng(26 + n)
    truth, hit, untied = 0.8, 0, 0
    for _ in range(1500):
        first = 1.2 * 8 * rng.normal(1, 0.1, n)
        its_reference = 1.2 * 10 * rng.normal(1, 0.1, n)
        second, own_reference = 10 * rng.normal(1, 0.1, n), 10 * rng.normal(1, 0.1, n)
        found = tied(*(moments(list(map(float, x))) for x in (first, its_reference, second, own_reference)))
        plain = log_ratio(list(map(float, first)), list(map(float, second)))
        assert found is not None
        assert plain is not None
        low, high = found.interval(0.95)
        hit += low <= truth <= high
        untied += plain.low <= truth <= plain.high
    assert 0.93 <= hit / 1500 <= 0.975
    assert untied / 1500 < 0.6
