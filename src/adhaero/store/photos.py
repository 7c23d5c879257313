"""Photos of pieces, boards and bottles."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass


@dataclass(frozen=True)
class Photo:
    """A photo without its content: ``stage`` is how far its subject was when it was taken, ``member`` of which part
    of a joint it is."""

    id: int
    caption: str
    stage: str
    at: str
    member: str = ""


_STANDS = """action_id IN standing_action
    AND id NOT IN (SELECT photo_id FROM photo_gone WHERE action_id IN standing_action)"""


def add(
    conn: sqlite3.Connection, kind: str, subject_id: int, photo: Photo, media_type: str, content: bytes, action_id: int
) -> int:
    """A new photo of a subject (``kind`` with its id); returns its id."""
    cursor = conn.execute(
        """INSERT INTO photo (kind, subject_id, caption, stage, media_type, content, at, member, action_id)
           VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)""",
        (kind, subject_id, photo.caption, photo.stage, media_type, content, photo.at, photo.member, action_id),
    )
    return int(cursor.lastrowid or 0)


def take_away(conn: sqlite3.Connection, photo_id: int, action_id: int) -> None:
    """The photo is not shown any more."""
    conn.execute("INSERT INTO photo_gone (photo_id, action_id) VALUES (?, ?)", (photo_id, action_id))


def of(conn: sqlite3.Connection, kind: str, subject_id: int) -> list[Photo]:
    """The photos of a subject, the oldest first."""
    rows = conn.execute(
        f"SELECT id, caption, stage, at, member FROM photo WHERE kind = ? AND subject_id = ? AND {_STANDS} ORDER BY id",
        (kind, subject_id),
    )
    return [Photo(r["id"], r["caption"], r["stage"], r["at"], r["member"]) for r in rows]


def subject(conn: sqlite3.Connection, photo_id: int) -> tuple[str, int] | None:
    """(kind, id) of what a photo shows; ``None`` for one that is not there."""
    row = conn.execute(f"SELECT kind, subject_id FROM photo WHERE id = ? AND {_STANDS}", (photo_id,)).fetchone()
    return None if row is None else (row["kind"], row["subject_id"])


def content(conn: sqlite3.Connection, photo_id: int) -> tuple[str, bytes] | None:
    """(media type, content) of a photo that stands."""
    row = conn.execute(f"SELECT media_type, content FROM photo WHERE id = ? AND {_STANDS}", (photo_id,)).fetchone()
    return None if row is None else (row["media_type"], row["content"])


def counts(conn: sqlite3.Connection, kind: str) -> dict[int, int]:
    """How many photos there are of each subject of a kind, by its id."""
    rows = conn.execute(
        f"SELECT subject_id, COUNT(*) AS n FROM photo WHERE kind = ? AND {_STANDS} GROUP BY subject_id", (kind,)
    )
    return {r["subject_id"]: r["n"] for r in rows}


def after_the_break(conn: sqlite3.Connection) -> set[int]:
    """The pieces (by id) whose faces were photographed."""
    rows = conn.execute(f"SELECT DISTINCT subject_id FROM photo WHERE kind = 'piece' AND stage = 'break' AND {_STANDS}")
    return {r["subject_id"] for r in rows}
