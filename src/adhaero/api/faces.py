"""Broken faces over HTTP: their maps and verdicts, and proposals from photos."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import Response
from pydantic import Field

from adhaero.api.wire import CodeIn, Key, Person, Shop, Strict, answer, router_for
from adhaero.core.breaking.face import FaceMap
from adhaero.workflow.breaking import faces
from adhaero.workflow.breaking.faces import FaceView, Judged

router = router_for("break", "/batches/{batch_id}/faces")
Side = Literal["A", "B"]
Cells = Annotated[str, Field(max_length=400)]


class MapIn(Strict):
    """What the fields of a face show, row by row: see core.breaking.face."""

    columns: int
    rows: int
    cells: Cells


class JudgedIn(Strict):
    """A verdict: maps by side with what a photo had proposed, or a share of wood alone, %."""

    how: Literal["map", "steps", "typed"]
    wood_pct: float | None = None
    maps: dict[Side, MapIn] = Field({}, max_length=2)
    proposed: dict[Side, Cells] = Field({}, max_length=2)


class ProposalIn(Strict):
    """A photo of a face, and where in it the face lies: left, top, right, bottom, as shares of the picture."""

    photo_id: int
    box: tuple[float, float, float, float] = (0, 0, 1, 1)
    columns: int = 12
    rows: int = 8


@router.get("/{code}", response_model=FaceView)
def get_face(w: Shop, batch_id: int, code: str) -> Response:
    return answer(faces.view(w, batch_id, code))


@router.post("/{code}", response_model=CodeIn)
def post_verdict(w: Shop, batch_id: int, code: str, body: JudgedIn, person: Person, key: Key = None) -> dict[str, Any]:
    maps: dict[str, tuple[int, int, str]] = {s: (m.columns, m.rows, m.cells) for s, m in body.maps.items()}
    told = Judged(body.how, body.wood_pct, maps, {str(s): cells for s, cells in body.proposed.items()})
    return faces.judge(w, batch_id, code, told, person, key)


@router.post("/{code}/proposal", response_model=FaceMap)
def post_proposal(w: Shop, batch_id: int, code: str, body: ProposalIn) -> Response:
    """What the picture of a face shows, as far as a machine can tell; nothing is written."""
    return answer(faces.propose(w, batch_id, code, body.photo_id, body.box, body.columns, body.rows))
