"""What may be measured of every piece beside the sizes of its method: each with its dimension and sane range."""

from __future__ import annotations

from dataclasses import dataclass

from adhaero.core.quantity import Dimension


@dataclass(frozen=True)
class Measurement:
    """A quantity; ``low`` and ``high`` are in its base unit, ``column`` is its heading in a table."""

    name: str
    dimension: Dimension
    low: float
    high: float
    column: str


MEASUREMENTS = {
    "gap": Measurement("Gap", Dimension.LENGTH, 0, 20, "gap_mm"),
    "moisture": Measurement("Moisture", Dimension.SHARE, 0, 200, "moisture_pct"),
    "mass": Measurement("Mass", Dimension.MASS, 0.1, 100_000, "mass_g"),
}
