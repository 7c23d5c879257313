"""A better schedule than the first: by constraint programming where the whole can be stated, else by taking apart a
part and putting it together again. Both begin with the first one, tell how far they are, and can be stopped.
"""

from __future__ import annotations

import random
import threading
import time
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from adhaero.core.glue.schedule.calendar import overlap
from adhaero.core.glue.schedule.greedy import Starts, put_in, worth
from adhaero.core.glue.schedule.problem import Problem
from adhaero.core.glue.schedule.timetable import Timetable, timetable
from adhaero.core.glue.schedule.timing import Chain

EVEN = 0.05
"""Joints off its share, on average, up to which a treatment counts as evenly spread over the visits."""
WHOLE = 130
"""Runs up to which the whole schedule is stated as one model; larger ones find nothing in the time that people wait."""

Tell = Callable[[Timetable, bool], bool]
"""Told of each better schedule and whether it is proved the best; answers whether to go on."""


@dataclass(frozen=True)
class Improved:
    """The best schedule found. ``proved``: no schedule of these runs ends sooner."""

    starts: Starts
    table: Timetable
    proved: bool


def improve(
    problem: Problem, chains: Sequence[Chain], first: Starts, seed: int, seconds: float, tell: Tell,
    *, deterministic: bool = False,
) -> Improved:  # fmt: skip
    """A schedule no worse than ``first``, sought for ``seconds``.

    ``deterministic`` limits work instead of time (units of the solver, or rounds), so that the search repeats exactly.
    """
    table = timetable(problem, chains, first)
    if not tell(table, False):
        return Improved(first, table, False)
    able = [c for c in chains if not c.impossible]
    if len(able) <= WHOLE and len(first) == len(able):
        return _solve(problem, chains, first, table, seed, seconds, tell, deterministic=deterministic)
    return _rebuild(problem, chains, first, table, seed, seconds, tell, deterministic=deterministic)


