"""Making the joint: what blade, bit and stop are set to for a joint form, and the loose parts that go into it."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from adhaero.core.joint_forms import Sizes
from adhaero.core.quantity import Dimension
from adhaero.core.units import Units

SIXTY_FOURTH_MM = 25.4 / 64
DEEPER_MM = 2.0
"""How much deeper than its insert a hole or mortise is made, so that glue and dust find room."""
Say = Callable[[float], str]


@dataclass(frozen=True)
class Insert:
    """A loose part of a joint: how many of one kind go into it, and its finished size in mm (a round one has a
    diameter as its thickness and no width). ``grain`` is how its grain lies to its length.
    """

    name: str
    count: int
    length_mm: float
    width_mm: float
    thickness_mm: float
    grain: str = "along"


def settings(form: str, sizes: Sizes, units: Units) -> list[str]:
    """What is set at the machine for a joint form of these sizes, in the user's units."""

    def say(mm: float) -> str:
        step = SIXTY_FOURTH_MM if units.symbol(Dimension.LENGTH) == "in" else 0.1
        return units.typed(round(mm / step) * step, Dimension.LENGTH)

    return [s for made in _SETTINGS.get(form, ()) for s in made(sizes, say)]


def inserts(form: str, sizes: Sizes) -> list[Insert]:
    """The loose parts of one joint."""
    made = _INSERTS.get(form)
    return [made(sizes)] if made is not None else []


def _tilt(s: Sizes, say: Say) -> list[str]:
    angle = s.get("mitre_angle", 45.0)
    over = s["thickness"] * math.tan(math.radians(angle))
    return [f"Blade tilted {angle:g}°; the long side of a half is {say(over)} longer than its short one."]


def _slot(s: Sizes, say: Say) -> list[str]:
    return [f"Slot in both faces: {say(s['spline_thickness'])} wide, {say(s['spline_depth'])} deep, "
            f"{say(s['spline_length'])} long."]  # fmt: skip


def _key_slots(s: Sizes, say: Say) -> list[str]:
    n = s.get("keys", 1.0)
    return [f"{n:g} slots over the line, cut after gluing: {say(s['spline_thickness'])} wide, "
            f"{say(s['spline_depth'])} into either piece, {say(s['spline_length'])} long."]  # fmt: skip


def _scarf(s: Sizes, say: Say) -> list[str]:
    angle = math.degrees(math.atan(1 / s["slope"]))
    return [f"Slope of 1 in {s['slope']:g}: {angle:.1f}° from the face, {say(s['slope'] * s['depth'])} long."]


def _vee(s: Sizes, say: Say) -> list[str]:
    half = s["width"] / (2 * s["vees"])
    angle = math.degrees(math.atan(half / s["vee_length"]))
    return [f"{s['vees']:g} V{'s' * (s['vees'] != 1)} of {say(s['vee_length'])}: every flank {angle:.1f}° from the "
            f"grain, {say(2 * half)} wide at its mouth."]  # fmt: skip


def _finger(s: Sizes, say: Say) -> list[str]:
    return [f"Fingers {say(s['finger_length'])} deep at a pitch of {say(s['finger_pitch'])}."]


def _comb(s: Sizes, say: Say) -> list[str]:
    return [f"{s['pins']:g} pins and gaps, each {say(s['width'] / s['pins'])} wide, {say(s['thickness'])} deep."]


def _dovetail(s: Sizes, say: Say) -> list[str]:
    angle = math.degrees(math.atan(1 / s["tail_slope"]))
    return [f"Tails with a slope of 1 in {s['tail_slope']:g}: {angle:.1f}°, {say(s['thickness'])} deep."]


def _half_lap(s: Sizes, say: Say) -> list[str]:
    return [f"Half of the thickness is cut away over {say(s['other_width'])}, in the other piece over "
            f"{say(s['width'])}."]  # fmt: skip


def _rebate(s: Sizes, say: Say) -> list[str]:
    return [f"Rebate {say(s['rebate_width'])} wide, {say(s['rebate_depth'])} deep."]


def _bores(s: Sizes, say: Say) -> list[str]:
    deep = s["insert_depth"] + DEEPER_MM
    return [f"{s['inserts']:g} holes of {say(s['dowel_diameter'])}, {say(deep)} deep in each piece."]


def _mortise(s: Sizes, say: Say) -> list[str]:
    deep = say(s["tenon_length"] + DEEPER_MM)
    return [f"Mortise {say(s['tenon_thickness'])} x {say(s['tenon_width'])}, {deep} deep; "
            f"the blank of the rail holds {say(s['tenon_length'])} for its tenon."]  # fmt: skip


def _mortises(s: Sizes, say: Say) -> list[str]:
    deep = say(s["insert_depth"] + DEEPER_MM)
    return [f"{s['inserts']:g} mortises {say(s['tenon_thickness'])} x {say(s['tenon_width'])}, {deep} deep in each "
            "piece."]  # fmt: skip


_SETTINGS: Mapping[str, tuple[Callable[[Sizes, Say], list[str]], ...]] = {
    "mitre": (_tilt,), "mitre-spline-along": (_tilt, _slot), "mitre-spline-across": (_tilt, _slot),
    "mitre-key": (_tilt, _key_slots), "sheet-key": (_key_slots,), "scarf": (_scarf,), "vee": (_vee,),
    "finger": (_finger,), "comb": (_comb,), "dovetail": (_dovetail,), "half-lap": (_half_lap,), "rebate": (_rebate,),
    "rebate-dowels": (_rebate, _bores), "dowelled": (_bores,), "mortise-tenon": (_mortise,),
    "loose-tenon-along": (_mortises,), "loose-tenon-across": (_mortises,),
}  # fmt: skip


def _spline(s: Sizes, grain: str) -> Insert:
    return Insert("spline", 1, s["spline_length"], 2 * s["spline_depth"], s["spline_thickness"], grain)


def _keys(s: Sizes) -> Insert:
    return Insert("key", round(s.get("keys", 1.0)), s["spline_length"], 2 * s["spline_depth"], s["spline_thickness"])


def _dowel(s: Sizes) -> Insert:
    return Insert("dowel", round(s["inserts"]), 2 * s["insert_depth"], 0.0, s["dowel_diameter"])


def _tenon(s: Sizes, grain: str) -> Insert:
    return Insert("loose tenon", round(s["inserts"]), 2 * s["insert_depth"], s["tenon_width"], s["tenon_thickness"],
                  grain)  # fmt: skip


_INSERTS: Mapping[str, Callable[[Sizes], Insert]] = {
    "mitre-spline-along": lambda s: _spline(s, "along"), "mitre-spline-across": lambda s: _spline(s, "across"),
    "mitre-key": _keys, "sheet-key": _keys, "rebate-dowels": _dowel, "dowelled": _dowel,
    "loose-tenon-along": lambda s: _tenon(s, "along"), "loose-tenon-across": lambda s: _tenon(s, "across"),
}  # fmt: skip
