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
    at: datetime | None = None, again: bool = False,
) -> dict[str, Any]:  # fmt: skip
    """Note of a piece what happens to it now (or when told): a key of ``TAGS``, or words of one's own. It belongs to
    the loading that the piece has had last, or to the one that goes on (``again``).
    """
    words = what.strip()
    if not 1 <= len(words) <= 80:
        raise refuse("what", "is empty, or longer than 80 characters", "Say in a few words what happened.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        coming = record.next_loading(piece)
        value = {"what": words, "loading": coming if again else max(1, coming - 1)}
        glueups.add_events(conn, [piece.id], TAG, iso(at or w.now()), note.strip(), action_id, value)
        return {"code": piece.code}

    said = f"Noted of {code}: {TAGS.get(words, words)}"
    request = f"{code}{what}{note}{at}{again}"
    return w.perform(Act("break", "tag", said, batch_id, person, note, key=key, request=request), body)
