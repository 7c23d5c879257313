"""The blanks that a piece is made of: how long along the grain, how wide and how thick, for every method.

Lengths hold what the fixture grips beside the joint; ``STEP`` is the step of a shear block, ``GRIP`` what a clamp of
the rig holds. A solid piece has the outer size of the joint that it stands for.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from adhaero.core.joint_forms import Sizes

STEP, GRIP, REST = 6.0, 60.0, 20.0


@dataclass(frozen=True)
class Blank:
    """One piece of wood to cut, finished size in mm; ``side`` is a, b or c of the specimen."""

    side: str
    length_mm: float
    width_mm: float
    thickness_mm: float


Make = Callable[[Sizes], tuple[Blank, ...]]


def _halves(length: float, width: float, thickness: float) -> tuple[Blank, ...]:
    return Blank("a", length, width, thickness), Blank("b", length, width, thickness)


def _lap(s: Sizes) -> tuple[Blank, ...]:
    return _halves(s["overlap"] + GRIP, s["width"], s["thickness"])


def _double(s: Sizes) -> tuple[Blank, ...]:
    outer = s["thickness"] / 2
    a, b = _halves(s["overlap"] + GRIP, s["width"], s["thickness"])
    return a, Blank("b", b.length_mm, b.width_mm, outer), Blank("c", b.length_mm, b.width_mm, outer)


def _racking(s: Sizes) -> tuple[Blank, ...]:
    return (
        Blank("a", s["arm"] + 50, s["joint_height"], s["thickness"]),
        Blank("b", 2 * s["joint_height"] + GRIP, s["joint_height"], s["thickness"]),
    )


_JOINTS: dict[str, Make] = {
    "compression-shear": lambda s: _halves(s["overlap"] + STEP, s["width"], s["thickness"]),
    "lap-tension": _lap,
    "lap-tension-double": _double,
    "butt-pull": lambda s: _halves(GRIP, s["width"], s["depth"]),
    "cross-lap-pull": lambda s: (
        Blank("a", 3 * s["other_width"], s["width"], 15.0),
        Blank("b", 3 * s["width"], s["other_width"], 15.0),
    ),
    "bend-three-point": lambda s: _halves(s["span"] / 2 + REST, s["width"], s["depth"]),
    "bend-four-point": lambda s: _halves(s["span"] / 2 + REST, s["width"], s["depth"]),
    "edge-fold": lambda s: _halves(s["width"], s["span"] / 2 + REST, s["depth"]),
    "racking": _racking,
    "corner-pull": lambda s: _halves(150.0, s["width"], s["thickness"]),
    "withdrawal": lambda s: (Blank("a", 2 * GRIP, 4 * s["dowel_diameter"], 2 * s["dowel_diameter"]),),
    "pry": _lap,
    "dissimilar-pull": lambda s: (Blank("a", s["overlap"], s["width"], s["thickness"]),),
}

_SOLIDS: dict[str, Make] = {
    "compression-shear": lambda s: (Blank("a", s["overlap"] + 2 * STEP, s["width"], 2 * s["thickness"]),),
    "lap-tension": lambda s: (Blank("a", s["overlap"] + 2 * GRIP, s["width"], 2 * s["thickness"]),),
    "lap-tension-double": lambda s: (Blank("a", s["overlap"] + 2 * GRIP, s["width"], 2 * s["thickness"]),),
    "butt-pull": lambda s: (Blank("a", 2 * GRIP, s["width"], s["depth"]),),
    "cross-lap-pull": lambda s: (Blank("a", 3 * s["other_width"], s["width"], 30.0),),
    "bend-three-point": lambda s: (Blank("a", s["span"] + 2 * REST, s["width"], s["depth"]),),
    "bend-four-point": lambda s: (Blank("a", s["span"] + 2 * REST, s["width"], s["depth"]),),
    "edge-fold": lambda s: (Blank("a", s["width"], s["span"] + 2 * REST, s["depth"]),),
}


def blanks(method: str, role: str, sizes: Mapping[str, float]) -> tuple[Blank, ...]:
    """The blanks of one piece of a method: two or three of a joint, one of a solid piece."""
    made = _SOLIDS.get(method) if role == "solid" else None
    return (made or _JOINTS[method])(sizes)
