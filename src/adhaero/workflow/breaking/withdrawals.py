"""What is taken from store when: the dates of a long study, what is left of each group, and dates that were missed."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from adhaero.core.parents import KINDS
from adhaero.core.plan.document import level_name, treatment_name
from adhaero.core.plan.treatments import Treatment
from adhaero.core.times import span
from adhaero.core.tolerances import width_of
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import AppContext, iso, moment
from adhaero.workflow.record_loading import load

LONG_S = 14 * 86400
"""Ages from which on pieces are said to be in store."""
FRESH = "Fresh, beside"
"""What the names of fresh references begin with: joints made anew at a date, which were never in store."""
TO_COME, DUE, MISSED, DONE = "to come", "due", "missed", "done"


@dataclass(frozen=True)
class Withdrawal:
    """One date: pieces of one age. ``due_from`` and ``due_until`` are the first and last moment (pieces are glued one
    after the other), empty while none is glued; ``late_s`` is how far the farthest of them was, or is by now, behind,
    ``late`` the same in words, ``off`` whether that is beyond the tolerance; ``planned`` and ``left`` count by group.
    ``fresh`` is the name of the fresh reference of this date.
    """

    age: str
    age_s: float
    state: str
    due_from: str | None
    due_until: str | None
    late_s: float
    late: str
    off: bool
    planned: list[int]
    left: list[int]
    fresh: str
    fresh_made: bool


@dataclass(frozen=True)
class Place:
    """A place on a parent: the piece that is or was there."""

    code: str
    filled: bool


@dataclass(frozen=True)
class PlaceMap:
    """A parent with its places in their order, the taken ones empty."""

    parent: str
    places: list[Place]


@dataclass(frozen=True)
class WithdrawalsView:
    """The calendar of a batch in store; no dates for a batch that is broken within days."""

    groups: list[str]
    dates: list[Withdrawal]
    left: int
    dates_left: int
    maps: list[PlaceMap]


def view(w: AppContext, batch_id: int) -> WithdrawalsView:
    """The withdrawal calendar of a locked batch."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
    return calendar(record, w.now())


def calendar(record: BatchRecord, now: datetime) -> WithdrawalsView:
    """The dates by age, over all groups: treatments that differ in nothing but their age."""
    fresh = {t.id for t in record.treatments.values() if t.label.startswith(FRESH)}
    joints = [s for s in record.counting if s.role != "solid" and s.cure_s and s.treatment_id not in fresh]
    ages = sorted({float(s.cure_s or 0) for s in joints})
    if len(ages) < 2 or ages[-1] < LONG_S:
        return WithdrawalsView([], [], 0, 0, [])
    group = {t.id: _group(record, record.planned.get(t.letter), t.label) for t in record.treatments.values()}
    names = list(dict.fromkeys(group[s.treatment_id] for s in joints))
    dates = []
    for age in ages:
        own = [s for s in joints if s.cure_s == age]
        dates.append(_date(record, own, age, [[s for s in own if group[s.treatment_id] == g] for g in names], now))
    left = sum(sum(d.left) for d in dates)
    return WithdrawalsView(names, dates, left, sum(d.state != DONE for d in dates), list(_maps(record)))


def _group(record: BatchRecord, t: Treatment | None, label: str) -> str:
    if t is None or t.cell is None:
        return label
    factors = zip(record.plan.factors, t.cell, strict=True)
    return " · ".join(treatment_name(f, f.levels[c]) for f, c in factors if f.key != "cure_s") or "all"


def _date(
    record: BatchRecord, own: list[Specimen], age: float, by_group: list[list[Specimen]], now: datetime
) -> Withdrawal:
    name = _age(record, own[0], age)
    waiting = [s for s in own if not record.finished(s)]
    due = sorted(record.due_at(s) for s in own if s.id in record.members)
    off = [lateness for s in own if (lateness := _lateness(record, s, now)) is not None]
    worst = max(off, key=abs, default=timedelta())
    width = width_of("cure_s", age, dict(record.plan.tolerances)) or 0.0
    late = abs(worst.total_seconds()) > width
    if not waiting:
        state = DONE
    else:
        open_due = [record.due_at(s) for s in waiting if s.id in record.members]
        past = bool(open_due) and min(open_due) <= now
        state = (MISSED if late else DUE) if past else TO_COME
    return Withdrawal(
        age=name,
        age_s=age,
        state=state,
        due_from=iso(due[0]) if due else None,
        due_until=iso(due[-1]) if due else None,
        late_s=worst.total_seconds(),
        late=_in_words(worst.total_seconds()),
        off=late,
        planned=[len(g) for g in by_group],
        left=[sum(not record.finished(s) for s in g) for g in by_group],
        fresh=f"{FRESH} {name}",
        fresh_made=any(t.label == f"{FRESH} {name}" for t in record.treatments.values()),
    )


def _age(record: BatchRecord, s: Specimen, age: float) -> str:
    """An age as it was planned; what follows from another field ("at release") by its length."""
    level = record.level(s, "cure_s")
    return span(age) if level is None or isinstance(level.value, str) else level_name("cure_s", level)


def _in_words(late_s: float) -> str:
    """How far off its date something is; nothing within a minute."""
    return "" if abs(late_s) < 60 else f"{span(abs(late_s))} {'late' if late_s > 0 else 'early'}"


def _lateness(record: BatchRecord, s: Specimen, now: datetime) -> timedelta | None:
    """How long after its date a piece was broken, or stands by now (never before it); ``None`` for one not glued."""
    if s.id not in record.members:
        return None
    due = record.due_at(s)
    if s.id in record.observed:
        return moment(record.observed[s.id].at) - due
    return max(timedelta(), now - due) if not record.finished(s) else None


def _maps(record: BatchRecord) -> Iterator[PlaceMap]:
    """The places on parents that pieces are taken from one by one."""
    for p in record.parents.values():
        own = [s for s in record.pieces_of[p.id] if s.id in record.members]
        if own:
            places = [Place(s.code, not record.finished(s)) for s in own]
            yield PlaceMap(f"{KINDS[p.kind].name} {p.number}", places)
