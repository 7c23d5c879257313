"""The rig while the program runs: the live signal, and the pull that is going on.

A pull holds samples of its own connection and its own time only. The lock here guards memory; nothing waits for the
disk while holding it.
"""

from __future__ import annotations

import math
import threading
import time
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import islice

import numpy as np
from numpy.typing import NDArray

from adhaero.core.breaking.instrument import Instrument
from adhaero.core.breaking.proposal import Proposal, propose
from adhaero.core.breaking.quiet import is_quiet
from adhaero.core.breaking.signal import GAP_S, GAP_SAMPLES, SETTLE_S, SignalTracker
from adhaero.core.breaking.soundness import TOLERANCE
from adhaero.core.breaking.trace import thin
from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Refusal, refuse
from adhaero.core.units import METRIC, Units
from adhaero.rig.protocol import Identity
from adhaero.rig.reader import LinkState, Reader, Sample
from adhaero.store import curves, pulls
from adhaero.store.database import Database
from adhaero.workflow.breaking.recorder import Recorder, understood

REST_S = 0.6
"""The stretch before a pull that must be at rest; its zero is taken from it."""
RATE_OVER_S = 1.0
"""The stretch over which a speed is told."""
STALE_S = 0.5
HITCH_S = 2.0
"""How long a pull waits for a signal that is away for a moment, or not at rest yet, before it is refused."""
UNLOADED_SHARE = 0.01
KEEP_SAMPLES = 24_000
WRITE_WAIT_S = 2.0
_OFF = LinkState("off", "No rig is connected. Type the peak, or give its port in the shop.", Identity(), 0, 0)


@dataclass(frozen=True)
class LivePull:
    """The pull that is going on, or the one that just ended; loads zero-corrected, in N.

    ``under_load_s`` is how long it has borne a load, ``travel_rate_mm_s`` how quickly the rig has travelled over the
    last second, where it tells; ``state`` is open, saving (over, and on its way to disk), ended or
    interrupted. ``broke`` is said as soon as it is seen; ``gap`` is whether the signal is away.
    """

    pull_id: int
    code: str
    state: str
    peak_n: float
    seconds: float
    saved_samples: int
    broke: bool
    gap: bool
    under_load_s: float | None
    travel_rate_mm_s: float | None


@dataclass(frozen=True)
class Live:
    """What the screen needs several times a second. ``points`` are (s, N) since the asked sequence number;
    ``connection`` changes when earlier points are of another time.
    """

    status: str
    message: str
    rig: str
    force_n: float | None
    zero_n: float
    connection: int
    sequence: int
    points: list[tuple[float, float]]
    pull: LivePull | None


@dataclass
class _Recording:
    """One pull while it goes on."""

    pull_id: int
    code: str
    start_s: float
    capacity_n: float | None
    tracker: SignalTracker
    in_cycles: bool = False
    tolerance: float = TOLERANCE
    broke_at: float | None = None
    heard_at: float = 0.0


