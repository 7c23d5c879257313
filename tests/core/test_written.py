"""Readings as they are written into a blank of a sheet."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.breaking.written import mode, reading
from adhaero.core.observation import Kind
from adhaero.core.refusal import Refusal

MODES = [("interface", "At the interface"), ("in-glue", "In the glue"), ("wood-at-line", "In the wood at the line")]


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("3200", (Kind.EXACT, "3200", "")),
        (" 3.2 kN ", (Kind.EXACT, "3.2 kN", "")),
        (">3000", (Kind.AT_LEAST, "3000", "")),
        ("≥ 3 kN", (Kind.AT_LEAST, "3 kN", "")),
        ("at least 300 N", (Kind.AT_LEAST, "300 N", "")),
        ("3000+", (Kind.AT_LEAST, "3000", "")),
        ("2000-2200", (Kind.BETWEEN, "2000", "2200")),
        ("18.7 - 21.2 kg", (Kind.BETWEEN, "18.7 kg", "21.2 kg")),
        ("2 kN to 2200 N", (Kind.BETWEEN, "2 kN", "2200 N")),
        ("2000..2200", (Kind.BETWEEN, "2000", "2200")),
        ("apart", (Kind.FELL_APART, "", "")),
        ("0", (Kind.FELL_APART, "", "")),
    ],
)
def test_a_reading_as_it_is_written(text: str, expected: tuple[Kind, str, str]) -> None:
    assert reading(text) == expected


@given(st.integers(1, 99_999), st.integers(1, 99_999), st.sampled_from(["", " N", " kg", " lbf"]))
def test_a_range_keeps_both_loads_and_their_unit(low: int, high: int, unit: str) -> None:
    assert reading(f"{low} - {high}{unit}") == (Kind.BETWEEN, f"{low}{unit}", f"{high}{unit}")


@pytest.mark.parametrize(("text", "expected"), [("2", "in-glue"), ("at the", "interface"), ("", None)])
def test_how_it_gave_way(text: str, expected: str | None) -> None:
    assert mode(text, MODES, "mode") == expected


@pytest.mark.parametrize("text", ["7", "in", "melted"])
def test_no_way_of_giving_way(text: str) -> None:
    with pytest.raises(Refusal) as refused:
        mode(text, MODES, "mode")
    assert "1 At the interface" in refused.value.problems[0].remedy
