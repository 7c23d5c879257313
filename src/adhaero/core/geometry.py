"""Sizes of a joint's parts held against each other: what cannot be made is said before it is cut."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

from adhaero.core.joint_forms import Sizes
from adhaero.core.quantity import Dimension
from adhaero.core.units import METRIC, Units

Contradiction = tuple[str, str, str]
"""(key of the size, what is wrong, what to do)."""
Say = Callable[[float], str]
"""A length, in mm, in words."""


def contradictions(form: str, s: Sizes, units: Units = METRIC) -> Iterator[Contradiction]:
    """Sizes of a joint form that do not go together, said in the user's units."""
    check = _CHECKS.get(form)
    if check is not None:
        yield from check(s, lambda mm: units.typed(mm, Dimension.LENGTH))


def _beyond(s: Sizes, say: Say, key: str, most: float, what: str, whose: str) -> Iterator[Contradiction]:
    if key in s and s[key] > most + 1e-9:
        yield (
            key,
            f"{what} of {say(s[key])} is more than {whose} ({say(most)})",
            "Make it smaller, or the stock larger.",
        )


def _member(s: Sizes) -> tuple[float | None, float | None]:
    """Height (or width) and thickness of the piece that a tenon or dowel goes into, where the method states them."""
    return s.get("joint_height", s.get("width")), s.get("thickness", s.get("depth"))


def _let_in(s: Sizes, say: Say, line: float, thickness: float, whose: str) -> Iterator[Contradiction]:
    """A spline or keys in a line of that length across its thickness."""
    n = s.get("keys", 1.0)
    yield from _beyond(s, say, "spline_length", s["width"], "a spline length", "the width of the joint")
    if n * s["spline_thickness"] > line + 1e-9:
        what = f"{n:g} keys of" if n > 1 else "a spline thickness of"
        yield (
            "spline_thickness",
            f"{what} {say(s['spline_thickness'])} take more than {whose} ({say(line)})",
            "Make them thinner or fewer, or the stock larger.",
        )
    yield from _beyond(s, say, "spline_depth", thickness, "a spline depth", "the thickness")


def _spline(s: Sizes, say: Say) -> Iterator[Contradiction]:
    mitre = s["thickness"] / math.cos(math.radians(s.get("mitre_angle", 45.0)))
    yield from _let_in({**s, "keys": 1.0}, say, mitre, s["thickness"], "the length of the mitre")


def _mitre_keys(s: Sizes, say: Say) -> Iterator[Contradiction]:
    """Keys lie side by side along the width or one over the other in the mitre: together they must fit into it."""
    mitre = s["thickness"] / math.cos(math.radians(s.get("mitre_angle", 45.0)))
    area, slots = s["width"] * mitre, s.get("keys", 1.0) * s["spline_thickness"] * s["spline_length"]
    yield from _let_in({**s, "keys": 1.0}, say, mitre, s["thickness"], "the length of the mitre")
    if slots > area:
        yield "keys", f"{s.get('keys', 1.0):g} keys take more than the whole mitre", "Take fewer or smaller ones."


def _sheet_keys(s: Sizes, say: Say) -> Iterator[Contradiction]:
    yield from _let_in(s, say, s["depth"], 1e9, "the depth of the bar")


def _rebate_dowels(s: Sizes, say: Say) -> Iterator[Contradiction]:
    yield from _rebate(s, say)
    most = s["rebate_width"]
    yield from _beyond(s, say, "dowel_diameter", most, "a dowel diameter", "the width of the rebate")
    if s["inserts"] * s["dowel_diameter"] > s["width"] + 1e-9:
        n, d = s["inserts"], s["dowel_diameter"]
        yield ("inserts", f"{n:g} dowels of {say(d)} do not fit side by side into {say(s['width'])}",
               "Take fewer or thinner dowels, or a wider corner.")  # fmt: skip


def _rebate(s: Sizes, say: Say) -> Iterator[Contradiction]:
    if "thickness" in s:
        yield from _beyond(s, say, "rebate_depth", s["thickness"], "a rebate depth", "the thickness")


def _tenon(s: Sizes, say: Say) -> Iterator[Contradiction]:
    height, thickness = _member(s)
    if height is not None:
        yield from _beyond(s, say, "tenon_width", height, "a tenon width", "the height of its member")
    if thickness is not None:
        yield from _beyond(s, say, "tenon_thickness", thickness, "a tenon thickness", "the thickness of its member")


def _dowels(s: Sizes, say: Say) -> Iterator[Contradiction]:
    height, thickness = _member(s)
    if thickness is not None:
        yield from _beyond(s, say, "dowel_diameter", thickness, "a dowel diameter", "the thickness of its member")
    if height is not None and s.get("inserts", 0) * s.get("dowel_diameter", 0) > height + 1e-9:
        n, d = s["inserts"], s["dowel_diameter"]
        yield ("inserts", f"{n:g} dowels of {say(d)} do not fit side by side into {say(height)}",
               "Take fewer or thinner dowels, or larger stock.")  # fmt: skip


def _loose_tenons(s: Sizes, say: Say) -> Iterator[Contradiction]:
    yield from _tenon(s, say)
    height, _ = _member(s)
    if height is not None and s.get("inserts", 0) * s.get("tenon_width", 0) > height + 1e-9:
        n, w = s["inserts"], s["tenon_width"]
        yield ("inserts", f"{n:g} tenons of {say(w)} do not fit side by side into {say(height)}",
               "Take fewer or narrower tenons, or larger stock.")  # fmt: skip


def _finger(s: Sizes, say: Say) -> Iterator[Contradiction]:
    yield from _beyond(s, say, "finger_pitch", s["width"], "a finger pitch", "the width")


def _comb(s: Sizes, say: Say) -> Iterator[Contradiction]:
    if s.get("pins", 0) > s["width"]:
        yield "pins", f"{s['pins']:g} pins in {say(s['width'])} are under {say(1)} wide", "Take fewer."


_CHECKS = {
    "mitre-spline-along": _spline, "mitre-spline-across": _spline, "mitre-key": _mitre_keys, "rebate": _rebate,
    "sheet-key": _sheet_keys, "rebate-dowels": _rebate_dowels,
    "mortise-tenon": _tenon, "dowelled": _dowels, "loose-tenon-along": _loose_tenons,
    "loose-tenon-across": _loose_tenons, "finger": _finger, "comb": _comb,
}  # fmt: skip
