"""The cut stage over HTTP: sizes, boards, labels, and one piece in full."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import Response
from pydantic import Field

from adhaero.api.wire import Code, CodeIn, Codes, Done, Key, Person, Shop, Strict, answer, built_once, router_for
from adhaero.core.cut.layout import Saw
from adhaero.store.adherends import Step
from adhaero.workflow import own_properties
from adhaero.workflow.cut import boards, cutting, pieces
from adhaero.workflow.cut.cutting import CutView, Label, Typed
from adhaero.workflow.cut.pieces import Pairing, PieceView
from adhaero.workflow.own_properties import OwnTyped, OwnView
from adhaero.workflow.plan import parts

router = router_for("cut", "/batches")
built_once(CutView)


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


class DefectIn(Strict):
    """A fault of a member."""

    side: str = Field(max_length=4)
    text: str = Field(max_length=1000)


class StepIn(Strict):
    """One thing done to a face; ``at`` is when, in ISO 8601."""

    side: str = Field(max_length=4)
    step: str = Field(max_length=500)
    grit: int | None = None
    amount_g_m2: float | None = None
    dilution: str = Field("", max_length=80)
    wait_s: float | None = None
    at: str | None = Field(None, max_length=40)


class StepsIn(Strict):
    """What was done to the faces of these pieces, in order."""

    codes: Codes
    steps: list[StepIn] = Field(max_length=60)


class PairIn(Strict):
    """Two halves by their labels."""

    first: Code
    second: Code


class RecutIn(Strict):
    """The piece that was spoiled."""

    code: Code


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


@router.post("/{batch_id}/places", response_model=CutView)
def post_places(w: Shop, batch_id: int, person: Person, key: Key = None) -> Response:
    boards.place_more(w, batch_id, person, key)
    return answer(cutting.view(w, batch_id))


@router.post("/{batch_id}/spare", response_model=CodeIn)
def post_spare(w: Shop, batch_id: int, body: CodeIn, person: Person, key: Key = None) -> dict[str, Any]:
    return parts.take_spare(w, batch_id, body.code, person, key)


@router.get("/{batch_id}/pieces/{code}", response_model=PieceView)
def get_piece(w: Shop, batch_id: int, code: str) -> Response:
    return answer(pieces.view(w, batch_id, code))


@router.post("/{batch_id}/pieces/{code}/defects", response_model=PieceView)
def post_defect(w: Shop, batch_id: int, code: str, body: DefectIn, person: Person, key: Key = None) -> Response:
    pieces.note_defect(w, batch_id, code, body.side, body.text, person, key)
    return answer(pieces.view(w, batch_id, code))


@router.post("/{batch_id}/faces", response_model=Done)
def post_faces(w: Shop, batch_id: int, body: StepsIn, person: Person, key: Key = None) -> dict[str, Any]:
    steps = [Step(position=i, **s.model_dump()) for i, s in enumerate(body.steps)]
    return pieces.write_steps(w, batch_id, body.codes, steps, person, key)


class OwnTypedIn(Strict):
    """A value of a property of the plan's own, as typed; empty text takes it back."""

    prop: str = Field(max_length=40)
    subject: str = Field(max_length=80)
    text: str = Field(max_length=200)


class OwnValuesIn(Strict):
    """Values, written all or none."""

    cells: list[OwnTypedIn] = Field(min_length=1, max_length=5000)


@router.get("/{batch_id}/own", response_model=OwnView)
def get_own(w: Shop, batch_id: int) -> Response:
    return answer(own_properties.view(w, batch_id))


@router.post("/{batch_id}/own", response_model=Done)
def post_own(w: Shop, batch_id: int, body: OwnValuesIn, person: Person, key: Key = None) -> dict[str, Any]:
    cells = [OwnTyped(c.prop, c.subject, c.text) for c in body.cells]
    return own_properties.write(w, batch_id, cells, person, key)


@router.post("/{batch_id}/pair", response_model=Pairing)
def post_pair(w: Shop, batch_id: int, body: PairIn) -> Response:
    return answer(pieces.check_pair(w, batch_id, body.first, body.second))


@router.post("/{batch_id}/swap", response_model=Done)
def post_swap(w: Shop, batch_id: int, body: PairIn, person: Person, key: Key = None) -> dict[str, Any]:
    return pieces.note_swap(w, batch_id, body.first, body.second, person, key)
