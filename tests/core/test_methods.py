"""Figures of merit against loads worked out by hand."""

from __future__ import annotations

import math
from dataclasses import replace
from datetime import UTC, datetime

import pytest

from adhaero.core.breaking.instrument import Calibration, Instrument
from adhaero.core.cut.blanks import blanks
from adhaero.core.materials.wood import moisture_at, movement_mm
from adhaero.core.method_catalogue import METHODS
from adhaero.core.observation import exact
from adhaero.core.piece_record import PieceRecord, Reading
from adhaero.core.plan.caveats import caveats
from adhaero.core.plan.document import Factor, Level, first_plan
from adhaero.core.quantity import Dimension
from adhaero.core.units import METRIC, Units

CASES = [
    ("compression-shear", {"width": 20, "overlap": 25, "thickness": 20}, 3600, 7.20),
    ("lap-tension", {"width": 20, "overlap": 25, "thickness": 10}, 3600, 7.20),
    ("lap-tension-double", {"width": 20, "overlap": 25, "thickness": 10}, 3600, 3.60),
    ("bend-three-point", {"width": 20, "depth": 20, "span": 240}, 800, 36.0),
    ("bend-four-point", {"width": 20, "depth": 20, "span": 240, "load_span": 80}, 800, 24.0),
    ("racking", {"arm": 400, "joint_height": 50, "thickness": 22}, 150, 60.0),
    ("racking", {"arm": 250, "joint_height": 50, "thickness": 22}, 150, 37.5),
    ("corner-pull", {"width": 90, "thickness": 18}, 1800, 20.0),
    ("withdrawal", {"inserts": 1, "dowel_diameter": 9, "insert_depth": 22}, 3110.2, 5.0),
    ("butt-pull", {"width": 30, "depth": 20}, 1200, 2.0),
    ("cross-lap-pull", {"width": 25, "other_width": 40}, 1000, 1.0),
    ("edge-fold", {"width": 50, "depth": 18, "span": 200}, 540, 10.0),
    ("dissimilar-pull", {"width": 20, "overlap": 25, "thickness": 20}, 1000, 2.0),
    ("cantilever", {"arm": 80}, 169.7, 13.576),
    ("framed", {}, 820, 820),
    ("dead-weight", {}, 250, 250),
    ("free-force", {}, 90, 90),
    ("free-moment", {"arm": 250}, 150, 37.5),
    ("free-stress", {"lines": 2, "width": 20, "overlap": 25}, 3600, 3.60),
    ("free-line", {"width": 60}, 900, 15.0),
]


@pytest.mark.parametrize(("key", "sizes", "load_n", "figure"), CASES)
def test_figure_of_merit(key: str, sizes: dict[str, float], load_n: float, figure: float) -> None:
    assert METHODS[key].figure(load_n, sizes) == pytest.approx(figure, rel=1e-4)


def test_every_method_has_a_case() -> None:
    assert {c[0] for c in CASES} == {k for k, m in METHODS.items() if not m.loadless}


@pytest.mark.parametrize(
    ("key", "sizes", "word"),
    [
        ("bend-three-point", {"width": 20, "depth": 20, "span": 60}, "Short beam"),
        ("bend-four-point", {"width": 20, "depth": 20, "span": 240, "load_span": 220}, "load points"),
        ("lap-tension", {"width": 20, "overlap": 40, "thickness": 10}, "overlap"),
        ("lap-tension-double", {"width": 20, "overlap": 25, "thickness": 10}, "middle strip"),
        ("racking", {"arm": 80, "joint_height": 50, "thickness": 20}, "lever arm"),
        ("compression-shear", {"width": 20, "overlap": 50, "thickness": 20}, "tips"),
    ],
)
def test_rules_of_thumb_speak_up(key: str, sizes: dict[str, float], word: str) -> None:
    assert any(word in text for text in METHODS[key].warnings(sizes))


def test_the_rule_for_the_overlap_can_be_ones_own() -> None:
    lap, sizes = METHODS["lap-tension"], {"width": 20, "overlap": 25, "thickness": 10}
    assert not lap.warnings(sizes)
    assert any("your own rule" in text for text in lap.warnings(sizes, 2))
    assert not lap.warnings({**sizes, "overlap": 40}, 4.5)


@pytest.mark.parametrize(
    ("method", "off", "word"),
    [("bend-four-point", 50, "outside of the load points"), ("bend-three-point", 30, "75 % of the moment")],
)
def test_a_joint_off_the_middle_is_pointed_out(method: str, off: float, word: str) -> None:
    sizes = {"width": 20.0, "depth": 20.0, "span": 240.0, "load_span": 80.0}
    plan = replace(first_plan(), method=method, sizes=sizes, joint_off_mm=off)
    glued = replace(plan, factors=(Factor("glue", "Glue", (Level("casein"), Level("epoxy-slow"))),))
    assert any(word in c.text for c in caveats(glued, METRIC))
    assert not any(word in c.text for c in caveats(replace(glued, joint_off_mm=0.0), METRIC))


