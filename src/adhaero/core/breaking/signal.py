"""From a raw force signal, as it comes in, to zero, first crack, peak, gaps and break.

Spikes are no peak: a sample is a spike if it stands off what came just before and just after (medians of three), on
the same side, by more than ``SPIKE_NOISES`` times the noise, while before and after agree with each other. Spikes are
passed over when looking for the peak, never removed from the raw signal. At a brittle break the sample before the fall
has a low side only after it, so the true peak is not taken for a spike.

``SignalTracker`` looks at each sample once (and again at the last few, until those after them are known), so that a
pull of half an hour costs no more for a new sample than one of a second, and its signal need not stay in memory.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

QUIET_S = 0.5
SPIKE_NOISES = 6.0
BREAK_SHARE = 0.5
CRACK_SHARE = 0.05
CRACK_NOISES = 8.0
MIN_LOAD_NOISES = 12.0
STEADY_SAMPLES = 3
GAP_S = 0.1
GAP_SAMPLES = 5
"""A hole in the signal is longer than both: then a peak may have come and gone unseen."""
SATURATED = 0.995
"""Share of the capacity from which on a rig is at its end: what lies beyond it is not seen."""
CONTEXT = 64
HOLD = 8
"""Samples before a sample, and after it, that decide whether it is a spike."""
MOST_GAPS = 20


@dataclass(frozen=True)
class Zero:
    """The quiet start: its mean force, its noise (robust SD), and the number of samples behind them."""

    mean_n: float
    noise_n: float
    samples: int


@dataclass(frozen=True)
class Gap:
    """A hole in the signal: the last sample before it and the first one after it, s; ``None``: nothing came after."""

    from_s: float
    to_s: float | None


@dataclass(frozen=True)
class Reading:
    """What a signal shows. Loads are zero-corrected, in N; times in s from the first sample.

    ``broke`` is whether the load fell below half of the peak and stayed there. ``first_crack_n`` is the load before
    the first drop of more than 5 % of itself that was overcome later, else ``None``. ``gaps`` are those under load, up
    to the break: with one of them the true peak may be higher than the one seen. ``loaded`` is whether there was a
    load beyond the noise at all.
    """

    zero: Zero
    peak_n: float
    peak_s: float
    broke: bool
    break_s: float | None
    first_crack_n: float | None
    spikes: int
    samples: int
    seconds: float
    gaps: tuple[Gap, ...] = ()
    highest_raw_n: float = 0.0
    loaded: bool = True


def find_zero(t_s: Array, force_n: Array) -> Zero:
    """Zero from the first half second (or at least three samples)."""
    quiet = force_n[: max(3, int(np.searchsorted(t_s, t_s[0] + QUIET_S)))]
    mean = float(np.median(quiet))
    spread = 1.4826 * float(np.median(np.abs(quiet - mean)))
    return Zero(mean, spread, len(quiet))


def spikes(force_n: Array, noise_n: float, *, coarse: bool = False) -> NDArray[np.bool_]:
    """Which samples are spikes of one or two samples (see the module).

    ``coarse``: sampled so slowly that the load climbs by more than its noise from one sample to the next.

    Looked for three times over, since a spike beside another one, or beside the break, shows only when that is gone.
    """
    found = np.zeros(len(force_n), dtype=bool)
    edge = SPIKE_NOISES * max(noise_n, 1e-9)
    for _ in range(3):
        rest = np.flatnonzero(~found)
        if len(rest) < 8:
            break
        fresh = _spikes_once(force_n[rest], edge, coarse)
        if not fresh.any():
            break
        found[rest[fresh]] = True
    return _without_dips(force_n, found)


def _without_dips(force: Array, found: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Three samples in a row below what stands on either side are no spike, but a crack that closed again quickly."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], found, [False]]).astype(int)))
    for start, end in edges.reshape(-1, 2):
        inside = start > 0 and end < len(force)
        if end - start > 2 and inside and force[start:end].max() < min(force[start - 1], force[end]):
            found[start:end] = False
    return found


def _spikes_once(force: Array, edge: float, coarse: bool) -> NDArray[np.bool_]:
    n = len(force)
    # Before the first sample the signal is mirrored; after the last it stands, so that the last one is never a spike.
    padded = np.concatenate([force[4:0:-1], force, np.repeat(force[-1], 3)])
    steps = np.diff(padded)
    # A sample lies at 4 and on: the three before it begin at 1, the three after it at 5.
    before, after = slice(1, 1 + n), slice(5, 5 + n)
    middle, top = _median_of_three(padded), np.maximum(np.maximum(padded[:-2], padded[1:-1]), padded[2:])
    left, right = middle[before], middle[after]
    off_left, off_right = force - left, force - right
    stands_off = np.minimum(np.abs(off_left), np.abs(off_right))
    between_alike = np.abs(right - left) < 0.5 * stands_off
    climbs: Array | float = 0.0
    if coarse:
        # Each step of the rise stands off: what it climbs in two samples is no spike. The smaller of two steps on
        # either side is the rise, a larger one may be another spike.
        smaller = np.minimum(np.abs(steps[:-1]), np.abs(steps[1:]))
        climbs = 2 * np.maximum(smaller[before], smaller[after])
    spike = (np.sign(off_left) == np.sign(off_right)) & (stands_off > edge + climbs) & between_alike
    # Beside a break left and right are not alike; there a spike still jumps beyond what the slope explains and is
    # above all that follows, while the true peak only continues the rise.
    slope = np.maximum(0.0, _median_of_three(steps)[:n])
    jumps = force - top[before] > edge + 2 * slope
    return np.asarray(spike | (jumps & (force - top[after] > edge)))


def _median_of_three(row: Array) -> Array:
    """The median of each three neighbours; a general median takes ten times as long, at a thousand lines a second."""
    a, b, c = row[:-2], row[1:-1], row[2:]
    return np.asarray(np.maximum(np.minimum(a, b), np.minimum(np.maximum(a, b), c)))


@dataclass(frozen=True)
class _Course:
    """The pull up to a sample: what later samples can still change."""

    peak_n: float = -np.inf
    peak_s: float = 0.0
    drop_n: float | None = None
    crack_n: float | None = None
    low_from_s: float | None = None
    lows: int = 0
    last: tuple[float, float] = (0.0, 0.0)
    last_s: float | None = None
    loaded_s: float | None = None
    spikes: int = 0


class SignalTracker:
    """Looks at a signal while it comes in.

    ``noise_floor_n`` is the rig's resolution, for a quiet start that shows no noise at all; a signal that somebody
    zeroed brings its ``zero`` along, and needs no quiet start; ``coarse`` as for ``spikes``.
    """

    def __init__(self, noise_floor_n: float = 0.0, zero: Zero | None = None, *, coarse: bool = False) -> None:
        self._floor_n = noise_floor_n
        self._coarse = coarse
        self._zero = zero
        self._start_s: float | None = None
        self._end_s = 0.0
        self._count = 0
        self._gaps: list[Gap] = []
        self._step_s = 0.0
        # Samples before those that are open, and the open ones: not yet judged for good.
        self._before: Array = np.empty((0, 2))
        self._open: Array = np.empty((0, 2))
        self._sure, self._now = _Course(), _Course()

    def feed(self, t_s: Sequence[float] | Array, force_n: Sequence[float] | Array) -> None:
        """Take further samples, in time order. Those that are not finite are passed over."""
        t, f = np.asarray(t_s, float), np.asarray(force_n, float)
        good = np.isfinite(t) & np.isfinite(f)
        t, f = t[good], f[good]
        if not len(t):
            return
        if self._start_s is None:
            self._start_s = float(t[0])
        self._find_gaps(t)
        self._end_s = float(t[-1])
        self._count += len(t)
        self._open = np.concatenate([self._open, np.column_stack([t, f])])
        if self._zero is None and self._end_s - self._start_s < QUIET_S:
            return
        if self._zero is None:
            self._zero = find_zero(self._open[:, 0], self._open[:, 1])
        self._judge(self._zero)

    def _find_gaps(self, t: Array) -> None:
        start = self._start_s or 0.0
        steps = np.diff(t, prepend=self._end_s) if self._count else np.diff(t)
        if not len(steps):
            return
        usual = float(np.median(steps))
        # The usual step is learnt slowly: a hole must not make itself usual.
        self._step_s = 0.9 * self._step_s + 0.1 * min(usual, 3 * self._step_s) if self._step_s else usual
        last = np.concatenate([[self._end_s], t[:-1]]) if self._count else t[:-1]
        for i in np.flatnonzero(steps > max(GAP_S, GAP_SAMPLES * self._step_s))[:MOST_GAPS]:
            self._gaps = [*self._gaps[: MOST_GAPS - 1], Gap(float(last[i]) - start, float(last[i] + steps[i]) - start)]

    def _judge(self, zero: Zero) -> None:
        """Judge the open samples; those with enough after them for good, the last ones for now."""
        noise = max(zero.noise_n, self._floor_n)
        window = np.concatenate([self._before, self._open])
        marked = spikes(window[:, 1], noise, coarse=self._coarse)[len(self._before) :]
        surely = max(0, len(self._open) - HOLD)
        sure, rest = self._open[:surely], self._open[surely:]
        self._sure = _went(self._sure, sure, marked[:surely], zero, noise, last=False)
        self._now = _went(self._sure, rest, marked[surely:], zero, noise, last=True)
        self._before = np.concatenate([self._before, sure])[-CONTEXT:]
        self._open = rest

    def broke(self) -> float | None:
        """When it broke, s from the first sample; ``None`` as long as it has not."""
        return _break_s(self._now, self._zero, self._floor_n, self._start_s)

    @property
    def peak_n(self) -> float:
        """The highest load so far, zero-corrected; 0 before there is one."""
        return max(0.0, self._now.peak_n) if np.isfinite(self._now.peak_n) else 0.0

    @property
    def under_load_s(self) -> float | None:
        """For how long there has been a load beyond the noise; ``None`` before there is one."""
        begun = self._now.loaded_s
        return None if begun is None else self._end_s - begun

    @property
    def samples(self) -> int:
        """How many samples came so far."""
        return self._count

    @property
    def end_s(self) -> float:
        """When the last sample came, s from the first."""
        return self._end_s - (self._start_s or 0.0)

    def reading(self, *, ended_by_silence: bool = False) -> Reading | None:
        """What the signal shows so far; ``None`` with fewer than five samples.

        ``ended_by_silence``: the signal did not end, it was cut off.
        """
        if self._count < 5:
            return None
        if self._zero is None:
            self._zero = find_zero(self._open[:, 0], self._open[:, 1])
            self._judge(self._zero)
        now, start = self._now, self._start_s or 0.0
        broke = self.broke()
        gaps = [*self._gaps, *([Gap(self.end_s, None)] if ended_by_silence and broke is None else [])]
        return Reading(
            zero=self._zero,
            peak_n=now.peak_n,
            peak_s=now.peak_s - start,
            broke=broke is not None,
            break_s=broke,
            first_crack_n=now.crack_n,
            spikes=now.spikes,
            samples=self._count,
            seconds=self.end_s,
            gaps=tuple(self._under_load(gaps, broke)),
            highest_raw_n=now.peak_n + self._zero.mean_n,
            loaded=now.loaded_s is not None,
        )

    def _under_load(self, gaps: list[Gap], broke: float | None) -> Iterator[Gap]:
        """The gaps that began before the break and ended after the load had begun."""
        begun = self._now.loaded_s
        for g in gaps:
            loaded = begun is not None and (g.to_s is None or g.to_s > begun - (self._start_s or 0.0) - self._step_s)
            if loaded and (broke is None or g.from_s < broke):
                yield g


def _went(c: _Course, samples: Array, marked: NDArray[np.bool_], zero: Zero, noise: float, *, last: bool) -> _Course:
    """The course after these samples. ``last``: nothing comes after them yet, so the very last is not the peak."""
    hit = int(marked.sum())
    kept = samples[~marked]
    if not len(kept):
        return replace(c, spikes=c.spikes + hit)
    t, load = kept[:, 0], kept[:, 1] - zero.mean_n
    c = _peak(c, t[:-1] if last else t, load[:-1] if last else load, noise)
    return _lows(replace(c, spikes=c.spikes + hit), t, load, last=last)


def _peak(c: _Course, t: Array, load: Array, noise: float) -> _Course:
    if not len(load):
        return c
    highest = np.maximum.accumulate(np.concatenate([[c.peak_n], load]))[1:]
    drop, crack = c.drop_n, c.crack_n
    if crack is None:
        if drop is None:
            deep = np.maximum(CRACK_SHARE * highest, CRACK_NOISES * noise)
            dropped = (highest - load > deep) & (highest > MIN_LOAD_NOISES * noise)
            drop = float(highest[int(np.argmax(dropped))]) if dropped.any() else None
        if drop is not None and highest[-1] > drop:
            crack = drop
    begun = highest > MIN_LOAD_NOISES * noise
    top = int(np.argmax(load))
    higher = bool(load[top] > c.peak_n)
    return replace(
        c,
        peak_n=float(load[top]) if higher else c.peak_n,
        peak_s=float(t[top]) if higher else c.peak_s,
        drop_n=drop,
        crack_n=crack,
        loaded_s=c.loaded_s if c.loaded_s is not None or not begun.any() else float(t[int(np.argmax(begun))]),
    )


def _lows(c: _Course, t: Array, load: Array, *, last: bool) -> _Course:
    """For how long the load has been below half of the peak by now."""
    # A spike among the last samples cannot be told by what follows it: a median of three steps over it. For that each
    # sample waits for the next; the very last one, with nothing after it yet, is mirrored.
    before = [c.last[0], c.last[1]] if c.last_s is not None else [load[0], load[0]]
    mirrored = [load[-2] if len(load) > 1 else c.last[1]] if last else []
    row = np.concatenate([before, load, mirrored])
    steady = _median_of_three(row)
    at = np.concatenate([[t[0] if c.last_s is None else c.last_s], t])[: len(steady)]
    low = (steady < BREAK_SHARE * c.peak_n) & (at > c.peak_s)
    since, lows = (c.low_from_s, c.lows) if c.peak_s < at[0] else (None, 0)
    if low.all():
        since, lows = since if lows else float(at[0]), lows + len(low)
    else:
        above = int(np.flatnonzero(~low)[-1])
        lows = len(low) - 1 - above
        since = float(at[above + 1]) if lows else None
    return replace(c, low_from_s=since, lows=lows, last=(float(row[len(steady)]), float(load[-1])), last_s=float(t[-1]))


def _break_s(c: _Course, zero: Zero | None, floor: float, start: float | None) -> float | None:
    if zero is None or c.low_from_s is None or c.lows < STEADY_SAMPLES:
        return None
    if c.peak_n < MIN_LOAD_NOISES * max(zero.noise_n, floor):
        return None
    return c.low_from_s - (start or 0.0)


def read_signal(
    t_s: Sequence[float] | Array, force_n: Sequence[float] | Array, *, noise_floor_n: float = 0.0
) -> Reading | None:
    """The reading of a whole signal; ``None`` with fewer than five samples."""
    tracker = SignalTracker(noise_floor_n)
    tracker.feed(t_s, force_n)
    return tracker.reading()
