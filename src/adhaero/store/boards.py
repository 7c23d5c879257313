"""Boards in the shop, and where the pieces of a batch are cut from them."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import asdict, dataclass
from typing import Any

from adhaero.core.cut.layout import Board, Rect


@dataclass(frozen=True)
class StoredBoard(Board):
    """A board in the shop with what is known of it: moisture in %, density in kg/m3, price in the user's currency."""

    moisture_pct: float | None = None
    density_kg_m3: float | None = None
    price: float | None = None
    source: str = ""
    note: str = ""


def boards(conn: sqlite3.Connection) -> list[StoredBoard]:
    """All boards in use, by label."""
    return _boards(conn, "AND (retired_by IS NULL OR retired_by NOT IN standing_action)")


def every(conn: sqlite3.Connection) -> list[StoredBoard]:
    """All boards that ever were, those gone too."""
    return _boards(conn, "")


def _boards(conn: sqlite3.Connection, only: str) -> list[StoredBoard]:
    defects: dict[int, list[Rect]] = {}
    for r in conn.execute("SELECT board_id, x_mm, y_mm, length_mm, width_mm FROM board_defect ORDER BY id"):
        place = Rect(r["x_mm"], r["y_mm"], r["length_mm"], r["width_mm"])
        defects.setdefault(r["board_id"], []).append(place)
    rows = conn.execute(
        f"""SELECT id, label, species, length_mm, width_mm, thickness_mm, moisture_pct, density_kg_m3, price, source,
                  note
           FROM board WHERE (action_id IS NULL OR action_id IN standing_action)
           {only} AND length_mm IS NOT NULL ORDER BY label"""
    )
    return [StoredBoard(**dict(r), defects=tuple(defects.get(r["id"], ()))) for r in rows]


def add(conn: sqlite3.Connection, b: StoredBoard, action_id: int) -> int:
    """A new board with its defects; its ``id`` is ignored. Returns the id given."""
    values = {k: v for k, v in asdict(b).items() if k not in ("id", "defects")}
    cursor = conn.execute(
        """INSERT INTO board (label, species, length_mm, width_mm, thickness_mm, moisture_pct, density_kg_m3, price,
           source, note, action_id) VALUES (:label, :species, :length_mm, :width_mm, :thickness_mm, :moisture_pct,
           :density_kg_m3, :price, :source, :note, :action_id)""",
        {**values, "action_id": action_id},
    )
    board_id = int(cursor.lastrowid or 0)
    add_defects(conn, board_id, b.defects, action_id)
    return board_id


def add_defects(conn: sqlite3.Connection, board_id: int, defects: tuple[Rect, ...], action_id: int) -> None:
    """Mark defects on a board."""
    conn.executemany(
        """INSERT INTO board_defect (board_id, kind, x_mm, y_mm, length_mm, width_mm, action_id)
           VALUES (?, 'defect', ?, ?, ?, ?, ?)""",
        [(board_id, d.x, d.y, d.length, d.width, action_id) for d in defects],
    )


def retire(conn: sqlite3.Connection, board_id: int, action_id: int) -> None:
    """Take a board out of use; what was cut from it stays on record. Its label is free for another one."""
    conn.execute("UPDATE board SET retired_by = ? WHERE id = ?", (action_id, board_id))


@dataclass(frozen=True)
class CutPlan:
    """Where the pieces of a batch come from, as a document, with the seed it was dealt by."""

    document: dict[str, Any]
    seed: int
    at: str


def add_cut_plan(
    conn: sqlite3.Connection, batch_id: int, document: dict[str, Any], seed: int, now: str, action_id: int
) -> None:
    """A new plan at the saw; it takes the place of the one before."""
    conn.execute(
        "INSERT INTO cut_plan (batch_id, document, seed, at, action_id) VALUES (?, ?, ?, ?, ?)",
        (batch_id, json.dumps(document), seed, now, action_id),
    )


def taken_by_others(conn: sqlite3.Connection, batch_id: int) -> dict[int, list[Rect]]:
    """Where blanks of other batches lie on the boards, by board id: of every plan at the saw that stands."""
    rows = conn.execute(
        """SELECT DISTINCT json_extract(b.value, '$.board_id'), json_extract(b.value, '$.rect.y'),
                  json_extract(b.value, '$.rect.width')
           FROM cut_plan c, json_each(c.document, '$.blanks') b
           WHERE c.id IN (SELECT max(p.id) FROM cut_plan p JOIN action a ON a.id = p.action_id
                          WHERE a.undone_by IS NULL AND p.batch_id <> ? GROUP BY p.batch_id)""",
        (batch_id,),
    )
    found: dict[int, list[Rect]] = {}
    for board_id, y, width in rows:
        found.setdefault(board_id, []).append(Rect(0.0, y, 1.0, width))
    return found


def cut_plan(conn: sqlite3.Connection, batch_id: int) -> CutPlan | None:
    """The plan at the saw that stands, or ``None``."""
    row = conn.execute(
        """SELECT document, seed, at FROM cut_plan WHERE batch_id = ? AND action_id IN standing_action
           ORDER BY id DESC LIMIT 1""",
        (batch_id,),
    ).fetchone()
    return None if row is None else CutPlan(json.loads(row["document"]), row["seed"], row["at"])
