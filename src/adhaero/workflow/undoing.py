"""Undo and redo of what was done in a stage, and the history of a batch."""

from __future__ import annotations

from dataclasses import dataclass

from adhaero.core.refusal import refuse
from adhaero.store import actions
from adhaero.store.actions import ActionRecord
from adhaero.workflow.workshop import Act, Workshop, need_batch


@dataclass(frozen=True)
class UndoView:
    """What undo and redo would do in a stage; empty when there is nothing."""

    undo: str | None
    redo: str | None


def offered(w: Workshop, batch_id: int, stage: str) -> UndoView:
    """What undo and redo would do now."""
    with w.db.read() as conn:
        need_batch(conn, batch_id)
        done, undone = actions.last_undoable(conn, batch_id, stage), actions.last_undone(conn, batch_id, stage)
    return UndoView(done[2] if done else None, undone[1] if undone else None)


def undo(w: Workshop, batch_id: int, stage: str, person: str) -> UndoView:
    """Take back the last thing done in the stage. A lock can be taken back while no work was done on its pieces."""
    with w.db.write() as conn:
        need_batch(conn, batch_id)
        last = actions.last_undoable(conn, batch_id, stage)
        if last is None:
            raise refuse("stage", "there is nothing to undo here", "Go to the stage where it was done.")
        action_id, kind, summary = last
        if kind == "lock" and actions.later_work(conn, batch_id):
            raise refuse("stage", "pieces of this plan were already worked on", "Undo that work first, stage by stage.")
        if kind == "amend" and actions.worked_on(conn, action_id):
            raise refuse("stage", "the added pieces were already worked on", "Undo that work first, stage by stage.")
        act = Act(stage, "undo", f"Undid: {summary}", batch_id, person, undoable=False)
        actions.undo(conn, action_id, act, w.stamp())
    return offered(w, batch_id, stage)


def redo(w: Workshop, batch_id: int, stage: str, person: str) -> UndoView:
    """Bring back what was undone last, if nothing was done since."""
    with w.db.write() as conn:
        need_batch(conn, batch_id)
        last = actions.last_undone(conn, batch_id, stage)
        if last is None:
            raise refuse("stage", "there is nothing to redo here", "Only what was just undone can be brought back.")
        act = Act(stage, "redo", f"Brought back: {last[1]}", batch_id, person, undoable=False)
        actions.redo(conn, last[0], act, w.stamp())
    return offered(w, batch_id, stage)


def history(w: Workshop, batch_id: int) -> list[ActionRecord]:
    """What was done, newest first."""
    with w.db.read() as conn:
        need_batch(conn, batch_id)
        return actions.history(conn, batch_id)
