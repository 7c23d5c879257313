"""The common slope of a covariate within treatments, against the general linear model."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from adhaero.core.statistics.covariate import LEAST, common_slope

NUMBERS = st.floats(-100, 100).map(lambda x: round(x, 3))


def test_one_treatment_is_plain_regression() -> None:
    x = [620.0, 650, 655, 690, 700, 720, 735, 760]
    y = [9.1, 9.6, 9.4, 10.3, 10.1, 10.9, 10.6, 11.4]
    found = common_slope(y, [0] * 8, x)
    known = stats.linregress(x, y)
    assert found is not None
    assert found.df == 6
    assert found.slope == pytest.approx(known.slope)
    assert found.se == pytest.approx(known.stderr)
    assert found.p == pytest.approx(known.pvalue)
    assert found.means == [pytest.approx(np.mean(x))]


@settings(deadline=None, max_examples=60)
@given(st.lists(st.tuples(NUMBERS, st.integers(0, 2), NUMBERS), min_size=9, max_size=25))
def test_it_is_the_coefficient_of_the_general_linear_model(rows: list[tuple[float, int, float]]) -> None:
    rows = [*rows, *((float(t), t, float(10 * t)) for t in range(3))]
    y, t, x = (np.array(c, float) for c in zip(*rows, strict=True))
    design = np.column_stack([t == 0, t == 1, t == 2, x]).astype(float)
    found = common_slope(y.tolist(), t.astype(int).tolist(), x.tolist())
    if np.linalg.matrix_rank(design) < 4 or found is None:
        return
    beta = np.linalg.lstsq(design, y, rcond=None)[0]
    rest = y - design @ beta
    variance = rest @ rest / (len(y) - 4) * np.linalg.inv(design.T @ design)[3, 3]
    assert found.slope == pytest.approx(beta[3], rel=1e-6, abs=1e-8)
    assert found.se == pytest.approx(math.sqrt(variance), rel=1e-6, abs=1e-8)


def test_a_difference_between_treatments_alone_is_no_slope() -> None:
    # Each treatment has one density: what density does cannot be told from what the treatment does.
    assert common_slope([1.0, 2, 3, 4, 11, 12, 13, 14], [0] * 4 + [1] * 4, [600.0] * 4 + [700.0] * 4) is None


def test_few_pieces_have_none() -> None:
    n = LEAST - 1
    assert common_slope(range(n), [0] * n, range(n)) is None
    assert common_slope([], [], []) is None
