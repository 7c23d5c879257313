"""Layout and allocation: nothing overlaps, nothing lies on a defect, boards carry the treatments evenly, few boards."""

from __future__ import annotations

import itertools
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.cut.blanks import Blank, blanks
from adhaero.core.cut.cutlist import Cutting, Wanted, cautions, cutting, fences, stops, uneven
from adhaero.core.cut.layout import Board, Need, Rect, Saw, fewest_boards, places
from adhaero.core.cut.measurements import mean_of
from adhaero.core.method import nominal_sizes
from adhaero.core.method_catalogue import METHODS
from adhaero.core.plan.allocation import balance, counts, loads
from adhaero.core.quantity import Dimension

SAW = Saw()
HALVES = Need((Blank("a", 31, 20, 20), Blank("b", 31, 20, 20)), SAW)
SOLID = Need((Blank("a", 37, 20, 40),), SAW)


def board(
    id_: int = 1, length: float = 1000, width: float = 120, thick: float = 25, defects: tuple[Rect, ...] = ()
) -> Board:
    return Board(id_, f"B{id_}", "ash", length, width, thick, defects)


def wanted(treatments: int, each: int, need: Need = HALVES, species: str = "ash") -> list[Wanted]:
    return [Wanted(f"T{t}-{r}", t, species, need) for t in range(treatments) for r in range(each)]


def check_layout(found: Cutting, boards: list[Board], saw: Saw) -> None:
    """An independent look at the drawing: inside the trimmed board, off the defects, a kerf between all blanks."""
    by_id = {b.id: b for b in boards}
    for board_id, own in itertools.groupby(sorted(found.blanks, key=lambda b: b.board_id), key=lambda b: b.board_id):
        rects, b = [x.rect for x in own], by_id[board_id]
        for r in rects:
            assert r.x >= saw.end_trim - 1e-6
            assert r.x + r.length <= b.length_mm - saw.end_trim + 1e-6
            assert r.y >= saw.edge_trim - 1e-6
            assert r.y + r.width <= b.width_mm - saw.edge_trim + 1e-6
            assert not any(r.overlaps(d) for d in b.defects)
        for first, second in itertools.combinations(rects, 2):
            grown = Rect(first.x, first.y, first.length + saw.kerf - 1e-6, first.width + saw.kerf - 1e-6)
            left = Rect(second.x, second.y, second.length + saw.kerf - 1e-6, second.width + saw.kerf - 1e-6)
            assert not grown.overlaps(second) or not left.overlaps(first)
            assert not first.overlaps(second)


def test_how_many_fit_by_hand() -> None:
    """1000 mm less 2 x 25 leaves 950: a place of 31 + 3 + 31 + 3 = 68, the last kerf into the trim: 14 of them.

    120 less 2 x 5 leaves 110: strips of 21 with 3 of kerf: 4 (4 x 24 - 3 = 93; five would take 117).
    """
    assert len(places(board(), HALVES)) == 14 * 4


def test_a_board_too_thin_is_turned_on_edge_or_refused() -> None:
    assert SOLID.strip_mm(board(thick=25)) == 41
    assert SOLID.strip_mm(board(thick=45)) == 21
    assert SOLID.strip_mm(board(thick=15)) is None
    assert places(board(thick=15), HALVES) == []


def test_strips_dodge_a_defect() -> None:
    """A long knot in the lower edge: the first rip moves above it, and nothing is lost."""
    knot = Rect(100, 0, 800, 20)
    found = places(board(defects=(knot,)), HALVES)
    assert len(found) == 14 * 4
    assert min(p.rect.y for p in found) >= 20
    middle = Rect(480, 40, 20, 40)
    assert 14 * 3 < len(places(board(defects=(middle,)), HALVES)) < 14 * 4


rects = st.builds(Rect, st.floats(0, 900), st.floats(0, 180), st.floats(5, 120), st.floats(5, 60))


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.integers(300, 1500), st.integers(60, 220), st.lists(rects, max_size=3)), min_size=1,
             max_size=4),
    st.integers(1, 6), st.integers(1, 12), st.floats(1, 5), st.integers(0, 9999),
)  # fmt: skip
def test_layouts_are_sound(
    shapes: list[tuple[int, int, list[Rect]]], treatments: int, each: int, kerf: float, seed: int
) -> None:
    saw = Saw(kerf=kerf)
    need = Need(HALVES.blanks, saw)
    solid = Need(SOLID.blanks, saw)
    boards = [Board(i, f"B{i}", "ash", a, w, 25, tuple(d)) for i, (a, w, d) in enumerate(shapes)]
    pieces = wanted(treatments, each, need) + [Wanted(f"S{i}", 99, "ash", solid) for i in range(4)]
    found = cutting(pieces, boards, seed)
    check_layout(found, boards, saw)
    placed = {b.code for b in found.blanks if b.code}
    assert len(placed) + sum(s.pieces for s in found.short) == len(pieces)
    for w in pieces:
        own = [b for b in found.blanks if b.code == w.code]
        assert len(own) in (0, len(w.need.blanks))
        assert len({b.board_id for b in own}) <= 1, "mating halves come from one board"
    assert found == cutting(pieces, boards, seed)


