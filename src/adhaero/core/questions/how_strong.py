"""How strong: the mean with its interval, the weakest piece, and the load that 19 of 20 such pieces would bear."""

from __future__ import annotations

from dataclasses import replace

from adhaero.core.claims.judge import Judge
from adhaero.core.questions.levels import Levels, levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study
from adhaero.core.statistics.descriptive import summarise
from adhaero.core.statistics.tolerance import LEAST, lower_limit


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return the figure of every level, strongest first."""
    lines: list[Line] = []
    for at in levels_of(q, study, judge):
        order = sorted(at.ids, key=at.height, reverse=True)
        lines += [_line(at, x, judge) for x in order]
    return Answer(q, tuple(lines))


def _line(at: Levels, level: str, judge: Judge) -> Line:
    why = at.missing(level)
    line = at.line(level, why or Standing.NOT_COMPARED)
    values = at.all_of(level).values
    if why is not None or len(values) < judge.inference.least:
        return line
    summary = summarise(values, judge.inference.level)
    limit = lower_limit(values, "lognormal") if len(values) >= LEAST and min(values) > 0 else None
    low = None if summary.ci_low is None else max(0.0, summary.ci_low)
    return replace(line, mean_low=low, mean_high=summary.ci_high, bears=limit.limit if limit else None)
