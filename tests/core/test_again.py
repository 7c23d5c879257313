"""What is kept from the last look gives the very same answer as working it all out anew."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.letters import cliques
from adhaero.core.compare.runs_along import sentences
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.statistics.contrasts import log_ratio, log_ratio_of, moments
from adhaero.core.statistics.pairwise import Pair, games_howell, games_howell_again

FIGURES = st.lists(st.floats(1, 100, allow_nan=False), min_size=2, max_size=6)
GROUPS = st.lists(FIGURES, min_size=2, max_size=6)


def near(found: list[Pair], wanted: list[Pair]) -> bool:
    """The same but for the last bits: many tails are worked out at once otherwise than few."""
    return len(found) == len(wanted) and all(
        a == b or (a is not None and b is not None and math.isclose(a, b, rel_tol=1e-9, abs_tol=1e-12))
        for x, y in zip(found, wanted, strict=True)
        for a, b in zip(x, y, strict=True)
    )


@settings(deadline=None, max_examples=40)
@given(GROUPS, FIGURES, st.integers(0, 5))
def test_pairs_after_a_change_are_those_worked_out_anew(groups: list[list[float]], other: list[float], at: int) -> None:
    _, known = games_howell_again(groups, 0.05, None)
    changed = [*groups]
    changed[at % len(groups)] = other
    again, _ = games_howell_again(changed, 0.05, known)
    assert near(again, games_howell(changed))
    back, _ = games_howell_again(groups, 0.05, known)
    assert near(back, games_howell(groups))


@settings(deadline=None, max_examples=20)
@given(GROUPS, GROUPS)
def test_another_number_of_treatments_is_another_table(first: list[list[float]], second: list[list[float]]) -> None:
    _, known = games_howell_again(first, 0.05, None)
    assert near(games_howell_again(second, 0.05, known)[0], games_howell(second))


def test_a_group_that_loses_its_scatter_loses_its_test() -> None:
    groups = [[5.0, 6.0, 7.0], [8.0, 9.0, 10.0], [4.0, 4.5, 5.0]]
    _, known = games_howell_again(groups, 0.05, None)
    flat = [groups[0], [9.0, 9.0, 9.0], [4.0, 4.0, 4.0]]
    again, _ = games_howell_again(flat, 0.05, known)
    assert [p.p is None for p in again] == [False, False, True]
    assert again[2].diff == 5.0
    assert cliques([1, 0, 2], again) is None, "letters would claim what nobody tested"


@settings(deadline=None, max_examples=40)
@given(FIGURES, FIGURES)
def test_a_ratio_is_kept_by_its_figures_not_by_its_lists(first: list[float], second: list[float]) -> None:
    assert log_ratio(first, second) == log_ratio_of(moments(first), moments(second))
    first.append(50.0)
    assert log_ratio(first, second) == log_ratio_of(moments(first), moments(second)), "a list that grew is another one"


def test_a_group_with_other_pieces_gives_other_figures() -> None:
    """What a treatment gives is kept with it, and never handed on to one made from it."""
    pieces = [Piece(f"A{i}", Datum(Known.EXACT, v, v), Kind.EXACT) for i, v in enumerate((5.0, 6.0, 7.0))]
    whole = Group("A", "Glue A", "joint", None, pieces)
    assert [d.low for d in whole.data(fallen_as_zero=True)] == [5.0, 6.0, 7.0]
    fewer = replace(whole, pieces=pieces[1:])
    assert [d.low for d in fewer.data(fallen_as_zero=True)] == [6.0, 7.0]
    assert [d.low for d in whole.data(fallen_as_zero=True)] == [5.0, 6.0, 7.0]


def test_what_runs_along_follows_a_piece_that_moved() -> None:
    letters = ["A", "A", "B", "B"]
    apart = sentences(letters, {"day": ["1", "1", "2", "2"]})
    assert apart == ["Treatment and the day of gluing cannot be told apart: no two treatments share one."]
    assert sentences(letters, {"day": ["1", "2", "2", "1"]}) == []
    assert sentences(letters, {"day": ["1", "1", "2", "2"]}) == apart


@pytest.mark.parametrize(("told_apart", "sets"), [((), [[0, 1, 2]]), ((0,), [[0, 2], [1, 2]]),
                                                  ((0, 1, 2), [[0], [1], [2]])])  # fmt: skip
def test_letters_of_three_treatments_by_hand(told_apart: tuple[int, ...], sets: list[list[int]]) -> None:
    pairs = games_howell([[5.0, 6.0, 7.0], [5.1, 6.2, 7.1], [5.2, 6.1, 7.2]])
    pairs = [p._replace(p=0.01 if i in told_apart else 0.5) for i, p in enumerate(pairs)]
    assert cliques([0, 1, 2], pairs) == sets
    assert cliques([0, 1, 2], pairs) == sets, "and again"
