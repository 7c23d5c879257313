"""Curves from files: known traces with known answers, all separators, and errors that name their row."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.breaking.curve_file import Columns, first_look, guess, read, table
from adhaero.core.breaking.instrument import Instrument, Measures
from adhaero.core.breaking.proposal import Proposal, judged, propose
from adhaero.core.breaking.trace import course
from adhaero.core.refusal import Refusal


def by_hand(step: float) -> str:
    """Rises to 2,900 N, drops by 5.2 % and is overcome, highest 3,480 N at 12.3 s, then breaks."""
    knots = [(0.0, 0.0), (9.0, 2900.0), (9.1, 2750.0), (12.3, 3480.0), (12.4, 40.0), (30.0, 20.0)]
    at = np.arange(0, 30.01, step)
    loads = np.interp(at, [t for t, _ in knots], [f for _, f in knots])
    return "time [s],load [N]\n" + "\n".join(f"{t:.2f},{f:.1f}" for t, f in zip(at, loads, strict=True))


def whole(rows: np.ndarray) -> Proposal:
    """A curve as it is taken."""
    found = propose(first_look(rows, 1.0).reading, 20_000)
    assert found is not None
    return judged(found, rows, 1.0, 20_000)


def test_peak_first_drop_and_time_by_hand() -> None:
    t = table(by_hand(0.1))
    rows = read(t, guess(t), Instrument())
    seen = first_look(rows, 1.0)
    assert (seen.reading.peak_n, seen.reading.peak_s) == (pytest.approx(3480), pytest.approx(12.3))
    assert seen.reading.first_crack_n == pytest.approx(2900)
    assert seen.reading.broke
    assert seen.rate_hz == pytest.approx(10)
    assert whole(rows).kind == "exact"


def test_samples_of_two_seconds_may_miss_the_peak() -> None:
    t = table(by_hand(2.0))
    found = whole(read(t, guess(t), Instrument()))
    assert (found.kind, found.bound_by, found.high_n) == ("at_least", "slow", None)


def test_samples_of_a_third_of_a_second_give_limits() -> None:
    t = table(by_hand(0.3))
    found = whole(read(t, guess(t), Instrument()))
    assert (found.kind, found.bound_by) == ("between", "slow")
    assert found.low_n is not None
    assert found.high_n is not None
    assert found.low_n <= 3480 <= found.high_n


def test_a_release_is_a_cycle_and_no_drop() -> None:
    """Loaded to 1,000 N, let go of in half a second, and loaded to the break."""
    at = np.arange(0, 12, 0.02)
    loads = np.interp(at, [0, 4, 4.5, 5, 11, 11.02], [0, 1000, 20, 20, 3000, 30])
    rows = np.column_stack([at, loads, np.full(len(at), np.nan)])
    found = whole(rows)
    shown = course(rows, found.reading)
    assert shown is not None
    assert shown.marks["first_drop"].load_n == pytest.approx(3000), "that is its break"
    assert [round(c.load_n) for c in shown.cycles] == [1000]
    assert found.reading.first_crack_n is None


@pytest.mark.parametrize("share", [0.05, 0.0501])
def test_a_drop_of_just_the_stated_share_is_one(share: float) -> None:
    at = np.arange(0, 6, 0.02)
    low = 2000 * (1 - share)
    loads = np.interp(at, [0, 2, 2.02, 5, 5.02], [0, 2000, low, 3000, 10])
    rows = np.column_stack([at, loads, np.full(len(at), np.nan)])
    assert whole(rows).reading.first_crack_n == pytest.approx(2000)


@pytest.mark.parametrize(
    ("text", "columns"),
    [
        ("t;F (kN)\n0,0;0,5\n0,1;1,5\n0,2;2,5\n0,3;2,6\n0,4;0,1", Columns(1, 2, 0, "s", "kN")),
        ("force [N]\ttime [ms]\n500\t0\n1500\t100\n2500\t200\n2600\t300\n100\t400", Columns(2, 1, 0, "ms", "N")),
        ("# logger\n0 500\n0.1 1500\n0.2 2500\n0.3 2600\n0.4 100", Columns()),
        ('"time","F"\n"0","500"\n"0.1","1500"\n"0.2","2500"\n"0.3","2600"\n"0.4","100"', Columns()),
        ("channel;t;F\nA;0;500\nA;0,1;1500\nA;0,2;2500\nA;0,3;2600\nA;0,4;100", Columns(2, 3)),
        ("time,travel [mm],load\n0,0,500\n.1,.2,1500\n.2,.4,2500\n.3,.5,2600\n.4,.6,100", Columns(1, 3, 2)),
    ],
)
def test_separators_units_and_heads(text: str, columns: Columns) -> None:
    t = table(text)
    assert guess(t) == columns
    rows = read(t, columns, Instrument())
    assert rows[:, 0] == pytest.approx([0, 0.1, 0.2, 0.3, 0.4])
    assert rows[:, 1] == pytest.approx([500, 1500, 2500, 2600, 100])


def test_a_pressure_becomes_its_load() -> None:
    gauge = Instrument(Measures.PRESSURE, "MPa", piston_mm2=800)
    t = table("0,1\n1,2\n2,3\n3,6.5\n4,0")
    assert read(t, Columns(load_unit="bar"), gauge)[3, 1] == pytest.approx(520)


@pytest.mark.parametrize(
    ("text", "columns", "field"),
    [
        ("", Columns(), "file"),
        ("no numbers\nat all", Columns(), "file"),
        ("0,1\n1,2", Columns(), "file"),
        ("t,F\n0,1\n1,x\n2,3\n3,4\n4,5\n5,6", Columns(), "row 3: load"),
        ("t,F\n0,1\n1\n2,3\n3,4\n4,5\n5,6", Columns(), "row 3: load"),
        ("# made by\n\nt,F\n0,1\n\n1,x\n2,3\n3,4\n4,5\n5,6", Columns(), "row 6: load"),
        ("0,1\n1,2\n0.5,3\n3,4\n4,5\n5,6", Columns(), "row 3: time"),
        ("0,1\n1,2\n2,3\n3,4\n4,5", Columns(load=7), "row 1: load"),
        ("0,1\n1,2\n2,3\n3,4\n4,5", Columns(load_unit="m"), "unit"),
    ],
)
def test_what_cannot_be_read_says_where(text: str, columns: Columns, field: str) -> None:
    with pytest.raises(Refusal) as refused:
        read(table(text), columns, Instrument())
    assert refused.value.problems[0].field == field


@given(st.lists(st.floats(0, 9000).map(lambda v: round(v, 2)), min_size=5, max_size=60), st.sampled_from(",;\t"))
def test_every_cell_comes_through(loads: list[float], separator: str) -> None:
    text = "\n".join(f"{n * 0.1:.1f}{separator}{v}" for n, v in enumerate(loads))
    assert read(table(text), Columns(), Instrument())[:, 1] == pytest.approx(loads)
