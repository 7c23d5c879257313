"""How a made-up piece breaks: the weakest of bond and wood, drawn with a seed.

All figures are invented for the stand-in and the demo workshop. They are of a believable size and favour nobody: no
conclusion about real glue can be drawn from them.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass

from adhaero.core.materials.wood import WOODS

_BOND: dict[str, tuple[float, float]] = {
    "pva-indoor": (10.4, 0.13),
    "pva-damp": (11.6, 0.11),
    "pva-wet": (12.2, 0.12),
    "polyurethane": (9.1, 0.17),
    "epoxy-slow": (13.6, 0.12),
    "epoxy-fast": (10.9, 0.16),
    "urea-resin": (12.4, 0.12),
    "resorcinol": (13.8, 0.10),
    "casein": (9.6, 0.15),
    "hide-hot": (11.2, 0.14),
    "hide-liquid": (8.9, 0.16),
    "cyanoacrylate": (8.2, 0.22),
    "construction": (5.2, 0.18),
    "contact": (2.4, 0.25),
    "hot-melt": (2.0, 0.25),
    "none": (0.02, 0.3),
}
_PREP = {"oily": 0.62, "sawn": 0.9, "planed-aged": 0.93, "sanded-80": 0.95, "solvent-wiped": 0.97}
_CONDITIONING = {
    "soak-24h": 0.55, "soak-24h-dried": 0.85, "soak-7d": 0.4, "boil-6h": 0.25, "freeze-thaw-5": 0.7,
    "freeze-thaw-20": 0.5, "wet-cold-3wk": 0.6, "hot-60": 0.7, "swing-10": 0.85, "outdoors": 0.7,
}  # fmt: skip
_ORIENTATION = {"long-crossed": 0.7, "long-end": 0.45, "end-end": 0.35}
_DAY = 86400.0


@dataclass(frozen=True)
class Piece:
    """What is put into the rig. ``solid_n`` is the load at which solid wood of this section usually breaks."""

    solid_n: float
    species: str = "ash"
    glue: str = "pva-indoor"
    prep: str = "planed"
    pressure_mpa: float = 0.8
    clamp_s: float = 4 * 3600
    cure_s: float = 3 * _DAY
    gap_mm: float = 0.0
    conditioning: str = ""
    orientation: str = "long-parallel"
    solid: bool = False


@dataclass(frozen=True)
class Fate:
    """How a piece will break: load at failure (N), the face that one sees, and a crack on the way or none."""

    load_n: float
    failure_mode: str
    wood_failure_pct: float
    crack_n: float | None


def _lognormal(rng: random.Random, mean: float, cv: float) -> float:
    sigma = math.sqrt(math.log(1 + cv * cv))
    return mean * math.exp(rng.gauss(0, sigma) - sigma * sigma / 2)


def draw(piece: Piece, rng: random.Random) -> Fate:
    """The fate of a piece. Bond and wood are drawn apart; the weaker one decides, both near the same give a mix."""
    usual = WOODS[piece.species].shear_mpa if piece.species in WOODS else 10.0
    area = piece.solid_n / usual  # loads are drawn as shear stresses on the area that bears them in solid wood
    wood = _lognormal(rng, usual, 0.13)
    if piece.solid:
        return Fate(wood * area, "wood-deep", 100.0, None)
    mean, cv = _BOND.get(piece.glue, (8.0, 0.2))
    mean *= _PREP.get(piece.prep, 1.0)
    mean *= 1 - math.exp(-(piece.cure_s + 1800) / (0.35 * _DAY))
    mean *= 1 - 0.35 * math.exp(-piece.clamp_s / 2400)
    mean *= math.exp(-((piece.gap_mm / 0.6) ** 1.4))
    mean *= 0.75 + 0.25 * (1 - math.exp(-piece.pressure_mpa / 0.25))
    mean *= _CONDITIONING.get(piece.conditioning, 1.0) * _ORIENTATION.get(piece.orientation, 1.0)
    mean *= 1 - 0.06 * max(0.0, math.log10(max(piece.cure_s, 1) / (14 * _DAY)))
    bond = _lognormal(rng, mean, cv)
    strength = min(bond, wood)
    lead = (bond - wood) / wood
    share = min(100.0, max(0.0, 50 + 260 * lead + rng.gauss(0, 12)))
    if share > 85:
        mode = "wood-deep" if rng.random() < 0.4 else "wood-at-line"
    elif share > 45:
        mode = "wood-at-line" if rng.random() < 0.6 else "mixed"
    elif share > 15:
        mode = "mixed"
    else:
        mode = "in-glue" if rng.random() < 0.45 else "interface"
    crack = strength * rng.uniform(0.7, 0.92) if rng.random() < 0.15 else None
    return Fate(strength * area, mode, 5 * round(share / 5), None if crack is None else crack * area)
