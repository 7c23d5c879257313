"""What a piece gives for a question, and what is worth minding about it, from records made up here."""

from __future__ import annotations

import math
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.breaking.signal import Gap
from adhaero.core.flags import FLAGS, by_kind, flags_of
from adhaero.core.glue.exposure import path_of
from adhaero.core.glue.limits import limits
from adhaero.core.observation import Kind, Observation
from adhaero.core.piece_record import Gluing, JointEvent, Known, PieceRecord, Reading, Stay, datum
from adhaero.core.plan.document import Level
from adhaero.core.quantity import Dimension
from adhaero.core.times import clock, span
from adhaero.core.units import Units, units_of

CLOSED = datetime(2026, 11, 2, 18, tzinfo=UTC)
DAY = timedelta(days=1)
METRIC = Units()


def reading(kind: Kind = Kind.EXACT, low: float | None = 5000.0, high: float | None = None, **more: Any) -> Reading:
    own = {k: more.pop(k) for k in ("failure_mode", "reason", "held_s") if k in more}
    top = low if kind is Kind.EXACT and high is None else high
    return Reading(Observation(kind, low, top, **own), **{"at": CLOSED + 3 * DAY, "resolution_n": 1.0, **more})


def gluing(**more: Any) -> Gluing:
    usual = {
        "glueup": 1,
        "pressed_at": CLOSED,
        "limits": limits("pva-damp"),
        "pressure_mpa": 0.8,
        "clamped_s": 14_400.0,
    }
    return Gluing(**{**usual, **more})


def piece(**more: Any) -> PieceRecord:
    """A lap of 500 mm², planed ash, planned with 0.8 MPa, 4 h in the clamp, 72 h of cure."""
    usual: dict[str, Any] = {
        "code": "AAAA", "role": "joint", "part": "counts", "treatment_id": 1, "letter": "A", "label": "Damp-proof PVA",
        "species": "ash", "form": "lap", "orientation": "long-parallel", "glue": "pva-damp", "levels": {},
        "sizes": {"width": 20.0, "overlap": 25.0}, "measured": True, "area_mm2": 500.0, "per_newton": 1 / 500,
        "dimension": Dimension.STRESS, "crush_across_mpa": 8.0, "pressure_mpa": 0.8, "clamp_s": 14_400.0,
        "cure_s": 259_200.0,
        "gluing": gluing(), "reading": reading(),
    }  # fmt: skip
    return PieceRecord(**{**usual, **more})


def kinds(p: PieceRecord, units: Units = METRIC) -> dict[str, str]:
    return {f.kind: f.figure for f in flags_of(p, units)}


@pytest.mark.parametrize(
    ("r", "target", "known", "low", "high"),
    [
        (reading(), "adhesive", Known.EXACT, 10.0, 10.0),
        (reading(failure_mode="in-glue"), "adhesive", Known.EXACT, 10.0, 10.0),
        (reading(failure_mode="wood-deep"), "adhesive", Known.AT_LEAST, 10.0, math.inf),
        (reading(failure_mode="wood-at-line"), "adhesive", Known.AT_LEAST, 10.0, math.inf),
        (reading(failure_mode="elsewhere"), "adhesive", Known.AT_LEAST, 10.0, math.inf),
        (reading(failure_mode="wood-deep"), "joint", Known.EXACT, 10.0, 10.0),
        (reading(failure_mode="elsewhere"), "joint", Known.EXACT, 10.0, 10.0),
        (reading(Kind.AT_LEAST), "joint", Known.AT_LEAST, 10.0, math.inf),
        (reading(Kind.BETWEEN, 4000.0, 5000.0), "joint", Known.BETWEEN, 8.0, 10.0),
        (reading(Kind.BETWEEN, 4000.0, 5000.0, failure_mode="wood-deep"), "adhesive", Known.AT_LEAST, 8.0, math.inf),
        (reading(Kind.HELD, 3000.0, held_s=60.0), "joint", Known.EXACT, 6.0, 6.0),
        (reading(Kind.FELL_APART, 0.0, 0.0), "joint", Known.BELOW, 0.0, 0.0),
    ],
)
def test_what_a_reading_gives(r: Reading, target: str, known: Known, low: float, high: float) -> None:
    d = datum(piece(reading=r), target)
    assert (d.known, d.low, d.high) == (known, low, high)
    assert d.counts
    load = datum(piece(reading=r), target, load=True)
    assert load.known is known
    assert load.low == pytest.approx(low * 500)


