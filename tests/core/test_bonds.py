"""Bond and wood on their own, and two factors that depend on each other."""

from __future__ import annotations

import math
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.compare.analysis import analyse
from adhaero.core.compare.bonds import Broken, bonds
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.interactions import Crossed, interactions
from adhaero.core.compare.planned import Setting, judge_families
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.comparisons import Contrast, Family, Within


def piece(load: float, mode: str = "in-glue", wood: float | None = None, *, broke: bool = True) -> Broken:
    return Broken((load, load if broke else math.inf), mode if broke else None, wood, broke)


def test_wood_failures_bound_the_bond_and_the_other_way_round() -> None:
    """Drawn with a bond of 9 and a wood of 10 in the middle, at a scatter of 15 %."""
    rng = np.random.default_rng(4)
    bond, wood = (np.exp(rng.normal(math.log(m), 0.15, 400)) for m in (9.0, 10.0))
    found = bonds("A", [piece(float(min(b, w)), "in-glue" if b < w else "wood-deep")
                        for b, w in zip(bond, wood, strict=True)])  # fmt: skip
    assert found.bond.shapes[0].shape == "lognormal"
    assert found.bond.shapes[0].median == pytest.approx(9.0, rel=0.03)
    assert found.wood.shapes[0].median == pytest.approx(10.0, rel=0.03)
    assert found.bond.shapes[0].q05 == pytest.approx(9 * math.exp(-1.645 * 0.15), rel=0.05)
    assert found.bond.failures + found.wood.failures == 400


def test_without_a_bond_failure_there_is_only_at_least() -> None:
    found = bonds("A", [piece(x, "wood-deep") for x in (7.0, 8.0, 9.0)])
    assert (found.bond.shapes, found.bond.at_least) == ([], 7.0)
    assert found.wood.failures == 3
    one = bonds("A", [piece(7), piece(8, "wood-deep"), piece(9, broke=False)])
    assert one.bond.reason.startswith("one failure")


def test_mixed_failures_count_by_their_wood_and_are_tried_on_either_side() -> None:
    pieces = [piece(7), piece(7.5), piece(9), *(piece(8 + i / 4, "mixed", 60) for i in range(3))]
    found = bonds("A", pieces)
    assert found.mixed == 3
    assert found.bond.failures == 3, "60 % is more than half"
    assert bonds("A", pieces, mixed_at_pct=70).bond.failures == 6
    assert found.if_glue is not None
    assert found.if_wood is not None
    assert found.if_wood > found.if_glue, "as bounds they lift it"
    assert found.if_wood == pytest.approx(found.bond.shapes[0].median)


@settings(deadline=None, max_examples=20)
@given(st.lists(st.floats(4, 12), min_size=4, max_size=10), st.data())
def test_more_at_least_never_lowers_a_bond(loads: list[float], data: st.DataObject) -> None:
    """A bond failure told to be one of the wood instead raises the bond, or leaves no estimate."""
    place = data.draw(st.integers(0, len(loads) - 1))
    before = bonds("A", [piece(x) for x in loads])
    after = bonds("A", [piece(x, "wood-deep" if i == place else "in-glue") for i, x in enumerate(loads)])

    def lognormal(b: object) -> float | None:
        return next((s.median for s in b.bond.shapes if s.shape == "lognormal"), None)  # type: ignore[attr-defined]

    if (low := lognormal(before)) is not None and (high := lognormal(after)) is not None:
        assert high >= low * (1 - 1e-6)


PREP, WOOD = Crossed("prep", "Prep", ("planed", "sawn")), Crossed("species", "Species", ("ash", "oak"))


def crossed(truth: dict[str, float], seed: int = 2, *, at_least: bool = False) -> list[str]:
    """What is said of two preps in two woods, six pieces of each."""
    rng = np.random.default_rng(seed)
    cells = dict(zip("ABCD", product((0, 1), (0, 1)), strict=True))
    groups = [
        Group(x, x, "joint", None, [Piece(f"{x}{i}", Datum(Known.EXACT, v, v), Kind.EXACT) for i, v in enumerate(
            (truth[x] * np.exp(rng.normal(0, 0.06, 6))).tolist())]) for x in "ABCD"
    ]  # fmt: skip
    if at_least:
        groups[0] = Group("A", "A", "joint", None, [Piece("A", Datum(Known.AT_LEAST, 5, math.inf), Kind.AT_LEAST)])
    s = Setting({r.group.letter: r for r in analyse(groups).rows})
    pairs = (Within("C", "A", "ash"), Within("D", "B", "oak"))
    family = Family("factor:prep", "factor", "", (Contrast("sawn against planed", "sawn", "planed", pairs),), "prep")
    return [x.text for x in interactions([PREP, WOOD], cells, s, judge_families([family], s))]


def test_where_one_depends_on_the_other_it_is_said_where_it_matters() -> None:
    (text,) = crossed({"A": 10, "B": 10, "C": 9.9, "D": 5})
    assert text.startswith("What prep does depends on species (p < 0.001): ")
    assert text.endswith("prep matters on oak, and is not shown to on ash.")


def test_the_same_ratio_in_each_is_no_dependence() -> None:
    (text,) = crossed({"A": 10, "B": 4, "C": 5, "D": 2})
    assert "that one depends on the other is not shown" in text
    assert text.startswith("Prep p < 0.001, species p < 0.001")


def test_with_bounds_nothing_is_said_of_it() -> None:
    assert crossed({"A": 10, "B": 4, "C": 5, "D": 2}, at_least=True) == []