def independent_spread(found: Cutting, treatments: range) -> int:
    """Largest difference of counts between two treatments on one board."""
    per = {b: [found.table.get(t, {}).get(b, 0) for t in treatments] for b in found.boards}
    return max(max(v) - min(v) for v in per.values())


def test_every_board_carries_each_treatment_as_often_as_any_other() -> None:
    """200 random instances with equal replicates: counts on a board differ by one at most, boards are the fewest."""
    rng = random.Random(17)
    for instance in range(200):
        treatments, each = rng.randint(2, 12), rng.randint(1, 10)
        boards = [board(i, rng.randint(300, 1200), rng.randint(50, 160)) for i in range(rng.randint(1, 9))]
        pieces = wanted(treatments, each)
        capacity = [len(places(b, HALVES)) for b in boards]
        found = cutting(pieces, boards, instance)
        if sum(capacity) < len(pieces):
            assert found.short
            assert found.short[0].pieces == len(pieces) - sum(capacity)
            continue
        assert independent_spread(found, range(treatments)) <= 1
        assert found.balance.worst == 0
        assert len(found.boards) <= (fewest_boards(capacity, len(pieces)) or 0) + 1
        assert found.lower_bound == fewest_boards(capacity, len(pieces))


def test_six_treatments_on_eight_boards_of_six_places() -> None:
    """Every board has each treatment once, and the order of places differs between boards."""
    boards = [board(i, 2 * 25 + 3 * 68 - 3, 2 * 5 + 2 * 24 - 3) for i in range(8)]
    assert all(len(places(b, HALVES)) == 6 for b in boards)
    found = cutting(wanted(6, 8), boards, 41)
    assert {t: dict(c) for t, c in found.table.items()} == {t: dict.fromkeys(range(8), 1) for t in range(6)}
    orders = {tuple(b.code[:2] for b in found.blanks if b.board_id == i and b.side == "a") for i in range(8)}
    assert len(orders) > 1
    assert not found.balance.confounded


def test_one_board_for_each_treatment_is_called_confounded() -> None:
    boards = [board(i, 2 * 25 + 3 * 68 - 3, 2 * 5 + 2 * 24 - 3) for i in range(4)]
    found = cutting(wanted(4, 6), boards, 1, share="treatment")
    assert found.balance.confounded
    assert found.balance.worst > 0
    assert not cutting(wanted(4, 6), boards, 1).balance.confounded


def test_short_of_wood_says_how_much_and_stays_even() -> None:
    boards = [board(length=2 * 25 + 3 * 68 - 3, width=2 * 5 + 2 * 24 - 3)]
    found = cutting(wanted(4, 2), boards, 3)
    assert (found.short[0].pieces, found.short[0].strip_mm, found.short[0].length_mm) == (2, 21, 2 * 68)
    assert independent_spread(found, range(4)) == 1
    assert cutting(wanted(2, 2, species="birch"), boards, 3).short[0].species == "birch"


@given(
    st.lists(st.integers(1, 12), min_size=2, max_size=10),
    st.lists(st.integers(0, 30), min_size=1, max_size=8),
    st.integers(0, 99),
)
@settings(max_examples=80, deadline=None)
def test_counts_are_rounded_fair_shares(pieces: list[int], capacity: list[int], seed: int) -> None:
    if sum(capacity) < sum(pieces):
        with pytest.raises(ValueError, match="cannot hold"):
            loads(capacity, sum(pieces))
        return
    used = loads(capacity, sum(pieces))
    assert sum(used) == sum(pieces)
    assert all(u <= c for u, c in zip(used, capacity, strict=True))
    table = counts(pieces, used, random.Random(seed))
    assert [sum(r) for r in table] == pieces
    assert [sum(c) for c in zip(*table, strict=True)] == used
    assert balance(table).worst == 0


def test_balance_sees_a_board_that_favours_a_treatment() -> None:
    assert balance([[4, 0], [2, 2]]).worst == 1
    assert balance([[6, 0], [0, 6]]).worst == 3
    assert balance([[3, 3], [3, 3]]).worst == 0


def test_stops_and_fences_are_a_short_list() -> None:
    assert stops([HALVES, SOLID]) == [31, 37]
    assert fences([HALVES, SOLID], [board()]) == [21, 41]