def test_a_void_reading_is_shown_and_does_not_count() -> None:
    d = datum(piece(reading=reading(Kind.VOID, 4000.0, 4000.0, reason="seated crooked")), "joint")
    assert (d.known, d.counts, d.low, d.reason) == (Known.NONE, False, 8.0, "void: seated crooked")
    nothing = datum(piece(reading=reading(Kind.VOID, None, None, reason="split at the saw")), "joint")
    assert math.isnan(nothing.low)
    assert math.isnan(nothing.high)


@pytest.mark.parametrize(
    ("change", "known", "reason"),
    [
        ({"reading": None}, Known.NONE, "not broken yet"),
        ({"not_run": "the bottle froze"}, Known.NONE, "not run: the bottle froze"),
        ({"reading": reading(Kind.SEEN, None)}, Known.NONE, "it has no load: opened by hand, or not read"),
        ({"reading": None, "events": (JointEvent("inspected", CLOSED + DAY, {"whole": "apart"}),)}, Known.BELOW,
         "found apart before the test"),
    ],
)  # fmt: skip
def test_what_a_piece_without_a_load_gives(change: dict[str, Any], known: Known, reason: str) -> None:
    d = datum(piece(**change), "joint")
    assert (d.known, d.reason) == (known, reason)


@given(st.floats(0, 1e5), st.sampled_from(list(Kind)), st.sampled_from(["joint", "adhesive"]),
       st.sampled_from([None, "in-glue", "wood-deep", "elsewhere", "mixed"]))  # fmt: skip
def test_a_figure_is_the_load_over_the_area_and_its_bounds_are_in_order(
    load: float, kind: Kind, target: str, mode: str | None
) -> None:
    p = piece(reading=reading(kind, load, 2 * load if kind is Kind.BETWEEN else None, failure_mode=mode))
    figure, newtons = datum(p, target), datum(p, target, load=True)
    assert figure.known is newtons.known
    if figure.counts:
        assert figure.low <= figure.high
        assert figure.low == pytest.approx(newtons.low / 500)


def test_uncertainty_is_half_a_step_and_the_caliper_in_squares() -> None:
    p = piece(reading=reading(resolution_n=50.0), sizes_error=(0.0025, 0.002))
    relative = math.sqrt((25 / 5000) ** 2 + 0.0025**2 + 0.002**2)
    assert p.uncertainty(5000.0) == pytest.approx(10.0 * relative)
    assert p.uncertainty(0.0) == 0.0


def test_nothing_to_mind_about_a_piece_that_went_by_plan() -> None:
    assert kinds(piece()) == {}
    assert kinds(piece(not_run="never made", gluing=gluing(pressure_mpa=0.1))) == {}


@pytest.mark.parametrize(
    ("change", "kind", "figure"),
    [
        ({"pressure_mpa": 0.6}, "pressure off", "0.6 MPa instead of 0.8 MPa (−25 %)"),
        ({"pressure_mpa": 0.0}, "pressure off", "0 MPa instead of 0.8 MPa (−100 %)"),
        ({"pressure_mpa": None}, "pressure unknown", ""),
        ({"open_s": 600.0, "limits": limits("pva-damp", {"open_s": 530})}, "open time over", "by 1:10"),
        ({"stood_s": 2400.0, "limits": limits("epoxy-slow", {"pot_s": 1800})}, "pot life over", "by 10:00"),
        ({"clamped_s": 1800.0, "limits": limits("pva-damp", {"clamp_s": 3600})}, "short clamp", "by 30:00"),
        ({"air_c": 8.0, "limits": limits("pva-damp", {"least_c": 12})}, "cold", "8 °C, label from 12 °C"),
        ({"mix_deviation": "left warm"}, "mix deviates", "left warm"),
        ({"bottle_state": "frozen once"}, "bottle changed", "frozen once"),
        ({"bottle_past_days": 61}, "bottle past its date", "61 days"),
        ({"bottle_past_days": 1}, "bottle past its date", "1 day"),
    ],
)
def test_what_was_off_at_the_bench(change: dict[str, Any], kind: str, figure: str) -> None:
    assert kinds(piece(gluing=gluing(**change))).get(kind) == figure


@pytest.mark.parametrize("change", [
    {"pressure_mpa": 0.8 * 1.19}, {"pressure_mpa": 0.8 * 0.81}, {"bottle_past_days": 0}, {"bottle_past_days": -30},
    {"open_s": 60.0}, {"stood_s": None}, {"air_c": 20.0},
])  # fmt: skip
def test_what_is_within_its_bounds_is_not_pointed_out(change: dict[str, Any]) -> None:
    assert kinds(piece(gluing=gluing(**change))) == {}


