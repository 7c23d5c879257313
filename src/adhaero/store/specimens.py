"""Treatments and specimens: written once at the lock, read by every stage; and their measured sizes."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

from adhaero.core.joint import adherends
from adhaero.core.plan.design import COUNTS, NewSpecimen
from adhaero.core.plan.document import Level
from adhaero.core.plan.fields import FIELDS
from adhaero.core.plan.treatments import JOINT, Treatment, other_species
from adhaero.store import scope


@dataclass(frozen=True)
class StoredTreatment:
    """A treatment of a locked batch. ``levels`` are (factor key, factor name, level)."""

    id: int
    letter: str
    label: str
    role: str
    control: str | None
    replicates: int
    levels: tuple[tuple[str, str, Level], ...]


@dataclass(frozen=True)
class Specimen:
    """A piece with its full planned record. Pressure, times and glue are empty for a solid piece.

    ``role`` is joint or solid; ``part`` what the piece was made for: to count, as a spare, as a dummy.
    """

    id: int
    code: str
    treatment_id: int
    role: str
    replicate: int
    break_order: int
    glue_order: int
    species_a: str
    species_b: str
    orientation: str
    glue: str
    prep: str
    pressure_mpa: float | None
    clamp_s: float | None
    cure_s: float | None
    alias: str = ""
    part: str = COUNTS
    parent_id: int | None = None
    block: str = ""


def taken_codes(conn: sqlite3.Connection) -> set[str]:
    """Every code ever given out, also those of a lock that was undone."""
    return {r["code"] for r in conn.execute("SELECT code FROM specimen UNION SELECT code FROM parent")}


def add_treatments(
    conn: sqlite3.Connection, batch_id: int, treatments: Sequence[Treatment], names: dict[str, str], action_id: int
) -> list[int]:
    """Write the treatments of a plan; ``names`` maps factor keys to names. Returns their ids in order."""
    ids = []
    for t in treatments:
        cursor = conn.execute(
            """INSERT INTO treatment (batch_id, letter, label, role, control, replicates, action_id)
               VALUES (?, ?, ?, ?, ?, ?, ?)""",
            (batch_id, t.letter, t.label, t.role, t.control, t.replicates, action_id),
        )
        ids.append(int(cursor.lastrowid or 0))
        own = {**names, **{k: FIELDS[k].name if k in FIELDS else k.replace("_", " ") for k in t.changed}}
        varied = [(k, name, t.record[k]) for k, name in own.items() if k in t.record]
        conn.executemany(
            "INSERT INTO treatment_level VALUES (?, ?, ?, ?, ?, ?, ?)",
            [(ids[-1], i, k, name, *_split(v.value), v.unit) for i, (k, name, v) in enumerate(varied)],
        )
    return ids


def _split(value: str | float | None) -> tuple[str | None, float | None]:
    return (value, None) if isinstance(value, str) else (None, value)


def add_specimens(
    conn: sqlite3.Connection,
    batch_id: int,
    treatments: Sequence[Treatment],
    treatment_ids: Sequence[int],
    specimens: Iterable[NewSpecimen],
    action_id: int,
    parents: Mapping[int, int] | None = None,
) -> None:
    """Write the pieces of a plan with their planned record and both adherends; ``parents`` are ids by number."""
    for s in specimens:
        t = treatments[s.treatment]
        joint = t.role == JOINT
        text = {k: str(t.record[k].value or "none") if joint else "" for k in ("glue", "orientation", "prep")}
        number = {k: t.record[k].value if joint else None for k in ("pressure_mpa", "clamp_s", "cure_s")}
        cursor = conn.execute(
            """INSERT INTO specimen (code, batch_id, treatment_id, role, replicate, break_order, glue_order,
               glue, orientation, prep, pressure_mpa, clamp_s, cure_s, action_id, parent_id, block, alias)
               VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
            (
                s.code, batch_id, treatment_ids[s.treatment], t.role if s.part == COUNTS else s.part,
                s.replicate, s.break_order, s.glue_order,
                text["glue"], text["orientation"], text["prep"], *number.values(), action_id,
                (parents or {}).get(s.parent) if s.parent is not None else None,
                "" if s.block is None else str(s.block),
                s.name,
            ),
        )  # fmt: skip
        species = str(t.record["species"].value)
        pieces = adherends(text["orientation"], species, other_species(t.record), t.form, t.sizes) if joint else ()
        rows = [
            (cursor.lastrowid, side, p.material, p.face.value, p.angle_deg)
            for side, p in zip("ab", pieces, strict=False)
        ]
        conn.executemany(
            "INSERT INTO adherend (specimen_id, side, material, face, angle_deg) VALUES (?, ?, ?, ?, ?)",
            rows or [(cursor.lastrowid, "a", species, "long", None)],
        )


