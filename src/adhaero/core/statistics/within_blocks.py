"""Cells compared within what they share (a board, an evening, a set-up of the rig), where blocks connect them.

Blocks that the plan states are always taken out where that can be done; others that happen to be on record (boards),
where they differ beyond chance.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from adhaero.core.statistics.block_ratios import BlockFit, Contrast, fit_blocks
from adhaero.core.statistics.blocked import Value, connected
from adhaero.core.statistics.censored import Bounds

BEYOND_CHANCE = 0.05
"""P value of blocks from which on down those that nobody planned are taken out too."""
HOMELESS = 0.1
"""Share of pieces without a block from which on blocks say too little of the whole."""
Blocked = Sequence[tuple[Bounds, str]]
"""The pieces of a cell: bounds of the figure, and the block, empty if it has none."""


@dataclass(frozen=True)
class Fits:
    """Fits of cells that blocks connect; ``place`` finds the fit and the place in it of a cell."""

    name: str
    fits: list[BlockFit]
    place: Mapping[str, tuple[int, int]]

    def together(self, first: str, second: str) -> bool:
        """Return whether two cells are in one fit."""
        a, b = self.place.get(first), self.place.get(second)
        return a is not None and b is not None and a[0] == b[0]

    def ratio(self, first: str, second: str) -> Contrast:
        """Return the log ratio of two cells that are together."""
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


def fit_cells(cells: Mapping[str, Blocked], name: str, *, planned: bool) -> Fits | None:
    """Return the fits of these cells; ``None`` where what they share is not to be taken out."""
    ids = list(cells)
    values: list[Value] = []
    known: list[Bounds] = []
    homeless = 0
    for i, pieces in enumerate(cells.values()):
        for bound, block in pieces:
            if not block:
                homeless += 1
                continue
            values.append((float(len(known)), i, block))
            known.append(bound)
    if homeless > HOMELESS * len(values):
        return None
    fits: list[BlockFit] = []
    place: dict[str, tuple[int, int]] = {}
    for own in connected(values):
        order = list(dict.fromkeys(t for _, t, _ in own))
        fit = fit_blocks(
            [known[int(n)] for n, _, _ in own], [order.index(t) for _, t, _ in own], [b for _, _, b in own]
        )
        if fit is not None:
            place |= {ids[t]: (len(fits), n) for n, t in enumerate(order)}
            fits.append(fit)
    if not fits:
        return None
    least = min(1.0, len(fits) * min(f.blocks_p for f in fits))
    return Fits(name, fits, place) if planned or least < BEYOND_CHANCE else None


def over_pairs(fits: Fits, pairs: Sequence[tuple[str, str]]) -> tuple[Contrast, float]:
    """Return the mean log ratio over pairs, with the p value of all of them having one ratio."""
    value, parts = 0.0, []
    rows = np.zeros((len(pairs), sum(len(f.means) for f in fits.fits)))
    starts = np.cumsum([0, *(len(f.means) for f in fits.fits)])
    covariance = np.zeros((rows.shape[1], rows.shape[1]))
    for n, (a, b) in enumerate(pairs):
        for cell, sign in ((a, 1.0), (b, -1.0)):
            fit, at = fits.place[cell]
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
