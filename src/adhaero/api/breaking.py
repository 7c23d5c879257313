"""The break stage over HTTP: queue, observations, and what belongs to them."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any, Literal

from fastapi import Depends, Query, Request, Response
from pydantic import Field

from adhaero.api.door import name_of
from adhaero.api.wire import (
    Code,
    CodeIn,
    Confirmed,
    Done,
    Id,
    Key,
    Person,
    Shop,
    Short,
    Strict,
    When,
    answer,
    router_for,
)
from adhaero.core.breaking.details import Details
from adhaero.core.breaking.shares import Shares, main_mode, together
from adhaero.core.observation import Kind, Observation
from adhaero.core.quantity import Dimension, parse
from adhaero.core.refusal import Refusal, refuse
from adhaero.store import shop
from adhaero.workflow.breaking import (
    checklist,
    observing,
    queue,
    sent,
    tags,
    testing_sheet,
    weights,
    withdrawals,
)
from adhaero.workflow.breaking.in_hand import Screen
from adhaero.workflow.breaking.queue import BreakView
from adhaero.workflow.breaking.testing_sheet import TestingCells, TestingSheet, TypedTesting
from adhaero.workflow.breaking.weights import WeightsView
from adhaero.workflow.breaking.withdrawals import WithdrawalsView
from adhaero.workflow.context import AppContext
from adhaero.workflow.plan import parts

router = router_for("break")


class ShareIn(Strict):
    """A share of the face that gave way in one mode, of one member (A, B, C) or of the joint as a whole, %."""

    mode: str = Field(max_length=40)
    member: Literal["", "A", "B", "C"] = ""
    pct: float


class StageIn(Strict):
    """One stage in which a piece gave way: what happened, and its load as typed, if known."""

    what: str = Field(max_length=80)
    load: str = Field("", max_length=100)


class DetailsIn(Strict):
    """What else is told of a reading: see core.breaking.details."""

    how: str = Field("", max_length=20)
    ended: Literal["", "held", "failed"] = ""
    stages: list[StageIn] = Field([], max_length=12)
    direction: Literal["", "opening", "closing"] = ""
    off_line: str = Field("", max_length=100)
    side: str = Field("", max_length=80)
    tool: str = Field("", max_length=80)
    outcome: str = Field("", max_length=80)
    shown: str = Field("", max_length=80)


class ObservationIn(Strict):
    """How a piece ended, now or at a time stated. Loads are as typed (``3.2 kN``, ``26 kg``); an empty one is taken
    from the pull, or follows from the weights that hang and how that ended. ``again``: one more loading of the piece;
    ``beside``: another reading of the break that it has.
    """

    code: Code
    kind: Kind
    low: str = Field("", max_length=10_000)
    high: str = Field("", max_length=10_000)
    held: str = Field("", max_length=200)
    failure_mode: str | None = Field(None, max_length=40)
    wood_failure_pct: float | None = None
    shares: list[ShareIn] = Field([], max_length=20)
    reason: str = Field("", max_length=500)
    note: str = Field("", max_length=2000)
    pull_id: int | None = None
    source: Literal["rig", "typed", "weights", "vessel"] = "typed"
    at: When | None = None
    confirmed: Confirmed = Field(default_factory=list)
    weights: Literal["", "adding", "hanging", "holds", "filled"] = ""
    again: bool = False
    beside: bool = False
    details: DetailsIn = Field(default_factory=lambda: DetailsIn.model_validate({}))


class LoadIn(Strict):
    """What an instrument showed when a piece broke, with its unit (``3480 N``), as a logger or a script sends it."""

    code: Code
    load: str = Field("", max_length=100)
    kind: Literal[Kind.EXACT, Kind.AT_LEAST, Kind.FELL_APART] = Kind.EXACT
    failure_mode: str | None = Field(None, max_length=40)
    note: str = Field("", max_length=2000)
    at: When | None = None
    confirmed: Confirmed = Field(default_factory=list)


class TicksIn(Strict):
    """Points of the checklist that are so."""

    keys: list[Short] = Field(max_length=30)


class TestingCellsIn(Strict):
    """What stands in the blanks of a piece on the testing sheet."""

    code: Code
    at: str = Field("", max_length=20)
    load: str = Field("", max_length=100)
    mode: str = Field("", max_length=60)
    wood: str = Field("", max_length=20)
    note: str = Field("", max_length=2000)


class TestingSheetIn(Strict):
    """A testing sheet typed back; times are clock times from ``day`` on."""

    day: date
    rows: list[TestingCellsIn] = Field(max_length=2000)
    confirmed: Confirmed = Field(default_factory=list)


class WeightIn(Strict):
    """A weight that is hung on a piece, g; negative where it is taken off."""

    mass_g: int = Field(ge=-1_000_000, le=1_000_000)


class TagIn(Strict):
    """What happened to a piece at the rig: a key of the tags, or a few words; now, or at a time told."""

    code: Code
    what: str = Field(max_length=80)
    note: str = Field("", max_length=500)
    at: When | None = None
    again: bool = False


class CountsIn(Strict):
    """The loading of a piece that counts, and why."""

    loading: int = Field(ge=1, le=100)
    reason: str = Field(max_length=500)


class CorrectionIn(Strict):
    """What is to change of a reading; what is left out stays as it is. ``base`` is the reading that was seen."""

    base: int | None = None
    kind: Kind | None = None
    low: str | None = Field(None, max_length=10_000)
    high: str | None = Field(None, max_length=10_000)
    held: str | None = Field(None, max_length=200)
    failure_mode: str | None = Field(None, max_length=40)
    wood_failure_pct: float | None = None
    shares: list[ShareIn] | None = Field(None, max_length=20)
    details: DetailsIn | None = None
    reason: str | None = Field(None, max_length=500)
    note: str | None = Field(None, max_length=2000)
    at: When | None = None
    confirmed: Confirmed = Field(default_factory=list)


class Observed(Strict):
    """The piece just saved, and the one that is next."""

    code: str
    next: str | None


class TrialIn(Strict):
    """A piece that is to be a trial (or to count again), and why."""

    code: Code
    trial: bool
    reason: str = Field(max_length=1000)


def _screen(
    request: Request,
    screen: Annotated[str, Query(max_length=40, description="the page that shows the queue")] = "",
    took: Annotated[str, Query(max_length=40, description="the piece that its person took, if any")] = "",
) -> Screen | None:
    return Screen(screen, name_of(request), took) if screen else None


@router.get("/batches/{batch_id}/break", response_model=BreakView)
def get_break(
    w: Shop,
    batch_id: int,
    screen: Annotated[Screen | None, Depends(_screen)],
    groups: bool = False,
    early: bool = False,
) -> Response:
    return answer(queue.view(w, batch_id, groups=groups, early=early, screen=screen))


@router.get("/batches/{batch_id}/withdrawals", response_model=WithdrawalsView)
def get_withdrawals(w: Shop, batch_id: int) -> Response:
    return answer(withdrawals.view(w, batch_id))


@router.post("/batches/{batch_id}/observations", response_model=Observed)
def post_observation(w: Shop, batch_id: int, body: ObservationIn, person: Person, key: Key = None) -> dict[str, Any]:
    shares = _shares(body.shares)
    observation = Observation(
        kind=body.kind,
        held_s=_typed(body.held, Dimension.TIME, "s", "held"),
        failure_mode=body.failure_mode or main_mode(shares),
        wood_failure_pct=body.wood_failure_pct,
        shares=shares,
        reason=body.reason,
        note=body.note,
        details=_details(w, body.details),
    )
    return observing.observe(
        w, batch_id, body.code, observation, pull_id=body.pull_id, source=body.source, person=person, key=key,
        at=body.at, confirmed=body.confirmed, typed=(body.low, body.high), weights=body.weights,
        again=body.again, beside=body.beside,
    )  # fmt: skip


@router.post("/loads", response_model=Observed)
def post_load(w: Shop, body: LoadIn, person: Person, key: Key = None) -> dict[str, Any]:
    seen = Observation(kind=body.kind, failure_mode=body.failure_mode, note=body.note)
    return sent.take_load(
        w, body.code, seen, body.load, person=person, key=key, at=body.at, confirmed=body.confirmed
    )  # fmt: skip


@router.post("/batches/{batch_id}/checklist", response_model=Id, status_code=201)
def post_checklist(w: Shop, batch_id: int, body: TicksIn, person: Person, key: Key = None) -> dict[str, Any]:
    return checklist.tick(w, batch_id, body.keys, person, key)


@router.get("/batches/{batch_id}/testing-sheet", response_model=TestingSheet)
def get_testing_sheet(w: Shop, batch_id: int) -> Response:
    return answer(testing_sheet.view(w, batch_id))


@router.post("/batches/{batch_id}/testing-sheet", response_model=Done)
def post_testing_sheet(w: Shop, batch_id: int, body: TestingSheetIn, person: Person, key: Key = None) -> dict[str, Any]:
    rows = [TestingCells(**r.model_dump()) for r in body.rows]
    return testing_sheet.write(w, batch_id, TypedTesting(body.day, rows, body.confirmed), person, key)


@router.get("/batches/{batch_id}/weights/{code}", response_model=WeightsView)
def get_weights(w: Shop, batch_id: int, code: str) -> Response:
    return answer(weights.view(w, batch_id, code))


@router.post("/batches/{batch_id}/weights/{code}", response_model=CodeIn)
def post_weight(w: Shop, batch_id: int, code: str, body: WeightIn, person: Person, key: Key = None) -> dict[str, Any]:
    return weights.hang(w, batch_id, code, body.mass_g, person, key)


@router.post("/batches/{batch_id}/tags", response_model=CodeIn)
def post_tag(w: Shop, batch_id: int, body: TagIn, person: Person, key: Key = None) -> dict[str, Any]:
    return tags.tag(w, batch_id, body.code, body.what, person, key, note=body.note, at=body.at, again=body.again)


@router.post("/batches/{batch_id}/loadings/{code}", response_model=CodeIn)
def post_counts(w: Shop, batch_id: int, code: str, body: CountsIn, person: Person, key: Key = None) -> dict[str, Any]:
    return observing.choose(w, batch_id, code, body.loading, body.reason, person, key)


@router.patch("/batches/{batch_id}/observations/{code}", response_model=Observed)
def patch_observation(
    w: Shop, batch_id: int, code: str, body: CorrectionIn, person: Person, key: Key = None
) -> dict[str, Any]:
    given = body.model_dump(exclude_unset=True, exclude={"base", "held", "confirmed", "shares", "details"})
    changes = {k: v for k, v in given.items() if v is not None or k in ("failure_mode", "wood_failure_pct")}
    if body.shares is not None:
        changes["shares"] = _shares(body.shares)
    if body.details is not None:
        changes["details"] = _details(w, body.details)
    if body.held is not None:
        changes["held_s"] = _typed(body.held, Dimension.TIME, "s", "held")
    return observing.correct(w, batch_id, code, changes, person, key, body.confirmed, body.base)


def _shares(given: list[ShareIn]) -> Shares:
    return together([(s.mode, s.member, s.pct) for s in given])


def _details(w: AppContext, d: DetailsIn) -> Details:
    with w.db.read() as conn:
        force, length = (shop.units(conn).symbol(x) for x in (Dimension.FORCE, Dimension.LENGTH))
    stages = tuple(
        (s.what.strip(), _typed(s.load, Dimension.FORCE, force, f"details.stages.{i}")) for i, s in enumerate(d.stages)
    )
    off = _typed(d.off_line, Dimension.LENGTH, length, "details.off_line")
    return Details(
        d.how,
        d.ended,
        stages,
        d.direction,
        off or None,
        d.side.strip(),
        d.tool.strip(),
        d.outcome.strip(),
        d.shown.strip(),
    )


def _typed(text: str, dimension: Dimension, unit: str, field: str) -> float | None:
    if not text.strip():
        return None
    try:
        return parse(text, dimension, unit).base
    except Refusal as refusal:
        raise refuse(field, refusal.problems[0].message, refusal.problems[0].remedy) from refusal


@router.post("/batches/{batch_id}/trial", response_model=CodeIn)
def post_trial(w: Shop, batch_id: int, body: TrialIn, person: Person, key: Key = None) -> dict[str, Any]:
    return parts.make_trial(w, batch_id, body.code, body.trial, body.reason, person, key)
