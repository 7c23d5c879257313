"""Dummies beside joints under shared weights, counted by hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.glue.schedule.problem import Clamps, Joint
from adhaero.core.plan.dummies import at_once, dummy_caveats
from adhaero.core.plan.questions import plan_for


def joint(force: float, means: str = "") -> Joint:
    return Joint("", "A", "pva-damp", force, 0, 0, 0, 0, means=means)


TWINS = Clamps("w", "12 kg weights", 4, places=2, most_n=118.0, least_n=118.0, means="weight")


@pytest.mark.parametrize(
    ("count", "dummies"),
    [(2, 0), (4, 0), (1, 1), (3, 1), (5, 1)],
)
def test_an_odd_one_lies_beside_a_dummy(count: int, dummies: int) -> None:
    found = at_once(joint(59.0), count, [TWINS])
    assert (found[1] if found else 0) == dummies


def test_what_presses_one_alone_asks_for_none() -> None:
    alone = Clamps("b", "Bar clamps", 2, most_n=3000.0)
    assert at_once(joint(59.0), 3, [TWINS, alone]) is None
    assert at_once(joint(59.0), 3, []) is None


def test_by_name_alone_a_weight_presses_as_hard_as_it_does() -> None:
    assert at_once(joint(0.0, "weight"), 3, [TWINS]) is None


def test_a_heavier_one_of_three_places() -> None:
    # 240 N on three: a joint that wants 80 N lies beside two dummies, two beside one.
    three = Clamps("w", "Slabs", 9, places=3, most_n=240.0, least_n=240.0, means="weight")
    assert [(f[1] if (f := at_once(joint(80.0), n, [three])) else 0) for n in (1, 2, 3, 4, 5)] == [2, 1, 0, 2, 1]


@given(st.integers(1, 40), st.integers(1, 6), st.integers(2, 4))
def test_never_more_than_the_weights_hold(count: int, weights: int, places: int) -> None:
    kind = Clamps("w", "Weights", weights, places=places, most_n=100.0 * places, least_n=100.0 * places, means="weight")
    joints = [(joint(100.0), count), (joint(100.0), count)]
    for c in dummy_caveats(plan_for("own"), joints, [kind]):
        assert 0 < c.change["dummies"] <= weights * (places - 1)
        assert count % places
