"""Bottles and kits of glue, and what they went through."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class Bottle:
    """A bottle of glue. Dates are ISO days; ``limits`` is what its label states (core.glue.limits); ``price`` is that
    of a pack of ``pack_g`` grams, in the user's currency.
    """

    id: int
    label: str
    family: str
    lot: str
    opened_on: str | None
    expires_on: str | None
    note: str
    limits: dict[str, float] = field(default_factory=dict)
    price: float | None = None
    pack_g: float | None = None


@dataclass(frozen=True)
class StoredEvent:
    """Something that happened to a bottle."""

    bottle_id: int
    kind: str
    at: str
    note: str


def bottles(conn: sqlite3.Connection) -> list[Bottle]:
    """All bottles by label."""
    rows = conn.execute(
        "SELECT id, label, family, lot, opened_on, expires_on, note, limits, price, pack_g FROM bottle "
        "WHERE action_id IS NULL OR action_id IN standing_action ORDER BY label"
    )
    return [Bottle(**{**dict(r), "limits": json.loads(r["limits"])}) for r in rows]


def add(conn: sqlite3.Connection, b: Bottle, action_id: int) -> int:
    """A new bottle; its ``id`` is ignored. Returns the id given."""
    values: dict[str, Any] = {**vars(b), "limits": json.dumps(b.limits), "action_id": action_id}
    cursor = conn.execute(
        """INSERT INTO bottle (label, family, lot, opened_on, expires_on, note, limits, price, pack_g, action_id)
           VALUES (:label, :family, :lot, :opened_on, :expires_on, :note, :limits, :price, :pack_g, :action_id)""",
        values,
    )
    return int(cursor.lastrowid or 0)


def events(conn: sqlite3.Connection) -> dict[int, list[StoredEvent]]:
    """What all bottles went through, by bottle, oldest first."""
    found: dict[int, list[StoredEvent]] = {}
    for r in conn.execute(
        "SELECT bottle_id, kind, at, note FROM bottle_event WHERE action_id IN standing_action ORDER BY at, id"
    ):
        found.setdefault(r["bottle_id"], []).append(StoredEvent(**dict(r)))
    return found


def add_event(conn: sqlite3.Connection, e: StoredEvent, action_id: int) -> int:
    """Write down what happened to a bottle; returns the id given."""
    cursor = conn.execute(
        "INSERT INTO bottle_event (bottle_id, kind, at, note, action_id) VALUES (?, ?, ?, ?, ?)",
        (e.bottle_id, e.kind, e.at, e.note, action_id),
    )
    return int(cursor.lastrowid or 0)
