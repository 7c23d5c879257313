"""Glued areas of joint forms against figures worked out by hand, and what every form must hold."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.joint import Adherend, Face, adherends, pairing
from adhaero.core.joint_forms import FORMS
from adhaero.core.method import nominal_sizes
from adhaero.core.method_catalogue import METHODS


def test_six_dowels() -> None:
    """6 dowels of 9 mm, 22 mm deep per side: 3,732 mm2 per side."""
    sizes = {"inserts": 6, "dowel_diameter": 9, "insert_depth": 22}
    assert FORMS["dowelled"].glued_area_mm2(sizes) == pytest.approx(3732, abs=0.5)


def test_a_rebate_lists_its_faces_with_their_grain() -> None:
    """Faces of 20 x 90 and 10 x 90 mm: 2,700 mm2, the first one end grain."""
    faces = FORMS["rebate"].faces({"width": 90, "rebate_width": 20, "rebate_depth": 10})
    assert [(f.grain, f.area_mm2) for f in faces] == [("end", 1800), ("long", 900)]


def test_a_mitre_is_longer_than_the_board_is_thick() -> None:
    assert FORMS["mitre"].glued_area_mm2({"width": 100, "thickness": 20}) == pytest.approx(100 * 20 * math.sqrt(2))


def test_a_scarf_of_one_in_eight() -> None:
    area = FORMS["scarf"].glued_area_mm2({"width": 30, "depth": 10, "slope": 8})
    assert area == pytest.approx(30 * math.hypot(10, 80))


def test_fingers_have_two_flanks_each() -> None:
    sizes = {"width": 40, "depth": 20, "finger_length": 10, "finger_pitch": 4}
    assert FORMS["finger"].glued_area_mm2(sizes) == pytest.approx(10 * 2 * math.hypot(10, 2) * 20)


def test_a_tenon_has_cheeks_and_edges() -> None:
    faces = FORMS["mortise-tenon"].faces({"tenon_length": 30, "tenon_width": 40, "tenon_thickness": 8})
    assert [(f.name, f.area_mm2) for f in faces] == [("cheeks", 2400), ("edges", 480)]


def test_a_spline_adds_its_cheeks_and_takes_its_slot() -> None:
    plain = {"width": 80, "thickness": 20}
    sizes = {**plain, "spline_length": 80, "spline_depth": 8, "spline_thickness": 4}
    gained = FORMS["mitre-spline-across"].glued_area_mm2(sizes) - FORMS["mitre"].glued_area_mm2(plain)
    assert gained == pytest.approx(2 * 8 * 80 - 4 * 80)


def test_comb_and_dovetail_count_their_cheeks() -> None:
    comb = FORMS["comb"].faces({"width": 100, "thickness": 10, "pins": 10})
    assert comb[0].area_mm2 == 9 * 100
    tails = FORMS["dovetail"].faces({"width": 100, "thickness": 10, "tails": 4, "tail_slope": 7})
    assert tails[0].area_mm2 == pytest.approx(8 * 100 * math.hypot(1, 1 / 7))


def test_keys_take_their_slots_and_add_their_cheeks() -> None:
    """Two keys of 20 x 4 mm, 8 mm deep per side, in a mitre of 100 x 20 mm."""
    plain = {"width": 100, "thickness": 20}
    keys = {**plain, "keys": 2, "spline_length": 20, "spline_depth": 8, "spline_thickness": 4}
    gained = FORMS["mitre-key"].glued_area_mm2(keys) - FORMS["mitre"].glued_area_mm2(plain)
    assert gained == pytest.approx(2 * (2 * 8 * 20 - 4 * 20))
    bar = {**keys, "width": 30, "depth": 20}
    assert FORMS["sheet-key"].glued_area_mm2(bar) == pytest.approx(30 * 20 + 2 * (2 * 8 * 20 - 4 * 20))


def test_a_rebate_with_dowels_is_its_faces_less_the_holes_and_the_skin() -> None:
    """Faces 20 x 90 and 10 x 90 mm; three dowels of 6 mm, 25 mm deep."""
    sizes = {"width": 90, "rebate_width": 20, "rebate_depth": 10, "inserts": 3, "dowel_diameter": 6, "insert_depth": 25}
    area = FORMS["rebate-dowels"].glued_area_mm2(sizes)
    assert FORMS["rebate"].glued_area_mm2(sizes) == pytest.approx(2700)
    assert area == pytest.approx(2700 - 3 * math.pi * 9 + 3 * math.pi * 6 * 25)


def test_vs_side_by_side_are_fingers_of_that_pitch() -> None:
    vees = {"width": 40, "depth": 20, "vees": 4, "vee_length": 15}
    fingers = {"width": 40, "depth": 20, "finger_pitch": 10, "finger_length": 15}
    assert FORMS["vee"].glued_area_mm2(vees) == pytest.approx(FORMS["finger"].glued_area_mm2(fingers))
    a, _ = adherends("long-parallel", "ash", "ash", "vee", vees)
    assert a.angle_deg == pytest.approx(math.degrees(math.atan(15 / 5)))


def test_a_mitre_of_another_angle_is_cut_and_as_long_as_that() -> None:
    sizes = {"width": 50, "thickness": 20, "mitre_angle": 30}
    assert FORMS["mitre"].glued_area_mm2(sizes) == pytest.approx(1000 / math.cos(math.pi / 6))
    assert FORMS["mitre"].pressed_area_mm2(sizes) == pytest.approx(1000)
    a, b = adherends("end-end", "ash", "ash", "mitre", sizes)
    assert pairing(a, b) == "end at 30° to end at 30°"


def test_a_mitre_cannot_pass_for_end_to_end() -> None:
    a, b = adherends("end-end", "ash", "ash", "mitre")
    assert pairing(a, b) == "end at 45° to end at 45°"
    assert pairing(Adherend("ash", Face.END), Adherend("ash", Face.LONG)) == "long-end"


def test_a_scarf_is_cut_at_the_angle_of_its_slope() -> None:
    a, _ = adherends("long-parallel", "ash", "ash", "scarf", {"slope": 8})
    assert a.face is Face.ANGLE
    assert a.angle_deg == pytest.approx(82.875, abs=1e-3)


def test_metal_has_no_grain() -> None:
    wood, metal = adherends("long-parallel", "spruce", "steel")
    assert (wood.face, metal.face) == (Face.LONG, Face.NOT_WOOD)
    assert pairing(wood, metal) == "long-steel"


@given(st.sampled_from(sorted(FORMS)), st.floats(1.1, 3.0))
def test_area_grows_with_the_square_of_the_scale(form: str, scale: float) -> None:
    """All lengths times a factor: the area times its square; counts and slopes stay."""
    sizes = {s.key: s.nominal for s in FORMS[form].sizes}
    by = {"mm": scale, "mm²": scale**2}
    larger = {s.key: v * by.get(s.unit, 1) for s, v in zip(FORMS[form].sizes, sizes.values(), strict=True)}
    before, after = (FORMS[form].glued_area_mm2(s) for s in (sizes, larger))
    assert before > 0
    assert after == pytest.approx(before * scale**2)


@pytest.mark.parametrize("key", sorted(METHODS))
def test_every_method_breaks_only_forms_that_are_drawn_up(key: str) -> None:
    method = METHODS[key]
    assert set(method.forms) <= set(FORMS)
    keys = {s.key for s in method.sizes_for(method.forms)}
    assert method.working in keys
    assert set(method.figure_sizes) <= keys
    for form in method.forms:
        sizes = nominal_sizes(method, (form,))
        method.refuse_bad_sizes(sizes, forms=(form,))
        assert method.figure(1000, sizes) == pytest.approx(1000 * method.per_newton(sizes))
