"""What every stage works with, and the one way in which an action is carried out."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any, TypeVar

from adhaero.core.refusal import Problem, Refusal
from adhaero.store import actions, batches
from adhaero.store.actions import Act
from adhaero.store.database import Database
from adhaero.workflow.breaking.rig_session import RigSession

__all__ = ["Act", "Conflict", "NotFound", "Workshop", "iso", "moment"]


T = TypeVar("T")
MOST_KEPT = 24
"""Results kept in memory: the facts and the comparisons of the batches looked at last."""


class NotFound(LookupError):
    """There is no such thing; the message says what was looked for."""


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
class Workshop:
    """The data, the clock, the source of seeds and the rig.

    ``hand_port`` is where the hand of a simulated rig can be asked.
    """

    db: Database
    now: Callable[[], datetime]
    new_seed: Callable[[], int]
    rig: RigSession = field(default_factory=RigSession)
    hand_port: int | None = None
    _kept: dict[Hashable, tuple[Hashable, Any]] = field(default_factory=dict)

    def stamp(self) -> str:
        """The current moment as stored."""
        return iso(self.now())

    def kept(self, name: Hashable, version: Hashable, make: Callable[[tuple[Hashable, T] | None], T]) -> T:
        """What ``make`` gives, made anew only when ``version`` differs from the last time under this name.

        ``make`` is given what was kept, with its version, to build on it.
        """
        found = self._kept.get(name)
        if found is not None and found[0] == version:
            value: T = found[1]
            return value
        made = make(found)
        while len(self._kept) >= MOST_KEPT:
            self._kept.pop(next(iter(self._kept)), None)
        self._kept[name] = version, made
        return made

    def perform(self, act: Act, body: Callable[[sqlite3.Connection, int], dict[str, Any]]) -> dict[str, Any]:
        """Carry out an action in one transaction; what was already done under its key is answered, not repeated."""
        with self.db.write() as conn:
            earlier = actions.answer_to(conn, act.key, act.request)
            if earlier is not None:
                return dict(earlier)
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


def need_locked(conn: sqlite3.Connection, batch_id: int) -> batches.PlanVersion:
    """The locked plan of a batch; ``Refusal`` while it is a draft."""
    need_batch(conn, batch_id)
    version = batches.current_version(conn, batch_id)
    if version is None or version.kind == "draft":
        raise Refusal([Problem("plan", "the plan is not locked yet", "Lock it under Plan: that makes the specimens.")])
    return version
