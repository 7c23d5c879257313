"""Marks on the curve of a pull: where the machine put them, where a person did, and what follows."""

from __future__ import annotations

import csv
import io
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from adhaero.core.breaking.proposal import Proposal
from adhaero.core.breaking.trace import MARKS, PEAK, Course, moved, thin
from adhaero.core.observation import Kind
from adhaero.core.refusal import refuse
from adhaero.store import curves, glueups, observations, pulls
from adhaero.store.pulls import Pull
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import MARKS_EVENT, BatchRecord
from adhaero.workflow.context import Act, AppContext, NotFound
from adhaero.workflow.courses import course_of, moved_on
from adhaero.workflow.record_loading import load

MOST_POINTS = 1500


@dataclass(frozen=True)
class Curve:
    """A pull's curve, zero-corrected: (s, N), and (mm, N) where the travel is known. ``proposal`` is what the machine
    made of it, ``course`` what stands: with the marks where a person put them, ``by_hand``.
    """

    pull_id: int
    state: str
    points: list[tuple[float, float]]
    travelled: list[tuple[float, float]]
    proposal: Proposal | None
    course: Course | None
    by_hand: list[str]
    tare_n: float
    mark_names: dict[str, str]
    pace_missed: str


def _batch_of(conn: sqlite3.Connection, pull_id: int) -> tuple[Pull, int]:
    found = pulls.pull(conn, pull_id)
    batch_id = pulls.batch_of(conn, pull_id) if found is not None else None
    if found is None or batch_id is None:
        raise NotFound(f"There is no pull {pull_id}.")
    return found, batch_id


def curve(w: AppContext, pull_id: int) -> Curve:
    """The curve of a pull, thinned for drawing so that no peak is lost."""
    with w.db.read() as conn:
        found, batch_id = _batch_of(conn, pull_id)
        record = load(w, conn, batch_id)
        # A long pull is thinned piece by piece: it need not fit into memory as a whole.
        parts = [thin(rows, MOST_POINTS // 4) for rows in curves.chunks(conn, pull_id)]
    rows = thin(np.concatenate(parts), MOST_POINTS) if parts else np.empty((0, 3))
    zero = found.proposal.zero_n if found.proposal else 0.0
    known = len(rows) > 0 and bool(np.isfinite(rows[:, 2]).all())
    course = course_of(record, pull_id, found.proposal)
    set_up = record.set_ups.get(found.setup_id)
    pace = record.plan.pace
    return Curve(
        pull_id,
        found.state,
        [(round(t, 4), round(f - zero, 3)) for t, f, _ in rows.tolist()],
        [(round(x, 4), round(f - zero, 3)) for _, f, x in rows.tolist()] if known else [],
        found.proposal,
        course,
        moved_on(record, pull_id),
        set_up.instrument.carried_n if set_up else 0.0,
        MARKS,
        pace.missed(course.figures) if pace is not None and course is not None else "",
    )


def trace_csv(w: AppContext, pull_id: int) -> tuple[str, str]:
    """The raw signal of a pull as a file, as it came in: (name, text)."""
    with w.db.read() as conn:
        found, batch_id = _batch_of(conn, pull_id)
        code = next(s.code for s in load(w, conn, batch_id).pieces if s.id == found.specimen_id)
        rows = curves.curve(conn, pull_id)
    zero = found.proposal.zero_n if found.proposal else 0.0
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["time [s]", "load [N]", "travel [mm]", "raw [N]"])
    for t, force, travel in rows.tolist():
        writer.writerow([f"{t:.4f}", f"{force - zero:.3f}", "" if travel != travel else f"{travel:.4f}", repr(force)])
    return f"{code}-pull-{found.number}.csv", out.getvalue()


def move(w: AppContext, pull_id: int, to: Mapping[str, float], person: str, key: str | None) -> dict[str, Any]:
    """Put marks of a curve elsewhere (key -> s); what the machine proposed stays beside it. A reading that took its
    load from the peak follows it. Returns the piece's code.
    """
    with w.db.read() as conn:
        found, batch_id = _batch_of(conn, pull_id)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = next(s for s in record.pieces if s.id == found.specimen_id)
        course = course_of(record, pull_id, found.proposal)
        if course is None or found.proposal is None:
            raise refuse("pull", "this pull shows no load to mark", "Pull again, or type the load.")
        for mark, s in to.items():
            if mark not in MARKS:
                raise refuse(f"marks.{mark[:30]}", "is no mark", "Use one of: " + ", ".join(MARKS) + ".")
            if not 0 <= s <= found.proposal.reading.seconds:
                raise refuse(f"marks.{mark}", f"{s:g} s is not on this curve", "Put it between its two ends.")
        new = moved(curves.curve(conn, pull_id), found.proposal.reading, course, to)
        _in_order(new)
        value = {"pull": pull_id, "course": new.to_json()}
        glueups.add_events(conn, [piece.id], MARKS_EVENT, w.stamp(), "", action_id, value)
        if PEAK in to:
            _follow(conn, record, piece, pull_id, new, action_id)
        return {"code": piece.code}

    names = ", ".join(MARKS.get(k, k) for k in to)
    act = Act("break", "marks", f"Moved marks of a curve: {names}", batch_id, person, key=key,
              request=f"{pull_id}{sorted(to.items())}")  # fmt: skip
    return w.perform(act, body)


def _in_order(c: Course) -> None:
    """Raise ``Refusal`` for a straight part that ends before it begins, and a peak before the load."""
    for first, then in (("straight_from", "straight_to"), ("start", PEAK)):
        if first in c.marks and then in c.marks and c.marks[first].s >= c.marks[then].s:
            raise refuse(f"marks.{first}", f"lies after “{MARKS[then]}”", "Put it before that one.")


def _follow(
    conn: sqlite3.Connection, record: BatchRecord, piece: Specimen, pull_id: int, c: Course, action_id: int
) -> None:
    """Let the reading that took its load from this pull follow the peak, whichever loading of the piece it is of."""
    own = record.loadings.get(piece.id) or tuple(o for o in (record.observed.get(piece.id),) if o is not None)
    seen = next((o for o in own if o.pull_id == pull_id and o.source == "rig"), None)
    if seen is None:
        return
    set_up = record.set_ups.get(seen.setup_id) if seen.setup_id is not None else None
    load_n = round(c.marks[PEAK].load_n + (set_up.instrument.carried_n if set_up else 0.0), 3)
    o = seen.observation
    high = load_n if o.kind is Kind.EXACT else o.high_n
    if o.kind is Kind.BETWEEN and o.low_n is not None and o.high_n is not None:
        # What may have gone unseen above the peak moves with it.
        high = load_n + o.high_n - o.low_n
    observations.add(conn, replace(seen, observation=replace(o, low_n=load_n, high_n=high)), action_id)
