"""Batches and the versions of their plans."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass

from adhaero.core.plan.document import Plan
from adhaero.core.plan.formats import plan_from_json


@dataclass(frozen=True)
class Batch:
    """A batch: a name, and when it was begun (UTC, ISO 8601)."""

    id: int
    name: str
    created_at: str


@dataclass(frozen=True)
class PlanVersion:
    """A version of a plan; ``kind`` is draft, locked or amended."""

    number: int
    kind: str
    plan: Plan
    seed: int
    reason: str


def add_batch(conn: sqlite3.Connection, name: str, now: str, cloned_from: int | None = None) -> int:
    """A new, empty batch; returns its id."""
    cursor = conn.execute(
        "INSERT INTO batch (name, created_at, cloned_from) VALUES (?, ?, ?)", (name, now, cloned_from)
    )
    return int(cursor.lastrowid or 0)


def rename(conn: sqlite3.Connection, batch_id: int, name: str) -> None:
    """Give a batch another name."""
    conn.execute("UPDATE batch SET name = ? WHERE id = ?", (name, batch_id))


_STANDS = "EXISTS (SELECT 1 FROM plan_version v WHERE v.batch_id = b.id AND v.action_id IN standing_action)"
"""A batch whose making was undone has no version that stands."""


def names(conn: sqlite3.Connection) -> list[tuple[int, str]]:
    """(id, name) of every batch, the newest first."""
    rows = conn.execute(f"SELECT b.id, b.name FROM batch b WHERE {_STANDS} ORDER BY b.id DESC")
    return [(r["id"], r["name"]) for r in rows]


def batch(conn: sqlite3.Connection, batch_id: int) -> Batch | None:
    """A batch, or ``None`` if there is none of that id."""
    row = conn.execute("SELECT id, name, created_at FROM batch WHERE id = ?", (batch_id,)).fetchone()
    return None if row is None else Batch(**dict(row))


def add_version(
    conn: sqlite3.Connection, batch_id: int, kind: str, plan: Plan, seed: int, reason: str, action_id: int
) -> int:
    """Append a version; returns its number. Numbers grow also past versions that were undone."""
    number = conn.execute(
        "SELECT coalesce(max(number), 0) + 1 FROM plan_version WHERE batch_id = ?", (batch_id,)
    ).fetchone()[0]
    conn.execute(
        """INSERT INTO plan_version (batch_id, number, kind, document, seed, reason, action_id)
           VALUES (?, ?, ?, ?, ?, ?, ?)""",
        (batch_id, number, kind, json.dumps(plan.to_json()), seed, reason, action_id),
    )
    return int(number)


def current_version(conn: sqlite3.Connection, batch_id: int) -> PlanVersion | None:
    """The version that stands: the newest one whose action was not undone."""
    row = conn.execute(
        """SELECT number, kind, document, seed, reason FROM plan_version
           WHERE batch_id = ? AND action_id IN standing_action ORDER BY number DESC LIMIT 1""",
        (batch_id,),
    ).fetchone()
    if row is None:
        return None
    plan = plan_from_json(json.loads(row["document"]), stored=True)
    return PlanVersion(row["number"], row["kind"], plan, row["seed"], row["reason"])


@dataclass(frozen=True)
class VersionNote:
    """When and why a version of a locked plan came to be."""

    number: int
    kind: str
    reason: str
    summary: str
    at: str
    person: str


def version_notes(conn: sqlite3.Connection, batch_id: int) -> list[VersionNote]:
    """The lock and the amendments that stand, oldest first."""
    rows = conn.execute(
        """SELECT v.number, v.kind, v.reason, a.summary, a.at, a.person FROM plan_version v JOIN action a
           ON a.id = v.action_id WHERE v.batch_id = ? AND v.kind <> 'draft' AND a.undone_by IS NULL
           ORDER BY v.number""",
        (batch_id,),
    )
    return [VersionNote(**dict(r)) for r in rows]


@dataclass(frozen=True)
class Standing:
    """A batch with the question and state of its plan, and when anything was last done in it."""

    batch: Batch
    question: str
    locked: bool
    last_at: str


def last_actions(conn: sqlite3.Connection) -> dict[int, int]:
    """The last action of every batch: what was worked out for a batch holds as long as this does."""
    rows = conn.execute(
        f"""SELECT b.id, coalesce(max(a.id), 0) AS last FROM batch b LEFT JOIN action a ON a.batch_id = b.id
            WHERE {_STANDS} GROUP BY b.id"""
    )
    return {r["id"]: r["last"] for r in rows}


def standing(conn: sqlite3.Connection, batch_id: int) -> Standing:
    """What stands about a batch, which must exist."""
    r = conn.execute(
        """WITH v AS (SELECT document, kind FROM plan_version WHERE batch_id = :batch AND action_id IN standing_action
                      ORDER BY number DESC LIMIT 1)
           SELECT b.id, b.name, b.created_at, (SELECT json_extract(document, '$.question') FROM v) AS question,
                  (SELECT kind FROM v) AS kind,
                  (SELECT at FROM action a WHERE a.batch_id = b.id ORDER BY a.id DESC LIMIT 1) AS last_at
           FROM batch b WHERE b.id = :batch""",
        {"batch": batch_id},
    ).fetchone()
    made = Batch(r["id"], r["name"], r["created_at"])
    return Standing(made, r["question"] or "", r["kind"] not in (None, "draft"), r["last_at"] or made.created_at)
