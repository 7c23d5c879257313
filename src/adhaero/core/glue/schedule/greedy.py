"""A schedule at once: run after run is put into the calendar as early as it can, in several orders."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from adhaero.core.glue.schedule.calendar import Calendar
from adhaero.core.glue.schedule.compose import BLOCKS, Run, compose
from adhaero.core.glue.schedule.problem import Problem
from adhaero.core.glue.schedule.timetable import Timetable, timetable
from adhaero.core.glue.schedule.timing import Chain, chain

QUICK = 10_000
"""Runs times stretches of hours up to which several orders are tried."""
Starts = dict[int, list[int]]
"""Index of a run -> starts of its tasks."""


def worth(table: Timetable) -> tuple[int, int, int, float]:
    """What makes one schedule better than another, smaller first: all placed, soon done, few visits, even."""
    return len(table.unplaced), table.finish_s, table.visits, round(table.spread, 6)


def put_in(problem: Problem, order: Sequence[Chain], kept: Mapping[int, Sequence[int]] | None = None,
           chains: Sequence[Chain] = ()) -> Starts:  # fmt: skip
    """Place runs in this order around those ``kept`` (whose chains are among ``chains``)."""
    calendar, starts = Calendar(problem), {}
    for c in chains:
        if kept and c.run.index in kept:
            calendar.book(c, kept[c.run.index])
            starts[c.run.index] = list(kept[c.run.index])
    for c in order:
        found = None if c.impossible else calendar.place(c)
        if found is not None:
            calendar.book(c, found)
            starts[c.run.index] = found
    return starts


def orders(chains: Sequence[Chain], rng: random.Random) -> list[list[Chain]]:
    """Orders worth trying: longest first, tightest windows first, and as dealt."""
    return [
        sorted(chains, key=lambda c: (-c.span_s, c.run.index)),
        sorted(chains, key=lambda c: (sum(t.high - t.low for t in c.tasks[1:]), -c.span_s)),
        rng.sample(list(chains), len(chains)),
    ]


def greedy(
    problem: Problem, chains: Sequence[Chain], seed: int = 0, *, tries: int = 3,
    enough: Callable[[], bool] = lambda: False,
) -> tuple[Starts, Timetable]:  # fmt: skip
    """The best of several orders. ``enough`` may end the trying after the first."""
    rng = random.Random(f"greedy {seed}")
    first = orders(chains, rng)
    best: tuple[Starts, Timetable] | None = None
    for n in range(max(1, tries)):
        order = first[n] if n < len(first) else _nudged(first[n % 2], rng)
        starts = put_in(problem, order)
        table = timetable(problem, chains, starts)
        if best is None or worth(table) < worth(best[1]):
            best = starts, table
        if enough():
            break
    assert best is not None
    return best


def _nudged(order: Sequence[Chain], rng: random.Random) -> list[Chain]:
    """The order with every place a little off."""
    return [c for _, c in sorted((n + rng.gauss(0, len(order) / 6), c) for n, c in enumerate(order))]


def first_schedule(
    problem: Problem, style: str = BLOCKS, seed: int = 0, *, tries: int | None = None
) -> tuple[list[Chain], Starts, Timetable]:
    """Runs composed and placed at once. A run that finds no time is halved until it does, or is a single joint."""
    chains = [chain(problem, r) for r in compose(problem, style, seed)]
    if tries is None:
        # Many joints over many weeks: one order has to do, so that something is there at once.
        tries = 3 if len(chains) * len(problem.hours) < QUICK else 1
    starts, table = greedy(problem, chains, seed, tries=tries)
    while table.unplaced:
        stuck = [c for c in chains if c.run.index not in starts and len(c.run.joints) > 1]
        if not stuck:
            break
        index = max(c.run.index for c in chains) + 1
        halves = [chain(problem, r) for n, c in enumerate(stuck) for r in _halved(c.run, index + 2 * n)]
        chains = [c for c in chains if c not in stuck] + halves
        starts = put_in(problem, sorted(halves, key=lambda c: -c.span_s), starts, chains)
        table = timetable(problem, chains, starts)
    return chains, starts, table


def _halved(run: Run, index: int) -> list[Run]:
    """Two runs of half the clamps each, or, of a single clamp, half its joints."""
    if len(run.loads) > 1:
        middle = len(run.loads) // 2
        parts = run.loads[:middle], run.loads[middle:]
    else:
        load, middle = run.loads[0], len(run.loads[0].joints) // 2
        parts = (replace(load, joints=load.joints[:middle]),), (replace(load, joints=load.joints[middle:]),)
    return [Run(index + n, part) for n, part in enumerate(parts)]
