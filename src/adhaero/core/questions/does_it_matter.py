"""Does it make any difference: the size of difference that is still possible, not a trend's p."""

from __future__ import annotations

from itertools import combinations

from adhaero.core.claims.claim import Claim, Relation
from adhaero.core.claims.judge import Judge
from adhaero.core.questions.better_than import against
from adhaero.core.questions.levels import Levels, levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study

YES, NO, PARTLY, UNKNOWN, FEW = "yes", "no", "partly", "unknown", "few"


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return whether levels differ by what matters: against one of them, else each with each."""
    lines: list[Line] = []
    claims: list[Claim] = []
    for at in levels_of(q, study, judge):
        own, said = against(at, q.against, judge) if q.against else _among(at, judge)
        lines += own
        claims += said
    return Answer(q, tuple(lines), tuple(claims), q.against, _verdict(claims))


def _verdict(claims: list[Claim]) -> str:
    told = {c.relation for c in claims}
    differ = bool(told & {Relation.STRONGER, Relation.WEAKER})
    if not told or told == {Relation.NOT_ENOUGH_DATA}:
        return FEW
    if differ:
        return PARTLY if Relation.ALIKE in told else YES
    return NO if told == {Relation.ALIKE} else UNKNOWN


def _among(at: Levels, judge: Judge) -> tuple[list[Line], list[Claim]]:
    lost = {x: s for x in at.ids if (s := at.missing(x)) is not None}
    able = sorted((x for x in at.ids if x not in lost), key=at.height, reverse=True)
    claims = judge.claims([at.pair(a, b) for a, b in combinations(able, 2)])
    # The first of a pair is never the lower one, as measured.
    above = {a for (a, _), c in zip(combinations(able, 2), claims, strict=True) if c.relation is Relation.STRONGER}
    below = {b for (_, b), c in zip(combinations(able, 2), claims, strict=True) if c.relation is Relation.STRONGER}
    alike = all(c.relation is Relation.ALIKE for c in claims)
    lines = []
    for x in able:
        standing = Standing.WEAKER if x in below else Standing.STRONGER if x in above else (
            Standing.ALIKE if alike and claims else Standing.UNCLEAR
        )  # fmt: skip
        lines.append(at.line(x, standing))
    return [*lines, *(at.line(x, why) for x, why in lost.items())], claims
