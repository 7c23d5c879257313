"""A schedule as it is shown and checked: every task, and for every joint every moment."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from adhaero.core.glue.schedule.problem import Problem
from adhaero.core.glue.schedule.timing import BREAK, GLUE, SOAK, TAKE_OUT, UNCLAMP, Chain, closings, taken_off


@dataclass(frozen=True)
class Slot:
    """A task at its time: ``run`` counts from 0, ``codes`` in the order of the hands."""

    kind: str
    run: int
    start_s: int
    end_s: int
    codes: tuple[str, ...]


@dataclass(frozen=True)
class Course:
    """One joint's course: s since the start of the schedule. ``clamp`` is the kind, ``number`` the single clamp, and
    ``also`` the others of a joint that takes several; ``dummies`` lie in it beside the joints. A joint without a clamp
    is released when it is pressed; of a panel the last section is broken at ``broken_s``.
    """

    code: str
    run: int
    clamp: str
    number: int
    mixed_s: int
    spread_s: int
    closed_s: int
    pressed_s: int
    released_s: int
    in_s: int | None
    out_s: int | None
    broken_s: int | None
    also: tuple[int, ...] = ()
    dummies: int = 0


@dataclass(frozen=True)
class Timetable:
    """A schedule. ``unplaced`` are codes for which no time was found."""

    slots: tuple[Slot, ...]
    courses: tuple[Course, ...]
    unplaced: tuple[str, ...]
    finish_s: int
    visits: int
    spread: float
    """How unevenly treatments lie over the visits of gluing: 0 is as even as can be."""


def timetable(problem: Problem, chains: Sequence[Chain], starts: Mapping[int, Sequence[int]]) -> Timetable:
    """The schedule of runs (by index) whose tasks start at ``starts``; other joints are unplaced."""
    slots: list[Slot] = []
    courses: list[Course] = []
    numbers = _numbers(problem, chains, starts)
    for c in chains:
        if c.run.index in starts:
            slots += _slots(problem, c, starts[c.run.index])
            courses += _courses(problem, c, starts[c.run.index], numbers[c.run.index])
    placed = {x.code for x in courses}
    slots.sort(key=lambda s: (s.start_s, s.run))
    return Timetable(
        tuple(slots),
        tuple(courses),
        tuple(j.code for j in problem.joints if j.code not in placed),
        max((s.end_s for s in slots), default=0),
        visits(problem, [s.start_s for s in slots]),
        unevenness(problem, courses),
    )


def visits(problem: Problem, starts: Sequence[int]) -> int:
    """How many stretches at the bench have something to do."""
    return len({next((n for n, (a, b) in enumerate(problem.hours) if a <= s < b), -1) for s in starts})


def unevenness(problem: Problem, courses: Sequence[Course]) -> float:
    """Mean distance of a treatment's joints in a visit from its even share, in joints."""
    treatment = {j.code: j.treatment for j in problem.joints}
    counts: dict[tuple[int, str], int] = {}
    per_visit: dict[int, int] = {}
    totals: dict[str, int] = {}
    for c in courses:
        visit = next((n for n, (a, b) in enumerate(problem.hours) if a <= c.mixed_s < b), -1)
        counts[visit, treatment[c.code]] = counts.get((visit, treatment[c.code]), 0) + 1
        per_visit[visit] = per_visit.get(visit, 0) + 1
        totals[treatment[c.code]] = totals.get(treatment[c.code], 0) + 1
    if not courses:
        return 0.0
    off = sum(abs(counts.get((v, t), 0) - totals[t] * per_visit[v] / len(courses)) for v in per_visit for t in totals)
    return off / (len(per_visit) * len(totals))


def _slots(problem: Problem, c: Chain, starts: Sequence[int]) -> list[Slot]:
    every = tuple(problem.joints[j].code for j in c.run.joints)
    broken = tuple(problem.joints[j].code for j in c.run.joints if problem.joints[j].breaks)
    return [
        Slot(t.kind, c.run.index, s, s + t.length_s, broken if t.kind == BREAK else every)
        for t, s in zip(c.tasks, starts, strict=True)
    ]


def _courses(problem: Problem, c: Chain, starts: Sequence[int], numbers: dict[int, list[int]]) -> list[Course]:
    pace, begin = problem.pace, starts[0]
    at = {t.kind: s for t, s in zip(c.tasks, starts, strict=True)}
    closed = closings(problem, c.run)
    rig: dict[int, int] = {}
    taken = at.get(BREAK, 0)
    for j in c.run.joints:
        if problem.joints[j].breaks:
            rig[j] = taken
            taken += pace.at_rig_s(problem.joints[j])
    found = []
    off = taken_off(c.run)
    for n, load in enumerate(c.run.loads):
        pressed = begin + closed[load.joints[-1]]
        for j in load.joints:
            first = problem.joints[j]
            slot = rig.get(j)
            if SOAK not in at:
                out = None
            elif TAKE_OUT in at:
                out = at[TAKE_OUT]
            else:
                out = slot
            found.append(
                Course(
                    code=first.code,
                    run=c.run.index,
                    clamp=load.kind,
                    number=numbers[n][0],
                    also=tuple(numbers[n][1:]),
                    mixed_s=begin,
                    spread_s=begin + closed[j] - pace.joint_s,
                    closed_s=begin + closed[j],
                    pressed_s=pressed,
                    released_s=at[UNCLAMP] + off[n] * pace.unclamp_s if UNCLAMP in at else pressed,
                    dummies=load.dummies,
                    in_s=at[SOAK] + pace.soak_s if SOAK in at else None,
                    out_s=out + pace.soak_s if out is not None and TAKE_OUT in at else out,
                    broken_s=slot + pace.at_rig_s(first) if slot is not None else None,
                )
            )
    return found


def _numbers(
    problem: Problem, chains: Sequence[Chain], starts: Mapping[int, Sequence[int]]
) -> dict[int, dict[int, list[int]]]:
    """Single clamps of each kind, numbered from 1, given to loads so that none is in two places: by start."""
    free: dict[str, list[int]] = {c.key: [0] * c.count for c in problem.clamps}
    wanted: list[tuple[int, int, str, int, int]] = [
        (a, b, kind, -1, 0) for kind, a, b, many in problem.held for _ in range(many)
    ]
    for c in chains:
        if c.run.index in starts:
            own = starts[c.run.index]
            end = own[c.freeing] + c.tasks[c.freeing].length_s
            for n, load in enumerate(c.run.loads):
                wanted += [(own[0], end, load.kind, c.run.index, n)] * load.clamps
    found: dict[int, dict[int, list[int]]] = {}
    for begin, end, kind, run, n in sorted(wanted):
        lane = _lane(free[kind], begin)
        free[kind][lane] = end
        found.setdefault(run, {}).setdefault(n, []).append(lane + 1)
    return found


def _lane(ends: list[int], begin: int) -> int:
    """The clamp that came free last before ``begin``: the others stay available for longer."""
    able = [i for i, e in enumerate(ends) if e <= begin]
    return max(able, key=lambda i: (ends[i], -i)) if able else min(range(len(ends)), key=lambda i: ends[i])


__all__ = ["BREAK", "GLUE", "Course", "Slot", "Timetable", "timetable", "unevenness", "visits"]
