"""Settings: units, names, hours. Each change is an action and can be undone."""

from __future__ import annotations

import json
import sqlite3
from typing import Any

from adhaero.core.units import Units, units_of


def settings(conn: sqlite3.Connection) -> dict[str, Any]:
    """All settings as they stand."""
    rows = conn.execute(
        "SELECT key, value FROM setting WHERE action_id IS NULL OR action_id IN standing_action ORDER BY id"
    )
    return {r["key"]: json.loads(r["value"]) for r in rows}


def save_settings(conn: sqlite3.Connection, values: dict[str, Any], action_id: int | None) -> None:
    """Write these settings; others stay."""
    conn.executemany(
        "INSERT INTO setting (key, value, action_id) VALUES (?, ?, ?)",
        [(k, json.dumps(v), action_id) for k, v in values.items()],
    )


def units(conn: sqlite3.Connection) -> Units:
    """The units that the shop works in."""
    return units_of(settings(conn).get("units", {}))
