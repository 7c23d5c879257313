"""Codes as they are typed or scanned, to the pieces that they stand for."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from adhaero.core.plan.codes import read_code
from adhaero.core.refusal import Refusal, refuse
from adhaero.store import specimens
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import need_batch


def find_piece(conn: sqlite3.Connection, record: BatchRecord, text: str, field: str = "code") -> Specimen:
    """The piece of this batch with that code. ``Refusal`` for a wrong code, one of another batch, or a parent's."""
    marked = _marked(record, text)
    if marked is not None:
        return marked
    try:
        code = read_code(text)
    except Refusal as refusal:
        raise refuse(field, refusal.problems[0].message, refusal.problems[0].remedy) from refusal
    own = record.of_code(code)
    if len(own) == 1:
        return own[0]
    if own:
        first, last = own[0].code, own[-1].code
        raise refuse(field, f"{code} is {record.parent_in_words(own[0])} with {len(own)} pieces",
                     f"Type the code of one of them: {first} to {last}.")  # fmt: skip
    elsewhere = specimens.find_code(conn, code)
    if elsewhere is not None:
        other = need_batch(conn, elsewhere[1])
        raise refuse(field, f"{code} belongs to the batch {other.name!r}", "Put the piece aside, or open that batch.")
    raise refuse(field, f"there is no piece {code}", "Read the label again.")


def _marked(record: BatchRecord, text: str) -> Specimen | None:
    """The only piece that its maker marked so; codes come first."""
    if text.strip().upper() in record.by_code:
        return None
    wanted = text.strip().casefold()
    own = [s for s in record.pieces if (e := record.last(s.id, "mark")) is not None
           and str(e.value.get("mark", "")).casefold() == wanted]  # fmt: skip
    return own[0] if len(own) == 1 else None


def find_pieces(
    conn: sqlite3.Connection, record: BatchRecord, codes: Sequence[str], field: str = "codes"
) -> list[Specimen]:
    """The pieces with these codes, each once; a parent's code stands for all of its pieces."""
    found: list[Specimen] = []
    seen: set[int] = set()
    for i, code in enumerate(codes):
        for piece in record.of_code(code.strip().upper()) or [find_piece(conn, record, code, f"{field}.{i}")]:
            if piece.id in seen:
                raise refuse(f"{field}.{i}", f"{piece.code} stands twice", "Take one of the two out.")
            seen.add(piece.id)
            found.append(piece)
    return found


def find_unit(conn: sqlite3.Connection, record: BatchRecord, code: str, field: str = "code") -> list[Specimen]:
    """What is glued at once under a code: a joint, or a whole panel. ``Refusal`` for one section of it."""
    own = find_pieces(conn, record, [code], field)
    if len(own) < len(record.as_one(own[0])):
        where = record.parent_in_words(own[0])
        raise refuse(field, f"{own[0].code} is glued with the whole of {where}", f"Type {record.unit_code(own[0])}.")
    return own
