"""Broken faces: painted or judged by several people, each verdict kept, and what follows for the piece."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import numpy as np
from PIL import Image

from adhaero.core.breaking import face, face_photo
from adhaero.core.breaking.face import GRIDS, KINDS, STEP_WORDS, Agreement, FaceMap, Verdict, agreement
from adhaero.core.piece_record import FACE_EVENT
from adhaero.core.refusal import refuse
from adhaero.core.units import half_up
from adhaero.store import glueups, photos
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, NotFound
from adhaero.workflow.photos import opened
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.piece_records import piece_record
from adhaero.workflow.record_loading import load

HOWS = ("map", "steps", "typed")


@dataclass(frozen=True)
class VerdictView:
    """One verdict: by whom, when, how, and the shares of the face that it found, %."""

    assessor: str
    at: datetime
    how: str
    wood_pct: float
    proposed_pct: float | None
    counts: bool
    shares: dict[str, float]


@dataclass(frozen=True)
class FaceView:
    """The faces of a piece: ``verdicts`` oldest first, those that count marked; the last ``maps`` by side with what a
    photo proposed for them; ``wood_pct`` is the mean of the verdicts that count.
    """

    code: str
    broken: bool
    width_mm: float
    length_mm: float
    kinds: dict[str, str]
    grids: list[tuple[int, int]]
    steps: dict[int, str]
    verdicts: list[VerdictView]
    wood_pct: float | None
    maps: dict[str, FaceMap]


@dataclass(frozen=True)
class FacesView:
    """The faces of a batch: broken pieces nobody has looked at closely yet, and how far assessors agree."""

    unexamined: list[str]
    agreement: Agreement | None


def view(w: AppContext, batch_id: int, code: str) -> FaceView:
    """The faces of a piece."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        piece = find_piece(conn, record, code)
    p = piece_record(record, piece)
    counting = {id(v) for v in p.counting_verdicts}
    maps = next((v.maps for v in reversed(p.verdicts) if v.maps), {})
    sizes = record.sizes(piece.id)
    width = sizes.get("width", sizes.get("depth", 25.0))
    return FaceView(
        piece.code, p.broken, width, max(1.0, record.area_mm2(piece) / width), KINDS, list(GRIDS), STEP_WORDS,
        [
            VerdictView(v.assessor, v.at, v.how, v.wood_pct, v.proposed_pct, id(v) in counting, _shares(v))
            for v in p.verdicts
        ],
        p.wood_failure_pct, dict(maps),
    )  # fmt: skip


def _shares(v: Verdict) -> dict[str, float]:
    maps = list(v.maps.values())
    kinds = {k: sum(m.shares.get(k, 0.0) for m in maps) / len(maps) for k in KINDS} if maps else {}
    return {KINDS[k]: value for k, value in kinds.items() if value}


def of_batch(record: BatchRecord, photographed: Collection[int]) -> FacesView:
    """What is still to be looked at: broken pieces without a verdict and without a photo of their faces."""
    records = [(s, piece_record(record, s)) for s in record.to_break if s.id in record.observed]
    left = [s.code for s, p in records if p.broken and not p.verdicts and s.id not in photographed]
    by_person = [{v.assessor: v.wood_pct for v in p.counting_verdicts} for _, p in records]
    return FacesView(left, agreement(by_person))


@dataclass(frozen=True)
class Judged:
    """A verdict as it is told: maps by side (columns, rows, cells) with what was proposed, or a share alone."""

    how: str
    wood_pct: float | None = None
    maps: Mapping[str, tuple[int, int, str]] | None = None
    proposed: Mapping[str, str] | None = None


def judge(w: AppContext, batch_id: int, code: str, j: Judged, person: str, key: str | None) -> dict[str, Any]:
    """Write down a verdict about the faces of a broken piece; of each assessor the last one counts."""
    if j.how not in HOWS:
        raise refuse("how", f"{j.how[:20]!r} is no way to judge", "Use one of: " + ", ".join(HOWS) + ".")
    maps = {side: face.checked(*m, f"maps.{side}") for side, m in (j.maps or {}).items()}
    pct = face.wood_pct(maps) if j.how == "map" else j.wood_pct
    if pct is None:
        raise refuse("maps" if j.how == "map" else "wood_pct", "says nothing of the wood", "Paint a field, or type it.")
    if not 0 <= pct <= 100:
        raise refuse("wood_pct", f"{pct:g} % is not possible", "Type a share from 0 to 100 %.")
    proposed = {side: cells for side, cells in (j.proposed or {}).items() if side in maps}
    for side, cells in proposed.items():
        face.checked(maps[side].columns, maps[side].rows, cells, f"proposed.{side}")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        if piece.id not in record.observed or not piece_record(record, piece).broken:
            raise refuse("code", f"{piece.code} is not broken yet", "Save how it ended first.")
        value = {
            "assessor": person, "how": j.how, "wood_pct": round(pct, 2),
            "maps": {side: [m.columns, m.rows, m.cells] for side, m in maps.items()}, "proposed": proposed,
        }  # fmt: skip
        glueups.add_events(conn, [piece.id], FACE_EVENT, w.stamp(), "", action_id, value)
        return {"code": piece.code}

    act = Act("break", "face", f"Judged the faces of {code}: {half_up(pct, 0):.0f} % wood", batch_id, person, key=key,
              request=f"{code}{j}")  # fmt: skip
    return w.perform(act, body)


def propose(
    w: AppContext, batch_id: int, code: str, photo_id: int, box: tuple[float, float, float, float], columns: int,
    rows: int,
) -> FaceMap:  # fmt: skip
    """What the fields of a face show by a photo of it: ``box`` is where the face lies in the picture (left, top, right,
    bottom, as shares of its width and height).
    """
    if (columns, rows) not in GRIDS:
        raise refuse("columns", f"{columns} x {rows} is no grid of a face", "Choose one of the grids.")
    left, top, right, bottom = box
    if not (0 <= left < right <= 1 and 0 <= top < bottom <= 1):
        raise refuse("box", "lies outside of the picture", "Draw it around the face.")
    with w.db.read() as conn:
        piece = find_piece(conn, load(w, conn, batch_id), code)
        found, subject = photos.content(conn, photo_id), photos.subject(conn, photo_id)
    if found is None or subject != ("piece", piece.id):
        raise NotFound(f"There is no photo {photo_id} of {piece.code}.")
    picture = opened(found[1])
    size = (columns * face_photo.CELL, rows * face_photo.CELL)
    edges = (left * picture.width, top * picture.height, right * picture.width, bottom * picture.height)
    rgb = np.asarray(picture.resize(size, Image.Resampling.BOX, box=edges), dtype=float) / 255
    return FaceMap(columns, rows, face_photo.propose(rgb, columns, rows))
