"""What the signal of a pull suggests as its observation: typed once, for rig, store, screen and record alike."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from adhaero.core.breaking.signal import SATURATED, Gap, Reading, Zero
from adhaero.core.breaking.soundness import BELIEVED, RESIDUE, TOLERANCE, Rise, soundness
from adhaero.core.breaking.trace import Course, course_from_json

Array = NDArray[np.float64]

EXACT, BETWEEN, AT_LEAST = "exact", "between", "at_least"
BOUNDS: dict[str, str] = {
    "gap": "the signal was away at the break",
    "spike": "the signal jumped at the peak as no load can",
    "stuck": "the reading stood still at the peak",
    "dropout": "the sensor dropped out at the peak",
    "slow": "the rig sends so few samples that the peak may lie between two of them",
    "drift": "the zero was off after the break, so it may have wandered",
    "zero": "the load was moving when its zero was taken",
    "range": "the rig was at the end of its range",
    "held": "no break was seen",
    "cycles": "it was loaded in cycles, and the curve doesn't say whether the last fall was a break",
}
"""Why a load is not exact -> that in words. All but the last two come from the signal itself."""
UNSURE = frozenset(BOUNDS) - {"held", "cycles"}


@dataclass(frozen=True)
class Proposal:
    """A reading, and what may be said of the piece by it.

    ``kind`` is exact, between or at least; ``None`` where nothing pulled at all. ``bound_by`` is a key of BOUNDS: why a
    load is not exact. ``low_n`` and ``high_n`` are the limits of the load (N; the latter ``None`` where nobody knows),
    ``uncertainty_n`` how far off an exact one may be. ``loadings`` are the highs of a load that fell to next to nothing
    at once and rose again: which of them counts only who stood there knows. ``course`` is what the whole curve shows,
    once it is over.
    """

    reading: Reading
    kind: str | None
    bound_by: str | None
    course: Course | None = None
    low_n: float | None = None
    high_n: float | None = None
    uncertainty_n: float | None = None
    loadings: tuple[Rise, ...] = ()

    @property
    def zero_n(self) -> float:
        """The force that counts as nothing, N."""
        return self.reading.zero.mean_n

    def to_json(self) -> dict[str, Any]:
        """As plain JSON values."""
        own = asdict(self)
        return {**own.pop("reading"), **own}


def propose(reading: Reading | None, capacity_n: float | None, *, in_cycles: bool = False) -> Proposal | None:
    """Return what a reading suggests, before the whole curve is looked at; ``None`` for a signal that is too short.

    A pull without a break, one that was cut off or has a hole in its signal, or whose raw signal reached the end of the
    rig's range is only a lower bound.
    """
    if reading is None:
        return None
    if not reading.loaded:
        return Proposal(reading, None, None)
    bound = None
    if capacity_n is not None and reading.highest_raw_n >= SATURATED * capacity_n:
        bound = "range"
    elif reading.gaps:
        bound = "gap"
    elif in_cycles:
        bound = "cycles"
    elif not reading.broke:
        bound = "held"
    peak = reading.peak_n
    return Proposal(reading, AT_LEAST if bound else EXACT, bound, low_n=peak, high_n=None if bound else peak)


def judged(p: Proposal, rows: Array, step_n: float, capacity_n: float | None, tolerance: float = TOLERANCE) -> Proposal:
    """Judge a proposal by its whole curve. This is the only place that calls a load exact.

    ``rows`` are (s, N as they came, mm) of the whole pull, ``step_n`` and ``capacity_n`` the rig's; ``tolerance`` is
    the share of the peak that may have gone unseen.
    """
    reading, sound = soundness(rows, p.reading, step_n)
    p = replace(propose(reading, capacity_n, in_cycles=p.bound_by == "cycles") or p, course=p.course)
    if p.kind is None:
        return p
    residue = RESIDUE * reading.peak_n if sound.zero_off_n else 0.0
    open_n = sound.noise_n + sound.unseen_n + abs(sound.zero_off_n) + residue
    p = replace(p, uncertainty_n=open_n if math.isfinite(open_n) else None,
                loadings=sound.loadings)  # fmt: skip
    peak, left = reading.peak_n, sound.zero_off_n
    # If the zero drifted up, the peak includes the drift; if it drifted down, the true peak is higher.
    low = peak - max(0.0, left)
    if not reading.zero.steady:
        # The load that was on the rig when the zero was taken may or may not be part of the peak.
        begun = max(0.0, float(rows[0, 1]) - reading.zero.mean_n)
        return replace(p, kind=AT_LEAST, bound_by="zero", low_n=max(0.0, min(low, peak - begun)), high_n=None)
    if p.kind == AT_LEAST:
        stuck = tuple(g for g in sound.blind if g.why == "stuck")
        bound = "stuck" if stuck and p.bound_by == "held" else p.bound_by
        return replace(p, reading=replace(reading, gaps=stuck + reading.gaps), bound_by=bound, low_n=low)
    if sound.is_exact(peak, tolerance):
        return replace(p, reading=replace(reading, gaps=()))
    lost = sound.unseen_n > tolerance * peak
    reason = sound.blind[0].why if lost and sound.blind else "drift"
    shown = replace(reading, gaps=sound.blind if lost else ())
    if sound.unseen_n > BELIEVED * peak:
        return replace(p, reading=shown, kind=AT_LEAST, bound_by=reason, low_n=low, high_n=None)
    high = peak + sound.unseen_n + (residue - left if left < 0 else 0.0)
    return replace(p, reading=shown, kind=BETWEEN, bound_by=reason, low_n=low, high_n=high)


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
        gaps=tuple(Gap(g["from_s"], g["to_s"], g.get("why", "gap")) for g in d.get("gaps", ())),
        highest_raw_n=d.get("highest_raw_n", d["peak_n"] + d["zero"]["mean_n"]),
        loaded=d.get("loaded", True),
    )
    shown = course_from_json(d["course"]) if d.get("course") else None
    return Proposal(
        reading,
        kind,
        bound or ("held" if kind == AT_LEAST else None),
        shown,
        d.get("low_n", reading.peak_n),
        d.get("high_n", reading.peak_n if kind == EXACT else None),
        d.get("uncertainty_n"),
        tuple(Rise(**x) for x in d.get("loadings", ())),
    )
