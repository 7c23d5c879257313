"""Reads the rig in a thread of its own, through cable breaks, garbage and restarts."""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol, cast

import serial

from adhaero.core.quantity import Dimension, unit
from adhaero.rig.protocol import Identity, LineSplitter, SteadyClock, parse_identity, parse_line

SILENT_AFTER_S = 1.5
RETRY_S = 0.5
READ_S = 0.05
GARBAGE_SHARE = 0.5


@dataclass(frozen=True)
class Sample:
    """One reading: s (steadily increasing), N, mm or ``None``."""

    t_s: float
    force_n: float
    displacement_mm: float | None


@dataclass(frozen=True)
class LinkState:
    """How the connection is. ``status``: off, connecting, lost, silent, garbled or live."""

    status: str
    message: str
    identity: Identity
    garbage: int
    connected_times: int


class _Link(Protocol):
    """What is used of the serial library's port."""

    @property
    def in_waiting(self) -> int: ...

    def read(self, size: int, /) -> bytes: ...

    def write(self, data: bytes, /) -> int | None: ...

    def close(self) -> None: ...


class Listener(Protocol):
    """Who wants the samples. ``tick`` comes at least ten times a second, with or without samples."""

    def samples(self, new: Sequence[Sample]) -> None: ...

    def tick(self) -> None: ...


_MESSAGES = {
    "off": "No rig is connected. Type the peak, or give the rig's port in the shop.",
    "connecting": "Looking for the rig …",
    "lost": "The rig is gone: check cable and power. What was received is kept; reading goes on when it is back.",
    "silent": "The rig is connected but sends nothing: is it switched on?",
    "garbled": "The rig sends lines that cannot be read: check its speed setting and line format.",
    "live": "Reading the rig.",
}


class Reader:
    """The connection to one port, kept up until ``stop``."""

    def __init__(self, port: str, listener: Listener, clock: Callable[[], float] = time.monotonic) -> None:
        self.port = port
        self._listener = listener
        self._clock = clock
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="rig-reader", daemon=True)
        self._link: _Link | None = None
        self._status = "connecting"
        self._identity = Identity()
        self._garbage = 0
        self._connected_times = 0
        self._recent_bad = 0.0
        self._last_sample_s = clock()
        self._steady = SteadyClock()

    def start(self) -> None:
        """Begin reading."""
        self._thread.start()

    def stop(self) -> None:
        """End reading and wait for the thread."""
        self._stop.set()
        if self._thread.is_alive():
            self._thread.join(timeout=3)

    def state(self) -> LinkState:
        """How the connection is now."""
        status = self._status
        if status == "live" and self._clock() - self._last_sample_s > SILENT_AFTER_S:
            status = "silent"
        elif status == "live" and self._recent_bad > GARBAGE_SHARE:
            status = "garbled"
        return LinkState(status, _MESSAGES[status], self._identity, self._garbage, self._connected_times)

    def send(self, command: str) -> None:
        """Send a command line; a rig that takes none still works, so failures are passed over."""
        link = self._link
        if link is not None:
            with contextlib.suppress(serial.SerialException, OSError):
                link.write(command.encode("ascii") + b"\n")

    def _run(self) -> None:
        while not self._stop.is_set():
            try:
                link = cast(_Link, serial.serial_for_url(self.port, timeout=READ_S, baudrate=115200))
            except (serial.SerialException, OSError, ValueError):
                self._status = "lost" if self._connected_times else "connecting"
                self._listener.tick()
                self._stop.wait(RETRY_S)
                continue
            self._link = link
            self._connected_times += 1
            self._last_sample_s = self._clock()
            self._status = "live"
            self.send("?")
            try:
                self._read(link)
            except (serial.SerialException, OSError):
                self._status = "lost"
            finally:
                self._link = None
                with contextlib.suppress(Exception):
                    link.close()
                self._listener.tick()

    def _read(self, link: _Link) -> None:
        splitter = LineSplitter()
        while not self._stop.is_set():
            data = bytearray()
            try:
                data += link.read(1)
                while data and link.in_waiting and len(data) < 4096:
                    data += link.read(link.in_waiting)
            finally:
                # Also when the cable was just pulled: what came in before counts.
                self._hand_on(splitter.feed(bytes(data)))

    def _hand_on(self, lines: list[str]) -> None:
        new = [s for text in lines if text and (s := self._understand(text)) is not None]
        if new:
            self._last_sample_s = self._clock()
            self._listener.samples(new)
        self._listener.tick()

    def _understand(self, text: str) -> Sample | None:
        if text.startswith("#"):
            self._identity = parse_identity(text) or self._identity
            return None
        line = parse_line(text)
        self._recent_bad += 0.02 * ((line is None) - self._recent_bad)
        if line is None:
            self._garbage += 1
            return None
        force_n = unit(self._identity.unit, Dimension.FORCE).to_base(line.force)
        return Sample(self._steady.at(line.ms, self._clock()), force_n, line.displacement_mm)
