"""What is glued to what: adherends, their glued faces, and the grain pairing that follows."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from adhaero.core.joint_forms import FORMS, Sizes


class Face(StrEnum):
    """The kind of surface that is glued."""

    LONG = "long"
    END = "end"
    ANGLE = "angle"
    NOT_WOOD = "not wood"


@dataclass(frozen=True)
class Adherend:
    """One piece of a joint. ``angle_deg`` is the cut from square, for a face that is neither long nor end."""

    material: str
    face: Face
    angle_deg: float | None = None


def pairing(a: Adherend, b: Adherend) -> str:
    """The grain pairing of two glued faces: ``long-long``, ``long-end``, ``end at 45° to long``, ...

    The order of the two does not matter. A mitre names its angle, so that it cannot pass for end-to-end.
    """

    def word(p: Adherend) -> str:
        if p.face is Face.ANGLE:
            return f"end at {p.angle_deg:g}°"
        return {Face.LONG: "long", Face.END: "end", Face.NOT_WOOD: p.material}[p.face]

    rank = {Face.LONG: 0, Face.END: 1, Face.ANGLE: 2, Face.NOT_WOOD: 3}
    first, second = sorted((a, b), key=lambda p: (rank[p.face], p.material))
    if Face.ANGLE in (first.face, second.face):
        return f"{word(second)} to {word(first)}"
    return f"{word(first)}-{word(second)}"


@dataclass(frozen=True)
class Orientation:
    """A named grain orientation of a two-piece joint: both faces and the angle between the grains."""

    key: str
    name: str
    face_a: Face
    face_b: Face
    grain_angle_deg: float


ANGLED = "angled"
ORIENTATIONS: dict[str, Orientation] = {
    o.key: o
    for o in (
        Orientation("long-parallel", "Long to long, parallel", Face.LONG, Face.LONG, 0),
        Orientation("long-crossed", "Long to long, crossed", Face.LONG, Face.LONG, 90),
        Orientation("long-end", "Long to end", Face.LONG, Face.END, 90),
        Orientation("end-end", "End to end", Face.END, Face.END, 0),
        Orientation(ANGLED, "Ends cut at an angle", Face.ANGLE, Face.ANGLE, 90),
    )
}
USUAL = "long-parallel"
"""What a plan says of the grain until somebody says otherwise."""
_BY_FORM = {
    "butt-corner": "long-end", "rebate": "long-end", "rebate-dowels": "long-end", "comb": "long-crossed",
    "dovetail": "long-crossed", "mortise-tenon": "long-crossed",
}  # fmt: skip
_AT_A_CORNER = {
    "half-lap": "long-crossed", "dowelled": "long-end", "loose-tenon-along": "long-end",
    "loose-tenon-across": "long-end",
}  # fmt: skip
"""Forms whose grain depends on the piece: an end against a side in a corner, else side to side."""


def orientation_of(form: str, stated: str, *, corner: bool) -> str:
    """Return the grain orientation that a joint has, by its form.

    A form that is cut at an angle (mitre, scarf) meets at that angle whatever is ``stated``; ends meet sides at a
    corner as long as the plan says only what is ``USUAL``. ``corner`` says that the method breaks corners.
    """
    if form in FORMS and FORMS[form].cut_angle is not None:
        return ANGLED
    if stated != USUAL:
        return stated
    return _BY_FORM.get(form) or (_AT_A_CORNER.get(form) if corner else None) or stated


METALS = ("steel", "aluminium", "brass", "plastic", "glass")
"""Adherends without grain: their face is no wood."""


def adherends(
    orientation: str, species_a: str, species_b: str, form: str = "lap", sizes: Sizes | None = None
) -> tuple[Adherend, Adherend]:
    """Both adherends of a joint in a named orientation. ``KeyError`` for an unknown orientation.

    A form that is cut at an angle brings its own, by its ``sizes``: a mitre its angle, a scarf the arc tangent of its
    slope.
    Metal and the like have no grain.
    """
    o, cut = ORIENTATIONS[orientation], FORMS[form].cut_angle if form in FORMS else None
    angle = cut(sizes or {}) if cut is not None else None

    def piece(material: str, face: Face) -> Adherend:
        if material in METALS:
            return Adherend(material, Face.NOT_WOOD)
        return Adherend(material, Face.ANGLE, angle) if angle is not None else Adherend(material, face)

    return piece(species_a, o.face_a), piece(species_b, o.face_b)
