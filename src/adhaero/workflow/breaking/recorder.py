"""The raw signal of pulls on its way to disk, in a thread of its own: the only writer of samples.

Whoever reads the rig puts samples into a queue and goes on. A full disk or a busy file holds up nobody: what cannot be
written yet stays in memory, is tried again, and is said.
"""

from __future__ import annotations

import sqlite3
import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from adhaero.core.breaking.proposal import Proposal, judged
from adhaero.core.breaking.soundness import TOLERANCE
from adhaero.core.breaking.trace import course
from adhaero.store import curves, pulls
from adhaero.store.database import Database

FLUSH_S = 0.15
"""Samples go to disk several times a second: of half a second lost by a crash little is left on a busy machine."""
RETRY_S = 0.5


@dataclass
class _Pull:
    """What of a pull is still to be written: rows of (s, N, mm), and how it ended."""

    rows: list[NDArray[np.float64]] = field(default_factory=list)
    saved: int = 0
    sequence: int = 0
    end: tuple[str, Proposal | None, str, float] | None = None


class Recorder:
    """Writes what it is given. ``tick`` is called at each turn, for what must be looked at without new samples."""

    def __init__(self, db: Database, tick: Callable[[], None]) -> None:
        self._db, self._tick = db, tick
        self._lock = threading.Lock()
        self._pulls: dict[int, _Pull] = {}
        self._stop = threading.Event()
        self._wake = threading.Event()
        self._thread = threading.Thread(target=self._run, name="recorder", daemon=True)
        self.trouble = ""

    def start(self) -> None:
        """Begin to write."""
        self._thread.start()

    def stop(self) -> None:
        """Write what is left, as far as that goes, and end."""
        self._stop.set()
        self._wake.set()
        if self._thread.is_alive():
            self._thread.join(timeout=8)

    def take(self, pull_id: int, rows: NDArray[np.float64]) -> None:
        """Further rows of (s since the start of the pull, N, mm or NaN)."""
        with self._lock:
            known = pull_id in self._pulls
            self._pulls.setdefault(pull_id, _Pull()).rows.append(rows)
        if not known:
            # The quiet before a pull comes at once: it goes to disk at once.
            self._wake.set()

    def finish(
        self, pull_id: int, state: str, proposal: Proposal | None, now: str, tolerance: float = TOLERANCE
    ) -> None:
        """The pull is over; that is written after its last samples. ``tolerance`` is that of ``judged``."""
        with self._lock:
            self._pulls.setdefault(pull_id, _Pull()).end = state, proposal, now, tolerance
        self._wake.set()

    def saved(self, pull_id: int) -> int:
        """How many samples of a pull are on disk; all of them once the end is, too."""
        with self._lock:
            found = self._pulls.get(pull_id)
            return found.saved if found else 0

    def is_written(self, pull_id: int) -> bool:
        """Whether the pull and its end are on disk."""
        with self._lock:
            return pull_id not in self._pulls

    def wait_for(self, pull_id: int, seconds: float) -> bool:
        """Wait until the pull is on disk; false if it takes longer."""
        end = time.monotonic() + seconds
        while not self.is_written(pull_id):
            if time.monotonic() > end:
                return False
            time.sleep(0.005)
        return True

    def _run(self) -> None:
        while not self._stop.is_set():
            self._wake.wait(RETRY_S if self.trouble else FLUSH_S)
            self._wake.clear()
            self._tick()
            self._write()
        self._write()

    def _write(self) -> None:
        with self._lock:
            waiting = {i: (p, list(p.rows), p.end) for i, p in self._pulls.items() if p.rows or p.end}
        if not waiting:
            return
        try:
            with self._db.write() as conn:
                for pull_id, (p, rows, _) in waiting.items():
                    if rows:
                        curves.append(conn, pull_id, p.sequence, np.concatenate(rows))
            self._written(waiting)
            for pull_id, (_, _, end) in waiting.items():
                if end is not None:
                    self._end(pull_id, *end)
        except (sqlite3.Error, OSError) as error:
            self.trouble = (
                f"The curve cannot be saved ({_why(error)}). Nothing is lost: it is kept in memory and tried again."
            )
            return
        self.trouble = ""

    def _written(self, waiting: Mapping[int, tuple[_Pull, list[NDArray[np.float64]], object]]) -> None:
        with self._lock:
            for p, rows, _ in waiting.values():
                del p.rows[: len(rows)]
                p.saved += sum(len(r) for r in rows)
                p.sequence += bool(rows)

    def _end(self, pull_id: int, state: str, proposal: Proposal | None, now: str, tolerance: float) -> None:
        """Read the whole curve, which may take a second, and only then keep others from writing."""
        with self._db.read() as conn:
            whole = understood(conn, pull_id, proposal, tolerance)
        with self._db.write() as conn:
            pulls.end_pull(conn, pull_id, state, whole.to_json() if whole else None, now)
        with self._lock:
            del self._pulls[pull_id]


def understood(
    conn: sqlite3.Connection, pull_id: int, proposal: Proposal | None, tolerance: float = TOLERANCE
) -> Proposal | None:
    """Judge a proposal by its whole curve, which must be on disk, and add the curve's marks."""
    if proposal is None:
        return None
    pull = pulls.pull(conn, pull_id)
    in_cycles = pull is not None and pull.in_cycles
    rows = curves.curve(conn, pull_id)
    capacity_n, step_n = pulls.range_of(conn, pull_id)
    whole = judged(proposal, rows, step_n, capacity_n, tolerance)
    return replace(whole, course=course(rows, whole.reading, in_cycles=in_cycles))


def _why(error: Exception) -> str:
    text = str(error)
    if "full" in text or "No space" in text:
        return "the disk is full: free some space"
    if "locked" in text or "busy" in text:
        return "the data file is in use"
    return text
