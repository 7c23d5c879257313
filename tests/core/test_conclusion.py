"""Conclusions of the user's own against figures whose truth is plain."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest

from adhaero.core.compare.analysis import Row, analyse
from adhaero.core.compare.as_study import Shared
from adhaero.core.compare.conclusion import ALIKE, BORNE_OUT, CONTRADICTED, OPEN, hold, text_of
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import MEANS, Judged, Setting
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.claim_kinds import SAME, SHARE, STRONGER, WEAKER


def group(letter: str, values: list[float], modes: list[str | None] | None = None) -> Group:
    modes = modes or ["in-glue"] * len(values)
    pieces = [Piece(f"{letter}{i}", Datum(Known.EXACT, v, v), Kind.EXACT, m)
              for i, (v, m) in enumerate(zip(values, modes, strict=True))]  # fmt: skip
    return Group(letter, f"Glue {letter}", "joint", None, pieces)


SOLID = [10.0, 10.2, 9.8, 10.1]
WEAK = [2.2, 2.25, 2.15, 2.2]


def rows(*groups: Group) -> list[Row]:
    return analyse(groups).rows


def held(says: str, own: list[float], against: list[float], share: float = 0.0) -> tuple[str, str]:
    a, b = rows(group("A", own), group("B", against))
    found = hold(says, share, [a], b, Setting({}))
    return found.state, found.why


def test_nearly_equal_to_solid_wood_at_a_fifth_of_it_is_contradicted_with_the_figure() -> None:
    state, why = held(SAME, WEAK, SOLID)
    assert state == CONTRADICTED
    assert "22 %" in why


@pytest.mark.parametrize(("says", "share", "state"), [
    (WEAKER, 0.0, BORNE_OUT), (STRONGER, 0.0, CONTRADICTED), (SHARE, 0.2, BORNE_OUT), (SHARE, 0.5, CONTRADICTED),
])  # fmt: skip
def test_each_kind_by_its_interval(says: str, share: float, state: str) -> None:
    assert held(says, WEAK, SOLID, share)[0] == state


def test_what_scatters_too_much_is_left_open() -> None:
    assert held(STRONGER, [6.0, 14.0, 9.0, 12.0], SOLID)[0] == OPEN
    assert held(SAME, [9.9, 10.1], SOLID)[0] == OPEN, "two pieces bear nothing out"


def bounded(letter: str, values: list[float], held_: float) -> Group:
    """Pieces that broke at these figures, and one that only bore ``held_``."""
    g = group(letter, values)
    return replace(g, pieces=[*g.pieces, Piece(f"{letter}x", Datum(Known.AT_LEAST, held_, math.inf), Kind.AT_LEAST)])


def test_bounds_are_taken_as_bounds_and_hide_no_contradiction() -> None:
    """One piece that did not break leaves the mean open, and not whether the other is nearly as strong."""
    a, b = rows(group("A", [7.0, 7.2, 7.45, 7.1]), bounded("B", [9.8, 10.1, 10.4], 11.0))
    near = hold(SAME, 0.0, [a], b, Setting({}))
    assert near.state == CONTRADICTED
    assert "by medians fitted to limits" in near.why
    assert hold(WEAKER, 0.0, [a], b, Setting({})).state == BORNE_OUT
    assert hold(SHARE, 0.5, [a], b, Setting({})).state == BORNE_OUT
    few, _ = rows(bounded("C", [9.8], 11.0), group("B", SOLID))
    assert hold(WEAKER, 0.0, [a], few, Setting({})).state == OPEN, "of two pieces nothing is told"


def test_one_that_speaks_against_it_is_enough() -> None:
    a, b, c = rows(group("A", WEAK), group("C", [12.0, 12.2, 11.9, 12.1]), group("B", SOLID))
    found = hold(WEAKER, 0.0, [a, b], c, Setting({}))
    assert found.state == CONTRADICTED
    assert "Glue C against Glue B: 120 %" in found.why


def test_the_piece_that_differs_is_named() -> None:
    modes: list[str | None] = ["in-glue", "in-glue", "wood-deep", "in-glue"]
    (a,) = rows(group("A", WEAK, modes))
    found = hold(ALIKE, 0.0, [a], None, Setting({}))
    assert (found.state, found.why) == (CONTRADICTED, "A2 (in the wood, deep), the others in the glue")
    (same,) = rows(group("A", WEAK))
    assert hold(ALIKE, 0.0, [same], None, Setting({})).state == BORNE_OUT
    (unseen,) = rows(group("A", WEAK, ["in-glue", None, "in-glue", "in-glue"]))
    left = hold(ALIKE, 0.0, [unseen], None, Setting({}))
    assert (left.state, "A1" in left.why) == (OPEN, True)


def test_sentences() -> None:
    assert text_of(SAME, 0, ["G4"], "solid ash") == "G4 nearly equals solid ash."
    assert text_of(SHARE, 0.6, ["hide", "fish"], "solid ash") == "Hide and fish bear at least 60 % of solid ash."
    assert text_of(WEAKER, 0, ["hide", "fish"], "solid ash") == "Hide and fish are weaker than solid ash."
    assert text_of(ALIKE, 0, ["hide"], "") == "Hide: no piece differs in how it gave way."


def test_what_the_plan_compares_counts_as_it_was_judged_there() -> None:
    """The page says "can't tell yet" of a planned pair: so does a conclusion about it, either way round."""
    a, b = rows(group("A", WEAK), group("B", SOLID))
    open_ = Judged("A", "B", "", MEANS, Outcome.UNKNOWN, 0.9, 0.7, 1.2, p=0.3)
    for first, second, says in ((a, b, WEAKER), (b, a, STRONGER)):
        assert hold(says, 0.0, [first], second, Setting({}), [open_]).state == OPEN
    sure = Judged("A", "B", "", MEANS, Outcome.WORSE, 0.22, 0.2, 0.25, p=0.001)
    assert hold(STRONGER, 0.0, [b], a, Setting({}), [sure]).state == BORNE_OUT
    assert "455 % (400 to 500 %)" in hold(STRONGER, 0.0, [b], a, Setting({}), [sure]).why


def test_a_pair_that_was_picked_shares_its_risk_with_all_that_could_have_been() -> None:
    """Two of twelve that differ at p = 0.02: enough for a planned comparison, not for one picked out of 66."""
    low, high = [9.0, 10.0, 11.0, 10.0], [11.2, 12.4, 12.0, 11.0]
    others = [group(chr(67 + i), [10.0, 10.5, 9.5, 10.0]) for i in range(10)]
    all_rows = rows(group("A", low), group("B", high), *others)
    a, b = all_rows[:2]
    alone = Setting({r.group.letter: r for r in (a, b)})
    assert hold(WEAKER, 0.0, [a], b, alone).state == BORNE_OUT
    assert hold(WEAKER, 0.0, [a], b, Setting({r.group.letter: r for r in all_rows})).state == OPEN


def test_boards_are_taken_out_of_a_conclusion_as_they_are_of_the_verdict() -> None:
    board = [1.0, 1.5, 2.2, 3.0, 4.1]
    a = group("A", [10 * x * w for x, w in zip(board, (1.00, 1.02, 0.99, 1.01, 1.0), strict=True)])
    b = group("B", [12 * x * w for x, w in zip(board, (1.01, 0.99, 1.0, 1.02, 0.99), strict=True)])
    ra, rb = rows(a, b)
    plain = Setting({"A": ra, "B": rb})
    blocks = Setting({"A": ra, "B": rb},
                     shared=Shared("board", True, {p.code: p.code[1:] for g in (a, b) for p in g.pieces}))  # fmt: skip
    assert hold(WEAKER, 0.0, [ra], rb, plain).state == OPEN
    found = hold(WEAKER, 0.0, [ra], rb, blocks)
    assert found.state == BORNE_OUT
    assert "with blocks taken out" in found.why
