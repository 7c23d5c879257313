"""Pulls: loading attempts at a rig, and what their signal suggested."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from adhaero.core.breaking.proposal import Proposal, proposal_from_json
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
    proposal: Proposal | None
    in_cycles: bool = False


def _pull(r: sqlite3.Row) -> Pull:
    proposal = proposal_from_json(json.loads(r["proposal"])) if r["proposal"] else None
    return Pull(
        r["id"], r["specimen_id"], r["setup_id"], r["number"], r["state"], r["started_at"], r["ended_at"], proposal,
        bool(r["in_cycles"]),
    )  # fmt: skip


def open_pull(
    conn: sqlite3.Connection, specimen_id: int, setup_id: int, now: str, action_id: int, *, in_cycles: bool = False
) -> int:
    """Begin a pull; returns its id. The schema allows one open pull at a time: there is one rig."""
    cursor = conn.execute(
        """INSERT INTO pull (specimen_id, setup_id, number, state, started_at, in_cycles, action_id)
           VALUES (?, ?, (SELECT count(*) + 1 FROM pull WHERE specimen_id = ?), 'open', ?, ?, ?)""",
        (specimen_id, setup_id, specimen_id, now, in_cycles, action_id),
    )
    return int(cursor.lastrowid or 0)


def add_ended(
    conn: sqlite3.Connection, specimen_id: int, setup_id: int, now: str, proposal: dict[str, Any], action_id: int
) -> int:
    """A pull that was recorded elsewhere; returns its id."""
    cursor = conn.execute(
        """INSERT INTO pull (specimen_id, setup_id, number, state, started_at, ended_at, proposal, action_id)
           VALUES (?1, ?2, (SELECT count(*) + 1 FROM pull WHERE specimen_id = ?1), 'ended', ?3, ?3, ?4, ?5)""",
        (specimen_id, setup_id, now, json.dumps(proposal), action_id),
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


def of_piece(conn: sqlite3.Connection, specimen_id: int) -> list[Pull]:
    """Every pull of a piece, the first one first."""
    return [_pull(r) for r in conn.execute("SELECT * FROM pull WHERE specimen_id = ? ORDER BY id", (specimen_id,))]


def proposals(conn: sqlite3.Connection, batch_id: int, only: Collection[int] | None = None) -> dict[int, Proposal]:
    """What the signal of each pull of a batch (or of ``only`` these pieces of it) suggested, by pull."""
    source, parameters = scope.pieces(batch_id, only)
    rows = conn.execute(
        f"SELECT p.id, p.proposal FROM {source} CROSS JOIN pull p ON p.specimen_id = s.id WHERE p.proposal IS NOT NULL",
        parameters,
    )
    return {r["id"]: proposal_from_json(json.loads(r["proposal"])) for r in rows}


def open_pulls(conn: sqlite3.Connection) -> list[Pull]:
    """Pulls still marked as going on; after a restart these were interrupted."""
    return [_pull(r) for r in conn.execute("SELECT * FROM pull WHERE state = 'open'")]


def without_course(conn: sqlite3.Connection) -> list[Pull]:
    """Pulls that ended before curves were read as a whole."""
    rows = conn.execute(
        """SELECT * FROM pull WHERE state IN ('ended', 'interrupted') AND json_extract(proposal, '$.loaded') = 1
           AND json_extract(proposal, '$.course') IS NULL"""
    )
    return [_pull(r) for r in rows]


def batch_of(conn: sqlite3.Connection, pull_id: int) -> int | None:
    """The batch that the piece of a pull belongs to."""
    row = conn.execute(
        "SELECT s.batch_id FROM pull p JOIN specimen s ON s.id = p.specimen_id WHERE p.id = ?", (pull_id,)
    ).fetchone()
    return int(row["batch_id"]) if row else None


def range_of(conn: sqlite3.Connection, pull_id: int) -> tuple[float, float]:
    """(capacity, resolution) in N of the rig as it was set up for a pull."""
    row = conn.execute(
        "SELECT s.capacity_n, s.resolution_n FROM pull p JOIN rig_setup s ON s.id = p.setup_id WHERE p.id = ?",
        (pull_id,),
    ).fetchone()
    return float(row["capacity_n"]), float(row["resolution_n"])


def is_of_a_loaded_piece(conn: sqlite3.Connection, pull_id: int) -> bool:
    """Whether its piece had a reading already when a pull began."""
    row = conn.execute(
        """SELECT EXISTS (SELECT 1 FROM pull p JOIN current_observation o ON o.specimen_id = p.specimen_id
           WHERE p.id = ? AND o.action_id < p.action_id) AS found""",
        (pull_id,),
    ).fetchone()
    return bool(row["found"])


def loose_pulls(conn: sqlite3.Connection, batch_id: int) -> list[Pull]:
    """Ended or interrupted pulls after which nothing was observed of their piece: each still needs a decision."""
    rows = conn.execute(
        """SELECT p.* FROM pull p JOIN current_specimen s ON s.id = p.specimen_id
           WHERE s.batch_id = ? AND p.state IN ('ended', 'interrupted')
           AND NOT EXISTS (SELECT 1 FROM current_observation o
                           WHERE o.specimen_id = p.specimen_id AND (o.action_id > p.action_id OR o.pull_id = p.id))
           ORDER BY p.id DESC""",
        (batch_id,),
    )
    return [_pull(r) for r in rows]
