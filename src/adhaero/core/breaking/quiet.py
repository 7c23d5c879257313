"""Whether a signal is at rest, so that a zero can be taken from it: judged by time and by drift, not by a count."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

QUIET_S = 0.5
"""A zero is taken from at least so much rest."""
LEAST_SAMPLES = 5
FEW = 20
OFF_NOISES = 8.0
DRIFT_NOISES = 7.0
OFF_SHARE = 0.0005
"""Share of the capacity that a signal at rest may be off its median in any case."""
STRAY = 0.05
"""Share of samples that may be spikes."""


def is_quiet(t_s: Array, force_n: Array, step_n: float, capacity_n: float) -> bool:
    """Return whether these samples are at least half a second of rest: none stands off, and none drifts away.

    ``step_n`` is the rig's resolution, ``capacity_n`` its range (both N).
    """
    n = len(force_n)
    if n < LEAST_SAMPLES:
        return False
    spacing = float(np.median(np.diff(t_s)))
    if t_s[-1] - t_s[0] < QUIET_S - 1.01 * spacing:
        return False
    steps = np.abs(np.diff(force_n))
    # From a few samples a median says little of the noise; from many it does not mind a spike.
    noise = float(np.mean(steps)) / 1.128 if n < FEW else 1.4826 * float(np.median(steps)) / np.sqrt(2)
    least = max(step_n, OFF_SHARE * capacity_n)
    off = np.abs(force_n - np.median(force_n)) > max(OFF_NOISES * noise, 2 * least)
    if off.sum() > max(1, int(STRAY * n)):
        return False
    half = n // 2
    moved = abs(float(np.median(force_n[half:]) - np.median(force_n[:half])))
    return bool(moved <= max(DRIFT_NOISES * noise * np.sqrt(2.0 / half), least))
