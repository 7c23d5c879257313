"""What people type, against hand-computed values; exact factors; and what digits a reading supports."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.quantity import (
    BASE,
    UNITS,
    Dimension,
    Unit,
    parse,
    parse_level,
    rounded,
    supported_digits,
    unit,
)
from adhaero.core.refusal import Refusal
from adhaero.core.units import Units

L, F, S, T = Dimension.LENGTH, Dimension.FORCE, Dimension.STRESS, Dimension.TIME


@pytest.mark.parametrize(
    ("text", "dimension", "default", "expected"),
    [
        ("19", L, "mm", 19.0),
        ("19", L, "in", 482.6),
        ("19mm", L, "in", 19.0),
        (" 19.4 mm ", L, "in", 19.4),
        ("19,4", L, "mm", 19.4),
        ("0,125 in", L, "mm", 3.175),
        ("3/4 in", L, "mm", 19.05),
        ('3/4"', L, "mm", 19.05),
        ('1 3/4"', L, "mm", 44.45),
        ("1-3/4 in", L, "mm", 44.45),
        ("¾ in", L, "mm", 19.05),
        ("1¾ in", L, "mm", 44.45),
        ("1/32 in", L, "mm", 0.79375),
        ("7.09 thou", L, "mm", 0.180086),
        ("2 cm", L, "mm", 20.0),
        (".5", L, "mm", 0.5),
        ("5.", L, "mm", 5.0),
        ("26 kg", F, "N", 254.9729),
        ("26.0 kgf", F, "N", 254.9729),
        ("40 lbf", F, "N", 177.92886461),
        ("40 lb", F, "N", 177.92886461),
        ("3.2 kN", F, "N", 3200.0),
        ("3.2 KN", F, "N", 3200.0),
        ("0", F, "N", 0.0),
        ("-5", F, "N", -5.0),
        ("232 psi", S, "MPa", 1.599583692),
        ("1.6", S, "MPa", 1.6),
        ("16 bar", S, "MPa", 1.6),
        ("1h 30min", T, "s", 5400.0),
        ("1 h 30 min", T, "s", 5400.0),
        ("90 min", T, "s", 5400.0),
        ("40", T, "min", 2400.0),
        ("3 d", T, "h", 259200.0),
        ("68 °F", Dimension.TEMPERATURE, "°C", 20.0),
        ("9 °F", Dimension.WARMTH, "K", 5.0),
        ("3 °C", Dimension.WARMTH, "K", 3.0),
        ("-5", Dimension.TEMPERATURE, "°C", -5.0),
        ("-4 F", Dimension.TEMPERATURE, "°C", -20.0),
        ("52 %", Dimension.SHARE, "%", 52.0),
        ("220 g/m2", Dimension.SPREAD, "g/m²", 220.0),
        ("1e3", F, "N", 1000.0),
    ],
)
def test_reads_what_people_type(text: str, dimension: Dimension, default: str, expected: float) -> None:
    assert parse(text, dimension, default).base == pytest.approx(expected, rel=1e-8, abs=1e-9)


@pytest.mark.parametrize(
    ("text", "dimension", "default"),
    [
        ("", L, "mm"),
        ("   ", L, "mm"),
        ("abc", L, "mm"),
        ("12 kg", L, "mm"),
        ("5 MPa", F, "N"),
        ("5 N", S, "MPa"),
        ("1,250", F, "N"),
        ("1/0 in", L, "mm"),
        ("12 mm mm", L, "mm"),
        ("1.2.3", L, "mm"),
        ("--3", L, "mm"),
        ("nan", F, "N"),
        ("inf", F, "N"),
        ("1e999", F, "N"),
        ("9" * 40, F, "N"),
        ("9" * 100_000, F, "N"),
        ("12 furlongs", L, "mm"),
        ("1h 5kg", T, "s"),
    ],
)
def test_refuses_what_is_no_quantity(text: str, dimension: Dimension, default: str) -> None:
    with pytest.raises(Refusal) as refused:
        parse(text, dimension, default)
    problem = refused.value.problems[0]
    assert problem.field in ("value", "unit")
    assert problem.message
    assert problem.remedy
    assert len(problem.message) < 200, "a refusal must not echo a megabyte"


def test_thousands_with_a_comma_are_ambiguous_and_said_so() -> None:
    with pytest.raises(Refusal, match=r"1250 or 1\.250"):
        parse("1,250", F, "N")


def test_remembers_the_unit_that_was_typed() -> None:
    q = parse("40 lbf", F, "N")
    assert q.unit.symbol == "lbf"
    assert q.typed == pytest.approx(40, rel=1e-15)


def test_mass_on_a_hanger_in_both_systems() -> None:
    """26.0 kg: 254.97 N and 57.32 lbf; switching the display never changes the stored number."""
    stored = parse("26.0 kg", F, "N").base
    assert Units(((F, "N"),)).text(stored, F, 0.01) == "254.97 N"
    assert Units(((F, "lbf"),)).text(stored, F, 0.05) == "57.32 lbf"
    assert stored == parse("26.0 kg", F, "N").base


def test_stress_in_the_other_system() -> None:
    assert Units(((S, "psi"),)).text(0.3, S) == "43.5 psi"
    assert Units(((S, "psi"),)).text(7.2, S) == "1044 psi"


@pytest.mark.parametrize("u", list(UNITS.values()), ids=lambda u: f"{u.dimension}-{u.symbol}")
def test_every_unit_reads_its_own_symbol(u: Unit) -> None:
    text = f"7 {u.symbol}"
    assert parse(text, u.dimension, BASE[u.dimension]).base == pytest.approx(u.to_base(7))
    for alias in u.aliases:
        assert unit(alias, u.dimension) is u


@given(st.floats(-1e9, 1e9), st.sampled_from(list(UNITS.values())))
def test_there_and_back_is_the_same(value: float, u: Unit) -> None:
    assert u.to_base(u.from_base(value)) == pytest.approx(value, rel=1e-12, abs=1e-9)


@given(st.fractions(0, 1000, max_denominator=64), st.sampled_from(["mm", "in"]))
def test_fractions_are_exact(value: object, symbol: str) -> None:
    typed = parse(f"{value} {symbol}", L, "mm")
    assert typed.base == float(value * unit(symbol, L).factor)  # type: ignore[operator]


@given(st.text(max_size=80))
def test_any_text_is_read_or_refused(text: str) -> None:
    try:
        base = parse(text, F, "N").base
    except Refusal:
        return
    assert math.isfinite(base)


@pytest.mark.parametrize(
    ("value", "uncertainty", "digits", "result"),
    [
        (6.64735, 0.03, 2, 6.65),
        (6.64735, 0.4, 1, 6.6),
        (5203.4, 1, 0, 5203),
        (5203.4, 30, -1, 5200),
        (0.0, 0.5, 1, 0.0),
    ],
)
def test_digits_follow_the_uncertainty(value: float, uncertainty: float, digits: int, result: float) -> None:
    assert supported_digits(value, uncertainty) == digits
    assert rounded(value, uncertainty) == result


def test_digits_without_uncertainty_are_six() -> None:
    assert supported_digits(1234.56789, 0) == 2


@pytest.mark.parametrize(
    ("text", "value", "symbol"),
    [
        ("0.3 mm", 0.3, "mm"),
        ("3/4", 0.75, ""),
        ("-5 °C", -5.0, "°C"),
        ("120 g/m²", 120.0, "g/m²"),
        ("coarse", "coarse", ""),
        ("2-part", "2-part", ""),
    ],
)
def test_levels_of_a_free_factor(text: str, value: str | float, symbol: str) -> None:
    assert parse_level(text) == (value, symbol)


def test_a_level_needs_a_text() -> None:
    with pytest.raises(Refusal):
        parse_level("  ")
