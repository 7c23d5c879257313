"""User actions: who did what, when and why; undo and redo; and the memory of what a client already sent."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from adhaero.core.refusal import refuse


@dataclass(frozen=True)
class Act:
    """What a user is about to do. ``key`` is the client's idempotency key, ``request`` a digest of what it sent."""

    stage: str
    kind: str
    summary: str
    batch_id: int | None = None
    person: str = ""
    reason: str = ""
    key: str | None = None
    request: str = ""
    undoable: bool = True
    before: Any = None
    after: Any = None


@dataclass(frozen=True)
class ActionRecord:
    """A line of the history."""

    id: int
    stage: str
    kind: str
    summary: str
    at: str
    person: str
    reason: str
    undone: bool
    undoable: bool


def _json(value: Any) -> str | None:
    return None if value is None else json.dumps(value)


def record(conn: sqlite3.Connection, act: Act, now: str) -> int:
    """Write the action down; returns its id, which every row it causes must carry."""
    cursor = conn.execute(
        """INSERT INTO action (batch_id, stage, kind, summary, at, person, reason, before, after, undoable, key,
        request)
           VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
        (
            act.batch_id, act.stage, act.kind, act.summary, now, act.person, act.reason, _json(act.before),
            _json(act.after), int(act.undoable), act.key, act.request,
        ),
    )  # fmt: skip
    return int(cursor.lastrowid or 0)


def answer_to(conn: sqlite3.Connection, key: str | None, request: str) -> Any | None:
    """The answer already given under this key, or ``None``.

    Raises ``Refusal`` when the key was used for something else: then the client, not the network, repeats itself.
    """
    if key is None:
        return None
    row = conn.execute("SELECT request, response FROM action WHERE key = ?", (key,)).fetchone()
    if row is None:
        return None
    if row["request"] != request:
        raise refuse("Idempotency-Key", "this key was used for something else", "Send a new key with new data.")
    return json.loads(row["response"]) if row["response"] is not None else {}


def assign(conn: sqlite3.Connection, action_id: int, batch_id: int) -> None:
    """Say which batch an action belongs to, when the action itself made the batch."""
    conn.execute("UPDATE action SET batch_id = ? WHERE id = ?", (batch_id, action_id))


def remember(conn: sqlite3.Connection, action_id: int, response: Any) -> None:
    """Keep the answer, for a client that asks again."""
    conn.execute("UPDATE action SET response = ? WHERE id = ?", (json.dumps(response), action_id))


def say(conn: sqlite3.Connection, action_id: int, summary: str) -> None:
    """Put what only showed while it was carried out into an action's summary."""
    conn.execute("UPDATE action SET summary = ? WHERE id = ?", (summary, action_id))


def last_id(conn: sqlite3.Connection, before: int | None = None, stages: Sequence[str] | None = None) -> int:
    """Id of the last action at all, or of the last one before another; of some stages only, if these are named."""
    row = conn.execute(
        """SELECT max(id) AS last FROM action WHERE id < coalesce(:before, 9e18)
           AND (:stages IS NULL OR stage IN (SELECT value FROM json_each(:stages)))""",
        {"before": before, "stages": None if stages is None else json.dumps(list(stages))},
    ).fetchone()
    return int(row["last"] or 0)


_OF_PIECE = ("surface_step", "measurement", "glueup_specimen", "specimen_event", "remark", "observation")
"""Tables whose rows belong to a piece."""


def of_piece(conn: sqlite3.Connection, batch_id: int, specimen_id: int) -> list[ActionRecord]:
    """The actions that wrote anything about a piece, oldest first."""
    own = " UNION ".join(f"SELECT action_id FROM {t} WHERE specimen_id = :piece" for t in _OF_PIECE)
    rows = conn.execute(
        f"""SELECT id, stage, kind, summary, at, person, reason, undone_by, undoable FROM action
            WHERE batch_id = :batch AND id IN ({own}) ORDER BY id""",
        {"batch": batch_id, "piece": specimen_id},
    )
    return [_action(r) for r in rows]


def history(conn: sqlite3.Connection, batch_id: int | None, limit: int = 200) -> list[ActionRecord]:
    """The latest actions of a batch, newest first."""
    rows = conn.execute(
        """SELECT id, stage, kind, summary, at, person, reason, undone_by, undoable FROM action
           WHERE batch_id IS ? ORDER BY id DESC LIMIT ?""",
        (batch_id, limit),
    )
    return [_action(r) for r in rows]


def _action(r: sqlite3.Row) -> ActionRecord:
    return ActionRecord(
        r["id"], r["stage"], r["kind"], r["summary"], r["at"], r["person"], r["reason"],
        r["undone_by"] is not None, bool(r["undoable"]),
    )  # fmt: skip


IMPORTS = "imports"
"""Imported studies: recorded as acts of the shop, but undone where the studies are listed."""
_OF_STAGE = "{a}.stage = :stage AND ({a}.batch_id IS NOT NULL OR ({a}.kind = 'import') = :imports)"


def _asked(batch_id: int | None, stage: str) -> dict[str, Any]:
    return {"batch": batch_id, "stage": "shop" if stage == IMPORTS else stage, "imports": stage == IMPORTS}


def last_undoable(conn: sqlite3.Connection, batch_id: int | None, stage: str) -> tuple[int, str, str] | None:
    """(id, kind, summary) of the action that undo would take back in this stage, or among the ``IMPORTS``."""
    row = conn.execute(
        f"""SELECT id, kind, summary FROM action a
            WHERE batch_id IS :batch AND {_OF_STAGE.format(a="a")} AND undoable = 1 AND undone_by IS NULL
            AND undoes IS NULL ORDER BY id DESC LIMIT 1""",
        _asked(batch_id, stage),
    ).fetchone()
    return None if row is None else (row["id"], row["kind"], row["summary"])


def last_undone(conn: sqlite3.Connection, batch_id: int | None, stage: str) -> tuple[int, str, int] | None:
    """(id, summary, id of the undo) of the action that redo would bring back.

    Only while nothing else was done in the stage since the undo.
    """
    row = conn.execute(
        f"""SELECT a.id, a.summary, u.id AS undo_id FROM action a JOIN action u ON u.id = a.undone_by
            WHERE a.batch_id IS :batch AND {_OF_STAGE.format(a="a")} AND a.undoes IS NULL AND NOT EXISTS (
                SELECT 1 FROM action n WHERE n.batch_id IS :batch AND {_OF_STAGE.format(a="n")} AND n.undoable = 1
                AND n.undoes IS NULL AND n.undone_by IS NULL AND n.id > u.id)
            ORDER BY u.id DESC, a.id LIMIT 1""",
        _asked(batch_id, stage),
    ).fetchone()
    return None if row is None else (row["id"], row["summary"], row["undo_id"])


def undo(conn: sqlite3.Connection, action_id: int, undo_id: int) -> None:
    """Take an action back by the action ``undo_id``: its facts stay in the file but stand no more."""
    conn.execute("UPDATE action SET undoes = ? WHERE id = ?", (action_id, undo_id))
    conn.execute("UPDATE action SET undone_by = ? WHERE id = ?", (undo_id, action_id))


def redo(conn: sqlite3.Connection, action_id: int, redo_id: int) -> None:
    """Let an undone action stand again by the action ``redo_id``."""
    conn.execute("UPDATE action SET undone_by = NULL WHERE id = ?", (action_id,))
    conn.execute("UPDATE action SET after = ? WHERE id = ?", (json.dumps({"brought_back": action_id}), redo_id))


_TOUCHED = """
WITH new AS (SELECT id, batch_id, stage, undoes, json_extract(after, '$.brought_back') AS redone FROM action
             WHERE id > :since AND id < :before),
     changed AS (SELECT id FROM new UNION SELECT undoes FROM new WHERE undoes IS NOT NULL
                 UNION SELECT redone FROM new WHERE redone IS NOT NULL)
SELECT specimen_id FROM measurement WHERE action_id IN changed
UNION SELECT specimen_id FROM specimen_event WHERE action_id IN changed
UNION SELECT specimen_id FROM observation WHERE action_id IN changed
UNION SELECT specimen_id FROM glueup_specimen WHERE action_id IN changed
UNION SELECT m.specimen_id FROM glueup g JOIN glueup_specimen m ON m.glueup_id = g.id WHERE g.action_id IN changed
UNION SELECT m.specimen_id FROM mix x JOIN glueup_specimen m ON m.glueup_id = x.glueup_id WHERE x.action_id IN changed
UNION SELECT -1 FROM new WHERE stage = 'plan' AND coalesce(batch_id, :batch) = :batch
"""


def touched(conn: sqlite3.Connection, batch_id: int, since: int, before: int | None) -> set[int] | None:
    """Pieces, of any batch, of which something may have changed in the actions after ``since`` (and before another).

    ``None``: the plan of the batch was changed, so that its pieces themselves may be others.
    """
    limits = {"batch": batch_id, "since": since, "before": before if before is not None else 9e18}
    rows = conn.execute(_TOUCHED, limits)
    found = {int(r["specimen_id"]) for r in rows}
    return None if -1 in found else found


def worked_on(conn: sqlite3.Connection, action_id: int) -> bool:
    """Whether anything stands about the pieces that an action made."""
    row = conn.execute(
        """SELECT 1 FROM specimen s WHERE s.action_id = ? AND (
               EXISTS (SELECT 1 FROM current_measurement m WHERE m.specimen_id = s.id)
            OR EXISTS (SELECT 1 FROM current_glueup_specimen g WHERE g.specimen_id = s.id)
            OR EXISTS (SELECT 1 FROM current_observation o WHERE o.specimen_id = s.id)) LIMIT 1""",
        (action_id,),
    ).fetchone()
    return row is not None


def later_work(conn: sqlite3.Connection, batch_id: int | None) -> bool:
    """Whether anything stands in the batch that was done after planning."""
    row = conn.execute(
        """SELECT 1 FROM action WHERE batch_id = ? AND stage IN ('cut', 'glue', 'break')
           AND undone_by IS NULL AND undoes IS NULL AND kind <> 'redo' LIMIT 1""",
        (batch_id,),
    ).fetchone()
    return row is not None


def made_batch(conn: sqlite3.Connection, action_id: int) -> int | None:
    """The batch whose first plan an action wrote."""
    row = conn.execute("SELECT batch_id FROM plan_version WHERE action_id = ? AND number = 1", (action_id,)).fetchone()
    return None if row is None else int(row["batch_id"])


def of_key(conn: sqlite3.Connection, key: str) -> int | None:
    """The action that was carried out under an idempotency key."""
    row = conn.execute("SELECT id FROM action WHERE key = ?", (key,)).fetchone()
    return None if row is None else int(row["id"])