def test_short_blanks_bring_their_caution() -> None:
    assert "31 mm" in cautions([HALVES], [board()])[0]
    assert any("300 mm" in text for text in cautions([HALVES], [board(length=250)]))
    assert cautions([Need((Blank("a", 400, 30, 20),), SAW)], [board()]) == []


def test_strip_and_board_count_of_a_hand_calculation() -> None:
    """264 members of 40 mm with 3 mm of kerf in strips of 2.4 m: 55 each, so 5 strips (11,352 mm in all)."""
    need = Need((Blank("a", 40, 30, 20),), Saw(end_trim=0, edge_trim=0))
    strips = [board(i, 2400, 31) for i in range(8)]
    assert len(places(strips[0], need)) == 55
    assert fewest_boards([55] * 8, 264) == 5
    assert 264 * need.length_mm == 11_352


@pytest.mark.parametrize("key", sorted(METHODS))
def test_every_method_has_blanks_for_its_pieces(key: str) -> None:
    sizes = nominal_sizes(METHODS[key])
    joint = blanks(key, "joint", sizes)
    assert [b.side for b in joint] == list("abc"[: len(joint)])
    assert all(min(b.length_mm, b.width_mm, b.thickness_mm) > 0 for b in joint)
    if METHODS[key].solid:
        assert len(blanks(key, "solid", sizes)) == 1


def test_a_solid_bar_is_as_long_as_the_jointed_one() -> None:
    sizes = nominal_sizes(METHODS["bend-three-point"])
    halves, (bar,) = (blanks("bend-three-point", role, sizes) for role in ("joint", "solid"))
    assert bar.length_mm == sum(b.length_mm for b in halves)


def test_all_boards_make_more_blocks() -> None:
    boards = [board(i, 600, 100) for i in range(5)]
    few, every = (cutting(wanted(4, 5), boards, 2, share=s) for s in ("fewest", "all"))
    assert (len(few.boards), len(every.boards)) == (1, 5)
    assert {t: dict(c) for t, c in every.table.items()} == {t: dict.fromkeys(range(5), 1) for t in range(4)}


def blank_of(length: float, width: float, thickness: float) -> Wanted:
    return Wanted("c1", 0, "ash", Need((Blank("a", length, width, thickness),), Saw()))


@pytest.mark.parametrize(
    ("piece", "cause"),
    [
        (blank_of(100, 60, 40), "too thin"),
        (blank_of(100, 150, 15), "too narrow"),
        (blank_of(990, 60, 15), "too short"),
        (blank_of(100, 60, 15), "taken up"),
    ],
)
def test_what_a_board_fails_by_is_named(piece: Wanted, cause: str) -> None:
    """1000 x 150 x 22 mm: 20 mm finished, 140 between its edges, 950 between its ends; or full of a defect."""
    defects = (Rect(0, 0, 1000, 150),) if cause == "taken up" else ()
    found = cutting([piece], [Board(1, "A", "ash", 1000, 150, 22, defects)], seed=1)
    assert [dict(s.why) for s in found.short] == [{cause: 1}]


def test_solid_pieces_come_from_every_board_that_the_joints_come_from() -> None:
    """Two boards are needed for the joints; two solid bars go one on each of them, and not both on one."""
    boards = [Board(i, f"B{i}", "ash", 1000, 130, 25) for i in (1, 2)]
    joints = [Wanted(f"j{i}", i % 2, "ash", Need((Blank("a", 250, 40, 20),), Saw())) for i in range(8)]
    solid = [Wanted(f"s{i}", 2, "ash", Need((Blank("a", 280, 20, 20),), Saw())) for i in range(2)]
    found = cutting([*joints, *solid], boards, seed=3)
    home = {b.code: b.board_id for b in found.blanks if b.code}
    assert {home["s0"], home["s1"]} == {1, 2}
    assert uneven(home, [*joints, *solid], {2}) == []
    assert uneven({**home, "s0": 1, "s1": 1}, [*joints, *solid], {2}) == [(2, 1, 2)]


def test_the_shops_own_safe_length_is_the_one_that_is_warned_of() -> None:
    needs = [blank_of(180, 40, 20).need]
    assert not any("too short to hold" in c for c in cautions(needs, []))
    assert any("180 mm are too short to hold" in c for c in cautions(needs, [], safe_mm=200))


@pytest.mark.parametrize(
    ("text", "mean"),
    [
        ("24.6", 24.6),
        ("0.16; 0.18; 0.20", 0.18),
        ("0,5, 0,7 mm", 0.6),
        ("1/32; 1/16 in", 25.4 * 3 / 64),
        ("1; 2 cm", 15),
    ],
)  # fmt: skip
def test_several_readings_are_averaged(text: str, mean: float) -> None:
    assert mean_of(text, Dimension.LENGTH, "mm") == pytest.approx(mean)
