"""Batches and the versions of their plans."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass

from adhaero.core.plan.document import Plan, plan_from_json


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


def add_batch(conn: sqlite3.Connection, name: str, now: str) -> int:
    """A new, empty batch; returns its id."""
    cursor = conn.execute("INSERT INTO batch (name, created_at) VALUES (?, ?)", (name, now))
    return int(cursor.lastrowid or 0)


def rename(conn: sqlite3.Connection, batch_id: int, name: str) -> None:
    """Give a batch another name."""
    conn.execute("UPDATE batch SET name = ? WHERE id = ?", (name, batch_id))


def batch(conn: sqlite3.Connection, batch_id: int) -> Batch | None:
    """A batch, or ``None`` if there is none of that id."""
    row = conn.execute("SELECT id, name, created_at FROM batch WHERE id = ?", (batch_id,)).fetchone()
    return None if row is None else Batch(*row)


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
    plan = plan_from_json(json.loads(row["document"]))
    return PlanVersion(row["number"], row["kind"], plan, row["seed"], row["reason"])


@dataclass(frozen=True)
class Progress:
    """How far a batch is: counts of joints and of all pieces that stand."""

    batch: Batch
    question: str
    locked: bool
    joints: int
    pieces: int
    measured: int
    glued: int
    in_clamps: int
    observed: int
    last_at: str


_PROGRESS = """
WITH s AS (SELECT id, batch_id, role FROM current_specimen),
     m AS (SELECT specimen_id, count(DISTINCT quantity) AS quantities FROM current_measurement
           WHERE quantity IN ('width', 'overlap') GROUP BY specimen_id),
     g AS (SELECT specimen_id FROM current_glueup_specimen),
     u AS (SELECT DISTINCT specimen_id FROM current_specimen_event WHERE kind = 'unclamped'),
     o AS (SELECT DISTINCT specimen_id FROM current_observation)
SELECT b.id, b.name, b.created_at,
       (SELECT json_extract(document, '$.question') FROM plan_version v WHERE v.batch_id = b.id
        AND v.action_id IN standing_action ORDER BY number DESC LIMIT 1) AS question,
       (SELECT kind FROM plan_version v WHERE v.batch_id = b.id AND v.action_id IN standing_action
        ORDER BY number DESC LIMIT 1) AS kind,
       (SELECT max(at) FROM action a WHERE a.batch_id = b.id) AS last_at,
       count(s.id) AS pieces, coalesce(sum(s.role = 'joint'), 0) AS joints,
       coalesce(sum(m.quantities = 2), 0) AS measured, count(g.specimen_id) AS glued,
       coalesce(sum(g.specimen_id IS NOT NULL AND u.specimen_id IS NULL), 0) AS in_clamps,
       count(o.specimen_id) AS observed
FROM batch b LEFT JOIN s ON s.batch_id = b.id LEFT JOIN m ON m.specimen_id = s.id
     LEFT JOIN g ON g.specimen_id = s.id LEFT JOIN u ON u.specimen_id = s.id LEFT JOIN o ON o.specimen_id = s.id
{where} GROUP BY b.id ORDER BY last_at DESC, b.id DESC
"""


def progress(conn: sqlite3.Connection, batch_id: int | None = None) -> list[Progress]:
    """Progress of all batches, latest work first, or of one."""
    where = "" if batch_id is None else "WHERE b.id = ?"
    rows = conn.execute(_PROGRESS.format(where=where), () if batch_id is None else (batch_id,))
    return [
        Progress(
            batch=Batch(r["id"], r["name"], r["created_at"]),
            question=r["question"] or "",
            locked=r["kind"] not in (None, "draft"),
            joints=r["joints"],
            pieces=r["pieces"],
            measured=r["measured"],
            glued=r["glued"],
            in_clamps=r["in_clamps"],
            observed=r["observed"],
            last_at=r["last_at"] or r["created_at"],
        )
        for r in rows
    ]
