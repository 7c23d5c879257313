"""What treatments share is taken out: a board, an evening, a set-up of the rig that carries several of them.

Blocks that the plan states are always taken out where that can be done; others that happen to be on record (boards),
where they differ beyond chance. With bounds beside pieces that fell apart and count as 0, and with nothing left to
judge the scatter by, there is no fit: then pieces are compared as they are.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.bounds import bound_of
from adhaero.core.piece_record import Known
from adhaero.core.statistics.block_ratios import BlockFit, Contrast, fit_blocks
from adhaero.core.statistics.blocked import Value, connected

BEYOND_CHANCE = 0.05
"""P value of blocks from which on down those that nobody planned are taken out too."""

HOMELESS = 0.1
"""Share of units without a block from which on blocks say too little of the whole."""


@dataclass(frozen=True)
class Shared:
    """What pieces (by code) share: ``name`` of one, whether the plan states it, and the block of each piece."""

    name: str
    planned: bool
    of: Mapping[str, str]


@dataclass(frozen=True)
class Fits:
    """Fits of treatments that blocks connect; ``place`` finds the fit and the place in it of a treatment."""

    name: str
    fits: list[BlockFit]
    place: Mapping[str, tuple[int, int]]

    def together(self, first: str, second: str) -> bool:
        """Whether two treatments are in one fit."""
        a, b = self.place.get(first), self.place.get(second)
        return a is not None and b is not None and a[0] == b[0]

    def ratio(self, first: str, second: str) -> Contrast:
        """The log ratio of two treatments that are together."""
        (fit, a), (_, b) = self.place[first], self.place[second]
        return self.fits[fit].ratio(a, b)

    @property
    def blocks(self) -> int:
        """How many blocks in all."""
        return sum(f.blocks for f in self.fits)

    @property
    def taken_out(self) -> float:
        """Share of the squared scatter that blocks take out, over all fits."""
        within, without = (math.fsum(x * x * f.df for f in self.fits for x in [getattr(f, name)])
                           for name in ("scatter", "without"))  # fmt: skip
        return max(0.0, 1 - within / without)


def fit_shared(
    rows: Mapping[str, Row], shared: Shared | None, *, fallen_as_zero: bool, without: str = ""
) -> Fits | None:  # fmt: skip
    """The fits of these treatments (by letter), but for the piece ``without`` (its code); ``None`` where what they
    share is not to be taken out.
    """
    if shared is None:
        return None
    bounded = any(r.summary.bounded for r in rows.values())
    if bounded and fallen_as_zero and any(r.summary.n_fell_apart for r in rows.values()):
        return None
    letters = list(rows)
    values: list[Value] = []
    known: list[tuple[float, float]] = []
    homeless = 0
    for i, r in enumerate(rows.values()):
        units = r.group.units(fallen_as_zero=fallen_as_zero)
        if not any(math.isfinite(d.high) and d.known is not Known.NONE for d, _ in units):
            continue
        for d, codes in units:
            own = {shared.of.get(c, "") for c in codes}
            bound = bound_of(d, 0.0, fallen_as_zero=fallen_as_zero)
            if bound is None or without in codes:
                continue
            if len(own) != 1 or "" in own:
                homeless += 1
                continue
            values.append((float(len(known)), i, own.pop()))
            known.append(bound)
    if homeless > HOMELESS * len(values):
        return None
    fits: list[BlockFit] = []
    place: dict[str, tuple[int, int]] = {}
    for own_values in connected(values):
        order = list(dict.fromkeys(t for _, t, _ in own_values))
        fit = fit_blocks([known[int(n)] for n, _, _ in own_values], [order.index(t) for _, t, _ in own_values],
                         [b for _, _, b in own_values])  # fmt: skip
        if fit is not None:
            place |= {letters[t]: (len(fits), n) for n, t in enumerate(order)}
            fits.append(fit)
    if not fits:
        return None
    least = min(1.0, len(fits) * min(f.blocks_p for f in fits))
    return Fits(shared.name, fits, place) if shared.planned or least < BEYOND_CHANCE else None


def over_pairs(fits: Fits, pairs: Sequence[tuple[str, str]]) -> tuple[Contrast, float]:
    """The mean log ratio over pairs, with the p value of all of them having one ratio."""
    value, parts = 0.0, []
    rows = np.zeros((len(pairs), sum(len(f.means) for f in fits.fits)))
    starts = np.cumsum([0, *(len(f.means) for f in fits.fits)])
    covariance = np.zeros((rows.shape[1], rows.shape[1]))
    for n, (a, b) in enumerate(pairs):
        for letter, sign in ((a, 1.0), (b, -1.0)):
            fit, at = fits.place[letter]
            rows[n, starts[fit] + at] += sign
    for n, f in enumerate(fits.fits):
        covariance[starts[n] : starts[n + 1], starts[n] : starts[n + 1]] = f.covariance
        own = rows[:, starts[n] : starts[n + 1]].mean(0)
        if own.any():
            parts.append((f.contrast(own), f))
            value += parts[-1][0].value
    variance = math.fsum(c.se**2 for c, _ in parts)
    df = variance**2 / math.fsum(c.se**4 / c.df for c, _ in parts)
    se = math.sqrt(variance)
    over = Contrast(value, se, df, float(2 * scipy.special.stdtr(df, -abs(value) / se)))
    apart = rows[1:] - rows[0]
    logs = apart @ np.concatenate([f.means for f in fits.fits])
    wald = float(logs @ np.linalg.pinv(apart @ covariance @ apart.T) @ logs) / len(apart)
    return over, float(scipy.special.fdtrc(len(apart), sum(f.df for _, f in parts), wald))
