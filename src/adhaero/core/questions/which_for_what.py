"""Which for what: one pick for each job.

Of the levels whose every piece passed the plan's rule there, the cheapest; where no price is known, the strongest. With
fewer pieces than can be judged nothing is picked.
"""

from __future__ import annotations

from dataclasses import replace

from adhaero.core.claims.judge import Judge
from adhaero.core.questions.does_it_pass import FAILED, PASSED, UNTOLD
from adhaero.core.questions.levels import Levels, levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study

CHEAPEST, STRONGEST = "cheapest", "strongest"


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return for each job the pick first, then what passed too, then what did not."""
    lines: list[Line] = []
    priced = bool(study.cost)
    for at in levels_of(q, study, judge):
        told = [_line(at, x, study, judge) for x in at.ids]
        able = [x for x in told if x.standing is Standing.PASSES and (not priced or x.cost is not None)]
        pick = min(able, key=lambda x: (x.cost or 0.0, -(x.figure or 0.0)), default=None)
        told = [replace(x, standing=Standing.TOP) if x is pick else x for x in told]
        order = (Standing.TOP, Standing.PASSES, Standing.FAILS)
        told.sort(key=lambda x: (order.index(x.standing) if x.standing in order else len(order), -(x.figure or 0.0)))
        lines += told
    return Answer(q, tuple(lines), verdict=CHEAPEST if priced else STRONGEST)


def _line(at: Levels, level: str, study: Study, judge: Judge) -> Line:
    s = at.all_of(level)
    told = [u.passed for u in s.units]
    passed, failed = sum(t is True for t in told), sum(t is False for t in told)
    counts = {PASSED: passed, FAILED: failed, UNTOLD: len(told) - passed - failed}
    if failed:
        standing = Standing.FAILS
    elif s.unbroken and not told:
        standing = Standing.STILL_TO_BREAK
    elif passed >= judge.inference.least and passed == len(told):
        standing = Standing.PASSES
    else:
        standing = at.missing(level) or Standing.NOT_ENOUGH_DATA
    return replace(at.line(level, standing), counts=counts, cost=study.cost.get(level))
