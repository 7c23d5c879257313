"""How long pieces last: survival by hand, the log-rank test, and what may be said of it."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.compare.lasting import UNDER_LOAD, Lasted, Lasting, lasting

LABEL = {"A": "PVA", "B": "Casein", "C": "Hide"}


def told(**own: list[tuple[float, bool]]) -> Lasting | None:
    pieces = [Lasted(f"{x}{i}", x, t, failed) for x, times in own.items() for i, (t, failed) in enumerate(times)]
    return lasting(UNDER_LOAD, pieces, LABEL)


def test_survival_steps_down_where_pieces_give_way() -> None:
    """Four pieces: at 1 h and 3 h one gives way, at 2 h one is taken off whole, one stands at 4 h."""
    found = told(A=[(3600, True), (7200, False), (10800, True), (14400, False)])
    assert found is not None
    assert [(s.time_s, s.whole, s.at_risk) for s in found.steps["A"]] == [(3600, 0.75, 4), (10800, 0.375, 2)]
    assert found.p is None
    assert found.text == ["PVA: 2 of 4 pieces gave way, half of them by 3 h."]


def test_who_lasts_longer_is_said_where_it_is_told_apart() -> None:
    early, late = [(60.0 * i, True) for i in range(1, 7)], [(6000.0 * i, True) for i in range(1, 7)]
    found = told(A=late, B=early)
    assert found is not None
    assert found.text[0].startswith("PVA lasts longer than Casein (log-rank, p")
    assert found.p == pytest.approx(0.0006, abs=0.0006)
    three = told(A=late, B=early, C=[(t + 1, f) for t, f in early])
    assert three is not None
    assert "PVA longer than Casein" in three.text[0]
    assert "PVA longer than Hide" in three.text[0]
    assert "Casein longer" not in three.text[0]


def test_nothing_is_said_of_too_few_or_where_nothing_gave_way() -> None:
    assert told(A=[(10, True), (20, True)]) is None
    assert told(A=[(10, False)] * 5) is None
    few = told(A=[(10, True), (20, True)], B=[(5, True)] * 2)
    assert few is not None
    assert few.text == [], "two pieces of each show nothing"


@settings(deadline=None, max_examples=50)
@given(st.lists(st.tuples(st.floats(1, 1e5), st.booleans()), min_size=3, max_size=12))
def test_survival_never_rises_and_time_units_do_not_matter(times: list[tuple[float, bool]]) -> None:
    found = told(A=times)
    if found is None:
        assert not any(f for _, f in times)
        return
    shares = [s.whole for s in found.steps["A"]]
    assert shares == sorted(shares, reverse=True)
    hours = told(A=[(t / 3600, f) for t, f in times])
    assert hours is not None
    assert [s.whole for s in hours.steps["A"]] == pytest.approx(shares)
