"""How much of a pull was not seen, and so how exact its peak is.

A peak is exact only if nothing higher can have come and gone unseen. Between each two good samples the load may have
risen by as much as it rose just before: ``slope x time``. Good samples are those that are no spike, no reading that
stood still, and no drop-out of the sensor; so a lost line, a slow rig, a stuck reading and a spike at the peak are all
one thing: a stretch that was not seen, with a reason (``signal.BLIND``). A zero that wandered is the other part.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from adhaero.core.breaking.signal import (
    BREAK_SHARE,
    MIN_LOAD_NOISES,
    MOST_GAPS,
    RELEASED,
    Gap,
    Reading,
    SignalTracker,
    Zero,
)
from adhaero.core.breaking.spikes import usual_step
from adhaero.core.breaking.trace import SUDDEN_S, fall_s, spikes_of

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

TOLERANCE = 0.01
"""Share of the peak that may have gone unseen with a reading that is called exact."""
SLOPE_S = (0.5, 0.2)
"""How far back the slope before a sample is fitted, s; the steeper of the two fits counts."""
SLOPE_MARGIN = 1.25
BELIEVED = 0.1
"""A load that may have risen unseen by more than this share has no upper bound that can be relied on."""
CHANCE = 1e-7
"""If the rig's own noise makes a run of equal readings less likely than this, the reading is stuck."""
STILL_S = 0.15
STILL_STEPS = 5.0
LEAST_ROWS = 5
ZERO_TOLERANCE = 1.25
"""A load left after the break may come from the zero or from the piece. Up to this multiple of the tolerance the peak
still counts as exact, and the uncertainty includes what is left."""
RESIDUE = 0.005
"""A broken piece may still carry up to this share of its peak."""
LEAST_SHARE = 0.05
"""Below this share of the peak the piece counts as not loaded yet, and the signal is not checked."""
DROPOUT_S = 1.2
BACK_S = 0.03
"""A load that comes back within this time was never really gone: nobody can load a piece that quickly."""
LOW_S = 0.1
NOISES = 4.0


@dataclass(frozen=True)
class Rise:
    """One of several peaks in a pull: its time, s, and its load, N."""

    s: float
    load_n: float


@dataclass(frozen=True)
class Soundness:
    """What of a pull is known. Loads in N, zero-corrected.

    ``unseen_n`` is how much higher than the peak seen the load may have been (infinite: nobody knows), ``zero_off_n``
    how far the zero may have wandered, ``noise_n`` what step and noise leave open. ``blind`` are the stretches that
    were not seen and matter, ``loadings`` the highs of a load that fell at once to next to nothing and rose again.
    """

    unseen_n: float = 0.0
    zero_off_n: float = 0.0
    noise_n: float = 0.0
    blind: tuple[Gap, ...] = ()
    loadings: tuple[Rise, ...] = ()

    def is_exact(self, peak_n: float, tolerance: float = TOLERANCE) -> bool:
        """Return whether what was not seen is at most this share of the peak."""
        return self.unseen_n <= tolerance * peak_n and abs(self.zero_off_n) <= ZERO_TOLERANCE * tolerance * peak_n


def soundness(rows: Array, reading: Reading, step_n: float) -> tuple[Reading, Soundness]:
    """Return what a pull shows as a whole, and how sound that is.

    ``rows`` are (s, N as they came, ...) of the whole pull, ``reading`` what the signal showed while it came in,
    ``step_n`` the rig's resolution.
    """
    rows = rows[np.isfinite(rows[:, 0]) & np.isfinite(rows[:, 1])]
    if not reading.loaded or len(rows) < LEAST_ROWS:
        return reading, Soundness()
    t, load = rows[:, 0] - rows[0, 0], rows[:, 1] - reading.zero.mean_n
    noise = max(reading.zero.noise_n, step_n / math.sqrt(12))
    why = np.full(len(t), "", dtype="U8")
    why[spikes_of(t, rows[:, 1], max(reading.zero.noise_n, step_n))] = "spike"
    sound = np.flatnonzero(why == "")
    why[sound[_dropouts(t[sound], load[sound], reading.peak_n)]] = "dropout"
    for first, end in _still(t, load, reading, step_n):
        why[first + 1 : end] = "stuck"
    good = np.flatnonzero(why == "")
    if len(good) < LEAST_ROWS:
        return reading, Soundness(unseen_n=math.inf, blind=(Gap(0.0, None, "stuck"),))
    reading = _anew(np.column_stack([t, rows[:, 1]])[good], reading, step_n)
    unseen, blind = _blind(t, load, why, good, reading, noise)
    return reading, Soundness(
        unseen,
        _zero_off(t[good], load[good], reading, noise),
        step_n / 2 + NOISES * reading.zero.noise_n,
        blind,
        _loadings(t[good], load[good], reading),
    )


