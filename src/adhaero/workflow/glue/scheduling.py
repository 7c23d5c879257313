"""The schedule of a batch's gluing: made at once, improved in the background, checked before it is shown, kept."""

from __future__ import annotations

import sqlite3
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from adhaero.core.glue.schedule.checker import check
from adhaero.core.glue.schedule.compose import BLOCKS, LOADS
from adhaero.core.glue.schedule.explain import Reason, Remedy, explain
from adhaero.core.glue.schedule.greedy import Starts, first_schedule, worth
from adhaero.core.glue.schedule.improve import improve
from adhaero.core.glue.schedule.problem import Problem
from adhaero.core.glue.schedule.timetable import Course, Slot, Timetable
from adhaero.core.glue.schedule.timing import Chain
from adhaero.core.refusal import refuse
from adhaero.formats import ical
from adhaero.store import clamps as store
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.adherence import against_schedule
from adhaero.workflow.context import Act, AppContext, iso, moment
from adhaero.workflow.exchange import file_name
from adhaero.workflow.glue.allowing import Allowed, kept, lasting
from adhaero.workflow.glue.alone import glued_alone
from adhaero.workflow.glue.demand import FREE, Demand, OtherTask, clamp_labels, demand, others_at_work, unglued
from adhaero.workflow.glue.working_hours import working_hours
from adhaero.workflow.record_loading import load

STYLES = (BLOCKS, LOADS)
IMPROVE_S = 35.0


@dataclass(frozen=True)
class SlotView:
    """A task at its time; ``run`` counts from 1, and is 0 for what joints already glued still need."""

    kind: str
    run: int
    start: str
    end: str
    codes: list[str]
    done: bool


@dataclass(frozen=True)
class LaneView:
    """One clamp in use: the letters of the treatments in it."""

    clamp: str
    number: int
    run: int
    start: str
    end: str
    letters: list[str]


@dataclass(frozen=True)
class OtherView:
    """A task of another batch on the same bench."""

    batch: str
    kind: str
    start: str
    end: str


@dataclass(frozen=True)
class Trade:
    """What a way of composing runs comes to."""

    style: str
    finish: str
    visits: int
    runs: int
    unplaced: int


@dataclass(frozen=True)
class Schedule:
    """The schedule that stands. ``stale``: what it was made for has changed since."""

    start: str
    style: str
    slots: list[SlotView]
    lanes: list[LaneView]
    others: list[OtherView]
    hours: list[tuple[str, str]]
    finish: str
    visits: int
    uneven: float
    proved: bool
    unplaced: list[str]
    reasons: list[Reason]
    allowed: list[Allowed]
    late: list[str]
    alone: list[str]
    stale: bool


@dataclass(frozen=True)
class Sought:
    """How far a search is: which share of its time is over, and what the best schedule so far comes to."""

    share: float
    finish: str
    visits: int


@dataclass(frozen=True)
class ScheduleView:
    """What can be scheduled, the schedule, and how a search for a better one goes."""

    batch_id: int
    waiting: int
    clamps: int
    zone: str
    schedule: Schedule | None
    trades: list[Trade]
    seeking: bool
    found: int
    progress: Sought | None
    adherence: list[str]


@dataclass
class _Search:
    """A search for a better schedule, in a thread of its own."""

    start: datetime
    begun: float
    seconds: float
    best: Timetable
    go: bool = True
    running: bool = True
    found: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)
    thread: threading.Thread | None = None


END_S = 10.0
"""How long a search may take to notice that nobody wants it any more."""
_SEARCHES: dict[tuple[int, int], _Search] = {}


def document(
    d: Demand, table: Timetable, style: str, reasons: list[Reason], trades: list[Trade], *, proved: bool
) -> dict[str, Any]:
    """A schedule as it is stored; ``d`` holds what was allowed."""
    wanted = {c.code for c in table.courses} | set(table.unplaced)
    slots = sorted((*d.follow_up, *table.slots), key=lambda s: s.start_s)
    return {
        "start": iso(d.start), "style": style, "proved": proved, "late": list(d.late),
        "slots": [asdict(s) for s in slots], "courses": [asdict(c) for c in table.courses],
        "unplaced": list(table.unplaced), "finish_s": table.finish_s, "visits": table.visits, "uneven": table.spread,
        "hours": [list(h) for h in d.problem.hours if h[0] <= table.finish_s], "reasons": [asdict(r) for r in reasons],
        "trades": [asdict(t) for t in trades], "wanted": sorted(wanted),
        "allowed": [asdict(a) for a in d.allowed],
    }  # fmt: skip


