"""The bench sheet: printed with its targets and blanks, and typed back in the same order when the evening is over."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from adhaero.core.compare.data import counted
from adhaero.core.glue.clamping import force_n
from adhaero.core.glue.pressing import CLAMPLESS, PRESSED
from adhaero.core.quantity import Dimension, parse
from adhaero.core.refusal import Problems, Refusal, refuse
from adhaero.store import clamps, glueups
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.clock_times import clock_time
from adhaero.workflow.context import Act, AppContext, iso, moment
from adhaero.workflow.glue.demand import unglued
from adhaero.workflow.glue.glueup_entry import OTHER_GLUE, NewGlueup, check_new, write_glueup
from adhaero.workflow.glue.working_hours import working_hours
from adhaero.workflow.piece_finding import find_unit
from adhaero.workflow.record_loading import load


@dataclass(frozen=True)
class SheetRow:
    """A joint on the bench sheet with what is wanted of it; ``run`` is 0 without a schedule."""

    run: int
    code: str
    treatment: str
    label: str
    glue: str
    wanted: str
    begins_at: str | None


@dataclass(frozen=True)
class BenchSheet:
    """The joints that wait for glue, in the order in which they are to be glued."""

    name: str
    rows: list[SheetRow]


def view(w: AppContext, batch_id: int) -> BenchSheet:
    """The sheet of a batch: by its schedule, else in the random order."""
    with w.db.read() as conn:
        record, kept = load(w, conn, batch_id), clamps.schedule(conn, batch_id)
    waiting = {record.unit_code(own[0]): own[0] for own in record.as_units(unglued(record))}
    slots = [s for s in kept.document["slots"] if s["kind"] == "glue"] if kept else []
    start = moment(kept.document["start"]) if kept else w.now()
    rows: list[SheetRow] = []
    for slot in slots:
        at = iso(start + timedelta(seconds=slot["start_s"]))
        rows += [_row(record, waiting.pop(c), slot["run"] + 1, at) for c in slot["codes"] if c in waiting]
    rest = sorted(waiting.values(), key=lambda s: s.glue_order)
    return BenchSheet(record.batch.name, [*rows, *(_row(record, s, 0, None) for s in rest)])


def _row(record: BatchRecord, s: Specimen, run: int, at: str | None) -> SheetRow:
    t, means = record.treatments[s.treatment_id], record.pressed_by(s)
    wanted = PRESSED.get(means, "")
    if means not in CLAMPLESS and s.pressure_mpa is not None:
        wanted = record.units.text(force_n(s.pressure_mpa, record.pressed_mm2(s)), Dimension.FORCE)
    return SheetRow(run, record.unit_code(s), t.letter, t.label, s.glue, wanted, at)


@dataclass(frozen=True)
class SheetCells:
    """What stands in the blanks of a joint: clock times, the force read, a note; empty where nothing was written."""

    code: str
    run: int = 0
    spread: str = ""
    closed: str = ""
    off: str = ""
    force: str = ""
    note: str = ""


@dataclass(frozen=True)
class TypedSheet:
    """A bench sheet as it is typed back: the day it was begun, what holds for all, and its rows in their order."""

    day: date
    bottle: str
    air_c: float | None
    humidity_pct: float | None
    rows: Sequence[SheetCells]


@dataclass(frozen=True)
class _Read:
    """A row with its times read."""

    cells: SheetCells
    joint: Specimen
    spread: datetime | None
    closed: datetime
    off: datetime | None
    force_n: float | None


def write(w: AppContext, batch_id: int, sheet: TypedSheet, person: str, key: str | None) -> dict[str, Any]:
    """Write the glue-ups that a sheet tells of, all or none: joints of one run, glue and level that is one for a whole
    glue-up are one. A row counts when its joint was closed.
    """

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        zone = ZoneInfo(working_hours(conn).hours.zone)
        read = _read_all(w, conn, record, sheet, zone)
        groups: dict[tuple[object, ...], list[_Read]] = {}
        for r in read:
            groups.setdefault(
                (r.cells.run, r.joint.glue, record.apart(r.joint), record.pressed_by(r.joint)), []
            ).append(r)
        for own in groups.values():
            _one(w, conn, record, sheet, own, person, action_id)
        return {"pieces": sum(len(record.as_one(r.joint)) for r in read)}

    what = f"Typed the bench sheet back: {counted(sum(bool(r.closed.strip()) for r in sheet.rows), 'joint')}"
    return w.perform(Act("glue", "glue-up", what, batch_id, person, key=key, request=repr(sheet)), body)


def _read_all(
    w: AppContext, conn: sqlite3.Connection, record: BatchRecord, sheet: TypedSheet, zone: ZoneInfo
) -> list[_Read]:
    p, found = Problems(), []
    after = datetime.combine(sheet.day, time(0, 0), zone)
    for i, cells in enumerate(sheet.rows):
        if not cells.closed.strip():
            said = any(x.strip() for x in (cells.spread, cells.off, cells.force))
            p.check(not said, f"rows.{i}.closed", f"{cells.code} was not closed", "Type when, or leave its row empty.")
            continue
        try:
            joint = find_unit(conn, record, cells.code, f"rows.{i}.code")[0]
            # The clock goes on from joint to joint: past midnight it is the next day.
            spread = clock_time(cells.spread, after, zone, f"rows.{i}.spread")
            closed = clock_time(cells.closed, spread or after, zone, f"rows.{i}.closed")
            assert closed is not None
            off = clock_time(cells.off, closed, zone, f"rows.{i}.off")
            force = _force(record, cells.force, f"rows.{i}.force")
            after = spread or closed
            found.append(_Read(cells, joint, spread, closed, off, force))
        except Refusal as refusal:
            p.take(refusal)
    p.check(bool(found) or bool(p.found), "rows", "no joint was closed", "Type the closing times of those that were.")
    p.raise_if_any()
    return found


def _force(record: BatchRecord, text: str, field: str) -> float | None:
    """A force as written, N; a bare number is in the shop's own unit."""
    if not text.strip():
        return None
    try:
        return parse(text, Dimension.FORCE, record.units.symbol(Dimension.FORCE)).base
    except Refusal as refusal:
        raise refuse(field, refusal.problems[0].message, refusal.problems[0].remedy) from refusal


