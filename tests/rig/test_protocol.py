"""The line protocol: what lines say, and everything that can be wrong with them."""

from __future__ import annotations

import random
from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.refusal import Refusal
from adhaero.rig import strength_model
from adhaero.rig.protocol import BELIEVED, LineSplitter, SteadyClock, line_reader, parse_identity, parse_line
from adhaero.rig.reader import Reader, Sample


def test_identity() -> None:
    found = parse_identity("# adhaero-rig 1 name=bench unit=kgf capacity=500 resolution=0.05 rate=80")
    assert found is not None
    assert (found.name, found.unit, found.rate_hz) == ("bench", "kgf", 80.0)
    assert found.capacity_n == pytest.approx(4903.325)
    assert found.resolution_n == pytest.approx(0.4903325)


@pytest.mark.parametrize(
    "text", ["# hello", "# adhaero-rig 2 name=x", "# adhaero-rig 1 unit=furlong", "", "adhaero-rig 1"]
)
def test_other_comments_are_no_identity(text: str) -> None:
    assert parse_identity(text) is None


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("1200,345.5", (1200.0, 345.5, None)),
        ("1200, 345.5 ,1.25", (1200.0, 345.5, 1.25)),
        ("1200,345.5,", (1200.0, 345.5, None)),
        ("345.5", (None, 345.5, None)),
        ("-0.5", (None, -0.5, None)),
        ("1e3,2e2", (1000.0, 200.0, None)),
    ],
)
def test_lines(text: str, expected: tuple[float | None, float, float | None]) -> None:
    line = parse_line(text)
    assert line is not None
    assert (line.ms, line.force, line.displacement_mm) == expected


@pytest.mark.parametrize(
    "text", ["", "abc", "1,2,3,4", "12,", ",5", "nan", "1,inf", "1200,34x", "\x00\x07", "1" * 300, "1,2,x"]
)
def test_garbage(text: str) -> None:
    assert parse_line(text) is None


@given(st.text(max_size=250))
def test_no_line_ever_crashes(text: str) -> None:
    parse_line(text)
    parse_identity(text)


@given(st.lists(st.binary(max_size=40), max_size=30))
def test_splitting_does_not_depend_on_the_pieces(parts: list[bytes]) -> None:
    one, many = LineSplitter(), LineSplitter()
    whole = one.feed(b"".join(parts))
    if one.dropped == 0:
        assert [line for part in parts for line in many.feed(part)] == whole


def test_an_endless_line_is_dropped() -> None:
    splitter = LineSplitter()
    for _ in range(100):
        assert splitter.feed(b"9" * 100) == []
    assert splitter.dropped >= 10
    assert splitter.feed(b"\n1,2\n")[-1] == "1,2"


def test_clock_believes_a_sound_counter() -> None:
    clock = SteadyClock()
    assert [clock.at(ms, 0.0) for ms in (1000, 1012, 1025)] == pytest.approx([0, 0.012, 0.025])


@pytest.mark.parametrize(
    ("counter", "what"),
    [
        ([0, 12, 12, 12, 24], "standing"),
        ([5000, 5012, 4500, 4512], "backward"),
        ([4294967290, 2, 14], "wrapping"),
        ([900_000, 900_012, 3, 15], "restarting"),
        ([None, None, None], "missing"),
        ([0, 12, 9_000_000, 9_000_012], "jumping"),
    ],
)
def test_clock_survives(counter: list[int | None], what: str) -> None:
    clock = SteadyClock()
    times = [clock.at(ms, 0.0125 * i) for i, ms in enumerate(counter)]
    assert times == sorted(times), what
    assert times[-1] <= 0.2, "no gap that nobody lived through"


def test_clock_across_a_wrap_counts_the_true_step() -> None:
    clock = SteadyClock()
    clock.at(4294967290, 0.0)
    assert clock.at(6, 99.0) == pytest.approx(0.012)


@given(st.lists(st.one_of(st.none(), st.floats(-1e12, 1e12)), max_size=50), st.floats(0, 1))
def test_clock_never_runs_backward(counters: list[float | None], step: float) -> None:
    clock, last = SteadyClock(), -1.0
    for i, ms in enumerate(counters):
        now = clock.at(ms, step * i)
        assert now >= last
        last = now


# The made-up pieces --------------------------------------------------------------------------


def mean_load(**record: object) -> float:
    rng = random.Random(3)
    piece = strength_model.Piece(solid_n=6600.0, **record)  # type: ignore[arg-type]
    return sum(strength_model.draw(piece, rng).load_n for _ in range(400)) / 400


