"""Pulls over HTTP: begun, marked, exported, set aside; the live signal, and the stand-in's hand."""

from __future__ import annotations

import json
import socket
from typing import Annotated, Any, Literal

from fastapi import Response
from pydantic import Field

from adhaero.api.wire import Code, CodeIn, Confirmed, Id, Key, Person, Shop, Short, Strict, answer, router_for
from adhaero.core.refusal import refuse
from adhaero.workflow.breaking import marks, pulling
from adhaero.workflow.breaking.live import Live, LivePull
from adhaero.workflow.breaking.marks import Curve
from adhaero.workflow.context import AppContext

router = router_for("break")


class PullIn(Strict):
    """The piece to pull; ``again``: one that has a reading already; ``in_cycles``: to be loaded several times."""

    code: Code
    confirmed: Confirmed = Field(default_factory=list)
    again: bool = False
    in_cycles: bool = False


class ReasonIn(Strict):
    """Why a pull is set aside."""

    reason: str = Field("", max_length=500)


class MarksIn(Strict):
    """Where marks of a curve are put: key -> s from its first sample."""

    marks: Annotated[dict[Short, float], Field(min_length=1, max_length=20)]


class HandIn(Strict):
    """An order to the stand-in's hand: what a person does at a real rig."""

    do: Literal["pull", "look"]
    code: Code = ""
    seconds: float | None = Field(None, ge=0.2, le=60)


class HandOut(Strict):
    """What the hand saw."""

    ok: bool
    why: str = ""
    failure_mode: str | None = None
    wood_failure_pct: float | None = None


class Zeroed(Strict):
    """The zero that was taken, N."""

    zero_n: float


@router.post("/batches/{batch_id}/pulls", response_model=Id, status_code=201)
def post_pull(w: Shop, batch_id: int, body: PullIn, person: Person, key: Key = None) -> dict[str, Any]:
    return pulling.begin_pull(w, batch_id, body.code, person, key, body.confirmed, body.again, in_cycles=body.in_cycles)


@router.post("/batches/{batch_id}/pulls/{pull_id}/discard", response_model=Id)
def post_discard(
    w: Shop, batch_id: int, pull_id: int, body: ReasonIn, person: Person, key: Key = None
) -> dict[str, Any]:
    return pulling.discard_pull(w, batch_id, pull_id, body.reason, person, key)


@router.get("/pulls/{pull_id}", response_model=Curve)
def get_curve(w: Shop, pull_id: int) -> Response:
    return answer(marks.curve(w, pull_id))


@router.post("/pulls/{pull_id}/marks", response_model=CodeIn)
def post_marks(w: Shop, pull_id: int, body: MarksIn, person: Person, key: Key = None) -> dict[str, Any]:
    return marks.move(w, pull_id, body.marks, person, key)


@router.get("/pulls/{pull_id}/trace.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
def get_trace(w: Shop, pull_id: int) -> Response:
    """The raw signal of a pull, as it came in."""
    name, text = marks.trace_csv(w, pull_id)
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text.encode(), media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/rig/zero", response_model=Zeroed)
def post_zero(w: Shop) -> dict[str, float]:
    return {"zero_n": w.rig.zero()}


@router.post("/rig/end", response_model=LivePull)
def post_end(w: Shop) -> Response:
    return answer(w.rig.end())


@router.get("/rig/live", response_model=Live)
def get_live(w: Shop, since: int = 0, connection: int = 0) -> Response:
    """The live signal since a sample: asked for many times a second, so that many tabs share few connections."""
    return answer(w.rig.live(since, connection))


@router.post("/batches/{batch_id}/hand", response_model=HandOut)
def post_hand(w: Shop, batch_id: int, body: HandIn) -> dict[str, Any]:
    """Ask the stand-in's hand to seat and pull a piece, or to look at its faces. Only beside the simulated rig."""
    if w.hand_port is None:
        raise refuse("hand", "there is no simulated rig", "Pull the lever yourself.")
    try:
        return _hand(w, batch_id, body, w.hand_port)
    except (OSError, ValueError) as error:
        raise refuse("hand", "the simulated rig does not answer", "Start the demo again, or type the load.") from error


def _hand(w: AppContext, batch_id: int, body: HandIn, port: int) -> dict[str, Any]:
    with socket.create_connection(("127.0.0.1", port), timeout=3) as link, link.makefile("rw") as hand:

        def order(what: dict[str, Any]) -> dict[str, Any]:
            hand.write(json.dumps(what) + "\n")
            hand.flush()
            return dict(json.loads(hand.readline()))

        if body.do == "look":
            return order({"do": "look"})
        piece = pulling.piece_for_stand_in(w, batch_id, body.code)
        order({"do": "seat", "piece": vars(piece)})
        return order({"do": "pump"} if body.seconds is None else {"do": "pump", "seconds": body.seconds})
