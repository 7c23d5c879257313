"""Glue-ups and the pieces in them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from typing import Any

from adhaero.store import scope


@dataclass(frozen=True)
class Glueup:
    """One session of gluing. ``force_n`` is the force of each clamp, ``clamps`` their number for each joint.

    ``pressed_by`` is a means of pressing (core.glue.pressing) where one was named.
    """

    id: int
    number: int
    started_at: str
    ended_at: str | None
    person: str
    air_c: float | None
    humidity_pct: float | None
    bottle: str
    force_n: float | None
    clamps: int
    force_known: str
    spread_g_m2: float | None
    faces: str
    note: str
    pressed_by: str = ""


@dataclass(frozen=True)
class Mix:
    """Glue mixed for a glue-up; ``deviation`` says what was not as the label has it."""

    glueup_id: int
    mixed_at: str
    ratio: str
    deviation: str


@dataclass(frozen=True)
class Member:
    """A piece's part in a glue-up; ``None`` is as for the whole glue-up, anything else an exception."""

    id: int
    glueup_id: int
    specimen_id: int
    position: int
    force_n: float | None = None
    clamps: int | None = None
    spread_g_m2: float | None = None
    bottle: str | None = None
    note: str = ""

    @property
    def is_exception(self) -> bool:
        """Whether anything about this piece differs from the glue-up."""
        return any(v is not None for v in (self.force_n, self.clamps, self.spread_g_m2, self.bottle)) or bool(self.note)


@dataclass(frozen=True)
class Event:
    """Something that happened to a piece: unclamped, closed, ..."""

    id: int
    specimen_id: int
    kind: str
    at: str
    value: dict[str, Any]
    note: str


_COLUMNS = (
    "id, number, started_at, ended_at, person, air_c, humidity_pct, bottle, force_n, clamps, force_known, "
    "spread_g_m2, faces, note, pressed_by"
)


def add_glueup(conn: sqlite3.Connection, batch_id: int, values: dict[str, Any], action_id: int) -> int:
    """A new glue-up with the given column values; returns its id. Numbers count up in the batch."""
    number = conn.execute(
        "SELECT coalesce(max(number), 0) + 1 FROM current_glueup WHERE batch_id = ?", (batch_id,)
    ).fetchone()[0]
    cursor = conn.execute(
        """INSERT INTO glueup (batch_id, number, started_at, ended_at, person, air_c, humidity_pct, bottle, bottle_id,
           force_n, clamps, force_known, spread_g_m2, faces, note, pressed_by, action_id)
           VALUES (:batch_id, :number, :started_at, :ended_at, :person, :air_c, :humidity_pct, :bottle, :bottle_id,
           :force_n, :clamps, :force_known, :spread_g_m2, :faces, :note, :pressed_by, :action_id)""",
        {"ended_at": None, "pressed_by": "", **values, "batch_id": batch_id, "number": number, "action_id": action_id},
    )
    return int(cursor.lastrowid or 0)


def add_mix(conn: sqlite3.Connection, m: Mix, action_id: int) -> None:
    """Write down the mix of a glue-up; a later one of the same takes its place."""
    conn.execute(
        "INSERT INTO mix (glueup_id, mixed_at, ratio, deviation, action_id) VALUES (?, ?, ?, ?, ?)",
        (m.glueup_id, m.mixed_at, m.ratio, m.deviation, action_id),
    )


@dataclass(frozen=True)
class OpenMix:
    """Glue mixed at the bench for joints that are not all clamped yet: ``codes`` were laid out, ``left`` still wait."""

    glueup_id: int
    number: int
    at: str
    key: str
    bottle: str
    air_c: float | None
    force_known: str
    codes: list[str]
    left: list[str]


def open_mix(conn: sqlite3.Connection, batch_id: int, since: str) -> OpenMix | None:
    """The mix made last at the bench, ``since`` a moment, while joints laid out for it are not all clamped."""
    row = conn.execute(
        """SELECT g.id AS glueup_id, g.number, g.started_at AS at, a.key, g.bottle, g.air_c, g.force_known, a.after
           FROM current_glueup g
           JOIN action a ON a.id = g.action_id WHERE g.batch_id = ? AND a.kind = 'mix'
           AND g.started_at >= ? ORDER BY g.id DESC LIMIT 1""",
        (batch_id, since),
    ).fetchone()
    if row is None:
        return None
    glued = conn.execute(
        """SELECT s.code, p.code AS parent FROM current_glueup_specimen m JOIN specimen s ON s.id = m.specimen_id
           LEFT JOIN parent p ON p.id = s.parent_id WHERE s.batch_id = ?""",
        (batch_id,),
    )
    done, codes = {c for r in glued for c in (r["code"], r["parent"])}, json.loads(row["after"])["codes"]
    left = [c for c in codes if c not in done]
    made = {k: row[k] for k in ("glueup_id", "number", "at", "key", "bottle", "air_c", "force_known")}
    return OpenMix(**made, codes=codes, left=left) if left else None


