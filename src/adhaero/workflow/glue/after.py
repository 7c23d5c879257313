"""After the glue-up: clamps off, into and out of conditioning, and what is told of joints beside their times.

Each has a part that works inside an action (for taps at the bench) and one that is an action of its own.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from adhaero.core.glue import joint_records
from adhaero.core.refusal import Doubts, refuse
from adhaero.core.times import span
from adhaero.core.tolerances import width_of
from adhaero.store import glueups
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, iso, moment
from adhaero.workflow.piece_finding import find_pieces
from adhaero.workflow.record_loading import load

IN, OUT = "in", "out"
CLAMPS_EARLY = "clamps early"


def unclamped(
    conn: sqlite3.Connection, record: BatchRecord, codes: Sequence[str], at: datetime, note: str, action_id: int,
    doubts: Doubts | None = None,
) -> int:  # fmt: skip
    """Take joints out of their clamps; returns how many. With ``doubts``, clamps that come off long before their time
    are asked about.
    """
    pieces = find_pieces(conn, record, codes)
    for i, s in enumerate(pieces):
        if record.members.get(s.id) is None:
            raise refuse(f"codes.{i}", f"{s.code} is in no clamp", "Glue it first.")
        if s.id in record.unclamped:
            raise refuse(f"codes.{i}", f"{s.code} is already out of its clamps", "Leave it out.")
        if at < record.pressed_at(s):
            raise refuse("at", f"{s.code} was glued later than that", "Type when the clamps came off.")
    early = [s for s in pieces if _is_early(record, s, at)]
    if doubts is not None and early:
        least = min(record.pressed_at(s) + timedelta(seconds=s.clamp_s or 0) - at for s in early)
        message = (
            f"{len(early)} of {len(pieces)} joints have {span(least.total_seconds())} or more of their clamp time left"
        )
        remedy = "Leave the clamps on. If you take them off now, the pieces will be flagged."
        doubts.ask(CLAMPS_EARLY, message, remedy)
        doubts.raise_if_any()
    glueups.add_events(conn, [s.id for s in pieces], "unclamped", iso(at), note, action_id)
    return len(pieces)


def _is_early(record: BatchRecord, s: Specimen, at: datetime) -> bool:
    """Whether a joint leaves its clamp so early that the time is no longer the one that was planned."""
    wanted = s.clamp_s or 0.0
    width = width_of("clamp_s", wanted, record.plan.tolerances) or 0.0
    return wanted > 0 and (at - record.pressed_at(s)).total_seconds() < wanted - width


def conditioned(
    conn: sqlite3.Connection, record: BatchRecord, codes: Sequence[str], way: str, at: datetime, action_id: int
) -> int:
    """Put joints into their conditioning, or take them out of it; returns how many."""
    if way not in (IN, OUT):
        raise refuse("way", f"{way[:20]!r} is no way", "Use in or out.")
    pieces = find_pieces(conn, record, codes)
    for i, s in enumerate(pieces):
        field = f"codes.{i}"
        if not record.conditioning(s)[0]:
            raise refuse(field, f"{s.code} is not to be conditioned", "Leave it out.")
        if s.id not in record.members or record.is_held(s):
            raise refuse(field, f"{s.code} is not out of its clamps yet", "Take it out of them first.")
        if (s.id, way) in record.conditioned:
            raise refuse(field, f"{s.code} is {way} already", "Leave it out.")
        begun = record.conditioned.get((s.id, IN))
        if way == OUT and (begun is None or at < moment(begun.at)):
            raise refuse(field, f"{s.code} was not in its conditioning then", "Put it in first.")
    glueups.add_events(conn, [s.id for s in pieces], "conditioned", iso(at), "", action_id, {"way": way})
    return len(pieces)


@dataclass(frozen=True)
class JointRecord:
    """Something told of joints: a kind of core.glue.joint_records with its value."""

    kind: str
    codes: tuple[str, ...]
    value: dict[str, Any]
    note: str = ""


def tell(conn: sqlite3.Connection, record: BatchRecord, t: JointRecord, at: datetime, action_id: int) -> int:
    """Write down what is told of joints; a later one of the kind holds, except for those that stand side by side."""
    value = joint_records.check(t.kind, t.value)
    pieces = find_pieces(conn, record, t.codes)
    for i, s in enumerate(pieces):
        if s.id not in record.members:
            raise refuse(f"codes.{i}", f"{s.code} is not glued yet", "Glue it first.")
        seen = record.observed.get(s.id)
        if seen is not None and t.kind not in joint_records.OF_THE_BREAK and at >= moment(seen.at):
            # A note on paper may come a week late: then it needs the time when it was made.
            raise refuse("at", f"{s.code} was already broken then", "If the note is older, fill in when it was made.")
        if at < record.pressed_at(s) - timedelta(hours=1):
            raise refuse("at", f"{s.code} was glued later than that", "Type when it was.")
    glueups.add_events(conn, [s.id for s in pieces], t.kind, iso(at), t.note, action_id, value)
    return len(pieces)


def _when(w: AppContext, at: datetime | None, remedy: str) -> datetime:
    when = at or w.now()
    if when > w.now() + timedelta(minutes=5):
        raise refuse("at", "that lies in the future", remedy)
    return when


def _perform(
    w: AppContext, batch_id: int, about: tuple[str, str], person: str, key: str | None, request: str,
    work: Callable[[sqlite3.Connection, BatchRecord, int], int],
) -> dict[str, Any]:  # fmt: skip
    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        return {"pieces": work(conn, load(w, conn, batch_id, action_id), action_id)}

    kind, summary = about
    return w.perform(Act("glue", kind, summary, batch_id, person, key=key, request=request), body)


def unclamp(
    w: AppContext, batch_id: int, codes: Sequence[str], at: datetime | None, note: str, person: str, key: str | None,
    confirmed: Sequence[str] = (),
) -> dict[str, Any]:  # fmt: skip
    """Take joints out of their clamps, now or at a time stated. Raises ``Doubt`` where that is long before their
    time.
    """
    when = _when(w, at, "Type when the clamps came off.")
    about, asked = ("unclamp", f"Unclamped {len(codes)} joints"), Doubts(confirmed)
    return _perform(w, batch_id, about, person, key, f"{list(codes)}{at}{note}",
                    lambda conn, record, a: unclamped(conn, record, codes, when, note, a, asked))  # fmt: skip


def condition(
    w: AppContext, batch_id: int, codes: Sequence[str], way: str, at: datetime | None, person: str, key: str | None
) -> dict[str, Any]:
    """Put joints into their conditioning (``in``), or take them out (``out``), now or at a time stated."""
    when = _when(w, at, "Type when it was.")
    about = "condition", f"{'Put into' if way == IN else 'Took out of'} conditioning: {len(codes)} joints"
    return _perform(w, batch_id, about, person, key, f"{way}{list(codes)}{at}",
                    lambda conn, record, a: conditioned(conn, record, codes, way, when, a))  # fmt: skip


def tell_of(
    w: AppContext, batch_id: int, t: JointRecord, at: datetime | None, person: str, key: str | None
) -> dict[str, Any]:
    """Tell something of joints, now or for a time stated."""
    when = _when(w, at, "Type when it was.")
    known = joint_records.KINDS.get(t.kind)
    about = "told", f"{known.name if known else t.kind[:20]}: {len(t.codes)} joints"
    return _perform(w, batch_id, about, person, key, f"{t}{at}",
                    lambda conn, record, a: tell(conn, record, t, when, a))  # fmt: skip
