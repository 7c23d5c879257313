"""Plans kept under a name, to begin others from."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass

from adhaero.core.plan.document import Plan
from adhaero.core.plan.formats import plan_from_json


@dataclass(frozen=True)
class Template:
    """A plan kept to begin from."""

    id: int
    name: str
    question: str


def templates(conn: sqlite3.Connection) -> list[Template]:
    """All templates in use, by name."""
    rows = conn.execute(
        """SELECT t.id, t.name, json_extract(t.document, '$.question') AS question FROM template t
           WHERE t.action_id IN standing_action
           AND (t.retired_by IS NULL OR t.retired_by NOT IN standing_action) ORDER BY t.name, t.id"""
    )
    return [Template(**dict(r)) for r in rows]


def add(conn: sqlite3.Connection, name: str, plan: Plan, action_id: int) -> int:
    """Keep a plan; returns the template's id."""
    cursor = conn.execute(
        "INSERT INTO template (name, document, action_id) VALUES (?, ?, ?)",
        (name, json.dumps(plan.to_json()), action_id),
    )
    return int(cursor.lastrowid or 0)


def retire(conn: sqlite3.Connection, template_id: int, action_id: int) -> None:
    """Take a template out of use."""
    conn.execute("UPDATE template SET retired_by = ? WHERE id = ?", (action_id, template_id))


def plan(conn: sqlite3.Connection, template_id: int) -> Plan | None:
    """The plan of a template, or ``None``."""
    row = conn.execute("SELECT document FROM template WHERE id = ?", (template_id,)).fetchone()
    return None if row is None else plan_from_json(json.loads(row["document"]), stored=True)
