"""That cautions were read: of which stage, on which day."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence


def add(conn: sqlite3.Connection, batch_id: int, stage: str, day: str, keys: Sequence[str], action_id: int) -> int:
    """The cautions with these keys were read; returns the id given."""
    cursor = conn.execute(
        "INSERT INTO caution_read (batch_id, stage, day, keys, action_id) VALUES (?, ?, ?, ?, ?)",
        (batch_id, stage, day, json.dumps(list(keys)), action_id),
    )
    return int(cursor.lastrowid or 0)


def read(conn: sqlite3.Connection, batch_id: int, stage: str, day: str) -> frozenset[str]:
    """Keys of the cautions that were read at a stage on a day (ISO)."""
    rows = conn.execute(
        "SELECT keys FROM caution_read WHERE batch_id = ? AND stage = ? AND day = ? AND action_id IN standing_action",
        (batch_id, stage, day),
    )
    return frozenset(key for r in rows for key in json.loads(r["keys"]))
