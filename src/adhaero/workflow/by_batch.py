"""Working something out batch by batch: once for each state of a batch, also over a restart of the program."""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from typing import Any, Generic, TypeVar

from adhaero.store import actions, batches, worked_out
from adhaero.workflow.context import AppContext

T = TypeVar("T")


@dataclass(frozen=True)
class ByBatch(Generic[T]):
    """Something worked out for every batch under a ``name``: how it is ``made``, written and read."""

    name: str
    made: Callable[[AppContext, sqlite3.Connection, int, int], T]
    written: Callable[[T], Any]
    read: Callable[[Any], T]

    def of_all(self, w: AppContext, conn: sqlite3.Connection, besides: int | None = None) -> dict[int, T]:
        """Return it for every existing batch, ``besides`` one. Only batches with an action since the last time are
        looked at.
        """

        def make(old: tuple[Any, dict[int, tuple[int, T]]] | None) -> dict[int, tuple[int, T]]:
            known = old[1] if old else self._kept(conn)
            found, new = dict[int, tuple[int, T]](), dict[int, tuple[int, Any]]()
            for b, last in batches.last_actions(conn).items():
                before = known.get(b)
                if before is not None and (before[0] == last or b == besides):
                    found[b] = before
                elif b != besides:
                    value = self.made(w, conn, b, last)
                    found[b] = last, value
                    new[b] = last, self.written(value)
            if old is None and new:
                # Kept for the next start, if nobody is writing: it is no fact, and can wait.
                w.db.write_if_free(lambda c: worked_out.keep(c, self.name, code_version(), new))
            return found

        stands = actions.last_id(conn), besides
        return {b: value for b, (_, value) in w.cached(self.name, stands, make).items() if b != besides}

    def _kept(self, conn: sqlite3.Connection) -> dict[int, tuple[int, T]]:
        rows = worked_out.kept(conn, self.name, code_version())
        return {b: (last, self.read(body)) for b, (last, body) in rows.items()}


@lru_cache(maxsize=1)
def code_version() -> str:
    """Return a fingerprint of the code that does the work. Results saved by another version are worked out again."""
    digest = hashlib.sha256()
    for package in ("adhaero.core", "adhaero.store", "adhaero.workflow"):
        _add(digest, resources.files(package))
    return digest.hexdigest()[:16]


def _add(digest: Any, folder: Any) -> None:
    for path in sorted(folder.iterdir(), key=lambda p: p.name):
        if path.is_dir() and path.name != "__pycache__":
            _add(digest, path)
        elif path.name.endswith(".py"):
            digest.update(path.read_bytes())
