"""Bond and wood of each treatment as competing risks: both shapes, and mixed failures on either side.

Each piece broke at the weaker of its bond and its wood, which are taken to be independent: a failure of the one says
that the other bore at least as much. What gave way elsewhere bounds both. Mixed failures count by their share of wood;
how much hangs on that is told by counting all of them to the glue, and all to the wood.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from adhaero.core.observation import WOOD_MODES
from adhaero.core.statistics.censored import Bounds, Fitted, fit
from adhaero.core.statistics.censored_intervals import median_interval
from adhaero.core.statistics.censored_likelihood import SHAPES

BOND, WOOD, OTHER = "bond", "wood", "elsewhere"
AS_JUDGED, ALL_GLUE, ALL_WOOD = "as judged", "all to the glue", "all to the wood"


@dataclass(frozen=True)
class Broken:
    """A piece: the bounds of its figure, how it gave way, its wood failure in %, and whether it broke at all."""

    figure: Bounds
    mode: str | None
    wood_pct: float | None
    broke: bool = True


@dataclass(frozen=True)
class OfShape:
    """What one shape gives: median with its interval (calibrated profile), mean, and what 5 % stay below."""

    shape: str
    median: float
    low: float | None
    high: float | None
    mean: float
    q05: float
    aicc: float | None


@dataclass(frozen=True)
class Side:
    """Bond or wood: both shapes, the better one (by AICc) first; ``disagree`` where their medians lie a tenth apart.
    Without an estimate the ``reason``, and what all of them bore ``at_least``.
    """

    failures: int
    shapes: list[OfShape]
    disagree: bool
    reason: str
    at_least: float | None


@dataclass(frozen=True)
class Bonds:
    """A treatment's bond and wood; ``mixed`` pieces, and the bond's median where all of those count to the glue, and to
    the wood (``None``: no estimate then).
    """

    letter: str
    n: int
    bond: Side
    wood: Side
    mixed: int
    if_glue: float | None
    if_wood: float | None


def cause(p: Broken, mixed_at_pct: float, mixed: str = AS_JUDGED) -> str:
    """What gave way."""
    if p.mode in WOOD_MODES:
        return WOOD
    if p.mode == "elsewhere":
        return OTHER
    if p.mode == "mixed" and mixed != ALL_GLUE and (mixed == ALL_WOOD or (p.wood_pct or 0) >= mixed_at_pct):
        return WOOD
    return BOND


def _bounds(pieces: Sequence[Broken], of: str, mixed_at_pct: float, mixed: str = AS_JUDGED) -> list[Bounds]:
    """What is known of the bond, or of the wood."""
    return [p.figure if not p.broke or cause(p, mixed_at_pct, mixed) == of else (p.figure[0], math.inf) for p in pieces]


def bonds(letter: str, pieces: Sequence[Broken], mixed_at_pct: float = 50.0) -> Bonds:
    """The bond and the wood of a treatment."""
    mixed = sum(p.mode == "mixed" for p in pieces)
    either = [_median(_bounds(pieces, BOND, mixed_at_pct, way)) if mixed else None for way in (ALL_GLUE, ALL_WOOD)]
    return Bonds(letter, len(pieces), _side(_bounds(pieces, BOND, mixed_at_pct)),
                 _side(_bounds(pieces, WOOD, mixed_at_pct)), mixed, *either)  # fmt: skip


def _median(data: Sequence[Bounds]) -> float | None:
    best = fit(data).best
    return best.median if best else None


def _side(data: Sequence[Bounds]) -> Side:
    found = fit(data)
    failures = sum(math.isfinite(high) for _, high in data)
    if failures == 1:
        return Side(1, [], False, "one failure: no estimate to be trusted", None)
    if found.best is None:
        lows = [low for low, _ in data]
        return Side(failures, [], False, found.reason or "no estimate", min(lows) if lows and not failures else None)
    return Side(failures, _shapes(data, found), found.disagree, "", None)


def _shapes(data: Sequence[Bounds], found: Fitted) -> list[OfShape]:
    assert found.best is not None
    order = sorted(SHAPES, key=lambda s: s != found.best.shape if found.best else False)
    told = []
    for shape in order:
        f, ends = found.fits[shape], median_interval(data, shape)
        low, high = (ends.low, ends.high if math.isfinite(ends.high) else None) if ends else (None, None)
        told.append(OfShape(shape, f.median, low, high, f.mean, f.quantile(0.05), f.aicc))
    return told
