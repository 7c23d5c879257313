"""Traces with known answers: by hand, and a thousand seeded ones."""

from __future__ import annotations

import random

import numpy as np
import pytest

from adhaero.core.breaking.signal import Reading, find_zero, read_signal
from adhaero.core.breaking.spikes import spikes

CAPACITY = 20_000.0
NOISE = 0.002 * CAPACITY


def trace(
    peak: float, *, rate: float = 80.0, offset: float = 40.0, noise: float = 3.0, broke: bool = True,
    crack: float | None = None, spiky: float = 0.0, seed: int = 1, quiet_s: float = 1.0, rise_s: float = 3.0,
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """A pull: quiet, straight rise, perhaps a crack, break or hold; noise and spikes on top."""
    rng = np.random.default_rng(seed)
    t = np.arange(0, quiet_s + rise_s + 1.0, 1 / rate)
    x = np.clip((t - quiet_s) / rise_s, 0, 1)
    load = peak * x
    if crack is not None:
        # It gives, and is back on its way a little later: no load comes back at once.
        back = 0.85 * crack + (0.21 / 0.06) * (load - crack)
        load = np.where((load > crack) & (load < 1.06 * crack), back, load)
    load = np.where(t > quiet_s + rise_s, 0.01 * peak if broke else peak, load)
    force = load + offset + rng.normal(0, noise, len(t))
    hit = rng.random(len(t)) < spiky
    force = force + hit * rng.choice([-1, 1], len(t)) * 0.3 * CAPACITY
    return t, force


def read(*args: float, **more: object) -> Reading:
    found = read_signal(*trace(*args, **more), noise_floor_n=1.0)  # type: ignore[arg-type]
    assert found is not None
    return found


def test_zero_is_the_quiet_start() -> None:
    zero = find_zero(*trace(5000))
    assert zero.mean_n == pytest.approx(40, abs=2)
    assert zero.noise_n == pytest.approx(3, rel=0.5)


def test_a_clean_break() -> None:
    r = read(5000)
    assert r.peak_n == pytest.approx(5000, rel=0.01)
    assert r.broke
    assert r.break_s == pytest.approx(4.0, abs=0.05)
    assert r.first_crack_n is None


def test_a_hold_is_no_break() -> None:
    r = read(5000, broke=False)
    assert not r.broke
    assert r.break_s is None
    assert r.peak_n == pytest.approx(5000, rel=0.01)


def test_a_first_crack_that_recovered() -> None:
    r = read(5000, crack=2900)
    assert r.first_crack_n == pytest.approx(2900, rel=0.03)
    assert r.peak_n == pytest.approx(5000, rel=0.01)
    assert r.broke


def test_a_spike_is_no_peak() -> None:
    t, f = trace(5000, noise=0.0)
    f[120] += 9000
    r = read_signal(t, f, noise_floor_n=1.0)
    assert r is not None
    assert r.spikes == 1
    assert r.peak_n == pytest.approx(5000, rel=0.01)


def test_the_sample_before_a_brittle_break_is_the_peak() -> None:
    """It stands above both neighbours, but its fall is the break: it must not be taken for a spike."""
    t = np.arange(0, 3, 0.0125)
    f = np.where(t < 1, 0.0, np.where(t < 2, (t - 1) * 4000, 0.0))
    r = read_signal(t, f, noise_floor_n=1.0)
    assert r is not None
    assert r.peak_n == pytest.approx(float(f.max()))


def test_the_top_of_a_load_that_gives_way_is_no_spike() -> None:
    """The highest sample and the one beside it stand off what rose before and what falls after: it is the peak."""
    rng = np.random.default_rng(11)
    t = np.arange(0, 2, 0.0025)
    for peak in rng.uniform(3000, 7000, 300):
        x = np.clip((t - 0.8) / 0.5, 0, None)
        f = np.where(x <= 1, peak * x, peak * (1 - 0.35 * (x - 1)))
        assert not spikes(t, np.round(f + rng.normal(0, 3, len(t))), 3.0).any()


def test_noise_alone_does_not_break() -> None:
    rng = np.random.default_rng(3)
    t = np.arange(0, 5, 0.0125)
    r = read_signal(t, 40 + rng.normal(0, 5, len(t)), noise_floor_n=1.0)
    assert r is not None
    assert not r.broke


def test_what_is_too_short_says_nothing() -> None:
    assert read_signal([], []) is None
    assert read_signal([0, 0.1, 0.2], [1, 2, 3]) is None


def test_numbers_that_are_none_are_passed_over() -> None:
    t, f = trace(5000)
    f[50], f[200] = np.nan, np.inf
    r = read_signal(t, f, noise_floor_n=1.0)
    assert r is not None
    assert r.peak_n == pytest.approx(5000, rel=0.01)


def test_spikes_need_three_samples() -> None:
    assert not spikes(np.array([0.0, 0.1]), np.array([1.0, 9.0]), 1.0).any()


@pytest.mark.slow
def test_a_thousand_pulls() -> None:
    """Peak error under 0.2 % of capacity and one step of the rise, with spikes; no break that was none, none missed."""
    rng = random.Random(20417)
    worst, false_breaks, missed = 0.0, 0, 0
    for seed in range(1000):
        peak = rng.uniform(2000, 15_000)
        broke = rng.random() < 0.7
        crack = rng.uniform(0.6, 0.9) * peak if rng.random() < 0.2 else None
        t, f = trace(peak, noise=NOISE / 4, broke=broke, crack=crack, spiky=0.01, seed=seed)
        r = read_signal(t, f, noise_floor_n=1.0)
        assert r is not None
        worst = max(worst, abs(r.peak_n - peak) / (peak / 240 + NOISE))
        false_breaks += r.broke and not broke
        missed += broke and not r.broke
    assert false_breaks == 0
    assert missed == 0
    assert worst < 1
