"""Woods: what the program assumes of a species until the user has measured boards of his own.

Clear straight-grained wood at 12 % moisture. Boards differ by a fifth and more, so these figures serve
forecasts and warnings, never results.

Source: Wood Handbook (Forest Products Laboratory, US Department of Agriculture, public domain), chapter 5,
table of mechanical properties in metric units; shrinkage from chapter 4. European species are given by their
nearest relative in that table, as ``source`` says.
"""

from __future__ import annotations

from dataclasses import dataclass

from adhaero.core.materials.sheet import bent_across, pulled_across

TENSION_SHARE, BENT_SHARE = 0.45, 1.6
"""Tension across the grain as a share of the shear strength (between a third and a half in the Handbook's tables), and
bending across the grain as a multiple of that tension.
"""


@dataclass(frozen=True)
class Wood:
    """A species: density kg/m3, strengths MPa, radial and tangential shrinkage in % green to dry. A sheet has
    ``plies`` (0: no grain at all); its strengths are those along the grain of its faces.
    """

    key: str
    name: str
    density_kg_m3: float
    shear_mpa: float
    crush_across_mpa: float
    bending_mpa: float
    shrink_radial_pct: float
    shrink_tangential_pct: float
    source: str
    plies: int | None = None

    @property
    def pulled_across_mpa(self) -> float:
        """Tension across the grain, within the plane of a sheet."""
        if self.plies is not None:
            return self.bending_mpa * pulled_across(self.plies)
        return TENSION_SHARE * self.shear_mpa

    @property
    def bent_across_mpa(self) -> float:
        """Bending across the grain."""
        if self.plies is not None:
            return self.bending_mpa * bent_across(self.plies)
        return BENT_SHARE * TENSION_SHARE * self.shear_mpa


_WHB = "Wood Handbook, chapters 4 and 5"


def _w(key: str, name: str, *values: float, like: str) -> Wood:
    density, shear, crush, bending, radial, tangential = values
    source = f"{_WHB}: {like}"
    return Wood(key, name, density, shear, crush, bending, radial, tangential, source)


WOODS: dict[str, Wood] = {
    w.key: w
    for w in (
        _w("ash", "Ash", 600, 13.2, 8.0, 103, 4.9, 7.8, like="white ash"),
        _w("beech", "Beech", 640, 13.9, 7.0, 103, 5.5, 11.9, like="American beech"),
        _w("birch", "Birch", 620, 13.0, 6.7, 114, 7.3, 9.5, like="yellow birch"),
        _w("cherry", "Cherry", 500, 11.7, 4.8, 85, 3.7, 7.1, like="black cherry"),
        _w("elm", "Elm", 500, 10.4, 4.8, 81, 4.2, 9.5, like="American elm"),
        _w("larch", "Larch", 520, 9.4, 6.4, 90, 4.5, 9.1, like="western larch"),
        _w("maple", "Maple", 630, 16.1, 10.1, 109, 4.8, 9.9, like="sugar maple"),
        _w("oak", "Oak", 630, 12.3, 7.0, 99, 4.0, 8.6, like="northern red oak"),
        _w("pine", "Pine", 350, 6.2, 3.0, 59, 2.1, 6.1, like="eastern white pine"),
        _w("robinia", "Robinia", 690, 17.1, 12.6, 134, 4.6, 7.2, like="black locust"),
        _w("spruce", "Spruce", 360, 7.9, 4.0, 65, 4.3, 7.5, like="Sitka spruce"),
        _w("walnut", "Walnut", 550, 9.4, 7.0, 101, 5.5, 7.8, like="black walnut"),
    )
}


def moisture_at(humidity_pct: float, air_c: float = 20.0) -> float:
    """Moisture that wood comes to in air of a relative humidity, in % of its dry mass.

    Source: Wood Handbook, equation 4-5 (sorption model of Hailwood and Horrobin with two hydrates), metric constants.
    0 to 99 % and -10 to 60 degrees Celsius.
    """
    h, t = humidity_pct / 100, air_c
    w = 349 + 1.29 * t + 0.0135 * t * t
    k = 0.805 + 0.000736 * t - 0.00000273 * t * t
    k1 = 6.27 - 0.00938 * t - 0.000303 * t * t
    k2 = 1.91 + 0.0407 * t - 0.000293 * t * t
    kh = k * h
    hydrates = (k1 * kh + 2 * k1 * k2 * kh * kh) / (1 + k1 * kh + k1 * k2 * kh * kh)
    return 1800 / w * (kh / (1 - kh) + hydrates)


FIBRE_SATURATION_PCT = 30.0


def movement_mm(width_mm: float, shrinkage_pct: float, moisture_swing_pct: float) -> float:
    """How far a width moves across the grain when its moisture changes; shrinkage counts from green to dry.

    Source: Wood Handbook, chapter 13: in proportion to the change below fibre saturation at 30 %.
    """
    return width_mm * shrinkage_pct / 100 * moisture_swing_pct / FIBRE_SATURATION_PCT
