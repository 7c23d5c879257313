"""From a raw force trace to zero, first crack, peak and break.

Spikes are no peak: a sample is a spike if it stands off what came just before and just after (medians of three), on
the same side, by more than ``SPIKE_NOISES`` times the noise, while before and after agree with each other. Spikes are
skipped when looking for the peak, never removed from the raw trace. At a brittle break the sample before the fall has
a low side only after it, so the true peak is not taken for a spike.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

QUIET_S = 0.5
SPIKE_NOISES = 6.0
BREAK_SHARE = 0.5
CRACK_SHARE = 0.05
MIN_LOAD_NOISES = 12.0
STEADY_SAMPLES = 3


@dataclass(frozen=True)
class Zero:
    """The quiet start: its mean force, its noise (robust SD), and the number of samples behind them."""

    mean_n: float
    noise_n: float
    samples: int


@dataclass(frozen=True)
class Reading:
    """What a trace shows. Loads are zero-corrected, in N; times in s from the first sample.

    ``broke`` is whether the load fell below half of the peak and stayed there. ``first_crack_n`` is the load before
    the first drop of more than 5 % of itself that recovered, else ``None``.
    """

    zero: Zero
    peak_n: float
    peak_s: float
    broke: bool
    break_s: float | None
    first_crack_n: float | None
    spikes: int


def find_zero(t_s: Array, force_n: Array) -> Zero:
    """Zero from the first half second (or at least three samples)."""
    quiet = force_n[: max(3, int(np.searchsorted(t_s, t_s[0] + QUIET_S)))]
    mean = float(np.median(quiet))
    spread = 1.4826 * float(np.median(np.abs(quiet - mean)))
    return Zero(mean, spread, len(quiet))


def spikes(force_n: Array, noise_n: float) -> NDArray[np.bool_]:
    """Which samples are spikes of one or two samples (see the module).

    Looked for three times over, since a spike beside another one, or beside the break, shows only when that is gone.
    """
    found = np.zeros(len(force_n), dtype=bool)
    edge = SPIKE_NOISES * max(noise_n, 1e-9)
    for _ in range(3):
        rest = np.flatnonzero(~found)
        if len(rest) < 8:
            break
        fresh = _spikes_once(force_n[rest], edge)
        if not fresh.any():
            break
        found[rest[fresh]] = True
    return found


def _spikes_once(force: Array, edge: float) -> NDArray[np.bool_]:
    n = len(force)
    # Before the first sample the signal is mirrored; after the last it stands, so that the last one is never a spike.
    padded = np.concatenate([force[4:0:-1], force, np.repeat(force[-1], 3)])
    windows = np.lib.stride_tricks.sliding_window_view(padded, 3)
    before, after = windows[1 : 1 + n], windows[5 : 5 + n]
    left, right = np.median(before, axis=1), np.median(after, axis=1)
    off_left, off_right = force - left, force - right
    stands_off = np.minimum(np.abs(off_left), np.abs(off_right))
    between_alike = np.abs(right - left) < 0.5 * stands_off
    spike = (np.sign(off_left) == np.sign(off_right)) & (stands_off > edge) & between_alike
    # Beside a break left and right are not alike; there a spike still jumps beyond what the slope explains and is
    # above all that follows, while the true peak only continues the rise.
    slope = np.maximum(0.0, np.median(np.diff(np.lib.stride_tricks.sliding_window_view(padded, 4)[:n], axis=1), axis=1))
    jumps = force - before.max(axis=1) > edge + 2 * slope
    return np.asarray(spike | (jumps & (force - after.max(axis=1) > edge)))


def read_trace(
    t_s: Sequence[float] | Array, force_n: Sequence[float] | Array, *, noise_floor_n: float = 0.0
) -> Reading | None:
    """The reading of a trace; ``None`` with fewer than five samples.

    ``noise_floor_n`` is the rig's resolution, for a quiet start that shows no noise at all. Samples that are not
    finite are passed over.
    """
    t, f = np.asarray(t_s, float), np.asarray(force_n, float)
    good = np.isfinite(t) & np.isfinite(f)
    t, f = t[good], f[good]
    if len(t) < 5:
        return None
    zero = find_zero(t, f)
    noise = max(zero.noise_n, noise_floor_n)
    marked = spikes(f, noise)
    t_clean, load = t[~marked], f[~marked] - zero.mean_n
    # Nothing after the last sample confirms that it is no spike, so it is not taken for the peak.
    top = int(np.argmax(load[:-1]))
    peak = float(load[top])
    break_s = _break_time(t_clean, load, top, peak, noise)
    return Reading(
        zero=zero,
        peak_n=peak,
        peak_s=float(t_clean[top] - t[0]),
        broke=break_s is not None,
        break_s=None if break_s is None else break_s - float(t[0]),
        first_crack_n=_first_crack(load, top, noise),
        spikes=int(marked.sum()),
    )


def _break_time(t: Array, load: Array, top: int, peak: float, noise: float) -> float | None:
    """When the load fell below half of the peak for good; a load within the noise cannot break."""
    if peak < MIN_LOAD_NOISES * noise:
        return None
    after = load[top:]
    if len(after) <= STEADY_SAMPLES:
        return None
    # A spike among the last samples cannot be told by what follows it; a median of three steps over it.
    steady = np.median(np.lib.stride_tricks.sliding_window_view(np.pad(after, 1, mode="reflect"), 3), axis=1)
    low = steady < BREAK_SHARE * peak
    if not low[-STEADY_SAMPLES:].all():
        return None
    last_above = int(np.flatnonzero(~low)[-1]) if (~low).any() else 0
    return float(t[min(top + last_above + 1, len(t) - 1)])


def _first_crack(load: Array, top: int, noise: float) -> float | None:
    """Load before the first drop, on the way up, of more than 5 % of itself that the load later overcame."""
    rising = load[: top + 1]
    highest = np.maximum.accumulate(rising)
    dropped = (highest - rising) > np.maximum(CRACK_SHARE * highest, 8 * noise)
    dropped &= highest > MIN_LOAD_NOISES * noise
    if not dropped.any():
        return None
    return float(highest[int(np.argmax(dropped))])
