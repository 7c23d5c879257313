"""Columns of a table of another shop, told by what stands in them; dates and outcomes as people write them."""

from __future__ import annotations

from datetime import date

import pytest

from adhaero.formats.foreign_dates import day_of, order_of
from adhaero.formats.foreign_outcomes import Ended, ended
from adhaero.workflow.foreign_columns import Column, guessed, split_head

DAY = date(2026, 5, 13)


@pytest.mark.parametrize(
    "text", ["2026-05-13", "13.5.2026", "13.05.26", "5/13/2026", "13/5/2026", "13 May 2026", "May 13, 2026",
             "13-May-26", "2026/5/13", "2026-05-13 09:30"],
)  # fmt: skip
def test_a_day_that_cannot_be_mistaken_is_read(text: str) -> None:
    assert day_of(text, month_first=None) == DAY


@pytest.mark.parametrize(("text", "first", "expected"), [
    ("3/4/2026", None, None), ("3/4/2026", True, date(2026, 3, 4)), ("3/4/2026", False, date(2026, 4, 3)),
    ("3.4.2026", True, date(2026, 4, 3)), ("4/4/2026", None, date(2026, 4, 4)), ("31.2.2026", None, None),
    ("soon", True, None), ("900", True, None),
])  # fmt: skip
def test_a_day_that_could_be_two_is_not_guessed(text: str, first: bool | None, expected: date | None) -> None:
    assert day_of(text, month_first=first) == expected


def test_a_column_tells_how_its_dates_are_written() -> None:
    assert order_of(["3/4/2026", "5/13/2026"]) is True
    assert order_of(["3/4/2026", "13/5/2026"]) is False
    assert order_of(["3/4/2026", "4/5/2026"]) is None
    assert order_of(["5/13/2026", "13/5/2026"]) is None, "two that contradict each other tell nothing"


@pytest.mark.parametrize(("text", "expected"), [
    ("", Ended.BROKE), ("Broke", Ended.BROKE), ("did not break", Ended.HELD), ("Didn’t break.", Ended.HELD),
    ("fell apart", Ended.APART), ("not tested", Ended.UNTESTED), ("purple", None),
])  # fmt: skip
def test_outcomes_in_words(text: str, expected: Ended | None) -> None:
    assert ended(text) is expected


@pytest.mark.parametrize(("head", "expected"), [
    ("Peak load (lbf)", ("peak load", "lbf")), ("Load, N", ("load", "N")), ("load_lbf", ("load", "lbf")),
    ("Cure [d]", ("cure", "d")), ("Load in kN", ("load", "kN")), ("Glue", ("glue", "")),
    ("Grade B", ("grade b", "")),
])  # fmt: skip
def test_units_in_headings(head: str, expected: tuple[str, str]) -> None:
    assert split_head(head) == expected


def test_columns_are_told_by_what_is_in_them() -> None:
    rows = [
        ["Yellow or white", "Which", "When it went", "lbs", "So", "Said", "Hm"],
        ["yellow", "T1", "3 May 2026", "900", "broke", "a long word about the way it sounded", "1.5"],
        ["yellow", "T2", "3 May 2026", "920", "broke", "nothing in particular to say here", "2.7"],
        ["white", "T3", "4 May 2026", "700", "fell apart", "the clamp had slipped a little before", "9.1"],
        ["white", "T4", "4 May 2026", "710", "did not break", "it rang like a bell, for some reason", "4.4"],
    ]
    found = [c.role for c in guessed(rows)]
    # Two columns of numbers that nothing tells apart: both are asked about, none is averaged.
    assert found == ["factor", "piece", "date", "ask", "result", "note", "ask"]
    rows = [row[:6] for row in rows]
    assert guessed(rows)[3] == Column("load"), "the only column of numbers is the load"


def test_a_condition_without_times_is_a_factor_of_its_own() -> None:
    named = [["Condition", "Load"], ["dry", "900"], ["soaked", "400"]]
    timed = [["Condition", "Load"], ["dry", "900"], ["soak 24 h", "400"]]
    assert guessed(named)[0] == Column("factor")
    assert guessed(timed)[0] == Column("factor", "conditioning")
