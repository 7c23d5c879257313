"""From a raw force signal, as it comes in, to zero, first crack, peak, gaps and break.

Spikes (``spikes.py``) are passed over when looking for the peak, never removed from the raw signal. At a brittle break
the sample before the fall has a low side only after it, so the true peak is not taken for a spike.

``SignalTracker`` looks at each sample once (and again at the last few, until those after them are known), so that a
pull of half an hour costs no more for a new sample than one of a second, and its signal need not stay in memory.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from adhaero.core.breaking.quiet import QUIET_S, is_quiet
from adhaero.core.breaking.spikes import HOLD, LOOK_S, STEADY_WINDOW_S, median_of_three, spikes

Array = NDArray[np.float64]

BREAK_SHARE = 0.5
CRACK_SHARE = 0.05
RELEASED = 0.2
"""A load that falls below this share and rises again was released, or the piece broke; it is not a crack."""
CRACK_NOISES = 8.0
MIN_LOAD_NOISES = 12.0
RISE_S, RISE_NOISES, RISE_SHARE = 0.2, 6.0, 0.005
"""After the break: time (s) over which the load is averaged, and how far it must rise to count as loading again."""
EXACTLY = 1 - 1e-9
"""Tolerance for rounding: a drop of exactly the stated share still counts."""
STEADY_SAMPLES = 3
SETTLE_S = 1.0
"""How long the load must stay down before a pull is over, s. A sensor that drops out briefly is back by then."""
GAP_S = 0.1
GAP_SAMPLES = 5
"""A hole in the signal is longer than both: then a peak may have come and gone unseen."""
SATURATED = 0.995
"""Share of the capacity from which on a rig is at its end: what lies beyond it is not seen."""
CONTEXT = 64
MOST_GAPS = 20
BLIND: dict[str, str] = {
    "gap": "lines were lost",
    "spike": "the signal jumped as no load can",
    "stuck": "the reading stood still",
    "dropout": "the sensor dropped out",
    "slow": "the rig sends few samples",
}
"""Why a load was not seen for a while -> that in words."""


@dataclass(frozen=True)
class Zero:
    """The quiet start: its mean force, its noise (robust SD), the number of samples behind them, and whether the
    signal was ``steady`` then: a zero that was taken while the load moved is none.
    """

    mean_n: float
    noise_n: float
    samples: int
    steady: bool = True


@dataclass(frozen=True)
class Gap:
    """A stretch in which the load was not seen: the last good sample before it and the first one after it, s;
    ``None``: nothing came after. ``why`` is a key of ``BLIND``.
    """

    from_s: float
    to_s: float | None
    why: str = "gap"


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


@dataclass(frozen=True)
class _Course:
    """The pull up to a sample: what later samples can still change."""

    peak_n: float = -np.inf
    peak_s: float = 0.0
    drop_n: float | None = None
    drop_low_n: float = np.inf
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
    zeroed brings its ``zero`` along, and needs no quiet start. Times are told from ``start_s``,
    or else from the first sample.
    """

    def __init__(
        self,
        noise_floor_n: float = 0.0,
        zero: Zero | None = None,
        *,
        start_s: float | None = None,
    ) -> None:
        self._floor_n = noise_floor_n
        self._zero = zero
        self._start_s = start_s
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
            self._zero = self._own_zero()
        self._judge(self._zero)

    def _own_zero(self) -> Zero:
        """Zero from the start of the signal, and whether it was at rest then."""
        t, force = self._open[:, 0], self._open[:, 1]
        zero = find_zero(t, force)
        rest = slice(0, zero.samples + 1)
        return replace(zero, steady=is_quiet(t[rest], force[rest], self._floor_n, 0.0))

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
        marked = spikes(window[:, 0], window[:, 1], noise)[len(self._before) :]
        settled = int(np.searchsorted(self._open[:, 0], self._end_s - LOOK_S))
        surely = max(0, min(settled, len(self._open) - HOLD))
        sure, rest = self._open[:surely], self._open[surely:]
        self._sure = _went(self._sure, sure, marked[:surely], zero, noise, last=False)
        self._now = _went(self._sure, rest, marked[surely:], zero, noise, last=True)
        before = np.concatenate([self._before, sure])
        recent = len(before) - int(np.searchsorted(before[:, 0], self._end_s - LOOK_S - STEADY_WINDOW_S))
        self._before = before[-max(CONTEXT, recent) :]
        self._open = rest

    def broke(self) -> float | None:
        """When it broke, s from the first sample; ``None`` as long as it has not."""
        return _break_s(self._now, self._zero, self._floor_n, self._start_s)

    @property
    def is_over(self) -> bool:
        """Whether it broke, and the load has stayed down since for ``SETTLE_S``."""
        broke = self.broke()
        return broke is not None and self.end_s - broke >= SETTLE_S and not self._rises_again(broke)

    def _rises_again(self, broke_s: float) -> bool:
        """Whether the load has been rising since it fell: somebody goes on loading what is left of the piece."""
        known = np.concatenate([self._before, self._open])
        after = known[known[:, 0] >= broke_s + (self._start_s or 0.0)]
        now = after[after[:, 0] > self._end_s - RISE_S, 1]
        if not len(now) or self._zero is None:
            return False
        lowest = min(float(np.median(after[i : i + len(now), 1])) for i in range(0, len(after), len(now)))
        noise = max(self._zero.noise_n, self._floor_n)
        return float(np.median(now)) - lowest > max(RISE_NOISES * noise, RISE_SHARE * self._now.peak_n)

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
            self._zero = self._own_zero()
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
    drop, low, crack = c.drop_n, c.drop_low_n, c.crack_n
    if crack is None:
        since = 0
        if drop is None:
            deep = np.maximum(CRACK_SHARE * highest, CRACK_NOISES * noise)
            dropped = (highest - load >= deep * EXACTLY) & (highest > MIN_LOAD_NOISES * noise)
            since = int(np.argmax(dropped))
            drop = float(highest[since]) if dropped.any() else None
        if drop is not None:
            overcome = np.flatnonzero(highest[since:] > drop)
            until = since + int(overcome[0]) if len(overcome) else len(load)
            low = min(low, float(load[since:until].min(initial=np.inf)))
            if len(overcome):
                # What fell to next to nothing was let go of, or broke: that is no crack.
                crack, drop, low = (drop, drop, low) if low >= RELEASED * drop else (None, None, np.inf)
    begun = highest > MIN_LOAD_NOISES * noise
    top = int(np.argmax(load))
    higher = bool(load[top] > c.peak_n)
    return replace(
        c,
        peak_n=float(load[top]) if higher else c.peak_n,
        peak_s=float(t[top]) if higher else c.peak_s,
        drop_n=drop,
        drop_low_n=low,
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
    steady = median_of_three(row)
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