def mixes(conn: sqlite3.Connection, batch_id: int) -> dict[int, Mix]:
    """The mixes of a batch by glue-up."""
    rows = conn.execute(
        """SELECT x.glueup_id, x.mixed_at, x.ratio, x.deviation FROM mix x JOIN current_glueup g ON g.id = x.glueup_id
           JOIN action a ON a.id = x.action_id AND a.undone_by IS NULL WHERE g.batch_id = ? ORDER BY x.id""",
        (batch_id,),
    )
    return {r["glueup_id"]: Mix(**dict(r)) for r in rows}


def add_members(conn: sqlite3.Connection, glueup_id: int, specimen_ids: Iterable[int], action_id: int) -> None:
    """Put pieces into a glue-up, in this order."""
    conn.executemany(
        "INSERT INTO glueup_specimen (glueup_id, specimen_id, position, action_id) VALUES (?, ?, ?, ?)",
        [(glueup_id, s, i, action_id) for i, s in enumerate(specimen_ids, 1)],
    )


def except_member(conn: sqlite3.Connection, old: Member, changed: dict[str, Any], action_id: int) -> None:
    """Replace a piece's part in a glue-up by one with these exceptions."""
    new = {k: changed.get(k, getattr(old, k)) for k in ("force_n", "clamps", "spread_g_m2", "bottle", "note")}
    conn.execute(
        """INSERT INTO glueup_specimen (glueup_id, specimen_id, position, force_n, clamps, spread_g_m2, bottle, note,
           replaces_id, action_id) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
        (old.glueup_id, old.specimen_id, old.position, *new.values(), old.id, action_id),
    )


def glueups(conn: sqlite3.Connection, batch_id: int) -> list[Glueup]:
    """The standing glue-ups of a batch in order."""
    rows = conn.execute(f"SELECT {_COLUMNS} FROM current_glueup WHERE batch_id = ? ORDER BY number", (batch_id,))
    return [Glueup(**dict(r)) for r in rows]


def made_by(conn: sqlite3.Connection, action_id: int | None) -> Glueup | None:
    """The standing glue-up that an action made."""
    row = conn.execute(f"SELECT {_COLUMNS} FROM current_glueup WHERE action_id = ?", (action_id,)).fetchone()
    return None if row is None else Glueup(**dict(row))


def closed_lately(conn: sqlite3.Connection, most: int) -> list[tuple[int, str]]:
    """(glue-up, moment) of the joints that were closed at the bench last, in any batch: each by a tap of its own, not
    by times that were told, imported or spread evenly afterwards.
    """
    rows = conn.execute(
        """SELECT m.glueup_id, e.at FROM current_specimen_event e
           JOIN current_glueup_specimen m ON m.specimen_id = e.specimen_id
           JOIN action a ON a.id = e.action_id
           WHERE e.kind = 'closed' AND a.kind = 'clamped' ORDER BY e.id DESC LIMIT ?""",
        (most,),
    )
    return [(r["glueup_id"], r["at"]) for r in rows]


def members(conn: sqlite3.Connection, batch_id: int, only: Collection[int] | None = None) -> list[Member]:
    """The pieces in the standing glue-ups of a batch (or ``only`` these of them)."""
    source, parameters = scope.pieces(batch_id, only)
    rows = conn.execute(
        f"""SELECT m.id, m.glueup_id, m.specimen_id, m.position, m.force_n, m.clamps, m.spread_g_m2, m.bottle, m.note
            FROM {source} CROSS JOIN current_glueup_specimen m ON m.specimen_id = s.id
                 JOIN current_glueup g ON g.id = m.glueup_id
            ORDER BY m.glueup_id, m.position""",
        parameters,
    )
    return [Member(**dict(r)) for r in rows]


def add_events(
    conn: sqlite3.Connection,
    specimen_ids: Iterable[int],
    kind: str,
    at: str,
    note: str,
    action_id: int,
    value: dict[str, Any] | None = None,
) -> None:
    """The same thing happening to several pieces at once; ``value`` holds what its kind needs."""
    document = json.dumps(value or {})
    conn.executemany(
        "INSERT INTO specimen_event (specimen_id, kind, at, value, note, action_id) VALUES (?, ?, ?, ?, ?, ?)",
        [(s, kind, at, document, note, action_id) for s in specimen_ids],
    )


def events(conn: sqlite3.Connection, batch_id: int, only: Collection[int] | None = None) -> list[Event]:
    """What happened to the pieces of a batch (or to ``only`` these of them), oldest first."""
    source, parameters = scope.pieces(batch_id, only)
    rows = conn.execute(
        f"""SELECT e.id, e.specimen_id, e.kind, e.at, e.value, e.note
            FROM {source} CROSS JOIN current_specimen_event e ON e.specimen_id = s.id ORDER BY e.at, e.id""",
        parameters,
    )
    return [Event(i, s, k, at, json.loads(v) if v != "{}" else {}, note) for i, s, k, at, v, note in rows]
