"""Pulls at the rig: begun and set aside; and what the simulated rig is told of a piece."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from typing import Any

from adhaero.core.breaking.instrument import Measures
from adhaero.core.breaking.soundness import TOLERANCE
from adhaero.core.grain import ACROSS
from adhaero.core.materials.wood import WOODS
from adhaero.core.plan.document import Level
from adhaero.core.plan.woods import wood_of
from adhaero.core.refusal import Doubts, refuse
from adhaero.rig import strength_model
from adhaero.store import pulls, rigs, shop
from adhaero.workflow.breaking.observing import ask_early
from adhaero.workflow.context import Act, AppContext, NotFound, need_batch
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.record_loading import load
from adhaero.workflow.rigs import ask as ask_rig
from adhaero.workflow.rigs import need_set_up


def begin_pull(
    w: AppContext, batch_id: int, code: str, person: str, key: str | None, confirmed: Sequence[str] = (),
    again: bool = False, *, in_cycles: bool = False,
) -> dict[str, Any]:  # fmt: skip
    """Begin to record a pull of a piece, ``again`` of one that has a reading; ``in_cycles`` where it is to be loaded
    and released several times. Returns the pull's id.
    """
    earlier = w.answered(key, code)
    if earlier is not None:
        return earlier
    begun: list[tuple[int, str, rigs.SetUp, float]] = []

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        if record.finished(piece) and not (again and piece.id in record.observed):
            raise refuse("code", f"{piece.code} is already done with", "Undo its result first, or take the next piece.")
        if record.method.loadless:
            raise refuse("pull", "this method has no load to record", "Say how the piece gave way.")
        doubts = Doubts(confirmed)
        ask_early(record, piece, w.now(), doubts)
        used = need_set_up(conn)
        if used.set_up.instrument.measures is Measures.TRAVEL:
            raise refuse("rig", f"{used.set_up.rig} measures travel: it gives no load", "Use another rig: under Shop.")
        ask_rig(conn, used.set_up, record.units, doubts)
        doubts.raise_if_any()
        pull_id = pulls.open_pull(conn, piece.id, used.set_up.id, w.stamp(), action_id, in_cycles=in_cycles)
        begun.append((pull_id, piece.code, used.set_up, min(TOLERANCE, record.plan.assumptions.matters / 10)))
        return {"id": pull_id}

    with w.db.read() as conn:
        need_batch(conn, batch_id)
        units, known = shop.units(conn), rigs.in_use(conn)
    # The place at the rig is taken before the data file is touched, and nothing of the rig waits for the disk.
    w.rig.reserve(units, known.set_up.resolution_n if known else 0.0)
    try:
        act = Act("break", "pull", f"Began to pull {code}", batch_id, person, key=key, request=code, undoable=False)
        answer = w.perform(act, body)
    except BaseException:
        w.rig.release()
        raise
    if begun:
        pull_id, piece_code, set_up, tolerance = begun[0]
        w.rig.begin(pull_id, piece_code, set_up.capacity_n, set_up.resolution_n, in_cycles=in_cycles,
                    tolerance=tolerance)  # fmt: skip
    else:
        w.rig.release()
    return answer


def discard_pull(
    w: AppContext, batch_id: int, pull_id: int, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """Set a pull aside: it stays on record, and its piece goes back into the queue."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        need_batch(conn, batch_id)
        found = pulls.pull(conn, pull_id)
        if found is None:
            raise NotFound(f"There is no pull {pull_id}.")
        if found.state == "open":
            raise refuse("pull", "this pull is still going on", "End it first.")
        pulls.end_pull(conn, pull_id, "discarded", None, w.stamp())
        return {"id": pull_id}

    act = Act(
        "break", "discard", "Set a pull aside", batch_id, person, reason, key=key, request=str(pull_id), undoable=False
    )
    answer = w.perform(act, body)
    w.rig.forget(pull_id)
    return answer


def piece_for_stand_in(w: AppContext, batch_id: int, code: str) -> strength_model.Piece:
    """What the simulated rig is told about a piece: what a person would see on the label and in the record."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        s = find_piece(conn, record, code)
        gap = record.level(s, "gap_mm")
        wood = wood_of(record.plan, s.species_a) or WOODS["ash"]
        sizes = record.sizes(s.id)
        grain = ACROSS if ACROSS in (loaded := record.loaded(s)) else "".join(loaded[:1])
        strongest_n = record.method.solid_in(wood, sizes, grain) / record.method.per_newton(sizes)
        # Of a method of the user's own nobody knows what solid wood would bear: its shear strength over the line.
        strongest_n = strongest_n or wood.shear_mpa * record.area_mm2(s)
    return strength_model.Piece(
        solid_n=strongest_n,
        species=s.species_a,
        glue=record.glue_of(s.glue)[0] or "none",
        prep=s.prep,
        pressure_mpa=s.pressure_mpa or 0.0,
        clamp_s=s.clamp_s or 0.0,
        cure_s=s.cure_s or 0.0,
        gap_mm=float(gap.value) if gap is not None and isinstance(gap.value, float | int) else 0.0,
        conditioning=_word(record.level(s, "conditioning")),
        orientation=s.orientation,
        solid=s.role == "solid",
    )


def _word(level: Level | None) -> str:
    return level.value if level is not None and isinstance(level.value, str) else ""
