"""Where what was done left what was planned, by more than the plan's own tolerance."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from adhaero.core.plan.document import Level
from adhaero.core.plan.fields import FIELDS
from adhaero.core.quantity import Dimension
from adhaero.core.times import span
from adhaero.core.units import Units


@dataclass(frozen=True)
class Departure:
    """A field of one piece, in its base unit: planned, and what it came to."""

    field: str
    planned: float
    actual: float

    def in_words(self, units: Units) -> str:
        """For example "clamp time 26 h instead of 24 h"."""
        f = FIELDS[self.field]
        assert f.dimension is not None
        if f.dimension is Dimension.TIME:
            values = [span(v) for v in (self.actual, self.planned)]
        else:
            values = [units.text(v, f.dimension) for v in (self.actual, self.planned)]
        return f"{f.name.lower()} {values[0]} instead of {values[1]}"


def departures(
    planned: Mapping[str, Level | None], actual: Mapping[str, float | None], tolerances: Mapping[str, float]
) -> list[Departure]:
    """The fields whose real value is known and farther from the planned one than the tolerance."""
    found = []
    for key, width in tolerances.items():
        level, real = planned.get(key), actual.get(key)
        if level is None or not isinstance(level.value, float | int) or real is None:
            continue
        if abs(real - level.value) > width * (1 + 1e-9):
            found.append(Departure(key, float(level.value), real))
    return found
