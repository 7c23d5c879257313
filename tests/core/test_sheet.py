"""Sheet goods across the grain of their faces, against sections reckoned by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from adhaero.core.materials.sheet import bent_across, pulled_across
from adhaero.core.plan.checks import problems
from adhaero.core.plan.document import Level, OwnWood
from adhaero.core.plan.forecast import expected
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.plan.records import SOLID_GRAIN
from adhaero.core.plan.treatments import SOLID, treatments
from tests.core.test_own_woods import plan_in

BIRCH_PLY = OwnWood(9.0, 60.0, 6.0, source="own tests", plies=3, grade="BB/CP")


def test_three_plies_by_hand() -> None:
    # Cross ply: b t^3 / 12 over t / 2. Outer plies: b (27 - 1) t^3 / 12 over 3 t / 2.
    assert bent_across(3) == pytest.approx((1 / 12 / 0.5) / (26 / 12 / 1.5))
    assert pulled_across(3) == pytest.approx(1 / 2)


def test_five_plies_by_hand() -> None:
    # Cross plies lie 1 from the middle: 2 (1/12 + 1) over 1.5. The others: at 0 and 2: 3/12 + 2 * 4 over 2.5.
    assert bent_across(5) == pytest.approx((2 * (1 / 12 + 1) / 1.5) / ((3 / 12 + 8) / 2.5))
    assert pulled_across(5) == pytest.approx(2 / 3)


def test_many_plies_are_alike_both_ways_and_none_without_a_grain() -> None:
    shares = [bent_across(n) for n in (3, 5, 7, 9, 13, 25, 59)]
    assert shares == sorted(shares)
    assert 0.9 < shares[-1] < 1
    assert (bent_across(0), pulled_across(0)) == (1.0, 1.0)


@pytest.mark.parametrize("plies", [1, 2, -3])
def test_no_sheet_has_so_few(plies: int) -> None:
    with pytest.raises(ValueError, match="no sheet"):
        bent_across(plies)
    wrong = problems(plan_in("ply", ply=replace(BIRCH_PLY, plies=plies)))
    assert "woods.ply.plies" in {p.field for p in wrong}


def test_the_forecast_across_the_faces_follows_the_plies() -> None:
    def solid(grain: str, plies: int | None) -> float:
        plan = plan_in("ply", ply=replace(BIRCH_PLY, plies=plies))
        t = next(t for t in treatments(plan) if t.role == SOLID)
        found = expected(plan, replace(t, record={**t.record, SOLID_GRAIN: Level(grain)}), {}, None)
        assert found is not None
        return found.figure

    assert solid("along", 3) == pytest.approx(60.0)
    assert solid("across", 3) == pytest.approx(60.0 * bent_across(3))
    assert solid("across", 0) == pytest.approx(60.0)
    # Solid wood as it was: 1.6 times 0.45 of its shear strength.
    assert solid("across", None) == pytest.approx(1.6 * 0.45 * 9.0)


def test_plies_and_grade_travel_with_the_plan() -> None:
    plan = plan_in("ply", ply=BIRCH_PLY)
    assert plan_from_json(plan.to_json()).woods["ply"] == BIRCH_PLY
