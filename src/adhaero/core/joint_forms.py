"""Joint forms: the sizes each needs, and its glued faces with their grain. The area is computed, never typed.

Areas count one side of the joint: of a dowel the skin in one piece, of a tenon its cheeks in one mortise. Shoulders
that only touch are not counted. Only a form of the user's own has an area that is stated, and a plan with one says
where it comes from.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from adhaero.core.quantity import Dimension

Sizes = Mapping[str, float]


@dataclass(frozen=True)
class Size:
    """A size that a form or method needs of each piece: its nominal value and the range taken as sane.

    ``unit`` is mm, mm², ° or ``""`` for a plain number (a count, a slope of 1 in so many).
    """

    key: str
    name: str
    nominal: float
    low: float
    high: float
    unit: str = "mm"

    @property
    def dimension(self) -> Dimension:
        """What it measures; angles are plain numbers of degrees."""
        return {"mm": Dimension.LENGTH, "mm²": Dimension.AREA}.get(self.unit, Dimension.NUMBER)

    @property
    def suffix(self) -> str:
        """How its unit ends the name of a field or column."""
        return {"mm": "_mm", "mm²": "_mm2", "°": "_deg"}.get(self.unit, "")


LINE = "line"
FREE = "free"
"""A form that the catalogue does not know: its glued area is stated, with its source."""
WIDTH = Size("width", "Width", 20, 5, 600)
OVERLAP = Size("overlap", "Overlap", 25, 5, 150)
DEPTH = Size("depth", "Depth", 20, 3, 150)
THICKNESS = Size("thickness", "Thickness", 20, 1, 100)


@dataclass(frozen=True)
class GluedFace:
    """A glued face: what it is called, its area, and its grain: ``long``, ``end``, ``angle``, ``stated`` for a form of
    the user's own, or ``line`` where it is what the grain orientation of the joint says.
    """

    name: str
    grain: str
    area_mm2: float


@dataclass(frozen=True)
class Form:
    """A form of joint. ``faces`` lists the glued faces from sizes; ``cut_angle`` is its cut from square, in degrees,
    for a form that is cut at one. ``pressed`` is the area over which clamp force is spread where that is not the glued
    one: slanted flanks (scarf, fingers, a mitre) are pressed end to end, over the cross-section.
    """

    key: str
    name: str
    sizes: tuple[Size, ...]
    faces: Callable[[Sizes], tuple[GluedFace, ...]]
    cut_angle: Callable[[Sizes], float] | None = None
    pressed: Callable[[Sizes], float] | None = None

    def pressed_area_mm2(self, sizes: Sizes) -> float:
        """The area over which clamp force is spread."""
        return self.pressed(sizes) if self.pressed else self.glued_area_mm2(sizes)

    def glued_area_mm2(self, sizes: Sizes) -> float:
        """Sum of the glued faces."""
        return math.fsum(f.area_mm2 for f in self.faces(sizes))


def _one(name: str, grain: str, area: Callable[[Sizes], float]) -> Callable[[Sizes], tuple[GluedFace, ...]]:
    return lambda s: (GluedFace(name, grain, area(s)),)


def _mitre_angle(s: Sizes) -> float:
    return s.get("mitre_angle", 45.0)


def _mitre(s: Sizes) -> float:
    return s["width"] * s["thickness"] / math.cos(math.radians(_mitre_angle(s)))


def _board(s: Sizes) -> float:
    return s["width"] * s["thickness"]


def _bar(s: Sizes) -> float:
    return s["width"] * s["depth"]


def _let_in(s: Sizes, line: float, where: str, grain: str, what: str) -> tuple[GluedFace, ...]:
    """A spline, or so many keys, let into a line: each takes its slot from the line and adds both its cheeks."""
    n = s.get("keys", 1.0)
    return (
        GluedFace(where, grain, line - n * s["spline_thickness"] * s["spline_length"]),
        GluedFace(what, "long", 2 * n * s["spline_depth"] * s["spline_length"]),
    )


def _spline(s: Sizes) -> tuple[GluedFace, ...]:
    return _let_in({**s, "keys": 1.0}, _mitre(s), "mitre beside the spline", "angle", "spline, both cheeks")


def _mitre_keys(s: Sizes) -> tuple[GluedFace, ...]:
    return _let_in(s, _mitre(s), "mitre beside the keys", "angle", "keys, both cheeks")


def _sheet_keys(s: Sizes) -> tuple[GluedFace, ...]:
    return _let_in(s, _bar(s), "line beside the keys", LINE, "keys, both cheeks")


def _rebate(s: Sizes) -> tuple[GluedFace, ...]:
    return (
        GluedFace("shoulder", "end", s["rebate_width"] * s["width"]),
        GluedFace("cheek", "long", s["rebate_depth"] * s["width"]),
    )


def _rebate_dowels(s: Sizes) -> tuple[GluedFace, ...]:
    """Dowels through the shoulder take their holes from it and add their skin."""
    shoulder, cheek = _rebate(s)
    holes = s["inserts"] * math.pi / 4 * s["dowel_diameter"] ** 2
    return (
        GluedFace("shoulder beside the dowels", "end", shoulder.area_mm2 - holes),
        cheek,
        GluedFace("dowel skin", "long", _dowels(s)),
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


def _finger(s: Sizes) -> tuple[GluedFace, ...]:
    fingers = s["width"] / s["finger_pitch"]
    flank = math.hypot(s["finger_length"], s["finger_pitch"] / 2)
    return (GluedFace(f"flanks of {fingers:.4g} fingers", "long", 2 * fingers * flank * s["depth"]),)


def _vee(s: Sizes) -> float:
    """So many Vs side by side: two flanks each, as long as the V and as wide as half of its share of the width."""
    return math.hypot(2 * s["vees"] * s["vee_length"], s["width"]) * s["depth"]


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
_KEYS = (Size("keys", "Keys", 2, 1, 20, ""), *_SPLINE)
_MITRE = (WIDTH, THICKNESS, Size("mitre_angle", "Angle of the mitre", 45, 10, 80, "°"))
_REBATE = (WIDTH, Size("rebate_width", "Rebate width", 20, 2, 100), Size("rebate_depth", "Rebate depth", 10, 2, 100))
_PINS = Size("pins", "Pins and gaps", 5, 2, 60, "")
_INSERTS = Size("inserts", "Inserts", 2, 1, 20, "")
_DOWEL = Size("dowel_diameter", "Dowel diameter", 9, 3, 40)
_INSERT_DEPTH = Size("insert_depth", "Depth in each piece", 22, 3, 120)
_TENON_W = Size("tenon_width", "Tenon width", 24, 5, 150)
_TENON_T = Size("tenon_thickness", "Tenon thickness", 8, 2, 50)

FORMS: dict[str, Form] = {
    f.key: f
    for f in (
        Form("lap", "Lap", (WIDTH, OVERLAP), _one("lap", "long", lambda s: s["width"] * s["overlap"])),
        Form("butt", "Butt", (WIDTH, DEPTH), _one("butt", "end", lambda s: s["width"] * s["depth"])),
        Form("edge", "Edge", (WIDTH, DEPTH), _one("edge", "long", lambda s: s["width"] * s["depth"])),
        Form("scarf", "Scarf", (WIDTH, DEPTH, Size("slope", "Slope, 1 in", 8, 1, 20, "")),
             _one("slope", "angle", lambda s: _bar(s) * math.hypot(1, s["slope"])),
             cut_angle=lambda s: math.degrees(math.atan(s["slope"])), pressed=_bar),
        Form("vee", "V or Vs", (WIDTH, DEPTH, Size("vees", "Vs", 1, 1, 30, ""),
             Size("vee_length", "Length of a V", 40, 3, 400)), _one("flanks", "angle", _vee),
             cut_angle=lambda s: math.degrees(math.atan(2 * s["vees"] * s["vee_length"] / s["width"])), pressed=_bar),
        Form("finger", "Finger", (WIDTH, DEPTH, Size("finger_length", "Finger length", 10, 3, 60),
             Size("finger_pitch", "Finger pitch", 4, 1, 20)), _finger, pressed=_bar),
        Form("sheet-key", "Butt with sheet keys", (WIDTH, DEPTH, *_KEYS), _sheet_keys, pressed=_bar),
        Form("butt-corner", "Butt corner", (WIDTH, THICKNESS), _one("butt", "end", _board)),
        Form("mitre", "Mitre", _MITRE, _one("mitre", "angle", _mitre), cut_angle=_mitre_angle, pressed=_board),
        Form("mitre-spline-along", "Mitre, spline grain along", (*_MITRE, *_SPLINE), _spline, cut_angle=_mitre_angle,
             pressed=_board),
        Form("mitre-spline-across", "Mitre, spline grain across", (*_MITRE, *_SPLINE), _spline, cut_angle=_mitre_angle,
             pressed=_board),
        Form("mitre-key", "Mitre with keys", (*_MITRE, *_KEYS), _mitre_keys, cut_angle=_mitre_angle, pressed=_board),
        Form("rebate", "Rebate", _REBATE, _rebate),
        Form("rebate-dowels", "Rebate with dowels", (*_REBATE, _INSERTS, _DOWEL, _INSERT_DEPTH), _rebate_dowels,
             pressed=lambda s: math.fsum(f.area_mm2 for f in _rebate(s))),
        Form("comb", "Comb", (WIDTH, THICKNESS, _PINS), _comb),
        Form("dovetail", "Dovetail", (WIDTH, THICKNESS, Size("tails", "Tails", 3, 1, 30, ""),
             Size("tail_slope", "Slope of the tails, 1 in", 7, 3, 12, "")), _dovetail),
        Form("half-lap", "Half-lap", (WIDTH, Size("other_width", "Width of the other piece", 40, 5, 300)),
             _one("cheek", "long", lambda s: s["width"] * s["other_width"])),
        Form("mortise-tenon", "Mortise and tenon", (Size("tenon_length", "Tenon length", 30, 5, 150), _TENON_W,
             _TENON_T), _tenon),
        Form("dowelled", "Dowelled", (_INSERTS, _DOWEL, _INSERT_DEPTH), _one("dowel skin", "long", _dowels)),
        Form("loose-tenon-along", "Loose tenon, grain along", (_INSERTS, _TENON_W, _TENON_T, _INSERT_DEPTH),
             _loose_tenon),
        Form("loose-tenon-across", "Loose tenon, grain across", (_INSERTS, _TENON_W, _TENON_T, _INSERT_DEPTH),
             _loose_tenon),
        Form(FREE, "A form of my own", (Size("free_area", "Glued area", 500, 5, 1_000_000, "mm²"),),
             _one("as stated", "stated", lambda s: s["free_area"])),
    )
}  # fmt: skip
