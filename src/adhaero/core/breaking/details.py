"""What else is told of a reading: how it was read, in which stages the piece gave way, which way it was pulled."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any

from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Problems
from adhaero.core.units import Units

HOWS: dict[str, str] = {
    "": "as the rig showed it",
    "peak hold": "from a gauge that keeps its peak",
    "by eye": "by eye, from a moving pointer",
    "about": "about, from memory or estimate",
}
"""How a load was read -> its words; the last two are flagged, and their sign is ≈."""
ROUGH = ("by eye", "about")
DIRECTIONS = ("opening", "closing")
HELD, FAILED = "held", "failed"
"""How a proof load ended."""
MOST_STAGES = 12


@dataclass(frozen=True)
class Details:
    """``stages`` are (what happened, load in N or ``None``) in order; ``direction`` whether a corner was opened or
    closed, ``off_line_mm`` how far from the middle of the glued face the line of pull ran; ``side`` and ``tool`` with
    what it was pried; ``outcome`` one of the plan's own words; ``ended`` how a proof load ended; ``shown`` what an
    instrument showed from which no load follows (the pressure of a cylinder whose piston nobody knows); ``typed`` the
    words from which the load was read, as they were typed.
    """

    how: str = ""
    ended: str = ""
    stages: tuple[tuple[str, float | None], ...] = ()
    direction: str = ""
    off_line_mm: float | None = None
    side: str = ""
    tool: str = ""
    outcome: str = ""
    shown: str = ""
    typed: str = ""

    def to_json(self) -> dict[str, Any]:
        """As plain JSON values, only what is said."""
        return {k: v for k, v in asdict(self).items() if v != getattr(NOTHING, k)}


NOTHING = Details()


def details_from_json(d: Mapping[str, Any]) -> Details:
    """Stored details; an empty document says nothing."""
    stages = tuple((str(what), None if load is None else float(load)) for what, load in d.get("stages", ()))
    return replace(Details(**{k: v for k, v in d.items() if k != "stages"}), stages=stages)


def check(d: Details, p: Problems) -> None:
    """Note in ``p`` whatever is not possible."""
    p.check(
        d.how in HOWS, "details.how", f"{d.how[:20]!r} is no way of reading", "Use one of: " + ", ".join(HOWS) + "."
    )
    p.check(d.ended in ("", HELD, FAILED), "details.ended", "a proof load is held, or fails", "Choose one of the two.")
    p.check(
        d.direction in ("", *DIRECTIONS), "details.direction", "is no direction", "Choose opening, closing, or neither."
    )
    off = d.off_line_mm
    p.check(
        off is None or 0 <= off <= 2000, "details.off_line_mm", "is no possible distance", "Measure from the middle."
    )
    p.check(len(d.stages) <= MOST_STAGES, "details.stages", f"are over {MOST_STAGES}", "Name the main ones.")
    for i, (what, load) in enumerate(d.stages):
        p.check(1 <= len(what.strip()) <= 80, f"details.stages.{i}", "does not say what happened", "Say it in a word.")
        fine = load is None or (math.isfinite(load) and 0 <= load <= 1_000_000)
        p.check(fine, f"details.stages.{i}", "has a load that is not possible", "Check the unit, or leave it out.")
    for name in ("side", "tool", "outcome", "shown", "typed"):
        p.check(len(getattr(d, name)) <= 80, f"details.{name}", "is over 80 characters long", "Shorten it.")


def in_words(d: Details, units: Units) -> list[str]:
    """In a few words each; the stages with their loads in one."""
    said = [HOWS[d.how]] if d.how else []
    said += [f"{d.direction} the corner"] if d.direction else []
    said += [f"pulled {units.text(d.off_line_mm, Dimension.LENGTH)} off its middle"] if d.off_line_mm else []
    said += [f"from the {d.side} side"] if d.side else []
    said += [f"with {d.tool}"] if d.tool else []
    said += [f"its instrument showed {d.shown}"] if d.shown else []
    said += [d.outcome] if d.outcome else []
    loads = [(what, "" if n is None else f" at {units.text(n, Dimension.FORCE)}") for what, n in d.stages]
    return said + [", then ".join(what + at for what, at in loads)] * bool(loads)