def treatments(conn: sqlite3.Connection, batch_id: int) -> list[StoredTreatment]:
    """The treatments of a batch in plan order; empty before the lock."""
    levels: dict[int, list[tuple[str, str, Level]]] = {}
    for r in conn.execute(
        """SELECT l.* FROM treatment_level l JOIN treatment t ON t.id = l.treatment_id
           WHERE t.batch_id = ? ORDER BY l.treatment_id, l.position""",
        (batch_id,),
    ):
        value = r["text"] if r["text"] is not None else r["number"]
        levels.setdefault(r["treatment_id"], []).append((r["factor_key"], r["factor_name"], Level(value, r["unit"])))
    rows = conn.execute(
        """SELECT id, letter, label, role, control, replicates FROM treatment
           WHERE batch_id = ? AND action_id IN standing_action ORDER BY id""",
        (batch_id,),
    )
    return [
        StoredTreatment(
            r["id"], r["letter"], r["label"], r["role"], r["control"], r["replicates"], tuple(levels.get(r["id"], ()))
        )
        for r in rows
    ]


_SPECIMEN = """
SELECT s.id, s.code, s.treatment_id, t.role, s.replicate, s.break_order, s.glue_order,
       a.material AS species_a, coalesce(b.material, a.material) AS species_b, s.orientation, s.glue, s.prep,
       s.pressure_mpa, s.clamp_s, s.cure_s, s.alias, s.parent_id, s.block,
       CASE WHEN s.role IN ('joint', 'solid') THEN 'counts' ELSE s.role END AS part
FROM current_specimen s JOIN treatment t ON t.id = s.treatment_id
     JOIN adherend a ON a.specimen_id = s.id AND a.side = 'a'
     LEFT JOIN adherend b ON b.specimen_id = s.id AND b.side = 'b'
"""


def specimens(conn: sqlite3.Connection, batch_id: int) -> list[Specimen]:
    """All standing pieces of a batch, treatment by treatment."""
    rows = conn.execute(_SPECIMEN + "WHERE s.batch_id = ? ORDER BY s.treatment_id, s.replicate", (batch_id,))
    return [Specimen(**dict(r)) for r in rows]


def find_code(conn: sqlite3.Connection, code: str) -> tuple[int, int] | None:
    """(specimen id, batch id) of a code that stands, or ``None``."""
    row = conn.execute("SELECT id, batch_id FROM current_specimen WHERE code = ?", (code,)).fetchone()
    return None if row is None else (row["id"], row["batch_id"])


def batch_of(conn: sqlite3.Connection, specimen_id: int) -> int:
    """The batch of a piece."""
    return int(conn.execute("SELECT batch_id FROM specimen WHERE id = ?", (specimen_id,)).fetchone()["batch_id"])


@dataclass(frozen=True)
class Measured:
    """A measured value that stands, in the base unit of its quantity; ``typed`` is what the user wrote."""

    id: int
    specimen_id: int
    quantity: str
    value: float
    typed: str
    place: str


def measured(conn: sqlite3.Connection, batch_id: int, only: Collection[int] | None = None) -> list[Measured]:
    """All standing measurements of a batch (or of ``only`` these pieces of it), oldest first."""
    source, parameters = scope.pieces(batch_id, only)
    rows = conn.execute(
        f"""SELECT m.id, m.specimen_id, m.quantity, m.value, m.typed, m.place
            FROM {source} CROSS JOIN current_measurement m ON m.specimen_id = s.id ORDER BY m.id""",
        parameters,
    )
    return [Measured(**dict(r)) for r in rows]


def add_measurement(
    conn: sqlite3.Connection, specimen_id: int, quantity: str, value: float, typed: str, now: str, action_id: int
) -> None:
    """A measured value; it replaces the standing one of that quantity and piece, which stays in the file."""
    old = conn.execute(
        "SELECT id FROM current_measurement WHERE specimen_id = ? AND quantity = ? AND place = ''",
        (specimen_id, quantity),
    ).fetchone()
    conn.execute(
        """INSERT INTO measurement (specimen_id, quantity, value, typed, at, replaces_id, action_id)
           VALUES (?, ?, ?, ?, ?, ?, ?)""",
        (specimen_id, quantity, value, typed, now, old["id"] if old else None, action_id),
    )