def make(
    w: AppContext, batch_id: int, style: str, start: datetime | None, person: str, key: str | None, *,
    seek: bool = True, seconds: float = IMPROVE_S, allowed: list[Allowed] | None = None,
) -> dict[str, Any]:  # fmt: skip
    """A schedule for all that is not glued yet, from ``start`` (or now) on. A better one is sought afterwards.

    ``allowed`` widens what is asked for; without it, what was allowed for the schedule before still is.
    """
    if style not in STYLES:
        raise refuse("style", f"{style[:20]!r} is no way to compose runs", "Choose blocks or loads.")
    begin = max(start or w.now(), w.now()).astimezone(UTC).replace(second=0, microsecond=0)
    first: list[_Made] = []

    def prepare(conn: sqlite3.Connection) -> _Made:
        d = demand(conn, load(w, conn, batch_id), begin, allowed=allowed)
        return _first(d, style, w.new_seed())

    def write(conn: sqlite3.Connection, action_id: int, m: _Made) -> dict[str, Any]:
        made = document(m.demand, m.table, style, m.reasons, m.trades, proved=False)
        store.add_schedule(conn, batch_id, made, w.stamp(), action_id)
        first.append(m)
        return {"pieces": len(m.table.courses)}

    act = Act("glue", "schedule", "Scheduled the gluing", batch_id, person, key=key, request=f"{style}{start}{allowed}")
    stop(w, batch_id)
    answer = w.perform_prepared(act, prepare, write)
    if first and seek and first[0].table.courses:
        m = first[0]
        _seek(w, batch_id, style, person, m.demand, m.chains, m.starts, m.table, seconds=seconds)
    return answer


@dataclass(frozen=True)
class _Made:
    """A first schedule with what it was made from, and what came of the other way of composing."""

    demand: Demand
    chains: list[Chain]
    starts: Starts
    table: Timetable
    reasons: list[Reason]
    trades: list[Trade]


def _first(d: Demand, style: str, seed: int) -> _Made:
    if not d.problem.joints and not d.follow_up:
        raise refuse("batch", "nothing is left to glue or to break", "Begin another batch, or amend the plan.")
    if d.problem.joints and not d.problem.clamps:
        raise refuse(
            "clamps", "there is no clamp in the shop", "Say under Shop what presses: clamps, weights, a press."
        )
    made = {s: first_schedule(d.problem, s, seed) for s in STYLES}
    chains, starts, table = made[style]
    refuse_wrong(d.problem, table)
    reasons = [lasting(r, d.start) for r in explain(d.problem, table, clock(d), d.units)] if table.unplaced else []
    trades = [
        Trade(s, iso(d.start + timedelta(seconds=t.finish_s)), t.visits, len(c), len(t.unplaced))
        for s, (c, _, t) in made.items()
    ]
    return _Made(d, chains, starts, table, reasons, trades)


def refuse_wrong(problem: Problem, table: Timetable) -> None:
    """A schedule that breaks a rule is a fault of the program, and is never shown."""
    wrong = check(problem, table)
    if wrong:
        raise RuntimeError(f"the schedule breaks a rule: {wrong[0].text}")


def clock(d: Demand) -> Callable[[int], str]:
    """How a moment of the schedule is called in the user's own time."""
    zone = ZoneInfo(d.working_hours.hours.zone)
    return lambda s: (d.start + timedelta(seconds=s)).astimezone(zone).strftime("%a %H:%M")


def _seek(
    w: AppContext, batch_id: int, style: str, person: str, d: Demand, chains: list[Chain], starts: Starts,
    table: Timetable, *, seconds: float,
) -> None:  # fmt: skip
    search = _Search(d.start, time.monotonic(), seconds, table)
    _SEARCHES[id(w), batch_id] = search

    def tell(found: Timetable, _proved: bool) -> bool:
        search.best = min(search.best, found, key=worth)
        return search.go

    def work() -> None:
        try:
            better = improve(d.problem, chains, starts, 1, seconds, tell)
            with search.lock:
                good = worth(better.table) < worth(table) or better.table.visits < table.visits or better.proved
                if good and not check(d.problem, better.table):
                    _keep(w, batch_id, style, person, d, better.table, proved=better.proved)
                    search.found += 1
        finally:
            search.running = False

    search.thread = threading.Thread(target=work, name=f"schedule {batch_id}", daemon=True)
    search.thread.start()


def _keep(w: AppContext, batch_id: int, style: str, person: str, d: Demand, table: Timetable, *, proved: bool) -> None:
    """Write the better schedule, unless the one it came from no longer stands."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        old = store.schedule(conn, batch_id)
        if old is None or old.document["start"] != iso(d.start) or old.document["style"] != style:
            raise refuse("schedule", "another schedule was made meanwhile", "Nothing was changed.")
        reasons = [reason(r) for r in old.document["reasons"]]
        trades = [Trade(**t) for t in old.document["trades"]]
        store.add_schedule(
            conn, batch_id, document(d, table, style, reasons, trades, proved=proved), w.stamp(), action_id
        )
        return {}

    try:
        w.perform(Act("glue", "schedule", "Found a better schedule", batch_id, person), body)
    except Exception:
        return


def stop(w: AppContext, batch_id: int) -> None:
    """End the search for a better schedule; what it has found so far is kept."""
    search = _SEARCHES.get((id(w), batch_id))
    if search is not None:
        search.go = False


def end_all(w: AppContext) -> None:
    """End every search of a workshop that closes: a solver that is still at work would bring the program down."""
    own = [key for key in _SEARCHES if key[0] == id(w)]
    for search in [_SEARCHES.pop(key) for key in own]:
        search.go = False
        if search.thread is not None:
            search.thread.join(END_S)


def view(w: AppContext, batch_id: int) -> ScheduleView:
    """The schedule of a batch and what there is to schedule."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        stored, kinds = store.schedule(conn, batch_id), store.clamps(conn)
        zone = working_hours(conn).hours.zone
        lateness = against_schedule(conn, record)
        others = others_at_work(conn, batch_id, moment(stored.document["start"]))[0] if stored else []
    waiting = {record.unit_code(s) for s in unglued(record)}
    search = _SEARCHES.get((id(w), batch_id))
    return ScheduleView(
        batch_id=batch_id,
        waiting=len(waiting),
        clamps=sum(c.count for c in kinds),
        zone=zone,
        schedule=_shown(record, stored.document, waiting, clamp_labels(kinds), others) if stored else None,
        trades=[Trade(**t) for t in stored.document["trades"]] if stored else [],
        seeking=search.running if search else False,
        found=search.found if search else 0,
        progress=_progress(search) if search and search.running else None,
        adherence=lateness,
    )


