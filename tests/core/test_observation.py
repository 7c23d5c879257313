"""Observations keep what they are, from the bench to the strength."""

from __future__ import annotations

import math
from dataclasses import replace
from datetime import UTC, datetime

import pytest

from adhaero.core.glue.clamping import crushes, force_n, pressure_mpa
from adhaero.core.joint import Adherend, Face, adherends, pairing
from adhaero.core.joint_forms import FORMS
from adhaero.core.method import nominal_sizes
from adhaero.core.method_catalogue import METHODS
from adhaero.core.observation import Kind, Observation, checked, exact, wood_failure
from adhaero.core.piece_record import JointEvent, Known, PieceRecord, Reading, datum
from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Refusal


@pytest.mark.parametrize(
    "o",
    [
        exact(4200.0, failure_mode="in-glue", wood_failure_pct=0),
        Observation(Kind.BETWEEN, 180.0, 210.0),
        Observation(Kind.AT_LEAST, 20_000.0),
        Observation(Kind.FELL_APART),
        Observation(Kind.FELL_APART, 0.0, 0.0),
        Observation(Kind.HELD, 2000.0, held_s=45.0),
        Observation(Kind.VOID, reason="seated crooked"),
        exact(10.0, shares=(("wood-at-line", 60.0), ("interface", 40.0))),
    ],
)
def test_sound_observations_pass(o: Observation) -> None:
    assert checked(o) is o


@pytest.mark.parametrize(
    ("o", "field"),
    [
        (exact(-1.0), "low_n"),
        (exact(0.0), "low_n"),
        (exact(2e6), "low_n"),
        (exact(math.nan), "low_n"),
        (exact(math.inf), "low_n"),
        (Observation(Kind.EXACT), "low_n"),
        (Observation(Kind.EXACT, 3.0, 4.0), "low_n"),
        (Observation(Kind.BETWEEN, 210.0, 180.0), "high_n"),
        (Observation(Kind.BETWEEN, 180.0), "high_n"),
        (Observation(Kind.AT_LEAST), "low_n"),
        (Observation(Kind.AT_LEAST, 10.0, 20.0), "low_n"),
        (Observation(Kind.FELL_APART, 10.0), "low_n"),
        (Observation(Kind.HELD, 2000.0), "held_s"),
        (Observation(Kind.VOID), "reason"),
        (exact(5.0, failure_mode="exploded"), "failure_mode"),
        (exact(5.0, wood_failure_pct=101), "wood_failure_pct"),
        (exact(5.0, shares=(("wood-deep", 60.0), ("interface", 30.0))), "shares"),
    ],
)
def test_impossible_observations_name_their_field(o: Observation, field: str) -> None:
    with pytest.raises(Refusal) as refused:
        checked(o)
    assert field in {p.field for p in refused.value.problems}


def test_stress_from_the_own_measured_area() -> None:
    """Width 24.6, overlap 31.8 mm: 782.28 mm2; 5200 N give 6.647 MPa. Nominal 25 x 32 would give 6.500."""
    assert FORMS["lap"].glued_area_mm2({"width": 24.6, "overlap": 31.8}) == pytest.approx(782.28)
    assert METHODS["compression-shear"].figure(5200, {"width": 24.6, "overlap": 31.8}) == pytest.approx(6.647, abs=5e-4)
    assert METHODS["compression-shear"].figure(5200, {"width": 25, "overlap": 32}) == pytest.approx(6.5)
    assert METHODS["compression-shear"].figure(3600, {"width": 20, "overlap": 25}) == pytest.approx(7.2)


def piece(o: Observation | None = None, per_newton: float = 1 / 500, **more: object) -> PieceRecord:
    """A piece of 500 mm2 with this reading."""
    reading = Reading(o, datetime(2026, 11, 23, tzinfo=UTC)) if o else None
    made = PieceRecord(
        "AAAA", "joint", "counts", 1, "A", "Glue A", "ash", "lap", "long-parallel", "pva-damp", {}, {}, True, 500.0,
        per_newton, Dimension.STRESS, reading=reading,
    )  # fmt: skip
    return replace(made, **more)  # type: ignore[arg-type]


def test_each_kind_survives_the_conversion() -> None:
    d = datum(piece(exact(5000.0)), "joint")
    assert (d.known, d.low, d.high) == (Known.EXACT, 10.0, 10.0)
    assert datum(piece(exact(5000.0)), "joint", load=True).low == 5000.0
    between = datum(piece(Observation(Kind.BETWEEN, 4000.0, 4500.0)), "joint")
    assert (between.known, between.low, between.high) == (Known.BETWEEN, 8.0, 9.0)
    held = datum(piece(Observation(Kind.AT_LEAST, 4000.0)), "joint")
    assert (held.known, held.low, held.high) == (Known.AT_LEAST, 8.0, math.inf)
    apart = datum(piece(Observation(Kind.FELL_APART, 0.0, 0.0)), "joint")
    assert (apart.known, apart.high) == (Known.BELOW, 0.0)


