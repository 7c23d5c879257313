"""Clamps along a line and joints under one head, against hand-computed cases."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.glue.clamping import caul_for, clamps_along, force_n, pressure_mpa, side_by_side, spacing_mm


def test_two_clamps_on_35_square_centimetres():
    assert pressure_mpa(2 * 2800, 3500) == pytest.approx(1.6)
    assert pressure_mpa(2 * 2800, 7000) == pytest.approx(0.8)
    assert force_n(1.6, 3500, clamps=2) == pytest.approx(2800)


def test_a_weight_over_three_joints_presses_all_alike():
    # 58.84 N (6 kg) over 500, 500 and 200 mm2: 58.84 / 1200 on each of them.
    assert side_by_side(58.84, [500, 500, 200]) == pytest.approx([0.04903] * 3, abs=1e-5)


def test_the_spacing_along_an_edge():
    # Boards 60 mm wide: a clamp every 120 mm; 600 mm want five. A caul of 40 mm: every 200 mm, three.
    assert spacing_mm(60) == 120
    assert clamps_along(600, 60) == 5
    assert clamps_along(600, 60, caul_mm=40) == 3
    assert clamps_along(601, 60) == 6
    assert clamps_along(20, 60) == 1


def test_the_caul_that_saves_clamps():
    # Three clamps on 600 mm stand 200 apart: 100 deep, of which the board gives 60.
    assert caul_for(600, 60, 3) == 40
    assert caul_for(600, 60, 5) == 0


@given(st.floats(1, 3000), st.floats(1, 300), st.floats(0, 100))
def test_that_many_clamps_press_the_line_and_one_less_does_not(length, depth, caul):
    n = clamps_along(length, depth, caul)
    assert n * spacing_mm(depth, caul) >= length * (1 - 1e-6)
    assert n == 1 or (n - 1) * spacing_mm(depth, caul) < length


@given(st.floats(1, 3000), st.floats(1, 300), st.integers(1, 12))
def test_with_its_caul_the_clamps_are_enough(length, depth, clamps):
    assert clamps_along(length, depth, caul_for(length, depth, clamps) * (1 + 1e-9)) <= clamps


@given(st.floats(1, 1e5), st.lists(st.floats(1, 1e4), min_size=1, max_size=9))
def test_shared_force_is_all_of_the_force(force, areas):
    assert math.fsum(p * a for p, a in zip(side_by_side(force, areas), areas, strict=True)) == pytest.approx(force)