def _progress(search: _Search) -> Sought:
    best = search.best
    share = min(1.0, (time.monotonic() - search.begun) / search.seconds)
    return Sought(share, iso(search.start + timedelta(seconds=best.finish_s)), best.visits)


def _shown(
    record: BatchRecord, d: dict[str, Any], waiting: set[str], labels: dict[str, str], others: Sequence[OtherTask]
) -> Schedule:
    start = moment(d["start"])

    def at(seconds: int) -> str:
        return iso(start + timedelta(seconds=seconds))

    letter = {record.unit_code(s): record.treatments[s.treatment_id].letter for s in record.pieces}
    courses = [Course(**c) for c in d["courses"]]
    lanes: dict[tuple[str, int, int], list[Course]] = {}
    for c in courses:
        for number in () if c.clamp.startswith(FREE) else (c.number, *c.also):
            lanes.setdefault((c.clamp, number, c.run), []).append(c)
    slots = [Slot(**{**s, "codes": tuple(s["codes"])}) for s in d["slots"]]
    return Schedule(
        start=d["start"],
        style=d["style"],
        slots=[SlotView(s.kind, s.run + 1, at(s.start_s), at(s.end_s), list(s.codes), _done(record, s)) for s in slots],
        lanes=[
            LaneView(labels.get(k, "a clamp that is gone"), n, run + 1, at(own[0].mixed_s), at(own[0].released_s),
                     sorted({letter.get(c.code, "?") for c in own}))
            for (k, n, run), own in sorted(lanes.items(), key=lambda x: (labels.get(x[0][0], ""), x[0][1], x[0][2]))
        ],
        others=[OtherView(o.batch, o.kind, at(o.start_s), at(o.end_s)) for o in others],
        hours=[(at(a), at(b)) for a, b in d["hours"]],
        finish=at(d["finish_s"]),
        visits=d["visits"],
        uneven=d["uneven"],
        proved=d["proved"],
        unplaced=d["unplaced"],
        reasons=[reason(r) for r in d["reasons"]],
        allowed=kept(d),
        late=d["late"],
        alone=glued_alone(record, {c.code: c.mixed_s for c in courses}, d["hours"]),
        stale=not waiting <= set(d["wanted"]),
    )  # fmt: skip


def reason(r: dict[str, Any]) -> Reason:
    """A reason as it is stored -> as it is shown."""
    return Reason(tuple(r["codes"]), r["text"], tuple(Remedy(**x) for x in r["remedies"]), r["proved"])


def _done(record: BatchRecord, s: Slot) -> bool:
    """Whether what the task is for has happened to all of its joints."""
    pieces = [p for c in s.codes for p in record.of_code(c)]
    ids, gone = [p.id for p in pieces], {p.id for p in pieces if record.finished(p)}
    if s.kind == "glue":
        return all(i in record.members for i in ids)
    if s.kind in ("soak", "take out"):
        way = "in" if s.kind == "soak" else "out"
        return all((i, way) in record.conditioned or i in gone for i in ids)
    return all(i in (record.unclamped if s.kind == "unclamp" else gone) for i in ids)


_TITLES = {
    "glue": "Glue",
    "unclamp": "Take off the clamps of",
    "soak": "Into conditioning:",
    "take out": "Out of conditioning:",
    "break": "Break",
}


def calendar(w: AppContext, batch_id: int) -> tuple[str, bytes]:
    """(file name, iCalendar file) of the schedule that stands."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
    found = view(w, batch_id).schedule
    if found is None:
        raise refuse("schedule", "nothing is scheduled yet", "Make a schedule first.")
    entries = [
        ical.Entry(
            f"{batch_id}-{s.run}-{s.kind.replace(' ', '-')}-{s.codes[0] if s.codes else n}",
            moment(s.start),
            moment(s.end),
            f"{_TITLES[s.kind]} {len(s.codes)} {'joint' if len(s.codes) == 1 else 'joints'} ({record.batch.name})",
            ", ".join(s.codes),
        )
        for n, s in enumerate(found.slots)
    ]
    return f"{file_name(record.batch.name)}.ics", ical.write(record.batch.name, entries, w.now())
