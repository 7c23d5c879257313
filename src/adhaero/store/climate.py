"""Readings of the air at places: a shelf, a bath, the shop."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True)
class StoredReading:
    """Air at a place at a moment; what was not read is ``None``."""

    at: str
    air_c: float | None
    humidity_pct: float | None


def add(conn: sqlite3.Connection, place: str, readings: Iterable[StoredReading], action_id: int) -> None:
    """Write readings down."""
    conn.executemany(
        "INSERT INTO climate (place, at, air_c, humidity_pct, action_id) VALUES (?, ?, ?, ?, ?)",
        [(place, r.at, r.air_c, r.humidity_pct, action_id) for r in readings],
    )


def readings(conn: sqlite3.Connection, place: str) -> list[StoredReading]:
    """All readings of a place, oldest first; of two for one moment the one written last."""
    rows = conn.execute(
        """SELECT at, air_c, humidity_pct FROM climate
           WHERE place = ? AND action_id IN standing_action ORDER BY at, id""",
        (place,),
    )
    return list({r["at"]: StoredReading(**dict(r)) for r in rows}.values())


def places(conn: sqlite3.Connection) -> list[str]:
    """The places that something was read at."""
    rows = conn.execute("SELECT DISTINCT place FROM climate WHERE action_id IN standing_action ORDER BY place")
    return [r["place"] for r in rows]
