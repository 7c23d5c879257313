"""How quickly a piece is loaded: the target that a plan states, and what really was."""

from __future__ import annotations

from dataclasses import dataclass

from adhaero.core.breaking.trace import Figures
from adhaero.core.quantity import Dimension
from adhaero.core.units import Units

PACES: dict[str, str] = {
    "time": "time to the peak",
    "force": "rise of the load per second",
    "travel": "travel per second",
}
"""What a target may be stated in -> its words; in s, N/s and mm/s."""
_FIGURES = {"time": "to_failure_s", "force": "rate_n_s", "travel": "travel_rate_mm_s"}
_DIMENSIONS = {"time": Dimension.TIME, "force": Dimension.FORCE, "travel": Dimension.LENGTH}


@dataclass(frozen=True)
class Pace:
    """A target: ``kind`` (a key of PACES) between ``low`` and ``high``."""

    kind: str
    low: float
    high: float

    @property
    def dimension(self) -> Dimension:
        """The dimension of its figures; of force and travel a second."""
        return _DIMENSIONS[self.kind]

    def in_words(self) -> str:
        """In words, in base units."""
        unit = {"time": "s", "force": "N/s", "travel": "mm/s"}[self.kind]
        return f"{PACES[self.kind]} {self.low:g} to {self.high:g} {unit}"

    def of(self, f: Figures) -> float | None:
        """The figure of a curve that the target is about; ``None`` where the curve does not show it."""
        value: float | None = getattr(f, _FIGURES[self.kind])
        return value

    def shown(self, f: Figures, units: Units) -> str:
        """The figure of a curve in words; empty where the curve does not show it."""
        value = self.of(f)
        if value is None:
            return ""
        return units.text(value, self.dimension) + ("" if self.kind == "time" else "/s")

    def missed(self, f: Figures) -> str:
        """Whether a piece was loaded "too fast" or "too slow"; empty where it was not, or is not known."""
        value = self.of(f)
        if value is None or self.low <= value <= self.high:
            return ""
        slow = value > self.high if self.kind == "time" else value < self.low
        return "too slow" if slow else "too fast"
