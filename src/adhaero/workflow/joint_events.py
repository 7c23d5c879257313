"""What happened to a joint besides its glue-up, as one cell of the file: closed, conditioned, told, noted."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Any

from adhaero.core.breaking.face import checked as face_checked
from adhaero.core.breaking.face import verdict_of
from adhaero.core.flags import DOUBT
from adhaero.core.glue import joint_records
from adhaero.core.piece_record import FACE_EVENT
from adhaero.core.refusal import Problems, Refusal
from adhaero.store import glueups
from adhaero.store.glueups import Event
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import iso, moment

TAPS = ("closed", "conditioned", "coat", "spread", "note", "step", "weight", "tag", "counts", DOUBT, FACE_EVENT)
"""Kinds of events that are no records of core.glue.joint_records but belong to the joint's story all the same."""


def as_cell(record: BatchRecord, s: Specimen) -> str:
    """The events of a joint as JSON, oldest first: [kind, time, value, note]; empty without any."""
    own = sorted(_own(record, s), key=lambda e: (e.at, e.id))
    found = [[e.kind, e.at, _lasting(e), e.note] for e in own]
    return json.dumps(found, separators=(",", ":"), ensure_ascii=False) if found else ""


def _own(record: BatchRecord, s: Specimen) -> Iterator[Event]:
    if s.id in record.closed:
        yield record.closed[s.id]
    yield from (e for way in ("in", "out") if (e := record.conditioned.get((s.id, way))) is not None)
    yield from (e for e in record.joint_records.get(s.id, ()) if e.kind in joint_records.KINDS or e.kind in TAPS)


def _lasting(e: Event) -> dict[str, Any]:
    """The value of an event without what only this workshop knows, like the number of a clamp."""
    return {} if e.kind == "closed" else dict(e.value)


def check_cell(text: str, field: str, p: Problems, now: datetime) -> None:
    """Add what is wrong with such a cell to ``p``."""
    if not text:
        return
    try:
        for kind, at, value, note in json.loads(text):
            when = moment(at)
            sane = when.tzinfo is not None and when.year >= 1970 and when <= now + timedelta(days=1)
            p.check(sane, field, f"{at!r} is no time that anything happened at", "Write it as 2026-11-23T16:50:00Z.")
            fine = kind in joint_records.KINDS or kind in TAPS
            if p.check(fine, field, f"{str(kind)[:30]!r} is nothing that happens to a joint", "Leave it out."):
                joint_records.check(kind, value) if kind in joint_records.KINDS else None
            p.check(isinstance(note, str) and len(note) <= 500, field, "has a note that is too long", "Shorten it.")
            if kind == "weight":
                mass, own = int(value["mass_g"]), int(value["loading"])
                p.check(0 < abs(mass) <= 1_000_000 and 0 < own <= 100, field, "hangs an impossible weight", "Mend it.")
            if kind == "tag":
                p.check(0 < len(str(value["what"])) <= 80, field, "has an empty tag, or a long one", "Shorten it.")
            if kind == DOUBT:
                named = isinstance(value["doubtful"], bool) and 0 < len(str(value["by"])) <= 100 and note
                p.check(bool(named), field, "doubts a piece without a name or a reason", "Say who doubts it, and why.")
            if kind == "counts":
                p.check(0 < int(value["loading"]) <= 100, field, "counts an impossible loading", "Mend it.")
            if kind == FACE_EVENT:
                found = verdict_of(value, when)
                p.check(0 <= found.wood_pct <= 100, field, "judges a face beyond all of it", "Mend it.")
                for m in found.maps.values():
                    face_checked(m.columns, m.rows, m.cells, field)
            if kind == "conditioned":
                p.check(value.get("way") in ("in", "out"), field, "is neither in nor out", "Write in or out.")
    except Refusal as refusal:
        p.take(refusal, f"{field} ")
    except (ValueError, TypeError, AttributeError, KeyError):
        p.add(field, "is not a list of events", "Leave the cell as it was written, or empty.")


def take_cell(conn: sqlite3.Connection, specimen_id: int, text: str, action_id: int) -> None:
    """Write the events of such a cell down."""
    for kind, at, value, note in json.loads(text) if text else ():
        glueups.add_events(conn, [specimen_id], kind, iso(moment(at)), note, action_id, value)
