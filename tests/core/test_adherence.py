"""The schedule against the fact, ages that came apart, and what a bottle went through."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.compare.ages import age_gap
from adhaero.core.glue.schedule.adherence import lateness
from adhaero.core.materials.bottle import BottleEvent, state

H = 3600.0


def test_lateness_by_task() -> None:
    planned = {"A1": {"closed": 0, "released": 4 * H, "broken": 24 * H}, "A2": {"closed": 120, "released": 4 * H}}
    actual = {"A1": {"closed": 600, "released": 4 * H}, "A2": {"closed": 120, "released": 7 * H}, "B1": {"closed": 5}}
    found = {x.task: x for x in lateness(planned, actual)}
    assert found.keys() == {"closed", "released"}
    assert (found["closed"].joints, found["closed"].mean_s, found["closed"].worst) == (2, 300, "A1")
    assert found["closed"].in_words() == "2 joints closed 5 min late on average, A1 10 min late"
    assert found["released"].in_words() == "2 joints taken out of the clamps 1.5 h late on average, A2 3.0 h late"


def test_early_is_told_as_early_and_to_the_minute_as_that() -> None:
    early = lateness({"A1": {"broken": 3 * 86400}}, {"A1": {"broken": 0}})
    assert early[0].in_words() == "1 joint broken 3.0 days early"
    assert (
        lateness({"A1": {"in": 0}}, {"A1": {"in": 30}})[0].in_words() == "1 joint put into conditioning to the minute"
    )


def test_ages_that_differ_are_named_with_their_ranges() -> None:
    gap = age_gap({"A": [24 * H, 25 * H, 26 * H], "B": [46 * H, 48 * H, 49 * H]})
    assert gap is not None
    assert gap.in_words() == "Age differs: A was broken at 24 to 26 h, B at 46 to 49 h"


def test_ages_alike_or_alone_are_no_gap() -> None:
    assert age_gap({"A": [24 * H], "B": [27 * H]}) is None
    assert age_gap({"A": [24 * H], "B": []}) is None
    # One straggler among many is no gap between treatments.
    assert age_gap({"A": [24 * H] * 5, "B": [24 * H] * 4 + [300 * H]}) is None


@given(st.dictionaries(st.sampled_from("ABCD"), st.lists(st.floats(1, 1e7), min_size=1, max_size=5), min_size=2))
def test_the_gap_names_the_younger_first(ages: dict[str, list[float]]) -> None:
    gap = age_gap(ages)
    if gap is not None:
        assert gap.young_s[0] < gap.old_s[1]
        assert gap.younger != gap.older


FROST = datetime(2026, 1, 10, 20, 0, tzinfo=UTC)


def events() -> list[BottleEvent]:
    return [
        BottleEvent("frozen", FROST),
        BottleEvent("thawed", FROST + timedelta(days=3)),
        BottleEvent("looks", FROST + timedelta(days=3, hours=1), "thick paste"),
    ]


@pytest.mark.parametrize(
    ("hours", "words"),
    [
        (-1, ""),
        (5, "frozen once, still frozen"),
        (72 + 22, "frozen once, thawed 22 h, thick paste"),
        (72 + 24 * 9, "frozen once, thawed 9 days, thick paste"),
    ],
)
def test_the_state_of_a_bottle_at_a_moment(hours: float, words: str) -> None:
    assert state(events(), FROST + timedelta(hours=hours)) == words


def test_kept_from_frost_until_it_was_not() -> None:
    kept = [BottleEvent("frost-free", FROST - timedelta(days=9))]
    assert state(kept, FROST - timedelta(hours=1)) == "kept frost-free"
    assert state([*kept, *events()], FROST + timedelta(hours=94)) == "frozen once, thawed 22 h, thick paste"


def test_frozen_again_and_used_up() -> None:
    again = [
        *events(),
        BottleEvent("frozen", FROST + timedelta(days=5)),
        BottleEvent("used up", FROST + timedelta(days=9)),
    ]
    assert state(again, FROST + timedelta(days=6)) == "frozen 2 times, still frozen, thick paste"
    assert state(again, FROST + timedelta(days=10)) == "frozen 2 times, still frozen, thick paste, used up"
