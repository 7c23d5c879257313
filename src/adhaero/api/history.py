"""Undo and redo in every stage and in the shop, the history of both, and what is on record by words, over HTTP."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import Query, Response

from adhaero.api.wire import Key, Person, Shop, Stage, Strict, answer, router_for
from adhaero.store.actions import ActionRecord
from adhaero.workflow import finding, undoing
from adhaero.workflow.finding import Found
from adhaero.workflow.undoing import UndoView

router = router_for("history")
OfShop = Annotated[Literal["shop", "imports"], Query()]
"""Changes to the shop, or imports of studies."""


class StageIn(Strict):
    """The stage in which to undo or redo; ``seen`` is the action that was shown as the one to take back."""

    stage: Stage
    seen: int | None = None


class SeenIn(Strict):
    """The action that was shown as the one to take back or to bring back."""

    seen: int | None = None


@router.get("/search", response_model=Found)
def get_search(w: Shop, text: Annotated[str, Query(max_length=200)]) -> Response:
    return answer(finding.find(w, text))


@router.get("/batches/{batch_id}/history", response_model=list[ActionRecord])
def get_history(w: Shop, batch_id: int) -> list[ActionRecord]:
    return undoing.history(w, batch_id)


@router.get("/batches/{batch_id}/undo/{stage}", response_model=UndoView)
def get_undo(w: Shop, batch_id: int, stage: Stage) -> Response:
    return answer(undoing.offered(w, batch_id, stage))


@router.post("/batches/{batch_id}/undo", response_model=UndoView)
def post_undo(w: Shop, batch_id: int, body: StageIn, person: Person, key: Key = None) -> Response:
    return answer(undoing.undo(w, batch_id, body.stage, person, key, body.seen))


@router.post("/batches/{batch_id}/redo", response_model=UndoView)
def post_redo(w: Shop, batch_id: int, body: StageIn, person: Person, key: Key = None) -> Response:
    return answer(undoing.redo(w, batch_id, body.stage, person, key, body.seen))


@router.get("/shop/history", response_model=list[ActionRecord])
def get_shop_history(w: Shop) -> list[ActionRecord]:
    return undoing.history(w, None)


@router.get("/shop/undo", response_model=UndoView)
def get_shop_undo(w: Shop, of: OfShop = "shop") -> Response:
    return answer(undoing.offered(w, None, of))


@router.post("/shop/undo", response_model=UndoView)
def post_shop_undo(
    w: Shop, person: Person, body: SeenIn | None = None, key: Key = None, of: OfShop = "shop"
) -> Response:
    return answer(undoing.undo(w, None, of, person, key, body.seen if body else None))


@router.post("/shop/redo", response_model=UndoView)
def post_shop_redo(
    w: Shop, person: Person, body: SeenIn | None = None, key: Key = None, of: OfShop = "shop"
) -> Response:
    return answer(undoing.redo(w, None, of, person, key, body.seen if body else None))
