"""Steps of a plan's protocol over HTTP: what is said of them, and lists of steps that the shop keeps."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import Response
from pydantic import Field

from adhaero.api.plan_bodies import ProtocolIn
from adhaero.api.wire import Codes, Done, Key, Person, Shop, Strict, When, answer, router_for
from adhaero.core.protocol import ProtocolStep
from adhaero.workflow import protocol
from adhaero.workflow.protocol import ProtocolView

router = router_for("protocol")


class MarkIn(Strict):
    """What is said of a step on these joints; without a time it is now."""

    step: str = Field(max_length=40)
    codes: Codes
    state: Literal["done", "late", "not done"]
    at: When | None = None
    note: str = Field("", max_length=1000)


@router.get("/batches/{batch_id}/protocol", response_model=ProtocolView)
def get_protocol(w: Shop, batch_id: int) -> Response:
    return answer(protocol.view(w, batch_id))


@router.post("/batches/{batch_id}/protocol", response_model=Done)
def post_mark(w: Shop, batch_id: int, body: MarkIn, person: Person, key: Key = None) -> dict[str, Any]:
    return protocol.mark(w, batch_id, body.step, body.codes, body.state, body.at, person, key, body.note)


@router.get("/protocols")
def get_kept(w: Shop) -> dict[str, list[ProtocolStep]]:
    return protocol.kept(w)


@router.post("/protocols", response_model=Done)
def post_kept(w: Shop, body: ProtocolIn, key: Key = None) -> dict[str, Any]:
    steps = [ProtocolStep(s.text, (), s.wait_s, s.within_s) for s in body.steps]
    return protocol.keep(w, body.name, steps, key)
