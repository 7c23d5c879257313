"""What is known of the figures of a treatment, as the fits take it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from adhaero.core.compare.analysis import Row
from adhaero.core.piece_record import Datum, Known
from adhaero.core.statistics.censored import Bounds


def bounds_of(row: Row, smallest: float, *, fallen_as_zero: bool) -> list[Bounds]:
    """What is known of the figures of a treatment. What fell apart lies below the ``smallest`` figure that was read,
    or counts apart.
    """
    data = row.group.data(fallen_as_zero=fallen_as_zero)
    return [b for d in data if (b := bound_of(d, smallest, fallen_as_zero=fallen_as_zero)) is not None]


def bound_of(d: Datum, smallest: float, *, fallen_as_zero: bool) -> Bounds | None:
    """The same of one unit; ``None`` where it says nothing."""
    if d.known is Known.BELOW:
        return (0.0, smallest) if fallen_as_zero else None
    return None if d.known is Known.NONE else (d.low, d.high)


def smallest_figure(rows: Sequence[Row]) -> float:
    """The smallest figure above 0 that is on record among these treatments."""
    found = [d.low for r in rows for d in r.group.data(fallen_as_zero=False) if d.low > 0]
    return min(found, default=math.inf)
