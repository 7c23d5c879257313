"""How many more pieces would settle an open comparison: tried by simulation."""

from __future__ import annotations

import numpy as np
import pytest

from adhaero.core.compare.analysis import analyse
from adhaero.core.compare.case import Case
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.how_many import more_of_each
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import FamilyResult, Setting, judge_families
from adhaero.core.compare.verdict import judge
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.comparisons import Contrast, Family, Within

FAMILY = Family("f", "factor", "", (Contrast("b against a", "b", "a", (Within("B", "A"),)),), "glue")


def groups(ratio: float, n: int, cv: float, seed: int | None = None) -> list[Group]:
    """Two treatments of n pieces; without a seed with exactly that mean and scatter."""
    rng = np.random.default_rng(seed)
    found = []
    for letter, mean in (("A", 100.0), ("B", 100.0 * ratio)):
        z = rng.normal(0, 1, n)
        if seed is None:
            z = (z - z.mean()) / z.std(ddof=1)
        values = (mean * (1 + cv * z)).tolist()
        found.append(Group(letter, letter, "joint", None, [
            Piece(f"{letter}{i}", Datum(Known.EXACT, v, v), Kind.EXACT) for i, v in enumerate(values)]))  # fmt: skip
    return found


def asked(ratio: float, n: int = 5, cv: float = 0.1) -> tuple[int | None, Outcome]:
    case: Case | None = judge(analyse(groups(ratio, n, cv)), str, families=[FAMILY]).case
    assert case is not None
    (r,) = case.results
    assert isinstance(r, FamilyResult)
    return more_of_each(case, r, r.comparisons[0]), r.comparisons[0].outcome


@pytest.mark.parametrize(("ratio", "settled"), [(0.88, Outcome.WORSE), (1.0, Outcome.SAME)])
def test_with_so_many_more_it_is_mostly_settled(ratio: float, settled: Outcome) -> None:
    more, outcome = asked(ratio)
    assert outcome is Outcome.UNKNOWN
    assert more is not None
    ended = 0
    for seed in range(200):
        rows = {r.group.letter: r for r in analyse(groups(ratio, 5 + more, 0.1, seed)).rows}
        ended += judge_families([FAMILY], Setting(rows))[0].comparisons[0].outcome is settled
    assert ended > 100, "more often than not"


def test_near_to_what_matters_no_number_settles_it() -> None:
    assert asked(0.9) == (None, Outcome.UNKNOWN)
    assert asked(0.5)[0] is None, "it is settled"
    assert asked(0.95, n=3, cv=0.9)[0] is None, "too scattered for any number that could be made"


def test_more_pieces_leave_fewer_to_make() -> None:
    few, many = asked(0.88, n=4)[0], asked(0.88, n=5)[0]
    assert few is not None
    assert many is not None
    assert many < few
