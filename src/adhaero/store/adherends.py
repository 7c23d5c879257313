"""The adherends of a piece: which faces which, what was done to each face, and what is wrong with the wood."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True)
class Adherend:
    """One adherend of a piece; ``face`` is the kind of its glued face, ``angle_deg`` that of a mitre or scarf."""

    side: str
    material: str
    face: str
    angle_deg: float | None


@dataclass(frozen=True)
class Step:
    """One thing done to a face, in its order. ``wait_s`` is the wait after it."""

    side: str
    position: int
    step: str
    grit: int | None = None
    amount_g_m2: float | None = None
    dilution: str = ""
    wait_s: float | None = None
    at: str | None = None


def adherends(conn: sqlite3.Connection, specimen_id: int) -> list[Adherend]:
    """The adherends of a piece by side."""
    rows = conn.execute(
        "SELECT side, material, face, angle_deg FROM adherend WHERE specimen_id = ? ORDER BY side", (specimen_id,)
    )
    return [Adherend(**dict(r)) for r in rows]


def steps(conn: sqlite3.Connection, specimen_id: int) -> list[Step]:
    """What was done to the faces of a piece: the list written down last for each side."""
    rows = conn.execute(
        """SELECT t.side, t.position, t.step, t.grit, t.amount_g_m2, t.dilution, t.wait_s, t.at FROM surface_step t
           WHERE t.specimen_id = :piece AND t.action_id = (
               SELECT max(o.action_id) FROM surface_step o
               WHERE o.specimen_id = :piece AND o.side = t.side AND o.action_id IN standing_action)
           ORDER BY t.side, t.position""",
        {"piece": specimen_id},
    )
    return [Step(**dict(r)) for r in rows]


def steps_of_batch(conn: sqlite3.Connection, batch_id: int) -> dict[int, list[Step]]:
    """The same for all pieces of a batch, by piece."""
    rows = conn.execute(
        """SELECT t.specimen_id, t.side, t.position, t.step, t.grit, t.amount_g_m2, t.dilution, t.wait_s, t.at
           FROM surface_step t JOIN current_specimen s ON s.id = t.specimen_id WHERE s.batch_id = ? AND t.action_id = (
               SELECT max(o.action_id) FROM surface_step o
               WHERE o.specimen_id = t.specimen_id AND o.side = t.side AND o.action_id IN standing_action)
           ORDER BY t.specimen_id, t.side, t.position""",
        (batch_id,),
    )
    found: dict[int, list[Step]] = {}
    for r in rows:
        own = {k: r[k] for k in ("side", "position", "step", "grit", "amount_g_m2", "dilution", "wait_s", "at")}
        found.setdefault(r["specimen_id"], []).append(Step(**own))
    return found


def add_steps(conn: sqlite3.Connection, specimen_ids: Iterable[int], new: Iterable[Step], action_id: int) -> None:
    """Write the same list of steps for several pieces; it takes the place of an older list of those sides."""
    listed = list(new)
    conn.executemany(
        """INSERT INTO surface_step (specimen_id, side, position, step, grit, amount_g_m2, dilution, wait_s, at,
           action_id) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
        [
            (piece, s.side, s.position, s.step, s.grit, s.amount_g_m2, s.dilution, s.wait_s, s.at, action_id)
            for piece in specimen_ids
            for s in listed
        ],
    )
