"""The blanks that a piece is made of: how long along the grain, how wide and how thick, for every method.

Lengths hold what the fixture grips beside the joint; ``step_mm`` is the step of a shear block, ``GRIP`` what a clamp of
the rig holds. A solid piece has the outer size of the joint that it stands for.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from adhaero.core.grain import ACROSS, ALONG
from adhaero.core.joint_forms import Sizes
from adhaero.core.methods_of_own import FREE_METHODS

GRIP, REST = 60.0, 20.0
SIXTEENTH_MM = 25.4 / 16


def step_mm(overlap_mm: float) -> float:
    """The step of a shear block: 6 mm, or a quarter inch where the overlap is set in sixteenths of an inch, so that the
    stop is too.
    """
    in_mm = abs(overlap_mm - round(overlap_mm)) < 1e-6
    in_sixteenths = abs(overlap_mm / SIXTEENTH_MM - round(overlap_mm / SIXTEENTH_MM)) < 1e-6
    return 4 * SIXTEENTH_MM if in_sixteenths and not in_mm else 6.0


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
    "compression-shear": lambda s: _halves(s["overlap"] + step_mm(s["overlap"]), s["width"], s["thickness"]),
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


def _of_own(s: Sizes) -> tuple[Blank, ...]:
    two = _halves(s["overlap"] + GRIP, s["width"], s["thickness"])
    third = Blank("c", s["overlap"] + GRIP, s["width"], s["thickness"])
    return (*two, third) if s.get("members", 2) >= 3 else two


_JOINTS.update({
    "cantilever": lambda s: _halves(s["overlap"] + s["arm"], s["width"], s["thickness"]),
    **dict.fromkeys(("framed", "dead-weight", *FREE_METHODS), _of_own),
})  # fmt: skip

_SOLIDS: dict[str, Make] = {
    "compression-shear": lambda s: (
        Blank("a", s["overlap"] + 2 * step_mm(s["overlap"]), s["width"], 2 * s["thickness"]),
    ),
    "lap-tension": lambda s: (Blank("a", s["overlap"] + 2 * GRIP, s["width"], 2 * s["thickness"]),),
    "lap-tension-double": lambda s: (Blank("a", s["overlap"] + 2 * GRIP, s["width"], 2 * s["thickness"]),),
    "butt-pull": lambda s: (Blank("a", 2 * GRIP, s["width"], s["depth"]),),
    "cross-lap-pull": lambda s: (Blank("a", 3 * s["other_width"], s["width"], 30.0),),
    "bend-three-point": lambda s: (Blank("a", s["span"] + 2 * REST, s["width"], s["depth"]),),
    "bend-four-point": lambda s: (Blank("a", s["span"] + 2 * REST, s["width"], s["depth"]),),
    "edge-fold": lambda s: (Blank("a", s["width"], s["span"] + 2 * REST, s["depth"]),),
}


_ENDWAYS = ("butt-pull", "bend-three-point", "bend-four-point")
"""Methods whose halves meet end to end, so that what overlaps in the joint must be added to them."""


def overlap_mm(form: str, sizes: Mapping[str, float]) -> float:
    """How far the two halves of a joint form run past each other, along the grain, mm."""
    match form:
        case "scarf":
            return sizes["slope"] * sizes["depth"]
        case "vee":
            return sizes["vee_length"]
        case "finger":
            return sizes["finger_length"]
        case "half-lap":
            return sizes["other_width"]
    return 0.0


_DRAWN: dict[str, str] = {
    **dict.fromkeys(("compression-shear", "butt-pull", "bend-three-point", "bend-four-point"), ALONG),
    "edge-fold": ACROSS,
}
"""Methods whose blanks turn with the grain, and how their blanks lie as given above: a half that is loaded the other
way has its grain across its length.
"""


def blanks(
    method: str, role: str, sizes: Mapping[str, float], form: str = "", loaded: Sequence[str] = (),
    own: Mapping[str, float] | None = None,
) -> tuple[Blank, ...]:  # fmt: skip
    """The blanks of one piece of a method: two or three of a joint, one of a solid piece.

    The joint's own length is added: halves that overlap in a scarf make a bar that still reaches over its span.
    ``loaded`` says how each of them is loaded, along or across its grain: blanks follow their grain. Both halves of a
    joint have the ``own`` length (along the grain), width and thickness that are stated.
    """
    made = _SOLIDS.get(method) if role == "solid" else None
    found = (made or _JOINTS[method])(sizes)
    more = overlap_mm(form, sizes) / 2 if role != "solid" and method in _ENDWAYS else 0.0
    if more:
        found = tuple(replace(b, length_mm=b.length_mm + more) for b in found)
    drawn = _DRAWN.get(method, "")
    turned = [bool(drawn) and way not in ("", drawn) for way in (*loaded, *[""] * len(found))]
    cut = tuple(
        replace(b, length_mm=b.width_mm, width_mm=b.length_mm) if turn else b
        for b, turn in zip(found, turned, strict=False)
    )
    if not own or role == "solid":
        return cut
    return tuple(
        replace(b, length_mm=own.get("length", b.length_mm), width_mm=own.get("width", b.width_mm),
                thickness_mm=own.get("thickness", b.thickness_mm))
        for b in cut
    )  # fmt: skip
