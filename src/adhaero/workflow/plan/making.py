"""Pieces as they are first written: with their codes, and those of the parents that they are made with."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from adhaero.core.plan.codes import new_codes
from adhaero.core.plan.design import NewSpecimen
from adhaero.core.plan.document import Plan
from adhaero.core.plan.treatments import Treatment
from adhaero.store import parents, specimens


def write_pieces(
    conn: sqlite3.Connection, batch_id: int, plan: Plan, planned: Sequence[Treatment], ids: Sequence[int],
    pieces: Sequence[NewSpecimen], seed: int, action_id: int,
) -> None:  # fmt: skip
    """Write new pieces of these treatments (``ids`` in the same order), and the parents that they name by number."""
    numbers = sorted({s.parent for s in pieces if s.parent is not None})
    made: dict[int, int] = {}
    if numbers and plan.parents is not None:
        taken = specimens.taken_codes(conn) | {s.code for s in pieces}
        codes = new_codes(len(numbers), seed + 1, taken)
        made = parents.add(conn, batch_id, plan.parents.kind, dict(zip(numbers, codes, strict=True)), action_id)
    specimens.add_specimens(conn, batch_id, planned, ids, pieces, action_id, made)
