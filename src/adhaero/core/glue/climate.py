"""The climate that a piece stood in: of all that was read at its places, only its own stay counts."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

SWING_PCT = 10.0
"""How far the humidity must turn back, in points, before it counts as a swing: smaller ones hardly reach the wood."""


@dataclass(frozen=True)
class Reading:
    """Air at a place: degrees Celsius and relative humidity in %, either of which may be missing."""

    at: datetime
    air_c: float | None
    humidity_pct: float | None


@dataclass(frozen=True)
class Range:
    """Least, most and mean of what was read."""

    low: float
    high: float
    mean: float


@dataclass(frozen=True)
class Stay:
    """What the air did while a piece stood in it. ``swings`` are turns of the humidity by ``SWING_PCT`` points."""

    readings: int
    air_c: Range | None
    humidity_pct: Range | None
    swings: int

    def in_words(self) -> str:
        """For example "14 to 22 °C (mean 18), 35 to 60 % humidity (mean 48), 3 swings"."""
        said = []
        for r, unit in ((self.air_c, "°C"), (self.humidity_pct, "% humidity")):
            if r is not None:
                said.append(f"{r.low:.3g} to {r.high:.3g} {unit} (mean {r.mean:.3g})")
        if self.humidity_pct is not None:
            said.append("no swing" if not self.swings else f"{self.swings} swing{'s' if self.swings > 1 else ''}")
        return ", ".join(said)


def stay(readings: Sequence[Reading], begin: datetime, end: datetime) -> Stay:
    """What was read from ``begin`` to ``end``; readings in order of time."""
    own = [r for r in readings if begin <= r.at <= end]
    damp = [r.humidity_pct for r in own if r.humidity_pct is not None]
    return Stay(len(own), _range([r.air_c for r in own if r.air_c is not None]), _range(damp), swings(damp))


def _range(values: Sequence[float]) -> Range | None:
    return Range(min(values), max(values), math.fsum(values) / len(values)) if values else None


def swings(values: Sequence[float], least: float = SWING_PCT) -> int:
    """How often a series turned by at least ``least``: up and down again is two turns.

    Turning points with a dead band: a turn counts once the series has come back by ``least`` from its last extreme.
    """
    turns, way = 0, 0
    low = high = extreme = values[0] if values else 0.0
    for v in values:
        if way == 0:
            # Which way it goes first is known once it has gone that far.
            low, high = min(low, v), max(high, v)
            way = 1 if v - low >= least else -1 if high - v >= least else 0
            extreme = v
        elif way * (v - extreme) > 0:
            extreme = v
        elif abs(v - extreme) >= least:
            turns, way, extreme = turns + 1, -way, v
    return turns
