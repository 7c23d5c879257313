"""What is noted with one tap while a piece is pulled: it slipped, it cracked; with its time, as a flag of the piece."""

from __future__ import annotations

import sqlite3
from datetime import datetime
from typing import Any

from adhaero.core.flags import TAGS
from adhaero.core.refusal import refuse
from adhaero.store import glueups
from adhaero.workflow.context import Act, AppContext, iso
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.record_loading import load

TAG = "tag"


def tag(
    w: AppContext, batch_id: int, code: str, what: str, person: str, key: str | None, *, note: str = "",
    at: datetime | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Note of a piece what happens to it now (or when told): a key of ``TAGS``, or words of one's own."""
    words = what.strip()
    if not 1 <= len(words) <= 80:
        raise refuse("what", "is empty, or longer than 80 characters", "Say in a few words what happened.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        value = {"what": words, "loading": max(1, record.next_loading(piece) - (piece.id in record.observed))}
        glueups.add_events(conn, [piece.id], TAG, iso(at or w.now()), note.strip(), action_id, value)
        return {"code": piece.code}

    said = f"Noted of {code}: {TAGS.get(words, words)}"
    return w.perform(Act("break", "tag", said, batch_id, person, note, key=key, request=f"{code}{what}{note}{at}"),
                     body)  # fmt: skip
