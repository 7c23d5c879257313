"""The schedule of a batch's gluing: made at once, improved in the background, checked before it is shown, kept."""

from __future__ import annotations

import sqlite3
import threading
import time
from collections.abc import Callable
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
from adhaero.workflow.exchange import file_name
from adhaero.workflow.facts import Facts, load
from adhaero.workflow.glue.allowing import EVENING, Allowed, kept, lasting, with_allowed
from adhaero.workflow.glue.bench import bench
from adhaero.workflow.glue.demand import Demand, demand, unglued
from adhaero.workflow.glue.kept import against_schedule
from adhaero.workflow.workshop import Act, Workshop, iso, moment

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
    hours: list[tuple[str, str]]
    finish: str
    visits: int
    uneven: float
    proved: bool
    unplaced: list[str]
    reasons: list[Reason]
    allowed: list[Allowed]
    late: list[str]
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
    kept: list[str]


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
    w: Workshop, batch_id: int, style: str, start: datetime | None, person: str, key: str | None, *,
    seek: bool = True, seconds: float = IMPROVE_S, allowed: list[Allowed] | None = None,
) -> dict[str, Any]:  # fmt: skip
    """A schedule for all that is not glued yet, from ``start`` (or now) on. A better one is sought afterwards.

    ``allowed`` widens what is asked for; without it, what was allowed for the schedule before still is.
    """
    if style not in STYLES:
        raise refuse("style", f"{style[:20]!r} is no way to compose runs", "Choose blocks or loads.")
    begin = max(start or w.now(), w.now()).astimezone(UTC).replace(second=0, microsecond=0)
    first: list[tuple[Demand, list[Chain], Starts, Timetable]] = []

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        d = demand(conn, load(w, conn, batch_id, action_id), begin, allowed=allowed)
        if not d.problem.joints and not d.follow_up:
            raise refuse("batch", "nothing is left to glue or to break", "Begin another batch, or amend the plan.")
        if d.problem.joints and not d.problem.clamps:
            raise refuse(
                "clamps", "there is no clamp in the shop", "Say under Shop what presses: clamps, weights, a press."
            )
        seed = w.new_seed()
        made = {s: first_schedule(d.problem, s, seed) for s in STYLES}
        chains, starts, table = made[style]
        _refuse_wrong(d.problem, table)
        reasons = [lasting(r, begin) for r in explain(d.problem, table, clock(d))] if table.unplaced else []
        trades = [
            Trade(s, iso(begin + timedelta(seconds=t.finish_s)), t.visits, len(c), len(t.unplaced))
            for s, (c, _, t) in made.items()
        ]
        store.add_schedule(
            conn, batch_id, document(d, table, style, reasons, trades, proved=False), w.stamp(), action_id
        )
        first.append((d, chains, starts, table))
        return {"pieces": len(table.courses)}

    act = Act("glue", "schedule", "Scheduled the gluing", batch_id, person, key=key, request=f"{style}{start}{allowed}")
    stop(w, batch_id)
    answer = w.perform(act, body)
    if first and seek and first[0][3].courses:
        _seek(w, batch_id, style, person, *first[0], seconds=seconds)
    return answer


def _refuse_wrong(problem: Problem, table: Timetable) -> None:
    wrong = check(problem, table)
    if wrong:
        raise RuntimeError(f"the schedule breaks a rule: {wrong[0].text}")


def clock(d: Demand) -> Callable[[int], str]:
    """How a moment of the schedule is called in the user's own time."""
    zone = ZoneInfo(d.bench.hours.zone)
    return lambda s: (d.start + timedelta(seconds=s)).astimezone(zone).strftime("%a %H:%M")


