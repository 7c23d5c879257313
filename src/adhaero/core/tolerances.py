"""How far what was done may leave the plan, and what did: by the plan's own tolerance, else by the usual one.

A tolerance of the plan is a width in the base unit of its field; the usual ones are shares of the planned value, and at
least so much. Fields without a usual one are looked at only where the plan states one.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from adhaero.core.piece_record import PieceRecord
from adhaero.core.plan.fields import FIELDS
from adhaero.core.quantity import Dimension
from adhaero.core.times import clock, span
from adhaero.core.units import Units, signed_percent


@dataclass(frozen=True)
class Watched:
    """A field that is held against its plan: the flag that it raises, the stage where it arises, and its usual
    tolerance as a ``share`` of the planned value, at least ``least``; no share where there is no usual one.
    """

    flag: str
    source: str
    share: float | None = None
    least: float = 0.0


WATCHED: dict[str, Watched] = {
    "pressure_mpa": Watched("pressure off", "glue", 0.2),
    "open_s": Watched("open time off", "glue", 0.2, 60.0),
    "clamp_s": Watched("clamp time off", "glue", 0.1, 120.0),
    "cure_s": Watched("age off", "break", 0.1),
    "air_c": Watched("air off", "glue"),
    "humidity_pct": Watched("humidity off", "glue"),
    "moisture_pct": Watched("moisture off", "cut"),
    "gap_mm": Watched("gap off", "cut"),
    "spread_g_m2": Watched("spread off", "glue"),
}
_NEVER_ZERO = ("open_s", "clamp_s", "cure_s")
"""Times that are no times where they are planned as nothing."""


@dataclass(frozen=True)
class Departure:
    """A field of one piece, in its base unit: planned, and what it came to."""

    field: str
    planned: float
    actual: float

    def in_words(self, units: Units) -> str:
        """For example "26 h instead of 24 h"."""
        dimension = FIELDS[self.field].dimension
        assert dimension is not None
        if dimension is Dimension.TIME:
            say = clock if self.field == "open_s" else span
            return f"{say(self.actual)} instead of {say(self.planned)}"
        shown = [units.text(v, dimension) for v in (self.actual, self.planned)]
        share = f" ({signed_percent(self.actual / self.planned - 1)})" if self._has_share else ""
        return f"{shown[0]} instead of {shown[1]}{share}"

    @property
    def _has_share(self) -> bool:
        return self.field == "pressure_mpa" and self.planned > 0


def actual(p: PieceRecord, field: str) -> float | None:
    """What a field came to on a piece; ``None`` where it is not on record (yet)."""
    g = p.gluing
    match field:
        case "moisture_pct":
            return p.sizes.get("moisture")
        case "gap_mm":
            return p.sizes.get("gap")
        case "cure_s":
            return p.cured_s if p.reading is not None else None
        case _ if g is None:
            return None
        case "clamp_s":
            return g.clamped_s
    return {
        "pressure_mpa": g.pressure_mpa, "open_s": g.open_s, "air_c": g.air_c, "humidity_pct": g.humidity_pct,
        "spread_g_m2": g.spread_g_m2,
    }.get(field)  # fmt: skip


def planned(p: PieceRecord, field: str) -> float | None:
    """What the plan wants of a field of a piece."""
    if p.role != "joint":
        return None
    own = {"pressure_mpa": p.pressure_mpa, "clamp_s": p.clamp_s, "cure_s": p.cure_s}
    level = p.levels.get(field)
    value = own.get(field, level.value if level is not None else None)
    if not isinstance(value, float | int) or (field in _NEVER_ZERO and not value):
        return None
    return float(value)


def width_of(field: str, wanted: float, stated: Mapping[str, float]) -> float | None:
    """How far a field may be off what was ``wanted``, in its base unit: as the plan has ``stated``, else as usual;
    ``None`` where neither says anything.
    """
    own, watched = stated.get(field), WATCHED[field]
    if own is not None or watched.share is None:
        return own
    return max(watched.least, watched.share * wanted)


def departures(p: PieceRecord) -> Iterator[Departure]:
    """The fields whose real value is known and farther from the planned one than its tolerance."""
    for field in WATCHED:
        wanted, real = planned(p, field), actual(p, field)
        if wanted is None or real is None:
            continue
        width = width_of(field, wanted, p.tolerances)
        if width is not None and abs(real - wanted) > width * (1 + 1e-9) + 1e-9:
            yield Departure(field, wanted, real)


def not_noted(p: PieceRecord) -> list[str]:
    """The fields that the plan wants held, of which nothing is on record though their time is past."""
    if p.gluing is None:
        return []
    past = [f for f in p.tolerances if f in WATCHED and (WATCHED[f].source != "break" or p.reading is not None)]
    return [f for f in past if planned(p, f) is not None and actual(p, f) is None and not _still(p, f)]


def _still(p: PieceRecord, field: str) -> bool:
    """Whether it will only be known later: a joint that is still in its clamp."""
    return field == "clamp_s" and p.reading is None
