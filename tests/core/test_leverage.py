"""Pieces that carry a verdict or lie apart, also where boards hide it."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import pytest

from adhaero.core.compare.analysis import analyse
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.in_blocks import Shared
from adhaero.core.compare.planned import BLOCKS
from adhaero.core.compare.residuals import of_pieces, residuals
from adhaero.core.compare.verdict import Verdict, judge
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.comparisons import Contrast, Family, Within


def group(letter: str, values: Sequence[float]) -> Group:
    pieces = [Piece(f"{letter}{i}", Datum(Known.EXACT, v, v), Kind.EXACT) for i, v in enumerate(values)]
    return Group(letter, f"Glue {letter}", "joint", None, pieces)


def verdict(groups: Sequence[Group], shared: Shared | None) -> Verdict:
    contrasts = tuple(Contrast("", g.letter, "A", (Within(g.letter, "A"),)) for g in groups[1:])
    return judge(analyse(groups), str, families=[Family("f", "factor", "", contrasts, "glue")], shared=shared)


def on_boards(groups: Sequence[Group]) -> Shared:
    return Shared("board", True, {p.code: f"board {p.code[1:]}" for g in groups for p in g.pieces})


def limits(v: Verdict) -> list[str]:
    return [f.text for f in v.findings if f.family == "limitation"]


def test_residuals_are_those_of_least_squares() -> None:
    rng = np.random.default_rng(5)
    n = 60
    treatment, block = rng.integers(0, 4, n), rng.integers(0, 7, n)
    logs = 0.2 * treatment + 0.5 * block + rng.normal(0, 0.1, n)
    design = np.hstack([np.eye(4)[treatment], np.eye(7)[block]])
    wanted = logs - design @ np.linalg.lstsq(design, logs, rcond=None)[0]
    found = residuals(np.exp(logs).tolist(), [f"t{x}" for x in treatment], [f"b{x}" for x in block])
    assert found == pytest.approx(wanted.tolist(), abs=1e-7)


def test_pieces_without_a_board_or_a_load_have_none() -> None:
    found = of_pieces({"A": [("A0", 5.0), ("A1", 0.0), ("A2", 6.0)], "B": [("B0", 4.0)]}, {"A0": "1", "A1": "1"})
    assert set(found) == {"A0"}
    assert of_pieces({"A": [("A0", 5.0)]}, {}) == {}


def test_a_strong_board_hides_a_weak_piece_no_longer() -> None:
    """Boards hold from one to twelve times as much; one piece bears three quarters of what it should on its board."""
    rng = np.random.default_rng(11)
    board = np.array([1.0, 2.0, 3.0, 5.0, 7.0, 9.0, 10.0, 12.0])
    own = [(10 * ratio * board * np.exp(rng.normal(0, 0.01, 8))).tolist() for ratio in (1.0, 1.1, 0.95)]
    own[1][5] *= 0.75
    groups = [group(x, v) for x, v in zip("ABC", own, strict=True)]
    alone, within = verdict(groups, None), verdict(groups, on_boards(groups))
    assert not any("B5" in text for text in limits(alone)), "among boards that differ so it looks like any other"
    assert any("B5 lies apart from the others once each board is taken out" in text for text in limits(within))


def test_a_comparison_of_many_pieces_within_blocks_that_hangs_on_one_says_so() -> None:
    """Sixty pieces: nothing but one that bears a third makes one treatment the weaker."""
    rng = np.random.default_rng(4)
    board = np.exp(rng.normal(0, 0.4, 30))
    first = 100 * board * np.exp(rng.normal(0, 0.04, 30))
    second = 100 * board * np.exp(rng.normal(-0.012, 0.04, 30))
    for wanted in (0.6, 0.5, 0.4, 0.3):
        second[7] = 100 * board[7] * wanted
        groups = [group("A", first.tolist()), group("B", second.tolist())]
        found = verdict(groups, on_boards(groups))
        (result,) = found.results
        assert result.route == BLOCKS
        told = result.comparisons[0].p is not None and result.comparisons[0].p < 0.05
        without = _p_without(groups, "B7")
        said = any("B7" in text and "without" in text for text in limits(found))
        assert said == (told != (without < 0.05)), f"with {wanted}: p {result.comparisons[0].p}, without {without}"


def _p_without(groups: Sequence[Group], code: str) -> float:
    """P of the paired comparison on logarithms, but for one piece and its partner on the board."""
    a, b = (np.array([math.log(p.datum.low) for p in g.pieces if p.code[1:] != code[1:]]) for g in groups)
    from scipy import stats

    return float(stats.ttest_rel(a, b).pvalue)


def test_what_hangs_on_nothing_says_nothing() -> None:
    rng = np.random.default_rng(9)
    groups = [group("A", (100 * np.exp(rng.normal(0, 0.05, 8))).tolist()),
              group("B", (60 * np.exp(rng.normal(0, 0.05, 8))).tolist())]  # fmt: skip
    assert not any("without" in text or "apart" in text for text in limits(verdict(groups, None)))
