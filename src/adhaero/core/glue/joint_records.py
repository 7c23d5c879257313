"""What may be told of a glued joint beside its times: how the glue went on, what pressed, how it came out."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from adhaero.core.refusal import Problems, refuse

Value = Mapping[str, Any]


@dataclass(frozen=True)
class Asked:
    """A part of a record: a choice, a number of ``unit`` from ``low`` to ``high``, or ``words``."""

    key: str
    name: str
    choices: tuple[str, ...] = ()
    words: bool = False
    unit: str = ""
    low: float = 0.0
    high: float = 0.0


@dataclass(frozen=True)
class Kind:
    """A kind of record. One of its parts at least is stated. The latest of a joint holds; of forces, places and looks
    all of them are used.
    """

    key: str
    name: str
    parts: tuple[Asked, ...]


KINDS: dict[str, Kind] = {
    k.key: k
    for k in (
        Kind("amount", "How the glue went on", (
            Asked("faces", "faces", ("one", "both")),
            Asked("tool", "with", ("brush", "roller", "spatula", "comb", "bottle", "finger")),
            Asked("g", "weighed", unit="g", low=0.001, high=5000),
            Asked("g_m2", "spread", unit="g/m²", low=1, high=2000),
            Asked("word", "by eye", ("starved", "thin", "normal", "generous")),
        )),
        Kind("force", "Clamp force read", (Asked("force_n", "force", unit="N", low=0, high=200_000),)),
        Kind("shift", "Out of place after clamping", (
            Asked("along_mm", "along the overlap", unit="mm", low=0, high=100),
            Asked("across_mm", "across the width", unit="mm", low=0, high=100),
            Asked("twist_deg", "twisted by", unit="°", low=0, high=90),
            Asked("lift_mm", "lifted by", unit="mm", low=0, high=20),
        )),
        Kind("squeeze-out", "Squeeze-out", (
            Asked("how", "was", ("left", "wiped wet", "scraped", "chiselled", "sanded")),
        )),
        Kind("fastener", "Fasteners as clamps", (
            Asked("count", "how many", unit="", low=1, high=100),
            Asked("diameter_mm", "of", unit="mm", low=0.1, high=40),
            Asked("left", "were", ("left in", "taken out")),
        )),
        Kind("disturbed", "Disturbed while curing", (
            Asked("what", "it was", ("knocked", "turned", "moved", "opened", "damaged")),
        )),
        Kind("gap line", "The gap of the line", (
            Asked("share_pct", "over a share of", unit="%", low=0, high=100),
            Asked("spacers", "kept open by", words=True),
            Asked("closes", "the joint", ("closes by hand", "closes under the clamp", "cannot close")),
        )),
        Kind("wetness", "State at the break", (Asked("state", "it was", ("wet", "damp", "dry")),)),
        Kind("place", "Kept at", (Asked("where", "from then on at", words=True),)),
        Kind("mark", "Marked by its maker", (Asked("mark", "as", words=True),)),
        Kind("line", "Thickness of the line", (
            Asked("mm", "", unit="mm", low=0.001, high=20),
            Asked("where", "at", words=True),
            Asked("how", "by", ("feeler gauge", "loupe", "caliper", "photo")),
        )),
        Kind("prepared", "Done before its break", (
            Asked("what", "it was", ("drilled", "notched", "sawn", "fitted with grips", "rid of its screws", "planed")),
            Asked("size_mm", "by", unit="mm", low=0.1, high=2000),
        )),
        Kind("inspected", "Looked at", (Asked("whole", "it was", ("whole", "cracked", "apart")),)),
    )
}  # fmt: skip
LEFT_IN = "left in"
OF_THE_BREAK = ("inspected", "wetness", "line", "prepared")
"""Kinds that may be told of a joint that is broken."""


def came_apart(kind: str, value: Mapping[str, Any]) -> bool:
    """Whether a record says that a joint was found apart before any test."""
    return kind == "inspected" and value.get("whole") == "apart"


_SHAPED = {
    "slope", "finger_pitch", "pins", "tails", "tenon_width", "dowel_diameter", "spline_depth", "rebate_depth", "vees",
    "free_area", "mitre_angle",
}  # fmt: skip
"""Sizes of forms whose faces do not slide over each other: a shift leaves their area as it was computed."""


def check(kind: str, value: Value) -> dict[str, Any]:
    """The value as it is kept. Raises ``Refusal`` that names what is wrong."""
    known = KINDS.get(kind)
    if known is None:
        raise refuse(
            "kind", f"{kind[:30]!r} is nothing that is told of a joint", "Use one of: " + ", ".join(KINDS) + "."
        )
    p, asked, clean = Problems(), {a.key: a for a in known.parts}, {}
    for key, given in value.items():
        if given is None or given == "":
            continue
        part = asked.get(key)
        if part is None:
            p.add(f"value.{key}", f"is no part of {known.name.lower()}", "Leave it out.")
        elif part.words:
            fine = isinstance(given, str) and 1 <= len(given.strip()) <= 60
            p.check(fine, f"value.{key}", "must be 1 to 60 characters", "Name it.")
        elif part.choices:
            p.check(given in part.choices, f"value.{key}", "is none of the choices",
                    "Use one of: " + ", ".join(part.choices) + ".")  # fmt: skip
        else:
            fine = isinstance(given, int | float) and not isinstance(given, bool) and part.low <= given <= part.high
            p.check(
                fine, f"value.{key}", f"must be {part.low:g} to {part.high:g} {part.unit}".rstrip(), "Check the unit."
            )
        clean[key] = given
    if not clean and not p.found:
        p.add("value", "says nothing", "State one of: " + ", ".join(a.name for a in known.parts) + ".")
    p.raise_if_any()
    return clean


def in_words(kind: str, value: Value, area_mm2: float = 0.0) -> str:
    """A record in a few words, for a list. Of weighed glue with the area it went on: also per area."""
    said = []
    for part in KINDS[kind].parts:
        if part.key in value:
            given = value[part.key]
            said.append(str(given) if part.choices or part.words else f"{part.name} {given:g} {part.unit}".strip())
    if kind == "amount" and "g" in value and area_mm2 > 0:
        said.append(f"{g_m2(float(value['g']), area_mm2):.0f} g/m²")
    if kind == "amount" and not {"g", "g_m2"} & set(value):
        said.append("not weighed")
    return ", ".join(said)


def g_m2(grams: float, area_mm2: float) -> float:
    """Spread of a weighed amount: 3.3 g on 150 cm2 are 220 g/m2."""
    return grams / area_mm2 * 1e6


def holes_mm2(value: Value) -> float:
    """Glued area that fasteners took: their holes, where count and diameter are known."""
    d = value.get("diameter_mm")
    return float(value.get("count", 1)) * math.pi / 4 * d * d if d else 0.0


def moved(sizes: Mapping[str, float], shift: Value | None, fastener: Value | None) -> dict[str, float]:
    """Sizes of the joint as it lies: its overlap less the shift along it and the holes, its width less that across.

    A shift of 1.5 mm on 30 mm of overlap, 25 mm wide, leaves 712.5 mm2. Forms without an overlap keep their sizes.
    """
    own = dict(sizes)
    if own.keys() & _SHAPED:
        return own
    length = next((k for k in ("overlap", "depth", "other_width") if k in own), None)
    if shift is not None:
        if length is not None:
            own[length] = max(0.0, own[length] - float(shift.get("along_mm", 0.0)))
        if "width" in own:
            own["width"] = max(0.0, own["width"] - float(shift.get("across_mm", 0.0)))
    if fastener is not None and length is not None and own.get("width"):
        own[length] = max(0.0, own[length] - holes_mm2(fastener) / own["width"])
    return own


def relaxed(readings: list[float]) -> float | None:
    """By what share a clamp's force fell from its first reading to its last; 900 N, then 610 N: 0.32."""
    return None if len(readings) < 2 or readings[0] <= 0 else 1 - readings[-1] / readings[0]
