"""A run of the schedule moved by hand to another time: everything is checked again, and what it cannot do is said."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any

from adhaero.core.glue.schedule.calendar import Calendar, within
from adhaero.core.glue.schedule.checker import check
from adhaero.core.glue.schedule.compose import Load, Run
from adhaero.core.glue.schedule.greedy import Starts
from adhaero.core.glue.schedule.problem import Problem
from adhaero.core.glue.schedule.timetable import timetable
from adhaero.core.glue.schedule.timing import Chain, chain
from adhaero.core.refusal import refuse
from adhaero.store import clamps as store
from adhaero.workflow.context import Act, AppContext, iso, moment
from adhaero.workflow.glue import scheduling
from adhaero.workflow.glue.demand import Demand, demand
from adhaero.workflow.record_loading import load

NEAR_S = 15 * 60
"""How much later than asked a run may begin without a word."""


def _kept(problem: Problem, document: dict[str, Any]) -> tuple[list[Chain], Starts]:
    """The runs of a schedule and their times, as far as their joints still wait for glue."""
    index = {j.code: i for i, j in enumerate(problem.joints)}
    place = {c["code"]: (c["clamp"], c["number"], *c.get("also", ())) for c in document["courses"]}
    beside = {c["code"]: int(c.get("dummies", 0)) for c in document["courses"]}
    kinds = {c.key for c in problem.clamps}
    chains: list[Chain] = []
    starts: Starts = {}
    for s in document["slots"]:
        if s["kind"] != "glue" or not all(c in index and place[c][0] in kinds for c in s["codes"]):
            continue
        loads: dict[tuple[Any, ...], list[int]] = {}
        for code in s["codes"]:
            loads.setdefault(place[code], []).append(index[code])
        dummies = [beside[problem.joints[own[0]].code] for own in loads.values()]
        held = [Load(at[0], tuple(own), len(at) - 1, n) for (at, own), n in zip(loads.items(), dummies, strict=True)]
        run = Run(s["run"], tuple(held))
        made = chain(problem, run)
        starts_at = {x["kind"]: x["start_s"] for x in document["slots"] if x["run"] == s["run"]}
        if all(t.kind in starts_at for t in made.tasks):
            chains.append(made)
            starts[run.index] = [starts_at[t.kind] for t in made.tasks]
    return chains, starts


TASKS = {"glue": "gluing", "unclamp": "clamps off", "soak": "start of the conditioning",
         "take out": "end of the conditioning", "break": "break"}  # fmt: skip


def obstacle(d: Demand, chains: Sequence[Chain], starts: Starts, moved: Chain, at_s: int) -> str:
    """What is in the way of a run that would begin ``at_s``: hours, hands that do something else, or clamps."""
    clock = scheduling.clock(d)
    taken = [(o.start_s, o.end_s, f"the {TASKS[o.kind]} of {o.batch}") for o in d.others]
    for c in chains:
        if c is not moved:
            taken += [(s, s + t.length_s, f"the {TASKS[t.kind]} of run {c.run.index + 1}")
                      for t, s in zip(c.tasks, starts[c.run.index], strict=True)]  # fmt: skip
    taken += [(s.start_s, s.end_s, f"the {TASKS[s.kind]} of joints glued before") for s in d.follow_up]
    begins, ends = [at_s], [at_s]
    for i, t in enumerate(moved.tasks):
        low, high = (at_s, at_s) if i == 0 else (begins[t.after] + t.low, ends[t.after] + t.high)
        if i:
            begins.append(low)
            ends.append(high)
        own = f"its {TASKS[t.kind]}" + (f" at {clock(low)}" if i else "")
        able = [s for a, b in d.problem.hours for s in within([(a, b - t.length_s)], low, high)]
        if not able:
            return f"{own} lies outside of your hours"
        beside = [(b, name) for a, b, name in taken if a < able[0][0] + t.length_s and able[0][0] < b]
        if beside and high - low <= max(b for b, _ in beside) - able[0][0]:
            return f"{own} falls into {beside[0][1]}"
    return "the clamps are in use, or its tasks are in each other's way"


def move(
    w: AppContext, batch_id: int, run: int, to: datetime, person: str, key: str | None, *, snap: bool = False
) -> dict[str, Any]:
    """Begin a run (as counted on the screen) at or soon after ``to``; the other runs stay where they are.

    ``Refusal`` names the next moment that would do where that is more than a quarter of an hour later; with ``snap``
    it is taken, however late.
    """
    scheduling.stop(w, batch_id)

    def prepare(conn: sqlite3.Connection) -> tuple[dict[str, Any], str]:
        record = load(w, conn, batch_id)
        kept = store.schedule(conn, batch_id)
        if kept is None:
            raise refuse("run", "nothing is scheduled yet", "Make a schedule first.")
        d = demand(conn, record, moment(kept.document["start"]))
        chains, starts = _kept(d.problem, kept.document)
        moved = next((c for c in chains if c.run.index == run - 1), None)
        if moved is None:
            raise refuse("run", f"run {run} is not waiting any more", "Choose one that is not glued yet.")
        wanted = int((to - d.start).total_seconds())
        earliest = max(0, wanted, int((w.now() - d.start).total_seconds()))
        calendar = Calendar(d.problem)
        for c in chains:
            if c is not moved:
                calendar.book(c, starts[c.run.index])
        found = calendar.place(moved, earliest)
        if found is None:
            raise refuse(
                "to", "no later moment lets this run keep its times", "Choose an earlier one, or schedule again."
            )
        if not snap and found[0] - wanted > NEAR_S:
            at = scheduling.clock(d)(found[0])
            why = obstacle(d, chains, starts, moved, wanted)
            message = f"run {run} cannot begin then: {why}; the next moment that will do is {at}"
            raise refuse("to", message, "Take that one.")
        starts[moved.run.index] = found
        table = timetable(d.problem, chains, starts)
        if check(d.problem, table):
            raise refuse("to", "that would break a rule of the schedule", "Schedule again.")
        old = kept.document
        reasons = [scheduling.reason(r) for r in old["reasons"]]
        trades = [scheduling.Trade(**t) for t in old["trades"]]
        document = scheduling.document(d, table, old["style"], reasons, trades, proved=False)
        return document, iso(d.start + timedelta(seconds=found[0]))

    def write(conn: sqlite3.Connection, action_id: int, made: tuple[dict[str, Any], str]) -> dict[str, Any]:
        store.add_schedule(conn, batch_id, made[0], w.stamp(), action_id)
        return {"start": made[1]}

    act = Act("glue", "schedule", f"Moved run {run}", batch_id, person, key=key, request=f"move {run} {to}")
    return w.perform_prepared(act, prepare, write)
