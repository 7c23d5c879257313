"""The testing sheet: printed in the order of the plan with its targets and blanks, and typed back afterwards."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time
from typing import Any
from zoneinfo import ZoneInfo

from adhaero.core.breaking import written
from adhaero.core.compare.data import counted
from adhaero.core.observation import Kind, Observation
from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Doubt, Problem, Problems, Refusal, refuse
from adhaero.store import actions
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.breaking.expecting import expected_loads
from adhaero.workflow.breaking.observing import Told, write_down
from adhaero.workflow.breaking.queue import not_ready
from adhaero.workflow.clock_times import clock_time
from adhaero.workflow.context import Act, AppContext
from adhaero.workflow.glue.working_hours import working_hours
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.record_loading import load


@dataclass(frozen=True)
class TestingRow:
    """A piece on the sheet: what it is, the load that is expected of it, in words, and why it should wait, if so."""

    order: int
    code: str
    treatment: str
    label: str
    area_mm2: float
    expected: str
    waits: str


@dataclass(frozen=True)
class TestingSheet:
    """What is still to be broken, in the random order; ``modes`` are the numbers to write for how it gave way."""

    name: str
    loadless: bool
    modes: list[tuple[str, str]]
    rows: list[TestingRow]


@dataclass(frozen=True)
class TestingCells:
    """What stands in the blanks of a piece: a clock time, the load, how it gave way, wood failure in %, a note."""

    code: str
    at: str = ""
    load: str = ""
    mode: str = ""
    wood: str = ""
    note: str = ""


@dataclass(frozen=True)
class TypedTesting:
    """A testing sheet as it is typed back: the day it was begun, and its rows in their order."""

    day: date
    rows: Sequence[TestingCells]
    confirmed: Sequence[str] = ()


def view(w: AppContext, batch_id: int) -> TestingSheet:
    """The sheet of a batch."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        loads = expected_loads(w, conn, record)
    left = sorted((s for s in record.to_break if not record.finished(s)), key=record.place)
    return TestingSheet(
        record.batch.name, record.method.loadless, _modes(record), [_row(w, record, s, loads) for s in left]
    )


def _modes(record: BatchRecord) -> list[tuple[str, str]]:
    return record.method.modes


def _row(w: AppContext, record: BatchRecord, s: Specimen, loads: dict[str, tuple[float, float]]) -> TestingRow:
    t, units = record.treatments[s.treatment_id], record.units
    low, high = loads.get(t.letter, (None, None))
    said = "" if low is None or high is None else (
        f"{units.number(low, Dimension.FORCE, low / 20)} to {units.text(high, Dimension.FORCE, high / 20)}"
    )  # fmt: skip
    waits = not_ready(record, s, w.now())[0] or ""
    return TestingRow(record.place(s), s.code, t.letter, t.label, record.area_mm2(s), said, waits)


def write(w: AppContext, batch_id: int, sheet: TypedTesting, person: str, key: str | None) -> dict[str, Any]:
    """Write the readings that a sheet tells of, all or none; a row counts when it has a load, or, where the method has
    none, how it gave way. Raises ``Doubt`` for all rows that may be a slip at once.
    """

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        zone = ZoneInfo(working_hours(conn).hours.zone)
        p, after, done = Problems(), datetime.combine(sheet.day, time(0, 0), zone), 0
        doubts, said = list[Problem](), list[str]()
        for i, cells in enumerate(sheet.rows):
            if not _says(record, cells, f"rows.{i}", p):
                continue
            try:
                after = clock_time(cells.at, after, zone, f"rows.{i}.at") or after
                piece = find_piece(conn, record, cells.code, f"rows.{i}.code")
                told = _told(w, record, cells, after if cells.at.strip() else None, person, sheet, f"rows.{i}")
                said.append(write_down(conn, record, piece, told, action_id))
                done += 1
            except Doubt as doubt:
                doubts += doubt.problems
            except Refusal as refusal:
                for q in refusal.problems:
                    where = {"low": "load", "high": "load", "low_n": "load", "high_n": "load"}.get(q.field, q.field)
                    p.add(where if where.startswith("rows.") else f"rows.{i}.{where}", q.message, q.remedy)
        p.check(
            bool(done or doubts or p.found), "rows", "no piece has a reading", "Type the loads of those that broke."
        )
        p.raise_if_any()
        if doubts:
            raise Doubt(_together(doubts))
        actions.say(conn, action_id, "; ".join([what, *(s[0].lower() + s[1:] for s in said if s)]))
        return {"pieces": done}

    rows = sum(bool(r.load.strip() or r.mode.strip()) for r in sheet.rows)
    what = f"Typed the testing sheet back: {counted(rows, 'piece')}"
    return w.perform(Act("break", "observe", what, batch_id, person, key=key, request=repr(sheet)), body)


def _together(doubts: list[Problem]) -> list[Problem]:
    """Each kind of doubt once: with the first piece, and how many more there are."""
    kinds: dict[str, list[Problem]] = {}
    for d in doubts:
        kinds.setdefault(d.field, []).append(d)
    more = {k: f", and {counted(len(own) - 1, 'more such piece')}" if len(own) > 1 else "" for k, own in kinds.items()}
    return [Problem(k, own[0].message + more[k], own[0].remedy) for k, own in kinds.items()]


def _says(record: BatchRecord, cells: TestingCells, at: str, p: Problems) -> bool:
    """Whether a row counts; what stands in one that does not is pointed out."""
    if cells.load.strip() or (record.method.loadless and cells.mode.strip()):
        return True
    said = any(x.strip() for x in (cells.at, cells.mode, cells.wood, cells.note))
    field, what = ("mode", "how it gave way") if record.method.loadless else ("load", "no load")
    missing = f"{cells.code} does not say {what}" if record.method.loadless else f"{cells.code} has {what}"
    p.check(not said, f"{at}.{field}", missing, "Type it, or leave its row empty.")
    return False


def _told(
    w: AppContext,
    record: BatchRecord,
    cells: TestingCells,
    at: datetime | None,
    person: str,
    sheet: TypedTesting,
    field: str,
) -> Told:
    kind, low, high = written.reading(cells.load) if cells.load.strip() else (Kind.SEEN, "", "")
    o = Observation(kind, failure_mode=written.mode(cells.mode, _modes(record), f"{field}.mode"),
                    wood_failure_pct=_wood(cells.wood, f"{field}.wood"), note=cells.note.strip()[:2000])  # fmt: skip
    when = at or w.now()
    if when > w.now():
        raise refuse(f"{field}.at", "that lies in the future", "Check the day that the sheet was begun on.")
    return Told(o, "typed", person, when, typed=(low, high), confirmed=sheet.confirmed)


def _wood(text: str, field: str) -> float | None:
    clean = text.strip().removesuffix("%").strip().replace(",", ".")
    if not clean:
        return None
    try:
        return float(clean)
    except ValueError:
        raise refuse(field, f"{text.strip()[:20]!r} is no share", "Write 0 to 100.") from None
