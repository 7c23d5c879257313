"""Load rigs, how they are set up, and which set-up is in use."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass


@dataclass(frozen=True)
class SetUp:
    """A rig as it is set up: what holds the piece, and the range it reads; forces in N.

    ``working_share`` is how much of the capacity is used. A change of any of these is another set-up; results keep the
    one they were made under.
    """

    id: int
    rig: str
    fixture: str
    capacity_n: float
    resolution_n: float
    working_share: float
    reason: str = ""
    at: str = ""

    @property
    def limit_n(self) -> float:
        """Up to where it is used."""
        return self.capacity_n * self.working_share


@dataclass(frozen=True)
class RigUse:
    """The set-up in use, and the ``port`` that the serial library opens: a device or ``socket://host:port``."""

    set_up: SetUp
    port: str


_SET_UP = """SELECT s.id, r.name AS rig, s.fixture, s.capacity_n, s.resolution_n, s.working_share, s.reason, s.at
             FROM rig_setup s JOIN rig r ON r.id = s.rig_id"""


def set_ups(conn: sqlite3.Connection) -> dict[int, SetUp]:
    """Every set-up there ever was, by id."""
    return {r["id"]: SetUp(**dict(r)) for r in conn.execute(_SET_UP)}


def in_use(conn: sqlite3.Connection) -> RigUse | None:
    """The set-up in use: the one chosen last."""
    row = conn.execute(
        """SELECT setup_id, port FROM rig_use WHERE action_id IS NULL OR action_id IN standing_action
           ORDER BY id DESC LIMIT 1"""
    ).fetchone()
    if row is None:
        return None
    found = conn.execute(f"{_SET_UP} WHERE s.id = ?", (row["setup_id"],)).fetchone()
    return RigUse(SetUp(**dict(found)), row["port"])


def use(conn: sqlite3.Connection, s: SetUp, port: str, now: str, action_id: int) -> int:
    """Use a rig in this set-up from now on; returns the set-up's id.

    Going back to an earlier one is going back: without a ``reason`` for a new revision it is the same one again.
    """
    setup_id = set_up_id(conn, s, now, action_id)
    conn.execute(
        "INSERT INTO rig_use (setup_id, port, at, action_id) VALUES (?, ?, ?, ?)", (setup_id, port, now, action_id)
    )
    return setup_id


def set_up_id(conn: sqlite3.Connection, s: SetUp, now: str, action_id: int) -> int:
    """The id of a set-up: that of the same one if there is one (and no ``reason`` for a revision), else a new one."""
    conn.execute("INSERT INTO rig (name, action_id) VALUES (?, ?) ON CONFLICT (name) DO NOTHING", (s.rig, action_id))
    same = conn.execute(
        f"""{_SET_UP} WHERE r.name = ? AND s.fixture = ? AND s.capacity_n = ? AND s.resolution_n = ?
            AND s.working_share = ? ORDER BY s.id DESC LIMIT 1""",
        (s.rig, s.fixture, s.capacity_n, s.resolution_n, s.working_share),
    ).fetchone()
    if same is not None and not s.reason:
        return int(same["id"])
    cursor = conn.execute(
        """INSERT INTO rig_setup (rig_id, fixture, reason, capacity_n, resolution_n, working_share, at, action_id)
           SELECT id, ?, ?, ?, ?, ?, ?, ? FROM rig WHERE name = ?""",
        (s.fixture, s.reason, s.capacity_n, s.resolution_n, s.working_share, now, action_id, s.rig),
    )
    return int(cursor.lastrowid or 0)


def move_port(conn: sqlite3.Connection, port: str) -> None:
    """Say where the rig listens now: the simulated one of the demo gets another port at each start."""
    conn.execute("UPDATE rig_use SET port = ?", (port,))
