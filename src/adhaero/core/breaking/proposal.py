"""What the signal of a pull suggests as its observation: typed once, for rig, store, screen and record alike."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from adhaero.core.breaking.signal import SATURATED, Gap, Reading, Zero
from adhaero.core.breaking.trace import Course, course_from_json

EXACT, AT_LEAST = "exact", "at_least"


@dataclass(frozen=True)
class Proposal:
    """A reading, and what may be said of the piece by it.

    ``kind`` is exact or at least; ``None`` where nothing pulled at all. ``bound_by`` says why a load is only a bound:
    ``gap`` (the signal was away at or before the break), ``range`` (the rig was at its end), ``held`` (no break seen),
    ``slow`` (so few samples that the peak may lie between two), ``cycles`` (loaded and released on purpose: whether the
    last fall was a break only who stood there knows). ``course`` is what the whole curve shows, once it is over.
    """

    reading: Reading
    kind: str | None
    bound_by: str | None
    course: Course | None = None

    @property
    def zero_n(self) -> float:
        """The force that counts as nothing, N."""
        return self.reading.zero.mean_n

    def to_json(self) -> dict[str, Any]:
        """As plain JSON values."""
        shown = {"course": self.course.to_json()} if self.course is not None else {}
        return {**asdict(self.reading), "kind": self.kind, "bound_by": self.bound_by, **shown}


def propose(reading: Reading | None, capacity_n: float | None, *, in_cycles: bool = False) -> Proposal | None:
    """What a reading suggests; ``None`` for a signal too short to say anything.

    A pull without a break, with a hole in its signal up to the break, or whose raw signal reached the end of the rig's
    range is only a lower bound.
    """
    if reading is None:
        return None
    if not reading.loaded:
        return Proposal(reading, None, None)
    if capacity_n is not None and reading.highest_raw_n >= SATURATED * capacity_n:
        return Proposal(reading, AT_LEAST, "range")
    if reading.gaps:
        return Proposal(reading, AT_LEAST, "gap")
    if in_cycles:
        return Proposal(reading, AT_LEAST, "cycles")
    return Proposal(reading, EXACT, None) if reading.broke else Proposal(reading, AT_LEAST, "held")


def proposal_from_json(document: Mapping[str, Any]) -> Proposal:
    """A stored proposal, also one written before gaps were known."""
    d = dict(document)
    bound = d.get("bound_by") or ("range" if d.get("saturated") else None)
    kind = d["kind"]
    reading = Reading(
        zero=Zero(**d["zero"]),
        peak_n=d["peak_n"],
        peak_s=d["peak_s"],
        broke=d["broke"],
        break_s=d["break_s"],
        first_crack_n=d["first_crack_n"],
        spikes=d["spikes"],
        samples=d["samples"],
        seconds=d["seconds"],
        gaps=tuple(Gap(g["from_s"], g["to_s"]) for g in d.get("gaps", ())),
        highest_raw_n=d.get("highest_raw_n", d["peak_n"] + d["zero"]["mean_n"]),
        loaded=d.get("loaded", True),
    )
    shown = course_from_json(d["course"]) if d.get("course") else None
    return Proposal(reading, kind, bound or ("held" if kind == AT_LEAST else None), shown)
