"""Whole curves with known answers: straight lines, bends and drops whose figures follow by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.breaking.pace import Pace
from adhaero.core.breaking.signal import read_signal
from adhaero.core.breaking.trace import Course, course, course_from_json, extremes, moved

HZ = 100.0


def curve(
    points: list[tuple[float, float]], *, stiff: float | None = None, hz: float = HZ, noise: float = 0.0, seed: int = 1
) -> np.ndarray:
    """Rows through (s, N), straight between them, after a second of quiet; with travel where ``stiff`` (N/mm) is."""
    at, load = zip(*points, strict=True)
    t = np.arange(0, 1 + at[-1], 1 / hz)
    force = np.interp(t - 1, at, load, left=0.0)
    travel = force / stiff if stiff else np.full(len(t), math.nan)
    rng = np.random.default_rng(seed)
    return np.column_stack([t, force + 25 + rng.normal(0, noise, len(t)) if noise else force + 25, travel])


def read(rows: np.ndarray, **more: bool) -> Course:
    reading = read_signal(rows[:, 0], rows[:, 1], noise_floor_n=0.5)
    assert reading is not None
    found = course(rows, reading, **more)
    assert found is not None
    return found


BRITTLE = [(0, 0), (10, 2000), (10.01, 0), (11, 0)]


def test_a_straight_pull_to_a_brittle_break() -> None:
    """2,000 N in 10 s at 400 N/mm: 200 N/s, 5 mm, and half of 2,000 N times 5 mm in the area below."""
    c = read(curve(BRITTLE, stiff=400))
    assert c.marks["peak"].load_n == pytest.approx(2000, abs=3)
    assert c.figures.by_travel
    assert c.figures.stiffness == pytest.approx(400, rel=1e-3)
    assert c.figures.rate_n_s == pytest.approx(200, rel=0.01)
    assert c.figures.travel_rate_mm_s == pytest.approx(0.5, rel=0.01)
    assert c.figures.to_failure_s == pytest.approx(10, abs=0.05)
    assert c.figures.energy_j == pytest.approx(0.5 * 2000 * 5 / 1000, rel=0.01)
    assert c.figures.travel_mm == pytest.approx(5, rel=0.01)
    # Straight to the end: it leaves the line at its peak, and that is where it drops and parts.
    for mark in ("limit", "first_drop", "parting"):
        assert c.marks[mark].load_n == pytest.approx(2000, abs=25)


def test_without_travel_the_slope_is_by_time_and_there_is_no_energy() -> None:
    c = read(curve(BRITTLE))
    assert not c.figures.by_travel
    assert c.figures.stiffness == pytest.approx(200, rel=1e-3)
    assert c.figures.energy_j is None
    assert c.figures.travel_mm is None


def test_drops_before_the_peak_are_each_kept() -> None:
    """Drops at 1,200 and 1,750 N, and a peak of 2,010 N: three loads."""
    c = read(curve([(0, 0), (6, 1200), (6.1, 1000), (10, 1750), (10.1, 1400), (14, 2010), (14.02, 0), (15, 0)]))
    assert [round(d.load_n, -1) for d in c.drops] == [1200, 1750, 2010]
    assert c.marks["first_drop"].load_n == pytest.approx(1200, abs=4)
    assert c.marks["peak"].load_n == pytest.approx(2010, abs=4)


def test_the_load_leaves_its_straight_line_where_it_bends() -> None:
    """Up to 1,500 N straight, from there at a third of the slope."""
    c = read(curve([(0, 0), (7.5, 1500), (15, 2000), (15.01, 0), (16, 0)], stiff=None))
    assert c.marks["straight_to"].load_n == pytest.approx(1000, abs=10)
    # A fiftieth of the peak (40 N) short of the line: 40 N over the difference of the slopes, 0.3 s after the bend.
    assert c.marks["limit"].load_n == pytest.approx(1500 + 40 / (200 - 66.7) * 66.7, abs=8)


def test_slack_before_the_load_is_no_time_under_load() -> None:
    c = read(curve([(0, 0), (4, 30), (14, 2030), (14.01, 0), (15, 0)]))
    assert c.marks["start"].s == pytest.approx(1 + 4 - 0.15, abs=0.05)
    assert c.figures.to_failure_s == pytest.approx(10.15, abs=0.1)


def test_steps_after_the_peak_part_later() -> None:
    c = read(curve([(0, 0), (10, 2000), (10.1, 1500), (12, 1500), (12.1, 1200), (16, 1200), (16.02, 0), (17, 0)]))
    assert c.marks["peak"].load_n == pytest.approx(2000, abs=4)
    assert c.marks["parting"].load_n == pytest.approx(1200, abs=4)
    assert c.marks["parting"].s == pytest.approx(17.0, abs=0.15)


def test_a_load_that_stands_is_a_hold() -> None:
    c = read(curve([(0, 0), (5, 1000), (35, 1000), (35.01, 0), (36, 0)]))
    assert c.figures.hold_s == pytest.approx(30, abs=0.3)
    assert read(curve(BRITTLE)).figures.hold_s is None


def test_cycles_with_what_does_not_spring_back() -> None:
    """1,400 N and off, 1.8 mm stay; then 2,000 N to the break."""
    t = np.arange(0, 21, 0.01)
    load = np.interp(t, [1, 6, 10, 11, 18, 18.01], [0, 1400, 0, 0, 2000, 0])
    travel = np.interp(t, [1, 6, 10, 11, 18, 18.01, 21], [0, 7, 1.8, 1.8, 11.8, 12, 12])
    c = read(np.column_stack([t, load, travel]), in_cycles=True)
    assert len(c.cycles) == 1, "whether the last fall was a break is not in the curve"
    assert c.cycles[0].load_n == pytest.approx(1400, abs=4)
    assert (c.figures.to_failure_s, c.figures.rate_n_s) == (None, None), "it rose twice"
    assert c.cycles[0].residual_mm == pytest.approx(1.8, abs=0.3)
    assert c.marks["peak"].load_n == pytest.approx(2000, abs=4)


def test_marks_that_are_moved_take_their_figures_along() -> None:
    rows = curve(BRITTLE, stiff=400)
    reading = read_signal(rows[:, 0], rows[:, 1], noise_floor_n=0.5)
    assert reading is not None
    c = course(rows, reading)
    assert c is not None
    new = moved(rows, reading, c, {"peak": 6.0})
    assert new.marks["peak"].load_n == pytest.approx(1000, abs=3)
    assert new.figures.energy_j == pytest.approx(0.5 * 1000 * 2.5 / 1000, rel=0.02)
    assert new.marks["limit"] == c.marks["limit"]
    assert course_from_json(new.to_json()) == new


def test_spikes_have_no_part_in_the_figures() -> None:
    rows = curve(BRITTLE, stiff=400, noise=2.0)
    clean = read(rows).figures
    rows[[300, 420, 555], 1] += 4000
    spiky = read(rows).figures
    assert spiky.energy_j == pytest.approx(clean.energy_j, rel=1e-2)
    assert spiky.stiffness == pytest.approx(clean.stiffness, rel=5e-3)


def test_nothing_loaded_has_no_marks() -> None:
    rows = curve([(0, 0), (5, 0)], noise=2.0)
    reading = read_signal(rows[:, 0], rows[:, 1])
    assert reading is not None
    assert course(rows, reading) is None


@settings(deadline=None, max_examples=40)
@given(
    peak=st.floats(300, 9000), seconds=st.floats(2, 40), stiff=st.floats(50, 5000), scale=st.floats(0.2, 5),
    hz=st.sampled_from([40.0, 100.0, 400.0]),
)  # fmt: skip
def test_figures_follow_the_units(peak: float, seconds: float, stiff: float, scale: float, hz: float) -> None:
    """Twice the load on the same way is twice the energy and the stiffness; the times stay."""
    rows = curve([(0, 0), (seconds, peak), (seconds + 0.005, 0), (seconds + 1, 0)], stiff=stiff, hz=hz)
    more = rows * [1, scale, 1] + [0, 25 - 25 * scale, 0]
    a, b = read(rows).figures, read(more).figures
    assert a.energy_j == pytest.approx(peak**2 / stiff / 2000, rel=0.05)
    assert b.energy_j == pytest.approx(a.energy_j * scale, rel=0.02)
    assert b.stiffness == pytest.approx(a.stiffness * scale, rel=0.02)
    assert b.to_failure_s == pytest.approx(a.to_failure_s, rel=0.02, abs=0.03)


@given(st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=300), st.integers(4, 40))
def test_thinning_keeps_the_extremes(values: list[float], most: int) -> None:
    kept = extremes(np.array(values), most)
    assert max(values) == max(values[i] for i in kept)
    assert min(values) == min(values[i] for i in kept)
    assert list(kept) == sorted(set(kept.tolist()))


def test_a_pace_is_kept_or_missed() -> None:
    f = read(curve(BRITTLE)).figures
    assert Pace("time", 30, 90).missed(f) == "too fast"
    assert Pace("time", 5, 15).missed(f) == ""
    assert Pace("time", 1, 5).missed(f) == "too slow"
    assert Pace("force", 20, 80).missed(f) == "too fast"
    assert Pace("travel", 20, 80).missed(f) == ""
