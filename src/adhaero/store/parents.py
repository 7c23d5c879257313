"""Parents: what several pieces are made as, with codes of their own."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Parent:
    """A parent of a locked batch: its code, its kind (core.parents), and its number in the batch."""

    id: int
    code: str
    kind: str
    number: int


def add(conn: sqlite3.Connection, batch_id: int, kind: str, codes: Mapping[int, str], action_id: int) -> dict[int, int]:
    """New parents, ``codes`` by number; returns their ids by number."""
    found = {}
    for number, code in codes.items():
        cursor = conn.execute(
            "INSERT INTO parent (code, batch_id, kind, number, action_id) VALUES (?, ?, ?, ?, ?)",
            (code, batch_id, kind, number, action_id),
        )
        found[number] = int(cursor.lastrowid or 0)
    return found


def parents(conn: sqlite3.Connection, batch_id: int) -> list[Parent]:
    """The parents of a batch that stand, in their order."""
    sql = "SELECT id, code, kind, number FROM current_parent WHERE batch_id = ? ORDER BY number"
    return [Parent(**dict(r)) for r in conn.execute(sql, (batch_id,))]
