"""Photos over HTTP: sent and read as they are."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Body, Query, Response

from adhaero.api.wire import Id, Key, Person, Shop, router_for
from adhaero.store.photos import Photo
from adhaero.workflow import photos

router = router_for("photos")
Kind = Annotated[str, Query(max_length=20)]
Name = Annotated[str, Query(max_length=200)]


@router.get("/photos")
def get_photos(w: Shop, kind: Kind, name: Name) -> list[Photo]:
    return photos.of(w, kind, name)


@router.post("/photos", response_model=Id, status_code=201)
def post_photo(
    w: Shop, kind: Kind, name: Name, person: Person,
    photo: Annotated[bytes, Body(media_type="image/*")], caption: Annotated[str, Query(max_length=1000)] = "",
    member: Annotated[str, Query(max_length=1)] = "",
    key: Key = None,
) -> dict[str, Any]:  # fmt: skip
    return photos.add(w, kind, name, caption, photo, person, key, member)


@router.get("/photos/{photo_id}", response_class=Response, responses={200: {"content": {"image/*": {}}}})
def get_photo(w: Shop, photo_id: int) -> Response:
    media_type, content = photos.content(w, photo_id)
    return Response(content, media_type=media_type, headers={"Cache-Control": "private, max-age=31536000, immutable"})


@router.post("/photos/{photo_id}/away", response_model=Id)
def post_away(w: Shop, photo_id: int, person: Person, key: Key = None) -> dict[str, Any]:
    return photos.take_away(w, photo_id, person, key)
