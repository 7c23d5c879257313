"""A piece is marked as doubtful, without being void: it still counts, is told everywhere, and can be left out.

Who doubts says why; so does whoever takes it back. Nothing is deleted: both stay in the story of the piece.
"""

from __future__ import annotations

import sqlite3
from typing import Any

from adhaero.core.flags import DOUBT
from adhaero.core.refusal import Problems, refuse
from adhaero.store import glueups
from adhaero.workflow.context import Act, AppContext
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.record_loading import load


def doubt(
    w: AppContext, batch_id: int, code: str, reason: str, person: str, key: str | None, *, doubtful: bool = True
) -> dict[str, Any]:
    """Mark a broken piece as ``doubtful``, or take that back; both with a reason and the person's name."""
    p = Problems()
    p.check(0 < len(reason.strip()) <= 300, "reason", "is empty, or longer than 300 characters",
            "Say why in a few words: what was seen of this piece.")  # fmt: skip
    p.check(bool(person.strip()), "by", "is not known", "Say who doubts it.")
    p.raise_if_any()

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        if piece.id not in record.observed:
            raise refuse("code", f"{piece.code} has no result yet", "Break it first.")
        last = record.last(piece.id, DOUBT)
        if (last is not None and bool(last.value.get("doubtful"))) == doubtful:
            stands = "is marked as doubtful already" if doubtful else "is not marked as doubtful"
            raise refuse("code", f"{piece.code} {stands}", "There is nothing to do.")
        value = {"doubtful": doubtful, "by": person.strip()}
        glueups.add_events(conn, [piece.id], DOUBT, w.stamp(), reason.strip(), action_id, value)
        return {"code": piece.code}

    said = f"Marked {code} as doubtful" if doubtful else f"{code} is no longer doubtful"
    request = f"{code}{reason}{doubtful}"
    return w.perform(Act("compare", "doubt", said, batch_id, person, reason.strip(), key=key, request=request), body)
