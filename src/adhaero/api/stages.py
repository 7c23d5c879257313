"""Cut, glue and compare of a batch over HTTP, and undo in every stage."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Response

from adhaero.api import bodies as b
from adhaero.api.wire import Key, Person, Shop, answer
from adhaero.core.cut.layout import Saw
from adhaero.store.actions import ActionRecord
from adhaero.store.members import Step
from adhaero.workflow import exchange, undoing
from adhaero.workflow.compare import claims, comparing
from adhaero.workflow.compare.comparing import CompareView
from adhaero.workflow.cut import boards, cutting, pieces
from adhaero.workflow.cut.cutting import CutView, Label, Typed
from adhaero.workflow.cut.pieces import Pairing, PieceView
from adhaero.workflow.glue import after, gluing
from adhaero.workflow.glue.gluing import GlueView, NewGlueup
from adhaero.workflow.plan import parts
from adhaero.workflow.undoing import UndoView

router = APIRouter(prefix="/batches", tags=["batches"])


@router.get("/{batch_id}/cut", response_model=CutView)
def get_cut(w: Shop, batch_id: int) -> Response:
    return answer(cutting.view(w, batch_id))


@router.get("/{batch_id}/labels", response_model=list[Label])
def get_labels(w: Shop, batch_id: int, blind: bool = False) -> list[Label]:
    return cutting.labels(w, batch_id, blind=blind)


@router.post("/{batch_id}/sizes", response_model=b.Done)
def post_sizes(w: Shop, batch_id: int, body: b.SizesIn, person: Person, key: Key = None) -> dict[str, Any]:
    return cutting.measure(w, batch_id, [Typed(c.code, c.quantity, c.text) for c in body.cells], person, key)


@router.post("/{batch_id}/layout", response_model=CutView)
def post_layout(w: Shop, batch_id: int, body: b.SawIn, person: Person, key: Key = None) -> Response:
    saw = Saw(body.kerf, body.end_trim, body.edge_trim, body.planing, body.jointing)
    boards.lay_out(w, batch_id, saw, body.boards, body.share, person, key)
    return answer(cutting.view(w, batch_id))


@router.post("/{batch_id}/recut", response_model=CutView)
def post_recut(w: Shop, batch_id: int, body: b.RecutIn, person: Person, key: Key = None) -> Response:
    boards.recut(w, batch_id, body.code, person, key)
    return answer(cutting.view(w, batch_id))


@router.post("/{batch_id}/places", response_model=CutView)
def post_places(w: Shop, batch_id: int, person: Person, key: Key = None) -> Response:
    boards.place_more(w, batch_id, person, key)
    return answer(cutting.view(w, batch_id))


@router.post("/{batch_id}/spare", response_model=b.CodeIn)
def post_spare(w: Shop, batch_id: int, body: b.CodeIn, person: Person, key: Key = None) -> dict[str, Any]:
    return parts.take_spare(w, batch_id, body.code, person, key)


@router.post("/{batch_id}/trial", response_model=b.CodeIn)
def post_trial(w: Shop, batch_id: int, body: b.TrialIn, person: Person, key: Key = None) -> dict[str, Any]:
    return parts.make_trial(w, batch_id, body.code, body.trial, body.reason, person, key)


@router.get("/{batch_id}/pieces/{code}", response_model=PieceView)
def get_piece(w: Shop, batch_id: int, code: str) -> Response:
    return answer(pieces.view(w, batch_id, code))


@router.post("/{batch_id}/pieces/{code}/defects", response_model=PieceView)
def post_defect(w: Shop, batch_id: int, code: str, body: b.DefectIn, person: Person, key: Key = None) -> Response:
    pieces.note_defect(w, batch_id, code, body.side, body.text, person, key)
    return answer(pieces.view(w, batch_id, code))


@router.post("/{batch_id}/faces", response_model=b.Done)
def post_faces(w: Shop, batch_id: int, body: b.StepsIn, person: Person, key: Key = None) -> dict[str, Any]:
    steps = [Step(position=i, **s.model_dump()) for i, s in enumerate(body.steps)]
    return pieces.write_steps(w, batch_id, body.codes, steps, person, key)


@router.post("/{batch_id}/pair", response_model=Pairing)
def post_pair(w: Shop, batch_id: int, body: b.PairIn) -> Response:
    return answer(pieces.check_pair(w, batch_id, body.first, body.second))


@router.post("/{batch_id}/swap", response_model=b.Done)
def post_swap(w: Shop, batch_id: int, body: b.PairIn, person: Person, key: Key = None) -> dict[str, Any]:
    return pieces.note_swap(w, batch_id, body.first, body.second, person, key)


@router.get("/{batch_id}/glue", response_model=GlueView)
def get_glue(w: Shop, batch_id: int) -> Response:
    return answer(gluing.view(w, batch_id))


@router.post("/{batch_id}/glueups", response_model=b.Done)
def post_glueup(w: Shop, batch_id: int, body: b.GlueupIn, person: Person, key: Key = None) -> dict[str, Any]:
    return gluing.add_glueup(w, batch_id, NewGlueup(person=person, **body.model_dump()), key)


@router.post("/{batch_id}/exceptions", response_model=b.Done)
def post_exception(w: Shop, batch_id: int, body: b.ExceptionIn, person: Person, key: Key = None) -> dict[str, Any]:
    changed = body.model_dump(exclude={"code"}, exclude_unset=True)
    return gluing.except_piece(w, batch_id, body.code, changed, person, key)


@router.post("/{batch_id}/unclamp", response_model=b.Done)
def post_unclamp(w: Shop, batch_id: int, body: b.UnclampIn, person: Person, key: Key = None) -> dict[str, Any]:
    return after.unclamp(w, batch_id, body.codes, body.at, body.note, person, key)


@router.post("/{batch_id}/told", response_model=b.Done)
def post_told(w: Shop, batch_id: int, body: b.ToldIn, person: Person, key: Key = None) -> dict[str, Any]:
    told = after.Told(body.kind, tuple(body.codes), body.value, body.note)
    return after.tell_of(w, batch_id, told, body.at, person, key)


@router.post("/{batch_id}/condition", response_model=b.Done)
def post_condition(w: Shop, batch_id: int, body: b.ConditionIn, person: Person, key: Key = None) -> dict[str, Any]:
    return after.condition(w, batch_id, body.codes, body.way, body.at, person, key)


@router.get("/{batch_id}/compare", response_model=CompareView)
def get_compare(
    w: Shop, batch_id: int, figure: str = "strength", fallen_as_zero: bool | None = None, all_pairs: bool = False
) -> Response:
    return answer(comparing.compare(w, batch_id, figure, fallen_as_zero, all_pairs=all_pairs))


@router.post("/{batch_id}/claim", response_model=b.Id, status_code=201)
def post_claim(w: Shop, batch_id: int, body: b.ClaimIn, person: Person, key: Key = None) -> dict[str, Any]:
    return claims.decide(w, batch_id, body.text, body.state, body.note, person, key)


@router.get("/{batch_id}/specimens.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
def get_csv(w: Shop, batch_id: int) -> Response:
    name, text = exchange.export_csv(w, batch_id)
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text.encode(), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/{batch_id}/history", response_model=list[ActionRecord])
def get_history(w: Shop, batch_id: int) -> list[ActionRecord]:
    return undoing.history(w, batch_id)


@router.get("/{batch_id}/undo/{stage}", response_model=UndoView)
def get_undo(w: Shop, batch_id: int, stage: b.Stage) -> Response:
    return answer(undoing.offered(w, batch_id, stage))


@router.post("/{batch_id}/undo", response_model=UndoView)
def post_undo(w: Shop, batch_id: int, body: b.StageIn, person: Person) -> Response:
    return answer(undoing.undo(w, batch_id, body.stage, person))


@router.post("/{batch_id}/redo", response_model=UndoView)
def post_redo(w: Shop, batch_id: int, body: b.StageIn, person: Person) -> Response:
    return answer(undoing.redo(w, batch_id, body.stage, person))
