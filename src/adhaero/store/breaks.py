"""Pulls and what was observed."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from adhaero.core.observation import Kind, Observation
from adhaero.store import scope


@dataclass(frozen=True)
class Pull:
    """One loading attempt. ``state``: open, ended, interrupted or discarded; ``proposal`` is what the trace showed."""

    id: int
    specimen_id: int
    setup_id: int
    number: int
    state: str
    started_at: str
    ended_at: str | None
    proposal: dict[str, Any] | None


@dataclass(frozen=True)
class Observed:
    """An observation as stored, with where and when it came from."""

    id: int
    specimen_id: int
    pull_id: int | None
    setup_id: int | None
    observation: Observation
    first_crack_n: float | None
    source: str
    at: str
    person: str


def _pull(r: sqlite3.Row) -> Pull:
    proposal = json.loads(r["proposal"]) if r["proposal"] else None
    return Pull(
        r["id"], r["specimen_id"], r["setup_id"], r["number"], r["state"], r["started_at"], r["ended_at"], proposal
    )


def open_pull(conn: sqlite3.Connection, specimen_id: int, setup_id: int, now: str, action_id: int) -> int:
    """Begin a pull; returns its id. The schema allows one open pull at a time: there is one rig."""
    cursor = conn.execute(
        """INSERT INTO pull (specimen_id, setup_id, number, state, started_at, action_id)
           VALUES (?, ?, (SELECT count(*) + 1 FROM pull WHERE specimen_id = ?), 'open', ?, ?)""",
        (specimen_id, setup_id, specimen_id, now, action_id),
    )
    return int(cursor.lastrowid or 0)


def end_pull(conn: sqlite3.Connection, pull_id: int, state: str, proposal: dict[str, Any] | None, now: str) -> None:
    """Close a pull with what its trace showed."""
    conn.execute(
        "UPDATE pull SET state = ?, proposal = coalesce(?, proposal), ended_at = coalesce(ended_at, ?) WHERE id = ?",
        (state, None if proposal is None else json.dumps(proposal), now, pull_id),
    )


def pull(conn: sqlite3.Connection, pull_id: int) -> Pull | None:
    """A pull by its id."""
    row = conn.execute("SELECT * FROM pull WHERE id = ?", (pull_id,)).fetchone()
    return None if row is None else _pull(row)


def open_pulls(conn: sqlite3.Connection) -> list[Pull]:
    """Pulls still marked as going on; after a restart these were interrupted."""
    return [_pull(r) for r in conn.execute("SELECT * FROM pull WHERE state = 'open'")]


def loose_pulls(conn: sqlite3.Connection, batch_id: int) -> list[Pull]:
    """Ended or interrupted pulls whose piece has no standing observation: each still needs a decision."""
    rows = conn.execute(
        """SELECT p.* FROM pull p JOIN current_specimen s ON s.id = p.specimen_id
           WHERE s.batch_id = ? AND p.state IN ('ended', 'interrupted')
           AND p.specimen_id NOT IN (SELECT specimen_id FROM current_observation) ORDER BY p.id DESC""",
        (batch_id,),
    )
    return [_pull(r) for r in rows]


def add_observation(
    conn: sqlite3.Connection,
    specimen_id: int,
    o: Observation,
    *,
    source: str,
    now: str,
    person: str,
    pull_id: int | None,
    setup_id: int | None,
    first_crack_n: float | None,
    action_id: int,
) -> int:
    """Write an observation; it replaces the one that stands for the piece, which stays in the file."""
    old = conn.execute("SELECT id FROM current_observation WHERE specimen_id = ?", (specimen_id,)).fetchone()
    cursor = conn.execute(
        """INSERT INTO observation (specimen_id, pull_id, setup_id, kind, low_n, high_n, held_s, first_crack_n,
           failure_mode, shares, wood_failure_pct, source, reason, note, person, at, replaces_id, action_id)
           VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
        (
            specimen_id, pull_id, setup_id, o.kind.value, o.low_n, o.high_n, o.held_s, first_crack_n, o.failure_mode,
            json.dumps(o.shares), o.wood_failure_pct, source, o.reason, o.note, person, now,
            old["id"] if old else None, action_id,
        ),
    )  # fmt: skip
    return int(cursor.lastrowid or 0)


def observed(conn: sqlite3.Connection, batch_id: int, only: Collection[int] | None = None) -> list[Observed]:
    """The standing observations of a batch (or of ``only`` these pieces of it), oldest first."""
    source, parameters = scope.pieces(batch_id, only)
    return [_observed(*r) for r in conn.execute(_OBSERVED.format(source=source), parameters)]


_OBSERVED = """
SELECT o.id, o.specimen_id, o.pull_id, o.setup_id, o.kind, o.low_n, o.high_n, o.held_s, o.failure_mode, o.shares,
       o.wood_failure_pct, o.reason, o.note, o.first_crack_n, o.source, o.at, o.person
FROM {source} CROSS JOIN current_observation o ON o.specimen_id = s.id ORDER BY o.id
"""


def _observed(
    id_: int, specimen_id: int, pull_id: int | None, setup_id: int | None, kind: str, low: float | None,
    high: float | None, held: float | None, mode: str | None, shares: str, wood: float | None, reason: str, note: str,
    crack: float | None, source: str, at: str, person: str,
) -> Observed:  # fmt: skip
    parts = tuple((k, v) for k, v in json.loads(shares)) if shares != "[]" else ()
    o = Observation(Kind(kind), low, high, held, mode, parts, wood, reason, note)
    return Observed(id_, specimen_id, pull_id, setup_id, o, crack, source, at, person)
