"""Questions judged by something else than the average: the weakest piece, how many broke in the wood, how many passed.

Counts are compared by Fisher's test with Holm's correction, against the reference or the level that has most. Of the
weakest pieces no more is said than was seen: what the next one bears may turn their order.
"""

from __future__ import annotations

from dataclasses import replace

from adhaero.core.claims.judge import Judge
from adhaero.core.questions.does_it_pass import FAILED, PASSED, UNTOLD
from adhaero.core.questions.levels import Levels, levels_of
from adhaero.core.questions.question import Answer, JudgeBy, Line, Question, QuestionKind, Standing
from adhaero.core.questions.study import Study
from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.shares import Share, fisher, share

CAN = (QuestionKind.WHICH_IS_BEST, QuestionKind.BETTER_THAN)
"""Kinds that can be judged so: an order answers them. Whether it matters, or is enough, no order of levels says."""


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return the levels in the order of their weakest pieces, or of how many came out well."""
    lines: list[Line] = []
    base = ""
    for at in levels_of(q, study, judge):
        own, first = _by_weakest(q, at) if q.judge_by == JudgeBy.WEAKEST else _by_counts(q, at, judge)
        lines += own
        base = base or first
    return Answer(q, tuple(lines), base=base)


def _by_weakest(q: Question, at: Levels) -> tuple[list[Line], str]:
    told = [at.line(x, Standing.UNCLEAR) for x in at.ids]
    seen = sorted((x for x in told if x.n or x.fallen), key=lambda x: 0.0 if x.fallen else -(x.lowest or 0.0))
    seen.sort(key=lambda x: x.fallen > 0)
    best = seen[0].level if seen and not seen[0].fallen else ""
    lines = [replace(x, standing=_of_weakest(x, best)) for x in seen]
    return [*lines, *(replace(x, standing=_unseen(x)) for x in told if x not in seen)], q.against or best


def _of_weakest(x: Line, best: str) -> Standing:
    if x.level == best:
        return Standing.TOP
    return Standing.NOTHING_LEFT if not x.n else Standing.UNCLEAR


def _unseen(x: Line) -> Standing:
    return Standing.STILL_TO_BREAK if x.unbroken else Standing.NOT_ENOUGH_DATA


def _by_counts(q: Question, at: Levels, judge: Judge) -> tuple[list[Line], str]:
    told: dict[str, tuple[Line, Share]] = {}
    unseen: list[Line] = []
    for x in at.ids:
        s, line = at.all_of(x), at.line(x, Standing.UNCLEAR)
        if q.judge_by == JudgeBy.WOOD:
            good, n = s.in_wood, sum(bool(u.mode) for u in s.units)
        else:
            good, n = sum(u.passed is True for u in s.units), sum(u.passed is not None for u in s.units)
        if not n:
            unseen.append(replace(line, standing=_unseen(line)))
            continue
        found = share(good, n, judge.inference.alpha)
        counts = {PASSED: good, FAILED: n - good, UNTOLD: len(s.units) - n}
        told[x] = replace(line, ratio=found.share, ratio_low=found.low, ratio_high=found.high, counts=counts), found
    order = sorted(told, key=lambda x: -(told[x][1].share or 0.0))
    base = q.against if q.against in told else order[0] if order else ""
    others = [x for x in order if x != base]
    p = dict(zip(others, holm([fisher(told[x][1], told[base][1]) for x in others]), strict=True))
    lines = [_placed(q, told, x, base, p.get(x, 1.0), judge) for x in order]
    return [*lines, *unseen], base


def _placed(
    q: Question, told: dict[str, tuple[Line, Share]], x: str, base: str, p: float, judge: Judge
) -> Line:  # fmt: skip
    line, own = told[x]
    if x == base:
        return replace(line, standing=Standing.BASE if q.against == base else Standing.TOP)
    if p < judge.inference.alpha:
        less = (own.share or 0.0) < (told[base][1].share or 0.0)
        return replace(line, standing=Standing.WEAKER if less else Standing.STRONGER)
    return line
