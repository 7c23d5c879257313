"""Clamps, weights and presses in the shop, and the schedules of batches that use them."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import asdict, dataclass
from typing import Any


@dataclass(frozen=True)
class StoredClamp:
    """Clamps of one kind: ``count`` of them, each with ``places`` and up to ``force_n`` (a weight: exactly that).

    ``kind`` is bar, screw, spring, weight, press, vacuum or tape; ``force_known`` measured, estimated or unknown, and
    ``known_by`` how: by a gauge, by turns of the handle, by feel. ``caul_mm`` is the thickness of cauls used with them.
    """

    id: int
    label: str
    kind: str
    count: int
    force_n: float | None
    places: int = 1
    jaw_mm: float | None = None
    force_known: str = "estimated"
    known_by: str = ""
    caul_mm: float | None = None


def clamps(conn: sqlite3.Connection) -> list[StoredClamp]:
    """All clamps in use, by label."""
    rows = conn.execute(
        """SELECT id, label, kind, count, force_n, places, jaw_mm, force_known, known_by, caul_mm FROM clamp
           WHERE (action_id IS NULL OR action_id IN standing_action)
           AND (retired_by IS NULL OR retired_by NOT IN standing_action) ORDER BY label"""
    )
    return [StoredClamp(**dict(r)) for r in rows]


def add(conn: sqlite3.Connection, c: StoredClamp, action_id: int) -> int:
    """New clamps; their ``id`` is ignored. Returns the id given."""
    cursor = conn.execute(
        """INSERT INTO clamp (label, kind, count, force_n, places, jaw_mm, force_known, known_by, caul_mm,
           action_id)
           VALUES (:label, :kind, :count, :force_n, :places, :jaw_mm, :force_known, :known_by, :caul_mm, :action_id)""",
        {**asdict(c), "action_id": action_id},
    )
    return int(cursor.lastrowid or 0)


def retire(conn: sqlite3.Connection, clamp_id: int, action_id: int) -> None:
    """Take clamps out of use; their label is free for others."""
    conn.execute("UPDATE clamp SET retired_by = ? WHERE id = ?", (action_id, clamp_id))


@dataclass(frozen=True)
class StoredSchedule:
    """A schedule of a batch as a document."""

    batch_id: int
    document: dict[str, Any]
    at: str


_STANDING = """SELECT s.batch_id, s.document, s.at FROM schedule s JOIN action a ON a.id = s.action_id
               WHERE a.undone_by IS NULL"""


def _schedule(r: sqlite3.Row) -> StoredSchedule:
    return StoredSchedule(r["batch_id"], json.loads(r["document"]), r["at"])


def add_schedule(conn: sqlite3.Connection, batch_id: int, document: dict[str, Any], now: str, action_id: int) -> None:
    """A new schedule; it takes the place of the one before."""
    conn.execute(
        "INSERT INTO schedule (batch_id, document, at, action_id) VALUES (?, ?, ?, ?)",
        (batch_id, json.dumps(document), now, action_id),
    )


def schedule(conn: sqlite3.Connection, batch_id: int) -> StoredSchedule | None:
    """The schedule that stands for a batch, or ``None``."""
    row = conn.execute(f"{_STANDING} AND s.batch_id = ? ORDER BY s.id DESC LIMIT 1", (batch_id,)).fetchone()
    return None if row is None else _schedule(row)


def schedules(conn: sqlite3.Connection, batch_id: int) -> list[StoredSchedule]:
    """Every schedule of a batch that was not undone, the first made first."""
    rows = conn.execute(f"{_STANDING} AND s.batch_id = ? ORDER BY s.id", (batch_id,))
    return [_schedule(r) for r in rows]


def other_schedules(conn: sqlite3.Connection, batch_id: int) -> list[StoredSchedule]:
    """The schedules that stand for other batches: they need hands and clamps too."""
    rows = conn.execute(f"{_STANDING} AND s.batch_id <> ? ORDER BY s.id", (batch_id,))
    newest = {r["batch_id"]: _schedule(r) for r in rows}
    return list(newest.values())
