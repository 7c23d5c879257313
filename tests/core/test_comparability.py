"""What can and cannot be told apart, what left its tolerance, and in what two plans differ."""

from __future__ import annotations

from dataclasses import replace

import pytest

from adhaero.core.compare.runs_along import apart, runs_along, sentences
from adhaero.core.plan.differences import differences
from adhaero.core.plan.document import Factor, Level, first_plan

PLAN = replace(first_plan(), question="Which?", factors=(Factor("glue", "Glue", (Level("casein"), Level("pva-damp"))),))


@pytest.mark.parametrize(
    ("treatments", "days", "same", "kept"),
    [
        ("AABB", "1122", True, True),
        ("AABB", "1212", False, False),
        ("AABB", "1111", False, False),
        ("AABBCC", "112211", False, True),
        ("AABB", "1234", True, False),
        ("AABB", "11.2", True, True),
    ],
)
def test_a_covariate_that_runs_along(treatments: str, days: str, same: bool, kept: bool) -> None:
    values = [None if d == "." else d for d in days]
    assert runs_along(list(treatments), values) is same
    assert apart(list(treatments), values) is kept


def test_each_covariate_is_named_once() -> None:
    said = sentences(["A", "A", "B", "B"], {"day": ["1", "1", "2", "2"], "person": ["x"] * 4})
    assert said == ["Treatment and the day of gluing cannot be told apart: no two treatments share one."]


def test_the_same_plan_differs_in_nothing() -> None:
    assert differences(PLAN, PLAN) == []


def test_every_difference_in_the_way_of_testing_is_listed_first() -> None:
    other = replace(
        PLAN,
        method="lap-tension",
        replicates=9,
        constants={**PLAN.constants, "pressure_mpa": Level(0.3, "MPa")},
        factors=(Factor("glue", "Glue", (Level("casein"),)),),
    )
    found = {d.what: d for d in differences(PLAN, other)}
    assert (found["Clamp pressure"].first, found["Clamp pressure"].second) == ("0.8 MPa", "0.3 MPa")
    assert found["Method"].weighs
    assert (found["Pieces of each"].first, found["Pieces of each"].second) == ("6", "9")
    assert found["Glue"].first == "Casein, Damp-proof PVA"
    weights = [d.weighs for d in differences(PLAN, other)]
    assert weights == sorted(weights, reverse=True)


def test_a_factor_here_is_a_constant_there() -> None:
    held = replace(
        PLAN,
        factors=(Factor("prep", "Surface prep", (Level("planed"), Level("sawn"))),),
        constants={**PLAN.constants, "glue": Level("casein")},
    )
    glue = next(d for d in differences(PLAN, held) if d.what == "Glue")
    assert glue.second == "held: Casein"
