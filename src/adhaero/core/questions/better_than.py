"""Is it better than what I use: each level against one, as one family of comparisons."""

from __future__ import annotations

from adhaero.core.claims.claim import Claim
from adhaero.core.claims.judge import Judge
from adhaero.core.questions.levels import OF_RELATION, Levels, levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study

ORDER = (Standing.STRONGER, Standing.ALIKE, Standing.UNCLEAR, Standing.WEAKER, Standing.NOT_ENOUGH_DATA,
         Standing.NOTHING_LEFT, Standing.NOT_COMPARED, Standing.LEFT_OUT, Standing.STILL_TO_BREAK)  # fmt: skip


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return how each level stands to the reference."""
    lines: list[Line] = []
    claims: list[Claim] = []
    for at in levels_of(q, study, judge):
        own, said = against(at, q.against, judge)
        lines += own
        claims += said
    return Answer(q, tuple(lines), tuple(claims), q.against)


def against(at: Levels, base: str, judge: Judge) -> tuple[list[Line], list[Claim]]:
    """Each level against ``base``; a level that cannot be judged says why. Where the reference itself cannot be judged,
    what held in enough pieces is stronger than one that fell apart, and not compared with one that is missing.
    """
    others = [x for x in at.ids if x != base]
    why = at.missing(base)
    fell = why is Standing.NOTHING_LEFT
    lost = {x: s for x in others if (s := at.missing(x)) is not None}
    able = [x for x in others if x not in lost or (lost[x] is Standing.NOTHING_LEFT and not fell and why is None)]
    claims = judge.claims([at.pair(x, base) for x in able]) if why is None or fell else []
    by_level = dict(zip(able, claims, strict=False))
    lines = [at.line(base, Standing.BASE)]
    for x in others:
        if x in lost:
            lines.append(at.line(x, lost[x], by_level.get(x)))
        elif x in by_level:
            lines.append(at.line(x, OF_RELATION[by_level[x].relation], by_level[x]))
        else:
            lacking = why is Standing.NOT_ENOUGH_DATA
            lines.append(at.line(x, Standing.NOT_ENOUGH_DATA if lacking else Standing.NOT_COMPARED))
    # The pieces of a small reference say nothing of the others either.
    return lines[:1] + sorted(lines[1:], key=lambda x: (ORDER.index(x.standing), -(x.figure or 0.0))), claims
