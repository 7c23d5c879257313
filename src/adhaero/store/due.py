"""What is due across all batches, summed up in the database so that home stays quick."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass


@dataclass(frozen=True)
class Due:
    """Pieces of one glue-up that come due together. ``after_s`` counts from the start of the glue-up."""

    batch_id: int
    batch: str
    glueup: int
    started_at: str
    after_s: float
    pieces: int
    label: str


_DUE = """
SELECT b.id, b.name, g.number, g.started_at, s.{time} AS after_s, count(*), min(t.label)
       || CASE WHEN count(DISTINCT t.id) > 1 THEN ' and ' || (count(DISTINCT t.id) - 1) || ' more' ELSE '' END
FROM current_glueup g JOIN batch b ON b.id = g.batch_id
     CROSS JOIN current_glueup_specimen m ON m.glueup_id = g.id
     CROSS JOIN current_specimen s ON s.id = m.specimen_id
     JOIN treatment t ON t.id = s.treatment_id
WHERE {state}
GROUP BY g.id, s.{time} ORDER BY g.started_at
"""
_OUT = "s.id IN (SELECT specimen_id FROM current_specimen_event WHERE kind = 'unclamped')"
_SEEN = "s.id IN (SELECT specimen_id FROM current_observation)"


def clamps_to_take_off(conn: sqlite3.Connection) -> list[Due]:
    """Joints that are in clamps."""
    return [Due(*r) for r in conn.execute(_DUE.format(time="clamp_s", state=f"NOT {_OUT} AND NOT {_SEEN}"))]


def pieces_to_break(conn: sqlite3.Connection) -> list[Due]:
    """Joints out of their clamps and not broken."""
    return [Due(*r) for r in conn.execute(_DUE.format(time="cure_s", state=f"{_OUT} AND NOT {_SEEN}"))]
