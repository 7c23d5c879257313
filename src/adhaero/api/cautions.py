"""The cautions of a stage, and that they were read, over HTTP."""

from __future__ import annotations

from typing import Any

from fastapi import Response

from adhaero.api.wire import Id, Key, Person, Shop, Stage, answer, router_for
from adhaero.workflow import caution_session
from adhaero.workflow.caution_session import CautionView

router = router_for("cautions", "/batches")


@router.get("/{batch_id}/cautions/{stage}", response_model=list[CautionView])
def get_cautions(w: Shop, batch_id: int, stage: Stage) -> Response:
    return answer(caution_session.cautions(w, batch_id, stage))


@router.post("/{batch_id}/cautions/{stage}", response_model=Id, status_code=201)
def post_cautions(w: Shop, batch_id: int, stage: Stage, person: Person, key: Key = None) -> dict[str, Any]:
    return caution_session.confirm(w, batch_id, stage, person, key)