def test_a_limit_is_the_labels_only_where_the_label_states_it() -> None:
    """A label that states its open time says nothing of pressure."""
    usual = limits("epoxy-slow", {"open_s": 2700})
    assert usual.pressure_high_mpa is not None
    hard = kinds(piece(glue="epoxy-slow", gluing=gluing(limits=usual)))
    assert hard["above label pressure"].startswith("0.8 MPa, usual up to")
    own = limits("epoxy-slow", {"pressure_high_mpa": 0.4})
    assert kinds(piece(gluing=gluing(limits=own)))["above label pressure"] == "0.8 MPa, label up to 0.4 MPa"


@pytest.mark.parametrize(
    ("kind", "value", "flag", "figure"),
    [
        ("amount", {"word": "starved"}, "spread thin", ""),
        ("shift", {"along_mm": 1.5, "twist_deg": 2}, "out of place", "1.5 mm along, twisted 2°"),
        ("fastener", {"count": 2, "left": "left in"}, "fastener left in", ""),
        ("disturbed", {"what": "knocked"}, "disturbed", "knocked"),
    ],
)
def test_what_was_noted_of_a_joint(kind: str, value: dict[str, Any], flag: str, figure: str) -> None:
    assert kinds(piece(events=(JointEvent(kind, CLOSED, value),))) == {flag: figure}


@pytest.mark.parametrize(
    ("kind", "value"),
    [("amount", {"word": "normal"}), ("fastener", {"count": 2, "left": "taken out"}), ("squeeze-out", {"how": "left"})],
)
def test_what_is_noted_and_is_nothing_to_mind(kind: str, value: dict[str, Any]) -> None:
    assert kinds(piece(events=(JointEvent(kind, CLOSED, value),))) == {}


def test_age_counts_from_closing_to_break() -> None:
    early = piece(reading=reading(at=CLOSED + DAY))
    assert early.age_s == 86_400
    assert kinds(early) == {"age off": "24 h instead of 3 days"}
    assert kinds(piece(reading=reading(at=CLOSED + timedelta(hours=72 * 1.09)))) == {}


@pytest.mark.parametrize(
    ("hours_in", "minutes_out", "found"),
    [
        (24, 5, {}),
        (2, 5, {"exposure off": "out after 2 h of 24 h"}),
        (24, 45, {"out of the bath": "45 min"}),
    ],
)
def test_the_real_bath_is_held_against_the_planned_one(
    hours_in: float, minutes_out: float, found: dict[str, str]
) -> None:
    begun = CLOSED + 3 * DAY
    out = begun + timedelta(hours=hours_in)
    path = path_of("soak-24h")
    assert path is not None
    wet = piece(stay=Stay(path, begun, out), reading=reading(at=out + timedelta(minutes=minutes_out)))
    assert wet.cured_s == 3 * 86_400
    assert kinds(wet) == found


def test_a_bath_that_never_was_is_said() -> None:
    path = path_of("soak-24h")
    assert path is not None
    assert kinds(piece(stay=Stay(path), reading=reading()))["exposure off"] == "not conditioned"


@pytest.mark.parametrize(
    ("change", "kind", "figure"),
    [
        ({"gaps": (Gap(1.2, 2.0),)}, "gap", "lines were lost, 0.8 s at 1.2 s"),
        ({"gaps": (Gap(3.4, None),)}, "gap", "lines were lost from 3.4 s on"),
        ({"gap_note": "lines were lost, 0.8 s at 1.2 s"}, "gap", "lines were lost, 0.8 s at 1.2 s"),
        ({"confirmed": ("early",)}, "early", ""),
        ({"confirmed": ("over capacity",)}, "over capacity", ""),
        ({"confirmed": ("over working share",)}, "over working share", ""),
    ],
)
def test_what_was_off_at_the_rig(change: dict[str, Any], kind: str, figure: str) -> None:
    assert kinds(piece(reading=reading(**change))) == {kind: figure}


def test_an_unmeasured_piece_has_its_figure_by_nominal_sizes() -> None:
    assert kinds(piece(measured=False)) == {"nominal area": ""}
    assert kinds(piece(measured=False, reading=reading(Kind.FELL_APART, 0.0, 0.0))) == {}


