"""What a user says of a batch as a whole: how a claim ended, a comment, an idea. Each is a document of its kind."""

from __future__ import annotations

import json
import sqlite3
from typing import Any


def add(conn: sqlite3.Connection, batch_id: int, kind: str, body: dict[str, Any], now: str, action_id: int) -> int:
    """A new remark; returns its id. Remarks of a kind about the same thing follow each other, the last one stands."""
    cursor = conn.execute(
        "INSERT INTO remark (batch_id, kind, body, at, action_id) VALUES (?, ?, ?, ?, ?)",
        (batch_id, kind, json.dumps(body), now, action_id),
    )
    return int(cursor.lastrowid or 0)


def standing(conn: sqlite3.Connection, batch_id: int, kind: str) -> list[dict[str, Any]]:
    """The remarks of a kind that stand, oldest first."""
    rows = conn.execute(
        "SELECT body FROM remark WHERE batch_id = ? AND kind = ? AND action_id IN standing_action ORDER BY id",
        (batch_id, kind),
    )
    return [json.loads(r["body"]) for r in rows]
