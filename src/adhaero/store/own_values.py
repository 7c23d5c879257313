"""Values of properties that plans define for themselves."""

from __future__ import annotations

import sqlite3

from adhaero.core.properties import OwnValue


def add(
    conn: sqlite3.Connection, batch_id: int, prop: str, subject: str, value: OwnValue | None, now: str, action_id: int
) -> None:
    """Keep a value; ``None`` takes back what stood."""
    number, grade = (value.number, value.grade) if value is not None else (None, "")
    conn.execute(
        """INSERT INTO own_value (batch_id, property, subject, number, grade, at, action_id)
           VALUES (?, ?, ?, ?, ?, ?, ?)""",
        (batch_id, prop, subject, number, grade, now, action_id),
    )


def standing(conn: sqlite3.Connection, batch_id: int) -> dict[tuple[str, str], OwnValue]:
    """The values that stand, by (property id, subject)."""
    rows = conn.execute(
        """SELECT property, subject, number, grade FROM own_value
           WHERE batch_id = ? AND action_id IN standing_action ORDER BY id""",
        (batch_id,),
    )
    last = {(r["property"], r["subject"]): r for r in rows}
    return {k: OwnValue(r["number"], r["grade"]) for k, r in last.items() if r["number"] is not None}