def _one(
    w: AppContext, conn: sqlite3.Connection, record: BatchRecord, sheet: TypedSheet, own: Sequence[_Read], person: str,
    action_id: int,
) -> None:  # fmt: skip
    begun = min(r.spread or r.closed for r in own).astimezone(UTC)
    means = record.pressed_by(own[0].joint)
    new = NewGlueup(
        codes=[r.cells.code for r in own], person=person, started_at=begun, air_c=sheet.air_c,
        humidity_pct=sheet.humidity_pct, bottle=sheet.bottle, force_n=None, clamps=1, force_known="unknown",
        spread_g_m2=None, faces="one", note="", pressed_by=means,
        ended_at=None, closed_at={r.cells.code: r.closed for r in own},
        # A sheet tells what was done long ago: it is flagged, not asked about.
        confirmed=(OTHER_GLUE,),
    )  # fmt: skip
    check_new(new, w.now())
    write_glueup(w, conn, record, new, action_id)
    for r in own:
        ids = [s.id for s in record.as_one(r.joint)]
        for kind, at in (("spread", r.spread), ("unclamped", r.off)):
            if at is not None:
                glueups.add_events(conn, ids, kind, iso(at), "", action_id)
        if r.force_n is not None:
            glueups.add_events(conn, ids, "force", iso(r.closed), "", action_id, {"force_n": r.force_n})
        if r.cells.note.strip():
            glueups.add_events(conn, ids, "note", iso(r.closed), r.cells.note.strip()[:300], action_id)
