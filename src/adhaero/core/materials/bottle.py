"""What a bottle of glue went through, and the state it was in when glue was taken from it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from adhaero.core.quantity import Dimension, parse
from adhaero.core.refusal import Refusal

EVENTS: dict[str, str] = {
    "frozen": "went into the frost",
    "thawed": "came out of the frost",
    "looks": "looked",
    "frost-free": "is kept where it does not freeze",
    "holds": "still holds",
    "used up": "was used up",
}
"""Kinds of events; ``looks`` says what was seen (thick, lumpy, separated), ``holds`` the mass that is left."""


@dataclass(frozen=True)
class BottleEvent:
    """Something that happened to a bottle, with what was seen."""

    kind: str
    at: datetime
    note: str = ""


def left_g(pack_g: float | None, events: Sequence[BottleEvent], at: datetime) -> float | None:
    """The glue that a bottle holds as it was last told (g); the whole pack where nothing was; ``None`` if unknown."""
    told = [e for e in events if e.at <= at and e.kind in ("holds", "used up")]
    if not told:
        return pack_g
    last = max(told, key=lambda e: e.at)
    try:
        return 0.0 if last.kind == "used up" else parse(last.note, Dimension.MASS, "g").base
    except Refusal:
        # From a file of another shop: what was written is no mass.
        return None


def cost_of_joint(area_mm2: float, spread_g_m2: float, price: float, pack_g: float) -> float:
    """What the glue of a joint costs: 600 mm2 with 200 g/m2 take 0.12 g; of a pack of 500 g for 12 that is 0.00288."""
    return area_mm2 * 1e-6 * spread_g_m2 * price / pack_g


def state(events: Sequence[BottleEvent], at: datetime) -> str:
    """The state of a bottle at a moment, in words; empty for one of which nothing was told until then.

    Frozen, taken out and found thick, then used 22 h later: "frozen once, thawed 22 h, thick paste".
    """
    known = sorted((e for e in events if e.at <= at), key=lambda e: e.at)
    frosts = [e for e in known if e.kind == "frozen"]
    thaws = [e for e in known if e.kind == "thawed"]
    said = []
    if frosts:
        said.append("frozen once" if len(frosts) == 1 else f"frozen {len(frosts)} times")
        if not thaws or thaws[-1].at < frosts[-1].at:
            said.append("still frozen")
        else:
            hours = (at - thaws[-1].at).total_seconds() / 3600
            said.append(f"thawed {hours:.0f} h" if hours < 72 else f"thawed {hours / 24:.0f} days")
    elif any(e.kind == "frost-free" for e in known):
        said.append("kept frost-free")
    looks = [e.note for e in known if e.kind == "looks" and e.note]
    if looks:
        said.append(looks[-1])
    if any(e.kind == "used up" for e in known):
        said.append("used up")
    return ", ".join(said)
