"""What an instrument shows, and the load on the piece that follows from it.

Load on the piece = (what is shown x newtons of one unit of it x lever) x calibration + tare::

    force, mass   what is shown is a force; a mass hung or pushed weighs g = 9.80665 m/s2 (ISO 80000-3)
    pressure      of a cylinder: MPa x piston area in mm2 = N
    moment        N m / arm in m = N at the load point

The lever says how many newtons press on the piece for one newton at the instrument. The tare is what hangs on the
piece anyhow (hanger, platform): it is no part of what is shown. A lever's own weight acts at its centre, and bears on
the load point by the share of the arm where that lies, with the load or against it.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from enum import StrEnum
from functools import cached_property
from typing import Any

from adhaero.core.quantity import Dimension, unit
from adhaero.core.refusal import Problems

BEYOND_SE = 2.0
"""An intercept of so many standard errors is one; a smaller one is noise, and the line goes through zero."""
LEAST_FOR_INTERCEPT = 4
DRIFT_SHARE = 0.02
"""A check weight that is read off by more than this, and by more than two steps, has drifted."""


class Measures(StrEnum):
    """What an instrument measures; ``TRAVEL`` gives no load."""

    FORCE = "force"
    MASS = "mass"
    PRESSURE = "pressure"
    MOMENT = "moment"
    TRAVEL = "travel"


DIMENSIONS = {
    Measures.FORCE: Dimension.FORCE,
    Measures.MASS: Dimension.FORCE,
    Measures.PRESSURE: Dimension.STRESS,
    Measures.MOMENT: Dimension.MOMENT,
    Measures.TRAVEL: Dimension.LENGTH,
}
"""A mass is read as the force of its weight, for which "26 kg" is a way to say it."""


@dataclass(frozen=True)
class Calibration:
    """Known loads (beside the tare) against what followed from the reading without a calibration: (known N, read N),
    with the day and who did it.
    """

    points: tuple[tuple[float, float], ...]
    at: str = ""
    person: str = ""

    @cached_property
    def line(self) -> Line:
        """The straight line through them (see ``fit``)."""
        return fit(self.points)


@dataclass(frozen=True)
class Line:
    """known = ``factor`` x read + ``offset_n``, with what each known load is off it (``residuals_n``), their standard
    deviation, and the relative standard error of the factor; both ``None`` where the points leave nothing over.
    """

    factor: float
    offset_n: float
    residuals_n: tuple[float, ...]
    scatter_n: float | None
    factor_error: float | None
    centre_n: float = 0.0
    points: int = 0

    def error_n(self, load_n: float) -> float:
        """Standard uncertainty of a load that was read under this line, N: that of a further point (scatter, and of a
        line with an offset its height), and of the slope from ``centre_n`` on, about which the line turns (any
        textbook of regression: prediction from a straight line).
        """
        if self.scatter_n is None or self.factor_error is None:
            return 0.0
        height = 1 / self.points if self.offset_n else 0.0
        return math.hypot(self.factor_error * (load_n - self.centre_n), self.scatter_n * math.sqrt(1 + height))


def fit(points: tuple[tuple[float, float], ...]) -> Line:
    """Least squares of known on read: through zero, unless four points or more show that it does not go there."""
    n = len(points)
    known, read = [k for k, _ in points], [r for _, r in points]
    squares = sum(r * r for r in read)
    factor, offset, left, centre = sum(k * r for k, r in points) / squares, 0.0, n - 1, 0.0
    if n >= LEAST_FOR_INTERCEPT:
        mean_k, mean_r = sum(known) / n, sum(read) / n
        spread = sum((r - mean_r) ** 2 for r in read)
        slope = sum((k - mean_k) * (r - mean_r) for k, r in points) / spread
        start = mean_k - slope * mean_r
        error = math.sqrt(sum((k - start - slope * r) ** 2 for k, r in points) / (n - 2))
        if abs(start) > BEYOND_SE * error * math.sqrt(1 / n + mean_r**2 / spread):
            factor, offset, left, squares, centre = slope, start, n - 2, spread, mean_k
    residuals = tuple(k - factor * r - offset for k, r in points)
    scatter = math.sqrt(sum(e * e for e in residuals) / left) if left else None
    slope_error = None if scatter is None else scatter / math.sqrt(squares) / factor
    return Line(factor, offset, residuals, scatter, slope_error, centre, n)


@dataclass(frozen=True)
class Instrument:
    """How a rig's reading becomes the load on the piece (see the module). ``unit`` is what it shows, or its signal
    has; ``piston_mm2`` belongs to a pressure, ``arm_mm`` to a moment; ``tare_n`` is in the load already. ``own_n`` is
    the weight of a lever, ``own_at`` where its centre lies, as a share of the arm of the load; below zero it acts
    against the load.
    """

    measures: Measures = Measures.FORCE
    unit: str = "N"
    piston_mm2: float | None = None
    arm_mm: float | None = None
    lever: float = 1.0
    tare_n: float = 0.0
    calibration: Calibration | None = field(default=None)
    own_n: float = 0.0
    own_at: float = 0.0

    @property
    def dimension(self) -> Dimension:
        """Of what it shows."""
        return DIMENSIONS[self.measures]

    @property
    def nominal(self) -> float:
        """Newtons on the piece for one base unit shown (N, MPa, N m), before calibration and tare; nan for travel."""
        match self.measures:
            case Measures.PRESSURE:
                return (self.piston_mm2 or math.nan) * self.lever
            case Measures.MOMENT:
                return 1000 / (self.arm_mm or math.nan) * self.lever
            case Measures.TRAVEL:
                return math.nan
        return self.lever

    @property
    def factor(self) -> float:
        """Newtons on the piece for one base unit shown, calibration included; a zeroed signal has no more to it."""
        return self.nominal * (self.calibration.line.factor if self.calibration else 1.0)

    @property
    def signal_factor(self) -> float:
        """Newtons on the piece for one of ``unit`` in its signal."""
        return self.factor * float(unit(self.unit, self.dimension).factor)

    @property
    def carried_n(self) -> float:
        """What acts on the piece besides what is shown, N: the tare, and the lever's own weight."""
        return self.tare_n + self.own_n * self.own_at

    @property
    def offset_n(self) -> float:
        """What the piece bears where nothing is shown: the calibration's offset and what is carried."""
        return (self.calibration.line.offset_n if self.calibration else 0.0) + self.carried_n

    @property
    def is_plain(self) -> bool:
        """Whether what is shown is the load itself."""
        return self.dimension is Dimension.FORCE and self.factor == 1.0 and self.offset_n == 0.0

    def load_n(self, shown: float) -> float:
        """Load on the piece for what is shown (base unit)."""
        return shown * self.factor + self.offset_n

    def shown(self, load_n: float) -> float:
        """What it shows (base unit) when the piece bears this load."""
        return (load_n - self.offset_n) / self.factor

    def error_n(self, load_n: float) -> float:
        """Standard uncertainty that the calibration leaves on a load, N; 0 where there is none to tell."""
        return self.calibration.line.error_n(load_n - self.carried_n) if self.calibration else 0.0

    def drift(self, known_n: float, shown: float) -> float:
        """By what share a known load beside the tare is read off: positive where it is read too high."""
        return (self.load_n(shown) - self.carried_n - known_n) / known_n

    def to_json(self) -> dict[str, Any]:
        """As plain JSON values, only what is said: the same instrument is the same text."""
        said = {k: v for k, v in asdict(self).items() if v != getattr(Instrument, k, None)}
        if self.calibration:
            said["calibration"] = asdict(self.calibration)
        return said


