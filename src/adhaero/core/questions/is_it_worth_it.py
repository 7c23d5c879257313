"""Is it worth its price: a level is beaten where another is as strong or stronger, and cheaper."""

from __future__ import annotations

from dataclasses import replace

from adhaero.core.claims.claim import Claim, Relation
from adhaero.core.claims.judge import Judge
from adhaero.core.questions.better_than import against
from adhaero.core.questions.levels import Levels, levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return how each level stands to the reference in strength, with its cost; or which are beaten on both."""
    lines: list[Line] = []
    claims: list[Claim] = []
    for at in levels_of(q, study, judge):
        own, said = against(at, q.against, judge) if q.against else _frontier(at, study, judge)
        lines += [replace(x, cost=study.cost.get(x.level)) for x in own]
        claims += said
    return Answer(q, tuple(lines), tuple(claims), q.against)


def _frontier(at: Levels, study: Study, judge: Judge) -> tuple[list[Line], list[Claim]]:
    lost = {x: s for x in at.ids if (s := at.missing(x)) is not None}
    able = sorted((x for x in at.ids if x not in lost), key=at.height, reverse=True)
    priced = [x for x in able if x in study.cost]
    pairs = [(a, b) for a in priced for b in priced if a != b and study.cost[a] < study.cost[b]]
    claims = judge.claims([at.pair(a, b) for a, b in pairs])
    beaten = {b for (_, b), c in zip(pairs, claims, strict=True) if c.relation in (Relation.STRONGER, Relation.ALIKE)}
    lines = [
        at.line(x, Standing.NOT_COMPARED if x not in priced else Standing.WEAKER if x in beaten else Standing.TOP)
        for x in able
    ]
    return [*lines, *(at.line(x, why) for x, why in lost.items())], claims