def test_fates_repeat_with_their_seed() -> None:
    piece = strength_model.Piece(500.0)
    assert [strength_model.draw(piece, random.Random(5)) for _ in range(3)] == [
        strength_model.draw(piece, random.Random(5)) for _ in range(3)
    ]


def test_what_ought_to_weaken_a_joint_does() -> None:
    sound = mean_load()
    assert mean_load(prep="oily") < 0.8 * sound
    assert mean_load(gap_mm=0.6) < 0.6 * sound
    assert mean_load(clamp_s=600.0) < sound
    assert mean_load(cure_s=3600.0) < 0.5 * sound
    assert mean_load(solid=True) > sound


def test_wood_failure_and_mode_agree() -> None:
    rng = random.Random(9)
    for _ in range(500):
        f = strength_model.draw(strength_model.Piece(500.0, glue="epoxy-slow"), rng)
        assert 0 <= f.wood_failure_pct <= 100
        if f.failure_mode.startswith("wood"):
            assert f.wood_failure_pct >= 45
        if f.crack_n is not None:
            assert f.crack_n < f.load_n


@pytest.mark.parametrize(
    ("pattern", "text", "expected"),
    [
        ("2", "ST,GS 12", None),
        ("3", "ST,GS, 12.5 kg", 12.5),
        ("2", "1200;345.5", 345.5),
        (r"([-+]?\d+\.\d+) kg", "ST,GS,+ 12.50 kg", 12.5),
        (r"t=(?P<ms>\d+) x=(?P<travel>[\d.]+) F=(?P<load>[-\d.]+)", "t=250 x=1.5 F=-3.2", -3.2),
        (r"F=([\d.]+)", "E=4", None),
    ],
)
def test_lines_of_another_make(pattern: str, text: str, expected: float | None) -> None:
    line = line_reader(pattern)(text)
    assert (line and line.force) == expected


def test_an_expression_may_name_time_and_travel() -> None:
    line = line_reader(r"t=(?P<ms>\d+) x=(?P<travel>[\d.]+) F=(?P<load>[-\d.]+)")("t=250 x=1.5 F=7")
    assert line is not None
    assert (line.ms, line.displacement_mm) == (250, 1.5)


@pytest.mark.parametrize("pattern", ["0", "21", "(", "no group", "(" + "a" * 200 + ")"])
def test_a_pattern_that_is_none_is_refused(pattern: str) -> None:
    with pytest.raises(Refusal):
        line_reader(pattern)


def test_a_counter_that_jumps_to_and_fro_makes_no_hole() -> None:
    clock = SteadyClock()
    at = [clock.at(ms, n / 80) for n, ms in enumerate([0, 12, -488, 37, 50, -437, 75, 87])]
    assert at == pytest.approx([0, 0.012, 0.0245, 0.037, 0.05, 0.0625, 0.075, 0.087], abs=0.002)


def test_a_counter_that_begins_anew_is_believed_and_its_steps_at_once() -> None:
    clock = SteadyClock()
    for n in range(100):
        clock.at(90_000 + 10 * n, n / 100)
    before = clock.now_s
    times = [clock.at(10 * n, 1 + n / 100) for n in range(100)]
    assert times[0] == pytest.approx(before + 0.01, abs=0.002)
    assert np.diff(times) == pytest.approx(0.01, abs=1e-9)


def test_a_counter_that_stands_leaves_the_time_to_this_computer() -> None:
    clock = SteadyClock()
    times = [clock.at(4711, n / 50) for n in range(100)]
    assert np.diff(times) == pytest.approx(0.02, abs=1e-9)


def test_the_rest_of_a_torn_line_is_no_load() -> None:
    """A rig that sends a time with each line: what comes without one is half a line, until it does so for good."""
    got: list[float] = []

    class Into:
        def samples(self, new: Sequence[Sample], connection: int) -> None:
            got.extend(s.force_n for s in new)

        def lost(self) -> None: ...

    now = 0.0
    reader = Reader("", Into(), clock=lambda: now)
    reader.take(b"1000,50\n1012,51\n99\n1025,52\n")
    assert got == [50, 51, 52]
    reader.take(b"7\n" * BELIEVED)
    assert got == [50, 51, 52]
    reader.take(b"8\n9\n")
    assert got == [50, 51, 52, 8, 9]


def test_half_lines_wait_for_their_other_half() -> None:
    got: list[float] = []

    class Into:
        def samples(self, new: Sequence[Sample], connection: int) -> None:
            got.extend(s.force_n for s in new)

        def lost(self) -> None: ...

    reader = Reader("", Into(), clock=lambda: 0.0)
    reader.take(b"1000,5")
    assert got == []
    reader.take(b"0\n1012,60\n")
    assert got == [50, 60]
