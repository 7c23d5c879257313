"""What treatments share, taken out of the planned comparisons: where it is, where it is not, and what it changes."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.compare.analysis import analyse
from adhaero.core.compare.as_study import Shared
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import BLOCKS, FALLEN, MEANS, FamilyResult, Over, Setting, judge_families
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.comparisons import Contrast, Family, Within

BOARDS = 5


def datum(v: float, *, held: bool = False) -> Datum:
    return Datum(Known.AT_LEAST, v, math.inf) if held else Datum(Known.EXACT, v, v)


def group(letter: str, values: Sequence[Datum]) -> Group:
    return Group(letter, letter, "joint", None, [Piece(f"{letter}{i}", d, Kind.EXACT) for i, d in enumerate(values)])


def on_boards(ratios: Sequence[float], seed: int, *, boards: float = 0.3, scatter: float = 0.05) -> list[Group]:
    """One piece of each treatment on every board; boards differ by ``boards``."""
    rng = np.random.default_rng(seed)
    board = rng.normal(0, boards, BOARDS)
    return [
        group(letter, [datum(v) for v in (100 * ratio * np.exp(board + rng.normal(0, scatter, BOARDS))).tolist()])
        for letter, ratio in zip("ABCD", ratios, strict=False)
    ]


def shared(groups: Sequence[Group], *, planned: bool = False) -> Shared:
    return Shared("board", planned, {p.code: f"board {p.code[1:]}" for g in groups for p in g.pieces})


def judged(groups: Sequence[Group], s: Shared | None) -> FamilyResult:
    rows = {r.group.letter: r for r in analyse(groups).rows}
    contrasts = tuple(Contrast(g.letter, g.letter, "A", (Within(g.letter, "A"),)) for g in groups if g.letter != "A")
    (found,) = judge_families([Family("f", "factor", "", contrasts, "glue")], Setting(rows, shared=s))
    return found


def route(found: FamilyResult) -> str:
    (only,) = {j.route for j in found.comparisons}
    return only


def test_boards_that_differ_are_taken_out_and_tell_what_was_hidden() -> None:
    groups = on_boards((1.0, 1.2, 1.0), seed=3)
    plain, within = judged(groups, None), judged(groups, shared(groups))
    assert {j.outcome for j in plain.comparisons} == {Outcome.UNKNOWN}
    assert (route(plain), route(within)) == (MEANS, BLOCKS)
    assert next(j.outcome for j in within.comparisons) is Outcome.BETTER
    assert list(within.left_in) == plain.comparisons, "both are told"
    assert within.shared is not None
    assert within.shared.blocks == BOARDS
    assert within.shared.taken_out > 0.8


def test_boards_that_are_alike_stay_in_unless_the_plan_states_them() -> None:
    groups = on_boards((1.0, 1.2), seed=4, boards=0.0)
    assert route(judged(groups, shared(groups))) == MEANS
    assert route(judged(groups, shared(groups, planned=True))) == BLOCKS


def test_boards_that_each_carry_one_treatment_take_nothing_out() -> None:
    groups = on_boards((1.0, 1.2), seed=5)
    own = Shared("board", True, {p.code: p.code[0] for g in groups for p in g.pieces})
    assert route(judged(groups, own)) == MEANS


def test_pieces_of_unknown_boards_are_not_left_out_silently() -> None:
    """Where more than a tenth has no board, all pieces are compared as they are."""
    groups = on_boards((1.0, 1.2), seed=6)
    s = shared(groups, planned=True)
    some = Shared(s.name, True, {c: b for c, b in s.of.items() if c not in ("A0", "B0")})
    assert route(judged(groups, some)) == MEANS


def test_bounds_are_taken_within_boards_too() -> None:
    groups = on_boards((1.0, 1.25, 1.1), seed=7)
    groups[1] = group("B", [datum(p.datum.low, held=i == 2) for i, p in enumerate(groups[1].pieces)])
    found = judged(groups, shared(groups))
    assert route(found) == BLOCKS
    assert found.comparisons[0].outcome is Outcome.BETTER
    never = [group("A", [datum(p.datum.low) for p in groups[0].pieces]),
             group("B", [datum(p.datum.low, held=True) for p in groups[1].pieces])]  # fmt: skip
    never_failed = judged(never, shared(never)).comparisons[0]
    assert never_failed.ratio is None, "a treatment that never failed has a bound, and no ratio"
    assert never_failed.outcome is Outcome.BETTER


def test_what_fell_apart_is_counted_apart_within_boards_too() -> None:
    groups = on_boards((1.0, 1.2), seed=8)
    groups[1] = group("B", [Datum(Known.BELOW, 0, 0), *(p.datum for p in groups[1].pieces[1:])])
    (one,) = judged(groups, shared(groups, planned=True)).comparisons
    assert one.route == BLOCKS
    assert one.ratio == pytest.approx(1.2, rel=0.1), "it lowers no mean"
    gone = [groups[0], group("B", [Datum(Known.BELOW, 0, 0)] * 5)]
    (all_,) = judged(gone, shared(gone, planned=True)).comparisons
    assert (all_.route, all_.outcome) == (FALLEN, Outcome.WORSE)


@settings(deadline=None, max_examples=8)
@given(st.integers(0, 5000), st.floats(0.2, 5))
def test_whole_boards_may_be_stronger_without_a_change_of_outcomes(seed: int, factor: float) -> None:
    """With bounds the model is one of ratios: a board that holds several times as much changes no comparison."""
    groups = on_boards((1.0, 1.2, 0.9), seed=seed)
    groups[2] = group("C", [datum(p.datum.low, held=i == 0) for i, p in enumerate(groups[2].pieces)])
    scaled = [
        group(g.letter, [datum(p.datum.low * (factor if i == 1 else 1), held=p.datum.known is Known.AT_LEAST)
                         for i, p in enumerate(g.pieces)]) for g in groups
    ]  # fmt: skip
    before, after = (judged(x, shared(x, planned=True)) for x in (groups, scaled))
    assert route(before) == route(after) == BLOCKS
    for a, b in zip(before.comparisons, after.comparisons, strict=True):
        assert a.ratio is not None
        assert b.ratio == pytest.approx(a.ratio, rel=1e-4)
        assert b.p == pytest.approx(a.p, rel=1e-3, abs=1e-9)


def over_two(ratios: Sequence[float], seed: int) -> Over:
    """B against A and D against C, within boards, over both."""
    groups = on_boards(ratios, seed=seed, scatter=0.02)
    rows = {r.group.letter: r for r in analyse(groups).rows}
    both = Contrast("less", "less", "more", (Within("B", "A", "ash"), Within("D", "C", "oak")))
    s = Setting(rows, shared=shared(groups, planned=True))
    return judge_families([Family("f", "factor", "", (both,), "glue", "wood")], s)[0].pooled[0]


def test_pooled_over_pairs_of_one_fit_their_ratios_agree_or_not() -> None:
    over = over_two((1.0, 0.8, 1.0, 0.5), 9)
    assert over.ratio == pytest.approx(math.sqrt(0.8 * 0.5), rel=0.05)
    assert not over.agree, "a fifth and a half less are not one ratio"
    alike = over_two((1.0, 0.8, 1.0, 0.8), 10)
    assert alike.agree
    assert alike.ratio == pytest.approx(0.8, rel=0.08)
