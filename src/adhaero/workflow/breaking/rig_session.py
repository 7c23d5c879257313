"""The rig while the program runs: the live signal, the pull that is going on, and its raw data on their way to disk."""

from __future__ import annotations

import math
import sqlite3
import threading
import time
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from adhaero.core.breaking.signal import Reading, read_trace
from adhaero.core.refusal import refuse
from adhaero.rig.protocol import Identity
from adhaero.rig.reader import LinkState, Reader, Sample
from adhaero.store import breaks, curves
from adhaero.store.database import Database

FLUSH_S = 0.25
LOOK_S = 0.1
SETTLE_S = 0.4
QUIET_S = 0.6
KEEP_SAMPLES = 24_000
_OFF = LinkState("off", "No rig is connected. Type the peak, or give its port in the shop.", Identity(), 0, 0)


@dataclass(frozen=True)
class LivePull:
    """The pull that is going on, or the one that just ended; loads zero-corrected, in N."""

    pull_id: int
    code: str
    state: str
    peak_n: float
    seconds: float
    saved_samples: int


@dataclass(frozen=True)
class Live:
    """What the screen needs several times a second. ``points`` are (s, N) since the asked sequence number."""

    status: str
    message: str
    rig: str
    force_n: float | None
    zero_n: float
    sequence: int
    points: list[tuple[float, float]]
    pull: LivePull | None


class _Recording:
    """Samples of one pull: all in memory for the eye, and in chunks on disk."""

    def __init__(self, pull_id: int, code: str, start_s: float) -> None:
        self.pull_id = pull_id
        self.code = code
        self.start_s = start_s
        self.rows: list[tuple[float, float, float]] = []
        self.saved = 0
        self.sequence = 0
        self.flushed_at = time.monotonic()
        self.looked_at = 0.0
        self.reading: Reading | None = None


