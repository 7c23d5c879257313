"""Dates of a long study in words, against dates counted by hand."""

from __future__ import annotations

import pytest

from adhaero.core.plan.level_list import read_levels
from adhaero.core.plan.rhythm import spelled_out
from adhaero.core.refusal import Refusal

YEAR = 365.25 * 86400


def years(text: str) -> list[float]:
    found = read_levels("cure_s", text, "h", {}, {})
    assert not found.problems
    return [float(level.value) / YEAR for level in found.levels if isinstance(level.value, float | int)]


def test_half_yearly_for_three_years_then_yearly() -> None:
    for text in (
        "half-yearly for 3 years, then yearly to 11 years",
        "every 6 months until 3 years then every year for 8 years",
        "half-yearly for 3 years\nyearly to 11 years",
    ):
        assert years(text) == pytest.approx([0.5, 1, 1.5, 2, 2.5, 3, 4, 5, 6, 7, 8, 9, 10, 11])


def test_a_rhythm_stands_among_other_ages() -> None:
    day = 1 / 365.25
    assert years("1 d, weekly for 28 d, 1 year") == pytest.approx([day, 7 * day, 14 * day, 21 * day, 28 * day, 1])


def test_dates_are_shown_in_the_unit_of_their_step() -> None:
    units = [
        level.unit for level in read_levels("cure_s", "every 3 months to 1 year, yearly to 2 years", "h", {}, {}).levels
    ]
    assert units == ["mo"] * 4 + ["y"]


def test_an_end_between_two_dates_is_none() -> None:
    assert spelled_out(["every 5 d to 12 d"]) == ["5 d", "10 d"]


@pytest.mark.parametrize("text", ["yearly to 6 months", "daily to 3 years", "every 0 d to 3 d"])
def test_no_date_and_too_many_are_refused(text: str) -> None:
    with pytest.raises(Refusal):
        spelled_out([text])
    assert read_levels("cure_s", text, "h", {}, {}).problems


def test_other_words_stay_as_they_are() -> None:
    assert spelled_out(["overnight", "24 h", "yearly"]) == ["overnight", "24 h", "yearly"]
