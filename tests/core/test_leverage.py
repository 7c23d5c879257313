"""Pieces that carry a claim and outliers, also where boards hide them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pytest

from adhaero.core.claims.claim import Basis
from adhaero.core.claims.judge import Judge
from adhaero.core.claims.leverage import Hangs, hanging
from adhaero.core.compare.analysis import analyse
from adhaero.core.compare.as_study import Shared
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.residuals import of_pieces, residuals
from adhaero.core.compare.verdict import Verdict, judge
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.comparisons import Contrast, Family, Within
from adhaero.core.questions.decide import decide
from adhaero.core.questions.question import Question, QuestionKind
from adhaero.core.questions.study import Cell, Factor, Level, Study, Unit


def group(letter: str, values: Sequence[float]) -> Group:
    pieces = [Piece(f"{letter}{i}", Datum(Known.EXACT, v, v), Kind.EXACT) for i, v in enumerate(values)]
    return Group(letter, f"Glue {letter}", "joint", None, pieces)


def verdict(groups: Sequence[Group], shared: Shared | None) -> Verdict:
    contrasts = tuple(Contrast("", g.letter, "A", (Within(g.letter, "A"),)) for g in groups[1:])
    return judge(analyse(groups), str, families=[Family("f", "factor", "", contrasts, "glue")], shared=shared)


def on_boards(groups: Sequence[Group]) -> Shared:
    return Shared("board", True, {p.code: f"board {p.code[1:]}" for g in groups for p in g.pieces})


def limits(v: Verdict) -> list[str]:
    return [c.text for c in v.caveats]


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
    assert any("B5 is an outlier once the effect of each board is removed" in text for text in limits(within))


def asked(groups: Sequence[Group], *, boards: bool) -> list[Hangs]:
    """What hangs on single pieces, of each group against the first."""
    cells = [
        Cell(
            {"glue": g.letter},
            tuple(Unit(Known.EXACT, p.datum.low, p.datum.low, code=p.code, block=p.code[1:]) for p in g.pieces),
        )
        for g in groups
    ]
    study = Study(
        (Factor("glue", "glue", tuple(Level(g.letter, g.label) for g in groups)),),
        tuple(cells),
        shared=("board", True) if boards else None,
    )
    judge = Judge(study)
    answer = decide(Question(QuestionKind.BETTER_THAN, "glue", groups[0].letter), study, judge)
    return hanging(answer.claims, judge)


def test_a_comparison_of_many_pieces_within_blocks_that_hangs_on_one_says_so() -> None:
    """Sixty pieces: nothing but one that bears a third makes one treatment the weaker."""
    rng = np.random.default_rng(4)
    board = np.exp(rng.normal(0, 0.4, 30))
    first = 100 * board * np.exp(rng.normal(0, 0.04, 30))
    second = 100 * board * np.exp(rng.normal(-0.012, 0.04, 30))
    for wanted in (0.6, 0.5, 0.4, 0.3):
        second[7] = 100 * board[7] * wanted
        groups = [group("A", first.tolist()), group("B", second.tolist())]
        whole, without = (_p(groups, code) for code in ("", "B7"))
        said = any("B7" in h.pieces for h in asked(groups, boards=True))
        # By logarithms here and by plain means there: near the edge they need not agree.
        if min(abs(p - 0.05) for p in (whole, without)) > 0.03:
            assert said == (whole < 0.05 <= without), f"with {wanted}: p {whole}, without {without}"


def _p(groups: Sequence[Group], code: str) -> float:
    """P of the paired comparison on plain figures, but for one piece and its partner on the board."""
    a, b = (np.array([p.datum.low for p in g.pieces if p.code[1:] != code[1:] or not code]) for g in groups)
    from scipy import stats

    return float(stats.ttest_rel(a, b).pvalue)


@pytest.mark.parametrize(("more", "hangs"), [((40, 25, 0, 20, 15), True), ((40, 38, 42, 39, 41), False)])
def test_a_claim_within_boards_that_hangs_on_a_piece_says_so(more: Sequence[float], hangs: bool) -> None:
    """p = 0.037 over five boards, 0.069 without the first of them; forty more on every board hang on none."""
    board = (100.0, 130.0, 80.0, 150.0, 110.0)
    groups = [group("A", board), group("B", [v + m for v, m in zip(board, more, strict=True)])]
    found = asked(groups, boards=True)
    assert bool(found) == hangs
    assert all("B0" in h.pieces for h in found)


def test_one_piece_that_carries_a_claim_is_named() -> None:
    """One low piece hides a difference; without another one there would be none. Of three pieces nothing is said."""
    a = group("A", [1000.0, 1010, 990, 1005, 995, 1000])
    (hidden,) = asked([a, group("B", [960.0, 985, 970, 980, 300, 975])], boards=False)
    assert (hidden.hidden, hidden.pieces) == (True, ("B4",))
    assert not asked([a, group("D", [500.0, 510, 490, 505, 495])], boards=False)
    wide = group("A", [1000.0, 1100, 900, 1050, 950, 1000])
    (hangs,) = asked([wide, group("E", [1114.0, 1214, 1014, 1164, 1064, 1114])], boards=False)
    assert (hangs.hidden, hangs.pieces) == (False, ("E1",))
    assert not asked([group("A", [1000.0, 1100, 900]), group("F", [700.0, 760, 810])], boards=False)


def test_what_hangs_on_nothing_says_nothing() -> None:
    rng = np.random.default_rng(9)
    groups = [group("A", (100 * np.exp(rng.normal(0, 0.05, 8))).tolist()),
              group("B", (60 * np.exp(rng.normal(0, 0.05, 8))).tolist())]  # fmt: skip
    assert not any("outlier" in text for text in limits(verdict(groups, None)))
    assert not asked(groups, boards=False)


def test_many_loads_in_steps_within_blocks_have_no_single_piece_to_hang_on() -> None:
    """Lower ends of 0 have no logarithm: the page once broke on them."""
    cells = tuple(
        Cell({"glue": x}, tuple(
            Unit(Known.BETWEEN, low, low + 50, code=f"{x}{i}", block=str(i % 3))
            for i in range(30) for low in [50.0 * ((top + i % 4) if top else i % 2)]
        ))
        for x, top in (("A", 6), ("B", 0))
    )  # fmt: skip
    levels = tuple(Level(x, x) for x in "AB")
    study = Study((Factor("glue", "glue", levels),), cells, shared=("day", True))
    judge = Judge(study)
    claims = decide(Question(QuestionKind.BETTER_THAN, "glue", "A"), study, judge).claims
    assert {c.basis for c in claims} == {Basis.BLOCKS}
    assert hanging(claims, judge) == []
