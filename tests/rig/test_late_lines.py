"""A computer that is busy takes the rig's lines late: late is not lost, and late is not moved."""

from __future__ import annotations

import time
from collections.abc import Sequence
from itertools import pairwise

import pytest

from adhaero.core.breaking.proposal import propose
from adhaero.core.breaking.signal import SignalTracker
from adhaero.rig.protocol import parse_identity
from adhaero.rig.reader import Reader, Sample
from adhaero.rig.simulator import BUFFER_S, RELEASE_S, Simulator
from tests.rig.harness import running_rig, wait_for

PIECE = {"solid_n": 6600.0}


class Collector:
    """Keeps all samples."""

    def __init__(self) -> None:
        self.got: list[Sample] = []

    def samples(self, new: Sequence[Sample], connection: int) -> None:
        self.got.extend(new)

    def lost(self) -> None:
        """At the end only."""


def seated(**settings: float) -> Simulator:
    sim = Simulator(**{"noise_n": 0.0, "offset_n": 0.0, "rate_hz": 200.0, **settings})  # type: ignore[arg-type]
    sim._started = 0.0
    assert sim.hand_does({"do": "seat", "piece": PIECE})["ok"]
    return sim


def force(sim: Simulator, at_s: float) -> float:
    return float(sim.line(at_s).split(b",")[1])


def test_a_stalled_rig_sends_what_it_measured_meanwhile() -> None:
    with running_rig() as rig:
        collector = Collector()
        reader = Reader(rig.url, collector)
        reader.start()
        wait_for(lambda: len(collector.got) > 40, "samples")
        before = len(collector.got)
        rig._loop.call_soon_threadsafe(time.sleep, 1.2)
        # Two seconds of it at 200 a second, the stall among them.
        wait_for(lambda: len(collector.got) > before + 400, "the rest")
        reader.stop()
    steps = [b.t_s - a.t_s for a, b in pairwise(collector.got)]
    assert BUFFER_S > 1.2
    assert max(steps) < 0.05, "sampled on time, sent late"


def test_a_moment_before_the_pull_bears_nothing() -> None:
    sim = seated(pump_s=2.0)
    sim.hand_does({"do": "pump", "seconds": 2.0})
    sim.pumped_at = 10.0
    assert force(sim, 7.0) == 0
    assert force(sim, 10.0) == 0
    assert force(sim, 11.0) > 0


def test_a_moment_before_the_release_is_no_higher_than_at_it() -> None:
    sim = seated()
    sim.hand_does({"do": "pump", "seconds": 2.0})
    sim.pumped_at = 10.0
    held = force(sim, 11.4)
    sim.released = (11.4, sim._way(11.4))
    assert force(sim, 9.0) == pytest.approx(held, abs=1)
    assert sim.broken is None, "a line sent late breaks nothing"
    assert force(sim, 11.4 + RELEASE_S) < 0.1 * held


def test_a_moment_before_the_tap_was_opened_weighs_nothing() -> None:
    sim = seated()
    sim.hand_does({"do": "fill", "g_per_s": 100})
    sim.hung_at = 10.0
    assert force(sim, 6.0) == 0
    # 100 g/s over five seconds, half a kilogram-force.
    assert force(sim, 15.0) == pytest.approx(0.5 * 9.80665, abs=0.6)


def in_cycles(sim: Simulator, *, hole: tuple[float, float] | None = None) -> SignalTracker:
    """Quiet, up to six tenths, let go, and again until it breaks: as the rig's clock has it, in no time."""
    tracker = SignalTracker(sim.resolution_n)
    at, step = 0.0, 1 / sim.rate_hz

    def until(end_s: float) -> None:
        nonlocal at
        while at < end_s:
            ms, load, *_ = sim.line(at).split(b",")
            if hole is None or not hole[0] < at < hole[1]:
                tracker.feed([float(ms) / 1000], [float(load)])
            at += step

    until(1.0)
    sim.hand_does({"do": "pump", "seconds": 4.0})
    sim.pumped_at = at
    until(at + 0.6 * 4.0)
    sim.released = (at, sim._way(at))
    until(at + 2 * RELEASE_S)
    sim.hand_does({"do": "pump", "seconds": 1.5})
    sim.pumped_at = at
    until(at + 3.0)
    return tracker


def test_cycles_are_no_break_of_their_own() -> None:
    sim = seated()
    found = propose(in_cycles(sim).reading(), sim.capacity_n, in_cycles=True)
    assert sim.broken is not None, "the second pull went on to the end"
    assert found is not None
    assert (found.kind, found.bound_by) == ("at_least", "cycles")
    assert found.reading.peak_n == pytest.approx(sim.broken.load_n, rel=0.02)


def test_a_hole_in_a_cycle_is_told_before_the_cycles() -> None:
    """Where the signal was away under load the true peak may be higher: that is the harder bound."""
    sim = seated()
    found = propose(in_cycles(sim, hole=(2.0, 2.9)).reading(), sim.capacity_n, in_cycles=True)
    assert found is not None
    assert (found.kind, found.bound_by) == ("at_least", "gap")
    (gap,) = found.reading.gaps
    assert gap.from_s == pytest.approx(2.0, abs=0.02)
    assert gap.to_s == pytest.approx(2.9, abs=0.02)


def test_the_rig_says_its_rate_in_its_identity() -> None:
    found = parse_identity(seated(rate_hz=125.0).identity().decode().strip())
    assert found is not None
    assert (found.rate_hz, found.capacity_n) == (125.0, 20_000.0)
