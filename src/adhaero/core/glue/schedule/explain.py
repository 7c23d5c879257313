"""Why joints find no time, in words, and the least change that would help.

Asked in this order: can the joint be made at all (clamps, open time, its own windows); has it a start on an empty
calendar, and if not, by how much a tolerance would have to grow; and, where each could be made alone, what there is
too little of. "Impossible" is said only of what is proved so; else a joint is "not placed".
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

from adhaero.core.glue.schedule.calendar import Calendar
from adhaero.core.glue.schedule.compose import Run, compose, fitting
from adhaero.core.glue.schedule.greedy import first_schedule
from adhaero.core.glue.schedule.hours import joined
from adhaero.core.glue.schedule.problem import Clamps, Joint, Problem
from adhaero.core.glue.schedule.timetable import Timetable
from adhaero.core.glue.schedule.timing import BREAK, SOAK, Chain, chain
from adhaero.core.quantity import Dimension
from adhaero.core.units import METRIC, Units

H, DAY = 3600, 86400
MOST_TOLERANCE_S = 12 * H
MOST_TRIED = 200
"""Joints up to which a remedy is tried on the whole plan before it is offered."""
GROWTH = (1, 1.1, 1.25, 1.5, 2, 3, 5)
"""How much larger than for a single joint a remedy is tried, so that it helps all of them."""
Clock = Callable[[int], str]


@dataclass(frozen=True)
class Remedy:
    """A change that helps: ``kind`` is clamp_tol, cure_tol, pace, clamps, hours; ``amount`` in s, N or clamps."""

    kind: str
    text: str
    amount: float
    key: str = ""


@dataclass(frozen=True)
class Reason:
    """Why these joints are not placed. ``proved``: they cannot be, as things stand."""

    codes: tuple[str, ...]
    text: str
    remedies: tuple[Remedy, ...]
    proved: bool


def applied(problem: Problem, remedy: Remedy, codes: Iterable[str]) -> Problem:
    """The problem after a remedy; tolerances grow for these joints."""
    own = set(codes)

    def wider(j: Joint, field: str) -> Joint:
        return replace(j, **{field: getattr(j, field) + int(remedy.amount)}) if j.code in own else j

    match remedy.kind:
        case "clamp_tol" | "cure_tol":
            return replace(problem, joints=tuple(wider(j, f"{remedy.kind}_s") for j in problem.joints))
        case "pace":
            return replace(problem, pace=replace(problem.pace, joint_s=int(remedy.amount)))
        case "clamps":
            more = tuple(
                replace(c, count=c.count + int(remedy.amount)) if c.key == remedy.key else c for c in problem.clamps
            )
            return replace(problem, clamps=more)
        case "force":
            return replace(problem, clamps=tuple(
                replace(c, most_n=remedy.amount, least_n=min(c.least_n, remedy.amount)) if c.key == remedy.key else c
                for c in problem.clamps
            ))  # fmt: skip
        case _:
            begin, end = (int(x) for x in remedy.key.split("-"))
            return replace(problem, hours=tuple(joined([*problem.hours, (begin, end)])))


def explain(problem: Problem, table: Timetable, clock: Clock, units: Units = METRIC) -> list[Reason]:
    """Reasons for everything that is unplaced, alike joints together. ``clock`` names a moment of the schedule."""
    alike: dict[tuple[object, ...], list[Joint]] = {}
    for j in problem.joints:
        if j.code in table.unplaced:
            alike.setdefault((j.glue, j.force_n, j.clamps, j.clamp_s, j.cure_s, j.wet_s, j.dry_s, j.breaks), []).append(
                j
            )
    found = [_alone(problem, own, clock, units) for own in alike.values()]
    reasons = [_helpful(problem, r) for r in _merged([r for r in found if r is not None])]
    explained = {c for r in reasons for c in r.codes}
    rest = tuple(c for c in table.unplaced if c not in explained)
    return [*reasons, *([_too_little(problem, rest)] if rest else [])]


def _merged(reasons: Sequence[Reason]) -> list[Reason]:
    """Joints that fail for one and the same reason together, whatever their glue."""
    same: dict[tuple[str, tuple[Remedy, ...]], Reason] = {}
    for r in reasons:
        known = same.get((r.text, r.remedies))
        same[r.text, r.remedies] = r if known is None else replace(known, codes=known.codes + r.codes)
    return list(same.values())


def _helpful(problem: Problem, reason: Reason) -> Reason:
    """The reason with remedies that help all of its joints at once, each grown as far as that takes."""
    if len(problem.joints) > MOST_TRIED:
        return reason
    grown = [_grown(problem, r, set(reason.codes)) for r in reason.remedies]
    return replace(reason, remedies=tuple(grown))


def _grown(problem: Problem, remedy: Remedy, codes: set[str]) -> Remedy:
    """A remedy that was found for a single joint, large enough for all of them; or told how many it leaves out."""
    if remedy.kind not in ("clamp_tol", "cure_tol", "hours"):
        return remedy
    left: list[int] = []
    for share in GROWTH:
        tried = _larger(problem, remedy, share, codes)
        left.append(len(codes & set(_unplaced(applied(problem, tried, codes)))))
        if left[-1] == 0:
            return tried
    # None is enough: the smallest is offered, with what it leaves out.
    return replace(remedy, text=f"{remedy.text} (still without a time: {left[0]})")


def _larger(problem: Problem, remedy: Remedy, share: float, codes: set[str]) -> Remedy:
    if share == 1:
        return remedy
    if remedy.kind == "hours":
        begin, end = (int(x) for x in remedy.key.split("-"))
        until = begin + int((end - begin) * share)
        text = f"{remedy.text}, and stay {_span(until - end)} longer"
        return replace(remedy, text=text, amount=until - begin, key=f"{begin}-{until}")
    more = 60 * round(remedy.amount * share / 60)
    first = next(j for j in problem.joints if j.code in codes)
    return replace(remedy, text=_allow(remedy.kind, getattr(first, f"{remedy.kind}_s"), more), amount=more)


def _allow(kind: str, tolerance_s: int, more_s: int) -> str:
    name = "age" if kind == "cure_tol" else "clamp time"
    return f"Allow the {name} ± {(tolerance_s + more_s) // 60} min ({more_s // 60} more)"


def _alone(problem: Problem, own: Sequence[Joint], clock: Clock, units: Units) -> Reason | None:
    """Why one such joint cannot be made even on an empty calendar; ``None`` if it can."""
    first, codes = own[0], tuple(j.code for j in own)
    limits = problem.limits(first.glue)
    if not fitting(problem, first):
        return _no_clamp(problem, first, codes, units)
    if problem.pace.joint_s > limits.open_s:
        text = f"Hands take {problem.pace.joint_s} s for a joint, and the glue stays open for {limits.open_s} s only."
        quicker = Remedy("pace", f"Close a joint within {limits.open_s} s", limits.open_s)
        return Reason(codes, text, (quicker,), True)
    if _start(problem, first) is not None:
        return None
    remedies = [r for r in (_tolerance(problem, first, kind, codes) for kind in ("cure_tol", "clamp_tol")) if r]
    once = _once_more(problem, first, clock)
    return Reason(codes, _falls(problem, first, clock), (*remedies, *([once] if once else [])), True)


def _no_clamp(problem: Problem, j: Joint, codes: tuple[str, ...], units: Units) -> Reason:
    if not problem.clamps:
        return Reason(codes, "There is no clamp in the shop.", (), True)
    most = max(problem.clamps, key=lambda c: c.count)
    if most.count < j.clamps:
        text = f"The line of a joint wants {j.clamps} clamps; of {most.label} there are {most.count}."
        more = j.clamps - most.count
        return Reason(codes, text, (Remedy("clamps", f"{more} more of {most.label}", more, most.key),), True)

    def newtons(n: float) -> str:
        return units.text(n, Dimension.FORCE)

    each, wants = j.force_n / j.clamps, "A joint wants" if j.clamps == 1 else "Each clamp of a joint must give"
    nearest = max(problem.clamps, key=lambda c: c.most_n or 0.0)
    if all((c.most_n or 0.0) < each for c in problem.clamps if c.most_n is not None):
        text = f"{wants} {newtons(each)}; the strongest clamp, {nearest.label}, gives {newtons(nearest.most_n or 0)}."
    else:
        nearest = min(problem.clamps, key=lambda c: abs(c.least_n - each))
        text = f"{wants} {newtons(each)}; {nearest.label} presses with {newtons(nearest.least_n)} at least."
    return Reason(codes, text, (Remedy("force", f"Take clamps of {newtons(each)}", each, nearest.key),), True)


def _single(problem: Problem, j: Joint) -> tuple[Problem, Chain]:
    alone = replace(problem, joints=(replace(j, replicate=1),), busy=(), held=())
    runs = compose(alone)
    return alone, chain(alone, runs[0] if runs else Run(0, ()))


def _start(problem: Problem, j: Joint) -> int | None:
    alone, c = _single(problem, j)
    found = None if c.impossible else Calendar(alone).place(c)
    return found[0] if found else None


def _tolerance(problem: Problem, j: Joint, kind: str, codes: tuple[str, ...]) -> Remedy | None:
    """The least growth of a tolerance, to the minute, that gives the joint a start."""
    field = f"{kind}_s"

    def works(more_s: int) -> bool:
        return _start(problem, replace(j, **{field: getattr(j, field) + more_s})) is not None

    if not works(MOST_TOLERANCE_S):
        return None
    low, high = 0, MOST_TOLERANCE_S // 60
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if works(60 * middle) else (middle, high)
    return Remedy(kind, _allow(kind, getattr(j, field), 60 * high), 60 * high)


def _falls(problem: Problem, j: Joint, clock: Clock) -> str:
    """Where the tasks of the joint would fall."""
    _, c = _single(problem, j)
    if c.impossible:
        return f"With a clamp time of {_span(j.clamp_s)} and an age of {_span(j.cure_s)}, {c.impossible}."
    said = []
    day = [s for s in problem.hours if s[0] < 8 * DAY]
    for t in c.tasks[1:]:
        first = next(((a, b - c.tasks[0].length_s) for a, b in day if b - a >= c.tasks[0].length_s), None)
        if first is None:
            return f"Gluing takes {_span(c.tasks[0].length_s)}, longer than any of your stretches at the bench."
        if t.after == 0 and not _meets(problem, c, t.low, t.high):
            what = {BREAK: "break", SOAK: "start of the conditioning"}.get(t.kind, "release from the clamp")
            said.append(
                f"after gluing from {clock(first[0])} to {clock(first[1])} the {what} falls between "
                f"{clock(first[0] + t.low)} and {clock(first[1] + t.high)}"
            )
    if not said:
        return f"No start lets an age of {_span(j.cure_s)} and everything before it fall into your hours."
    return f"{said[0][0].upper()}{said[0][1:]}; that is outside of your hours on every day."


def _meets(problem: Problem, c: Chain, low: int, high: int) -> bool:
    """Whether some start within the hours puts a task of that window into them."""
    begins = [(a, b - c.tasks[0].length_s) for a, b in problem.hours if b - a >= c.tasks[0].length_s]
    return any(a + low <= y and x <= b + high for a, b in begins for x, y in problem.hours)


def _once_more(problem: Problem, j: Joint, clock: Clock) -> Remedy | None:
    """One visit outside of the hours that would do, the earliest."""
    _, c = _single(problem, j)
    if c.impossible:
        return None
    for a, b in problem.hours[:14]:
        if b - a < c.tasks[0].length_s:
            continue
        for t in c.tasks[1:]:
            if t.after != 0:
                continue
            begin = a + t.low
            visit = (begin, begin + t.length_s + 15 * 60)
            wider = replace(problem, hours=tuple(joined([*problem.hours, visit])))
            if _start(wider, j) is not None:
                text = f"Glue at {clock(a)} and come once more from {clock(visit[0])} to {clock(visit[1])}"
                return Remedy("hours", text, visit[1] - visit[0], f"{visit[0]}-{visit[1]}")
    return None


def _too_little(problem: Problem, codes: tuple[str, ...]) -> Reason:
    """Every joint has a start of its own, but not all together: what there is too little of."""
    longest = max((b for _, b in problem.hours), default=0)
    hands = sum(b - a for a, b in problem.hours)
    pace = problem.pace
    need = sum(pace.mix_s // 4 + pace.joint_s + pace.unclamp_s + pace.at_rig_s(j) * j.breaks for j in problem.joints)
    text = f"{len(codes)} joints are not placed within {_span(longest)}"
    text += (
        f": hands are needed for at least {_span(need)}, your hours have {_span(hands)}."
        if need > 0.7 * hands
        else ": the clamps, or the moments at which ages fall due, are too few."
    )
    remedies = [r for c in problem.clamps for r in (_more_clamps(problem, c, len(codes)),) if r is not None]
    return Reason(codes, text, tuple(remedies), False)


def _more_clamps(problem: Problem, c: Clamps, missing: int) -> Remedy | None:
    for more in (1, 2, 4, 8, 16):
        remedy = Remedy("clamps", f"{more} more of {c.label}", more, c.key)
        if len(_unplaced(applied(problem, remedy, ()))) < missing:
            rest = _unplaced(applied(problem, remedy, ()))
            tail = "" if not rest else f" (still without a time: {len(rest)})"
            return replace(remedy, text=f"{more} more of {c.label}{tail}")
    return None


def _unplaced(problem: Problem) -> tuple[str, ...]:
    return first_schedule(problem, tries=2)[2].unplaced


def _span(seconds: int) -> str:
    if seconds < 2 * H:
        return f"{seconds / 60:.0f} min"
    return f"{seconds / H:.3g} h" if seconds < 3 * DAY else f"{seconds / DAY:.3g} days"