def test_flags_follow_the_users_units_and_every_kind_is_named() -> None:
    p = piece(gluing=gluing(pressure_mpa=0.4, air_c=8.0, limits=limits("pva-damp", {"least_c": 12})))
    inch = kinds(p, units_of({"stress": "psi", "temperature": "°F"}))
    assert inch["pressure off"] == "58 psi instead of 116 psi (−50 %)"
    assert inch["cold"] == "46.4 °F, label from 53.6 °F"
    found = flags_of(p, METRIC)
    assert all(f.kind in FLAGS and f.piece == "AAAA" and f.source in ("glue", "break") for f in found)
    assert found[0].text.startswith(FLAGS[found[0].kind])


def test_flags_of_many_pieces_by_kind() -> None:
    off, fine = piece(gluing=gluing(pressure_mpa=0.1)), piece(code="BBBB")
    also = replace(off, code="CCCC", reading=reading(confirmed=("early",)))
    counted = by_kind(f for p in (off, fine, also) for f in flags_of(p, METRIC))
    assert counted["pressure off"] == ["AAAA", "CCCC"]
    assert counted["early"] == ["CCCC"]
    assert list(counted) == [k for k in FLAGS if k in counted]


@pytest.mark.parametrize(
    ("seconds", "shown", "long"),
    [
        (40, "0:40", "40 s"),
        (70, "1:10", "1.17 min"),
        (14_700, "4 h 05", "4.08 h"),
        (53 * 86_400, "1272 h 00", "53 days"),
    ],
)
def test_times_in_words(seconds: float, shown: str, long: str) -> None:
    assert (clock(seconds), span(seconds)) == (shown, long)


@pytest.mark.parametrize(
    ("changed", "kind", "figure"),
    [
        # Real times off their levels: beyond a tenth (and two minutes) in the clamp, a fifth (and a minute) open.
        ({"clamped_s": 10_800.0}, "clamp time off", "3 h instead of 4 h"),
        ({"clamped_s": 14_400.0 * 1.09}, "clamp time off", None),
        ({"clamped_s": 14_400.0 * 1.11}, "clamp time off", "4.44 h instead of 4 h"),
        ({"open_s": 170.0}, "open time off", None),
        ({"open_s": 200.0}, "open time off", "3:20 instead of 2:00"),
        ({"pressed_by": "tape", "pressure_mpa": None}, "other means", "tape instead of a weight"),
        ({"pressed_by": "weight"}, "other means", None),
        ({"bottle": "Blue", "planned_bottle": "Blue"}, "other bottle", None),
        ({"bottle": "Old", "planned_bottle": "Blue"}, "other bottle", "Old instead of Blue"),
        ({"bottle": "", "planned_bottle": "Blue"}, "other bottle", None),
    ],
)
def test_what_was_done_is_held_against_what_was_planned(changed: dict[str, Any], kind: str, figure: str | None) -> None:
    levels = {"press_by": Level("weight"), "open_s": Level(120.0, "min")}
    found = kinds(piece(gluing=gluing(**changed), levels=levels))
    assert found.get(kind) == figure


def test_a_long_time_is_said_in_years() -> None:
    assert [span(x) for x in (40, 300, 9000, 53 * 86400, 729 * 86400, 5 * 365.25 * 86400)] == [
        "40 s", "5 min", "2.5 h", "53 days", "729 days", "5 years",
    ]  # fmt: skip


def test_the_age_at_the_break_includes_the_conditioning() -> None:
    """Closed, 7.2 days later outdoors for 20, broken 19 hours after it came in: 28 days old, and each part known."""
    now = CLOSED + 28 * DAY
    closed = CLOSED
    path = path_of("weather 20 d")
    assert path is not None
    went, came = closed + timedelta(days=7.2), closed + timedelta(days=27.2)
    own = piece(
        gluing=gluing(),
        stay=Stay(path, went, came),
        reading=reading(at=now),
    )
    days = [None if s is None else round(s / 86_400, 2) for s in (own.age_s, own.cured_s, own.stayed_s, own.rested_s)]
    assert days == [28.0, 7.2, 20.0, 0.8]


def test_the_uncertainty_of_a_pull_includes_what_its_signal_leaves_open() -> None:
    """Noise and sampling leave 20 N open of 5,000 N, on 500 mm²: 0.04 MPa; half a step of 1 N alone would be 0.001."""
    assert piece(reading=reading(signal_error_n=20.0)).uncertainty(5000.0) == pytest.approx(0.04)
    assert piece(reading=reading()).uncertainty(5000.0) == pytest.approx(0.001)
