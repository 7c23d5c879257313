"""Plans that grow: a factor gains a level across the grid, pieces are drawn from store when their occasion comes."""

from __future__ import annotations

import random
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from adhaero.core.compare.data import counted
from adhaero.core.plan import design
from adhaero.core.plan.checks import problems
from adhaero.core.plan.document import MAX_SPECIMENS, Extra, Level, Plan, level_name, treatment_name
from adhaero.core.plan.records import next_late
from adhaero.core.plan.treatments import JOINT, SOLID, Treatment, treatments
from adhaero.core.refusal import Refusal, refuse
from adhaero.store import batches, glueups, specimens
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, need_locked
from adhaero.workflow.plan.amending import parents_of_more, reason_of
from adhaero.workflow.plan.levels import with_bottles
from adhaero.workflow.plan.making import write_pieces
from adhaero.workflow.record_loading import load

AT_BREAK = ("cure_s", "conditioning", "kept_at")
"""Fields in which pieces in store may still become others."""


def add_level(
    w: AppContext, batch_id: int, factor: str, level: Level, count: int, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """A further level of a factor across the grid, ``count`` pieces of each new treatment: they come last."""
    why = reason_of(reason)
    if not 1 <= count <= 500:
        raise refuse("count", f"{count} pieces of each is not possible", "Type 1 to 500.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record, version = load(w, conn, batch_id, action_id), need_locked(conn, batch_id)
        plan = version.plan
        grown = with_bottles(conn, _with_level(plan, factor, level, count))
        wrong = [p for p in problems(grown) if p not in problems(plan)]
        if wrong:
            raise Refusal(wrong)
        known = {t.id for t in treatments(plan)}
        new = [t for t in treatments(grown) if t.id not in known]
        if len(record.pieces) + sum(t.replicates for t in new) > MAX_SPECIMENS:
            raise refuse("count", "the batch would get too large", "Begin another batch.")
        batches.add_version(conn, batch_id, "amended", grown, version.seed, why, action_id)
        _make(w, conn, record, grown, new, action_id)
        return {"pieces": sum(t.replicates for t in new)}

    act = Act("plan", "amend", f"Added the level {level_name(factor, level)}", batch_id, person, why, key=key,
              request=f"level {factor}{level}{count}{why}")  # fmt: skip
    return w.perform(act, body)


def _with_level(plan: Plan, factor: str, level: Level, count: int) -> Plan:
    old = next((f for f in plan.factors if f.key == factor), None)
    if old is None:
        raise refuse("factor", f"{factor[:40]!r} is no factor of this plan", "Choose one of the list.")
    if level in old.levels:
        raise refuse("level", f"{level_name(factor, level)} is a level already", "Type another one.")
    more = replace(old, levels=(*old.levels, replace(level, id="", late=next_late(plan))))
    own = ({factor: more.levels[-1].id}, count)
    return replace(
        plan,
        factors=tuple(more if f.key == factor else f for f in plan.factors),
        extra_replicates=(*plan.extra_replicates, own) if count != plan.replicates else plan.extra_replicates,
    )


def _make(
    w: AppContext, conn: sqlite3.Connection, record: BatchRecord, plan: Plan, new: list[Treatment], action_id: int
) -> None:
    """Write treatments that came later, with their pieces after all others."""
    ids = specimens.add_treatments(conn, record.batch.id, new, {f.key: f.name for f in plan.factors}, action_id)
    after, seed = len(record.pieces), w.new_seed()
    more = parents_of_more(record, joint=True)
    for place, t in enumerate(new):
        taken, own = specimens.taken_codes(conn), more if t.role == JOINT else {}
        pieces = design.more_specimens(place, 0, t.replicates, after, seed + place, taken, **own)
        write_pieces(conn, record.batch.id, plan, new, ids, pieces, seed + place, action_id)
        after += t.replicates
        if own:
            more = {**more, "parents": max(s.parent or 0 for s in pieces)}


@dataclass(frozen=True)
class Drawing:
    """Pieces to take from store: how many of which treatment, to be broken at which age."""

    letter: str
    count: int
    age: Level


def draw(w: AppContext, batch_id: int, d: Drawing, reason: str, person: str, key: str | None) -> dict[str, Any]:
    """Take pieces of a treatment, chosen at random among those that are whole, for a break at another age: they make a
    treatment of their own. Returns the codes.
    """
    why = reason_of(reason)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record, version = load(w, conn, batch_id, action_id), need_locked(conn, batch_id)
        source = record.planned.get(d.letter)
        if source is None or source.role == SOLID:
            raise refuse("treatment", f"there is no treatment of joints {d.letter[:10]!r}", "Choose one of the list.")
        stored = next(t for t in record.treatments.values() if t.letter == d.letter)
        able = [s for s in record.counting if s.treatment_id == stored.id and not record.finished(s)]
        if not 1 <= d.count <= len(able):
            raise refuse("count", f"{len(able)} of {d.letter} are in store", "Take as many, or fewer.")
        changes = {**_own(version.plan, source), "cure_s": d.age}
        extra = Extra(_label(version.plan, source, d.age), changes, d.count, late=next_late(version.plan))
        amended = replace(version.plan, extras=(*version.plan.extras, extra))
        wrong = [p for p in problems(amended) if p not in problems(version.plan)]
        if wrong:
            raise Refusal(wrong)
        batches.add_version(conn, batch_id, "amended", amended, version.seed, why, action_id)
        new = treatments(amended)[-1]
        names = {f.key: f.name for f in amended.factors}
        (treatment,) = specimens.add_treatments(conn, batch_id, [new], names, action_id)
        chosen = random.Random(f"draw {w.new_seed()}").sample(able, d.count)
        value = {"treatment": treatment, "cure_s": new.record["cure_s"].value}
        glueups.add_events(conn, [s.id for s in chosen], "drawn", w.stamp(), why, action_id, value)
        return {"pieces": len(chosen)}

    what = f"Drew {counted(d.count, 'piece')} of {d.letter} from store"
    act = Act("plan", "amend", what, batch_id, person, why, key=key, request=f"draw {d}{why}")
    return w.perform(act, body)


def _own(plan: Plan, t: Treatment) -> Mapping[str, Level]:
    """In what a treatment differs from the plan's usual record."""
    if t.cell is None:
        return next(e.changes for e in plan.extras if e.id == t.id)
    return {f.key: f.levels[i] for f, i in zip(plan.factors, t.cell, strict=True)}


def _label(plan: Plan, t: Treatment, age: Level) -> str:
    names = {f.key: f for f in plan.factors}
    if t.cell is None or "cure_s" not in names:
        return f"{t.label}, {level_name('cure_s', age)}"[:80]
    own = {**_own(plan, t), "cure_s": age}
    return " · ".join(treatment_name(names[k], level) for k, level in own.items())[:80]
