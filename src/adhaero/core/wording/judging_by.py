"""Answers judged by the weakest piece, by breaks in the wood, or by the plan's rule; the average stands beside them."""

from __future__ import annotations

from adhaero.core.questions.does_it_pass import FAILED, PASSED
from adhaero.core.questions.question import Answer, JudgeBy, Line, Standing
from adhaero.core.wording.say import MOST_NAMES, Say, apart, joined, row, sentences

BY = {JudgeBy.WOOD: "by breaks in the wood", JudgeBy.LIMIT: "by your rule"}
DONE = {JudgeBy.WOOD: "broke in the wood", JudgeBy.LIMIT: "passed"}


def told(say: Say, a: Answer) -> list[str]:
    """Return what was asked for first, then the averages."""
    q = a.question
    if not any(x.n or x.counts for x in a.lines):
        return sentences(["nothing is broken yet", "; ".join(apart(say, q.of, a.lines))])
    first = _weakest(say, a) if q.judge_by == JudgeBy.WEAKEST else _counted(say, a)
    seen = sorted((x for x in a.lines if x.n), key=lambda x: -(x.figure or 0.0))
    averages = f"on average: {say.with_figures(q.of, seen)}" if seen else ""
    return sentences([*first, averages])


def _weakest(say: Say, a: Answer) -> list[str]:
    q, seen = a.question, [x for x in a.lines if x.n and not x.fallen]
    if not seen:
        return ["; ".join(apart(say, q.of, a.lines))]

    def lowest(x: Line) -> str:
        least = "at least " if x.at_least else ""
        return f"{say.name(q.of, x.level)} ({least}{say.show(x.lowest or 0.0)})"

    first = f"by the weakest piece, {lowest(seen[0])} comes first"
    if len(seen) > 1:
        first += f", then {row([lowest(x) for x in seen[1:]])}"
    fell = [x for x in a.lines if x.fallen]
    if fell:
        names = joined([f"{say.name(q.of, x.level)} ({x.fallen} of {x.fallen + x.n})" for x in fell[:MOST_NAMES]])
        return [f"{first}; some or all fell apart of {names}"]
    return [f"{first}; the next piece could turn this order"]


def _counted(say: Say, a: Answer) -> list[str]:
    q = a.question
    by = JudgeBy(q.judge_by)
    counted = [x for x in a.lines if x.counts]

    def count(x: Line) -> str:
        good = x.counts.get(PASSED, 0)
        return f"{say.name(q.of, x.level)} {good} of {good + x.counts.get(FAILED, 0)}"

    if not counted:
        return [f"{BY[by]} nothing can be said: no piece was looked at"]
    first = f"{BY[by]}: {row([count(x) for x in counted])} {DONE[by]}"
    base = say.name(q.of, a.base)
    parts = []
    for standing, way in ((Standing.STRONGER, "more often"), (Standing.WEAKER, "less often")):
        own = [say.name(q.of, x.level) for x in counted if x.standing is standing]
        if own:
            parts.append(f"{row(own)} {way} than {base}")
    open_ = [x for x in counted if x.standing is Standing.UNCLEAR]
    if open_ and not parts:
        parts.append("so few pieces show no clear difference")
    return [first, "; ".join(parts)]
