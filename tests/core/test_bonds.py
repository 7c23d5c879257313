"""Bond and wood on their own, and two factors that depend on each other."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.compare.bonds import Broken, bonds


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


@settings(deadline=None, max_examples=10)
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
