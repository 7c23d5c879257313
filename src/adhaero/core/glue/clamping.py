"""Clamp force and pressure, from the measured area."""

from __future__ import annotations

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
