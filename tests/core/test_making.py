"""Machine settings and loose parts of joint forms, against geometry worked out by hand; no form without its size."""

from __future__ import annotations

import math

import pytest

from adhaero.core.cut.blanks import blanks
from adhaero.core.cut.making import Insert, inserts, settings
from adhaero.core.joint_forms import FORMS
from adhaero.core.quantity import Dimension
from adhaero.core.units import METRIC, Units

INCH = Units(((Dimension.LENGTH, "in"),))


@pytest.mark.parametrize(
    ("form", "sizes", "said"),
    [
        # tan 45° = 1: a half is longer by its thickness on the long side.
        (
            "mitre",
            {"width": 40, "thickness": 18, "mitre_angle": 45},
            "tilted 45°; the long side of a half is 18 mm",
        ),
        ("mitre", {"width": 40, "thickness": 20, "mitre_angle": 30}, "is 11.5 mm longer"),
        # atan(1/8) = 7.13°; 8 x 20 mm.
        ("scarf", {"width": 20, "depth": 20, "slope": 8}, "7.1° from the face, 160 mm long"),
        # Two Vs on 40 mm: 20 mm wide at the mouth, half of that over 40 mm of length: atan(10/40).
        ("vee", {"width": 40, "depth": 20, "vees": 2, "vee_length": 40}, "14.0° from the grain, 20 mm wide"),
        ("comb", {"width": 50, "thickness": 12, "pins": 5}, "5 pins and gaps, each 10 mm wide, 12 mm deep"),
        # atan(1/7) = 8.13°.
        ("dovetail", {"width": 60, "thickness": 15, "tails": 3, "tail_slope": 7}, "1 in 7: 8.1°, 15 mm deep"),
        ("dowelled", {"inserts": 2, "dowel_diameter": 8, "insert_depth": 25}, "2 holes of 8 mm, 27 mm deep"),
        ("mortise-tenon", {"tenon_length": 30, "tenon_width": 24, "tenon_thickness": 8}, "Mortise 8 mm x 24 mm, 32 mm"),
    ],
)
def test_what_is_set_follows_from_the_sizes(form: str, sizes: dict[str, float], said: str) -> None:
    assert said in " ".join(settings(form, sizes, METRIC))


def test_settings_are_in_the_units_of_the_shop() -> None:
    (text,) = settings("rebate", {"width": 50.8, "rebate_width": 25.4, "rebate_depth": 12.7}, INCH)
    assert text == "Rebate 1 in wide, 1/2 in deep."


def test_inserts_are_as_long_as_both_their_holes() -> None:
    assert inserts("dowelled", {"inserts": 3, "dowel_diameter": 8, "insert_depth": 25}) == [
        Insert("dowel", 3, 50, 0, 8)
    ]  # fmt: skip
    spline = {"width": 40, "thickness": 18, "spline_length": 40, "spline_depth": 6, "spline_thickness": 4}
    assert inserts("mitre-spline-across", spline) == [Insert("spline", 1, 40, 12, 4, "across")]
    assert inserts("mitre-key", {**spline, "keys": 2})[0].count == 2
    assert inserts("butt", {"width": 40, "depth": 20}) == []


@pytest.mark.parametrize("form", sorted(FORMS))
def test_every_form_can_be_made_from_its_own_usual_sizes(form: str) -> None:
    sizes = {s.key: float(s.nominal) for s in FORMS[form].sizes}
    for text in settings(form, {**sizes, "width": 40.0, "depth": 20.0, "thickness": 18.0}, METRIC):
        assert text.endswith(".")
        assert "nan" not in text
    assert all(math.isfinite(x.length_mm) and x.count > 0 for x in inserts(form, sizes))


def test_the_step_of_a_shear_block_is_set_as_its_overlap_is() -> None:
    def stop(overlap_mm: float) -> float:
        (a, _) = blanks("compression-shear", "joint", {"overlap": overlap_mm, "width": 20.0, "thickness": 20.0})
        return a.length_mm

    assert stop(25.0) == 31.0
    # An inch is an inch and a quarter at the stop, and five eighths are seven.
    assert stop(25.4) / 25.4 == pytest.approx(1.25)
    assert stop(25.4 * 5 / 8) / 25.4 == pytest.approx(7 / 8)
    (solid,) = blanks("compression-shear", "solid", {"overlap": 25.4, "width": 20.0, "thickness": 20.0})
    assert solid.length_mm / 25.4 == pytest.approx(1.5)
