"""Loads in steps: how many steps apart, from one or two pieces, without a claim."""

from __future__ import annotations

import math

import pytest

from adhaero.core.compare.analysis import analyse
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.saying import said
from adhaero.core.compare.steps import in_words
from adhaero.core.compare.verdict import Verdict, judge
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.comparisons import Contrast, Family, Within

LADDER = (13.0, 63.0, 113.0, 138.0, 163.0)
"""A bucket of 13 N, then plates."""


def bore(rung: int | None) -> Datum:
    """Gave way between this rung and the next; ``None`` bore all of them."""
    if rung is None:
        return Datum(Known.AT_LEAST, LADDER[-1], math.inf)
    return Datum(Known.BETWEEN, LADDER[rung], LADDER[rung + 1])


def told(*pairs: tuple[list[int | None], list[int | None]]) -> Verdict:
    """Frozen against fresh in several glues; a further treatment stands on every rung, so that the ladder is known."""
    groups, within = [], []
    for g, (frozen, fresh) in enumerate(pairs):
        for what, rungs in (("frozen", frozen), ("fresh", fresh)):
            letter = f"{what}{g}"
            pieces = [Piece(f"{letter}{i}", bore(r), Kind.BETWEEN) for i, r in enumerate(rungs)]
            groups.append(Group(letter, f"{what} {g}", "joint", None, pieces))
        within.append(Within(f"frozen{g}", f"fresh{g}", f"glue {g}"))
    groups.append(Group("all", "all", "joint", None, [Piece(f"x{r}", bore(r), Kind.BETWEEN) for r in range(4)]))
    family = Family("f", "factor", "", (Contrast("frozen", "frozen", "fresh", tuple(within)),), "bottle", "glue")
    return judge(analyse(groups), lambda v: f"{v:.0f} N", families=[family])


@pytest.mark.parametrize(
    ("frozen", "fresh", "words"),
    [
        ([0], [2], "two steps lower"),
        ([2], [2], "the same step"),
        ([3], [2], "one step higher"),
        ([None], [1], "at least three steps higher"),
        ([1], [None], "at least three steps lower"),
        ([None], [None], "the same step"),
        ([0, 1], [2, 2], "1.5 steps lower"),
    ],
)
def test_steps_in_words(frozen: list[int | None], fresh: list[int | None], words: str) -> None:
    v = told((frozen, fresh))
    assert v.case is not None
    (j,) = v.results[0].comparisons
    assert in_words(j, v.case.setting) == words


def test_nothing_is_claimed_from_one_piece() -> None:
    v = told(([0], [2]), ([2], [2]), ([None], [3]), ([0], [3]), ([0], [1]))
    assert v.case is not None
    texts = [said(v.case, v.results[0].family, j) for j in v.results[0].comparisons]
    assert any(t.startswith("frozen 0 against fresh 0: two steps lower was seen; one piece") for t in texts)
    assert not any("weaker" in t or "stronger" in t for t in texts)
