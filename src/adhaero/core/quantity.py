"""Numbers with units: exact factors, what people type, and how much of a number to show.

Inside the program every quantity is a float in the base of the trade: N, mm, MPa, s, mm2, N mm, g, g/m2,
degrees Celsius. Factors are exact fractions, so that 26 kg on a hanger is the same newtons however it is shown.

Sources of the factors: the international inch (25.4 mm exactly), the international avoirdupois pound
(0.45359237 kg exactly) and standard gravity (9.80665 m/s2 exactly), ISO 80000.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

from adhaero.core.refusal import refuse

MAX_TEXT = 64
"""Longest text that can be a quantity; longer input is a slip, not a number."""


class Dimension(StrEnum):
    """What a number measures. Quantities of different dimension never share a column or a mean."""

    LENGTH = "length"
    AREA = "area"
    FORCE = "force"
    STRESS = "stress"
    TIME = "time"
    MASS = "mass"
    SPREAD = "spread"
    TEMPERATURE = "temperature"
    WARMTH = "temperature difference"
    SHARE = "share"
    DENSITY = "density"
    MOMENT = "moment"
    LINE_LOAD = "load per length"
    NUMBER = "number"


_G = Fraction("9.80665")
_POUND_KG = Fraction("0.45359237")
_LBF = _POUND_KG * _G
_INCH = Fraction("25.4")


@dataclass(frozen=True)
class Unit:
    """A unit: ``value * factor + offset`` is the value in the base unit of ``dimension``."""

    symbol: str
    dimension: Dimension
    factor: Fraction
    offset: Fraction = Fraction(0)
    aliases: tuple[str, ...] = ()

    def to_base(self, value: Fraction | float) -> float:
        """``value`` in this unit -> base unit."""
        return float(Fraction(value) * self.factor + self.offset)

    def from_base(self, value: float) -> float:
        """``value`` in the base unit -> this unit."""
        return float((Fraction(value) - self.offset) / self.factor)


def _u(symbol: str, dimension: Dimension, factor: Fraction | int | str, *aliases: str) -> Unit:
    return Unit(symbol, dimension, Fraction(factor), aliases=aliases)


_UNITS = (
    _u("mm", Dimension.LENGTH, 1, "millimetre", "millimeter"),
    _u("cm", Dimension.LENGTH, 10),
    _u("m", Dimension.LENGTH, 1000),
    _u("in", Dimension.LENGTH, _INCH, '"', "″", "inch", "inches"),
    _u("ft", Dimension.LENGTH, _INCH * 12, "'", "′"),
    _u("thou", Dimension.LENGTH, _INCH / 1000, "mil"),
    _u("mm²", Dimension.AREA, 1, "mm2"),
    _u("cm²", Dimension.AREA, 100, "cm2"),
    _u("in²", Dimension.AREA, _INCH**2, "in2"),
    _u("N", Dimension.FORCE, 1, "n", "newton"),
    _u("kN", Dimension.FORCE, 1000, "kn"),
    # In a force field a mass is a mass hanging from the piece: people read "26 kg" off a hanging scale.
    _u("kgf", Dimension.FORCE, _G, "kg", "kp"),
    _u("lbf", Dimension.FORCE, _LBF, "lb", "lbs", "pound", "pounds"),
    _u("MPa", Dimension.STRESS, 1, "mpa", "n/mm2", "n/mm²"),
    _u("kPa", Dimension.STRESS, Fraction(1, 1000), "kpa"),
    _u("psi", Dimension.STRESS, _LBF / _INCH**2, "lb/in2", "lbf/in2"),
    _u("bar", Dimension.STRESS, Fraction(1, 10)),
    _u("kgf/cm²", Dimension.STRESS, _G / 100, "kgf/cm2", "kg/cm2"),
    _u("s", Dimension.TIME, 1, "sec", "second", "seconds"),
    _u("ms", Dimension.TIME, Fraction(1, 1000), "millisecond", "milliseconds"),
    _u("min", Dimension.TIME, 60, "minute", "minutes"),
    _u("h", Dimension.TIME, 3600, "hr", "hour", "hours"),
    _u("d", Dimension.TIME, 86400, "day", "days"),
    _u("wk", Dimension.TIME, 604800, "week", "weeks"),
    _u("mo", Dimension.TIME, 2629800, "month", "months"),
    _u("y", Dimension.TIME, 31557600, "yr", "year", "years", "a"),
    _u("g", Dimension.MASS, 1, "gram"),
    _u("kg", Dimension.MASS, 1000),
    _u("oz", Dimension.MASS, _POUND_KG * 1000 / 16),
    _u("lb", Dimension.MASS, _POUND_KG * 1000, "lbs"),
    _u("g/m²", Dimension.SPREAD, 1, "g/m2", "gsm"),
    Unit("°C", Dimension.TEMPERATURE, Fraction(1), aliases=("c", "degc", "°")),
    Unit("°F", Dimension.TEMPERATURE, Fraction(5, 9), Fraction(-160, 9), ("f", "degf")),
    _u("K", Dimension.WARMTH, 1, "°c", "c"),
    _u("F°", Dimension.WARMTH, Fraction(5, 9), "°f", "f"),
    _u("%", Dimension.SHARE, 1, "percent"),
    _u("kg/m³", Dimension.DENSITY, 1, "kg/m3"),
    _u("N·m", Dimension.MOMENT, 1, "nm", "n m"),
    _u("lbf·ft", Dimension.MOMENT, _LBF * _INCH * 12 / 1000, "lb ft", "ft lb"),
    _u("N/mm", Dimension.LINE_LOAD, 1, "kn/m"),
    _u("lbf/in", Dimension.LINE_LOAD, _LBF / _INCH, "lb/in"),
    _u("", Dimension.NUMBER, 1),
)

UNITS: dict[tuple[Dimension, str], Unit] = {(u.dimension, u.symbol): u for u in _UNITS}
_BY_NAME = {(u.dimension, n.lower()): u for u in _UNITS for n in (u.symbol, *u.aliases)}

BASE: dict[Dimension, str] = {
    d: next(u.symbol for u in _UNITS if u.dimension is d and u.factor == 1 and u.offset == 0) for d in Dimension
}
"""Symbol of the base unit of each dimension."""

# The quiet second unit beside a value: what somebody schooled in the other system thinks in.
OTHER: dict[str, str] = {
    "mm": "in", "in": "mm", "N": "lbf", "kN": "lbf", "lbf": "N", "kgf": "N", "MPa": "psi",
    "psi": "MPa", "bar": "MPa", "°C": "°F", "°F": "°C", "N·m": "lbf·ft", "N/mm": "lbf/in",
}  # fmt: skip


def unit(symbol: str, dimension: Dimension) -> Unit:
    """The unit of that name or alias. Raises ``Refusal`` for a unit of another dimension."""
    found = _BY_NAME.get((dimension, symbol.strip().lower()))
    if found is None:
        known = ", ".join(u.symbol for u in _UNITS if u.dimension is dimension and u.symbol)
        raise refuse(
            "unit",
            f"{symbol.strip()!r} is not a unit of {dimension.value}",
            f"Use one of: {known}." if known else "Type a plain number.",
        )
    return found


@dataclass(frozen=True)
class Quantity:
    """What was typed: ``base`` in the base unit of the dimension, and the ``unit`` it was typed in."""

    base: float
    unit: Unit

    @property
    def typed(self) -> float:
        """The value in the unit it was typed in."""
        return self.unit.from_base(self.base)


_VULGAR = {
    "½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8",
    "⅓": "1/3", "⅔": "2/3",
}  # fmt: skip
_NUMBER = r"\d+[ -]\d+/\d+|\d+/\d+|(?:\d+[.,]?\d*|[.,]\d+)(?:e[+-]?\d+)?"
_PART = re.compile(rf"\s*({_NUMBER})\s*([^\d\s.,+-][^\d.,+-]*?[23]?)?\s*(?=$|[\d.])", re.IGNORECASE)


def _number(text: str) -> Fraction:
    """``1 3/4``, ``3/4``, ``19``, ``19.5`` or ``19,5`` -> an exact fraction."""
    if "," in text:
        whole, _, rest = text.partition(",")
        if len(rest) == 3 and whole not in ("", "0"):
            raise refuse(
                "value",
                f"{text!r} could be {whole}{rest} or {whole}.{rest}",
                "Write thousands without a comma, and decimals with a point.",
            )
        text = text.replace(",", ".")
    whole, _, fraction = text.replace("-", " ").rpartition(" ") if "/" in text else ("", "", text)
    try:
        return Fraction(fraction) + (Fraction(whole) if whole else 0)
    except ZeroDivisionError:
        raise refuse("value", f"{text!r} divides by zero", "Write the fraction as 3/4.") from None


def parse(text: str, dimension: Dimension, default_unit: str) -> Quantity:
    """Read what a person typed.

    ``3/4 in``, ``1 3/4"``, ``19``, ``19mm``, ``19,5 mm``, ``1h 30min``, ``26 kg`` (as a force: hung from
    the piece). A bare number is in ``default_unit``. Compound parts must share the dimension and add up.

    Raises ``Refusal`` for text that is empty, too long, not a number, not finite or of another dimension.
    """
    default = unit(default_unit, dimension)
    example = f"Type a number, with or without a unit: 12 or 12 {default.symbol}."
    if len(text) > MAX_TEXT:
        raise refuse("value", f"{len(text)} characters are too many for a number", example)
    clean = text.strip().replace("−", "-")
    for sign, plain in _VULGAR.items():
        clean = clean.replace(sign, f" {plain}")
    clean = clean.strip()
    negative = clean.startswith("-")
    rest = clean.removeprefix("-").removeprefix("+").strip()
    if not rest:
        raise refuse("value", "is empty", example)
    total, position, first, bare = Fraction(0), 0, None, False
    while position < len(rest):
        match = _PART.match(rest, position)
        if match is None or bare:
            raise refuse("value", f"cannot read {text.strip()!r} as a {dimension.value}", example)
        used = unit(match[2], dimension) if match[2] else default
        if len(match[1]) > 20 or ("e" in match[1].lower() and abs(float(match[1])) > 1e12):
            raise refuse("value", f"{match[1]!r} is out of all proportion", example)
        total += _number(match[1]) * used.factor + used.offset
        first, bare = first or used, not match[2]
        position = match.end()
    assert first is not None
    if negative:
        total = first.offset * 2 - total  # -5 degrees: the sign belongs to the typed number
    value = float(total)
    if not math.isfinite(value):
        raise refuse("value", "is not a finite number", example)
    return Quantity(value, first)


def parse_level(text: str) -> tuple[str | float, str]:
    """A level of a factor of the user's own: a number with any unit after it, or just a text.

    ``0.1 mm`` -> (0.1, "mm"), ``3/4`` -> (0.75, ""), ``coarse`` -> ("coarse", ""). Raises ``Refusal`` for an empty or
    overlong text.
    """
    clean = text.strip()
    if not 0 < len(clean) <= MAX_TEXT:
        raise refuse("value", "is empty or too long", f"Write a text or a number, at most {MAX_TEXT} signs.")
    match = re.fullmatch(rf"(-?)({_NUMBER})\s*([^\d\s.,+/-].{{0,15}})?", clean, re.IGNORECASE)
    if match is None or len(match[2]) > 20:
        return clean, ""
    value = float(_number(match[2]))
    return (-value if match[1] else value), (match[3] or "").strip()


def supported_digits(value: float, uncertainty: float) -> int:
    """Decimals of ``value`` that an uncertainty of that size supports.

    The last digit shown is of the order of the uncertainty: 6.647 +- 0.03 -> 2 decimals (6.65). Negative
    for tens and hundreds. An uncertainty of 0 supports the six significant digits of ``value``.
    """
    if uncertainty <= 0 or not math.isfinite(uncertainty):
        return 6 - (math.floor(math.log10(abs(value))) + 1 if value else 1)
    return -math.floor(math.log10(uncertainty))


def rounded(value: float, uncertainty: float) -> float:
    """``value`` rounded to what an uncertainty of that size supports."""
    return round(value, supported_digits(value, uncertainty))
