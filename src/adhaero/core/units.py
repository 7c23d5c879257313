"""Numbers as text, in the units that a workshop chose: one rule of rounding for all of them, in the unit shown, last.

Two kinds of numbers are shown differently. What somebody *typed* (a level, a size, a setting) comes back as it was
typed, up to six significant digits and four decimals. What was *measured or worked out* shows no more digits than its
doubt supports, or three significant digits where no doubt is known (whole numbers stay whole).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction

from adhaero.core.quantity import BASE, Dimension, supported_digits, unit

NARROW = "\u202f"
TYPED_DIGITS = 6
TYPED_DECIMALS = 4
SHOWN_DIGITS = 3
SIXTY_FOURTHS = 64
"""Lengths in inches that lie on a 64th are shown as a rule or stop has them."""

SYSTEMS: dict[str, dict[str, str]] = {
    "Shop metric": {"length": "mm", "force": "N", "stress": "MPa", "temperature": "°C"},
    "Shop inch": {"length": "in", "force": "lbf", "stress": "psi", "temperature": "°F"},
}
"""Whole systems to choose from; each unit can be chosen on its own all the same."""

_AREA = {"mm": "mm²", "cm": "cm²", "m": "cm²", "in": "in²", "ft": "in²", "thou": "in²"}


@dataclass(frozen=True)
class Units:
    """The unit of every dimension. What is not chosen follows from what is: the area from the length, moment and load
    per length from the force.
    """

    chosen: tuple[tuple[Dimension, str], ...] = ()

    def symbol(self, dimension: Dimension) -> str:
        """The unit that a dimension is shown in."""
        own = dict(self.chosen)
        if dimension in own:
            return own[dimension]
        force, length = (own.get(d, BASE[d]) for d in (Dimension.FORCE, Dimension.LENGTH))
        match dimension:
            case Dimension.AREA:
                return _AREA[length]
            case Dimension.MOMENT if force == "lbf":
                return "lbf·ft"
            case Dimension.LINE_LOAD if force == "lbf":
                return "lbf/in"
            case Dimension.WARMTH if own.get(Dimension.TEMPERATURE) == "°F":
                return "F°"
        return BASE[dimension]

    def all(self) -> dict[str, str]:
        """Dimension -> unit, for every dimension."""
        return {d.value: self.symbol(d) for d in Dimension}

    def number(self, value: float, dimension: Dimension, doubt: float | None = None) -> str:
        """A measured value (base unit) without its unit. ``doubt`` is its uncertainty in the base unit."""
        u = unit(self.symbol(dimension), dimension)
        shown = u.from_base(value)
        if doubt is not None and doubt > 0:
            return grouped(shown, supported_digits(shown, doubt / float(u.factor)))
        return grouped(shown, fitting(shown, SHOWN_DIGITS), strip=True)

    def text(self, value: float, dimension: Dimension, doubt: float | None = None) -> str:
        """A measured value with its unit."""
        return with_symbol(self.number(value, dimension, doubt), self.symbol(dimension))

    def typed(self, value: float, dimension: Dimension, symbol: str = "") -> str:
        """A value that somebody typed, in the unit ``symbol`` that it was typed in, else in the user's own."""
        return as_typed(value, dimension, symbol or self.symbol(dimension))


METRIC = Units()
"""The base units, for want of a choice."""


def units_of(chosen: Mapping[str, str]) -> Units:
    """The units of a workshop from its settings: dimension -> symbol. Settings of other names are passed over."""
    known = {d.value: d for d in Dimension}
    return Units(tuple((known[k], v) for k, v in sorted(chosen.items()) if k in known))


def as_typed(value: float, dimension: Dimension, symbol: str) -> str:
    """A typed value in one unit: 2.5 psi stays 2.5 psi, 19.05 mm are 3/4 in, and 76 mm stay what they were typed as."""
    u = unit(symbol, dimension)
    shown = u.from_base(value)
    if u.symbol == "in" and (text := _fraction(shown)):
        return with_symbol(text, u.symbol)
    if u.symbol == "in" and _is_round(2 * value) and not _is_round(1000 * shown):
        return with_symbol(grouped(value, 1, strip=True), "mm")
    # A tenth of a thousandth is finer than any tool of the shop: more decimals only come from turning units.
    decimals = min(fitting(shown, TYPED_DIGITS), max(TYPED_DECIMALS, fitting(shown, SHOWN_DIGITS)))
    return with_symbol(grouped(shown, decimals, strip=True), u.symbol)


def _is_round(value: float) -> bool:
    return abs(value - round(value)) < 1e-6


def _fraction(inches: float) -> str:
    """A length as a fraction of an inch where it lies on a 64th, and is none of the plain decimals."""
    parts = inches * SIXTY_FOURTHS
    if inches <= 0 or abs(parts - round(parts)) > 1e-4 or round(parts) % SIXTY_FOURTHS == 0:
        return ""
    exact = Fraction(round(parts), SIXTY_FOURTHS)
    whole, rest = divmod(exact, 1)
    return f"{whole} {rest}" if whole else f"{rest}"


def fitting(value: float, digits: int) -> int:
    """Decimals that show ``value`` with that many significant digits, whole numbers being whole."""
    return 0 if value == 0 or not math.isfinite(value) else max(0, digits - 1 - math.floor(math.log10(abs(value))))


def half_up(value: float, decimals: int) -> float:
    """Round to so many decimals, halves away from zero, as browsers do: the number itself, not its shortest text."""
    if not math.isfinite(value):
        return value
    return float(Decimal(value).quantize(Decimal(1).scaleb(-decimals), ROUND_HALF_UP))


def grouped(value: float, decimals: int, *, strip: bool = False) -> str:
    """A number with its thousands apart; ``strip`` leaves trailing zeros of the decimals out."""
    rounded = half_up(value, decimals)
    text = f"{rounded:,.{min(9, max(decimals, 0))}f}".replace(",", NARROW).replace("-", "−")
    if text.count(NARROW) == 1 and abs(rounded) < 10_000:
        text = text.replace(NARROW, "")
    return text.rstrip("0").rstrip(".") if strip and "." in text else text


def signed_percent(share: float) -> str:
    """A change as a percentage with its sign; what rounds to nothing has none: "+12 %", "−3 %", "0 %"."""
    whole = int(half_up(100 * share, 0))
    return f"{whole:+d} %".replace("-", "−") if whole else "0 %"


def with_symbol(number: str, symbol: str) -> str:
    """A number and its unit, kept together."""
    return f"{number} {symbol}".strip()