class RigSession:
    """Listens to the reader (in its thread) and answers the application (in others)."""

    def __init__(self) -> None:
        self._lock = threading.RLock()
        self._db: Database | None = None
        self._stamp: Callable[[], str] = lambda: ""
        self._reader: Reader | None = None
        self._recent: deque[tuple[float, float]] = deque(maxlen=KEEP_SAMPLES)
        self._count = 0
        self._zero_n = 0.0
        self._recording: _Recording | None = None
        self._last: LivePull | None = None
        self._resolution_n = 1.0
        self._capacity_n: float | None = None
        self.trouble = ""

    # Connection ------------------------------------------------------------------------------------------------------

    def attach(self, db: Database, stamp: Callable[[], str]) -> None:
        """Where raw signals go, and the clock for when a pull ended. Pulls left open by a crash become interrupted."""
        self._db, self._stamp = db, stamp
        with db.write() as conn:
            for left in breaks.open_pulls(conn):
                rows = curves.curve(conn, left.id)
                proposal = propose(read_trace(rows[:, 0], rows[:, 1]), rows, None)
                breaks.end_pull(conn, left.id, "interrupted", proposal, stamp())

    def connect(self, port: str, resolution_n: float, capacity_n: float) -> None:
        """Read from this port from now on; an empty one disconnects."""
        self.close()
        self._resolution_n, self._capacity_n = resolution_n, capacity_n
        if port:
            self._reader = Reader(port, self)
            self._reader.start()

    def close(self) -> None:
        """Stop reading; a pull that is going on ends as interrupted."""
        reader, self._reader = self._reader, None
        if reader is not None:
            reader.stop()
        with self._lock:
            if self._recording is not None:
                self._finish("interrupted")

    def link(self) -> LinkState:
        """How the connection is."""
        return _OFF if self._reader is None else self._reader.state()

    # Samples, in the reader's thread ---------------------------------------------------------------------------------

    def samples(self, new: Sequence[Sample]) -> None:
        """Take new samples; called by the reader."""
        with self._lock:
            for s in new:
                self._recent.append((s.t_s, s.force_n))
                if self._recording is not None:
                    mm = math.nan if s.displacement_mm is None else s.displacement_mm
                    self._recording.rows.append((s.t_s - self._recording.start_s, s.force_n, mm))
            self._count += len(new)

    def tick(self) -> None:
        """Write what has come in and look for the break; called by the reader, with or without samples."""
        with self._lock:
            r, now = self._recording, time.monotonic()
            if r is None:
                return
            if now - r.flushed_at >= FLUSH_S:
                self._flush(r)
            if now - r.looked_at >= LOOK_S and len(r.rows) > 5:
                r.looked_at = now
                rows = np.array(r.rows)
                r.reading = read_trace(rows[:, 0], rows[:, 1], noise_floor_n=self._resolution_n)
                broke_s = r.reading.break_s if r.reading else None
                if broke_s is not None and rows[-1, 0] - rows[0, 0] - broke_s >= SETTLE_S:
                    self._finish("ended")

    def _flush(self, r: _Recording) -> None:
        r.flushed_at = time.monotonic()
        fresh = r.rows[r.saved :]
        if not fresh or self._db is None:
            return
        try:
            with self._db.write() as conn:
                curves.append(conn, r.pull_id, r.sequence, np.array(fresh))
        except sqlite3.Error as error:
            # A full disk must not stop the reading: the samples stay in memory and are tried again.
            self.trouble = f"The curve cannot be saved ({error}); it is kept and tried again. Free some disk space."
            return
        self.trouble = ""
        r.saved += len(fresh)
        r.sequence += 1

    def _finish(self, state: str) -> LivePull:
        r = self._recording
        assert r is not None
        assert self._db is not None
        self._flush(r)
        rows = np.array(r.rows) if r.rows else np.empty((0, 3))
        reading = read_trace(rows[:, 0], rows[:, 1], noise_floor_n=self._resolution_n)
        with self._db.write() as conn:
            breaks.end_pull(conn, r.pull_id, state, propose(reading, rows, self._capacity_n), self._stamp())
        self._last = _live_pull(r, state, reading)
        self._recording = None
        return self._last

    # Orders, from the application ------------------------------------------------------------------------------------

    def zero(self) -> float:
        """Take the mean of the last half second as zero; returns it. The raw signal is not touched."""
        with self._lock:
            self._need_live()
            last = [f for t, f in self._recent if t >= self._recent[-1][0] - 0.5]
            self._zero_n = float(np.median(last))
            return self._zero_n

    def ready(self) -> None:
        """Raise ``Refusal`` unless a pull can begin: a live signal, nothing on the rig, no other pull."""
        with self._lock:
            self._need_live()
            if self._recording is not None:
                raise refuse("pull", "another pull is going on", "End it first, in this or another window.")
            if self._recent[-1][0] - self._recent[0][0] < QUIET_S:
                # Without quiet before it, the pull would take its zero from the rising load.
                raise refuse("pull", "the rig has only just begun to speak", "Begin again in a second.")
            last = [f for _, f in list(self._recent)[-5:]]
            load = float(np.median(last)) - self._zero_n
            limit = 0.01 * (self._capacity_n or 10_000.0)
            if abs(load) > limit:
                raise refuse(
                    "pull",
                    f"the rig already shows {load:.0f} N",
                    "Take the load off and press Zero; then begin.",
                )

    def _need_live(self) -> None:
        state = self.link()
        if state.status != "live" or not self._recent:
            raise refuse("rig", state.message, "Check the rig, or type the peak instead.")

    def begin(self, pull_id: int, code: str) -> None:
        """Record from now on into this pull, half a second of quiet from before included (its zero)."""
        with self._lock:
            last_s = self._recent[-1][0]
            quiet = [(t, f) for t, f in self._recent if t >= last_s - QUIET_S]
            r = _Recording(pull_id, code, quiet[0][0])
            r.rows = [(t - r.start_s, f, math.nan) for t, f in quiet]
            self._recording, self._last = r, None

    def end(self) -> LivePull:
        """End the pull by hand: it held, or is given up."""
        with self._lock:
            if self._recording is None:
                raise refuse("pull", "no pull is going on", "Begin one first.")
            return self._finish("ended")

    def forget(self, pull_id: int) -> None:
        """The pull was dealt with: stop showing it."""
        with self._lock:
            if self._last is not None and self._last.pull_id == pull_id:
                self._last = None

    def live(self, since: int) -> Live:
        """The state now, with the samples after number ``since`` (at most 2,000, thinned so that peaks stay)."""
        with self._lock:
            state = self.link()
            fresh = min(self._count - since, len(self._recent)) if since <= self._count else len(self._recent)
            points = list(self._recent)[-fresh:] if fresh else []
            r = self._recording
            pull = _live_pull(r, "open", r.reading) if r is not None else self._last
            message = self.trouble or state.message
            return Live(
                status=state.status,
                message=message,
                rig=state.identity.name,
                force_n=self._recent[-1][1] - self._zero_n if self._recent and state.status == "live" else None,
                zero_n=self._zero_n,
                sequence=self._count,
                points=[(round(t, 4), round(f - self._zero_n, 3)) for t, f in thin(points, 2000)],
                pull=pull,
            )


def _live_pull(r: _Recording, state: str, reading: Reading | None) -> LivePull:
    seconds = r.rows[-1][0] if r.rows else 0.0
    return LivePull(r.pull_id, r.code, state, reading.peak_n if reading else 0.0, seconds, r.saved)


def thin(points: Sequence[tuple[float, float]], most: int) -> list[tuple[float, float]]:
    """At most about ``most`` points: of each stretch its lowest and highest, in order, so that no peak is lost."""
    if len(points) <= most:
        return list(points)
    step = math.ceil(2 * len(points) / most)
    out: list[tuple[float, float]] = []
    for i in range(0, len(points), step):
        part = points[i : i + step]
        out += sorted({min(part, key=lambda p: p[1]), max(part, key=lambda p: p[1])})
    return out


def propose(reading: Reading | None, rows: np.ndarray[Any, Any], capacity_n: float | None) -> dict[str, Any] | None:
    """What the trace suggests as the observation; ``None`` for a trace too short to say anything.

    A pull without a break, or one whose raw signal reached the end of the rig's range, is only a lower bound.
    """
    if reading is None:
        return None
    saturated = capacity_n is not None and float(np.nanmax(rows[:, 1])) >= 0.995 * capacity_n
    return {
        **asdict(reading),
        "kind": "exact" if reading.broke and not saturated else "at_least",
        "saturated": saturated,
        "seconds": float(rows[-1, 0]),
        "samples": len(rows),
    }
