"""What every stage works with, and the one way in which an action is carried out."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any, TypeVar

from adhaero.core.refusal import Problem, Refusal
from adhaero.store import actions, batches
from adhaero.store.actions import Act
from adhaero.store.database import Database
from adhaero.workflow.breaking.in_hand import InHand
from adhaero.workflow.breaking.live import RigSession

__all__ = ["Act", "AppContext", "Conflict", "NotFound", "iso", "moment"]


T = TypeVar("T")
PREPARE_TIMES = 4
DECIDING = ("plan", "cut", "glue", "shop")
"""Stages whose actions change what a schedule or a layout is worked out from."""
MOST_CACHED = 24
"""Results cached in memory: the facts and the comparisons of the batches looked at last."""


class NotFound(LookupError):
    """There is no such thing; the message says what was looked for."""


class _Changed(Exception):
    """What an action was prepared from no longer stands."""


class Conflict(Refusal):
    """Somebody, perhaps in another tab, was quicker; nothing was changed."""


def iso(at: datetime) -> str:
    """A moment as stored: UTC with milliseconds."""
    return at.astimezone(UTC).isoformat(timespec="milliseconds").replace("+00:00", "Z")


@lru_cache(maxsize=4096)
def moment(text: str) -> datetime:
    """A stored moment."""
    return datetime.fromisoformat(text)


@dataclass
class AppContext:
    """The data, the clock, the source of seeds and the rig.

    ``hand_port`` is where the hand of a simulated rig can be asked.
    """

    db: Database
    now: Callable[[], datetime]
    new_seed: Callable[[], int]
    rig: RigSession = field(default_factory=RigSession)
    in_hand: InHand = field(default_factory=InHand)
    hand_port: int | None = None
    _cache: dict[Hashable, tuple[Hashable, Any]] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock, repr=False, compare=False)

    def stamp(self) -> str:
        """The current moment as stored."""
        return iso(self.now())

    def cached(self, name: Hashable, version: Hashable, make: Callable[[tuple[Hashable, T] | None], T]) -> T:
        """What ``make`` gives, made anew only when ``version`` differs from the last time under this name.

        ``make`` is given what was cached, with its version, to build on it.
        """
        with self._lock:
            found = self._cache.pop(name, None)
            if found is not None:
                # What was asked for last goes last.
                self._cache[name] = found
        if found is not None and found[0] == version:
            value: T = found[1]
            return value
        # Worked out without the lock: two screens that ask at once may both do it, and neither waits for the other.
        made = make(found)
        with self._lock:
            self._cache.pop(name, None)
            while len(self._cache) >= MOST_CACHED:
                # What is about all batches is asked for by every screen: it stays.
                self._cache.pop(next((k for k in self._cache if isinstance(k, tuple)), next(iter(self._cache))))
            self._cache[name] = version, made
        return made

    def forget(self) -> None:
        """Let go of everything that was worked out: the data under it is another."""
        with self._lock:
            self._cache.clear()

    def answered(self, key: str | None, request: str) -> dict[str, Any] | None:
        """What was answered under this key before; ``None`` if it is new."""
        with self.db.read() as conn:
            earlier = actions.answer_to(conn, key, request)
        return None if earlier is None else dict(earlier)

    def perform_prepared(
        self,
        act: Act,
        prepare: Callable[[sqlite3.Connection], T],
        write: Callable[[sqlite3.Connection, int, T], dict[str, Any]],
    ) -> dict[str, Any]:
        """Carry out an action that takes long to work out: ``prepare`` while others go on reading and writing, then
        ``write``, if nothing that counts has changed meanwhile; else once more.
        """
        earlier = self.answered(act.key, act.request)
        if earlier is not None:
            return earlier
        for _ in range(PREPARE_TIMES):
            with self.db.read() as conn:
                stands = actions.last_id(conn, stages=DECIDING)
                made = prepare(conn)

            def body(conn: sqlite3.Connection, action_id: int, made: T = made, stands: int = stands) -> dict[str, Any]:
                if actions.last_id(conn, action_id, stages=DECIDING) != stands:
                    raise _Changed
                return write(conn, action_id, made)

            try:
                return self.perform(act, body)
            except _Changed:
                continue
        raise Conflict([Problem("batch", "something else was changed meanwhile, again and again", "Try once more.")])

    def perform(self, act: Act, body: Callable[[sqlite3.Connection, int], dict[str, Any]]) -> dict[str, Any]:
        """Carry out an action in one transaction; what was already done under its key is answered, not repeated."""
        with self.db.write() as conn:
            earlier = actions.answer_to(conn, act.key, act.request)
            if earlier is not None:
                return dict(earlier)
            if act.batch_id is not None:
                need_batch(conn, act.batch_id)
            action_id = actions.record(conn, act, self.stamp())
            answer = body(conn, action_id)
            actions.remember(conn, action_id, answer)
            return answer


def need_batch(conn: sqlite3.Connection, batch_id: int) -> batches.Batch:
    """The batch, or ``NotFound``."""
    found = batches.batch(conn, batch_id)
    if found is None:
        raise NotFound(f"There is no batch {batch_id}.")
    return found


def need_version(conn: sqlite3.Connection, batch_id: int) -> batches.PlanVersion:
    """The version of a batch's plan that stands; ``NotFound`` for a batch whose making was undone."""
    found = need_batch(conn, batch_id)
    version = batches.current_version(conn, batch_id)
    if version is None:
        raise NotFound(f"{found.name} was taken back. Redo brings it again.")
    return version


def need_locked(conn: sqlite3.Connection, batch_id: int) -> batches.PlanVersion:
    """The locked plan of a batch; ``Refusal`` while it is a draft."""
    version = need_version(conn, batch_id)
    if version.kind == "draft":
        raise Refusal([Problem("plan", "the plan is not locked yet", "Lock it under Plan: that makes the specimens.")])
    return version
