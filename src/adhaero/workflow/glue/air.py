"""The air that pieces stood in: readings of places, and the summary of each piece's own stay."""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from adhaero.core.glue.climate import Reading, Stay, stay
from adhaero.core.plan.document import level_text
from adhaero.core.plan.fields import value_name
from adhaero.core.refusal import refuse
from adhaero.formats import climate_csv
from adhaero.store import climate
from adhaero.store.climate import StoredReading
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, iso, moment
from adhaero.workflow.glue.working_hours import working_hours


@dataclass(frozen=True)
class PlaceView:
    """A place with how much was read there, from when to when, and what it came to."""

    place: str
    readings: int
    first: str
    last: str
    summary: str


def take_in(w: AppContext, place: str, text: str, key: str | None) -> dict[str, Any]:
    """Take in what a logger wrote at a place; all of it or nothing."""
    name = place.strip()
    if not 1 <= len(name) <= 60:
        raise refuse("place", "the place has no name, or a long one", "Name it: shelf A, the bath.")
    with w.db.read() as conn:
        zone = ZoneInfo(working_hours(conn).hours.zone)
    rows = climate_csv.read(text, zone)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        climate.add(conn, name, (StoredReading(iso(r.at), r.air_c, r.humidity_pct) for r in rows), action_id)
        return {"pieces": len(rows)}

    # The file itself stands in the readings; of what was sent a digest is enough to know it again.
    digest = hashlib.sha256(text.encode()).hexdigest()
    act = Act("shop", "climate", f"{len(rows)} readings at {name}", key=key, request=f"{name} {digest}")
    return w.perform(act, body)


@dataclass(frozen=True)
class AirView:
    """The places that something was read at."""

    places: list[PlaceView]


def view(w: AppContext) -> AirView:
    """All places that something was read at."""
    with w.db.read() as conn:
        found = {p: _readings(conn, p) for p in climate.places(conn)}
    return AirView(
        [
            PlaceView(p, len(own), iso(own[0].at), iso(own[-1].at), stay(own, own[0].at, own[-1].at).in_words())
            for p, own in found.items()
        ]
    )


def _readings(conn: sqlite3.Connection, place: str) -> list[Reading]:
    return [Reading(moment(r.at), r.air_c, r.humidity_pct) for r in climate.readings(conn, place)]


def stays(conn: sqlite3.Connection, record: BatchRecord, s: Specimen, now: datetime) -> Iterator[tuple[str, Stay]]:
    """Where a piece stood, one place after the other until its break, and what the air was like meanwhile."""
    for place, begin, end in places_of(record, s, now):
        yield place, during(conn, place, begin, end)


def places_of(record: BatchRecord, s: Specimen, now: datetime) -> Iterator[tuple[str, datetime, datetime]]:
    """Where a piece stood, from when to when: until the next place, or its break."""
    told = [e for e in record.joint_records.get(s.id, ()) if e.kind == "place"]
    if not told:
        yield from _as_planned(record, s, now)
        return
    seen = record.observed.get(s.id)
    ends = [moment(e.at) for e in told[1:]] + [moment(seen.at) if seen else now]
    for e, end in zip(told, ends, strict=True):
        yield str(e.value["where"]).strip(), moment(e.at), end


def _as_planned(record: BatchRecord, s: Specimen, now: datetime) -> Iterator[tuple[str, datetime, datetime]]:
    """Where a joint is kept by plan, from its clamp to its conditioning or its break."""
    place = level_text(record.level(s, "kept_at"))
    if place is None or s.id not in record.members or record.is_held(s):
        return
    out, begun, seen = record.unclamped.get(s.id), record.conditioned.get((s.id, "in")), record.observed.get(s.id)
    begin = moment(out.at) if out else record.pressed_at(s)
    yield value_name("kept_at", place), begin, moment(begun.at) if begun else moment(seen.at) if seen else now


def during(conn: sqlite3.Connection, place: str, begin: datetime, end: datetime) -> Stay:
    """What the air did at a place from ``begin`` to ``end``."""
    return stay(_readings(conn, place), begin, end)
