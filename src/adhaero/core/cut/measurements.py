"""What may be measured of every piece beside the sizes of its method: each with its dimension and sane range."""

from __future__ import annotations

import re
from dataclasses import dataclass

from adhaero.core.quantity import Dimension, parse

_APART = re.compile(r"\s*;\s*|,\s+")
"""Between readings; a comma without a space may be that of 0,5."""


@dataclass(frozen=True)
class Measurement:
    """A quantity; ``low`` and ``high`` are in its base unit, ``column`` is its heading in a table."""

    name: str
    dimension: Dimension
    low: float
    high: float
    column: str


def mean_of(text: str, dimension: Dimension, unit: str) -> float:
    """A measured value in its base unit: of several readings ("0.16; 0.18; 0.20 mm") their mean. A bare number has the
    unit of the next reading that has one, else ``unit``. ``Refusal`` for what is no number or no such unit.
    """
    found: list[float] = []
    for reading in reversed([x for x in _APART.split(text.strip()) if x] or [text]):
        quantity = parse(reading, dimension, unit)
        found.append(quantity.base)
        unit = quantity.unit.symbol
    return sum(found) / len(found)


MEASUREMENTS = {
    "gap": Measurement("Gap", Dimension.LENGTH, 0, 20, "gap_mm"),
    "moisture": Measurement("Moisture", Dimension.SHARE, 0, 200, "moisture_pct"),
    "mass": Measurement("Mass", Dimension.MASS, 0.1, 100_000, "mass_g"),
}
