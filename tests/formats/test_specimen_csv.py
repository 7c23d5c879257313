"""The CSV of specimens: what goes out comes back the same, whatever is in it."""

from __future__ import annotations

import string
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.refusal import Refusal
from adhaero.formats.specimen_csv import COUNT, NUMBER, TEXT, Row, names, read, size_range, write

words = st.text(string.printable + "äöü°µ²№\u202f", max_size=30).map(str.strip).filter(lambda s: "\x00" not in s)
needed = words.filter(bool)
numbers = st.one_of(st.none(), st.floats(-1e9, 1e9, allow_nan=False))
counts = st.one_of(st.none(), st.integers(0, 10_000))


@st.composite
def rows(draw: st.DrawFn) -> Row:
    values: dict[str, Any] = {c: draw(words) for c in TEXT} | {c: draw(counts) for c in COUNT}
    values |= {c: draw(numbers) for c in NUMBER}
    values |= {c: draw(needed) for c in ("batch", "code", "treatment_label", "role")}
    level = draw(st.one_of(st.none(), st.floats(-100, 100), st.sampled_from(["fine", "coarse, very", 'a "b"'])))
    return Row(**values, factors={"own": (level, "mm")})


@settings(max_examples=60, deadline=None)
@given(st.lists(rows(), min_size=1, max_size=5))
def test_there_and_back(made: list[Row]) -> None:
    text = write(made, [("own", "Gap, wide", "mm")])
    back, factors = read(text)
    assert factors == [("own", "Gap, wide", "mm")]
    for before, after in zip(made, back, strict=True):
        for column in (*TEXT, *COUNT, *NUMBER):
            # A spreadsheet's line ends inside a cell are the one thing that a CSV cannot keep apart.
            expected, got = getattr(before, column), getattr(after, column)
            if isinstance(expected, str):
                assert got.replace("\r\n", "\n").replace("\r", "\n") == expected.replace("\r\n", "\n").replace(
                    "\r", "\n"
                )
            else:
                assert got == expected, column
        assert after.factors == before.factors


@settings(max_examples=60)
@given(st.text(max_size=300))
def test_any_text_is_read_or_refused(text: str) -> None:
    try:
        back, _ = read(text)
    except Refusal as refusal:
        joint_records = refusal.problems
    else:
        assert back
        return
    assert all(p.field and p.message and p.remedy for p in joint_records)


def test_rows_are_numbered_as_in_the_file() -> None:
    text = "batch,code,treatment_label,role\n\nx,AAAA,l,joint\n\nx,BBBB,l,joint\n"
    assert [r.number for r in read(text)[0]] == [3, 5]


def test_names_of_batches_in_order() -> None:
    assert names([Row(batch="b"), Row(batch="a"), Row(batch="b")]) == ["b", "a"]


def test_none_is_a_level_and_not_a_gap() -> None:
    text = write(
        [Row(batch="x", code="c", treatment_label="l", role="joint", factors={"own": (None, "")})],
        [("own", "Grit", "")],
    )
    assert text.splitlines()[1].endswith(",none")
    assert read(text)[0][0].factors == {"own": (None, "")}


@pytest.mark.parametrize("value", [0.1 + 0.2, 1e-17, 123456789.123456789, 5e300])
def test_numbers_keep_every_digit(value: float) -> None:
    text = write([Row(batch="x", code="c", treatment_label="l", role="joint", sizes={"width": value})], [])
    assert read(text)[0][0].sizes["width"] == value


def test_an_error_names_row_and_column_and_does_not_echo_much() -> None:
    long = "y" * 1500
    with pytest.raises(Refusal) as refused:
        read(f"batch,code,treatment_label,role,width_mm\nx,AAAA,l,joint,{long}\n")
    problem = refused.value.problems[0]
    assert problem.field == "row 2: width_mm"
    assert len(problem.message) < 100


def test_a_file_of_very_many_columns_is_refused_at_once() -> None:
    with pytest.raises(Refusal) as refused:
        read(",".join(f"c{n}" for n in range(200_000)) + "\n1")
    assert "200000 columns" in refused.value.problems[0].message


def test_sizes_of_a_file_have_the_range_of_the_bench() -> None:
    """A width of a thousandth of a millimetre made a strength of 1e302 MPa."""
    low, high = size_range("width")
    assert 0.5 < low < 10 < high < 2000
