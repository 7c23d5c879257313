"""The schedule against what happened: the plan that stood when a joint was glued, and the fact, are both on record."""

from __future__ import annotations

import sqlite3
from datetime import datetime

from adhaero.core.glue.schedule.adherence import lateness
from adhaero.core.glue.schedule.timetable import Course
from adhaero.store import clamps as store
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import moment


def against_schedule(conn: sqlite3.Connection, record: BatchRecord) -> list[str]:
    """How far gluing, release, conditioning and break lay from the schedule, in words; empty without a schedule."""
    schedules = store.schedules(conn, record.batch.id)
    if not schedules:
        return []
    planned: dict[str, dict[str, float]] = {}
    actual: dict[str, dict[str, float]] = {}
    glued = [s for s in record.pieces if s.id in record.members]
    for stored in schedules:
        made, start = moment(stored.at), moment(stored.document["start"]).timestamp()
        courses = {c["code"]: Course(**c) for c in stored.document["courses"]}
        for s in glued:
            # A later schedule holds for the joints that were glued after it was made.
            course = courses.get(record.unit_code(s))
            if course is not None and made <= record.pressed_at(s):
                planned[s.code] = _planned(course, start)
    for s in glued:
        if s.code in planned:
            actual[s.code] = _actual(record, s)
    return [x.in_words() for x in lateness(planned, actual)]


def _planned(c: Course, start: float) -> dict[str, float]:
    moments = {"closed": c.closed_s, "released": c.released_s, "in": c.in_s, "broken": c.broken_s}
    return {task: start + at for task, at in moments.items() if at is not None}


def _actual(record: BatchRecord, s: Specimen) -> dict[str, float]:
    out, begun, seen = record.unclamped.get(s.id), record.conditioned.get((s.id, "in")), record.observed.get(s.id)
    moments: dict[str, datetime | None] = {
        "closed": record.pressed_at(s),
        "released": moment(out.at) if out else None,
        "in": moment(begun.at) if begun else None,
        "broken": moment(seen.at) if seen else None,
    }
    return {task: at.timestamp() for task, at in moments.items() if at is not None}
