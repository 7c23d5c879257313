"""Everything on record that can be searched: a line of words about a piece, a batch, a board or a bottle."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

_PIECE = "SELECT s.batch_id, s.code, {what} AS what, {text} AS text FROM {table} JOIN current_specimen s ON s.id = {by}"
_OF_WOOD = """CASE WHEN b.density_kg_m3 IS NULL THEN '' ELSE printf('; %g kg/m³', b.density_kg_m3) END
           || CASE WHEN b.moisture_pct IS NULL THEN '' ELSE printf('; %g %%', b.moisture_pct) END"""
_LINES = " UNION ALL ".join(
    [
        """SELECT batch_id, code, 'code' AS what, CASE WHEN alias = '' THEN code ELSE code || '; ' || alias END AS text
           FROM current_specimen""",
        """SELECT s.batch_id, s.code, 'parent' AS what, p.kind || ' ' || p.number || '; ' || p.code AS text
           FROM current_specimen s JOIN parent p ON p.id = s.parent_id""",
        _PIECE.format(what="'treatment'", text="t.label", table="treatment t", by="s.id AND t.id = s.treatment_id")
        .replace("JOIN current_specimen s ON s.id = s.id AND", "JOIN current_specimen s ON"),
        _PIECE.format(what="e.kind", text="e.value || ' ' || e.note", table="current_specimen_event e",
                      by="e.specimen_id"),
        _PIECE.format(
            what="'reading'",
            text="o.kind || '; ' || coalesce(o.failure_mode, '') || '; ' || o.reason || '; ' || o.note || '; '"
            " || o.person",
            table="current_observation o", by="o.specimen_id",
        ),
        """SELECT s.batch_id, s.code, 'gluing' AS what,
           coalesce(m.bottle, g.bottle) || '; @' || g.pressed_by || '@; ' || m.note || '; ' || g.note || '; '
           || g.person || CASE WHEN g.force_known = 'unknown' AND m.force_n IS NULL AND g.pressed_by <> 'nothing'
              THEN '; unknown pressure' ELSE '' END AS text
           FROM current_glueup_specimen m JOIN current_glueup g ON g.id = m.glueup_id
           JOIN current_specimen s ON s.id = m.specimen_id""",
        f"""SELECT s.batch_id, s.code, 'wood' AS what, a.material || ' ' || coalesce(b.label, '') || {_OF_WOOD} AS text
           FROM adherend a JOIN current_specimen s ON s.id = a.specimen_id LEFT JOIN board b ON b.id = a.board_id""",
        *(
            f"""SELECT s.batch_id, s.code, 'board' AS what, b.label || '; ' || b.species || {_OF_WOOD} AS text
                FROM cut_plan c
                JOIN json_each(c.document, '$.blanks') x
                {found}
                JOIN board b ON b.id = json_extract(x.value, '$.board_id')
                WHERE c.id = (SELECT max(id) FROM cut_plan
                              WHERE batch_id = c.batch_id AND action_id IN standing_action)"""
            for found in (
                "JOIN current_specimen s ON s.code = json_extract(x.value, '$.code')",
                "JOIN parent p ON p.code = json_extract(x.value, '$.code') "
                "JOIN current_specimen s ON s.parent_id = p.id",
            )
        ),
        "SELECT id, '', 'batch' AS what, name AS text FROM batch",
        "SELECT batch_id, '', kind AS what, body AS text FROM remark WHERE action_id IN standing_action",
        """SELECT batch_id, '', 'reason' AS what, summary || ': ' || reason AS text FROM action
           WHERE reason <> '' AND batch_id IS NOT NULL AND undone_by IS NULL""",
        f"""SELECT NULL, '', 'board' AS what, b.label || '; ' || b.species || '; ' || b.source || '; ' || b.note
           || {_OF_WOOD} || '; ' || coalesce((SELECT group_concat(d.kind || ' ' || d.note, ', ') FROM board_defect d
              WHERE d.board_id = b.id AND d.action_id IN standing_action), '') AS text
           FROM board b WHERE b.action_id IS NULL OR b.action_id IN standing_action""",
        """SELECT s.batch_id, s.code, 'photo' AS what, p.caption || '; ' || p.stage AS text
           FROM photo p JOIN current_specimen s ON s.id = p.subject_id
           WHERE p.kind = 'piece' AND p.action_id IN standing_action
             AND p.id NOT IN (SELECT photo_id FROM photo_gone WHERE action_id IN standing_action)""",
        """SELECT NULL, '', 'bottle' AS what, label || '; ' || family || '; ' || lot || '; ' || note AS text
           FROM bottle WHERE action_id IS NULL OR action_id IN standing_action""",
        """SELECT NULL, '', 'bottle' AS what, b.label || '; ' || e.kind || '; ' || e.note AS text
           FROM bottle_event e JOIN bottle b ON b.id = e.bottle_id WHERE e.action_id IN standing_action""",
    ]
)  # fmt: skip


SHOP = 0
"""Used in place of a batch for lines that belong to none."""


@dataclass(frozen=True)
class Line:
    """Words on record, their parts between semicolons: of a piece (``code``), a whole batch (no code) or the shop (no
    batch); ``what`` they are about.
    """

    batch_id: int | None
    code: str
    what: str
    text: str


def lines(conn: sqlite3.Connection, batch_id: int) -> Iterator[Line]:
    """Return the lines of a batch as they stand now, or those of the ``SHOP``."""
    wanted = None if batch_id == SHOP else batch_id
    rows = conn.execute(
        f"SELECT batch_id, code, what, coalesce(text, '') AS text FROM ({_LINES}) WHERE batch_id IS ?", (wanted,)
    )
    for r in rows:
        yield Line(r["batch_id"], r["code"], r["what"], r["text"])


def last_of_shop(conn: sqlite3.Connection) -> int:
    """Return the last action that belongs to no batch: lines of the shop hold as long as it is the last."""
    return int(conn.execute("SELECT coalesce(max(id), 0) FROM action WHERE batch_id IS NULL").fetchone()[0])


@dataclass(frozen=True)
class Indexed:
    """A line of the index: its ``words`` in lower case, and ``told``, the text to show."""

    code: str
    what: str
    told: str
    words: str


def index(conn: sqlite3.Connection, batch_id: int, own: Iterable[Indexed]) -> None:
    """Replace the lines of a batch, or of the ``SHOP``, in the index."""
    conn.execute(
        """INSERT INTO search_text (search_text, rowid, words)
           SELECT 'delete', id, words FROM search_line WHERE batch_id = ?""",
        (batch_id,),
    )
    conn.execute("DELETE FROM search_line WHERE batch_id = ?", (batch_id,))
    first = int(conn.execute("SELECT coalesce(max(id), 0) FROM search_line").fetchone()[0]) + 1
    conn.executemany(
        "INSERT INTO search_line (id, batch_id, code, what, told, words) VALUES (?, ?, ?, ?, ?, ?)",
        [(n, batch_id, x.code, x.what, x.told, x.words) for n, x in enumerate(own, first)],
    )
    conn.execute("INSERT INTO search_text (rowid, words) SELECT id, words FROM search_line WHERE id >= ?", (first,))


def matching(conn: sqlite3.Connection, words: Sequence[str], most: int) -> list[tuple[int, str, str, str]]:
    """Return (batch, code, what, told) of up to ``most`` lines that hold every word; a code of that name first.

    Words are in lower case. The index knows parts of three letters and more; shorter words are looked for in the lines.
    """
    holds = " AND ".join("instr(words, ?)" for _ in words)
    told = "SELECT batch_id, code, what, told FROM search_line"
    named = conn.execute(f"{told} WHERE code = ? AND {holds} LIMIT ?", (" ".join(words).upper(), *words, most))
    found = [tuple(r) for r in named]
    indexed = [w for w in words if len(w) > 2]
    if indexed:
        asked = " AND ".join('"' + w.replace('"', '""') + '"' for w in indexed)
        rows = conn.execute(
            f"""{told} WHERE id IN (SELECT rowid FROM search_text WHERE search_text MATCH ?) AND {holds} LIMIT ?""",
            (asked, *words, most),
        )
    else:
        rows = conn.execute(f"{told} WHERE {holds} LIMIT ?", (*words, most))
    return [*found, *(tuple(r) for r in rows)]
