"""Shares of a face: what makes 100 %, what follows for the wood, and there and back through a cell."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.breaking.shares import Shares, as_cell, from_cell, in_words, main_mode, together
from adhaero.core.observation import Kind, Observation, checked, wood_failure
from adhaero.core.refusal import Refusal

BY_HAND: Shares = (("wood-at-line@B", 60.0), ("interface@A", 40.0))


def broke(shares: Shares, wood: float | None = None, mode: str | None = "mixed") -> Observation:
    return Observation(Kind.EXACT, 3000, 3000, failure_mode=mode, shares=shares, wood_failure_pct=wood)


def test_sixty_of_a_hundred_in_the_wood_by_hand() -> None:
    seen = checked(broke(BY_HAND))
    assert wood_failure(seen) == 60
    assert in_words(BY_HAND) == "60 % in the wood at the line of B, 40 % at the interface of A"


@pytest.mark.parametrize(
    ("shares", "field"),
    [
        ((("interface", 60.0), ("in-glue", 30.0)), "shares"),
        ((("interface", 60.0), ("interface", 40.0)), "shares"),
        ((("interface@D", 100.0),), "shares"),
        ((("mixed", 100.0),), "shares"),
        ((("melted", 100.0),), "shares"),
        ((("interface", 120.0), ("in-glue", -20.0)), "shares"),
    ],
)
def test_shares_that_cannot_be(shares: Shares, field: str) -> None:
    with pytest.raises(Refusal) as refused:
        checked(broke(shares))
    assert refused.value.problems[0].field == field


def test_wood_failure_that_contradicts_its_shares_is_refused() -> None:
    assert checked(broke(BY_HAND, wood=65))
    with pytest.raises(Refusal) as refused:
        checked(broke(BY_HAND, wood=20))
    assert "60 %" in refused.value.problems[0].message


@given(st.lists(st.sampled_from(["interface", "in-glue", "wood-deep", "wood-at-line@A", "elsewhere@C"]),
                min_size=1, max_size=5, unique=True), st.data())  # fmt: skip
def test_there_and_back_through_a_cell(names: list[str], data: st.DataObject) -> None:
    cuts = sorted(data.draw(st.lists(st.integers(1, 19), min_size=len(names) - 1, max_size=len(names) - 1)))
    edges = [0, *cuts, 20]
    shares = tuple((n, 5.0 * (b - a)) for n, a, b in zip(names, edges, edges[1:], strict=False))
    assert from_cell(as_cell(shares)) == shares
    assert sum(share for _, share in shares) == 100


def test_the_mode_that_shares_come_down_to() -> None:
    assert main_mode(together([("in-glue", "A", 50), ("in-glue", "B", 50)])) == "in-glue"
    assert main_mode(BY_HAND) == "mixed"
    assert main_mode(()) is None
