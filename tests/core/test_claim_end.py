"""How claims end by figures: against cases worked out by hand, and what no claim may say."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.compare.analysis import Row, analyse
from adhaero.core.compare.claim_end import NOT_SUPPORTED, NOT_TESTED, SUPPORTED, UNKNOWN, ClaimEnd, end_of
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import MEANS, ORDER, Judged, Setting, judge_pair, turned
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.claim_kinds import SAYS
from tests.core.test_compare import group

STRONG, WEAK = [9.8, 10.0, 10.1, 10.1], [4.9, 5.0, 5.0, 5.1]


def rows(*values: list[float]) -> list[Row]:
    data = [[Datum(Known.EXACT, v, v) for v in own] for own in values]
    return analyse([group(chr(65 + i), own) for i, own in enumerate(data)]).rows


def end(says: str, first: list[float], second: list[float], share: float = 1.0) -> ClaimEnd:
    a, b = rows(first, second)
    return end_of(says, share, a, b, Setting({}))


@pytest.mark.parametrize(
    ("says", "first", "second", "state"),
    [
        ("stronger", STRONG, WEAK, SUPPORTED),
        ("stronger", WEAK, STRONG, NOT_SUPPORTED),
        ("weaker", WEAK, STRONG, SUPPORTED),
        ("weaker", STRONG, WEAK, NOT_SUPPORTED),
        ("same", STRONG, WEAK, NOT_SUPPORTED),
        # 1 % apart with a scatter of 1 %: within a tenth, so neither the stronger nor the weaker of the two.
        ("same", [10.0, 10.1, 10.2, 10.1], [9.9, 10.0, 10.1, 10.0], SUPPORTED),
        ("stronger", [10.0, 10.1, 10.2, 10.1], [9.9, 10.0, 10.1, 10.0], NOT_SUPPORTED),
        # The same 1 % with a scatter of 30 %: nobody can tell.
        ("stronger", [7.0, 13.2, 8.0, 12.2], [7.0, 13.0, 8.0, 12.0], UNKNOWN),
        ("same", [7.0, 13.2, 8.0, 12.2], [7.0, 13.0, 8.0, 12.0], UNKNOWN),
    ],
)
def test_a_claim_ends_by_the_whole_interval(says: str, first: list[float], second: list[float], state: str) -> None:
    assert end(says, first, second).state == state


def test_a_share_is_reached_where_the_whole_interval_lies_above_it() -> None:
    """Twice as strong, within 2 %: 190 % are borne for certain, 210 % for certain not, 200 % may be."""
    assert [end("share", STRONG, WEAK, s).state for s in (1.9, 2.0, 2.1)] == [SUPPORTED, UNKNOWN, NOT_SUPPORTED]
    assert "200 %" in end("share", STRONG, WEAK, 1.9).text
    assert "190 % was claimed" in end("share", STRONG, WEAK, 1.9).text


def test_without_results_a_claim_is_not_tested() -> None:
    a, b = rows(STRONG, [])
    assert end_of("stronger", 1.0, a, b, Setting({})).state == NOT_TESTED
    assert end_of("stronger", 1.0, a, None, Setting({})).state == NOT_TESTED


def test_two_pieces_decide_no_claim() -> None:
    found = end("stronger", [10.0, 10.1], WEAK)
    assert found.state == UNKNOWN
    assert "too few" in found.text


@given(
    st.lists(st.floats(1, 20), min_size=3, max_size=6), st.lists(st.floats(1, 20), min_size=3, max_size=6),
    st.sampled_from(sorted(SAYS)),
)  # fmt: skip
def test_stronger_and_weaker_mirror_each_other(first: list[float], second: list[float], says: str) -> None:
    """What is stronger makes the other weaker, but for ratios that exist in one direction only; nothing is both."""
    a, b = end("stronger", first, second).state, end("weaker", first, second).state
    assert not (a == b == SUPPORTED)
    assert end(says, first, second).state in (SUPPORTED, NOT_SUPPORTED, UNKNOWN)


def test_the_same_comparison_the_other_way_round() -> None:
    a, b = rows(STRONG, WEAK)
    there, back = judge_pair(a, b, Setting({})), judge_pair(b, a, Setting({}))
    again = turned(there)
    assert (again.first, again.second, again.outcome) == (back.first, back.second, Outcome.WORSE)
    assert again.ratio == pytest.approx(back.ratio)
    # Fieller's interval of the inverse ratio is the inverse interval.
    assert (again.low, again.high) == (pytest.approx(back.low), pytest.approx(back.high))
    assert turned(again).ratio == pytest.approx(there.ratio)


@pytest.mark.parametrize(("low", "high", "turned_low", "turned_high"), [
    (2.0, math.inf, 0.0, 0.5), (2.0, None, 0.0, 0.5), (0.0, 0.5, 2.0, math.inf), (None, None, None, None),
])  # fmt: skip
def test_ends_that_are_open_stay_open_on_the_other_side(
    low: float | None, high: float | None, turned_low: float | None, turned_high: float | None
) -> None:
    found = turned(Judged("A", "B", "", MEANS, Outcome.BETTER, None, low, high))
    assert (found.low, found.high) == (turned_low, turned_high)


@pytest.mark.parametrize(("says", "state"), [("stronger", SUPPORTED), ("weaker", NOT_SUPPORTED), ("same", UNKNOWN),
                                              ("share", UNKNOWN)])  # fmt: skip
def test_order_alone_decides_who_is_stronger_and_no_more(says: str, state: str) -> None:
    a, b = rows(STRONG, WEAK)
    by_order = Judged(a.group.letter, b.group.letter, "", ORDER, Outcome.BETTER, p=0.01)
    found = end_of(says, 0.5, a, b, Setting({}), by_order)
    assert found.state == state
    assert "more (p = 0.01), without a ratio" in found.text
