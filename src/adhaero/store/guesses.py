"""Guesses before the first break: who guessed what, how and when."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Guess:
    """A guess of somebody; ``value`` is loads or shares by treatment letter, an order of letters, or words."""

    person: str
    how: str
    value: Any
    at: str


def add(conn: sqlite3.Connection, batch_id: int, g: Guess, action_id: int) -> int:
    """Keep a guess; returns its id."""
    cursor = conn.execute(
        "INSERT INTO guess (batch_id, person, how, value, at, action_id) VALUES (?, ?, ?, ?, ?, ?)",
        (batch_id, g.person, g.how, json.dumps(g.value), g.at, action_id),
    )
    return int(cursor.lastrowid or 0)


def standing(conn: sqlite3.Connection, batch_id: int) -> list[Guess]:
    """The guesses of a batch that were not taken back: of each person and kind the last."""
    rows = conn.execute(
        """SELECT person, how, value, at FROM guess WHERE batch_id = ? AND action_id IN standing_action ORDER BY id""",
        (batch_id,),
    )
    last = {(r["person"], r["how"]): Guess(r["person"], r["how"], json.loads(r["value"]), r["at"]) for r in rows}
    return list(last.values())
