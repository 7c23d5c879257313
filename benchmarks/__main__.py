"""Print what was measured. Read the ratios: absolute times change with the machine and the hour."""

from __future__ import annotations

import itertools
import random
import statistics
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
from fastapi.testclient import TestClient
from scipy import stats

from adhaero.api.app import create_app
from adhaero.core.breaking.signal import SignalTracker
from adhaero.core.cut.blanks import Blank
from adhaero.core.cut.cutlist import Wanted, cutting
from adhaero.core.cut.layout import Board, Need, Rect, Saw
from adhaero.core.plan.forecast import Range
from adhaero.core.plan.questions import plan_for
from adhaero.core.statistics import studentized_range
from adhaero.core.statistics.pairwise import games_howell
from adhaero.workflow.plan.forecast import work_out
from benchmarks.big_batch import PIECES, big_batch
from benchmarks.browser import screens
from benchmarks.comparing import bounded_speed, whole_of_compare
from benchmarks.life_of_work import life_of_work
from benchmarks.schedules import schedules


def timed(what: Callable[[], object], runs: int) -> list[float]:
    """Milliseconds of each run, after one that does not count."""
    what()
    out = []
    for _ in range(runs):
        start = time.perf_counter()
        what()
        out.append(1000 * (time.perf_counter() - start))
    return sorted(out)


def timed_once(what: Callable[[], object]) -> float:
    start = time.perf_counter()
    what()
    return 1000 * (time.perf_counter() - start)


def p95(times: list[float]) -> float:
    return times[min(len(times) - 1, int(0.95 * len(times)))]


def answers(folder: Path) -> None:
    """Each stage's answer for 1,280 specimens, as a ratio to an answer that needs no data."""
    w, batch = big_batch(folder)
    print(f"\nAnswers for {PIECES} specimens (in process, JSON included)")
    print(f"{'':34}{'median ms':>10}{'p95 ms':>9}{'x bare':>8}{'kB':>7}{'after a write':>14}")
    with TestClient(create_app(w), base_url="http://127.0.0.1") as client:
        bare = statistics.median(timed(lambda: client.post("/api/levels", json={"text": "1 mm"}), 50))
        code = client.get(f"/api/batches/{batch}/break").json()["next"]
        size = {"cells": [{"code": code, "quantity": "width", "text": "20.1"}]}
        for name, call in {
            "today": lambda: client.get("/api/today"),
            "plan": lambda: client.get(f"/api/batches/{batch}/plan"),
            "cut": lambda: client.get(f"/api/batches/{batch}/cut"),
            "cut, one size typed": lambda: client.post(f"/api/batches/{batch}/sizes", json=size),
            "glue": lambda: client.get(f"/api/batches/{batch}/glue"),
            "break": lambda: client.get(f"/api/batches/{batch}/break"),
            "compare": lambda: client.get(f"/api/batches/{batch}/compare"),
            "specimens.csv": lambda: client.get(f"/api/batches/{batch}/specimens.csv"),
        }.items():
            times = timed(call, 30)
            # Every reading after a write has to load the facts anew; that is what a bench does all day.
            after = [timed_once(call) for _ in range(40) if client.post(f"/api/batches/{batch}/sizes", json=size)]
            kb = len(call().content) / 1024
            middle = statistics.median(times)
            print(f"  {name:32}{middle:10.1f}{p95(times):9.1f}{middle / bare:8.1f}{kb:7.0f}{p95(sorted(after)):14.1f}")


def statistics_speed() -> None:
    """All pairs of 32 treatments against the general-purpose distribution of the library."""
    rng = np.random.default_rng(1)
    groups = [rng.normal(10, 1.5, 10).tolist() for _ in range(32)]
    ours = statistics.median(timed(lambda: games_howell(groups), 10))
    pairs = games_howell(groups)[:4]
    start = time.perf_counter()
    theirs = [float(stats.studentized_range.sf(p.q, 32, p.df)) for p in pairs]
    library = 1000 * (time.perf_counter() - start) / len(pairs) * 496
    worst = max(abs(t - (p.p or 0)) for t, p in zip(theirs, pairs, strict=True))
    cold = timed(lambda: (studentized_range._log_tail.cache_clear(), games_howell(groups)), 5)
    print("\nAll 496 pairs of 32 treatments, with simultaneous intervals")
    print(f"  ours                            {ours:10.1f} ms ({statistics.median(cold):.1f} ms when k is new)")
    print(f"  library, p alone (4 measured)   {library:10.0f} ms")
    print(f"  ratio {library / ours:.0f}; largest difference of p {worst:.1e}")


def signal_speed() -> None:
    """Following the signal of a pull, a tenth of a second at a time: what a sample costs, early and late."""
    rng = np.random.default_rng(2)
    t = np.arange(0, 600, 1 / 1000)
    f = np.minimum(t * 8, 5000) + rng.normal(0, 3, len(t))
    tracker, costs = SignalTracker(), []
    for start in range(0, len(t), 100):
        begin = time.perf_counter()
        tracker.feed(t[start : start + 100], f[start : start + 100])
        costs.append(1e6 * (time.perf_counter() - begin) / 100)
    early, late = statistics.median(costs[100:600]), statistics.median(costs[-500:])
    print(f"\nFollowing {len(t)} samples at 1 kHz: {late:.2f} us a sample, {late / 10:.2f} % of the time there is")
    print(f"  ratio of the end of the pull to its start {late / early:.2f}")


def cutting_speed() -> None:
    """Allocation and layout on forty boards, and the feedback to a change of a plan."""
    rng = random.Random(1)
    saw = Saw()
    need = Need((Blank("a", 31, 20, 20), Blank("b", 31, 20, 20)), saw)
    knot = (Rect(200, 30, 40, 30),)
    boards = [Board(i, str(i), "ash", rng.randint(600, 1200), rng.randint(90, 200), 44, knot) for i in range(40)]
    print("\nAllocation and layout on 40 boards")
    for pieces, treatments in ((300, 30), (1280, 128)):
        wanted = [Wanted(str(i), i % treatments, "ash", need) for i in range(pieces)]
        few, every = (cutting(wanted, boards, 1, share=s) for s in ("fewest", "all"))
        ms = [
            statistics.median(timed(lambda s=s, w=wanted: cutting(w, boards, 1, share=s), 3)) for s in ("fewest", "all")
        ]
        print(
            f"  {pieces} pieces: {ms[0]:.0f} ms on {len(few.boards)} boards (bound {few.lower_bound}), "
            f"{ms[1]:.0f} ms on all {len(every.boards)}; worst balance {few.balance.worst}, {every.balance.worst}"
        )
    plan = replace(plan_for("pressure-by-age"), replicates=20)
    counts = itertools.count(5)
    ms = timed(lambda: work_out(replace(plan, replicates=next(counts)), Range(4000, 1), {}), 12)
    print(f"  feedback to a change of a plan of 300 pieces: {statistics.median(ms):.0f} ms, worst {ms[-1]:.0f} ms")


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as folder:
        answers(Path(folder))
    with tempfile.TemporaryDirectory() as folder:
        whole_of_compare(Path(folder))
    with tempfile.TemporaryDirectory() as folder:
        life_of_work(Path(folder))
    statistics_speed()
    bounded_speed()
    signal_speed()
    cutting_speed()
    schedules()
    if Path("/usr/bin/chromium").exists():
        with tempfile.TemporaryDirectory() as folder:
            screens(Path(folder))
