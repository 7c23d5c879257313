"""Sets of moments as sorted stretches, and the calendar that runs are placed into."""

from __future__ import annotations

from bisect import bisect_left, insort
from collections.abc import Iterable, Sequence

from adhaero.core.glue.schedule.hours import Stretch
from adhaero.core.glue.schedule.problem import Problem
from adhaero.core.glue.schedule.timing import Chain

Moments = list[Stretch]
"""Start times that are possible: closed stretches [from, to], sorted and apart."""


def overlap(a: Sequence[Stretch], b: Sequence[Stretch]) -> Moments:
    """What lies in both."""
    found, i, j = [], 0, 0
    while i < len(a) and j < len(b):
        low, high = max(a[i][0], b[j][0]), min(a[i][1], b[j][1])
        if low <= high:
            found.append((low, high))
        if a[i][1] < b[j][1]:
            i += 1
        else:
            j += 1
    return found


def shifted(a: Sequence[Stretch], low: int, high: int) -> Moments:
    """Every moment that lies ``low`` to ``high`` before one of ``a``."""
    found: Moments = []
    for x, y in a:
        x, y = x - high, y - low
        if found and x <= found[-1][1]:
            found[-1] = found[-1][0], max(found[-1][1], y)
        else:
            found.append((x, y))
    return found


def within(a: Sequence[Stretch], low: int, high: int) -> Moments:
    """The part of ``a`` from ``low`` to ``high``."""
    i = max(0, bisect_left(a, (low,)) - 1)
    found = []
    for x, y in a[i:]:
        if x > high:
            break
        if y >= low:
            found.append((max(x, low), min(y, high)))
    return found


class Calendar:
    """Hours at the bench with what is already in them, and the clamps in use."""

    def __init__(self, problem: Problem) -> None:
        self._problem = problem
        self._hours = list(problem.hours)
        self._busy: list[Stretch] = sorted(problem.busy)
        self._count = {c.key: c.count for c in problem.clamps}
        self._held: dict[str, list[tuple[int, int, int]]] = {c.key: [] for c in problem.clamps}
        for kind, a, b, many in problem.held:
            insort(self._held[kind], (a, b, many))
        self._free: dict[int, Moments] = {}

    def free(self, length_s: int) -> Moments:
        """Every start of a task of that length that hands and hours allow."""
        known = self._free.get(length_s)
        if known is not None:
            return known
        found: Moments = []
        b, n = self._busy, 0
        for low, high in self._hours:
            start = low
            while n < len(b) and b[n][1] <= low:
                n += 1
            i = n
            while i < len(b) and b[i][0] < high:
                if b[i][0] - length_s >= start:
                    found.append((start, b[i][0] - length_s))
                start = max(start, b[i][1])
                i += 1
            if high - length_s >= start:
                found.append((start, high - length_s))
        self._free[length_s] = found
        return found

    def without_clamps(self, kind: str, many: int, length_s: int) -> Moments:
        """Starts at which fewer than ``many`` clamps are free at some moment of the next ``length_s``."""
        room = self._count.get(kind, 0) - many
        edges = sorted([(a, n) for a, _, n in self._held[kind]] + [(b, -n) for _, b, n in self._held[kind]])
        found: Moments = []
        used, over = 0, None
        for at, change in edges:
            used += change
            if used > room and over is None:
                over = at
            elif used <= room and over is not None:
                found.append((over - length_s + 1, at - 1))
                over = None
        return shifted(found, 0, 0)

    def place(self, chain: Chain, earliest: int = 0) -> list[int] | None:
        """The earliest starts of a run's tasks that keep everything; ``None`` if there are none. Nothing is booked."""
        tasks = chain.tasks
        able: list[Moments] = [self.free(t.length_s) for t in tasks]
        for i in range(len(tasks) - 1, 0, -1):
            able[tasks[i].after] = overlap(able[tasks[i].after], shifted(able[i], tasks[i].low, tasks[i].high))
            if not able[tasks[i].after]:
                return None
        hold = tasks[chain.freeing].low + tasks[chain.freeing].length_s
        starts = within(able[0], earliest, 1 << 62)
        for kind, many in chain.clamps.items():
            if many > self._count.get(kind, 0):
                return None
            starts = _less(starts, self.without_clamps(kind, many, hold))
        for low, high in starts:
            at: int | None = low
            # Tasks of one run may be in each other's way: then its start is moved on, in steps of a quarter of an hour.
            while at is not None and at <= high:
                found = self._forward(chain, able, at)
                if found is not None and self._clamps_free(chain, found):
                    return found
                at = at + 900 if at + 900 <= high else (high if at < high else None)
        return None

    def _forward(self, chain: Chain, able: list[Moments], start: int) -> list[int] | None:
        found = [start]
        own = [(start, start + chain.tasks[0].length_s)]
        for i, t in enumerate(chain.tasks[1:], 1):
            base = found[t.after]
            window = within(able[i], base + t.low, base + t.high)
            at = next((s for s in _clear(window, own, t.length_s)), None)
            if at is None:
                return None
            found.append(at)
            own.append((at, at + t.length_s))
        return found

    def _clamps_free(self, chain: Chain, starts: Sequence[int]) -> bool:
        length = _freed(chain, starts) - starts[0]
        return all(
            not within(self.without_clamps(kind, many, length), starts[0], starts[0])
            for kind, many in chain.clamps.items()
        )

    def book(self, chain: Chain, starts: Sequence[int]) -> None:
        """Put a run into the calendar."""
        for t, s in zip(chain.tasks, starts, strict=True):
            insort(self._busy, (s, s + t.length_s))
        for kind, many in chain.clamps.items():
            insort(self._held[kind], (starts[0], _freed(chain, starts), many))
        self._free.clear()

    def unbook(self, chain: Chain, starts: Sequence[int]) -> None:
        """Take a run out again."""
        for t, s in zip(chain.tasks, starts, strict=True):
            self._busy.remove((s, s + t.length_s))
        for kind, many in chain.clamps.items():
            self._held[kind].remove((starts[0], _freed(chain, starts), many))
        self._free.clear()


def _freed(chain: Chain, starts: Sequence[int]) -> int:
    """When the clamps of a run are free."""
    return starts[chain.freeing] + chain.tasks[chain.freeing].length_s


def _less(a: Sequence[Stretch], out: Sequence[Stretch]) -> Moments:
    """``a`` without ``out``."""
    found: Moments = []
    j = 0
    for low, high in a:
        while j < len(out) and out[j][1] < low:
            j += 1
        i, start = j, low
        while i < len(out) and out[i][0] <= high:
            if out[i][0] > start:
                found.append((start, out[i][0] - 1))
            start = max(start, out[i][1] + 1)
            i += 1
        if start <= high:
            found.append((start, high))
    return found


def _clear(window: Sequence[Stretch], own: Iterable[Stretch], length_s: int) -> Iterable[int]:
    """Starts in ``window`` that do not lie over the run's own other tasks: the earliest of each stretch."""
    for low, high in window:
        at = low
        for a, b in sorted(own):
            if at < b and a < at + length_s:
                at = b
        if at <= high:
            yield at
