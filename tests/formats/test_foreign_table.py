"""Cells that others wrote: each is understood for what it says, or refused by its place."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Refusal
from adhaero.formats.foreign_table import MOST_CELLS, Signs, Written, placed, reading, split, turned, words

LOADS = st.floats(0.5, 1e5).map(lambda v: round(v, 3))
NAMES = st.text("abcdefgh äöü", min_size=1, max_size=8).filter(lambda s: s.strip() != "")


def read(text: str, unit: str = "N", **signs: tuple[str, ...]) -> tuple[Written, float | None]:
    found = reading(1, 1, text, Dimension.FORCE, unit, Signs(**signs))
    return found.written, found.value


@pytest.mark.parametrize(("text", "written", "value"), [
    ("410", Written.VALUE, 410.0), (" 410.5 ", Written.VALUE, 410.5), ("410,5", Written.VALUE, 410.5),
    ("3/4 kN", Written.VALUE, 750.0), ("90 lbf", Written.VALUE, 90 * 4.4482216152605), ("+410", Written.VALUE, 410.0),
    (">400", Written.AT_LEAST, 400.0), ("> 400", Written.AT_LEAST, 400.0), ("≥400", Written.AT_LEAST, 400.0),
    ("400+", Written.AT_LEAST, 400.0), ("400 >", Written.AT_LEAST, 400.0),
    ("F", Written.APART, None), ("f", Written.APART, None),
    ("", Written.EMPTY, None), ("-", Written.EMPTY, None), ("N/A", Written.EMPTY, None),
    ("abc", Written.REFUSED, None), ("0", Written.REFUSED, None), ("-5", Written.REFUSED, None),
    ("12 mm", Written.REFUSED, None), ("1,234", Written.REFUSED, None), (">", Written.REFUSED, None),
    ("4" * 300, Written.REFUSED, None),
])  # fmt: skip
def test_what_a_cell_says(text: str, written: Written, value: float | None) -> None:
    found = read(text)
    assert found[0] is written
    assert found[1] is None if value is None else found[1] == pytest.approx(value)


def test_signs_of_one_s_own_take_the_place_of_the_usual_ones() -> None:
    assert read("400*", at_least=("*",)) == (Written.AT_LEAST, 400.0)
    assert read(">400", at_least=("*",))[0] is Written.REFUSED
    assert read("fell off", apart=("fell off",))[0] is Written.APART
    assert read("0", apart=("0",))[0] is Written.APART, "where zero is the sign of it"
    assert words("  > ≥  > + ") == (">", "≥", "+")
    assert words("") == ()


def test_why_a_cell_is_refused_is_said() -> None:
    assert "could be 1234 or 1.234" in reading(3, 4, "1,234", Dimension.FORCE, "N", Signs()).why
    assert "is 0 the sign" in reading(3, 4, "0", Dimension.FORCE, "N", Signs()).why


@pytest.mark.parametrize(("text", "cells"), [
    ("a\tb\n1\t2\n", [["a", "b"], ["1", "2"]]),
    ("a;b\n1,5;2\n", [["a", "b"], ["1,5", "2"]]),
    ("a,b\n1.5,2\n", [["a", "b"], ["1.5", "2"]]),
    ("\ufeffa,b\r\n1,2\r\n\r\n", [["a", "b"], ["1", "2"]]),
    ('a,b\n"1,5",2\n', [["a", "b"], ["1,5", "2"]]),
    ('a\tb\n3/4"\t2\n', [["a", "b"], ['3/4"', "2"]]),
    ("one\ntwo\n", [["one"], ["two"]]),
])  # fmt: skip
def test_how_cells_are_parted(text: str, cells: list[list[str]]) -> None:
    assert split(text) == cells


@pytest.mark.parametrize("text", ["", "  \n\n", 'a,b\n"1,2\n3,4\n', "a,b\n" + "1," * (MOST_CELLS + 1)])
def test_what_is_no_table_is_refused(text: str) -> None:
    with pytest.raises(Refusal) as refused:
        split(text)
    assert {p.field for p in refused.value.problems} == {"text"}


@settings(deadline=None, max_examples=60)
@given(st.lists(st.tuples(NAMES, st.lists(LOADS, min_size=1, max_size=6)), min_size=1, max_size=6))
def test_every_cell_comes_back_at_its_place(table: list[tuple[str, list[float]]]) -> None:
    text = "\n".join("\t".join([name, *map(repr, own)]) for name, own in table)
    rows = split(text)
    for (name, own), line in zip(table, placed(rows), strict=True):
        assert line[0][2] == name.strip()
        read_ = [reading(r, c, cell, Dimension.FORCE, "N", Signs()) for r, c, cell in line[1:]]
        assert [x.written for x in read_] == [Written.VALUE] * len(own)
        assert all(math.isclose(x.value or 0, v, rel_tol=1e-9) for x, v in zip(read_, own, strict=True))


@settings(deadline=None, max_examples=60)
@given(st.lists(st.lists(st.sampled_from(["1", "2", "F", ""]), min_size=1, max_size=5), min_size=1, max_size=5))
def test_turned_twice_every_cell_stands_where_it_stood(rows: list[list[str]]) -> None:
    found = {(r, c): text for line in turned(rows) for r, c, text in line if text}
    assert found == {(r, c): text for line in placed(rows) for r, c, text in line if text}
