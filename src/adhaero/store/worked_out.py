"""Figures worked out from the records of batches, saved so that a start need not read them all again.

Nothing here is a fact: all of it may be deleted and is worked out anew.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping
from typing import Any


def kept(conn: sqlite3.Connection, name: str, rule: str) -> dict[int, tuple[int, Any]]:
    """Return what the same ``rule`` saved under a name, by batch, with the last action it covers."""
    rows = conn.execute("SELECT batch_id, last_action, body FROM worked_out WHERE name = ? AND rule = ?", (name, rule))
    return {r["batch_id"]: (r["last_action"], json.loads(r["body"])) for r in rows}


def keep(conn: sqlite3.Connection, name: str, rule: str, made: Mapping[int, tuple[int, Any]]) -> None:
    """Save what was worked out for these batches, and replace what was saved before."""
    conn.executemany(
        "INSERT OR REPLACE INTO worked_out (name, batch_id, last_action, rule, body) VALUES (?, ?, ?, ?, ?)",
        [(name, b, last, rule, json.dumps(body)) for b, (last, body) in made.items()],
    )


def drop(conn: sqlite3.Connection, name: str, batches: Iterable[int]) -> None:
    """Drop what was kept for batches that no longer exist."""
    conn.executemany("DELETE FROM worked_out WHERE name = ? AND batch_id = ?", [(name, b) for b in batches])


def batches_of(conn: sqlite3.Connection, name: str) -> list[int]:
    """The batches for which something is saved under a name, whatever rule made it."""
    return [r["batch_id"] for r in conn.execute("SELECT batch_id FROM worked_out WHERE name = ?", (name,))]
