"""Strengths that are only bounds: intervals against closed forms, tests against enumeration, and what always holds."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from adhaero.core.statistics.censored import Bounds, competing, fit, one_group
from adhaero.core.statistics.censored_intervals import (
    FEW,
    family,
    intervals,
    median_interval,
    pooled,
    ratios,
    threshold,
)
from adhaero.core.statistics.censored_likelihood import highest, with_median
from adhaero.core.statistics.gehan import gehan

LOADS = st.floats(500, 5000)


def exact(values: list[float]) -> list[Bounds]:
    return [(v, v) for v in values]


def drawn(seed: int, n: int, median: float = 1000, scale: float = 0.15) -> list[float]:
    return [float(v) for v in np.exp(np.random.default_rng(seed).normal(math.log(median), scale, n))]


def test_with_exact_loads_the_calibrated_interval_is_that_of_t_on_logarithms() -> None:
    one, two = drawn(1, 6), drawn(2, 9, 1300)
    f = family([exact(one), exact(two)])
    got, interval = ratios(f, [(0, 1)])[0], intervals(f, [(0, 1)], [0.05])[0]
    a, b = np.log(one), np.log(two)
    scale = math.sqrt((5 * a.var(ddof=1) + 8 * b.var(ddof=1)) / 13 * (1 / 6 + 1 / 9))
    ends = [math.exp(a.mean() - b.mean() + side * stats.t.ppf(0.975, 13) * scale) for side in (-1, 1)]
    assert interval is not None
    assert got.ratio == pytest.approx(math.exp(a.mean() - b.mean()))
    assert (interval.low, interval.high) == pytest.approx(ends, rel=1e-5)
    assert got.p == pytest.approx(float(stats.ttest_ind(a, b).pvalue), rel=1e-4)
    over = pooled(f, [(0, 1)])
    assert over is not None
    assert (over.low, over.high, over.p) == pytest.approx((*ends, float(stats.ttest_ind(a, b).pvalue)), rel=1e-6)
    own = median_interval(exact(one), "lognormal")
    assert own is not None
    assert own.low == pytest.approx(math.exp(a.mean() - stats.t.ppf(0.975, 5) * a.std(ddof=1) / math.sqrt(6)), rel=1e-5)


def test_a_treatment_that_never_failed_is_better_by_its_bound_or_not_told() -> None:
    broke = exact(drawn(3, 6))
    held = [(low, math.inf) for low in drawn(4, 6, 2000)]
    f = family([broke, held])
    assert [(r.ratio, r.one_sided) for r in ratios(f, [(1, 0), (0, 1)])] == [(None, True), (None, True)]
    up, down = intervals(f, [(1, 0), (0, 1)], [0.05, 0.05])
    assert up is not None
    assert up.low > 1
    assert up.high == math.inf
    assert down is not None
    assert down.high == pytest.approx(1 / up.low, rel=1e-6)
    early = family([broke, [(low, math.inf) for low in drawn(4, 6, 500)]])
    below = intervals(early, [(1, 0)], [0.05])[0]
    assert below is not None
    assert below.low < 1
    both = family([held, held, broke])
    assert intervals(both, [(0, 1)], [0.05]) == [None]
    assert not ratios(both, [(0, 1)])[0].one_sided


def test_each_pair_of_many_has_the_interval_at_its_own_level() -> None:
    """Pairs of any places in a family of four, against each pair's interval alone at that level."""
    groups = [exact(drawn(s, 6, 1000 + 200 * s)) for s in range(4)]
    f, pairs = family(groups), [(0, 1), (3, 0), (2, 3), (1, 3), (3, 2)]
    alphas = [0.05, 0.01, 0.05, 0.02, 0.1]
    logs = [np.log([v for v, _ in g]) for g in groups]
    scale = math.sqrt(sum(5 * x.var(ddof=1) for x in logs) / 20)
    for (a, b), alpha, got, r in zip(pairs, alphas, intervals(f, pairs, alphas), ratios(f, pairs), strict=True):
        middle, half = logs[a].mean() - logs[b].mean(), stats.t.ppf(1 - alpha / 2, 20) * scale * math.sqrt(2 / 6)
        assert got is not None
        assert (got.low, got.high) == pytest.approx((math.exp(middle - half), math.exp(middle + half)), rel=1e-5)
        assert r.p == pytest.approx(2 * stats.t.sf(abs(middle) / scale / math.sqrt(2 / 6), 20), rel=1e-4)