class RigSession:
    """Listens to the reader (in its thread) and answers the application (in others)."""

    def __init__(self) -> None:
        self._lock = threading.RLock()
        self._stamp: Callable[[], str] = lambda: ""
        self._recorder: Recorder | None = None
        self._reader: Reader | None = None
        self._recent: deque[tuple[float, float, float]] = deque(maxlen=KEEP_SAMPLES)
        self._count = self._connection = self._readers = 0
        self._zero_n = 0.0
        self._heard_at = 0.0
        self._reserved_s: float | None = None
        self._recording: _Recording | None = None
        self._last: tuple[_Recording, str] | None = None
        self._capacity_n: float | None = None

    # Connection ------------------------------------------------------------------------------------------------------

    def attach(self, db: Database, stamp: Callable[[], str]) -> None:
        """Where raw signals go, and the clock for when a pull ended. Pulls left open by a crash become interrupted."""
        self._stamp = stamp
        with db.read() as conn:
            left = [(p, pulls.range_of(conn, p.id), list(curves.chunks(conn, p.id))) for p in pulls.open_pulls(conn)]
        found = [(p.id, _recovered(parts, *limits, in_cycles=p.in_cycles)) for p, limits, parts in left]
        with db.write() as conn:
            for pull_id, proposal in found:
                whole = understood(conn, pull_id, proposal)
                pulls.end_pull(conn, pull_id, "interrupted", whole.to_json() if whole else None, stamp())
            for old in pulls.without_course(conn):
                whole = understood(conn, old.id, old.proposal)
                pulls.end_pull(conn, old.id, old.state, whole.to_json() if whole else None, stamp())
        self._recorder = Recorder(db, self.tick)
        self._recorder.start()

    def connect(self, port: str, capacity_n: float, instrument: Instrument | None = None, pattern: str = "") -> None:
        """Read from this port from now on, as this instrument and its lines have it; an empty port disconnects."""
        self._stop_reading()
        self._capacity_n = capacity_n
        if port:
            self._reader = Reader(port, self, instrument=instrument, pattern=pattern)
            self._reader.start()

    def tail(self) -> list[str]:
        """The last lines as they came."""
        return list(self._reader.tail) if self._reader else []

    def close(self) -> None:
        """Stop reading; a pull that is going on ends as interrupted, and what is left goes to disk."""
        self._stop_reading()
        if self._recorder is not None:
            self._recorder.stop()
            self._recorder = None

    def _stop_reading(self) -> None:
        reader, self._reader = self._reader, None
        if reader is not None:
            reader.stop()
        with self._lock:
            self._forget_signal()
            # Another reader counts its connections anew.
            self._readers += 1

    def _forget_signal(self) -> None:
        """What came before is of another time: it is no part of any pull to come, nor is the zero taken then."""
        if self._recording is not None:
            self._finish("interrupted", cut_off=True)
        self._recent.clear()
        self._zero_n = 0.0
        if self._reserved_s is not None:
            self._reserved_s = -math.inf

    def link(self) -> LinkState:
        """How the connection is."""
        return _OFF if self._reader is None else self._reader.state()

    # Samples, in the reader's thread ---------------------------------------------------------------------------------

    def samples(self, new: Sequence[Sample], connection: int) -> None:
        """Take new samples; called by the reader."""
        with self._lock:
            current = 1000 * self._readers + connection
            if current != self._connection:
                self._forget_signal()
                self._connection = current
            nan = math.nan
            rows = [(s.t_s, s.force_n, nan if s.displacement_mm is None else s.displacement_mm) for s in new]
            self._recent.extend(rows)
            self._count += len(new)
            self._heard_at = time.monotonic()
            r = self._recording
            if r is not None:
                self._record(r, np.array(rows))

    def _record(self, r: _Recording, rows: NDArray[np.float64]) -> None:
        rows[:, 0] -= r.start_s
        assert self._recorder is not None
        self._recorder.take(r.pull_id, rows)
        r.tracker.feed(rows[:, 0], rows[:, 1])
        r.heard_at = time.monotonic()
        broke = r.tracker.broke()
        if broke is None:
            r.broke_at = None
            return
        r.broke_at = r.broke_at or r.heard_at
        if r.tracker.is_over and not r.in_cycles:
            self._finish("ended")

    def lost(self) -> None:
        """The connection is gone; called by the reader. What the pull has is a bound: it may have broken unseen."""
        with self._lock:
            self._forget_signal()

    def tick(self) -> None:
        """A pull that broke is over also when nothing more is sent; called by the recorder."""
        with self._lock:
            r = self._recording
            if (
                r is not None
                and not r.in_cycles
                and r.broke_at is not None
                and time.monotonic() - r.heard_at > SETTLE_S
            ):
                self._finish("ended")

    def _finish(self, state: str, *, cut_off: bool = False) -> None:
        r = self._recording
        assert r is not None
        assert self._recorder is not None
        silent = cut_off or time.monotonic() - r.heard_at > STALE_S
        reading = r.tracker.reading(ended_by_silence=silent)
        proposal = propose(reading, r.capacity_n, in_cycles=r.in_cycles)
        self._recorder.finish(r.pull_id, state, proposal, self._stamp(), r.tolerance)
        self._last, self._recording = (r, state), None

    # Orders, from the application ------------------------------------------------------------------------------------

    def zero(self) -> float:
        """Take the mean of the last half second as zero; returns it. The raw signal is not touched."""
        with self._lock:
            self._need_live()
            last = np.array(self._quiet())
            if not is_quiet(last[:, 0], last[:, 1], 0.0, self._capacity_n or 10_000.0):
                raise refuse("zero", "the load is moving", "Let the rig come to rest; then press Zero.")
            self._zero_n = float(np.median(last[:, 1]))
            return self._zero_n

    def reserve(self, units: Units = METRIC, step_n: float = 0.0) -> None:
        """Raise ``Refusal`` unless a pull can begin: a live signal, at rest and unloaded, no other pull. Waits a moment
        for that. Holds the place until ``begin`` or ``release``. ``step_n`` is the rig's resolution.
        """
        until = time.monotonic() + HITCH_S
        while True:
            with self._lock:
                if self._recording is not None or self._reserved_s is not None:
                    raise refuse("pull", "another pull is going on", "End that one first, here or in the other window.")
                why = self._not_ready(step_n, units)
                if why is None:
                    self._reserved_s = self._quiet()[0][0]
                    return
            if self.link().status != "live" or time.monotonic() > until:
                raise why
            time.sleep(0.02)

    def _not_ready(self, step_n: float, units: Units) -> Refusal | None:
        """Why a pull can't begin yet: no live signal, a load on the rig, or no rest to take its zero from."""
        try:
            self._need_live()
        except Refusal as refusal:
            return refusal
        quiet = np.array(self._quiet())
        capacity = self._capacity_n or 10_000.0
        load = float(np.median(quiet[-5:, 1])) - self._zero_n
        if abs(load) > UNLOADED_SHARE * capacity:
            shown = units.text(load, Dimension.FORCE)
            return refuse("pull", f"the rig already shows {shown}", "Take the load off and press Zero; then begin.")
        if quiet[-1, 0] - quiet[0, 0] < REST_S - 0.1:
            return refuse("pull", "the rig has only just begun to speak", "Begin again in a second.")
        if not is_quiet(quiet[:, 0], quiet[:, 1], step_n, capacity):
            return refuse("pull", "the load is moving", "Let the rig come to rest; then begin.")
        return None

    def _quiet(self) -> list[tuple[float, float]]:
        """The last samples without a hole between them, no older than the quiet that a pull begins with."""
        found: list[tuple[float, float]] = []
        longest = GAP_S
        for at, force, _ in reversed(self._recent):
            if found and (found[-1][0] - at > longest or found[0][0] - at > REST_S):
                break
            if len(found) == GAP_SAMPLES:
                longest = max(GAP_S, found[0][0] - at)
            found.append((at, force))
        return found[::-1]

    def release(self) -> None:
        """Give the place back: the pull does not begin after all."""
        with self._lock:
            self._reserved_s = None

    def _need_live(self) -> None:
        state = self.link()
        if state.status != "live" or not self._recent:
            raise refuse("rig", state.message, "Check the rig, or type the peak instead.")
        if self._stale():
            raise refuse("rig", "nothing has come from the rig for a moment", "Wait until the signal goes on.")

    def _stale(self) -> bool:
        return time.monotonic() - self._heard_at > STALE_S

    def begin(
        self, pull_id: int, code: str, capacity_n: float | None, resolution_n: float, *, in_cycles: bool = False,
        tolerance: float = TOLERANCE,
    ) -> None:  # fmt: skip
        """Record from now on into this pull, half a second of quiet from before included (its zero). One ``in_cycles``
        ends by hand only. ``tolerance`` is the share of its peak that may go unseen.

        Should the signal have gone since the place was reserved, the pull begins with what comes.
        """
        with self._lock:
            since, self._reserved_s = self._reserved_s, None
            first = [row for row in self._recent if since is None or row[0] >= since]
            start = first[0][0] if first else 0.0
            r = _Recording(pull_id, code, start, capacity_n, SignalTracker(resolution_n), in_cycles, tolerance)
            self._recording, self._last = r, None
            r.heard_at = time.monotonic()
            if first:
                self._record(r, np.array(first))

    def end(self) -> LivePull:
        """End the pull by hand: it held, or is given up."""
        with self._lock:
            if self._recording is None:
                raise refuse("pull", "no pull is going on", "Begin one first.")
            self._finish("ended")
            assert self._last is not None
            pull_id = self._last[0].pull_id
        if self._recorder is not None:
            self._recorder.wait_for(pull_id, WRITE_WAIT_S)
        with self._lock:
            found = self._pull()
            assert found is not None
            return found

    def is_open(self) -> bool:
        """Whether a pull is going on or about to."""
        with self._lock:
            return self._recording is not None or self._reserved_s is not None

    def forget(self, pull_id: int) -> None:
        """The pull was dealt with: stop showing it."""
        with self._lock:
            if self._last is not None and self._last[0].pull_id == pull_id:
                self._last = None

    def live(self, since: int, connection: int = 0) -> Live:
        """The state now, with the samples after number ``since`` of that connection (at most about 2,000, thinned so
        that peaks stay).
        """
        with self._lock:
            state = self.link()
            known = connection == self._connection and since <= self._count
            fresh = min(self._count - since, len(self._recent)) if known else len(self._recent)
            points = [(t, f) for t, f, _ in islice(reversed(self._recent), fresh)][::-1]
            zero, here, sequence = self._zero_n, self._connection, self._count
            now = self._recent[-1][1] - zero if self._recent and state.status == "live" else None
            pull = self._pull()
        trouble = self._recorder.trouble if self._recorder else ""
        shown = thin(np.array(points).reshape(-1, 2), 2000)
        return Live(
            status=state.status,
            message=trouble or state.message,
            rig=state.identity.name,
            force_n=now,
            zero_n=zero,
            connection=here,
            sequence=sequence,
            points=[(round(t, 4), round(f - zero, 3)) for t, f in shown.tolist()],
            pull=pull,
        )

    def _pull(self) -> LivePull | None:
        r, state = (self._recording, "open") if self._recording else self._last or (None, "")
        if r is None or self._recorder is None:
            return None
        written = state == "open" or self._recorder.is_written(r.pull_id)
        return LivePull(
            pull_id=r.pull_id,
            code=r.code,
            state=state if written else "saving",
            peak_n=r.tracker.peak_n,
            seconds=r.tracker.end_s,
            saved_samples=r.tracker.samples if state != "open" and written else self._recorder.saved(r.pull_id),
            broke=r.broke_at is not None,
            gap=state == "open" and time.monotonic() - r.heard_at > STALE_S,
            under_load_s=r.tracker.under_load_s,
            travel_rate_mm_s=self._travel_rate(),
        )

    def _travel_rate(self) -> float | None:
        """Over the last second; ``None`` where the rig tells no travel."""
        if not self._recent or math.isnan(self._recent[-1][2]):
            return None
        (now, _, there), first = self._recent[-1], self._recent[-1]
        for sample in reversed(self._recent):
            if now - sample[0] > RATE_OVER_S:
                break
            first = sample
        return (there - first[2]) / (now - first[0]) if now > first[0] and not math.isnan(first[2]) else None


def _recovered(
    parts: Sequence[NDArray[np.float64]], capacity_n: float | None, resolution_n: float, *, in_cycles: bool
) -> Proposal | None:
    """What a pull shows that a crash cut off: by the range of the rig that it was made with."""
    tracker = SignalTracker(resolution_n)
    for rows in parts:
        tracker.feed(rows[:, 0], rows[:, 1])
    return propose(tracker.reading(ended_by_silence=True), capacity_n, in_cycles=in_cycles)
