"""A glue's limits: the label's before the family's, both at the air of the bench."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.glue.limits import check_label, hurried, joints_per_mix, limits
from adhaero.core.refusal import Refusal


def test_ten_degrees_halve_and_double():
    # By hand: 480 s at 20; 2^(10/10) = 2; 2^(5/10) = 1.4142.
    assert hurried(480, 30) == pytest.approx(240)
    assert hurried(480, 10) == pytest.approx(960)
    assert hurried(480, 15) == pytest.approx(678.8, abs=0.1)
    # A label that states its time for 23 degrees: at 23 it is just that.
    assert hurried(600, 23, 23) == 600


def test_the_rule_is_carried_no_farther_than_it_holds():
    assert hurried(480, 45) == hurried(480, 35)
    assert hurried(480, -10) == hurried(480, 5)


@given(st.floats(10, 1e5), st.floats(-20, 50), st.floats(-20, 50))
def test_warmer_is_never_slower(seconds, one, other):
    colder, warmer = sorted((one, other))
    assert hurried(seconds, warmer) <= hurried(seconds, colder)


def test_the_label_wins_and_leaves_the_rest_to_the_family():
    family = limits("pva-indoor")
    own = limits("pva-indoor", {"open_s": 300, "pressure_low_mpa": 1.0, "pressure_high_mpa": 1.6})
    assert (own.open_s, own.pressure_low_mpa, own.pressure_high_mpa) == (300, 1.0, 1.6)
    assert family.open_s == 480
    assert {k: own.whose(k) for k in ("open_s", "pressure_low_mpa", "pot_s")} == {
        "open_s": "label", "pressure_low_mpa": "label", "pot_s": "usual",
    }  # fmt: skip
    assert family.whose("open_s") == "usual"
    assert (own.pot_s, own.clamp_s) == (None, None)


def test_a_glue_of_the_users_own_has_only_its_label():
    assert limits("grandfather's").open_s is None
    assert limits("grandfather's", {"open_s": 90}, air_c=30).open_s == pytest.approx(45)


@pytest.mark.parametrize(
    ("label", "field"),
    [
        ({"open_s": 0.1}, "limits.open_s"),
        ({"viscosity": 3}, "limits.viscosity"),
        ({"pressure_low_mpa": 2, "pressure_high_mpa": 1}, "limits.pressure_high_mpa"),
        ({"least_c": 80}, "limits.least_c"),
    ],
)
def test_impossible_labels_are_refused_by_field(label, field):
    with pytest.raises(Refusal) as refused:
        check_label(label)
    assert [p.field for p in refused.value.problems] == [field]


def test_joints_of_one_mix():
    # Slow epoxy: 40 min at 20 degrees, 20 min at 30. Three minutes to mix, two for a joint: 18 and 8 joints.
    assert joints_per_mix(limits("epoxy-slow"), 120, 180) == 18
    assert joints_per_mix(limits("epoxy-slow", air_c=30), 120, 180) == 8
    assert joints_per_mix(limits("pva-indoor"), 120) is None
    assert joints_per_mix(limits("epoxy-fast", air_c=35), 600) == 1
