"""What a piece is for, changed after the lock: a spare takes the place of a spoiled piece, a run becomes a trial."""

from __future__ import annotations

import sqlite3
from typing import Any

from adhaero.core.observation import Kind
from adhaero.core.plan.design import COUNTS, SPARE, TRIAL
from adhaero.core.refusal import refuse
from adhaero.store import glueups
from adhaero.workflow.context import Act, AppContext
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.record_loading import load


def take_spare(w: AppContext, batch_id: int, code: str, person: str, key: str | None) -> dict[str, Any]:
    """Let a spare of the same treatment stand for a piece that was put aside, at its place in the order.

    The reason is that of the piece's own rejection. Returns the spare's code.
    """

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        seen = record.observed.get(piece.id)
        void = seen is not None and seen.observation.kind is Kind.VOID
        if not void and piece.id not in record.not_run:
            raise refuse("code", f"{piece.code} is not put aside", "Put it aside first, with the reason.")
        if record.part(piece) != COUNTS or any(p.instead_of == piece.code for p in record.parts.values()):
            raise refuse("code", f"{piece.code} needs no other piece in its place", "Choose another one.")
        spares = [s for s in record.pieces if s.treatment_id == piece.treatment_id and record.part(s) == SPARE
                  and not record.finished(s)]  # fmt: skip
        if not spares:
            letter = record.treatments[piece.treatment_id].letter
            raise refuse("code", f"no spare of {letter} is left", "Make another piece: amend the plan.")
        # One that got as far as the piece itself comes first: glued, if any is.
        best = max(spares, key=lambda s: (s.id in record.members, record.is_measured(s.id), -s.replicate))
        value = {"part": COUNTS, "place": record.place(piece), "instead_of": piece.code}
        reason = seen.observation.reason if seen is not None and void else record.not_run[piece.id]
        glueups.add_events(conn, [best.id], "part", w.stamp(), reason, action_id, value)
        return {"code": best.code}

    summary = f"A spare stands for {code}"
    return w.perform(Act("cut", "spare", summary, batch_id, person, key=key, request=f"spare {code}"), body)


def make_trial(
    w: AppContext, batch_id: int, code: str, trial: bool, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """Take a piece out of all statistics as a trial run (it stays on record), or back in. Either needs a reason."""
    why = " ".join(reason.split())
    if not 3 <= len(why) <= 500:
        raise refuse("reason", "the reason is missing", "Say in a few words what was learnt, or why it counts.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        allowed = record.part(piece) == (COUNTS if trial else TRIAL)
        if not allowed:
            state = "does not count anyway" if trial else "is no trial"
            raise refuse("code", f"{piece.code} {state}", "Choose another piece.")
        old = record.parts.get(piece.id)
        value = {"part": TRIAL if trial else COUNTS, "place": record.place(piece),
                 "instead_of": old.instead_of if old else ""}  # fmt: skip
        glueups.add_events(conn, [piece.id], "part", w.stamp(), why, action_id, value)
        return {"code": piece.code}

    summary = f"{code} is a trial" if trial else f"{code} counts"
    return w.perform(
        Act("break", "trial", summary, batch_id, person, why, key=key, request=f"{trial}{code}{why}"), body
    )