def test_held_and_then_broke_is_that_load() -> None:
    """A weight that stood for 75 s before the joint gave way was borne: it is dropped from no mean."""
    d = datum(piece(Observation(Kind.HELD, 3000.0, held_s=75)), "joint")
    assert (d.known, d.low, d.high) == (Known.EXACT, 6.0, 6.0)


def test_a_void_piece_keeps_what_was_read_and_counts_nowhere() -> None:
    d = datum(piece(Observation(Kind.VOID, 900.0, 900.0, reason="slipped")), "joint")
    assert not d.counts
    assert (d.low, d.high, d.reason) == (1.8, 1.8, "void: slipped")
    assert math.isnan(datum(piece(Observation(Kind.VOID, reason="knot")), "joint").low)


def test_what_is_not_run_not_broken_or_only_opened_gives_nothing_with_its_reason() -> None:
    assert datum(piece(), "joint").reason == "not broken yet"
    assert datum(piece(exact(5000.0), not_run="clamps too few"), "joint").reason == "not run: clamps too few"
    assert not datum(piece(Observation(Kind.SEEN, failure_mode="interface")), "joint").counts


def test_found_apart_on_its_way_is_below_every_load() -> None:
    look = JointEvent("inspected", datetime(2026, 11, 22, tzinfo=UTC), {"whole": "apart"})
    assert datum(piece(events=(look,)), "adhesive").known is Known.BELOW


def test_wood_failure_bounds_the_glue_but_not_the_joint() -> None:
    wood = piece(exact(5000.0, failure_mode="wood-deep"))
    glue = datum(wood, "adhesive")
    assert datum(wood, "joint").known is Known.EXACT
    assert (glue.known, glue.low, glue.high) == (Known.AT_LEAST, 10.0, math.inf)


def test_a_break_elsewhere_is_the_joints_load_and_a_bound_for_the_glue() -> None:
    away = piece(exact(5000.0, failure_mode="elsewhere"))
    assert datum(away, "joint").known is Known.EXACT
    assert datum(away, "adhesive").known is Known.AT_LEAST


def test_wood_failure_from_shares_unless_judged() -> None:
    shares = (("wood-at-line", 50.0), ("wood-deep", 10.0), ("interface", 40.0))
    assert wood_failure(exact(1.0, shares=shares)) == 60.0
    assert wood_failure(exact(1.0, shares=shares, wood_failure_pct=45.0)) == 45.0
    assert wood_failure(exact(1.0)) is None


def test_pressure_by_hand() -> None:
    """2 clamps of 2800 N on 35 cm2 give 1.60 MPa; on 70 cm2, 0.80 MPa."""
    assert pressure_mpa(2 * 2800, 3500) == pytest.approx(1.6)
    assert pressure_mpa(2 * 2800, 7000) == pytest.approx(0.8)
    assert force_n(1.6, 3500, clamps=2) == pytest.approx(2800)
    with pytest.raises(Refusal):
        pressure_mpa(100, 0)


def test_crushing_is_near_before_it_is_there() -> None:
    assert crushes(6.5, 8.0)
    assert not crushes(1.0, 8.0)


@pytest.mark.parametrize(
    ("a", "b", "expected"),
    [
        (Adherend("ash", Face.LONG), Adherend("ash", Face.END), "long-end"),
        (Adherend("ash", Face.END), Adherend("ash", Face.LONG), "long-end"),
        (Adherend("ash", Face.END), Adherend("ash", Face.END), "end-end"),
        (Adherend("ash", Face.ANGLE, 45), Adherend("ash", Face.ANGLE, 45), "end at 45° to end at 45°"),
        (Adherend("ash", Face.LONG), Adherend("steel", Face.NOT_WOOD), "long-steel"),
    ],
)
def test_pairing_of_faces(a: Adherend, b: Adherend, expected: str) -> None:
    assert pairing(a, b) == expected


def test_orientation_gives_both_adherends() -> None:
    first, second = adherends("long-end", "ash", "elm")
    assert (first.material, first.face, second.material, second.face) == ("ash", Face.LONG, "elm", Face.END)


def test_every_method_can_be_used() -> None:
    for method in METHODS.values():
        nominal = {s.key: s.nominal for s in method.sizes}
        method.refuse_bad_sizes(nominal)
        assert all(FORMS[f].glued_area_mm2(nominal_sizes(method, (f,))) > 0 for f in method.forms)
        assert method.per_newton(nominal) > 0
        assert method.cautions
        assert method.warnings(nominal) == []


def test_bad_sizes_are_all_named_at_once() -> None:
    with pytest.raises(Refusal) as refused:
        METHODS["compression-shear"].refuse_bad_sizes({"width": -3, "overlap": 5000})
    assert {p.field for p in refused.value.problems} == {"sizes.width_mm", "sizes.overlap_mm", "sizes.thickness_mm"}
