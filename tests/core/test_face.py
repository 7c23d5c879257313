"""Maps of broken faces, agreement of assessors, and proposals from pictures of drawn faces whose truth is known."""

from __future__ import annotations

from datetime import UTC, datetime

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from adhaero.core.breaking.face import FaceMap, Verdict, agreement, checked, counting, verdict_of, wood_pct
from adhaero.core.breaking.face_photo import CELL, propose
from adhaero.core.refusal import Refusal

GRID = (12, 8)
WOODS = [(0.62, 0.45, 0.30), (0.78, 0.62, 0.42), (0.45, 0.28, 0.20), (0.70, 0.52, 0.40)]
GLUES = [(0.86, 0.82, 0.70), (0.55, 0.50, 0.42), (0.35, 0.20, 0.18), (0.80, 0.80, 0.78), (0.60, 0.48, 0.30)]


def drawn(seed: int, share: float) -> tuple[np.ndarray, float]:
    """A face: torn wood with fibres in patches over smooth glue; the share of wood that was drawn, %."""
    rng = np.random.default_rng(seed)
    h, w = GRID[1] * CELL, GRID[0] * CELL
    blobs = gaussian_filter(rng.normal(size=(h, w)), 14)
    wood = blobs > np.quantile(blobs, 1 - share) if 0 < share < 1 else np.full((h, w), share >= 1)
    fibres = gaussian_filter(rng.normal(size=(h, w)), (0.8, 5)) * 0.45 + rng.normal(0, 0.05, (h, w))
    light = 1 + 0.12 * np.linspace(-1, 1, w) * rng.uniform(-1, 1)
    base_wood, base_glue = WOODS[seed % len(WOODS)], GLUES[(seed * 7) % len(GLUES)]
    image = np.empty((h, w, 3))
    for c in range(3):
        torn = base_wood[c] * (1 + fibres)
        glue = base_glue[c] + gaussian_filter(rng.normal(size=(h, w)), 10) * 0.15 + rng.normal(0, 0.012, (h, w))
        image[..., c] = np.where(wood, torn, glue) * light
    return np.clip(image, 0, 1), 100 * float(wood.mean())


def test_a_proposal_is_near_the_truth_of_drawn_faces() -> None:
    shares = [0.0, 0.1, 0.25, 0.4, 0.5, 0.6, 0.75, 0.9, 1.0]
    off = []
    for seed in range(30):
        image, truth = drawn(seed, shares[seed % len(shares)])
        cells = propose(image, *GRID)
        off.append(abs(100 * cells.count("w") / len(cells) - truth))
    assert float(np.mean(off)) < 5
    # A light glue on dark wood is taken for the wood now and then: a person looks at every proposal.
    assert sum(o <= 10 for o in off) >= 27


def test_shares_of_a_map() -> None:
    """6 of 24 fields void: 25 %."""
    m = checked(6, 4, "v" * 6 + "w" * 12 + "g" * 6, "map")
    assert m.shares == {"g": 25.0, "w": 50.0, "v": 25.0}
    half = FaceMap(6, 4, "." * 12 + "w" * 3 + "g" * 9)
    assert half.shares == {"g": 75.0, "w": 25.0}


def test_wood_on_either_face_is_wood() -> None:
    """Laid open, the left field of one face lay on the right field of the other."""
    a = FaceMap(6, 4, ("w" + "g" * 5) * 4)
    same = FaceMap(6, 4, ("g" * 5 + "w") * 4)
    other = FaceMap(6, 4, ("w" + "g" * 5) * 4)
    assert wood_pct({"A": a}) == pytest.approx(100 / 6)
    assert wood_pct({"A": a, "B": same}) == pytest.approx(100 / 6)
    assert wood_pct({"A": a, "B": other}) == pytest.approx(200 / 6)
    assert wood_pct({}) is None
    assert wood_pct({"A": FaceMap(6, 4, "." * 24)}) is None


def test_agreement_counts_pairs_on_the_same_face() -> None:
    found = agreement([{"Ann": 40, "Bo": 50}, {"Ann": 80}, {"Ann": 0, "Bo": 30, "Cy": 10}])
    assert found is not None
    assert (found.faces, found.pairs, found.most_off) == (2, 4, 30)
    assert found.mean_off == pytest.approx((10 + 30 + 10 + 20) / 4)
    assert found.within_ten_pct == 50
    assert agreement([{"Ann": 40}]) is None


@pytest.mark.parametrize(("columns", "rows", "cells"), [(5, 4, "w" * 20), (6, 4, "w" * 23), (6, 4, "x" * 24)])
def test_no_map(columns: int, rows: int, cells: str) -> None:
    with pytest.raises(Refusal):
        checked(columns, rows, cells, "map")


def test_a_single_judged_face_speaks_for_the_joint() -> None:
    b = FaceMap(6, 4, "w" * 12 + "." * 12)
    assert wood_pct({"B": b}) == 100
    # Grids that do not fit each other are not laid upon each other: all fields count.
    assert wood_pct({"A": FaceMap(6, 4, "g" * 24), "B": FaceMap(12, 8, "w" * 96)}) == pytest.approx(80)


def test_a_face_that_is_mirrored_twice_is_itself() -> None:
    m = FaceMap(6, 4, "wgvbs." * 4)
    assert m.mirrored() == ".sbvgw" * 4
    assert FaceMap(6, 4, m.mirrored()).mirrored() == m.cells


def test_of_each_assessor_the_last_verdict_counts() -> None:
    at = datetime(2026, 11, 23, tzinfo=UTC)
    said = [Verdict(who, at, "steps", pct) for who, pct in (("Ann", 25), ("Bo", 50), ("Ann", 75))]
    assert [(v.assessor, v.wood_pct) for v in counting(said)] == [("Ann", 75), ("Bo", 50)]


def test_a_stored_verdict_is_read_with_its_proposal() -> None:
    at = datetime(2026, 11, 23, tzinfo=UTC)
    value = {"assessor": "Ann", "how": "map", "wood_pct": 50, "maps": {"A": [6, 4, "w" * 12 + "g" * 12]},
             "proposed": {"A": "w" * 6 + "g" * 18}}  # fmt: skip
    found = verdict_of(value, at)
    assert (found.maps["A"].shares, found.proposed_pct) == ({"g": 50, "w": 50}, 25)
    assert verdict_of({**value, "maps": {}, "proposed": {}}, at).proposed_pct is None
