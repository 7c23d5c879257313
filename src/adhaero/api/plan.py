"""A batch's plan over HTTP: drafts, the lock, amendments, templates, files."""

from __future__ import annotations

import json
from typing import Annotated, Any

from fastapi import Body, Query, Response
from fastapi.exceptions import RequestValidationError
from pydantic import ValidationError

from adhaero.api import plan_bodies as b
from adhaero.api.foreign_bodies import ForeignIn
from adhaero.api.wire import Done, Id, Key, Person, Shop, answer, built_once, router_for
from adhaero.core.plan.document import Extra, Level
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.plan.judging import judging_from
from adhaero.workflow import exchange, foreign_table, importing
from adhaero.workflow.foreign_table import TablePreview
from adhaero.workflow.importing import Imported
from adhaero.workflow.plan import amending, asking, growing, guessing, levels, planning
from adhaero.workflow.plan.crossing import Crossed, Listing, crossed
from adhaero.workflow.plan.fractions import Fraction, choose
from adhaero.workflow.plan.growing import Drawing
from adhaero.workflow.plan.guessing import NewGuess
from adhaero.workflow.plan.levels import ListedLevels
from adhaero.workflow.plan.planning import Against, PlanView
from adhaero.workflow.plan.rehearsing import Rehearsal, rehearsal

router = router_for("plan", "/batches")
built_once(PlanView)


@router.post("", response_model=Id, status_code=201)
def post_batch(w: Shop, body: b.BatchIn, key: Key = None) -> dict[str, Any]:
    return planning.create(w, body.name, key, body.start)


@router.post("/levels", response_model=ListedLevels)
def post_level_list(w: Shop, body: b.LevelListIn) -> Response:
    return answer(levels.read_list(w, body.field, body.text, body.unit, body.method))


@router.post("/crossing", response_model=Crossed)
def post_crossing(w: Shop, body: b.CrossingIn) -> Response:
    lists = [Listing(x.key, x.text, x.unit) for x in body.factors]
    return answer(crossed(w, body.document.model_dump(), body.question, lists, body.replicates))


@router.post("/{batch_id}/copy", response_model=Id, status_code=201)
def post_copy(w: Shop, batch_id: int, body: b.CopyIn, key: Key = None) -> dict[str, Any]:
    return planning.duplicate(w, batch_id, body.name, key)


@router.post("/from-plan", response_model=Id, status_code=201)
def post_plan_file(w: Shop, body: b.PlanFileIn, key: Key = None) -> dict[str, Any]:
    try:
        document = b.PlanDocument.model_validate(plan_from_json(body.document).to_json())
    except ValidationError as wrong:
        raise RequestValidationError([{**e, "loc": ("body", *e["loc"])} for e in wrong.errors()]) from wrong
    return planning.import_plan(w, body.name, document.model_dump(), key)


@router.post("/import", response_model=Imported)
def post_import(
    w: Shop, person: Person, text: Annotated[str, Body(media_type="text/csv")] = "", key: Key = None
) -> Response:
    return answer(importing.import_csv(w, text, person, key))


@router.post("/import-table/preview", response_model=TablePreview)
def post_table_preview(w: Shop, body: ForeignIn) -> Response:
    return answer(foreign_table.preview(w, body.table()))


