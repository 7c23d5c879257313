"""Logger files as they come: other separators, commas for points, units in the heading, rows that cannot be."""

from __future__ import annotations

from datetime import UTC, datetime
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.refusal import Refusal
from adhaero.formats.climate_csv import Row, read

NOON = datetime(2026, 3, 1, 12, 0, tzinfo=UTC)


@pytest.mark.parametrize(
    "text",
    [
        "time,temperature,humidity\n2026-03-01T12:00:00Z,17.5,52",
        "\ufeffTime;Temp;RH\r\n2026-03-01 12:00;17,5;52\r\n",
        "humidity\tair_c\tdate\n52\t17.5\t2026-03-01T14:00+02:00",
        "Timestamp,Temperature (°C),Humidity (%),battery\n2026-03-01 12:00:00,17.5,52,99",
    ],
)
def test_as_loggers_write_them(text: str) -> None:
    assert read(text) == [Row(NOON, 17.5, 52.0)]


def test_what_was_not_read_is_left_empty() -> None:
    assert read("time,temperature,humidity\n2026-03-01 12:00,,52") == [Row(NOON, None, 52.0)]
    assert read("time,temperature\n2026-03-01 12:00,17.5") == [Row(NOON, 17.5, None)]


def test_a_time_without_a_zone_is_the_shops() -> None:
    summer = read("time,rh\n2026-07-01 12:00,50", ZoneInfo("Europe/Helsinki"))
    assert summer[0].at == datetime(2026, 7, 1, 9, 0, tzinfo=UTC)


@pytest.mark.parametrize(
    ("row", "number"),
    [("2026-03-01 12:00,95,50", 2), ("2026-03-01 12:00,20,101", 2), ("soon,20,50", 2), ("2026-03-01 12:00", 2)],
)
def test_a_wrong_row_is_named_by_its_number(row: str, number: int) -> None:
    with pytest.raises(Refusal) as refused:
        read(f"time,temperature,humidity\n{row}\n2026-03-01 13:00,20,50")
    assert [p.field for p in refused.value.problems] == [f"row {number}"]


def test_not_more_wrong_rows_are_named_than_somebody_reads() -> None:
    with pytest.raises(Refusal) as refused:
        read("time,rh\n" + "never,50\n" * 500)
    assert len(refused.value.problems) == 21


@given(st.lists(st.tuples(st.integers(0, 10**6), st.floats(-60, 90), st.floats(0, 100)), max_size=20))
def test_there_and_back(values: list[tuple[int, float, float]]) -> None:
    rows = [Row(datetime.fromtimestamp(1_700_000_000 + s, UTC), air, damp) for s, air, damp in values]
    text = "time,temperature,humidity\n" + "".join(f"{r.at.isoformat()},{r.air_c},{r.humidity_pct}\n" for r in rows)
    assert read(text) == rows
