"""What stands around a comparison: what ran along, what left the plan, what was seen and said on the way."""

from __future__ import annotations

import sqlite3
from datetime import datetime
from typing import NamedTuple

from adhaero.store import guesses
from adhaero.store.guesses import Guess
from adhaero.workflow import protocol
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare import claims, confounding, departures
from adhaero.workflow.compare.adherence import against_schedule
from adhaero.workflow.compare.claims import ClaimView
from adhaero.workflow.compare.departures import Departed


class Background(NamedTuple):
    """What stands around the comparison."""

    along: list[str]
    departed: list[Departed]
    not_noted: list[str]
    claims: list[ClaimView]
    adherence: list[str]
    inspected: list[str]
    guesses: list[Guess]


def background(conn: sqlite3.Connection, record: BatchRecord, now: datetime) -> Background:
    """All of it, for a batch."""
    along = [*confounding.along(conn, record), *confounding.ages(record)]
    inspected = [*confounding.inspected(record), *confounding.stays(conn, record, now)]
    adherence = against_schedule(conn, record)
    return Background(
        along,
        departures.departed(record),
        [*departures.missing(record), *protocol.missing(record)],
        claims.of_plan(conn, record),
        adherence,
        inspected,
        guesses.standing(conn, record.batch.id),
    )
