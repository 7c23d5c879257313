"""The glue stage over HTTP, second half: working hours, clamps, schedules, the bench guide and its taps."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any, Literal

from fastapi import Response
from pydantic import Field

from adhaero.api.wire import Codes, Done, Id, Key, Person, Shop, Strict, When, answer, router_for
from adhaero.core.glue.schedule.hours import Hours
from adhaero.core.glue.schedule.problem import Pace
from adhaero.store.clamps import StoredClamp
from adhaero.workflow.glue import bench_guide, moving, scheduling, taps, working_hours
from adhaero.workflow.glue.allowing import Allowed
from adhaero.workflow.glue.bench_guide import Guide
from adhaero.workflow.glue.scheduling import ScheduleView
from adhaero.workflow.glue.taps import Tap
from adhaero.workflow.glue.what_if import WhatIf, what_if

router = router_for("schedule")
Stretch = tuple[int, int, int]


class ClampsIn(Strict):
    """New clamps of one kind; the force that each gives in N."""

    label: str = Field(max_length=500)
    kind: str = Field(max_length=20)
    count: int
    force_n: float | None = None
    places: int = 1
    jaw_mm: float | None = Field(None, gt=0)
    force_known: Literal["measured", "estimated", "unknown"] = "estimated"
    known_by: str = Field("", max_length=20)
    caul_mm: float | None = None


class PaceIn(Strict):
    """How long hands take, s."""

    mix_s: int
    joint_s: int
    unclamp_s: int
    soak_s: int
    break_s: int
    saw_s: int = 60


class WorkingHoursIn(Strict):
    """Hours as (weekday with Monday 0, from, to in minutes after midnight), days off, pace, usual tolerance."""

    weekly: list[Stretch] = Field(max_length=60)
    zone: str = Field("UTC", max_length=60)
    off: list[date] = Field([], max_length=400)
    pace: PaceIn
    tolerance: float = 0.05
    air_c: float = 20.0


class WorkingHoursView(WorkingHoursIn):
    """The bench, with its clamps and how long a joint took lately, s."""

    clamps: list[StoredClamp]
    learned_joint_s: int | None


class AllowedIn(Strict):
    """A change that the user allows for one schedule, as a remedy or a what-if proposed it."""

    kind: str = Field(max_length=20)
    text: str = Field(max_length=300)
    amount: float
    key: str = Field("", max_length=80)
    codes: Codes = Field(default_factory=list)


class ScheduleIn(Strict):
    """How runs are composed, from when on (now, without), and what is allowed (without: as before)."""

    style: Literal["blocks", "loads"] = "blocks"
    start: When | None = None
    seek: bool = True
    allowed: list[AllowedIn] | None = Field(None, max_length=40)


class MoveIn(Strict):
    """A run of the schedule, by the number on the screen, and when it is to begin."""

    run: int
    to: When
    snap: bool = False


class WhatIfIn(Strict):
    """More clamps by id, and further stretches of the week."""

    clamps: dict[str, Annotated[int, Field(ge=0, le=100)]] = Field({}, max_length=50)
    evenings: list[Stretch] = Field([], max_length=14)


class TapIn(Strict):
    """One tap at the bench, with the moment at which it was made there."""

    kind: Literal["mixed", "coat", "spread", "clamped", "note", "unclamped", "in", "out", "cleaned"]
    at: When
    codes: Codes = Field(default_factory=list)
    code: str = Field("", max_length=40)
    mix: str = Field("", max_length=80)
    text: str = Field("", max_length=1000)
    ratio: str = Field("", max_length=80)
    air_c: float | None = Field(None, ge=-20, le=50)
    humidity_pct: float | None = Field(None, ge=0, le=100)
    bottle: str = Field("", max_length=200)
    force_known: Literal["measured", "estimated", "unknown"] = "unknown"
    force_n: float | None = Field(None, ge=0, le=200_000)


def _hours(w: Shop) -> dict[str, Any]:
    b, kinds, pace_s = working_hours.view(w)
    return {
        "weekly": list(b.hours.weekly), "zone": b.hours.zone, "off": list(b.hours.off), "pace": vars(b.pace),
        "tolerance": b.tolerance, "air_c": b.air_c, "clamps": kinds, "learned_joint_s": pace_s,
    }  # fmt: skip


@router.get("/working-hours", response_model=WorkingHoursView)
def get_hours(w: Shop) -> dict[str, Any]:
    return _hours(w)


@router.put("/working-hours", response_model=WorkingHoursView)
def put_hours(w: Shop, body: WorkingHoursIn, key: Key = None) -> dict[str, Any]:
    hours = Hours(tuple(body.weekly), body.zone, tuple(body.off))
    working_hours.save(
        w, working_hours.WorkingHours(hours, Pace(**body.pace.model_dump()), body.tolerance, body.air_c), key
    )
    return _hours(w)


@router.post("/clamps", response_model=WorkingHoursView)
def post_clamps(w: Shop, body: ClampsIn, key: Key = None) -> dict[str, Any]:
    working_hours.add_clamps(w, StoredClamp(0, **body.model_dump()), key)
    return _hours(w)


@router.post("/clamps/{clamp_id}/retire", response_model=Id)
def post_retire_clamps(w: Shop, clamp_id: int, key: Key = None) -> dict[str, Any]:
    return working_hours.retire_clamps(w, clamp_id, key)


@router.get("/batches/{batch_id}/schedule", response_model=ScheduleView)
def get_schedule(w: Shop, batch_id: int) -> Response:
    return answer(scheduling.view(w, batch_id))


@router.post("/batches/{batch_id}/schedule", response_model=ScheduleView)
def post_schedule(w: Shop, batch_id: int, body: ScheduleIn, person: Person, key: Key = None) -> Response:
    allowed = None if body.allowed is None else [Allowed(**{**vars(a), "codes": tuple(a.codes)}) for a in body.allowed]
    scheduling.make(w, batch_id, body.style, body.start, person, key, seek=body.seek, allowed=allowed)
    return answer(scheduling.view(w, batch_id))


@router.post("/batches/{batch_id}/schedule/stop", response_model=Done)
def post_stop(w: Shop, batch_id: int) -> dict[str, Any]:
    scheduling.stop(w, batch_id)
    return {"pieces": 0}


@router.post("/batches/{batch_id}/schedule/move", response_model=ScheduleView)
def post_move(w: Shop, batch_id: int, body: MoveIn, person: Person, key: Key = None) -> Response:
    moving.move(w, batch_id, body.run, body.to, person, key, snap=body.snap)
    return answer(scheduling.view(w, batch_id))


@router.post("/batches/{batch_id}/schedule/what-if", response_model=WhatIf)
def post_what_if(w: Shop, batch_id: int, body: WhatIfIn) -> Response:
    return answer(what_if(w, batch_id, body.clamps, body.evenings))


@router.get("/batches/{batch_id}/schedule.ics", response_class=Response,
            responses={200: {"content": {"text/calendar": {}}}})  # fmt: skip
def get_calendar(w: Shop, batch_id: int) -> Response:
    name, text = scheduling.calendar(w, batch_id)
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text, media_type="text/calendar; charset=utf-8", headers=headers)


@router.get("/batches/{batch_id}/guide", response_model=Guide)
def get_guide(
    w: Shop, batch_id: int, run: int | None = None, bottle: str | None = None, air_c: float | None = None
) -> Response:
    return answer(bench_guide.guide(w, batch_id, run, bottle, air_c))


@router.post("/batches/{batch_id}/taps", response_model=Done)
def post_tap(w: Shop, batch_id: int, body: TapIn, person: Person, key: Key = None) -> dict[str, Any]:
    return taps.tap(w, batch_id, Tap(**{**body.model_dump(), "codes": tuple(body.codes)}), person, key)
