"""Copies of the data as the shop sees them: taken, listed with the space they take, and put back."""

from __future__ import annotations

import logging
import shutil
import threading
from dataclasses import dataclass
from pathlib import Path

from adhaero.core.refusal import Refusal, refuse
from adhaero.store import copies
from adhaero.workflow.context import AppContext, iso
from adhaero.workflow.glue.scheduling import end_all
from adhaero.workflow.rigs import connect

HOUR_S = 3600.0


_log = logging.getLogger(__name__)


@dataclass(frozen=True)
class CopyView:
    """A copy: its name, when it was made, why, and its size in bytes."""

    name: str
    at: str
    why: str
    size: int


@dataclass(frozen=True)
class CopiesView:
    """The copies, where they lie, and the space (bytes): of the data, of all copies, and what is free."""

    folder: str
    copies: list[CopyView]
    data: int
    taken: int
    free: int


def view(w: AppContext) -> CopiesView:
    """All copies, the newest first."""
    own = copies.listed(w.db)
    free = shutil.disk_usage(w.db.path.parent).free
    return CopiesView(str(copies.folder_of(w.db)),
                      [CopyView(c.name, iso(c.at), copies.REASONS[c.why], c.size) for c in own],
                      w.db.path.stat().st_size, sum(c.size for c in own), free)  # fmt: skip


def take(w: AppContext) -> CopiesView:
    """Take a copy now."""
    copies.take(w.db, w.now(), copies.TAKEN)
    return view(w)


def put_back(w: AppContext, name: str) -> CopiesView:
    """Put a copy in the place of the data. ``Refusal`` while a pull is recorded, or for a copy that cannot be used."""
    path = copies.path_of(w.db, name)
    if w.rig.is_open():
        raise refuse("copy", "a pull is being recorded", "End it first.")
    end_all(w)
    w.rig.close()
    try:
        copies.put_back(w.db, path, w.now())
    finally:
        w.forget()
        w.rig.attach(w.db, w.stamp)
        connect(w)
    return view(w)


def file_of(w: AppContext, name: str) -> Path:
    """The file of a copy, to be taken elsewhere."""
    return copies.path_of(w.db, name)


def keep_daily(w: AppContext, ended: threading.Event) -> threading.Thread:
    """Take a copy of each day on which the program runs, in a thread of its own until ``ended``."""

    def run() -> None:
        while True:
            try:
                if copies.due(w.db, w.now()):
                    copies.take(w.db, w.now(), copies.DAILY)
            except (Refusal, OSError) as error:
                # Too little room, or a damaged file: the next hour tries again, and the terminal says why.
                _log.warning("no copy of today was made: %s", error)
            if ended.wait(HOUR_S):
                return

    thread = threading.Thread(target=run, name="daily copy", daemon=True)
    thread.start()
    return thread