@router.post("/import-table", response_model=Imported)
def post_table(w: Shop, person: Person, body: ForeignIn, key: Key = None) -> Response:
    return answer(foreign_table.take(w, body.table(), body.leave_out, person, key))


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
def put_plan(w: Shop, batch_id: int, body: b.PlanIn, key: Key = None) -> Response:
    planning.save_draft(w, batch_id, body.version, body.name, body.document.model_dump(), key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/start", response_model=PlanView)
def post_start(w: Shop, batch_id: int, body: b.StartIn, key: Key = None) -> Response:
    planning.start_from(w, batch_id, body.version, body.start, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/lock", response_model=Done)
def post_lock(w: Shop, batch_id: int, body: b.LockIn, person: Person, key: Key = None) -> dict[str, Any]:
    return planning.lock(w, batch_id, body.version, person, key, body.seed)


@router.post("/{batch_id}/more", response_model=PlanView)
def post_more(w: Shop, batch_id: int, body: b.MoreIn, person: Person, key: Key = None) -> Response:
    amending.add_pieces(w, batch_id, body.treatment, body.count, body.reason, person, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/leave-out", response_model=PlanView)
def post_leave_out(w: Shop, batch_id: int, body: b.LeaveOutIn, person: Person, key: Key = None) -> Response:
    amending.leave_out(w, batch_id, body.treatments, body.reason, person, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/control", response_model=PlanView)
def post_control(w: Shop, batch_id: int, body: b.ControlIn, person: Person, key: Key = None) -> Response:
    amending.change_control(w, batch_id, body.treatment, body.reason, person, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/constant", response_model=PlanView)
def post_constant(w: Shop, batch_id: int, body: b.ConstantIn, person: Person, key: Key = None) -> Response:
    level = Level(body.level.value, body.level.unit)
    amending.change_constant(w, batch_id, body.field, level, body.reason, person, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/questions", response_model=PlanView)
def post_questions(w: Shop, batch_id: int, body: b.QuestionsIn, person: Person, key: Key = None) -> Response:
    asking.ask(w, batch_id, [q.question() for q in body.questions], person, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/judging", response_model=PlanView)
def post_judging(w: Shop, batch_id: int, body: b.RejudgeIn, person: Person, key: Key = None) -> Response:
    amending.change_judging(w, batch_id, judging_from(body.judging.model_dump()), body.reason, person, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/treatment", response_model=PlanView)
def post_treatment(w: Shop, batch_id: int, body: b.TreatmentIn, person: Person, key: Key = None) -> Response:
    t = body.treatment
    changes = {k: Level(v.value, v.unit) for k, v in t.changes.items()}
    amending.add_treatment(w, batch_id, Extra(t.label, changes, t.replicates, t.control), body.reason, person, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/level", response_model=PlanView)
def post_level(w: Shop, batch_id: int, body: b.NewLevelIn, person: Person, key: Key = None) -> Response:
    level = Level(body.level.value, body.level.unit)
    growing.add_level(w, batch_id, body.factor, level, body.count, body.reason, person, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/draw", response_model=PlanView)
def post_draw(w: Shop, batch_id: int, body: b.DrawIn, person: Person, key: Key = None) -> Response:
    drawing = Drawing(body.treatment, body.count, Level(body.age.value, body.age.unit))
    growing.draw(w, batch_id, drawing, body.reason, person, key)
    return answer(planning.view(w, batch_id))


@router.post("/{batch_id}/guess", response_model=PlanView)
def post_guess(w: Shop, batch_id: int, body: b.GuessIn, person: Person, key: Key = None) -> Response:
    guessing.guess(w, batch_id, NewGuess(body.how, body.values, body.order, body.words), person, key)
    return answer(planning.view(w, batch_id))


@router.get("/{batch_id}/against/{other_id}", response_model=Against)
def get_against(w: Shop, batch_id: int, other_id: int) -> Response:
    return answer(planning.against(w, batch_id, other_id))


@router.post("/{batch_id}/template", response_model=Id, status_code=201)
def post_template(w: Shop, batch_id: int, body: b.CopyIn, key: Key = None) -> dict[str, Any]:
    return planning.keep_as_template(w, batch_id, body.name, key)


@router.post("/{batch_id}/from-template/{template_id}", response_model=PlanView)
def post_from_template(w: Shop, batch_id: int, template_id: int, body: b.VersionIn, key: Key = None) -> Response:
    planning.start_from_template(w, batch_id, body.version, template_id, key)
    return answer(planning.view(w, batch_id))


@router.delete("/templates/{template_id}", response_model=Id)
def delete_template(w: Shop, template_id: int, key: Key = None) -> dict[str, Any]:
    return planning.retire_template(w, template_id, key)


@router.get("/{batch_id}/rehearsal", response_model=Rehearsal)
def get_rehearsal(
    w: Shop, batch_id: int, question: Annotated[int, Query(ge=0, le=20)] = 0,
    level: Annotated[str, Query(max_length=60)] = "", percent: Annotated[float | None, Query(ge=-95, le=400)] = None,
) -> Response:  # fmt: skip
    """How often the answer to a question would be right, by made-up figures; nothing of it is kept."""
    return answer(rehearsal(w, batch_id, question, level, None if percent is None else percent / 100))


@router.get("/{batch_id}/fraction", response_model=Fraction)
def get_fraction(w: Shop, batch_id: int, part: Annotated[str, Query(max_length=20)]) -> Response:
    """Choose the combinations to leave out so that a half, a third or a quarter is made. Nothing is saved."""
    return answer(choose(w, batch_id, part))
