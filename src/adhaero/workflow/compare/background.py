"""What stands around a comparison: what ran along, what left the plan, what was seen and said on the way."""

from __future__ import annotations

import sqlite3
from datetime import datetime
from typing import NamedTuple

from adhaero.core.properties import OwnValue
from adhaero.store import guesses, own_values, shop
from adhaero.store.boards import StoredBoard
from adhaero.store.guesses import Guess
from adhaero.workflow import own_properties, protocol
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare import claims, concluding, confounding, departures
from adhaero.workflow.compare.adherence import against_schedule
from adhaero.workflow.compare.claims import ClaimView
from adhaero.workflow.compare.concluding import CommentView, Said
from adhaero.workflow.compare.departures import Departed


class Background(NamedTuple):
    """What stands around the comparison."""

    along: list[str]
    departed: list[Departed]
    not_noted: list[str]
    claims: list[ClaimView]
    said: list[Said]
    comments: list[CommentView]
    adherence: list[str]
    inspected: list[str]
    guesses: list[Guess]
    own: dict[str, dict[str, OwnValue]]
    boards: dict[str, StoredBoard]
    currency: str


def background(conn: sqlite3.Connection, record: BatchRecord, now: datetime) -> Background:
    """All of it, for a batch."""
    along = [*confounding.along(conn, record), *confounding.ages(record)]
    inspected = [*confounding.inspected(record), *confounding.wetness(record), *confounding.stays(conn, record, now)]
    adherence = against_schedule(conn, record)
    return Background(
        along,
        departures.departed(record),
        [*departures.missing(record), *protocol.missing(record)],
        claims.of_plan(conn, record),
        concluding.standing(conn, record.batch.id),
        concluding.comments(conn, record.batch.id),
        adherence,
        inspected,
        guesses.standing(conn, record.batch.id),
        _own(conn, record),
        own_properties.boards_of(conn, record),
        shop.settings(conn).get("currency", ""),
    )


def _own(conn: sqlite3.Connection, record: BatchRecord) -> dict[str, dict[str, OwnValue]]:
    """The values of the plan's own properties by property id and code of the piece."""
    if not record.plan.properties:
        return {}
    values = own_values.standing(conn, record.batch.id)
    board = own_properties.boards_of(conn, record)
    return {
        p.id: {
            s.code: v
            for s in record.counting
            if (v := own_properties.of_piece(p, values, record, s, b.label if (b := board.get(s.code)) else ""))
            is not None
        }
        for p in record.plan.properties
    }
