"""What is looked at before the first pull of a session, by method: each point ticked, or flagged on the readings."""

from __future__ import annotations

from collections.abc import Mapping

ZERO, CHECKED, BEARING = "zero", "check weight", "bearing"
ITEMS: Mapping[str, str] = {
    ZERO: "The empty rig shows nothing",
    CHECKED: "A known weight reads what it weighs",
    BEARING: "The load bears flat, on clean faces",
    "hold-down": "The hold-down is snug, and does not pinch",
    "no turning": "The piece cannot turn or tilt",
    "span": "The span is set, and measured",
    "over the line": "The load stands over the joint",
    "in line": "The pull goes through the middle of the face",
    "grips": "The grips are even, and do not slip",
    "arm": "The arm is measured from the joint to the load",
    "foot": "The foot of the joint is clamped, and does not lift",
}
"""Key of a point -> what is to be so."""

_COMPRESSED = ("hold-down", "no turning")
_PULLED = ("in line", "grips")
_BENT = ("span", "over the line")
_LEVERED = ("arm", "foot")
_OF_METHOD: Mapping[str, tuple[str, ...]] = {
    "compression-shear": _COMPRESSED,
    "lap-tension": _PULLED,
    "lap-tension-double": _PULLED,
    "butt-pull": _PULLED,
    "cross-lap-pull": _PULLED,
    "dissimilar-pull": _PULLED,
    "withdrawal": _PULLED,
    "corner-pull": _LEVERED,
    "cantilever": _LEVERED,
    "framed": ("foot", "no turning"),
    "dead-weight": ("in line",),
    "free-moment": _LEVERED,
    "racking": _LEVERED,
    "edge-fold": ("over the line", "no turning"),
    "bend-three-point": _BENT,
    "bend-four-point": _BENT,
}
"""Key of a method -> the points of its own; a method that is not named has those of every rig alone."""


def points(method: str, *, loadless: bool) -> dict[str, str]:
    """The points of a method, in the order in which they are looked at; none where nothing is loaded."""
    if loadless:
        return {}
    return {key: ITEMS[key] for key in (ZERO, CHECKED, BEARING, *_OF_METHOD.get(method, ()))}
