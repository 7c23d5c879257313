"""Statistics by hand and by simulation, beside the reference cases."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.compare.reaching import crossing
from adhaero.core.statistics.curves import fit_curve
from adhaero.core.statistics.logrank import kaplan_meier
from adhaero.core.statistics.nested import components
from adhaero.core.statistics.outliers import grubbs
from adhaero.core.statistics.plateau import farthest
from adhaero.core.statistics.shares import fisher_overall
from adhaero.core.statistics.tolerance import lower_limit
from adhaero.core.statistics.trend import line


def test_the_walk_stops_at_the_first_that_fails() -> None:
    assert farthest([0.95, 0.5, 0.95, None, 0.95], 3, 0.1) == (2, 4)
    assert farthest([0.95, 0.92, None], 2, 0.1) == (0, None)
    assert farthest([None, 0.7], 0, 0.1) == (None, None)
    assert farthest([0.9, None], 1, 0.1) == (0, None), "the very limit still passes"


@settings(deadline=None, max_examples=60)
@given(st.lists(st.one_of(st.none(), st.floats(0, 2)), min_size=2, max_size=8), st.data())
def test_everything_on_the_way_has_passed(lows: list[float | None], data: st.DataObject) -> None:
    place = data.draw(st.integers(0, len(lows) - 1))
    before, after = farthest(lows, place, 0.1)
    for end, way in ((before, range(before or 0, place)), (after, range(place + 1, (after or 0) + 1))):
        if end is not None:
            assert all((low := lows[i]) is not None and low >= 0.9 for i in way)


def test_five_percent_pass_the_limit() -> None:
    """Ten pieces, mean 8.00, SD 0.90: factor 2.104, limit near 6.11."""
    values = np.linspace(-1, 1, 10)
    values = 8 + 0.9 * values / values.std(ddof=1)
    found = lower_limit(values.tolist())
    assert found is not None
    assert found.k == pytest.approx(2.104, abs=5e-4)
    assert found.limit == pytest.approx(6.11, abs=0.01)


def test_the_interval_of_the_time_to_90_covers_where_scatter_grows_with_strength() -> None:
    rng, hits = np.random.default_rng(3), 0
    times = np.repeat([0.25, 0.5, 1, 2, 4, 8], 6)
    for _ in range(120):
        loads = 4000 * (1 - np.exp(-times / 1.2)) * np.exp(rng.normal(0, 0.08, len(times)))
        fit = fit_curve("weibull", times.tolist(), loads.tolist())
        assert fit is not None
        ends = fit.reaches_interval()
        assert ends is not None
        hits += ends[0] <= 1.2 * math.log(10) <= ends[1]
    assert hits >= 120 * 0.95 - 7


def test_survival_by_hand() -> None:
    """Ten pieces: three fail on day 2, one is taken away whole on day 3, two fail on day 5."""
    times = [(2.0, True)] * 3 + [(3.0, False)] + [(5.0, True)] * 2 + [(9.0, False)] * 4
    early, late, beyond = kaplan_meier(times, [2, 5, 10])
    assert early.survival == pytest.approx(0.7)
    assert late.survival == pytest.approx(0.7 * 4 / 6)
    assert (beyond.survival, late.at_risk) == (None, 6)


def test_components_and_lines_and_tables_by_hand() -> None:
    found = components([1.0, 3, 5, 7], ["a", "a", "b", "b"])
    assert found is not None
    assert (found.ms_between, found.ms_within, found.n0) == (16, 2, 2)
    assert found.icc == pytest.approx(7 / 9)
    years = line([0, 0.5, 1, 1.5, 2], [9.8, 9.1, 8.6, 7.9, 7.4])
    assert years is not None
    assert years.slope == pytest.approx(-1.20)
    assert (years.ci_low, years.ci_high) == pytest.approx((-1.33, -1.07), abs=0.005)
    assert fisher_overall([(3, 3), (0, 3)]) == pytest.approx(0.1)
    far = grubbs([10, 10.2, 9.9, 10.1, 14])
    assert far is not None
    assert (far.suspect, far.outlier) == (4, True)


def test_where_joined_levels_reach_a_share() -> None:
    """55 % at 2 h and 85 % at 6 h: 80 % at 5.33 h by straight joins, at 5.00 h over log time."""
    assert crossing([2, 6], [55, 85], 80) == pytest.approx(5.333, abs=0.001)
    assert crossing([2, 6], [55, 85], 80, log=True) == pytest.approx(5.00, abs=0.005)
    assert crossing([2, 6], [85, 90], 80) == 2, "reached at the first already"
    assert crossing([2, 6], [55, 70], 80) is None, "nothing is drawn out beyond the data"
    assert crossing([0, 6], [55, 85], 80, log=True) is None
    assert crossing([1, 2, 3, 4], [10, 90, 20, 90], 80) == pytest.approx(1.875), "where it is reached first"


def test_a_slope_with_its_interval() -> None:
    """Months 0 to 24: -1.20 a year (-1.33 to -1.07)."""
    years = [0, 0.5, 1.0, 1.5, 2.0]
    found = line(years, [9.8, 9.1, 8.6, 7.9, 7.4])
    assert found is not None
    assert (found.slope, found.ci_low, found.ci_high) == (
        pytest.approx(-1.20), pytest.approx(-1.33, abs=0.005), pytest.approx(-1.07, abs=0.005),
    )  # fmt: skip