def test_all_in_one_step_against_all_in_a_higher_one() -> None:
    """Weights in steps: no spread to fit, yet all of one broke below 35 kg and all of the other above 60 kg."""
    low, high = [(20.0, 35.0)] * 5, [(60.0, 70.0)] * 5
    assert fit(low).reason
    assert ratios(family([low, high]), [(0, 1)])[0].ratio is None
    found = gehan(low, high)
    assert found is not None
    assert found.exact
    assert found.p == pytest.approx(2 / math.comb(10, 5))
    assert found.score == -25


def test_gehan_without_bounds_is_the_rank_sum() -> None:
    one, two = drawn(5, 6), drawn(6, 7, 1150)
    found = gehan(exact(one), exact(two))
    assert found is not None
    assert found.p == pytest.approx(float(stats.mannwhitneyu(one, two, method="exact").pvalue))
    many = gehan(exact(drawn(7, 14)), exact(drawn(8, 14, 1100)))
    assert many is not None
    assert not many.exact
    wanted = float(stats.mannwhitneyu(drawn(7, 14), drawn(8, 14, 1100), method="exact").pvalue)
    assert many.p == pytest.approx(wanted, abs=0.015)
    assert gehan([(100.0, math.inf)], [(200.0, math.inf)]) is None


def test_wood_failures_lift_the_bond() -> None:
    """The truth is known: bonds of 1,000, wood of 950; the bond is found though most broke in the wood."""
    rng = np.random.default_rng(11)
    bond, wood = np.exp(rng.normal(math.log(1000), 0.15, 400)), np.exp(rng.normal(math.log(950), 0.1, 400))
    loads = [(float(v), float(v)) for v in np.minimum(bond, wood)]
    b, w = competing(loads, [bool(v) for v in bond < wood])
    assert np.mean(np.minimum(bond, wood)) < 930
    assert fit(b).fits["lognormal"].median == pytest.approx(1000, rel=0.03)
    assert fit(w).fits["lognormal"].median == pytest.approx(950, rel=0.03)
    assert fit([(v, math.inf) for v, _ in loads]).lowest == pytest.approx(min(v for v, _ in loads))


@settings(deadline=None, max_examples=40)
@given(st.lists(LOADS, min_size=4, max_size=8, unique=True), st.floats(1.01, 3))
def test_a_later_bound_never_lowers_the_median(values: list[float], by: float) -> None:
    """The same pieces, of which one held more than was thought: the estimate rises or stays."""
    values = sorted(values)
    data = [*exact(values[:-1]), (values[1], math.inf)]
    lifted = [*exact(values[:-1]), (values[1] * by, math.inf)]
    a, b = fit(data).fits["lognormal"].median, fit(lifted).fits["lognormal"].median
    assert b >= a * (1 - 1e-9)


@settings(deadline=None, max_examples=25)
@given(st.lists(LOADS, min_size=3, max_size=6, unique=True), st.lists(LOADS, min_size=3, max_size=6, unique=True),
       st.floats(0.001, 1000))  # fmt: skip
def test_a_unit_changes_no_ratio(one: list[float], two: list[float], unit: float) -> None:
    data = [exact(one[:-1]) + [(one[-1], math.inf)], exact(two)]
    scaled = [[(low * unit, high * unit) for low, high in own] for own in data]
    a, b = ratios(family(data), [(0, 1)])[0], ratios(family(scaled), [(0, 1)])[0]
    assert (a.ratio is None) == (b.ratio is None)
    if a.ratio is not None:
        assert b.ratio == pytest.approx(a.ratio, rel=1e-6)
        assert b.p == pytest.approx(a.p, abs=1e-6)


def test_two_failures_beside_bounds_have_a_wider_interval() -> None:
    """The likelihood may fall by a fifth more than with two failures alone, where the t interval is exact."""
    two = exact([980.0, 1100.0])
    alone = median_interval(two, "lognormal")
    logs = np.log([980.0, 1100.0])
    half = stats.t.ppf(0.975, 1) * logs.std(ddof=1) / math.sqrt(2)
    assert alone is not None
    assert (alone.low, alone.high) == pytest.approx(
        (math.exp(logs.mean() - half), math.exp(logs.mean() + half)), rel=1e-4
    )
    beside = [*two, (1000.0, math.inf)]
    found = median_interval(beside, "lognormal")
    assert found is not None
    p = one_group(beside)
    best = float(highest("lognormal", p, 1).loglik[0])
    allowed = FEW * threshold(float(stats.t.ppf(0.975, 1)), 2, 1)
    for end in (found.low, found.high):
        fallen = 2 * (best - float(with_median("lognormal", p, np.array([math.log(end)]))[0]))
        assert fallen == pytest.approx(allowed, rel=1e-3)
    three = median_interval([*exact([980.0, 1100.0, 1010.0]), (1000.0, math.inf)], "lognormal")
    assert three is not None
    assert three.high / three.low < found.high / found.low, "a third failure says more"
