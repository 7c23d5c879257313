"""Is it strong enough: how many passed the plan's rule, and what the true rate could still be (Clopper-Pearson)."""

from __future__ import annotations

from dataclasses import replace

from adhaero.core.claims.judge import Judge
from adhaero.core.questions.levels import levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Sample, Study
from adhaero.core.statistics.shares import share

PASSED, FAILED, UNTOLD = "passed", "failed", "untold"


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return how many pieces of each level passed, and whether the true pass rate is shown to be high enough."""
    lines: list[Line] = []
    for at in levels_of(q, study, judge):
        own = [_line(q, at.line(x, Standing.UNCLEAR), at.all_of(x), judge) for x in at.ids]
        lines += sorted(own, key=lambda x: -(x.ratio if x.ratio is not None else -1.0))
    return Answer(q, tuple(lines))


def _line(q: Question, x: Line, s: Sample, judge: Judge) -> Line:
    told = [u.passed for u in s.units]
    passed, n = sum(t is True for t in told), sum(t is not None for t in told)
    if not n:
        lost = Standing.STILL_TO_BREAK if s.unbroken else Standing.LEFT_OUT if s.left_out else Standing.NOT_ENOUGH_DATA
        return replace(x, standing=lost)
    at = share(passed, n, judge.inference.alpha)
    standing = Standing.PASSES if at.low > q.share else Standing.FAILS if at.high < q.share else Standing.UNCLEAR
    counts = {PASSED: passed, FAILED: n - passed, UNTOLD: len(told) - n}
    return replace(x, standing=standing, n=n, ratio=at.share, ratio_low=at.low, ratio_high=at.high, counts=counts)