def _anew(good: Array, seen: Reading, step_n: float) -> Reading:
    """Read the pull again from its good samples alone; while it was recorded, the faults could not all be known."""
    tracker = SignalTracker(step_n, seen.zero, start_s=0.0)
    tracker.feed(good[:, 0], good[:, 1])
    found = tracker.reading()
    if found is None:
        return seen
    never = tuple(g for g in seen.gaps if g.to_s is None)
    return replace(found, spikes=seen.spikes, samples=seen.samples, seconds=seen.seconds, gaps=never)


def _blind(
    t: Array, load: Array, why: NDArray[np.str_], good: NDArray[np.int64], r: Reading, noise: float
) -> tuple[float, tuple[Gap, ...]]:
    """Return how far the load may have risen above the peak between two good samples (N), and where."""
    usual = usual_step(t)
    good_t, good_load = t[good], load[good]
    waits = np.diff(good_t)
    end = r.break_s if r.break_s is not None else math.inf
    # What a load may have reached at the steepest rise of all: only where that is above the peak the rise is fitted.
    most = good_load[:-1] + SLOPE_MARGIN * _steepest(good_t, good_load) * waits - r.peak_n
    top = min(int(np.searchsorted(good_t, r.peak_s - 1e-9)), len(waits) - 1)
    able = (good_load[:-1] > LEAST_SHARE * r.peak_n) & (good_t[:-1] <= end) & (most > NOISES * noise)
    unseen, found = 0.0, []
    for i in sorted({top, *np.flatnonzero(able).tolist()}):
        rise = SLOPE_MARGIN * slope_before(good_t, good_load, i, noise) * float(waits[i])
        above = float(good_load[i]) + rise - r.peak_n
        if above > (0 if i == top else NOISES * noise):
            between = why[good[i] + 1 : good[i + 1]]
            reason = str(between[0]) if len(between) else "gap" if waits[i] > 1.5 * usual else "slow"
            unseen = max(unseen, above)
            found.append((above, Gap(round(float(good_t[i]), 4), round(float(good_t[i + 1]), 4), reason)))
    tail = why[good[-1] + 1 :]
    if (tail == "stuck").any() and t[-1] - good_t[-1] > STILL_S:
        # The reading never came back: nobody knows what the load did.
        unseen = math.inf
        found.append((unseen, Gap(round(float(good_t[-1]), 4), None, "stuck")))
    found.sort(key=lambda x: -x[0])
    return unseen, tuple(g for _, g in found[:MOST_GAPS])


def _steepest(t: Array, load: Array) -> float:
    """Return the steepest rise over a tenth of a second, or over two samples at a slow rate, N/s."""
    m = max(2, round(0.1 / max(usual_step(t), 1e-6)))
    if len(load) <= m:
        return 0.0
    return float(max(0.0, ((load[m:] - load[:-m]) / np.maximum(t[m:] - t[:-m], 1e-9)).max()))


def slope_before(t: Array, load: Array, i: int, noise: float) -> float:
    """Return how quickly the load rises up to sample ``i``, N/s: the steeper one of two fits, at least 0."""
    steepest = 0.0
    for seconds in SLOPE_S:
        first = int(np.searchsorted(t, t[i] - seconds - 1e-9))
        if i - first < 2:
            first = max(0, i - 2)
        x, y = t[first : i + 1] - t[i], load[first : i + 1]
        spread = float(((x - x.mean()) ** 2).sum())
        if len(x) < 2 or spread <= 0:
            continue
        slope = float(((x - x.mean()) * y).sum()) / spread
        if seconds == SLOPE_S[0] or slope > 3 * noise / math.sqrt(spread):
            steepest = max(steepest, slope)
    return steepest


