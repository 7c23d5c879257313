"""The tasks of a run and the windows between them: lags that keep every joint within its own tolerances."""

from __future__ import annotations

import itertools
from collections import Counter
from dataclasses import dataclass

from adhaero.core.glue.schedule.compose import Run
from adhaero.core.glue.schedule.hours import Stretch
from adhaero.core.glue.schedule.problem import Joint, Problem

GLUE, UNCLAMP, SOAK, TAKE_OUT, BREAK = "glue", "unclamp", "soak", "take out", "break"


@dataclass(frozen=True)
class Task:
    """Something for the hands, ``length_s`` long: it starts ``low`` to ``high`` s after the start of task ``after``."""

    kind: str
    length_s: int
    after: int = -1
    low: int = 0
    high: int = 0


@dataclass(frozen=True)
class Chain:
    """A run's tasks, the gluing first, each after an earlier one; and the clamps it holds until it is unclamped.

    ``impossible`` says in words why its tasks cannot keep their windows whatever the calendar.
    """

    run: Run
    tasks: tuple[Task, ...]
    clamps: dict[str, int]
    impossible: str = ""

    @property
    def freeing(self) -> int:
        """The task at whose end its clamps are free: the unclamping, or the gluing where there is none."""
        return 1 if len(self.tasks) > 1 and self.tasks[1].kind == UNCLAMP else 0

    @property
    def span_s(self) -> int:
        """From the start of gluing to the latest end of the last task."""
        ends = [0] * len(self.tasks)
        for i, t in enumerate(self.tasks):
            ends[i] = (ends[t.after] + t.high) if t.after >= 0 else 0
        return max(e + t.length_s for e, t in zip(ends, self.tasks, strict=True))


def closings(problem: Problem, run: Run) -> dict[int, int]:
    """When each joint of a run is closed, s after the start of the run."""
    pace = problem.pace
    return {j: pace.mix_s + (n + 1) * pace.joint_s for n, j in enumerate(run.joints)}


def taken_off(run: Run) -> list[int]:
    """How many clamps are off when each load of a run is free."""
    return list(itertools.accumulate(load.clamps for load in run.loads))


def chain(problem: Problem, run: Run) -> Chain:
    """The tasks of a run with their windows."""
    pace, joints = problem.pace, problem.joints
    closed = closings(problem, run)
    first = joints[run.joints[0]]
    tasks = [Task(GLUE, pace.mix_s + len(closed) * pace.joint_s)]
    free_s, wrong = tasks[0].length_s, ""
    if not first.clampless:
        # Each clamp is counted from its own pressure, on when its last joint is closed, to its own release.
        released = [
            _window(closed[load.joints[-1]] - off * pace.unclamp_s, first.clamp_s, first.clamp_tol_s)
            for off, load in zip(taken_off(run), run.loads, strict=True)
        ]
        unclamp_s = taken_off(run)[-1] * pace.unclamp_s
        low, high = _shared(released)
        tasks.append(Task(UNCLAMP, unclamp_s, 0, max(low, tasks[0].length_s), high))
        if high < tasks[1].low:
            wrong = "its clamps cannot all be released within the tolerance of the clamp time"
        free_s = tasks[1].low + unclamp_s
    broken = [j for j in run.joints if joints[j].breaks]
    if first.wet_s or first.dry_s:
        wrong = _conditioned(problem, first, broken, closed, tasks, free_s) or wrong
    elif broken:
        windows = [_window(closed[j] - end, first.cure_s, first.cure_tol_s) for j, end in _breaks(problem, broken)]
        low, high = _shared(windows)
        low = max(low, free_s)
        tasks.append(Task(BREAK, _rig_s(problem, broken), 0, low, high))
        wrong = wrong or ("" if high >= low else "its breaks cannot all keep the age; the clamps may come off too late")
    if max(len(load.joints) for load in run.loads) * pace.joint_s > problem.limits(first.glue).open_s:
        wrong = "hands take longer than the glue stays open"
    used = Counter(load.kind for load in run.loads for _ in range(load.clamps))
    return Chain(run, tuple(tasks), dict(used), wrong)


def _rig_s(problem: Problem, broken: list[int]) -> int:
    return sum(problem.pace.at_rig_s(problem.joints[j]) for j in broken)


def _breaks(problem: Problem, broken: list[int]) -> list[tuple[int, int]]:
    """(joint, end of a break in s after the start of them all): of every panel its first and its last section."""
    pace, begin, found = problem.pace, 0, list[tuple[int, int]]()
    for j in broken:
        joint = problem.joints[j]
        found.append((j, begin + pace.sawing_s(joint) + pace.break_s))
        begin += pace.at_rig_s(joint)
        if joint.sections > 1:
            found.append((j, begin))
    return found


def _window(offset: int, wanted: int, tolerance: int) -> Stretch:
    return offset + wanted - tolerance, offset + wanted + tolerance


def _shared(windows: list[Stretch]) -> Stretch:
    return max(a for a, _ in windows), min(b for _, b in windows)


def _conditioned(
    problem: Problem, first: Joint, broken: list[int], closed: dict[int, int], tasks: list[Task], free_s: int
) -> str:
    """Into the bath (all at once) when the cure time is over, out of it, dried, and broken one after the other."""
    pace = problem.pace
    low, high = _shared([_window(c - pace.soak_s, first.cure_s, first.cure_tol_s) for c in closed.values()])
    low = max(low, free_s)
    tasks.append(Task(SOAK, pace.soak_s, 0, low, high))
    if high < low:
        return "it would have to go into conditioning before its clamps are off"
    inside = len(tasks) - 1
    if first.dry_s:
        tasks.append(Task(TAKE_OUT, pace.soak_s, inside, *_window(0, first.wet_s, first.wet_tol_s)))
        if broken:
            dried = [_window(pace.soak_s - end + pace.break_s, first.dry_s, first.wet_tol_s)
                     for _, end in _breaks(problem, broken)]  # fmt: skip
            tasks.append(Task(BREAK, _rig_s(problem, broken), inside + 1, *_shared(dried)))
    elif broken:
        # Wet pieces come out one by one, each to its own break.
        wet = [_window(pace.soak_s - end + pace.break_s, first.wet_s, first.wet_tol_s)
               for _, end in _breaks(problem, broken)]  # fmt: skip
        tasks.append(Task(BREAK, _rig_s(problem, broken), inside, *_shared(wet)))
    late = tasks[-1]
    return "" if late.high >= late.low else "its breaks cannot all keep the length of the conditioning"
