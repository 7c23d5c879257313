"""How far a treatment is: left out, not broken, fallen apart, excluded and proof loaded are five things."""

from __future__ import annotations

import math

import pytest

from adhaero.core.compare.analysis import analyse
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.standing import Standing, several, standing
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known

NONE = Datum(Known.NONE, math.nan, math.nan, "")
FELL = Datum(Known.BELOW, 0.0, 0.0)


@pytest.mark.parametrize(
    ("pieces", "left_out", "found"),
    [
        ([Piece("A", NONE)], (), Standing.STILL_TO_BREAK),
        ([], ("spoiled mix",), Standing.LEFT_OUT),
        ([Piece("A", FELL, Kind.FELL_APART), Piece("B", FELL, Kind.FELL_APART)], (), Standing.NOTHING_LEFT),
        ([Piece("A", NONE, Kind.VOID)], (), Standing.EXCLUDED),
        ([Piece("A", NONE, Kind.PROOF)], (), Standing.PROOF_LOADED),
        ([Piece("A", NONE, Kind.SEEN)], (), Standing.NO_LOAD),
        ([Piece("A", Datum(Known.EXACT, 5.0, 5.0), Kind.EXACT), Piece("B", NONE)], (), Standing.COUNTS),
    ],
)
def test_each_way_to_have_no_figure_is_told_as_itself(
    pieces: list[Piece], left_out: tuple[str, ...], found: Standing
) -> None:
    a = analyse([Group("A", "Epoxy", "joint", None, pieces, left_out=left_out)], fallen_as_zero=False)
    assert standing(a.rows[0].group, a.rows[0].summary) is found


def test_a_failed_proof_load_is_no_unbroken_piece() -> None:
    a = analyse([Group("A", "Epoxy", "joint", None, [Piece("A", NONE, Kind.PROOF), Piece("B", NONE)])])
    assert a.rows[0].unbroken == 1


def test_of_several_the_verb_is_plural() -> None:
    assert several(["2 h", "4 h"], Standing.LEFT_OUT) == "were left out"
    assert several(["2 h"], Standing.LEFT_OUT) == "was left out"
    assert several(["2 h", "4 h"], Standing.NOTHING_LEFT) == "fell apart"
