"""Joint forms: the sizes each needs, and its glued faces with their grain. The area is computed, never typed.

Areas count one side of the joint: of a dowel the skin in one piece, of a tenon its cheeks in one mortise. Shoulders
that only touch are not counted.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

Sizes = Mapping[str, float]


@dataclass(frozen=True)
class Size:
    """A size that a form or method needs of each piece: its nominal value and the range taken as sane.

    ``unit`` is mm, or ``""`` for a plain number (a count, a slope of 1 in so many).
    """

    key: str
    name: str
    nominal: float
    low: float
    high: float
    unit: str = "mm"


WIDTH = Size("width", "Width", 20, 5, 600)
OVERLAP = Size("overlap", "Overlap", 25, 5, 150)
DEPTH = Size("depth", "Depth", 20, 3, 150)
THICKNESS = Size("thickness", "Thickness", 20, 1, 100)


@dataclass(frozen=True)
class GluedFace:
    """A glued face: what it is called, ``long``, ``end`` or ``angle``, and its area."""

    name: str
    grain: str
    area_mm2: float


@dataclass(frozen=True)
class Form:
    """A form of joint. ``faces`` lists the glued faces from sizes; ``slanted`` is its cut from square in degrees."""

    key: str
    name: str
    sizes: tuple[Size, ...]
    faces: Callable[[Sizes], tuple[GluedFace, ...]]
    slanted: float | None = None

    def pressed_area_mm2(self, sizes: Sizes) -> float:
        """The area over which clamp force is spread: the glued one, but of slanted flanks (scarf, fingers, a mitre) the
        cross-section, since they are pressed end to end.
        """
        if self.key in ("scarf", "finger"):
            return sizes["width"] * sizes["depth"]
        if self.slanted:
            return sizes["width"] * sizes["thickness"]
        return self.glued_area_mm2(sizes)

    def glued_area_mm2(self, sizes: Sizes) -> float:
        """Sum of the glued faces."""
        return math.fsum(f.area_mm2 for f in self.faces(sizes))

    def cut_angle_deg(self, slope: float | None = None) -> float | None:
        """The angle of the cut from square, where the form has one: of a scarf it follows from its slope."""
        if self.slanted is None or slope is None:
            return self.slanted
        return math.degrees(math.atan(slope))


def _one(name: str, grain: str, area: Callable[[Sizes], float]) -> Callable[[Sizes], tuple[GluedFace, ...]]:
    return lambda s: (GluedFace(name, grain, area(s)),)


def _mitre(s: Sizes) -> float:
    return s["width"] * s["thickness"] * math.sqrt(2)


def _spline(s: Sizes) -> tuple[GluedFace, ...]:
    slot = s["spline_thickness"] * s["spline_length"]
    return (
        GluedFace("mitre beside the spline", "angle", _mitre(s) - slot),
        GluedFace("spline, both cheeks", "long", 2 * s["spline_depth"] * s["spline_length"]),
    )


def _rebate(s: Sizes) -> tuple[GluedFace, ...]:
    return (
        GluedFace("shoulder", "end", s["rebate_width"] * s["width"]),
        GluedFace("cheek", "long", s["rebate_depth"] * s["width"]),
    )


def _comb(s: Sizes) -> tuple[GluedFace, ...]:
    lines = max(0.0, s["pins"] - 1)
    return (
        GluedFace("cheeks of the pins", "long", lines * s["thickness"] ** 2),
        GluedFace("bottoms", "end", s["width"] * s["thickness"] / 2),
    )


def _dovetail(s: Sizes) -> tuple[GluedFace, ...]:
    slant = math.hypot(1, 1 / s["tail_slope"])
    return (
        GluedFace("cheeks of the tails", "long", 2 * s["tails"] * s["thickness"] ** 2 * slant),
        GluedFace("bottoms", "end", s["width"] * s["thickness"] / 2),
    )


def _finger(s: Sizes) -> float:
    flank = math.hypot(s["finger_length"], s["finger_pitch"] / 2)
    return 2 * s["width"] / s["finger_pitch"] * flank * s["depth"]


def _tenon(s: Sizes) -> tuple[GluedFace, ...]:
    return (
        GluedFace("cheeks", "long", 2 * s["tenon_length"] * s["tenon_width"]),
        GluedFace("edges", "end", 2 * s["tenon_length"] * s["tenon_thickness"]),
    )


def _loose_tenon(s: Sizes) -> tuple[GluedFace, ...]:
    n, deep = s["inserts"], s["insert_depth"]
    return (
        GluedFace("cheeks", "long", 2 * n * deep * s["tenon_width"]),
        GluedFace("edges", "end", 2 * n * deep * s["tenon_thickness"]),
    )


def _dowels(s: Sizes) -> float:
    return s["inserts"] * math.pi * s["dowel_diameter"] * s["insert_depth"]


_SPLINE = (
    Size("spline_length", "Length of spline or keys", 20, 5, 600),
    Size("spline_depth", "Spline depth per side", 8, 2, 60),
    Size("spline_thickness", "Spline thickness", 4, 1, 20),
)
_PINS = Size("pins", "Pins and gaps", 5, 2, 60, "")
_INSERTS = Size("inserts", "Inserts", 2, 1, 20, "")
_INSERT_DEPTH = Size("insert_depth", "Depth in each piece", 22, 3, 120)
_TENON_W = Size("tenon_width", "Tenon width", 24, 5, 150)
_TENON_T = Size("tenon_thickness", "Tenon thickness", 8, 2, 50)

FORMS: dict[str, Form] = {
    f.key: f
    for f in (
        Form("lap", "Lap", (WIDTH, OVERLAP), _one("lap", "long", lambda s: s["width"] * s["overlap"])),
        Form("butt", "Butt", (WIDTH, DEPTH), _one("butt", "end", lambda s: s["width"] * s["depth"])),
        Form("edge", "Edge", (WIDTH, DEPTH), _one("edge", "long", lambda s: s["width"] * s["depth"])),
        Form("scarf", "Scarf or V", (WIDTH, DEPTH, Size("slope", "Slope, 1 in", 8, 1, 20, "")),
             _one("slope", "angle", lambda s: s["width"] * s["depth"] * math.hypot(1, s["slope"])), slanted=0.0),
        Form("finger", "Finger", (WIDTH, DEPTH, Size("finger_length", "Finger length", 10, 3, 60),
             Size("finger_pitch", "Finger pitch", 4, 1, 20)), _one("flanks", "long", _finger)),
        Form("mitre", "Mitre", (WIDTH, THICKNESS), _one("mitre", "angle", _mitre), slanted=45.0),
        Form("mitre-spline-along", "Mitre, spline grain along", (WIDTH, THICKNESS, *_SPLINE), _spline, slanted=45.0),
        Form("mitre-spline-across", "Mitre, spline grain across", (WIDTH, THICKNESS, *_SPLINE), _spline, slanted=45.0),
        Form("mitre-key", "Mitre with keys", (WIDTH, THICKNESS, *_SPLINE), _spline, slanted=45.0),
        Form("rebate", "Rebate", (WIDTH, Size("rebate_width", "Rebate width", 20, 2, 100),
             Size("rebate_depth", "Rebate depth", 10, 2, 100)), _rebate),
        Form("comb", "Comb", (WIDTH, THICKNESS, _PINS), _comb),
        Form("dovetail", "Dovetail", (WIDTH, THICKNESS, Size("tails", "Tails", 3, 1, 30, ""),
             Size("tail_slope", "Slope of the tails, 1 in", 7, 3, 12, "")), _dovetail),
        Form("half-lap", "Half-lap", (WIDTH, Size("other_width", "Width of the other piece", 40, 5, 300)),
             _one("cheek", "long", lambda s: s["width"] * s["other_width"])),
        Form("mortise-tenon", "Mortise and tenon", (Size("tenon_length", "Tenon length", 30, 5, 150), _TENON_W,
             _TENON_T), _tenon),
        Form("dowelled", "Dowelled", (_INSERTS, Size("dowel_diameter", "Dowel diameter", 9, 3, 40), _INSERT_DEPTH),
             _one("dowel skin", "long", _dowels)),
        Form("loose-tenon-along", "Loose tenon, grain along", (_INSERTS, _TENON_W, _TENON_T, _INSERT_DEPTH),
             _loose_tenon),
        Form("loose-tenon-across", "Loose tenon, grain across", (_INSERTS, _TENON_W, _TENON_T, _INSERT_DEPTH),
             _loose_tenon),
    )
}  # fmt: skip