def _rebuild(
    problem: Problem, chains: Sequence[Chain], first: Starts, table: Timetable, seed: int, seconds: float, tell: Tell,
    *, deterministic: bool,
) -> Improved:  # fmt: skip
    """Take the runs of a while apart, put them together in another order, keep what is no worse."""
    rng = random.Random(f"rebuild {seed}")
    able = [c for c in chains if not c.impossible]
    by_index = {c.run.index: c for c in able}
    starts, best = dict(first), table
    end, rounds = time.monotonic() + seconds, 0
    while rounds < seconds if deterministic else time.monotonic() < end:
        rounds += 1
        late = sorted(starts, key=lambda i: starts[i][-1])
        count = max(2, min(len(late), int(len(late) * rng.uniform(0.05, 0.25))))
        # Mostly the runs that end last, sometimes any.
        out = set(late[-count:] if rng.random() < 0.5 else rng.sample(late, count))
        out |= set(rng.sample(late, min(len(late), count // 2)))
        back = [by_index[i] for i in out] + [c for c in able if c.run.index not in starts]
        rng.shuffle(back)
        if rng.random() < 0.5:
            back.sort(key=lambda c: -c.span_s)
        tried = put_in(problem, back, {i: s for i, s in starts.items() if i not in out}, chains)
        found = timetable(problem, chains, tried)
        if worth(found) <= worth(best):
            better = worth(found) < worth(best)
            starts, best = tried, found
            if better and not tell(best, False):
                break
        elif not tell(best, False):
            break
    return Improved(starts, best, False)


def _solve(
    problem: Problem, chains: Sequence[Chain], first: Starts, table: Timetable, seed: int, seconds: float, tell: Tell,
    *, deterministic: bool,
) -> Improved:  # fmt: skip
    """First the soonest end; then, within the same visit, the fewest visits; then treatments evenly over those."""
    best = Improved(first, table, False)
    for stage, share in (("finish", 0.5), ("visits", 0.3), ("even", 0.2)):
        if stage == "even" and best.table.spread < EVEN:
            break
        model = _Model(problem, chains, best, stage)
        found, proved, stopped = model.run(seed, seconds * share, tell, deterministic=deterministic)
        if found is not None:
            made = timetable(problem, chains, found)
            if _better(stage, made, best.table):
                best = Improved(found, made, best.proved)
        if stage == "finish":
            best = Improved(best.starts, best.table, proved)
        if stopped or not tell(best.table, best.proved):
            break
    return best


def _better(stage: str, made: Timetable, best: Timetable) -> bool:
    """Whether a later wish was met without giving up an earlier one; a finish within the same visit is as soon."""
    if worth(made) <= worth(best):
        return True
    if stage == "visits":
        return made.visits < best.visits
    return stage == "even" and made.visits <= best.visits and made.spread < best.spread


class _Model:
    """The schedule as constraints: hands one thing at a time, clamps of a kind no more than there are."""

    def __init__(self, problem: Problem, chains: Sequence[Chain], known: Improved, stage: str) -> None:
        # A heavy import (a second or so): only who asks for a better schedule pays for it.
        from ortools.sat.python import cp_model

        self.cp, self.problem, self.known = cp_model, problem, known
        self.chains = [c for c in chains if c.run.index in known.starts]
        self.all_chains = chains
        m = self.model = cp_model.CpModel()
        horizon = known.table.finish_s
        if stage != "finish":
            horizon = next((b for a, b in problem.hours if a < known.table.finish_s <= b), horizon)
        self.starts: dict[tuple[int, int], Any] = {}
        hands, uses = [], {c.key: ([], []) for c in problem.clamps}  # type: ignore[var-annotated]
        ends = []
        for c in self.chains:
            own = []
            for n, t in enumerate(c.tasks):
                domain = [
                    [a, min(b, horizon) - t.length_s] for a, b in problem.hours if min(b, horizon) - t.length_s >= a
                ]
                s = m.new_int_var_from_domain(cp_model.Domain.from_intervals(domain), f"s{c.run.index}.{n}")
                m.add_hint(s, known.starts[c.run.index][n])
                self.starts[c.run.index, n] = s
                own.append(s)
                hands.append(m.new_fixed_size_interval_var(s, t.length_s, f"h{c.run.index}.{n}"))
                if t.after >= 0:
                    m.add_linear_constraint(s - own[t.after], t.low, t.high)
                ends.append(s + t.length_s)
            size = m.new_int_var(0, horizon, f"d{c.run.index}")
            freed = own[c.freeing] + c.tasks[c.freeing].length_s
            m.add(size == freed - own[0])
            held = m.new_interval_var(own[0], size, freed, f"c{c.run.index}")
            for kind, many in c.clamps.items():
                uses[kind][0].append(held)
                uses[kind][1].append(many)
        hands += [m.new_fixed_size_interval_var(a, b - a, f"b{a}") for a, b in problem.busy]
        m.add_no_overlap(hands)
        for kind, a, b, many in problem.held:
            uses[kind][0].append(m.new_fixed_size_interval_var(a, b - a, f"k{kind}{a}"))
            uses[kind][1].append(many)
        for clamp in problem.clamps:
            intervals, demands = uses[clamp.key]
            if intervals:
                m.add_cumulative(intervals, demands, clamp.count)
        if stage == "finish":
            finish = m.new_int_var(0, horizon, "finish")
            m.add_max_equality(finish, ends)
            m.minimize(finish)
        elif stage == "visits":
            m.minimize(self._visits(horizon)[0])
        else:
            visits, inside = self._visits(horizon)
            m.add(visits <= known.table.visits)
            m.minimize(self._unevenness(inside))

    def _unevenness(self, inside: dict[int, list[tuple[int, Any]]]) -> Any:
        """Sum over visits and treatments of the distance from an even share, in joints times all joints placed.

        ``inside`` holds for each run (visit, whether its gluing lies in it).
        """
        joints = self.problem.joints
        placed = [(c, [joints[j].treatment for j in c.run.joints]) for c in self.chains]
        whole = sum(len(own) for _, own in placed)
        totals = Counter(t for _, own in placed for t in own)
        visits: dict[int, list[tuple[Any, list[str]]]] = {}
        for c, own in placed:
            for visit, here in inside[c.run.index]:
                visits.setdefault(visit, []).append((here, own))
        off = []
        for here_own in visits.values():
            for treatment, total in totals.items():
                # count * whole - total * (joints of the visit), of either sign.
                terms = sum(here * (own.count(treatment) * whole - total * len(own)) for here, own in here_own)
                distance = self.model.new_int_var(0, whole * whole, "")
                self.model.add(distance >= terms)
                self.model.add(distance >= -terms)
                off.append(distance)
        return sum(off)

    def _visits(self, horizon: int) -> tuple[Any, dict[int, list[tuple[int, Any]]]]:
        """How many stretches at the bench are used, a task lying in a used one only; and where each run is glued."""
        stretches = [(a, b) for a, b in self.problem.hours if a < horizon]
        used = [self.model.new_bool_var(f"v{n}") for n in range(len(stretches))]
        glued: dict[int, list[tuple[int, Any]]] = {}
        for c in self.chains:
            for n, t in enumerate(c.tasks):
                s = self.starts[c.run.index, n]
                able = [i for i, (a, b) in enumerate(stretches) if overlap([(a, b)], [_reach(s)])]
                inside: list[Any] = []
                for i in able:
                    a, b = stretches[i]
                    here = self.model.new_bool_var("")
                    self.model.add_linear_constraint(s, a, max(a, b - t.length_s)).only_enforce_if(here)
                    self.model.add_implication(here, used[i])
                    inside.append(here)
                    if n == 0:
                        glued.setdefault(c.run.index, []).append((i, here))
                self.model.add_exactly_one(inside)
        return sum(used), glued

    def run(self, seed: int, seconds: float, tell: Tell, *, deterministic: bool) -> tuple[Starts | None, bool, bool]:
        """(starts, proved, stopped by the user)."""
        solver = self.cp.CpSolver()
        solver.parameters.random_seed = seed % (1 << 31)
        if deterministic:
            solver.parameters.num_workers = 1
            solver.parameters.max_deterministic_time = seconds
        else:
            solver.parameters.num_workers = 2
            solver.parameters.max_time_in_seconds = seconds
        watcher = _watcher(self.cp, self, tell)
        done = threading.Event()
        threading.Thread(target=_listen, args=(solver, watcher, tell, done), daemon=True).start()
        try:
            status = solver.solve(self.model, watcher)
        finally:
            done.set()
        if status not in (self.cp.OPTIMAL, self.cp.FEASIBLE):
            return None, False, watcher.stopped
        return self.read(solver.value), status == self.cp.OPTIMAL, watcher.stopped

    def read(self, value: Callable[[Any], int]) -> Starts:
        """The starts of a solution."""
        return {
            c.run.index: [int(value(self.starts[c.run.index, n])) for n in range(len(c.tasks))] for c in self.chains
        }


def _listen(solver: Any, watcher: Any, tell: Tell, done: threading.Event) -> None:
    """Stop a search that finds nothing new as soon as nobody wants it any more."""
    while not done.wait(0.2):
        if not tell(watcher.last, False):
            watcher.stopped = True
            solver.stop_search()
            return


def _reach(s: Any) -> tuple[int, int]:
    flat = s.proto.domain
    return int(flat[0]), int(flat[len(flat) - 1])


def _watcher(cp: Any, model: _Model, tell: Tell) -> Any:
    class Watcher(cp.CpSolverSolutionCallback):  # type: ignore[misc]
        """Tells of every solution; stops the search when nobody wants more."""

        stopped = False
        last = model.known.table

        def on_solution_callback(self) -> None:
            self.last = timetable(model.problem, model.all_chains, model.read(self.value))
            if not tell(self.last, False):
                self.stopped = True
                self.stop_search()

    return Watcher()
