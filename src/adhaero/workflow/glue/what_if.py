"""What would come of more clamps or more hours: tried on the schedule as it stands, and not kept."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from adhaero.core.glue.schedule.greedy import first_schedule
from adhaero.core.refusal import refuse
from adhaero.store import clamps as store
from adhaero.workflow.context import AppContext, iso, moment
from adhaero.workflow.glue.allowing import EVENING, Allowed, with_allowed
from adhaero.workflow.glue.demand import demand
from adhaero.workflow.glue.scheduling import Trade, refuse_wrong
from adhaero.workflow.record_loading import load


@dataclass(frozen=True)
class WhatIf:
    """What would come of a change: against the schedule as it stands."""

    finish: str
    visits: int
    unplaced: int
    before: Trade


def what_if(w: AppContext, batch_id: int, clamps: dict[str, int], evenings: list[tuple[int, int, int]]) -> WhatIf:
    """The schedule with ``clamps`` (id -> how many more) and further weekly stretches; nothing is kept."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        stored = store.schedule(conn, batch_id)
        if stored is None:
            raise refuse("schedule", "nothing is scheduled yet", "Make a schedule first.")
        d = demand(conn, record, moment(stored.document["start"]))
    style = stored.document["style"]
    before = first_schedule(d.problem, style)[2]
    more = [Allowed("clamps", "", count, key) for key, count in clamps.items()]
    more += [Allowed(EVENING, "", 0, f"{day}-{low}-{high}") for day, low, high in evenings]
    problem = with_allowed(d.problem, more, d.working_hours, d.start)
    after = first_schedule(problem, style)[2]
    refuse_wrong(problem, after)
    trade = Trade(style, iso(d.start + timedelta(seconds=before.finish_s)), before.visits, 0, len(before.unplaced))
    return WhatIf(iso(d.start + timedelta(seconds=after.finish_s)), after.visits, len(after.unplaced), trade)