def _seek(
    w: Workshop, batch_id: int, style: str, person: str, d: Demand, chains: list[Chain], starts: Starts,
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

    threading.Thread(target=work, name=f"schedule {batch_id}", daemon=True).start()


def _keep(w: Workshop, batch_id: int, style: str, person: str, d: Demand, table: Timetable, *, proved: bool) -> None:
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


def stop(w: Workshop, batch_id: int) -> None:
    """End the search for a better schedule; what it has found so far is kept."""
    search = _SEARCHES.get((id(w), batch_id))
    if search is not None:
        search.go = False


def view(w: Workshop, batch_id: int) -> ScheduleView:
    """The schedule of a batch and what there is to schedule."""
    with w.db.read() as conn:
        facts = load(w, conn, batch_id)
        stored, kinds = store.schedule(conn, batch_id), store.clamps(conn)
        zone = bench(conn).hours.zone
        lateness = against_schedule(conn, facts)
    waiting = {s.code for s in unglued(facts)}
    search = _SEARCHES.get((id(w), batch_id))
    return ScheduleView(
        batch_id=batch_id,
        waiting=len(waiting),
        clamps=sum(c.count for c in kinds),
        zone=zone,
        schedule=_shown(facts, stored.document, waiting, {str(c.id): c.label for c in kinds}) if stored else None,
        trades=[Trade(**t) for t in stored.document["trades"]] if stored else [],
        seeking=search.running if search else False,
        found=search.found if search else 0,
        progress=_progress(search) if search and search.running else None,
        kept=lateness,
    )


def _progress(search: _Search) -> Sought:
    best = search.best
    share = min(1.0, (time.monotonic() - search.begun) / search.seconds)
    return Sought(share, iso(search.start + timedelta(seconds=best.finish_s)), best.visits)


def _shown(facts: Facts, d: dict[str, Any], waiting: set[str], labels: dict[str, str]) -> Schedule:
    start = moment(d["start"])

    def at(seconds: int) -> str:
        return iso(start + timedelta(seconds=seconds))

    by_code = facts.by_code()
    letter = {c: facts.treatments[s.treatment_id].letter for c, s in by_code.items()}
    courses = [Course(**c) for c in d["courses"]]
    lanes: dict[tuple[str, int, int], list[Course]] = {}
    for c in courses:
        for number in (c.number, *c.also):
            lanes.setdefault((c.clamp, number, c.run), []).append(c)
    slots = [Slot(**{**s, "codes": tuple(s["codes"])}) for s in d["slots"]]
    return Schedule(
        start=d["start"],
        style=d["style"],
        slots=[SlotView(s.kind, s.run + 1, at(s.start_s), at(s.end_s), list(s.codes), _done(facts, s)) for s in slots],
        lanes=[
            LaneView(labels.get(k, "a clamp that is gone"), n, run + 1, at(own[0].mixed_s), at(own[0].released_s),
                     sorted({letter.get(c.code, "?") for c in own}))
            for (k, n, run), own in sorted(lanes.items(), key=lambda x: (labels.get(x[0][0], ""), x[0][1], x[0][2]))
        ],
        hours=[(at(a), at(b)) for a, b in d["hours"]],
        finish=at(d["finish_s"]),
        visits=d["visits"],
        uneven=d["uneven"],
        proved=d["proved"],
        unplaced=d["unplaced"],
        reasons=[reason(r) for r in d["reasons"]],
        allowed=kept(d),
        late=d["late"],
        stale=not waiting <= set(d["wanted"]),
    )  # fmt: skip


def reason(r: dict[str, Any]) -> Reason:
    """A reason as it is stored -> as it is shown."""
    return Reason(tuple(r["codes"]), r["text"], tuple(Remedy(**x) for x in r["remedies"]), r["proved"])


def _done(facts: Facts, s: Slot) -> bool:
    """Whether what the task is for has happened to all of its joints."""
    ids = [facts.by_code()[c].id for c in s.codes if c in facts.by_code()]
    if s.kind == "glue":
        return all(i in facts.members for i in ids)
    if s.kind in ("soak", "take out"):
        way = "in" if s.kind == "soak" else "out"
        return all((i, way) in facts.conditioned or i in facts.observed for i in ids)
    return all(i in (facts.unclamped if s.kind == "unclamp" else facts.observed) for i in ids)


@dataclass(frozen=True)
class WhatIf:
    """What would come of a change: against the schedule as it stands."""

    finish: str
    visits: int
    unplaced: int
    before: Trade


def what_if(w: Workshop, batch_id: int, clamps: dict[str, int], evenings: list[tuple[int, int, int]]) -> WhatIf:
    """The schedule with ``clamps`` (id -> how many more) and further weekly stretches; nothing is kept."""
    with w.db.read() as conn:
        facts = load(w, conn, batch_id)
        stored = store.schedule(conn, batch_id)
        if stored is None:
            raise refuse("schedule", "nothing is scheduled yet", "Make a schedule first.")
        d = demand(conn, facts, moment(stored.document["start"]))
    style = stored.document["style"]
    before = first_schedule(d.problem, style)[2]
    more = [Allowed("clamps", "", count, key) for key, count in clamps.items()]
    more += [Allowed(EVENING, "", 0, f"{day}-{low}-{high}") for day, low, high in evenings]
    problem = with_allowed(d.problem, more, d.bench, d.start)
    after = first_schedule(problem, style)[2]
    _refuse_wrong(problem, after)
    trade = Trade(style, iso(d.start + timedelta(seconds=before.finish_s)), before.visits, 0, len(before.unplaced))
    return WhatIf(iso(d.start + timedelta(seconds=after.finish_s)), after.visits, len(after.unplaced), trade)


_TITLES = {
    "glue": "Glue",
    "unclamp": "Take off the clamps of",
    "soak": "Into conditioning:",
    "take out": "Out of conditioning:",
    "break": "Break",
}


def calendar(w: Workshop, batch_id: int) -> tuple[str, bytes]:
    """(file name, iCalendar file) of the schedule that stands."""
    with w.db.read() as conn:
        facts = load(w, conn, batch_id)
    found = view(w, batch_id).schedule
    if found is None:
        raise refuse("schedule", "nothing is scheduled yet", "Make a schedule first.")
    entries = [
        ical.Entry(
            f"{batch_id}-{s.run}-{s.kind.replace(' ', '-')}-{s.codes[0] if s.codes else n}",
            moment(s.start),
            moment(s.end),
            f"{_TITLES[s.kind]} {len(s.codes)} {'joint' if len(s.codes) == 1 else 'joints'} ({facts.batch.name})",
            ", ".join(s.codes),
        )
        for n, s in enumerate(found.slots)
    ]
    return f"{file_name(facts.batch.name)}.ics", ical.write(facts.batch.name, entries, w.now())
