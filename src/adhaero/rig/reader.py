"""Reads the rig in a thread of its own, through cable breaks, garbage and restarts.

The thread does nothing but read: it never waits for the database, and nothing that a listener does ends it.
"""

from __future__ import annotations

import contextlib
import threading
import time
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol, cast

import serial

from adhaero.core.breaking.instrument import Instrument, Measures
from adhaero.core.quantity import Dimension, unit
from adhaero.rig.protocol import (
    BELIEVED,
    Identity,
    Line,
    LineSplitter,
    SteadyClock,
    TooSlow,
    line_reader,
    parse_identity,
)

SILENT_AFTER_S = 1.5
RETRY_S = 0.5
READ_S = 0.05
GATHER_S = 0.004
"""Lines that come this close together are handed on together."""
MOST_BYTES = 4096
GARBAGE_SHARE = 0.5
TAIL = 12
"""Lines as they came that are kept, so that one sees what a foreign indicator sends."""
IMPOSSIBLE_N = 10_000_000.0
"""No bench rig reaches this; such a line is garbage whatever it says."""


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

    timeout: float | None

    @property
    def in_waiting(self) -> int: ...

    def read(self, size: int, /) -> bytes: ...

    def write(self, data: bytes, /) -> int | None: ...

    def close(self) -> None: ...


class Listener(Protocol):
    """Who wants the samples. ``connection`` counts up each time the port was opened: what came before is of another
    time, perhaps of another rig.
    """

    def samples(self, new: Sequence[Sample], connection: int) -> None: ...

    def lost(self) -> None: ...


_MESSAGES = {
    "off": "No rig is connected. Type the peak, or give the rig's port in the shop.",
    "connecting": "Looking for the rig …",
    "lost": "The rig is gone: check cable and power. What was received is kept; reading goes on when it is back.",
    "silent": "The rig is connected but sends nothing: is it switched on?",
    "garbled": "The rig sends what cannot be read: its speed setting or line format is wrong.",
    "live": "Reading the rig.",
}


TOO_SLOW = "The pattern for reading the rig is too slow and was switched off. Choose another one under Shop."


class Reader:
    """The connection to one port, kept up until ``stop``: lines as ``pattern`` says, loads as the ``instrument`` has
    them.
    """

    def __init__(
        self, port: str, listener: Listener, clock: Callable[[], float] = time.monotonic,
        instrument: Instrument | None = None, pattern: str = "",
    ) -> None:  # fmt: skip
        self.port = port
        self.tail: deque[str] = deque(maxlen=TAIL)
        self._instrument = instrument or Instrument()
        self._parse = line_reader(pattern)
        self._listener = listener
        self._clock = clock
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="rig-reader", daemon=True)
        self._link: _Link | None = None
        self._status = "connecting"
        self._identity = Identity()
        self._garbage = 0
        self._too_slow = False
        self._connected_times = self._descriptions = 0
        self._recent_bad = 0.0
        self._last_sample_s = self._last_bytes_s = clock()
        self._steady = SteadyClock()
        self._splitter = LineSplitter()
        self._stamped = 0

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
        status, now = self._status, self._clock()
        if self._too_slow and status == "live":
            return LinkState("garbled", TOO_SLOW, self._identity, self._garbage, self._connected_times)
        if status == "live" and now - self._last_sample_s > SILENT_AFTER_S:
            status = "silent" if now - self._last_bytes_s > SILENT_AFTER_S else "garbled"
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
                self._stop.wait(RETRY_S)
                continue
            self._link = link
            self._connected_times += 1
            self._last_sample_s = self._last_bytes_s = self._clock()
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
                self._listener.lost()

    def _read(self, link: _Link) -> None:
        self._splitter.reset()
        while not self._stop.is_set():
            data = bytearray()
            try:
                data += link.read(1)
                if data:
                    self._stop.wait(GATHER_S)
                    self._drain(link, data)
            finally:
                # Also when the cable was just pulled: what came in before counts.
                self.take(bytes(data))

    def _drain(self, link: _Link, data: bytearray) -> None:
        """All that lies ready. A read that waits for more would lose what it holds when the cable comes out."""
        if self.port.startswith("socket:"):
            # Of a socket the library knows only whether anything is ready, and setting its time-out costs nothing.
            link.timeout = 0
            try:
                data += link.read(MOST_BYTES)
            finally:
                link.timeout = READ_S
        else:
            data += link.read(min(MOST_BYTES, link.in_waiting))

    def take(self, data: bytes) -> None:
        """Understand bytes as they came in, half lines and garbage among them, and hand the samples on."""
        now = self._clock()
        if data:
            self._last_bytes_s = now
        understood: list[Line] = []
        factor = self._factor()
        for text in self._splitter.feed(data):
            if not text:
                continue
            before = self._identity
            line = self._understand(text)
            if line is not None:
                understood.append(line)
            elif before.unit and not self._identity.reads_like(before):
                # What came before was of another rig, or of this one with another setting: it ends here.
                self._hand_on(understood, now, factor)
                understood = []
                self._descriptions += 1
                self._listener.lost()
            factor = self._factor()
        self._hand_on(understood, now, factor)

    def _hand_on(self, understood: Sequence[Line], now: float, factor: float) -> None:
        if not understood:
            return
        self._last_sample_s = now
        times = self._times(understood, now)
        new = [Sample(t, x.force * factor, x.displacement_mm) for t, x in zip(times, understood, strict=True)]
        self._listener.samples(new, self._connected_times + self._descriptions)

    def _times(self, lines: Sequence[Line], now: float) -> list[float]:
        """When each line was measured. Lines without a time that came together are spread since the last ones."""
        if any(x.ms is not None for x in lines):
            return [self._steady.at(x.ms, now) for x in lines]
        before = self._steady.now_s
        after = self._steady.at(None, now)
        return [before + (after - before) * (i + 1) / len(lines) for i in range(len(lines))]

    def _factor(self) -> float:
        """Newtons on the piece for one of what is sent: a rig that says its unit is believed."""
        own, i = self._identity.unit, self._instrument
        if own and i.measures in (Measures.FORCE, Measures.MASS):
            return i.factor * float(unit(own, Dimension.FORCE).factor)
        return i.signal_factor

    def _understand(self, text: str) -> Line | None:
        self.tail.append(text)
        if text.startswith("#"):
            self._identity = parse_identity(text) or self._identity
            return None
        try:
            line = self._parse(text)
        except TooSlow:
            # The lines that follow must not wait for it: the pattern is dropped, and that is said.
            self._parse, self._too_slow = (lambda _: None), True
            line = None
        if line is not None and abs(line.force * self._factor()) > IMPOSSIBLE_N:
            line = None
        if line is not None and line.ms is None and self._stamped > 0:
            # The rest of a line whose time got lost is no load; a rig that sends no time any more is believed in turn.
            self._stamped -= 1
            line = None
        elif line is not None and line.ms is not None:
            self._stamped = BELIEVED
        self._recent_bad += 0.02 * ((line is None) - self._recent_bad)
        self._garbage += line is None
        return line
