"""Clamp force and pressure, from the measured area; clamps along a line; several joints in one clamp."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from adhaero.core.refusal import refuse


def pressure_mpa(force_n: float, glued_area_mm2: float) -> float:
    """Clamp pressure = clamp force / glued area. 2 clamps of 2800 N on 35 cm2 give 1.60 MPa."""
    if glued_area_mm2 <= 0:
        raise refuse("glued_area_mm2", "there is no glued area", "Measure width and overlap first.")
    return force_n / glued_area_mm2


def force_n(wanted_mpa: float, glued_area_mm2: float, clamps: int = 1) -> float:
    """Force that each of ``clamps`` must give for a wanted pressure."""
    return wanted_mpa * glued_area_mm2 / clamps


def crushes(pressure: float, crush_across_mpa: float) -> bool:
    """Whether a clamp pressure comes near what the wood bears across the grain.

    Eighty percent of the handbook's strength is taken as near: boards differ, and clamp heads press unevenly.
    """
    return pressure > 0.8 * crush_across_mpa


def side_by_side(force_n_total: float, areas_mm2: Sequence[float]) -> list[float]:
    """Pressure on each of several joints that lie side by side under one clamp or weight, MPa.

    A stiff head comes down on all of them alike: the force is shared by area, and so the pressure is one and the same.
    """
    whole = math.fsum(areas_mm2)
    return [pressure_mpa(force_n_total, whole)] * len(areas_mm2)


def spacing_mm(depth_mm: float, caul_mm: float = 0.0) -> float:
    """How far apart clamps may stand along a line so that it is pressed everywhere.

    Force spreads at about 45 degrees to both sides on its way from the clamp's head through caul and wood to the line;
    neighbours must meet there: twice the depth. (Handbook rule of thumb for edge joints.)
    """
    return 2 * (depth_mm + caul_mm)


FLAT = ("lap", "edge", "butt", "half-lap", "scarf")
"""Forms whose line lies flat under the clamps; mitres, tenons and the like are drawn together at one place."""


def line_of(form: str, sizes: Mapping[str, float]) -> tuple[float, float]:
    """Length of a joint's line and the wood that its force goes through on the way there, mm; zeros for other forms.

    Through a board on edge the force goes half of the span that it is broken on.
    """
    if form not in FLAT:
        return 0.0, 0.0
    length = max((sizes[k] for k in ("width", "overlap", "other_width") if k in sizes), default=0.0)
    through = sizes["span"] / 2 if form == "edge" and "span" in sizes else sizes.get("thickness", 20.0)
    return length, through


def clamps_along(length_mm: float, depth_mm: float, caul_mm: float = 0.0) -> int:
    """Clamps that a line of this length wants at least."""
    return max(1, math.ceil(length_mm / spacing_mm(depth_mm, caul_mm) - 1e-9))


def caul_for(length_mm: float, depth_mm: float, clamps: int) -> float:
    """How thick a caul must be for ``clamps`` clamps to press the whole line, mm; 0 where none is needed."""
    return max(0.0, length_mm / (2 * clamps) - depth_mm)
