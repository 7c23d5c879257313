"""Undo and redo of what was done in a stage, and the history of a batch."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any

from adhaero.core.refusal import Problem, refuse
from adhaero.store import actions
from adhaero.store.actions import ActionRecord
from adhaero.workflow import rigs
from adhaero.workflow.context import Act, AppContext, Conflict, need_batch


@dataclass(frozen=True)
class UndoView:
    """What undo and redo would do in a stage, and the actions that these are; empty when there is nothing."""

    undo: str | None
    redo: str | None
    undo_id: int | None
    redo_id: int | None


def offered(w: AppContext, batch_id: int | None, stage: str) -> UndoView:
    """What undo and redo would do now. In the shop, and among studies that were imported, there is no batch."""
    with w.db.read() as conn:
        return _offered(conn, batch_id, stage)


def _offered(conn: sqlite3.Connection, batch_id: int | None, stage: str) -> UndoView:
    if batch_id is not None:
        need_batch(conn, batch_id)
    done, undone = actions.last_undoable(conn, batch_id, stage), actions.last_undone(conn, batch_id, stage)
    return UndoView(
        done[2] if done else None,
        undone[1] if undone else None,
        done[0] if done else None,
        undone[0] if undone else None,
    )


def _need_seen(seen: int | None, stands: int, summary: str) -> None:
    """Another device may have done something since this one looked: that is not what its user meant."""
    if seen is not None and seen != stands:
        raise Conflict([Problem("stage", f"something else stands last now: {summary}", "Look, then press again.")])


def undo(
    w: AppContext, batch_id: int | None, stage: str, person: str, key: str | None = None, seen: int | None = None
) -> UndoView:
    """Take back the last thing done in the stage; sent twice under one key, once. A lock can be taken back while no
    work was done on its pieces. ``seen`` is the action that its user saw as the last: refused if another is.
    """

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        if batch_id is not None:
            need_batch(conn, batch_id)
        last = actions.last_undoable(conn, batch_id, stage)
        if last is None:
            raise refuse("stage", "there is nothing to undo here", "Go to the stage where it was done.")
        undone, kind, summary = last
        _need_seen(seen, undone, summary)
        made = actions.made_batch(conn, undone) if kind == "import" else batch_id if kind == "lock" else None
        if made is not None and actions.later_work(conn, made):
            raise refuse("stage", "pieces of this plan were already worked on", "Undo that work first, stage by stage.")
        if kind == "amend" and actions.worked_on(conn, undone):
            raise refuse("stage", "the added pieces were already worked on", "Undo that work first, stage by stage.")
        actions.say(conn, action_id, f"Undid: {summary}")
        actions.undo(conn, undone, action_id)
        return asdict(_offered(conn, batch_id, stage))

    asked = f"undo {batch_id} {stage}"
    act = Act(_kept(stage), "undo", "Undid", batch_id, person, key=key, request=asked, undoable=False)
    return UndoView(**_carried_out(w, stage, act, body))


def redo(
    w: AppContext, batch_id: int | None, stage: str, person: str, key: str | None = None, seen: int | None = None
) -> UndoView:
    """Bring back what was undone last, if nothing was done since; sent twice under one key, once."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        if batch_id is not None:
            need_batch(conn, batch_id)
        last = actions.last_undone(conn, batch_id, stage)
        if last is None:
            raise refuse("stage", "there is nothing to redo here", "Only what was just undone can be brought back.")
        _need_seen(seen, last[0], last[1])
        actions.say(conn, action_id, f"Brought back: {last[1]}")
        actions.redo(conn, last[0], action_id)
        return asdict(_offered(conn, batch_id, stage))

    asked = f"redo {batch_id} {stage}"
    act = Act(_kept(stage), "redo", "Redid", batch_id, person, key=key, request=asked, undoable=False)
    return UndoView(**_carried_out(w, stage, act, body))


def _kept(stage: str) -> str:
    """The stage whose undo takes an act back."""
    return "shop" if stage == actions.IMPORTS else stage


def _carried_out(
    w: AppContext, stage: str, act: Act, body: Callable[[sqlite3.Connection, int], dict[str, Any]]
) -> dict[str, Any]:
    answer = w.perform(act, body)
    if stage == "shop" and not w.rig.is_open():
        # Which rig is read may have changed with it.
        rigs.connect(w)
    return answer


def history(w: AppContext, batch_id: int | None) -> list[ActionRecord]:
    """What was done in a batch, or in the shop, newest first."""
    with w.db.read() as conn:
        if batch_id is not None:
            need_batch(conn, batch_id)
        return actions.history(conn, batch_id)
