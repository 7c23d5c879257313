"""What stays in the shop: settings, the rig and its set-ups."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import asdict, dataclass
from typing import Any


@dataclass(frozen=True)
class Rig:
    """The load rig; forces in N. ``port`` is what the serial library opens: a device or ``socket://host:port``."""

    id: int
    name: str
    port: str
    capacity_n: float
    resolution_n: float
    working_share: float


@dataclass(frozen=True)
class SetUp:
    """A revision of how the rig is set up; results keep the one they were made under."""

    id: int
    rig_id: int
    fixture: str
    reason: str
    at: str


def settings(conn: sqlite3.Connection) -> dict[str, Any]:
    """All settings."""
    return {r["key"]: json.loads(r["value"]) for r in conn.execute("SELECT key, value FROM setting")}


def save_settings(conn: sqlite3.Connection, values: dict[str, Any]) -> None:
    """Write these settings; others stay."""
    conn.executemany(
        "INSERT INTO setting VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value",
        [(k, json.dumps(v)) for k, v in values.items()],
    )


def rig(conn: sqlite3.Connection) -> Rig | None:
    """The rig in use: the one set up last."""
    row = conn.execute(
        "SELECT id, name, port, capacity_n, resolution_n, working_share FROM rig ORDER BY id DESC LIMIT 1"
    ).fetchone()
    return None if row is None else Rig(*row)


def save_rig(conn: sqlite3.Connection, r: Rig) -> int:
    """Write the rig (by name); returns its id."""
    conn.execute(
        """INSERT INTO rig (name, port, capacity_n, resolution_n, working_share)
           VALUES (:name, :port, :capacity_n, :resolution_n, :working_share)
           ON CONFLICT (name) DO UPDATE SET port = excluded.port, capacity_n = excluded.capacity_n,
           resolution_n = excluded.resolution_n, working_share = excluded.working_share""",
        asdict(r),
    )
    return int(conn.execute("SELECT id FROM rig WHERE name = ?", (r.name,)).fetchone()[0])


def set_up(conn: sqlite3.Connection) -> SetUp | None:
    """The set-up in use."""
    row = conn.execute("SELECT id, rig_id, fixture, reason, at FROM rig_setup ORDER BY id DESC LIMIT 1").fetchone()
    return None if row is None else SetUp(*row)


def add_set_up(conn: sqlite3.Connection, rig_id: int, fixture: str, reason: str, now: str) -> int:
    """Start a new set-up; pulls from now on belong to it."""
    cursor = conn.execute(
        "INSERT INTO rig_setup (rig_id, fixture, reason, at) VALUES (?, ?, ?, ?)", (rig_id, fixture, reason, now)
    )
    return int(cursor.lastrowid or 0)
