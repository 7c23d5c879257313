"""What was observed of pieces: one reading stands for each, and a correction replaces it without losing anything."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection
from dataclasses import dataclass

from adhaero.core.breaking.details import NOTHING, details_from_json
from adhaero.core.observation import Kind, Observation
from adhaero.store import scope


@dataclass(frozen=True)
class Observed:
    """An observation as stored, with where and when it came from.

    ``loading`` counts how often the piece was loaded, ``arm_mm`` is the arm of the load then, where there is one;
    ``beside`` is the loading of which it is only another reading;
    ``at`` is when it broke, ``person`` who saw it; ``confirmed`` are the questions that were asked about it before it
    was saved, and answered with yes.
    """

    id: int
    specimen_id: int
    pull_id: int | None
    setup_id: int | None
    observation: Observation
    first_crack_n: float | None
    source: str
    at: str
    person: str
    confirmed: tuple[str, ...] = ()
    loading: int = 1
    beside: int | None = None
    arm_mm: float | None = None


def add(conn: sqlite3.Connection, o: Observed, action_id: int) -> int:
    """Write an observation (its ``id`` is ignored); it replaces the one that stands for that loading of the piece,
    which stays in the file. Returns the id given.
    """
    old = conn.execute(
        "SELECT id FROM current_observation WHERE specimen_id = ? AND loading = ?", (o.specimen_id, o.loading)
    ).fetchone()
    seen = o.observation
    cursor = conn.execute(
        """INSERT INTO observation (specimen_id, pull_id, setup_id, kind, low_n, high_n, held_s, first_crack_n,
           failure_mode, shares, wood_failure_pct, source, reason, note, confirmed, person, at, loading, beside,
           details, arm_mm, replaces_id, action_id)
           VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
        (
            o.specimen_id, o.pull_id, o.setup_id, seen.kind.value, seen.low_n, seen.high_n, seen.held_s,
            o.first_crack_n, seen.failure_mode, json.dumps(seen.shares), seen.wood_failure_pct, o.source, seen.reason,
            seen.note, json.dumps(o.confirmed), o.person, o.at, o.loading,
            o.beside, json.dumps(seen.details.to_json()), o.arm_mm, old["id"] if old else None, action_id,
        ),
    )  # fmt: skip
    return int(cursor.lastrowid or 0)


def any_standing(conn: sqlite3.Connection, batch_id: int) -> bool:
    """Whether anything of a batch was observed yet."""
    row = conn.execute(
        """SELECT EXISTS (SELECT 1 FROM current_observation o JOIN current_specimen s ON s.id = o.specimen_id
           WHERE s.batch_id = ?) AS found""",
        (batch_id,),
    ).fetchone()
    return bool(row["found"])


def standing(conn: sqlite3.Connection, batch_id: int, only: Collection[int] | None = None) -> list[Observed]:
    """The standing observations of a batch (or of ``only`` these pieces of it), of every loading, in their order."""
    source, parameters = scope.pieces(batch_id, only)
    rows = conn.execute(
        f"""SELECT o.id, o.specimen_id, o.pull_id, o.setup_id, o.kind, o.low_n, o.high_n, o.held_s, o.failure_mode,
                   o.shares, o.wood_failure_pct, o.reason, o.note, o.first_crack_n, o.source, o.at, o.person,
                   o.confirmed, o.loading, o.beside, o.details, o.arm_mm
            FROM {source} CROSS JOIN current_observation o ON o.specimen_id = s.id ORDER BY o.loading, o.id""",
        parameters,
    )
    return [_observed(r) for r in rows]


def _observed(r: sqlite3.Row) -> Observed:
    shares = tuple((k, v) for k, v in json.loads(r["shares"])) if r["shares"] != "[]" else ()
    confirmed = tuple(json.loads(r["confirmed"])) if r["confirmed"] != "[]" else ()
    o = Observation(
        Kind(r["kind"]), r["low_n"], r["high_n"], r["held_s"], r["failure_mode"], shares, r["wood_failure_pct"],
        r["reason"], r["note"], details_from_json(json.loads(r["details"])) if r["details"] != "{}" else NOTHING,
    )  # fmt: skip
    return Observed(
        r["id"], r["specimen_id"], r["pull_id"], r["setup_id"], o, r["first_crack_n"], r["source"], r["at"],
        r["person"], confirmed, r["loading"], r["beside"], r["arm_mm"],
    )  # fmt: skip