def test_a_free_method_may_have_three_members() -> None:
    sizes = {"width": 30.0, "overlap": 40.0, "thickness": 18.0}
    assert [b.side for b in blanks("free-stress", "joint", {**sizes, "members": 3})] == ["a", "b", "c"]
    assert [b.side for b in blanks("framed", "joint", sizes)] == ["a", "b"]


def test_bending_strength_does_not_depend_on_the_section_of_the_same_wood() -> None:
    """The depth-squared law: twice the depth bears four times the load at one and the same modulus of rupture."""
    thin, thick = ({"width": 20, "depth": d, "span": 400} for d in (10, 20))
    bend = METHODS["bend-three-point"]
    assert bend.figure(500, thin) == pytest.approx(bend.figure(2000, thick))


def test_uncertainty_of_a_bar_counts_its_depth_twice() -> None:
    width, depth = METHODS["bend-three-point"].relative_error({"width": 20, "depth": 20, "span": 240}, 0.05)
    assert (width, depth) == (pytest.approx(0.0025, rel=1e-3), pytest.approx(0.005, rel=1e-3))


BY_HAND: dict[str, dict[str, int]] = {
    "compression-shear": {"width": -1, "overlap": -1},
    "lap-tension": {"width": -1, "overlap": -1},
    "lap-tension-double": {"width": -1, "overlap": -1},
    "bend-three-point": {"width": -1, "depth": -2},
    "bend-four-point": {"width": -1, "depth": -2},
    "racking": {},
    "corner-pull": {"width": -1},
    "withdrawal": {"dowel_diameter": -1, "insert_depth": -1},
    "butt-pull": {"width": -1, "depth": -1},
    "cross-lap-pull": {"width": -1, "other_width": -1},
    "edge-fold": {"width": -1, "depth": -2},
    "dissimilar-pull": {"width": -1, "overlap": -1},
    "cantilever": {}, "framed": {}, "dead-weight": {}, "free-force": {}, "free-moment": {},
    "free-stress": {"width": -1, "overlap": -1},
    "free-line": {"width": -1},
}  # fmt: skip
"""By what power of each size of the piece the figure goes, from the formula on paper; sizes of the rig's set-up, and
those that the figure does not need, add nothing."""


@pytest.mark.parametrize(("key", "sizes", "load_n", "figure"), CASES)
def test_uncertainty_of_every_method_by_hand(key: str, sizes: dict[str, float], load_n: float, figure: float) -> None:
    """Half a step of 2 N and 0.05 mm of each size, as shares, in squares; a calibration of 1 % on top."""
    shares = [1.0 / load_n, *(abs(p) * 0.05 / sizes[k] for k, p in BY_HAND[key].items())]
    method, at = METHODS[key], datetime(2026, 11, 23, tzinfo=UTC)
    # Two known weights read 1 % apart: the factor between them is known to 1 % (one degree of freedom).
    off = Instrument(calibration=Calibration(((1000.0, 990.0), (1000.0, 1010.1))))
    for instrument, more in ((Instrument(), 0.0), (off, off.error_n(load_n) / load_n)):
        reading = Reading(exact(load_n), at, resolution_n=2.0, instrument=instrument)
        piece = PieceRecord(
            "K7QX", "joint", "counts", 1, "A", "A", "ash", "lap", "long-parallel", "casein", {}, sizes, True, 500.0,
            method.per_newton(sizes), method.figure_dimension, reading=reading,
            sizes_error=tuple(method.relative_error(sizes, 0.05)),
        )  # fmt: skip
        wanted = figure * math.sqrt(sum(s * s for s in (*shares, more)))
        assert piece.uncertainty(load_n) == pytest.approx(wanted, rel=2e-3)


def test_moisture_of_wood_in_the_handbook_table() -> None:
    """Wood Handbook, table 4-2, at 70 degrees Fahrenheit (21.1 C): 30 % -> 6.2, 50 % -> 9.2, 80 % -> 16.0."""
    for humidity, moisture in ((30, 6.2), (50, 9.2), (80, 16.0)):
        assert moisture_at(humidity, 21.1) == pytest.approx(moisture, abs=0.1)


def test_movement_is_all_of_the_shrinkage_from_green_to_dry() -> None:
    assert movement_mm(200, 7.8, 30) == pytest.approx(15.6)
    assert movement_mm(100, 9.0, 5) == pytest.approx(1.5)


def test_moments_and_line_loads_have_units_of_their_own() -> None:
    assert Units(((Dimension.MOMENT, "N·m"),)).text(60.0, Dimension.MOMENT) == "60 N·m"
    assert Units(((Dimension.MOMENT, "lbf·ft"),)).text(1.3558179483, Dimension.MOMENT) == "1 lbf·ft"
    assert Units(((Dimension.LINE_LOAD, "lbf/in"),)).text(0.1751268, Dimension.LINE_LOAD) == "1 lbf/in"
