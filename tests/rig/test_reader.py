"""The reader against the simulated rig over TCP, with every fault that a bench knows."""

from __future__ import annotations

import contextlib
import socket
import threading
import time
from collections.abc import Iterator, Sequence
from itertools import pairwise

import pytest

from adhaero.rig.reader import Reader, Sample
from tests.rig.harness import RigUnderTest, running_rig, wait_for

PIECE = {"solid_n": 6600.0}


class Collector:
    """Keeps all samples."""

    def __init__(self) -> None:
        self.got: list[Sample] = []
        self.connections: list[int] = []
        self.losses = 0

    def samples(self, new: Sequence[Sample], connection: int) -> None:
        self.got.extend(new)
        self.connections.append(connection)

    def lost(self) -> None:
        self.losses += 1


@pytest.fixture
def rig() -> Iterator[RigUnderTest]:
    with running_rig() as started:
        yield started


@pytest.fixture
def read(rig: RigUnderTest) -> Iterator[tuple[Reader, Collector]]:
    collector = Collector()
    reader = Reader(rig.url, collector)
    reader.start()
    wait_for(lambda: len(collector.got) > 20, "samples")
    yield reader, collector
    reader.stop()


def test_reads_and_knows_the_rig(read: tuple[Reader, Collector]) -> None:
    reader, collector = read
    state = reader.state()
    assert state.status == "live"
    assert state.identity.name == "simulated-press"
    assert state.identity.capacity_n == 20_000
    assert all(b.t_s >= a.t_s for a, b in zip(collector.got, collector.got[1:], strict=False))
    assert sum(s.force_n for s in collector.got) / len(collector.got) == pytest.approx(37, abs=3)


def test_a_pull_is_seen_whole(rig: RigUnderTest, read: tuple[Reader, Collector]) -> None:
    _, collector = read
    rig.hand(do="seat", piece=PIECE)
    assert rig.simulator.fate is not None
    peak = rig.simulator.fate.load_n
    assert rig.hand(do="look") == {"ok": False, "why": "nothing is broken"}
    rig.hand(do="pump", seconds=0.8)
    seen = wait_for(lambda: rig.hand(do="look") if rig.simulator.broken else None, "a break")
    assert seen["ok"]
    assert "load" not in str(seen), "the load is known from the signal alone"
    wait_for(lambda: max(s.force_n for s in collector.got) > 0.95 * peak, "the peak")


def test_a_cable_pulled_out_and_plugged_in(rig: RigUnderTest, read: tuple[Reader, Collector]) -> None:
    reader, collector = read
    rig.hand(do="fault", name="drop", seconds=0.8)
    wait_for(lambda: reader.state().status == "lost", "the loss")
    assert "check cable" in reader.state().message
    before = len(collector.got)
    wait_for(lambda: reader.state().status == "live", "the return")
    wait_for(lambda: len(collector.got) > before + 20, "new samples")
    assert reader.state().connected_times >= 2
    assert collector.losses >= 1
    assert collector.connections[-1] > collector.connections[0], "what comes after is of another connection"
    assert all(b.t_s >= a.t_s for a, b in zip(collector.got, collector.got[1:], strict=False))


def test_silence_is_said(rig: RigUnderTest, read: tuple[Reader, Collector]) -> None:
    reader, _ = read
    rig.hand(do="fault", name="silence", seconds=2.2)
    wait_for(lambda: reader.state().status == "silent", "silence")
    wait_for(lambda: reader.state().status == "live", "the voice")


@pytest.mark.parametrize("fault", ["garbage", "wrap", "backward", "spike"])
def test_faults_lose_nothing_that_was_sound(rig: RigUnderTest, read: tuple[Reader, Collector], fault: str) -> None:
    reader, collector = read
    rig.hand(do="fault", name=fault, seconds=1.0)
    before = len(collector.got)
    wait_for(lambda: len(collector.got) > before + 120, "samples through the fault")
    assert reader.state().status in ("live", "garbled")
    assert all(b.t_s >= a.t_s for a, b in zip(collector.got, collector.got[1:], strict=False))
    if fault == "garbage":
        assert reader.state().garbage > 5


def test_waits_for_a_rig_that_comes_later() -> None:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    collector = Collector()
    reader = Reader(f"socket://127.0.0.1:{port}", collector)
    reader.start()
    assert reader.state().status == "connecting"
    server = socket.create_server(("127.0.0.1", port))

    def serve() -> None:
        link, _ = server.accept()
        # Again and again, as a rig does: what lay in the buffer when the port was opened is stale and thrown away.
        with contextlib.suppress(OSError):
            while True:
                link.sendall(b"12.5\r\n13.5\r\nnonsense\r\n14.")
                time.sleep(0.02)
                link.sendall(b"5\r\n")

    threading.Thread(target=serve, daemon=True).start()
    wait_for(lambda: len(collector.got) >= 9, "a rig without times or identity")
    assert {s.force_n for s in collector.got[3:]} == {12.5, 13.5, 14.5}
    assert reader.state().garbage >= 1
    reader.stop()
    server.close()


def test_a_port_that_cannot_be_does_not_crash() -> None:
    reader = Reader("/dev/no-such-port", Collector())
    reader.start()
    assert reader.state().status == "connecting"
    reader.stop()


def test_orders_that_the_hand_cannot_do(rig: RigUnderTest) -> None:
    assert not rig.hand(do="dance")["ok"]
    assert not rig.hand(do="pump")["ok"]
    assert not rig.hand(do="seat", piece={"nonsense": 1})["ok"]
    rig.hand(do="seat", piece=PIECE)
    assert rig.hand(do="pump")["ok"]


def test_commands_of_the_protocol(rig: RigUnderTest, read: tuple[Reader, Collector]) -> None:
    reader, collector = read
    reader.send("Z")
    wait_for(lambda: abs(sum(s.force_n for s in collector.got[-20:]) / 20) < 3, "zero")
    reader.send("R 50")
    wait_for(lambda: rig.simulator.rate_hz == 50, "rate")
    reader.send("R 9000000")
    reader.send("P")
    wait_for(lambda: rig.simulator.paused, "pause")
    assert rig.simulator.rate_hz == 50
    reader.send("S")
    wait_for(lambda: not rig.simulator.paused, "start")


def test_a_busy_machine_sends_late_but_samples_on_time(rig: RigUnderTest, read: tuple[Reader, Collector]) -> None:
    """The stand-in stalls for a third of a second: what it should have sampled comes afterwards, none is left out."""
    _, got = read
    wait_for(lambda: len(got.got) > 20, "the signal")
    rig._loop.call_soon_threadsafe(time.sleep, 0.3)
    before = len(got.got)
    wait_for(lambda: len(got.got) > before + 120, "samples after the stall")
    times = [s.t_s for s in got.got]
    gaps = [b - a for a, b in pairwise(times)]
    assert max(gaps[20:]) < 0.1, "no hole in the trace, though nothing came for a third of a second"
