"""Load rigs, how they are set up, which set-up is in use, and what was seen of them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, field

from adhaero.core.breaking.instrument import Instrument, instrument_from_json


@dataclass(frozen=True)
class SetUp:
    """A rig as it is set up: what holds the piece, the range it reads, as load on the piece in N, and the instrument
    that reads it.

    ``working_share`` is how much of the capacity is used; ``pattern`` says how its lines are read where they are not
    of the rig's own protocol; ``load_point`` is where the load acts, ``weakest`` the part that bears least
    (``weakest_n``, N). A change of any of these is another set-up; results keep the one they were made under.
    """

    id: int
    rig: str
    fixture: str
    capacity_n: float
    resolution_n: float
    working_share: float
    reason: str = ""
    at: str = ""
    instrument: Instrument = field(default_factory=Instrument)
    pattern: str = ""
    load_point: str = ""
    weakest: str = ""
    weakest_n: float | None = None

    @property
    def limit_n(self) -> float:
        """Up to where it is used."""
        limit = self.capacity_n * self.working_share
        return limit if self.weakest_n is None else min(limit, self.weakest_n)


@dataclass(frozen=True)
class RigUse:
    """The set-up in use, and the ``port`` that the serial library opens: a device or ``socket://host:port``."""

    set_up: SetUp
    port: str


_SET_UP = """SELECT s.id, r.name AS rig, s.fixture, s.capacity_n, s.resolution_n, s.working_share, s.reason, s.at,
                    s.instrument, s.pattern, s.load_point, s.weakest, s.weakest_n
             FROM rig_setup s JOIN rig r ON r.id = s.rig_id"""


def set_ups(conn: sqlite3.Connection) -> dict[int, SetUp]:
    """Every set-up there ever was, by id."""
    return {r["id"]: _set_up(r) for r in conn.execute(_SET_UP)}


def _set_up(r: sqlite3.Row) -> SetUp:
    return SetUp(**{**dict(r), "instrument": instrument_from_json(json.loads(r["instrument"]))})


def in_use(conn: sqlite3.Connection) -> RigUse | None:
    """The set-up in use: the one chosen last."""
    row = conn.execute(
        """SELECT setup_id, port FROM rig_use WHERE action_id IS NULL OR action_id IN standing_action
           ORDER BY id DESC LIMIT 1"""
    ).fetchone()
    if row is None:
        return None
    found = conn.execute(f"{_SET_UP} WHERE s.id = ?", (row["setup_id"],)).fetchone()
    return RigUse(_set_up(found), row["port"])


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
    said = json.dumps(s.instrument.to_json(), sort_keys=True)
    own = (s.fixture, s.capacity_n, s.resolution_n, s.working_share, said, s.pattern, s.load_point, s.weakest,
           s.weakest_n)  # fmt: skip
    same = conn.execute(
        f"""{_SET_UP} WHERE r.name = ? AND s.fixture = ? AND s.capacity_n = ? AND s.resolution_n = ?
            AND s.working_share = ? AND s.instrument = ? AND s.pattern = ? AND s.load_point = ?
            AND s.weakest = ? AND s.weakest_n IS ? ORDER BY s.id DESC LIMIT 1""",
        (s.rig, *own),
    ).fetchone()
    if same is not None and not s.reason:
        return int(same["id"])
    cursor = conn.execute(
        """INSERT INTO rig_setup (rig_id, fixture, capacity_n, resolution_n, working_share, instrument, pattern,
           load_point, weakest, weakest_n, reason, at, action_id)
           SELECT id, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ? FROM rig WHERE name = ?""",
        (*own, s.reason, now, action_id, s.rig),
    )
    return int(cursor.lastrowid or 0)


@dataclass(frozen=True)
class RigEvent:
    """What was seen of a rig: a check weight (``known_n`` on the piece, ``shown`` in the instrument's base unit), or
    that it was looked over.
    """

    rig: str
    setup_id: int
    kind: str
    at: str
    known_n: float | None = None
    shown: float | None = None
    note: str = ""
    person: str = ""


def add_event(conn: sqlite3.Connection, e: RigEvent, action_id: int) -> int:
    """Write down what was seen of a rig; returns its id."""
    cursor = conn.execute(
        """INSERT INTO rig_event (rig_id, setup_id, kind, known_n, shown, note, person, at, action_id)
           SELECT id, ?, ?, ?, ?, ?, ?, ?, ? FROM rig WHERE name = ?""",
        (e.setup_id, e.kind, e.known_n, e.shown, e.note, e.person, e.at, action_id, e.rig),
    )
    return int(cursor.lastrowid or 0)


def events(conn: sqlite3.Connection, rig: str, kind: str) -> list[RigEvent]:
    """What was seen of a rig, oldest first."""
    rows = conn.execute(
        """SELECT r.name AS rig, e.setup_id, e.kind, e.at, e.known_n, e.shown, e.note, e.person
           FROM rig_event e JOIN rig r ON r.id = e.rig_id
           WHERE r.name = ? AND e.kind = ? AND e.action_id IN standing_action ORDER BY e.at, e.id""",
        (rig, kind),
    )
    return [RigEvent(**dict(r)) for r in rows]


def add_ticks(
    conn: sqlite3.Connection, batch_id: int, setup_id: int, day: str, keys: Sequence[str], action_id: int
) -> int:
    """Points of a checklist were looked at on a day (ISO); returns the id given."""
    cursor = conn.execute(
        "INSERT INTO rig_tick (batch_id, setup_id, day, keys, action_id) VALUES (?, ?, ?, ?, ?)",
        (batch_id, setup_id, day, json.dumps(list(keys)), action_id),
    )
    return int(cursor.lastrowid or 0)


def ticks(conn: sqlite3.Connection, batch_id: int, setup_id: int, day: str) -> frozenset[str]:
    """Points that were looked at for a batch under a set-up on a day."""
    rows = conn.execute(
        "SELECT keys FROM rig_tick WHERE batch_id = ? AND setup_id = ? AND day = ? AND action_id IN standing_action",
        (batch_id, setup_id, day),
    )
    return frozenset(key for r in rows for key in json.loads(r["keys"]))


def last_overload(conn: sqlite3.Connection, rig: str) -> tuple[str, str] | None:
    """When a rig was last at or beyond the end of its range, and with which piece: by its signal, or by a load that
    was typed and confirmed.
    """
    row = conn.execute(
        """SELECT p.ended_at AS at, s.code FROM rig r JOIN rig_setup u ON u.rig_id = r.id
           JOIN pull p ON p.setup_id = u.id AND json_extract(p.proposal, '$.bound_by') = 'range'
           JOIN specimen s ON s.id = p.specimen_id WHERE r.name = ?1
           UNION ALL
           SELECT o.at, s.code FROM rig r JOIN rig_setup u ON u.rig_id = r.id
           JOIN observation o ON o.setup_id = u.id AND instr(o.confirmed, 'over capacity') > 0
           JOIN specimen s ON s.id = o.specimen_id
           WHERE r.name = ?1 AND o.id IN (SELECT id FROM current_observation c WHERE c.id = o.id)
           ORDER BY at DESC LIMIT 1""",
        (rig,),
    ).fetchone()
    return None if row is None else (row["at"], row["code"])


def move_port(conn: sqlite3.Connection, port: str) -> None:
    """Say where the rig listens now: the simulated one of the demo gets another port at each start."""
    conn.execute("UPDATE rig_use SET port = ?", (port,))
