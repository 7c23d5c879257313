"""Is a claim true: that every other level holds at least a share of one level (over 1: so much more than it).

True where each of them is shown to reach it, one-sided, without correction: all have to. Not true where one is shown to
fall short, with the risk shared by all (Holm), since any one of them is enough for that.
"""

from __future__ import annotations

from adhaero.core.claims.claim import Claim
from adhaero.core.claims.judge import Judge
from adhaero.core.questions.levels import Levels, levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study

TRUE, UNTRUE, NOT_SHOWN = "true", "not true", "not shown"


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return for each level whether it bears the claim out, and what follows for the claim."""
    lines: list[Line] = []
    claims: list[Claim] = []
    for at in levels_of(q, study, judge):
        own, said = _held(q, at, judge)
        lines += own
        claims += said
    told = [x.standing for x in lines if x.standing is not Standing.BASE]
    verdict = UNTRUE if Standing.TOO_LITTLE in told else TRUE if told and set(told) == {Standing.ENOUGH} else NOT_SHOWN
    return Answer(q, tuple(lines), tuple(claims), q.against, verdict)


def _held(q: Question, at: Levels, judge: Judge) -> tuple[list[Line], list[Claim]]:
    base, lacks = q.against, at.missing(q.against)
    others = [x for x in at.ids if x != base]
    lost = {x: why for x in others if (why := at.missing(x)) is not None}
    able = [x for x in others if x not in lost and lacks is None]
    alone = dict(zip(able, judge.claims([at.pair(x, base) for x in able], 2 * judge.inference.alpha), strict=True))
    shared = dict(zip(able, judge.claims([at.pair(x, base) for x in able]), strict=True))
    lines = [at.line(base, Standing.BASE)]
    for x in others:
        if x in lost:
            # What fell apart bears nothing out, whatever the base.
            gone = lost[x] is Standing.NOTHING_LEFT and lacks is None
            lines.append(at.line(x, Standing.TOO_LITTLE if gone else lost[x]))
        elif x not in able:
            lines.append(at.line(x, Standing.NOT_COMPARED))
        else:
            lines.append(at.line(x, _standing(alone[x], shared[x], q.share), alone[x]))
    return lines, list(alone.values())


def _standing(alone: Claim, shared: Claim, share: float) -> Standing:
    if alone.low is not None and alone.low >= share:
        return Standing.ENOUGH
    return Standing.TOO_LITTLE if shared.high is not None and shared.high < share else Standing.UNCLEAR
