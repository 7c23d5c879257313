"""What a user allows for one schedule to make it possible, or better: kept with it, and taken over by the next one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

from adhaero.core.glue.schedule.explain import Reason, Remedy, applied
from adhaero.core.glue.schedule.hours import joined, stretches
from adhaero.core.glue.schedule.problem import Problem
from adhaero.core.refusal import refuse
from adhaero.workflow.context import iso, moment
from adhaero.workflow.glue.working_hours import WorkingHours

EVENING, HOURS = "evening", "hours"


@dataclass(frozen=True)
class Allowed:
    """A change to what a schedule is made for.

    ``kind`` is that of a remedy, or evening: a further stretch of every week, ``key`` "weekday-from-to" in minutes.
    Of hours, ``key`` is the one visit as "from/to" in ISO times: it stays where it is when the schedule's start moves.
    """

    kind: str
    text: str
    amount: float
    key: str = ""
    codes: tuple[str, ...] = ()


def with_allowed(problem: Problem, allowed: Sequence[Allowed], working_hours: WorkingHours, start: datetime) -> Problem:
    """The problem with everything that is allowed. ``Refusal`` names the entry that cannot be read."""
    for i, a in enumerate(allowed):
        try:
            problem = _with(problem, a, working_hours, start)
        except (ValueError, KeyError, StopIteration):
            raise refuse(f"allowed.{i}", f"{a.text!r} cannot be applied", "Take it back and schedule again.") from None
    return problem


def _with(problem: Problem, a: Allowed, working_hours: WorkingHours, start: datetime) -> Problem:
    match a.kind:
        case "evening":
            day, low, high = (int(x) for x in a.key.split("-"))
            hours = replace(working_hours.hours, weekly=(*working_hours.hours.weekly, (day, low, high)))
            hours.check()
            last = max((b for _, b in problem.hours), default=0)
            return replace(problem, hours=tuple(joined([*problem.hours, *stretches(hours, start, last // 86400 + 1)])))
        case "hours":
            low, high = (int((moment(t) - start).total_seconds()) for t in a.key.split("/"))
            if high <= 0:
                return problem
            return applied(problem, Remedy(HOURS, a.text, a.amount, f"{max(0, low)}-{high}"), ())
        case _:
            return applied(problem, Remedy(a.kind, a.text, a.amount, a.key), a.codes)


def kept(document: dict[str, Any] | None) -> list[Allowed]:
    """What the schedule that stands was allowed."""
    found = document.get("allowed", []) if document else []
    return [Allowed(**{**a, "codes": tuple(a["codes"])}) for a in found]


def lasting(reason: Reason, start: datetime) -> Reason:
    """A reason whose remedies name moments, not seconds since this schedule's start."""
    return replace(reason, remedies=tuple(_lasting(r, start) for r in reason.remedies))


def _lasting(r: Remedy, start: datetime) -> Remedy:
    if r.kind != HOURS:
        return r
    low, high = (start + timedelta(seconds=int(x)) for x in r.key.split("-"))
    return replace(r, key=f"{iso(low)}/{iso(high)}")