def _dropouts(t: Array, load: Array, peak: float) -> Mask:
    """Return the samples during which the sensor dropped out: the load vanished and was back at once."""
    found = np.zeros(len(t), dtype=bool)
    high = np.maximum.accumulate(load)
    low = (load < BREAK_SHARE * high) & (high > LEAST_SHARE * peak)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], low, [False]]).astype(int)))
    back = max(BACK_S, 1.01 * usual_step(t))
    for start, end in edges.reshape(-1, 2):
        if start == 0 or end >= len(t) or t[end] - t[start - 1] > DROPOUT_S:
            continue
        before = float(load[start - 1])
        deepest = start + int(load[start:end].argmin())
        last_low = np.flatnonzero(load[deepest : end + 1] < load[deepest] + 0.2 * (load[end] - load[deepest]))[-1]
        if load[end] > 0.8 * BREAK_SHARE * before and t[end] - t[deepest + last_low] <= back:
            found[start:end] = True
    return found


def _still(t: Array, load: Array, r: Reading, step_n: float) -> list[tuple[int, int]]:
    """Return the runs (first, end) of equal readings that are too long for a rising load or for the rig's noise."""
    changes = np.flatnonzero(np.diff(load) != 0) + 1
    starts, ends = np.concatenate([[0], changes]), np.concatenate([changes, [len(load)]])
    begun = np.flatnonzero(load > max(LEAST_SHARE * r.peak_n, MIN_LOAD_NOISES * r.zero.noise_n))
    if not len(begun):
        return []
    steepest, spacing = _steepest(t, load), usual_step(t)
    least = next((n for n in range(3, 400) if _unlikely(n, steepest * spacing, r.zero, step_n)), len(load))
    lasts = t[ends - 1] - t[starts]
    long = (ends - starts >= 3) & (ends > begun[0]) & ((ends - starts >= least) | (lasts > STILL_S))
    found = []
    for first, end in zip(starts[long].tolist(), ends[long].tolist(), strict=True):
        slope = slope_before(t, load, max(0, first - 1), r.zero.noise_n)
        loaded = load[first] > LEAST_SHARE * r.peak_n
        stopped = loaded and _stopped(float(t[end - 1] - t[first]), slope, r.zero, step_n)
        if stopped or _unlikely(end - first, slope * spacing if loaded else 0.0, r.zero, step_n):
            found.append((first, end))
    return found


def _unlikely(n: int, rise: float, zero: Zero, step_n: float) -> bool:
    """Return whether the noise makes so many equal readings in a row unlikely. A rig without noise can't tell."""
    if zero.noise_n < 0.3 * step_n or zero.noise_n <= 0:
        return False
    between = 2 * zero.noise_n**2
    same = step_n / math.sqrt(2 * math.pi * between) * math.exp(-min(600.0, rise**2 / (2 * between)))
    return (n - 1) * math.log(min(0.9, max(same, 1e-6))) < math.log(CHANCE)


def _stopped(seconds: float, slope: float, zero: Zero, step_n: float) -> bool:
    """Return whether a rising load stopped on one step for longer than its slope explains."""
    rising = slope * SLOPE_S[0] > 3 * max(step_n, zero.noise_n)
    return rising and seconds > STILL_S + STILL_STEPS * step_n / slope


def _zero_off(t: Array, load: Array, r: Reading, noise: float) -> float:
    """Return the load left after the break, N; 0 if it is within the noise or clearly carried by the piece. A zero that
    drifted and a piece that still carries a little look the same.
    """
    if r.break_s is None:
        return 0.0
    rest = load[t >= max(r.break_s, t[-1] - 0.3)]
    left = float(np.median(rest)) if len(rest) > 1 else 0.0
    return 0.0 if abs(left) <= NOISES * noise or left > RELEASED * r.peak_n else left


def _loadings(t: Array, load: Array, r: Reading) -> tuple[Rise, ...]:
    """Return the peaks of a load that dropped suddenly to almost nothing, stayed there briefly and rose again."""
    low = max(RELEASED * r.peak_n, MIN_LOAD_NOISES * r.zero.noise_n)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], load >= low, [False]]).astype(int))).reshape(-1, 2)
    parts: list[list[int]] = []
    for start, end in edges.tolist():
        if parts and t[start] - t[parts[-1][1] - 1] < LOW_S:
            parts[-1][1] = end
        else:
            parts.append([start, end])
    found = []
    for start, end in parts:
        high = start + int(load[start:end].argmax())
        fell = end == len(t) or (start, end) == tuple(parts[-1]) or fall_s(t, load, high) <= SUDDEN_S
        if load[high] > 2 * low and fell:
            found.append(Rise(round(float(t[high]), 4), round(float(load[high]), 3)))
    return tuple(found) if len(found) > 1 else ()
