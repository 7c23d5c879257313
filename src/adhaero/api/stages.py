"""The five stages of a batch over HTTP."""

from __future__ import annotations

import json
from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Body, Response
from pydantic import Field

from adhaero.api.shop import Strict
from adhaero.api.wire import Key, Person, Shop, answer
from adhaero.core.cut.layout import Saw
from adhaero.store.actions import ActionRecord
from adhaero.workflow import amending, boards, comparing, cutting, exchange, gluing, planning, undoing
from adhaero.workflow.comparing import CompareView
from adhaero.workflow.cutting import CutView, Label, Typed
from adhaero.workflow.exchange import Imported
from adhaero.workflow.gluing import GlueView, NewGlueup
from adhaero.workflow.planning import PlanView
from adhaero.workflow.undoing import UndoView

router = APIRouter(prefix="/batches", tags=["batches"])
Stage = Literal["plan", "cut", "glue", "break", "compare"]
Short = Annotated[str, Field(max_length=200)]
Code = Annotated[str, Field(max_length=40)]
Codes = Annotated[list[Code], Field(max_length=5000)]


class Id(Strict):
    """The id of something new."""

    id: int


class Done(Strict):
    """How many things an action touched."""

    pieces: int


class BatchIn(Strict):
    """A new batch."""

    name: str = Field(max_length=1000)
    start: str = Field("own", max_length=40)


class CopyIn(Strict):
    """A new batch with a copy of a plan."""

    name: str = Field(max_length=1000)


class LevelIn(Strict):
    """A level: text, number (known quantities in their base unit), or null for 'none'."""

    value: Short | float | None
    unit: str = Field("", max_length=20)


class FactorIn(Strict):
    """A factor with its levels."""

    key: str = Field(max_length=60)
    name: Short
    levels: list[LevelIn] = Field(max_length=64)


class AssumptionsIn(Strict):
    """Assumed scatter and error rates, as shares."""

    cv: float
    alpha: float
    power: float
    matters: float
    fallen_as_zero: bool
    humidity_low_pct: float = Field(35.0, ge=0, le=99)
    humidity_high_pct: float = Field(65.0, ge=0, le=99)


class CostsIn(Strict):
    """What a piece takes: times in s, prices in the user's currency."""

    cut_s: float = Field(ge=0, le=86400)
    glue_s: float = Field(ge=0, le=86400)
    break_s: float = Field(ge=0, le=86400)
    wood_per_m3: float = Field(ge=0, le=1e6)
    glue_per_kg: float = Field(ge=0, le=1e6)
    spread_g_m2: float = Field(ge=0, le=5000)


class ExtraIn(Strict):
    """A single treatment outside the grid."""

    label: Short
    changes: dict[str, LevelIn]
    replicates: int
    control: str | None = Field(None, max_length=20)


class PlanDocument(Strict):
    """The plan as a document; see docs/data-format.md."""

    format: int
    question: str = Field(max_length=5000)
    guess: str = Field(max_length=10_000)
    target: Literal["joint", "adhesive"]
    policy: Literal["same-for-all", "by-label"]
    method: str = Field(max_length=60)
    sizes: dict[str, float]
    factors: list[FactorIn] = Field(max_length=8)
    constants: dict[str, LevelIn]
    replicates: int
    control: list[int] | None
    solid_reference: int
    dropped: list[list[int]]
    extra_replicates: list[tuple[list[int], int]]
    side_questions: list[Short]
    predictions: list[Short]
    assumptions: AssumptionsIn
    extras: list[ExtraIn] = Field([], max_length=40)
    start: str = Field("own", max_length=40)
    tolerance_mm: float = 1.0
    guesses: dict[str, float] = Field({}, max_length=500)
    costs: CostsIn = CostsIn(cut_s=240, glue_s=150, break_s=180, wood_per_m3=2400, glue_per_kg=15, spread_g_m2=180)


class PlanFileIn(Strict):
    """A plan as it was exported, for a new batch."""

    name: str = Field(max_length=1000)
    document: PlanDocument


class PlanIn(Strict):
    """A draft to save over version ``version``."""

    version: int
    name: str = Field(max_length=1000)
    document: PlanDocument


class StartIn(Strict):
    """Begin version ``version`` of the draft anew from a question."""

    version: int
    start: str = Field(max_length=40)


class LockIn(Strict):
    """Lock version ``version``."""

    version: int


