"""How much is enough: from which level on, or up to which, the share that counts is reached.

The base is the level asked for, else the sound end (the longest time, the strongest pressure, the smallest gap), else
the best where a level in the middle is shown to be better than that end. From the base outwards each level is held
against it with a one-sided bound, without correction, as long as the bound stays above the share (fixed sequence).
"""

from __future__ import annotations

from dataclasses import replace

from adhaero.core.claims.claim import Claim, Relation
from adhaero.core.claims.judge import Judge
from adhaero.core.questions.levels import Levels, levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return which levels are enough, which too little, and what is held against what."""
    lines: list[Line] = []
    claims: list[Claim] = []
    base = ""
    for at in levels_of(q, study, judge):
        own, said, base = _along(q, at, judge)
        lines += own
        claims += said
    return Answer(q, tuple(lines), tuple(claims), base)


def sound_first(at: Levels) -> list[str]:
    """The levels from the sound end on; words, which have no place on the axis, come last."""
    sized = [x for x in at.of.levels if x.size is not None and x.id in at.ids]
    sized.sort(key=lambda x: x.size or 0.0, reverse=not at.of.less_is_sound)
    words = [x.id for x in at.of.levels if x.size is None and x.id in at.ids]
    return [*(x.id for x in sized), *words]


def _along(q: Question, at: Levels, judge: Judge) -> tuple[list[Line], list[Claim], str]:
    order = sound_first(at)
    lost = {x: s for x in order if (s := at.missing(x)) is not None}
    able = [x for x in order if x not in lost]
    if not able:
        return [at.line(x, lost[x]) for x in order], [], ""
    base = q.against if q.against in able else _base(at, able, judge)
    others = [x for x in able if x != base]
    # Twice the risk, two-sided, is a one-sided bound at the risk itself.
    claims = dict(zip(others, judge.claims([at.pair(x, base) for x in others], 2 * judge.inference.alpha), strict=True))
    lines = []
    for x in order:
        if x in lost:
            lines.append(at.line(x, lost[x]))
        elif x == base:
            lines.append(replace(at.line(x, Standing.ENOUGH), ratio=1.0))
        else:
            lines.append(at.line(x, _reaches(claims[x], q.share), claims[x]))
    return lines, list(claims.values()), base


def _base(at: Levels, able: list[str], judge: Judge) -> str:
    end, best = able[0], max(able, key=at.height)
    if best == end:
        return end
    (claim,) = judge.claims([at.pair(best, end)])
    return best if claim.relation is Relation.STRONGER else end


def _reaches(c: Claim, share: float) -> Standing:
    if c.ratio is None or c.low is None or c.high is None:
        told = {Relation.WEAKER: Standing.TOO_LITTLE, Relation.STRONGER: Standing.ENOUGH}
        return told.get(c.relation, Standing.UNCLEAR)
    if c.low >= share:
        return Standing.ENOUGH
    return Standing.TOO_LITTLE if c.high < share else Standing.UNCLEAR
