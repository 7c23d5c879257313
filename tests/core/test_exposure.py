"""Exposure paths as people write them, the climate of a stay, and pieces looked at on their way."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.compare.survival import survival
from adhaero.core.glue.climate import Reading, stay, swings
from adhaero.core.glue.exposure import NAMED, Step, parse, path_of
from adhaero.core.plan.fields import CONDITIONINGS
from adhaero.core.refusal import Refusal

H, D = 3600, 86400


def test_a_path_with_two_wet_phases() -> None:
    path = parse("soak 6 h at 18 °C, dry 12 h, soak 6 h")
    assert path.steps == (Step("soak", 6 * H, 18), Step("dry", 12 * H), Step("soak", 6 * H))
    assert (path.total_s, path.wet_phases, path.drying_s) == (24 * H, 2, 0)
    assert path.changes == ((6 * H, "dry"), (18 * H, "soak"))
    assert path.in_words() == "24 h in all, 2 wet phases"


def test_repeats_and_units() -> None:
    frost = parse("5 x (freeze 12 h, thaw 0.5 d)")
    assert (len(frost.steps), frost.total_s, frost.wet_phases) == (10, 5 * D, 0)
    assert parse("Boil 90 min at 212 F, dry 2 weeks").steps[0].at_c == pytest.approx(100)
    # Wet phases that follow each other are one.
    assert parse("boil 1 h, soak 1 h, dry 1 h, damp 2 d").wet_phases == 2


@pytest.mark.parametrize(
    "text", ["", "salt spray", "soak", "soak 6", "soak six h", "sing 3 h", "soak 0 h", "9999 x (soak 1 h)"]
)
def test_what_is_no_path_is_refused(text: str) -> None:
    with pytest.raises(Refusal) as refused:
        parse(text)
    assert refused.value.problems[0].field == "conditioning"


def test_every_conditioning_with_a_name_is_a_path() -> None:
    assert set(NAMED) == set(CONDITIONINGS) - {"dry"}
    lengths = {k: (p.total_s, p.drying_s) for k in NAMED if (p := path_of(k))}
    assert lengths["soak-24h-dried"] == (8 * D, 7 * D)
    assert lengths["freeze-thaw-20"] == (20 * D, 0)
    assert lengths["swing-10"] == (70 * D, 0)
    assert lengths.keys() == NAMED.keys()
    assert path_of("dry") is None


@given(
    st.lists(st.tuples(st.sampled_from(("soak", "dry", "heat", "freeze")), st.integers(1, 500)), min_size=1, max_size=9)
)
def test_a_path_adds_up_however_it_is_written(phases: list[tuple[str, int]]) -> None:
    path = parse(", ".join(f"{kind} {hours} h" for kind, hours in phases))
    assert path.total_s == sum(hours for _, hours in phases) * H
    assert len(path.changes) == len(phases) - 1
    assert path.wet_phases <= sum(kind == "soak" for kind, _ in phases)
    twice = parse("2 x (" + ", ".join(f"{kind} {hours} h" for kind, hours in phases) + ")")
    assert twice.total_s == 2 * path.total_s


MARCH = datetime(2026, 3, 1, tzinfo=UTC)


def test_only_the_own_stay_counts() -> None:
    readings = [Reading(MARCH + timedelta(days=n), 10 + n / 10, 40 + (n % 2) * 20) for n in range(365)]
    june = stay(readings, MARCH, MARCH + timedelta(days=91))
    assert june.air_c is not None
    assert (june.air_c.low, june.air_c.high) == (10, pytest.approx(19.1))
    assert june.air_c.mean == pytest.approx(14.55)
    assert june.readings == 92
    later = stay(readings, MARCH + timedelta(days=400), MARCH + timedelta(days=500))
    assert (later.readings, later.air_c, later.in_words()) == (0, None, "")


def test_swings_are_turns_of_ten_points() -> None:
    assert swings([40, 42, 38, 41]) == 0
    assert swings([40, 60]) == 0, "it only rose"
    assert swings([40, 60, 40]) == 1
    assert swings([40, 60, 40, 60, 40]) == 3
    # By hand: 9 down is none, 14 up, 8 and 9 are none, 16 down turns it.
    assert swings([50, 41, 55, 47, 56, 40]) == 1


@given(st.lists(st.floats(0, 100), max_size=40))
def test_swings_are_fewer_than_readings_and_none_within_the_band(values: list[float]) -> None:
    assert 0 <= swings(values) <= max(0, len(values) - 2)
    assert swings([v / 11 for v in values]) == 0


def test_ten_seven_and_two_of_ten() -> None:
    def looks(lost: int) -> list[tuple[float, bool]]:
        return [(10, True), (30, lost > 1), (60, lost > 2)]

    pieces = {f"P{n}": looks(1 if n < 3 else 2 if n < 8 else 3) for n in range(10)}
    found = survival(pieces)
    assert [(s.day, s.whole, s.known) for s in found.steps] == [(10, 10, 10), (30, 7, 10), (60, 2, 10)]
    assert [(x.after, x.by, x.pieces) for x in found.losses] == [(10, 30, 3), (30, 60, 5)]
    assert "lost 3 from day 10 to 30, 5 from day 30 to 60" in found.in_words()


@given(st.dictionaries(st.text("AB", min_size=1, max_size=4),
                       st.lists(st.tuples(st.integers(1, 50), st.booleans()), min_size=1, max_size=5)))  # fmt: skip
def test_pieces_never_become_whole_again(pieces: dict[str, list[tuple[int, bool]]]) -> None:
    found = survival({k: sorted(v) for k, v in pieces.items()})
    lost = [s.known - s.whole for s in found.steps]
    assert lost == sorted(lost)
    assert sum(x.pieces for x in found.losses) == sum(any(not whole for _, whole in v) for v in pieces.values())
