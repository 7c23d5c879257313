"""Boards that are shared: later pieces find room beside what is laid out, and nothing that is cut moves."""

from __future__ import annotations

from collections import Counter

from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.cut.blanks import Blank
from adhaero.core.cut.cutlist import CutBlank, Wanted, cutting
from adhaero.core.cut.layout import Board, Need, Rect, Saw
from adhaero.core.cut.recutting import bands, left_over, with_more, without
from adhaero.core.cut.recutting import given as give

SAW = Saw()
PAIR = Need((Blank("a", 31, 20, 20), Blank("b", 31, 20, 20)), SAW)
SOLID = Need((Blank("a", 60, 25, 25),), SAW)


def wanted(first: int, count: int, need: Need = PAIR) -> list[Wanted]:
    return [Wanted(f"P{first + i}", i % 4, "ash", need) for i in range(count)]


def board(number: int, length: float = 500, width: float = 120) -> Board:
    return Board(number, f"Ash {number}", "ash", length, width, 44)


def apart(blanks: list[CutBlank]) -> bool:
    return not any(
        a.board_id == b.board_id and a.rect.overlaps(b.rect) for i, a in enumerate(blanks) for b in blanks[:i]
    )


def test_a_band_runs_the_whole_length_with_a_kerf_on_both_sides() -> None:
    found = bands([Rect(100, 30, 40, 21), Rect(300, 30, 40, 21)], board(1), 3)
    assert found == (Rect(0, 27, 500, 27),)
    assert without(board(1), [Rect(100, 30, 40, 21)], 3).defects == found


@settings(max_examples=60, deadline=None)
@given(st.integers(4, 40), st.integers(1, 20), st.booleans(), st.integers(0, 9))
def test_more_pieces_never_move_or_overlap_what_is_there(first: int, more: int, other_kind: bool, seed: int) -> None:
    stock = [board(i) for i in range(1, 5)]
    old = cutting(wanted(0, first), stock, seed)
    new = wanted(first, more, SOLID if other_kind else PAIR)
    both = with_more(old, new, [*wanted(0, first), *new], stock, SAW, seed)
    was = {(b.code, b.side): (b.board_id, b.rect) for b in old.blanks if b.code}
    now = {(b.code, b.side): (b.board_id, b.rect) for b in both.blanks if b.code}
    assert {k: v for k, v in now.items() if k in was} == was
    assert apart(both.blanks)
    placed = {code for code, _ in now}
    missing = sum(s.pieces for s in both.short)
    assert len(placed) + missing + sum(s.pieces for s in old.short) == first + more
    halves = Counter(code for code, _ in now)
    assert all(halves[w.code] == len(w.need.blanks) for w in new if w.code in placed)
    for b in both.blanks:
        assert b.rect.y >= 0
        assert b.rect.y + b.rect.width <= 120
        assert b.rect.x >= 0
        assert b.rect.x + b.rect.length <= 500


@settings(max_examples=40, deadline=None)
@given(st.integers(4, 30), st.integers(4, 30), st.integers(0, 9))
def test_two_batches_on_the_same_boards_keep_a_kerf_apart(one: int, two: int, seed: int) -> None:
    stock = [board(i) for i in range(1, 4)]
    first = cutting(wanted(0, one), stock, seed)
    rest = [without(b, (x.rect for x in first.blanks if x.board_id == b.id), SAW.kerf) for b in stock]
    second = cutting(wanted(100, two), rest, seed)
    for b in second.blanks:
        for a in first.blanks:
            if a.board_id == b.board_id:
                low, high = sorted((a.rect, b.rect), key=lambda r: r.y)
                assert high.y - (low.y + low.width) >= SAW.kerf - 1e-9


def test_left_over_places_are_used_before_a_new_strip() -> None:
    stock = [board(1)]
    old = cutting(wanted(0, 3), stock, 1)
    assert old.spare > 0
    like = [("a", 31.0, 21.0), ("b", 31.0, 21.0)]
    assert len(left_over(old.blanks, like)) >= old.spare
    new = wanted(3, 1)
    both = with_more(old, new, [*wanted(0, 3), *new], stock, SAW, 1)
    assert both.spare == old.spare - 1
    assert {b.strip for b in both.blanks} == {b.strip for b in old.blanks}


def test_a_run_of_places_belongs_to_one_strip() -> None:
    blanks = [CutBlank("", side, 1, strip, Rect(0, 0, 31, 21)) for strip, side in ((0, "a"), (1, "b"))]
    like = [("a", 31.0, 21.0), ("b", 31.0, 21.0)]
    assert left_over(blanks, like) == []
    fitting = [CutBlank("", side, 1, 0, Rect(0, 0, 31, 21)) for side in "ab"]
    (run,) = left_over(fitting, like)
    assert {b.code for b in give(fitting, run, "AAAA")} == {"AAAA"}
