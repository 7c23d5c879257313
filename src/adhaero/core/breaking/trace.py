"""What the whole curve of a pull shows once it is over: marks that can be dragged, and what follows from them.

The straight part is proposed from a fifth to half of the first high of the load (``STRAIGHT``); the load leaves it
where it falls short of the line by more than ``OFF_LINE`` of that high, for good. Along the travel where there is one,
else along the time, which is the same thing only while the rate is steady: ``Figures.by_travel`` says which.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from adhaero.core.breaking.signal import (
    BREAK_SHARE,
    CRACK_NOISES,
    CRACK_SHARE,
    EXACTLY,
    MIN_LOAD_NOISES,
    RELEASED,
    Reading,
)  # fmt: skip
from adhaero.core.breaking.spikes import HOLD, LOOK_S, STEADY_WINDOW_S, spikes, usual_step

Array = NDArray[np.float64]

MARKS: dict[str, str] = {
    "start": "load begins",
    "straight_from": "straight from here",
    "straight_to": "straight up to here",
    "limit": "leaves the straight line",
    "first_drop": "first drop",
    "peak": "peak",
    "parting": "parts for good",
}
"""Marks on a curve, in their usual order -> what they are."""
PEAK = "peak"
STRENGTHS: dict[str, str] = {
    PEAK: "the highest load",
    "first_drop": "the load before the first drop",
    "limit": "the load where the curve leaves its straight part",
}
"""Marks that a batch may take for the strength of a piece -> what that is."""
STRAIGHT = (0.2, 0.5)
OFF_LINE = 0.02
OFF_LINE_NOISES = 4.0
SUDDEN_S = 0.15
"""A load that is let go of takes longer than this to fall; a piece that breaks does not."""
STEADY = 0.03
LEAST_HOLD_S = 5.0
RATE = (0.2, 0.9)
LEAST_NOISE = 0.001
"""Share of the peak that is taken for noise where a curve shows none."""
LOOKED_AT = 6000
PART = 100_000
MOST_DROPS = 20


@dataclass(frozen=True)
class CurvePoint:
    """A place on a curve: s from its first sample, the load there in N, and the travel in mm where it is known."""

    s: float
    load_n: float
    travel_mm: float | None = None


@dataclass(frozen=True)
class Cycle:
    """A loading that was released, and after which the load rose again: the highest load (N) and its time;
    ``residual_mm`` is what did not spring back, where the travel is known.
    """

    s: float
    load_n: float
    residual_mm: float | None = None


@dataclass(frozen=True)
class Figures:
    """What follows from the marks; times and rates to the peak only of a load that rose once.

    ``stiffness`` is the slope of the straight part, N/mm ``by_travel``, else N/s. ``rate_n_s`` is the mean rate from a
    fifth to nine tenths of the peak, ``to_failure_s`` from where the load begins to the peak, ``hold_s`` how long the
    load stood still before it parted (at least 5 s). Energies in J, up to the peak and up to the parting; travels from
    where the load begins.
    """

    stiffness: float | None = None
    by_travel: bool = False
    rate_n_s: float | None = None
    travel_rate_mm_s: float | None = None
    to_failure_s: float | None = None
    hold_s: float | None = None
    energy_j: float | None = None
    energy_parting_j: float | None = None
    travel_mm: float | None = None
    travel_parting_mm: float | None = None


@dataclass(frozen=True)
class Course:
    """A curve as it is understood: ``marks`` by their key, every drop of the load (the load before each), the cycles,
    and the figures. Loads are zero-corrected, N.
    """

    marks: Mapping[str, CurvePoint]
    drops: tuple[CurvePoint, ...] = ()
    cycles: tuple[Cycle, ...] = ()
    figures: Figures = Figures()

    def to_json(self) -> dict[str, Any]:
        """As plain JSON values."""
        return asdict(self)


def course_from_json(d: Mapping[str, Any]) -> Course:
    """A stored course."""
    return Course(
        {k: CurvePoint(**m) for k, m in d["marks"].items()},
        tuple(CurvePoint(**m) for m in d["drops"]),
        tuple(Cycle(**c) for c in d["cycles"]),
        Figures(**d["figures"]),
    )


def course(rows: Array, reading: Reading, *, in_cycles: bool = False) -> Course | None:
    """What rows of (s, N as they came, mm or NaN) show; ``None`` where nothing was loaded, or too little is there.

    ``in_cycles``: loaded and released several times on purpose, so that a release is no drop.
    """
    clean = _Clean.of(rows, reading)
    if not reading.loaded or len(clean.t) < 5:
        return None
    peak = clean.at(reading.peak_s)
    drops, cycles = _falls(clean, reading, in_cycles)
    parting = _parting(clean, reading)
    end = clean.index(drops[0].s) if drops and drops[0].s < peak.s else clean.index(peak.s)
    if cycles:
        end = min(end, clean.index(cycles[0].s))
    marks = {"peak": peak}
    if drops:
        marks["first_drop"] = drops[0]
    if parting is not None:
        marks["parting"] = parting
    marks |= _straight(clean, end)
    return Course(_ordered(marks), drops, cycles, _figures(clean, marks, once=not cycles))


def moved(rows: Array, reading: Reading, found: Course, to: Mapping[str, float]) -> Course:
    """The course with marks moved to other times (s), everything that follows from them worked out anew. A time lies
    between the first sample and the last.
    """
    clean = _Clean.of(rows, reading)
    marks = {**found.marks, **{k: clean.at(s) for k, s in to.items()}}
    return Course(_ordered(marks), found.drops, found.cycles, _figures(clean, marks, once=not found.cycles))


def _ordered(marks: Mapping[str, CurvePoint]) -> dict[str, CurvePoint]:
    return {k: marks[k] for k in MARKS if k in marks}


@dataclass(frozen=True)
class _Clean:
    """A curve without its spikes: time (s), load (N, zero-corrected), travel (mm; empty where it is not known)."""

    t: Array
    load: Array
    travel: Array
    noise: float

    @staticmethod
    def of(rows: Array, reading: Reading) -> _Clean:
        rows = rows[np.isfinite(rows[:, 0]) & np.isfinite(rows[:, 1])]
        noise = max(reading.zero.noise_n, LEAST_NOISE * reading.peak_n)
        kept = rows[~spikes_of(rows[:, 0], rows[:, 1], noise)]
        known = len(kept) > 0 and bool(np.isfinite(kept[:, 2]).all())
        travel = kept[:, 2] if known else np.empty(0)
        return _Clean(kept[:, 0] - rows[0, 0], kept[:, 1] - reading.zero.mean_n, travel, noise)

    def index(self, s: float) -> int:
        """The sample nearest to a time."""
        i = int(np.searchsorted(self.t, s))
        if i == 0:
            return 0
        return i - 1 if i == len(self.t) or s - self.t[i - 1] <= self.t[i] - s else i

    def mark(self, i: int) -> CurvePoint:
        travel = round(float(self.travel[i]), 4) if len(self.travel) else None
        return CurvePoint(round(float(self.t[i]), 4), round(float(self.load[i]), 3), travel)

    def at(self, s: float) -> CurvePoint:
        return self.mark(self.index(s))


def spikes_of(t_s: Array, force_n: Array, noise_n: float) -> NDArray[np.bool_]:
    """Return the spikes of a whole signal, found in parts that fit into memory, each with what stands around it."""
    step = usual_step(t_s)
    beside = max(HOLD, round((LOOK_S + STEADY_WINDOW_S) / step)) if step > 0 else HOLD
    found = np.zeros(len(force_n), dtype=bool)
    for at in range(0, len(force_n), PART):
        low, high = max(0, at - beside), min(len(force_n), at + PART + beside)
        marked = spikes(t_s[low:high], force_n[low:high], noise_n)
        found[at : at + PART] = marked[at - low : at - low + PART]
    return found


def _turns(c: _Clean) -> Iterator[tuple[int, float]]:
    """Every high of the load with the low that follows it, where it fell by more than a crack does."""
    least = MIN_LOAD_NOISES * c.noise
    high = low = -1
    for i in extremes(c.load, LOOKED_AT):
        value = float(c.load[i])
        if high < 0 or (low < 0 and value >= c.load[high]):
            high = int(i)
            continue
        deep = max(CRACK_SHARE * float(c.load[high]), CRACK_NOISES * c.noise)
        if low < 0:
            if c.load[high] > least and c.load[high] - value >= deep * EXACTLY:
                low = int(i)
        elif value < c.load[low]:
            low = int(i)
        elif value - c.load[low] > deep:
            yield high, float(c.load[low])
            high, low = int(i), -1
    if low >= 0:
        yield high, float(c.load[low])


def _falls(c: _Clean, r: Reading, in_cycles: bool) -> tuple[tuple[CurvePoint, ...], tuple[Cycle, ...]]:
    """The drops of the load, and its releases: a fall to next to nothing after which it rose again, slowly where
    nobody said that it is loaded in cycles. What falls at once has broken, or was carried on by another part: a drop.
    """
    drops: list[CurvePoint] = []
    cycles: list[Cycle] = []
    turns = list(_turns(c))
    for n, (high, low) in enumerate(turns):
        released = low < RELEASED * c.load[high]
        if in_cycles and released and n + 1 == len(turns):
            break  # a break or a release: whoever stood there knows, the curve does not
        if released and n + 1 < len(turns) and (in_cycles or fall_s(c.t, c.load, high) > SUDDEN_S):
            cycles.append(Cycle(c.mark(high).s, c.mark(high).load_n, _residual(c, high, turns[n + 1 :])))
        elif r.break_s is None or c.t[high] < r.break_s:
            drops.append(c.mark(high))
    return tuple(drops[:MOST_DROPS]), tuple(cycles)


def fall_s(t_s: Array, load_n: Array, high: int) -> float:
    """Return how long the load took from nine tenths of a high (an index) to the share that counts as released, s."""
    after = load_n[high:]
    low = int(np.argmax(after < RELEASED * load_n[high]))
    if not low:
        return float("inf")
    above = np.flatnonzero(after[:low] >= 0.9 * load_n[high])
    return float(t_s[high + low] - t_s[high + int(above[-1])])


def _residual(c: _Clean, high: int, later: list[tuple[int, float]]) -> float | None:
    """What a release left of the travel: at the same small load before the first loading and after this one."""
    if not len(c.travel):
        return None
    until = later[0][0] if later else len(c.load)
    small = 0.05 * float(c.load[high])
    before = np.flatnonzero(c.load[:high] <= small)
    after = np.flatnonzero(c.load[high:until] <= small)
    if not len(before) or not len(after):
        return None
    first = before[before < int(np.argmax(c.load > small))] if (c.load > small).any() else before
    start = int(first[-1]) if len(first) else int(before[0])
    return round(float(c.travel[high + int(after[0])] - c.travel[start]), 4)


def _parting(c: _Clean, r: Reading) -> CurvePoint | None:
    """The last high before the load fell below half of the peak and stayed there."""
    if r.break_s is None:
        return None
    above = np.flatnonzero((c.t < r.break_s) & (c.load >= BREAK_SHARE * r.peak_n))
    if not len(above):
        return None
    last = int(above[-1])
    from_ = max(0, last - HOLD)
    return c.mark(from_ + int(np.argmax(c.load[from_ : last + 1])))


def _straight(c: _Clean, end: int) -> dict[str, CurvePoint]:
    """Where the load begins, the straight part, and where the load leaves it, on the way up to ``end``."""
    high = float(c.load[end])
    reached = np.flatnonzero(c.load[: end + 1] >= STRAIGHT[1] * high)
    if not len(reached):
        return {}
    to = int(reached[0])
    below = np.flatnonzero(c.load[:to] <= STRAIGHT[0] * high)
    from_ = int(below[-1]) if len(below) else 0
    if to - from_ < 3:
        return {}
    found = {"straight_from": c.mark(from_), "straight_to": c.mark(to)}
    slope, offset = _line(c.t[from_ : to + 1], c.load[from_ : to + 1])
    if slope > 0:
        found["start"] = c.at(min(max(-offset / slope, 0.0), float(c.t[from_])))
    x = c.travel if len(c.travel) else c.t
    slope, offset = _line(x[from_ : to + 1], c.load[from_ : to + 1])
    short = slope * x[to : end + 1] + offset - c.load[to : end + 1]
    on = np.flatnonzero(short <= max(OFF_LINE * high, OFF_LINE_NOISES * c.noise))
    if slope > 0 and len(on):
        found["limit"] = c.mark(min(end, to + int(on[-1])))
    return found


def _line(x: Array, y: Array) -> tuple[float, float]:
    """Slope and offset of the straight line of least squares; 0 and 0 where ``x`` does not move."""
    middle = float(x.mean())
    spread = float(((x - middle) ** 2).sum())
    if spread <= 0:
        return 0.0, 0.0
    slope = float(((x - middle) * y).sum()) / spread
    return slope, float(y.mean()) - slope * middle


def _figures(c: _Clean, marks: Mapping[str, CurvePoint], *, once: bool) -> Figures:
    place = {k: c.index(m.s) for k, m in marks.items()}
    peak, parting = place["peak"], place.get("parting")
    start = place.get("start", 0)
    x = c.travel if len(c.travel) else c.t
    stiffness = None
    if "straight_from" in place and place.get("straight_to", 0) - place["straight_from"] >= 2:
        part = slice(place["straight_from"], place["straight_to"] + 1)
        stiffness = _line(x[part], c.load[part])[0] or None

    def energy(until: int | None) -> float | None:
        if until is None or not len(c.travel) or until <= start:
            return None
        part = slice(start, until + 1)
        return float(np.trapezoid(c.load[part], c.travel[part])) / 1000

    def travelled(until: int | None) -> float | None:
        return float(c.travel[until] - c.travel[start]) if until is not None and len(c.travel) else None

    rate, travel_rate = _rates(c, peak) if once else (None, None)
    seconds = float(c.t[peak] - c.t[start]) if once and "start" in place else None
    return Figures(
        stiffness, len(c.travel) > 0, rate, travel_rate, seconds,
        _hold(c, parting if parting is not None else peak), energy(peak), energy(parting), travelled(peak),
        travelled(parting),
    )  # fmt: skip


def _rates(c: _Clean, peak: int) -> tuple[float | None, float | None]:
    """Mean rate of the load (N/s) and of the travel (mm/s) on the way to the peak."""
    high = float(c.load[peak])
    low = np.flatnonzero(c.load[: peak + 1] <= RATE[0] * high)
    from_ = int(low[-1]) if len(low) else 0
    reached = np.flatnonzero(c.load[from_ : peak + 1] >= RATE[1] * high)
    to = from_ + int(reached[0]) if len(reached) else peak
    seconds = float(c.t[to] - c.t[from_])
    if seconds <= 0:
        return None, None
    travel = float(c.travel[to] - c.travel[from_]) / seconds if len(c.travel) else None
    return float(c.load[to] - c.load[from_]) / seconds, travel


def _hold(c: _Clean, end: int) -> float | None:
    level = float(c.load[end])
    off = np.flatnonzero(np.abs(c.load[: end + 1] - level) > max(STEADY * level, OFF_LINE_NOISES * c.noise))
    held = float(c.t[end] - c.t[int(off[-1]) if len(off) else 0])
    return held if held >= LEAST_HOLD_S else None


def extremes(values: Array, most: int) -> NDArray[np.int64]:
    """Where the lowest and the highest of each stretch lie, in order: at most about ``most`` places."""
    if len(values) <= most:
        return np.arange(len(values))
    step = math.ceil(2 * len(values) / most)
    whole = len(values) // step * step
    stretches = values[:whole].reshape(-1, step)
    first = np.arange(0, whole, step)
    chosen = np.concatenate([first + stretches.argmin(axis=1), first + stretches.argmax(axis=1)])
    if whole < len(values):
        rest = values[whole:]
        chosen = np.concatenate([chosen, [whole + rest.argmin(), whole + rest.argmax()]])
    return np.unique(chosen)


def thin(points: Array, most: int) -> Array:
    """At most about ``most`` of the rows (s, N, and what else there is): of each stretch those with the lowest and the
    highest load, in order, so that no peak is lost.
    """
    thinned: Array = points[extremes(points[:, 1], most)]
    return thinned
