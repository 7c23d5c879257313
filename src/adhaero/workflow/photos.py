"""Photos of pieces, boards and bottles, in the order they were taken."""

from __future__ import annotations

import io
import sqlite3
import warnings
from dataclasses import dataclass
from typing import Any

from PIL import Image, ImageOps, UnidentifiedImageError

from adhaero.core.refusal import refuse
from adhaero.store import boards, bottles, photos, specimens
from adhaero.store.photos import Photo
from adhaero.workflow.context import Act, AppContext, NotFound
from adhaero.workflow.record_loading import load

PIECE, BOARD, BOTTLE = "piece", "board", "bottle"
MEMBERS = ("", "A", "B", "C")
MOST_BYTES = 4 * 1024 * 1024
LONG_EDGE = 2000
"""Pixels along the longer edge of what is kept."""
_SIGNS = {"image/jpeg": b"\xff\xd8\xff", "image/png": b"\x89PNG\r\n\x1a\n", "image/webp": b"RIFF"}
"""How a file of each kind begins."""


@dataclass(frozen=True)
class _Subject:
    """What a photo shows: ``stage`` is where it is undone, and how far a piece was."""

    kind: str
    id: int
    batch_id: int | None
    stage: str


def of(w: AppContext, kind: str, name: str) -> list[Photo]:
    """The photos of a piece (by its code), a board or a bottle (by its label)."""
    with w.db.read() as conn:
        s = _subject(w, conn, kind, name)
        return photos.of(conn, s.kind, s.id)


def content(w: AppContext, photo_id: int) -> tuple[str, bytes]:
    """(media type, content) of a photo."""
    with w.db.read() as conn:
        found = photos.content(conn, photo_id)
    if found is None:
        raise NotFound(f"There is no photo {photo_id}.")
    return found


def add(
    w: AppContext, kind: str, name: str, caption: str, data: bytes, person: str, key: str | None, member: str = ""
) -> dict[str, Any]:
    """Keep a photo (JPEG, PNG or WebP) of a piece, or of one of its members, a board or a bottle; without the place and
    whatever else a camera writes into it.
    """
    media_type = _media_type(data)
    kept = without_data(data, media_type)
    if member not in MEMBERS or (member and kind != PIECE):
        raise refuse("member", f"{member[:10]!r} is no member of a joint", "Choose A, B, C, or the whole.")
    words = " ".join(caption.split())
    if len(words) > 300:
        raise refuse("caption", "is longer than 300 characters", "Say it in fewer words.")
    with w.db.read() as conn:
        s = _subject(w, conn, kind, name)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        photo = Photo(0, words, s.stage, w.stamp(), member)
        return {"id": photos.add(conn, s.kind, s.id, photo, media_type, kept, action_id)}

    act = Act(s.stage, "photo", f"A photo of {name}", s.batch_id, person, key=key,
              request=f"{kind}{name}{words}{member}{len(data)}")  # fmt: skip
    return w.perform(act, body)


def take_away(w: AppContext, photo_id: int, person: str, key: str | None) -> dict[str, Any]:
    """The photo is shown no more; undo brings it back."""
    with w.db.read() as conn:
        shows = photos.subject(conn, photo_id)
        if shows is None:
            raise NotFound(f"There is no photo {photo_id}.")
        batch_id = specimens.batch_of(conn, shows[1]) if shows[0] == PIECE else None

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        photos.take_away(conn, photo_id, action_id)
        return {"id": photo_id}

    stage = "cut" if batch_id is not None else "shop"
    act = Act(stage, "photo", "Took a photo away", batch_id, person, key=key, request=f"away {photo_id}")
    return w.perform(act, body)


def _media_type(data: bytes) -> str:
    if len(data) > MOST_BYTES:
        raise refuse("photo", f"is larger than {MOST_BYTES >> 20} MB", "Make it smaller and send it again.")
    for media_type, sign in _SIGNS.items():
        if data.startswith(sign) and (media_type != "image/webp" or data[8:12] == b"WEBP") and len(data) >= 12:
            return media_type
    raise refuse("photo", "is no picture that can be shown", "Take a JPEG, PNG or WebP file.")


def _subject(w: AppContext, conn: sqlite3.Connection, kind: str, name: str) -> _Subject:
    if kind == PIECE:
        found = specimens.find_code(conn, name.strip().upper())
        if found is None:
            raise refuse("name", f"there is no piece {name[:20]!r}", "Read the label again.")
        record = load(w, conn, found[1])
        stage = "break" if found[0] in record.observed else "glue" if found[0] in record.members else "cut"
        return _Subject(kind, found[0], found[1], stage)
    if kind == BOARD:
        ids = {b.label: b.id for b in boards.boards(conn)}
    elif kind == BOTTLE:
        ids = {b.label: b.id for b in bottles.bottles(conn)}
    else:
        raise refuse("kind", f"{kind[:20]!r} is nothing that has photos", "Choose piece, board or bottle.")
    if name not in ids:
        raise refuse("name", f"there is no {kind} {name[:40]!r}", "Choose one of the shop.")
    return _Subject(kind, ids[name], None, "shop")


def opened(data: bytes) -> Image.Image:
    """A picture, upright, in red, green and blue. Raises ``Refusal`` for what is none, or beyond all measure."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(data))
            return ImageOps.exif_transpose(picture).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        raise refuse("photo", "is no picture that can be read", "Take a JPEG, PNG or WebP file.") from error
    except (Image.DecompressionBombError, Image.DecompressionBombWarning) as error:
        raise refuse("photo", "has far too many pixels", "Make it smaller and send it again.") from error


def without_data(data: bytes, media_type: str) -> bytes:
    """A picture without what a camera writes into it besides: place, time, maker. Upright as it was held."""
    picture, out = opened(data), io.BytesIO()
    form = {"image/jpeg": "JPEG", "image/png": "PNG", "image/webp": "WEBP"}[media_type]
    picture.thumbnail((LONG_EDGE, LONG_EDGE))
    picture.save(out, form, quality=88)
    return out.getvalue()