class MoreIn(Strict):
    """More pieces of a treatment, and why."""

    treatment: str = Field(max_length=10)
    count: int
    reason: str = Field(max_length=1000)


class LeaveOutIn(Strict):
    """A treatment to leave out from now on, and why."""

    treatment: str = Field(max_length=10)
    reason: str = Field(max_length=1000)


class SizeIn(Strict):
    """A cell of the cut sheet as typed."""

    code: Code
    quantity: str = Field(max_length=40)
    text: str = Field(max_length=10_000)


class SizesIn(Strict):
    """Cells to save, all or none."""

    cells: list[SizeIn] = Field(min_length=1, max_length=20_000)


class SawIn(Strict):
    """How the boards are cut, mm, and which ones (all of the shop without a list)."""

    kerf: float = 3.0
    end_trim: float = 25.0
    edge_trim: float = 5.0
    planing: float = 2.0
    jointing: float = 1.0
    boards: list[int] | None = Field(None, max_length=1000)
    share: Literal["fewest", "all", "treatment"] = "fewest"


class RecutIn(Strict):
    """The piece that was spoiled."""

    code: Code


class GlueupIn(Strict):
    """A glue-up; numbers in N, degrees Celsius, %, g/m2. Without a start it begins now."""

    codes: Codes
    started_at: datetime | None = None
    air_c: float | None = None
    humidity_pct: float | None = None
    bottle: Short = ""
    force_n: float | None = None
    clamps: int = 1
    force_known: Literal["measured", "estimated", "unknown"] = "estimated"
    spread_g_m2: float | None = None
    faces: Literal["one", "both"] = "one"
    note: str = Field("", max_length=2000)


class ExceptionIn(Strict):
    """What was different for one piece; what is left out is as for the glue-up."""

    code: Code
    force_n: float | None = None
    clamps: int | None = Field(None, ge=1, le=50)
    bottle: Short | None = None
    note: str = Field("", max_length=2000)


class UnclampIn(Strict):
    """Pieces that come out of their clamps."""

    codes: Codes
    at: datetime | None = None
    note: str = Field("", max_length=2000)


class StageIn(Strict):
    """The stage in which to undo or redo."""

    stage: Stage


@router.post("", response_model=Id, status_code=201)
def post_batch(w: Shop, body: BatchIn, key: Key = None) -> dict[str, Any]:
    return planning.create(w, body.name, key, body.start)


@router.post("/{batch_id}/copy", response_model=Id, status_code=201)
def post_copy(w: Shop, batch_id: int, body: CopyIn, key: Key = None) -> dict[str, Any]:
    return planning.duplicate(w, batch_id, body.name, key)


@router.post("/from-plan", response_model=Id, status_code=201)
def post_plan_file(w: Shop, body: PlanFileIn, key: Key = None) -> dict[str, Any]:
    return planning.import_plan(w, body.name, body.document.model_dump(), key)


@router.post("/import", response_model=Imported)
def post_import(
    w: Shop, person: Person, text: Annotated[str, Body(media_type="text/csv")] = "", key: Key = None
) -> Response:
    return answer(exchange.import_csv(w, text, person, key))


@router.get("/{batch_id}/plan", response_model=PlanView)
def get_plan(w: Shop, batch_id: int) -> Response:
    return answer(planning.view(w, batch_id))


@router.get("/{batch_id}/plan.json", response_class=Response, responses={200: {"content": {"application/json": {}}}})
def get_plan_file(w: Shop, batch_id: int) -> Response:
    view = planning.view(w, batch_id)
    text = json.dumps({"name": view.name, "document": view.document}, indent=1)
    headers = {"Content-Disposition": f'attachment; filename="{exchange.file_name(view.name)}-plan.json"'}
    return Response(text, media_type="application/json", headers=headers)


