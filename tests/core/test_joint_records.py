"""What is told of a joint: checked part by part, and counted where it changes the area."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.glue.joint_records import KINDS, check, g_m2, holes_mm2, in_words, moved, relaxed
from adhaero.core.joint_forms import FORMS
from adhaero.core.refusal import Refusal


def test_a_shift_leaves_less_overlap():
    # 1.5 mm off on 30 mm of overlap, 25 mm wide: 28.5 x 25.
    sizes = moved({"overlap": 30.0, "width": 25.0}, {"along_mm": 1.5}, None)
    assert FORMS["lap"].glued_area_mm2(sizes) == pytest.approx(712.5)
    assert moved({"overlap": 30.0, "width": 25.0}, {"across_mm": 1.0}, None)["width"] == 24


def test_two_brads_take_their_holes():
    # Two holes of 1.2 mm: 2.26 mm2 of 750.
    value = {"count": 2, "diameter_mm": 1.2, "left": "left in"}
    assert holes_mm2(value) == pytest.approx(2.262, abs=1e-3)
    sizes = moved({"overlap": 30.0, "width": 25.0}, None, value)
    assert FORMS["lap"].glued_area_mm2(sizes) == pytest.approx(750 - 2.262, abs=1e-3)


def test_forms_that_do_not_slide_keep_their_area():
    sizes = {"width": 30.0, "depth": 20.0, "finger_length": 10.0, "finger_pitch": 4.0}
    assert moved(sizes, {"along_mm": 2}, None) == sizes


@given(st.floats(5, 150), st.floats(5, 600), st.floats(0, 100), st.floats(0, 100), st.integers(1, 9), st.floats(0.1, 3))
def test_what_is_out_of_place_never_adds_area(overlap, width, along, across, count, diameter):
    before = {"overlap": overlap, "width": width}
    after = moved(before, {"along_mm": along, "across_mm": across}, {"count": count, "diameter_mm": diameter})
    area = FORMS["lap"].glued_area_mm2
    assert 0 <= area(after) <= area(before)


def test_a_weighed_amount_per_area():
    assert g_m2(3.3, 15_000) == pytest.approx(220)
    assert in_words("amount", {"g": 3.3}, 15_000) == "weighed 3.3 g, 220 g/m²"
    assert in_words("amount", {"faces": "both", "word": "generous"}) == "both, generous, not weighed"


def test_a_clamp_relaxes():
    assert relaxed([900, 610]) == pytest.approx(0.3222, abs=1e-4)
    assert relaxed([900]) is None


@pytest.mark.parametrize(
    ("kind", "value", "field"),
    [
        ("colour", {"how": "red"}, "kind"),
        ("squeeze-out", {"how": "licked"}, "value.how"),
        ("squeeze-out", {}, "value"),
        ("place", {"where": "  "}, "value.where"),
        ("place", {"where": 7}, "value.where"),
        ("shift", {"along_mm": -2}, "value.along_mm"),
        ("shift", {"along_mm": math.nan}, "value.along_mm"),
        ("shift", {"along_mm": True}, "value.along_mm"),
        ("force", {"force_n": "900"}, "value.force_n"),
        ("force", {"kg": 3}, "value.kg"),
    ],
)
def test_what_cannot_be_is_refused_by_its_part(kind, value, field):
    with pytest.raises(Refusal) as refused:
        check(kind, value)
    assert field in [p.field for p in refused.value.problems]


def test_parts_left_empty_are_left_out():
    assert check("shift", {"along_mm": 1.5, "across_mm": None, "twist_deg": ""}) == {"along_mm": 1.5}


@pytest.mark.parametrize("kind", list(KINDS))
def test_every_kind_takes_each_of_its_parts(kind):
    for part in KINDS[kind].parts:
        for given_value in ("shelf A",) if part.words else part.choices or (part.low, part.high):
            assert check(kind, {part.key: given_value}) == {part.key: given_value}
            assert in_words(kind, {part.key: given_value})
