"""The six schedules: how soon the first is there, what the search makes of it, and what the checker finds."""

from __future__ import annotations

import time

from adhaero.core.glue.schedule.checker import check
from adhaero.core.glue.schedule.compose import LOADS
from adhaero.core.glue.schedule.greedy import first_schedule
from adhaero.core.glue.schedule.improve import improve
from benchmarks.instances import INSTANCES, D

SEARCH_S = 20.0


def schedules() -> None:
    """Print one line an instance; days and visits are those of the schedule, and of the best one found."""
    print(f"\nSchedules of glue-ups (search {SEARCH_S:g} s)")
    print(f"{'':22}{'joints':>7}{'runs':>6}{'first s':>9}{'days':>9}{'visits':>7}{'best days':>11}{'visits':>7}"
          f"{'proved':>8}{'ratio':>7}{'loads days':>12}{'broken rules':>13}")  # fmt: skip
    for name, make in INSTANCES.items():
        problem = make()
        begun = time.perf_counter()
        chains, starts, table = first_schedule(problem)
        first_s = time.perf_counter() - begun
        best = improve(problem, chains, starts, 1, SEARCH_S, lambda *_: True)
        loads = first_schedule(problem, LOADS)[2]
        wrong = len(check(problem, table)) + len(check(problem, best.table)) + len(check(problem, loads))
        print(f"{name:22}{len(problem.joints):7}{len(chains):6}{first_s:9.2f}{table.finish_s / D:9.2f}{table.visits:7}"
              f"{best.table.finish_s / D:11.2f}{best.table.visits:7}{'yes' if best.proved else '':>8}"
              f"{best.table.finish_s / table.finish_s:7.3f}{loads.finish_s / D:12.2f}{wrong:13}")  # fmt: skip