@router.put("/{batch_id}/plan", response_model=PlanView)
def put_plan(w: Shop, batch_id: int, body: PlanIn, key: Key = None) -> Response:
    planning.save_draft(w, batch_id, body.version, body.name, body.document.model_dump(), key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/start", response_model=PlanView)
def post_start(w: Shop, batch_id: int, body: StartIn, key: Key = None) -> Response:
    planning.start_from(w, batch_id, body.version, body.start, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/lock", response_model=Done)
def post_lock(w: Shop, batch_id: int, body: LockIn, person: Person, key: Key = None) -> dict[str, Any]:
    return planning.lock(w, batch_id, body.version, person, key)


@router.post("/{batch_id}/more", response_model=PlanView)
def post_more(w: Shop, batch_id: int, body: MoreIn, person: Person, key: Key = None) -> Response:
    amending.add_pieces(w, batch_id, body.treatment, body.count, body.reason, person, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/leave-out", response_model=PlanView)
def post_leave_out(w: Shop, batch_id: int, body: LeaveOutIn, person: Person, key: Key = None) -> Response:
    amending.leave_out(w, batch_id, body.treatment, body.reason, person, key)
    return answer(planning.view(w, batch_id))


@router.get("/{batch_id}/cut", response_model=CutView)
def get_cut(w: Shop, batch_id: int) -> Response:
    return answer(cutting.view(w, batch_id))


@router.get("/{batch_id}/labels", response_model=list[Label])
def get_labels(w: Shop, batch_id: int, blind: bool = False) -> list[Label]:
    return cutting.labels(w, batch_id, blind=blind)


@router.post("/{batch_id}/sizes", response_model=Done)
def post_sizes(w: Shop, batch_id: int, body: SizesIn, person: Person, key: Key = None) -> dict[str, Any]:
    return cutting.measure(w, batch_id, [Typed(c.code, c.quantity, c.text) for c in body.cells], person, key)


@router.post("/{batch_id}/layout", response_model=CutView)
def post_layout(w: Shop, batch_id: int, body: SawIn, person: Person, key: Key = None) -> Response:
    saw = Saw(body.kerf, body.end_trim, body.edge_trim, body.planing, body.jointing)
    boards.lay_out(w, batch_id, saw, body.boards, body.share, person, key)
    return answer(cutting.view(w, batch_id))


@router.post("/{batch_id}/recut", response_model=CutView)
def post_recut(w: Shop, batch_id: int, body: RecutIn, person: Person, key: Key = None) -> Response:
    boards.recut(w, batch_id, body.code, person, key)
    return answer(cutting.view(w, batch_id))


@router.get("/{batch_id}/glue", response_model=GlueView)
def get_glue(w: Shop, batch_id: int) -> Response:
    return answer(gluing.view(w, batch_id))


@router.post("/{batch_id}/glueups", response_model=Done)
def post_glueup(w: Shop, batch_id: int, body: GlueupIn, person: Person, key: Key = None) -> dict[str, Any]:
    return gluing.add_glueup(w, batch_id, NewGlueup(person=person, **body.model_dump()), key)


@router.post("/{batch_id}/exceptions", response_model=Done)
def post_exception(w: Shop, batch_id: int, body: ExceptionIn, person: Person, key: Key = None) -> dict[str, Any]:
    changed = body.model_dump(exclude={"code"}, exclude_unset=True)
    return gluing.except_piece(w, batch_id, body.code, changed, person, key)


@router.post("/{batch_id}/unclamp", response_model=Done)
def post_unclamp(w: Shop, batch_id: int, body: UnclampIn, person: Person, key: Key = None) -> dict[str, Any]:
    return gluing.unclamp(w, batch_id, body.codes, body.at, body.note, person, key)


@router.get("/{batch_id}/compare", response_model=CompareView)
def get_compare(
    w: Shop, batch_id: int, figure: str = "strength", fallen_as_zero: bool | None = None, all_pairs: bool = False
) -> Response:
    return answer(comparing.compare(w, batch_id, figure, fallen_as_zero, all_pairs=all_pairs))


@router.get("/{batch_id}/specimens.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
def get_csv(w: Shop, batch_id: int) -> Response:
    name, text = exchange.export_csv(w, batch_id)
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text.encode(), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/{batch_id}/history", response_model=list[ActionRecord])
def get_history(w: Shop, batch_id: int) -> list[ActionRecord]:
    return undoing.history(w, batch_id)


@router.get("/{batch_id}/undo/{stage}", response_model=UndoView)
def get_undo(w: Shop, batch_id: int, stage: Stage) -> Response:
    return answer(undoing.offered(w, batch_id, stage))


@router.post("/{batch_id}/undo", response_model=UndoView)
def post_undo(w: Shop, batch_id: int, body: StageIn, person: Person) -> Response:
    return answer(undoing.undo(w, batch_id, body.stage, person))


@router.post("/{batch_id}/redo", response_model=UndoView)
def post_redo(w: Shop, batch_id: int, body: StageIn, person: Person) -> Response:
    return answer(undoing.redo(w, batch_id, body.stage, person))
