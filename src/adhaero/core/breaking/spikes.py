"""Which samples of a force signal are spikes: judged by time and by slope, at every rate.

Two rules, either of which is enough:

- one or two samples that stand off what came just before and just after (medians of three) on the same side, by more
  than ``SPIKE_NOISES`` times the noise, while before and after agree with each other;
- a bump of up to a fifth of a second that no joint can make: it is higher than what stands on both sides of it by more
  than the load could have risen in that time. A morphological opening with a window of ``BUMPS_S`` cuts such bumps off
  and leaves a rise of any slope as it is (Serra 1982, Image Analysis and Mathematical Morphology).
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

SPIKE_NOISES = 6.0
BUMPS_S = (0.03, 0.1, 0.2)
"""Durations of the bumps that are looked for."""
BUMP_NOISES = 12.0
BUMP_SLOPES = 3.0
"""A rise of up to this many times the usual one is believed: nobody pumps evenly."""
SLOPE_S = 0.1
COARSE_HZ = 50.0
"""Below this rate the load climbs by more than its noise between two samples."""
STEADY_WINDOW_S = 1.0
"""Stretch of the signal from which the usual rise is taken."""
LOOK_S = 0.35
"""How far before and after a sample to look when deciding whether it is a spike, s."""
HOLD = 8
"""The least number of samples for that."""


def spikes(t_s: Array, force_n: Array, noise_n: float) -> Mask:
    """Return which samples are spikes.

    The small ones are looked for three times over, since a spike beside another one, or beside the break, shows only
    when that is gone.
    """
    coarse = usual_step(t_s) > 1 / COARSE_HZ
    found = np.zeros(len(force_n), dtype=bool)
    edge = SPIKE_NOISES * max(noise_n, 1e-9)
    for _ in range(3):
        rest = np.flatnonzero(~found)
        if len(rest) < HOLD:
            break
        fresh = _spikes_once(force_n[rest], edge, coarse)
        if not fresh.any():
            break
        found[rest[fresh]] = True
    found = _without_dips(force_n, found)
    rest = np.flatnonzero(~found)
    if len(rest) >= HOLD:
        found[rest[_bumps(t_s[rest], force_n[rest], noise_n)]] = True
    return found


def _without_dips(force: Array, found: Mask) -> Mask:
    """Unmark dips of three samples or more: the load dropped and recovered, so they are cracks and not spikes."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], found, [False]]).astype(int)))
    for start, end in edges.reshape(-1, 2):
        inside = start > 0 and end < len(force)
        if end - start > 2 and inside and force[start:end].max() < min(force[start - 1], force[end]):
            found[start:end] = False
    return found


def _spikes_once(force: Array, edge: float, coarse: bool) -> Mask:
    n = len(force)
    # Before the first sample the signal is mirrored; after the last it stands, so that the last one is never a spike.
    padded = np.concatenate([force[4:0:-1], force, np.repeat(force[-1], 3)])
    steps = np.diff(padded)
    # A sample lies at 4 and on: the three before it begin at 1, the three after it at 5.
    before, after = slice(1, 1 + n), slice(5, 5 + n)
    middle, top = median_of_three(padded), np.maximum(np.maximum(padded[:-2], padded[1:-1]), padded[2:])
    left, right = middle[before], middle[after]
    off_left, off_right = force - left, force - right
    stands_off = np.minimum(np.abs(off_left), np.abs(off_right))
    between_alike = np.abs(right - left) < 0.5 * stands_off
    # What the load climbs in two samples is no spike: the top of a load that rises and gives way stands off, too.
    # The smaller of two steps is the rise, a larger one may be another spike. Read slowly, each step of the rise stands
    # off, and what follows counts as well; read quickly, what follows is often the break.
    smaller = np.minimum(np.abs(steps[:-1]), np.abs(steps[1:]))
    climbs = 2 * (np.maximum(smaller[before], smaller[after]) if coarse else smaller[before])
    spike = (np.sign(off_left) == np.sign(off_right)) & (stands_off > edge + climbs) & between_alike
    # Beside a break left and right are not alike; there a spike still jumps beyond what the slope explains and is
    # above all that follows, while the true peak only continues the rise.
    slope = np.maximum(0.0, median_of_three(steps)[:n])
    jumps = force - top[before] > edge + 2 * slope
    return np.asarray(spike | (jumps & (force - top[after] > edge)))


def _bumps(t: Array, force: Array, noise: float) -> Mask:
    """Return the bumps that rise and fall faster than a load can (see the module docstring)."""
    step = usual_step(t)
    found = np.zeros(len(force), dtype=bool)
    if step <= 0:
        return found
    slope = _usual_rise(force, step, noise)
    for longest in BUMPS_S:
        n = math.ceil(longest / step - 1e-6) + 1
        if 2 * n > len(force):
            break
        believed = BUMP_NOISES * noise + BUMP_SLOPES * slope * n * step
        found |= force - _opened(force, n) > believed
    return found


def usual_step(t_s: Array) -> float:
    """Return the usual time from one sample to the next, s; 0 where time stands."""
    steps = np.diff(t_s)
    steps = steps[steps > 0]
    return float(np.median(steps)) if len(steps) else 0.0


def _usual_rise(force: Array, step: float, noise: float) -> Array:
    """Return the usual rise around each sample, N/s: the median rise within a second, leaving out the noise."""
    n = math.ceil(BUMPS_S[-1] / step - 1e-6) + 1
    m = max(2, round(SLOPE_S / step))
    if 2 * n > len(force) or m >= len(force):
        return np.zeros(len(force))
    calm = _opened(force, n)
    rises = (calm[m:] - calm[:-m]) / (m * step)
    part = max(HOLD, round(STEADY_WINDOW_S / step))
    usual = np.zeros(len(force))
    for at in range(0, len(force), part):
        near = rises[max(0, at - part) : at + part]
        near = near[near * m * step > 4 * noise]
        usual[at : at + part] = float(np.median(near)) if len(near) else 0.0
    return usual


def _opened(force: Array, n: int) -> Array:
    """Return the signal with every bump shorter than ``n`` samples removed. Both ends are left as they are."""
    low = _running(np.minimum, np.concatenate([np.full(n - 1, np.inf), force, np.full(n - 1, np.inf)]), n, np.inf)
    return _running(np.maximum, low, n, -np.inf)


def _running(what: np.ufunc, row: Array, n: int, beyond: float) -> Array:
    """Smallest or largest of each ``n`` neighbours, in time that does not depend on n (van Herk 1992)."""
    blocks = np.concatenate([row, np.full(-len(row) % n, beyond)]).reshape(-1, n)
    forward = what.accumulate(blocks, axis=1).ravel()
    backward = what.accumulate(blocks[:, ::-1], axis=1)[:, ::-1].ravel()
    return np.asarray(what(backward[: len(row) - n + 1], forward[n - 1 : len(row)]))


def median_of_three(row: Array) -> Array:
    """Return the median of each three neighbours; a general median takes ten times as long, at 1,000 lines a second."""
    a, b, c = row[:-2], row[1:-1], row[2:]
    return np.asarray(np.maximum(np.minimum(a, b), np.minimum(np.maximum(a, b), c)))
