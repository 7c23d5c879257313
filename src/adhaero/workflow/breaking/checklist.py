"""The checklist of a session at the rig: ticked for a batch, a set-up and a day; what is not is flagged."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from adhaero.core.breaking.checklist import CHECKED, points
from adhaero.core.refusal import refuse
from adhaero.store import rigs
from adhaero.store.rigs import SetUp
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, moment
from adhaero.workflow.glue.working_hours import day_in_shop
from adhaero.workflow.record_loading import load
from adhaero.workflow.rigs import need_set_up, state


@dataclass(frozen=True)
class Point:
    """One point, and whether it was looked at today under the set-up in use."""

    key: str
    text: str
    ticked: bool


def of_session(conn: sqlite3.Connection, record: BatchRecord, s: SetUp | None, at: datetime) -> list[Point]:
    """The points of a batch under a set-up on the day of a moment; none without a rig. A check weight that was written
    down on that day is its own tick, or none while it is read off.
    """
    if s is None:
        return []
    day = day_in_shop(conn, at)
    now = state(conn, s, record.units)
    read = now.checked_at is not None and day_in_shop(conn, moment(now.checked_at)) == day
    done = rigs.ticks(conn, record.batch.id, s.id, day.isoformat())
    done = (done - {CHECKED} if now.drifted else done | {CHECKED}) if read or now.drifted else done
    own = points(record.method.key, loadless=record.method.loadless)
    return [Point(key, text, key in done) for key, text in own.items()]


def tick(w: AppContext, batch_id: int, keys: Sequence[str], person: str, key: str | None) -> dict[str, Any]:
    """Say that these points are so, for today and the set-up in use."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record, s = load(w, conn, batch_id, action_id), need_set_up(conn).set_up
        own = points(record.method.key, loadless=record.method.loadless)
        if not keys or any(k not in own for k in keys):
            raise refuse("keys", "are no points of this method", "Choose some of: " + ", ".join(own) + ".")
        return {"id": rigs.add_ticks(conn, batch_id, s.id, day_in_shop(conn, w.now()).isoformat(), keys, action_id)}

    act = Act("break", "checklist", f"Looked at {', '.join(keys)}", batch_id, person, key=key, request=f"{keys}")
    return w.perform(act, body)
