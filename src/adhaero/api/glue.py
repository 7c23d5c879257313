"""The glue stage over HTTP: glue-ups, what is different for one joint, clamps off, conditioning, records of joints."""

from __future__ import annotations

from datetime import date
from typing import Any, Literal

from fastapi import Response
from pydantic import Field

from adhaero.api.wire import Code, Codes, Confirmed, Done, Key, Person, Shop, Short, Strict, When, answer, router_for
from adhaero.workflow.glue import after, bench_sheet, glueup_entry, gluing
from adhaero.workflow.glue.bench_sheet import BenchSheet, SheetCells, TypedSheet
from adhaero.workflow.glue.glueup_entry import NewGlueup
from adhaero.workflow.glue.gluing import GlueView

router = router_for("glue", "/batches")


class GlueupIn(Strict):
    """A glue-up; numbers in N, degrees Celsius, %, g/m2. Without a start it begins now."""

    codes: Codes
    started_at: When | None = None
    air_c: float | None = None
    humidity_pct: float | None = None
    bottle: Short = ""
    force_n: float | None = None
    clamps: int = 1
    force_known: Literal["measured", "estimated", "unknown"] = "estimated"
    spread_g_m2: float | None = None
    faces: Literal["one", "both"] = "one"
    note: str = Field("", max_length=2000)
    mixed_at: When | None = None
    ratio: str = Field("", max_length=80)
    deviation: str = Field("", max_length=200)
    over: int = 1
    pressed_by: Short = ""
    ended_at: When | None = None
    closed_at: dict[Code, When] = Field({}, max_length=500)
    unclamped_at: When | None = None
    confirmed: Confirmed = Field(default_factory=list)


class JointRecordIn(Strict):
    """Something told of glued joints beside their times; which parts a kind has is in the reference."""

    kind: str = Field(max_length=30)
    codes: Codes
    value: dict[str, float | str | None] = Field(max_length=12)
    note: str = Field("", max_length=500)
    at: When | None = None


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
    at: When | None = None
    note: str = Field("", max_length=2000)
    confirmed: Confirmed = Field(default_factory=list)


class ConditionIn(Strict):
    """Pieces that go into their conditioning, or out of it."""

    codes: Codes
    way: Literal["in", "out"]
    at: When | None = None


class CellsIn(Strict):
    """What stands in the blanks of a joint on the bench sheet."""

    code: Code
    run: int = 0
    spread: str = Field("", max_length=40)
    closed: str = Field("", max_length=40)
    off: str = Field("", max_length=40)
    force: str = Field("", max_length=40)
    note: str = Field("", max_length=300)


class BenchSheetIn(Strict):
    """A bench sheet typed back; times are clock times from ``day`` on."""

    day: date
    bottle: Short = ""
    air_c: float | None = None
    humidity_pct: float | None = None
    rows: list[CellsIn] = Field(max_length=5000)


@router.get("/{batch_id}/bench-sheet", response_model=BenchSheet)
def get_sheet(w: Shop, batch_id: int) -> Response:
    return answer(bench_sheet.view(w, batch_id))


@router.post("/{batch_id}/bench-sheet", response_model=Done)
def post_sheet(w: Shop, batch_id: int, body: BenchSheetIn, person: Person, key: Key = None) -> dict[str, Any]:
    rows = [SheetCells(**r.model_dump()) for r in body.rows]
    sheet = TypedSheet(body.day, body.bottle, body.air_c, body.humidity_pct, rows)
    return bench_sheet.write(w, batch_id, sheet, person, key)


@router.get("/{batch_id}/glue", response_model=GlueView)
def get_glue(w: Shop, batch_id: int) -> Response:
    return answer(gluing.view(w, batch_id))


@router.post("/{batch_id}/glueups", response_model=Done)
def post_glueup(w: Shop, batch_id: int, body: GlueupIn, person: Person, key: Key = None) -> dict[str, Any]:
    return glueup_entry.add_glueup(w, batch_id, NewGlueup(person=person, **body.model_dump()), key)


@router.post("/{batch_id}/exceptions", response_model=Done)
def post_exception(w: Shop, batch_id: int, body: ExceptionIn, person: Person, key: Key = None) -> dict[str, Any]:
    changed = body.model_dump(exclude={"code"}, exclude_unset=True)
    return glueup_entry.except_piece(w, batch_id, body.code, changed, person, key)


@router.post("/{batch_id}/unclamp", response_model=Done)
def post_unclamp(w: Shop, batch_id: int, body: UnclampIn, person: Person, key: Key = None) -> dict[str, Any]:
    return after.unclamp(w, batch_id, body.codes, body.at, body.note, person, key, body.confirmed)


@router.post("/{batch_id}/joint-records", response_model=Done)
def post_joint_record(w: Shop, batch_id: int, body: JointRecordIn, person: Person, key: Key = None) -> dict[str, Any]:
    joint_records = after.JointRecord(body.kind, tuple(body.codes), body.value, body.note)
    return after.tell_of(w, batch_id, joint_records, body.at, person, key)


@router.post("/{batch_id}/condition", response_model=Done)
def post_condition(w: Shop, batch_id: int, body: ConditionIn, person: Person, key: Key = None) -> dict[str, Any]:
    return after.condition(w, batch_id, body.codes, body.way, body.at, person, key)
