"""Copies of the data file in a folder beside it: one a day while the program runs, and one before anything is put back.

Of the daily ones the last fourteen are kept, and the last of each month; those that somebody took stay.
"""

from __future__ import annotations

import re
import shutil
import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from adhaero.core.refusal import refuse
from adhaero.store.database import COPIES, Database, Unusable

DAILY, TAKEN, BEFORE, UPDATE = "day", "taken", "before", "update"
REASONS = {DAILY: "of the day", TAKEN: "taken by hand", BEFORE: "before another was put back",
           UPDATE: "before the program was updated"}  # fmt: skip
LAST, LAST_BEFORE = 14, 5
TIMES = 5
SPARE = 2
"""A copy is only begun with this many times its size free."""
_NAME = re.compile(r"(\d{8}T\d{6}Z)-(day|taken|before|update)\.db")


@dataclass(frozen=True)
class Copy:
    """A copy: its file name, when it was made (UTC), why, and its size in bytes."""

    name: str
    at: datetime
    why: str
    size: int


def folder_of(db: Database) -> Path:
    """Where the copies of a data file lie."""
    return db.path.parent / COPIES


def listed(db: Database) -> list[Copy]:
    """The copies that there are, the newest first."""
    found = []
    for path in folder_of(db).glob("*.db"):
        told = _NAME.fullmatch(path.name)
        if told:
            at = datetime.strptime(told[1], "%Y%m%dT%H%M%SZ").replace(tzinfo=UTC)
            found.append(Copy(path.name, at, told[2], path.stat().st_size))
    return sorted(found, key=lambda c: (c.at, c.name), reverse=True)


def take(db: Database, now: datetime, why: str) -> Copy:
    """A new copy. ``Refusal`` where the disk has too little room for it; nothing half-written stays."""
    folder = folder_of(db)
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    size = db.path.stat().st_size
    free = shutil.disk_usage(folder).free
    if free < SPARE * size:
        raise refuse("copy", f"the disk has {free // 10**6} MB free, a copy takes {max(1, size // 10**6)} MB",
                     "Free some space, or move old copies elsewhere.")  # fmt: skip
    name = f"{now.astimezone(UTC):%Y%m%dT%H%M%SZ}-{why}.db"
    try:
        db.backup(folder / name)
    except (sqlite3.Error, OSError) as error:
        raise refuse("copy", f"could not be written ({error})", "Look at the disk and its rights.") from error
    if why != BEFORE and _is_damaged(folder / name):
        # A copy of a damaged file must not push out a good one.
        (folder / name).unlink(missing_ok=True)
        remedy = "End the program, run adhaero check, and put back a copy of an earlier day (adhaero restore)."
        raise refuse("copy", "the data file is damaged: no copy was made, and the earlier ones are kept", remedy)
    _prune(db)
    return next(c for c in listed(db) if c.name == name)


def _is_damaged(path: Path) -> bool:
    # Opened as it is, for ever: nothing is put beside a copy by looking at it.
    conn = sqlite3.connect(f"{path.as_uri()}?immutable=1", uri=True)
    try:
        return bool(conn.execute("PRAGMA quick_check").fetchone()[0] != "ok")
    except sqlite3.DatabaseError:
        return True
    finally:
        conn.close()


def due(db: Database, now: datetime) -> bool:
    """Whether there is data of which today's copy is still to be made (days as the clock on the wall has them)."""
    if not db.path.exists():
        return False
    return all(c.why != DAILY or c.at.astimezone(now.tzinfo).date() != now.date() for c in listed(db))


def _prune(db: Database) -> None:
    """Let go of daily copies beyond the last fourteen but the last of each month, and of old ones before others."""
    own = listed(db)
    daily, before, update = ([c for c in own if c.why == why] for why in (DAILY, BEFORE, UPDATE))
    months: dict[tuple[int, int], Copy] = {}
    for c in daily:
        # The newest comes first: it is the last of its month.
        months.setdefault((c.at.year, c.at.month), c)
    kept = {c.name for c in (*daily[:LAST], *months.values(), *before[:LAST_BEFORE], *update[:LAST_BEFORE])}
    for c in (*daily, *before, *update):
        if c.name not in kept:
            (folder_of(db) / c.name).unlink(missing_ok=True)


def path_of(db: Database, name: str) -> Path:
    """The file of a copy. ``Refusal`` for a name that is none."""
    if name not in {c.name for c in listed(db)}:
        raise refuse("copy", f"there is no copy {name[:60]!r}", "Choose one from the list.")
    return folder_of(db) / name


def _present(db: Database, now: datetime) -> Copy | None:
    """A copy of what is here now, once more where something was written meanwhile; ``None`` where there is nothing."""
    if not db.path.exists():
        return None
    try:
        db.inspect()
        db.last_change()
    except (Unusable, sqlite3.Error):
        _set_aside(db, now)
        return None
    for _ in range(TIMES):
        before = db.last_change()
        present = take(db, now, BEFORE)
        if db.last_change() == before:
            return present
    raise refuse("copy", "something is written again and again", "Let the other devices rest, and try once more.")


def _set_aside(db: Database, now: datetime) -> None:
    """A data file that can't be read any more is kept as it is, beside: somebody may get something out of it."""
    db.close()
    for suffix in ("", "-wal", "-shm"):
        part = db.path.with_name(db.path.name + suffix)
        if part.exists():
            part.replace(part.with_name(f"{part.name}.damaged-{now.astimezone(UTC):%Y%m%dT%H%M%SZ}"))


def put_back(db: Database, copy: Path, now: datetime) -> Copy | None:
    """Put a copy in the place of the data: it is checked first, and brought up to date on the side; the present state
    is copied before (returned), or set aside where it cannot be read any more. ``Refusal`` for a copy that is damaged,
    or of a newer program.
    """
    trial = folder_of(db) / f"{now.astimezone(UTC):%Y%m%dT%H%M%SZ}.back"
    trial.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    try:
        Database(copy).inspect()
        Database(copy).backup(trial)
        Database(trial).migrate(keep=False)
        wrong = Database(trial).check()
        if wrong:
            raise refuse("copy", f"is damaged: {wrong[0]}", "Take an older one.")
        present = _present(db, now)
        db.take_over(trial)
        return present
    except (Unusable, sqlite3.Error, OSError) as error:
        raise refuse("copy", f"cannot be put back: {error}", "Take another one; the data is as it was.") from error
    finally:
        for left in folder_of(db).glob(f"{trial.stem}*"):
            if left.suffix != ".db" or not _NAME.fullmatch(left.name):
                left.unlink(missing_ok=True)
