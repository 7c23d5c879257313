"""What treatments share is taken out of the planned comparisons: a board, an evening, a set-up of the rig.

With bounds beside pieces that fell apart and count as 0, and with nothing left to judge the scatter by, there is no
fit: then pieces are compared as they are.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.bounds import bound_of
from adhaero.core.piece_record import Known
from adhaero.core.statistics.censored import Bounds
from adhaero.core.statistics.within_blocks import Fits, fit_cells, over_pairs

__all__ = ["Fits", "Shared", "fit_shared", "over_pairs"]


@dataclass(frozen=True)
class Shared:
    """What pieces (by code) share: ``name`` of one, whether the plan states it, and the block of each piece."""

    name: str
    planned: bool
    of: Mapping[str, str]


def fit_shared(
    rows: Mapping[str, Row], shared: Shared | None, *, fallen_as_zero: bool, without: str = ""
) -> Fits | None:  # fmt: skip
    """Return the fits of these treatments (by letter), but for the piece ``without`` (its code); ``None`` where what
    they share is not to be taken out.
    """
    if shared is None:
        return None
    bounded = any(r.summary.bounded for r in rows.values())
    if bounded and fallen_as_zero and any(r.summary.n_fell_apart for r in rows.values()):
        return None
    cells: dict[str, list[tuple[Bounds, str]]] = {}
    for letter, r in rows.items():
        units = r.group.units(fallen_as_zero=fallen_as_zero)
        if not any(math.isfinite(d.high) and d.known is not Known.NONE for d, _ in units):
            continue
        for d, codes in units:
            bound = bound_of(d, 0.0, fallen_as_zero=fallen_as_zero)
            if bound is not None and without not in codes:
                own = {shared.of.get(c, "") for c in codes}
                cells.setdefault(letter, []).append((bound, own.pop() if len(own) == 1 else ""))
    return fit_cells(cells, shared.name, planned=shared.planned)