def instrument_from_json(document: Mapping[str, Any]) -> Instrument:
    """A stored instrument; an empty one shows the load itself in newtons."""
    said = dict(document)
    calibration = said.pop("calibration", None)
    if calibration:
        points = tuple((float(k), float(r)) for k, r in calibration["points"])
        said["calibration"] = Calibration(points, calibration.get("at", ""), calibration.get("person", ""))
    return Instrument(**{**said, "measures": Measures(said.get("measures", "force"))})


def checked(i: Instrument) -> Instrument:
    """``i`` itself if it makes sense; otherwise ``Refusal`` naming every wrong field."""
    unit(i.unit, i.dimension)
    p = Problems()
    if i.measures is Measures.PRESSURE:
        p.check(bool(i.piston_mm2 and 1 <= i.piston_mm2 <= 1e6), "piston_mm2", "the piston has no possible area",
                "Measure its diameter d: the area is 0.785 d². A pressure alone is no load.")  # fmt: skip
    if i.measures is Measures.MOMENT:
        p.check(bool(i.arm_mm and 1 <= i.arm_mm <= 1e5), "arm_mm", "the arm has no length that is possible",
                "Measure from the turning point to the load.")  # fmt: skip
    p.check(0.001 <= i.lever <= 1000, "lever", f"a lever of {i.lever:g} to 1 is not possible",
            "Type load on the piece / force at the instrument; 1 without a lever.")  # fmt: skip
    p.check(0 <= i.tare_n <= 1e5, "tare_n", f"a tare of {i.tare_n:g} N is not possible", "Weigh what hangs there.")
    p.check(0 <= i.own_n <= 1e5, "own_n", f"a lever that weighs {i.own_n:g} N is not possible", "Weigh it.")
    p.check(-10 <= i.own_at <= 10, "own_at", "its centre lies beyond ten arms", "Type a share of the arm, like 0.5.")
    if i.calibration:
        good = all(math.isfinite(v) and v > 0 for pair in i.calibration.points for v in pair)
        p.check(good and 1 <= len(i.calibration.points) <= 100, "calibration", "needs known weights above zero",
                "Hang a known weight, and type it and what is shown.")  # fmt: skip
        different = len({r for _, r in i.calibration.points}) > 1 or len(i.calibration.points) == 1
        p.check(different, "calibration", "all its readings are the same", "Hang different weights.")
        if not p.found:
            factor = i.calibration.line.factor
            p.check(0.2 < factor < 5, "calibration", f"would change every load by a factor of {factor:.3g}",
                    "Check the units of the weights and of what is shown, the lever and the piston.")  # fmt: skip
    p.raise_if_any()
    return i
