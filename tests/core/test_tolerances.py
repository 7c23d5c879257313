"""What left the plan: by the plan's own tolerance, by the usual one, or not held against it at all."""

from __future__ import annotations

from typing import Any

import pytest

from adhaero.core.plan.document import Level
from adhaero.core.tolerances import WATCHED, departures, not_noted
from tests.core.test_piece_record import METRIC, gluing, kinds, piece

HELD = {"air_c": Level(20.0, "°C"), "humidity_pct": Level(50.0), "moisture_pct": Level(10.0), "gap_mm": Level(0.2),
        "spread_g_m2": Level(180.0), "open_s": Level(300.0)}  # fmt: skip


def left(**more: Any) -> dict[str, str]:
    return {d.field: d.in_words(METRIC) for d in departures(piece(**more))}


@pytest.mark.parametrize(("real", "off"), [(17_999.0, False), (18_000.0, False), (18_001.0, True), (10_799.0, True)])
def test_a_departure_is_beyond_the_tolerance_and_not_at_it(real: float, off: bool) -> None:
    """Four hours in clamps, give or take one."""
    assert ("clamp_s" in left(gluing=gluing(clamped_s=real), tolerances={"clamp_s": 3600.0})) is off


def test_the_plans_own_tolerance_comes_before_the_usual_one() -> None:
    """A tenth of four hours is 24 min; a plan may allow more, or less."""
    half_hour_over = gluing(clamped_s=14_400.0 + 1800)
    assert "clamp_s" in left(gluing=half_hour_over)
    assert "clamp_s" not in left(gluing=half_hour_over, tolerances={"clamp_s": 2000.0})
    ten_minutes_over = gluing(clamped_s=14_400.0 + 600)
    assert "clamp_s" not in left(gluing=ten_minutes_over)
    assert "clamp_s" in left(gluing=ten_minutes_over, tolerances={"clamp_s": 300.0})


@pytest.mark.parametrize(
    ("field", "width", "more", "text"),
    [
        ("air_c", 2.0, {"gluing": gluing(air_c=16.0)}, "16 °C instead of 20 °C"),
        ("humidity_pct", 5.0, {"gluing": gluing(humidity_pct=61.0)}, "61 % instead of 50 %"),
        ("spread_g_m2", 20.0, {"gluing": gluing(spread_g_m2=240.0)}, "240 g/m² instead of 180 g/m²"),
        ("moisture_pct", 1.0, {"sizes": {"moisture": 13.0}}, "13 % instead of 10 %"),
        ("gap_mm", 0.05, {"sizes": {"gap": 0.4}}, "0.4 mm instead of 0.2 mm"),
    ],
)
def test_fields_without_a_usual_tolerance_are_flagged_where_the_plan_states_one(
    field: str, width: float, more: dict[str, Any], text: str
) -> None:
    assert field not in left(levels=HELD, **more)
    assert left(levels=HELD, tolerances={field: width}, **more)[field] == text
    assert kinds(piece(levels=HELD, tolerances={field: width}, **more))[WATCHED[field].flag] == text


def test_what_the_plan_wants_held_and_nobody_noted_is_told() -> None:
    wants = {"air_c": 2.0, "moisture_pct": 1.0, "clamp_s": 600.0}
    assert not_noted(piece(levels=HELD, tolerances=wants)) == ["air_c", "moisture_pct"]
    noted = {"gluing": gluing(air_c=20.0), "sizes": {"moisture": 10.0}}
    assert not_noted(piece(levels=HELD, tolerances=wants, **noted)) == []


def test_a_joint_still_in_its_clamp_is_not_one_whose_time_nobody_noted() -> None:
    held = gluing(clamped_s=None)
    assert not_noted(piece(gluing=held, reading=None, tolerances={"clamp_s": 600.0})) == []
    assert not_noted(piece(gluing=held, tolerances={"clamp_s": 600.0})) == ["clamp_s"]
    assert not_noted(piece(gluing=None, tolerances={"clamp_s": 600.0})) == []


def test_solid_pieces_have_nothing_that_a_glue_up_could_leave() -> None:
    assert left(role="solid", gluing=gluing(pressure_mpa=5.0)) == {}


def test_nothing_planned_is_left_by_nothing() -> None:
    assert "pressure_mpa" not in left(pressure_mpa=0.0, gluing=gluing(pressure_mpa=0.0))
    assert "pressure_mpa" in left(pressure_mpa=0.0, gluing=gluing(pressure_mpa=0.3))
    assert "clamp_s" not in left(clamp_s=0.0, gluing=gluing(clamped_s=600.0))
