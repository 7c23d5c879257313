"""The compare stage over HTTP, and the data as a file."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Query, Response
from pydantic import Field

from adhaero.api.wire import Code, CodeIn, Id, Key, Person, Shop, Short, Strict, answer, router_for
from adhaero.workflow import exchange
from adhaero.workflow.compare import bonds_view, brought, claims, comparison, concluding, doubting, story
from adhaero.workflow.compare.bonds_view import BondsView
from adhaero.workflow.compare.brought import BroughtView
from adhaero.workflow.compare.story import Story
from adhaero.workflow.compare.view import CompareView

router = router_for("compare", "/batches")


class ClaimIn(Strict):
    """How a claim of the plan ended."""

    claim: str = Field(max_length=40)
    state: str = Field(max_length=40)
    note: str = Field("", max_length=2000)


class ConclusionIn(Strict):
    """What is concluded of treatments (by letter), against another one."""

    treatments: list[Short] = Field(max_length=200)
    says: str = Field(max_length=20)
    against: Short = ""
    share: float = 0.0
    note: str = Field("", max_length=2000)


class CommentIn(Strict):
    """What is to be known about a sentence of the page."""

    about: str = Field(max_length=2000)
    text: str = Field(max_length=2000)


class DoubtIn(Strict):
    """A piece that is doubted, or no longer, why, and by whom, where it is not who works here."""

    code: Code
    by: Short = ""
    reason: str = Field(max_length=300)
    doubtful: bool = True


@router.get("/{batch_id}/compare", response_model=CompareView)
def get_compare(
    w: Shop, batch_id: int, figure: str = "strength", fallen_as_zero: bool | None = None, all_pairs: bool = False,
    without: Annotated[list[str], Query(max_length=40)] = [],  # noqa: B006
    boards: Annotated[list[str], Query(max_length=400)] = [],  # noqa: B006
    unit: str = "", strength: str = "", target: str = "", school: str = "",
    reach: Annotated[float, Query(gt=0, le=2)] = 0.9,
    only: Annotated[list[Short], Query(max_length=20)] = [],  # noqa: B006
) -> Response:  # fmt: skip
    """The comparison without pieces that carry a flag of the kinds ``without`` or come from ``boards``."""
    found = comparison.compare(
        w,
        batch_id,
        figure,
        fallen_as_zero,
        all_pairs=all_pairs,
        without=without,
        boards=boards,
        unit=unit,
        strength=strength,
        target=target,
        school=school,
        only=only,
        reach=reach,
    )
    return answer(found)


@router.get("/{batch_id}/brought", response_model=BroughtView)
def get_brought(
    w: Shop, batch_id: int, figure: str = "strength", fallen_as_zero: bool | None = None, agreed: bool = False,
    through: str = "", strength: str = "", target: str = "",
    without: Annotated[list[str], Query(max_length=40)] = [],  # noqa: B006
    bring: Annotated[list[Short], Query(max_length=brought.MOST)] = [],  # noqa: B006
) -> Response:  # fmt: skip
    """Treatments of other studies, as ``batch:letter``, beside this one."""
    found = brought.brought(
        w, batch_id, bring, figure=figure, fallen_as_zero=fallen_as_zero, without=without, strength=strength,
        target=target, agreed=agreed, through=through,
    )  # fmt: skip
    return answer(found)


@router.get("/{batch_id}/story/{code}", response_model=Story)
def get_story(w: Shop, batch_id: int, code: str) -> Response:
    return answer(story.story(w, batch_id, code))


@router.get("/{batch_id}/bonds", response_model=BondsView)
def get_bonds(w: Shop, batch_id: int) -> Response:
    return answer(bonds_view.bonds_of(w, batch_id))


@router.post("/{batch_id}/doubts", response_model=CodeIn)
def post_doubt(w: Shop, batch_id: int, body: DoubtIn, person: Person, key: Key = None) -> dict[str, Any]:
    return doubting.doubt(w, batch_id, body.code, body.reason, body.by or person, key, doubtful=body.doubtful)


@router.post("/{batch_id}/claim", response_model=Id, status_code=201)
def post_claim(w: Shop, batch_id: int, body: ClaimIn, person: Person, key: Key = None) -> dict[str, Any]:
    return claims.decide(w, batch_id, body.claim, body.state, body.note, person, key)


@router.post("/{batch_id}/conclusions", response_model=Id, status_code=201)
def post_conclusion(w: Shop, batch_id: int, body: ConclusionIn, person: Person, key: Key = None) -> dict[str, Any]:
    return concluding.conclude(
        w, batch_id, body.treatments, body.says, body.against, body.share, body.note, person, key
    )


@router.post("/{batch_id}/conclusions/{conclusion}/gone", response_model=Id)
def post_gone(w: Shop, batch_id: int, conclusion: int, person: Person, key: Key = None) -> dict[str, Any]:
    return concluding.take_back(w, batch_id, conclusion, person, key)


@router.post("/{batch_id}/comments", response_model=Id, status_code=201)
def post_comment(w: Shop, batch_id: int, body: CommentIn, person: Person, key: Key = None) -> dict[str, Any]:
    return concluding.comment(w, batch_id, body.about, body.text, person, key)


@router.get("/{batch_id}/specimens.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
def get_csv(w: Shop, batch_id: int) -> Response:
    name, text = exchange.export_csv(w, batch_id)
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text.encode(), media_type="text/csv; charset=utf-8", headers=headers)
