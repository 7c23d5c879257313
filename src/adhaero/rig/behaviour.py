"""How a made-up piece gives while it is pulled: seating, straight rise, yield, and the way it comes apart.

Invented for the stand-in, like what ``strength_model`` draws; only what a person sees at the rig follows from it.
"""

from __future__ import annotations

import random
from dataclasses import dataclass
from itertools import pairwise

from adhaero.rig.strength_model import Fate

MANNERS = ("snap", "steps", "crush", "creep")
"""It breaks at once; opens in steps; crushes and gives slowly; or breaks a while after the load stands still."""
TOE = 0.08
"""Part of the way in which it seats itself."""
YIELDS_AT, SOFTER = 0.72, 0.45
_AFTER: dict[str, tuple[tuple[float, float], ...]] = {
    "snap": ((1.0, 1.0),),
    "steps": ((1.0, 1.0), (1.005, 0.72), (1.12, 0.85), (1.125, 0.58), (1.25, 0.66)),
    "crush": ((1.0, 1.0), (1.2, 0.93), (1.6, 0.75)),
    "creep": ((1.0, 1.0), (1.5, 1.0)),
}
"""What it still bears after its peak: (part of the way to the peak, share of the peak), straight between."""
LEFT = 0.01


@dataclass(frozen=True)
class Behaviour:
    """``travel_mm`` is the way to its peak, ``yields`` whether it softens before, ``manner`` one of MANNERS."""

    travel_mm: float
    yields: bool = False
    manner: str = "snap"

    @property
    def end(self) -> float:
        """Where it is apart, in ways to the peak."""
        return _AFTER[self.manner][-1][0]

    def share(self, x: float) -> float:
        """What it bears at a part of the way to its peak, as a share of the peak."""
        if x <= 0:
            return 0.0
        if x < 1:
            return self._rising(x) / self._rising(1.0)
        steps = _AFTER[self.manner]
        for (x0, y0), (x1, y1) in pairwise(steps):
            if x < x1:
                return y0 + (y1 - y0) * (x - x0) / (x1 - x0)
        return LEFT if x > self.end else steps[-1][1]

    def _rising(self, x: float) -> float:
        straight = x * x / (2 * TOE) if x < TOE else x - TOE / 2
        if not self.yields or x < YIELDS_AT:
            return straight
        return YIELDS_AT - TOE / 2 + SOFTER * (x - YIELDS_AT)


def behaviour(fate: Fate, manner: str = "") -> Behaviour:
    """How the piece of this fate gives; drawn from its load, so that it is the same each time."""
    rng = random.Random(f"behaviour {fate.load_n:.6f}")
    travel = rng.uniform(1.5, 6.0)
    usual = rng.choices(MANNERS[:3], (0.82, 0.12, 0.06))[0]
    return Behaviour(travel, rng.random() < 0.4, manner or usual)
