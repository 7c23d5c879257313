"""Which is strongest: comparison with the best (J. C. Hsu, Annals of Statistics 9, 1981).

A level is out of the top group only where some other is shown stronger, one-sided at alpha / (k - 1): only its own
k - 1 comparisons can throw the truly best one out. Leaders are the best as measured and those of the group within what
matters of it; the rest of the group cannot be placed yet.
"""

from __future__ import annotations

import math

from adhaero.core.claims.claim import Claim, Relation
from adhaero.core.claims.judge import Judge
from adhaero.core.questions.levels import Levels, levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return who leads, who is weaker, and of whom nothing can be said."""
    lines: list[Line] = []
    claims: list[Claim] = []
    base = ""
    for at in levels_of(q, study, judge):
        own, said, best = _of_group(at, judge)
        lines += own
        claims += said
        base = base or best
    return Answer(q, tuple(lines), tuple(claims), base)


def _of_group(at: Levels, judge: Judge) -> tuple[list[Line], list[Claim], str]:
    lost = {x: why for x in at.ids if (why := at.missing(x)) is not None}
    able = sorted((x for x in at.ids if x not in lost), key=at.height, reverse=True)
    seen = sorted(
        (x for x, why in lost.items() if why is Standing.NOT_ENOUGH_DATA and at.all_of(x).held), key=at.height,
        reverse=True,
    )  # fmt: skip
    rest = [x for x in lost if x not in seen]
    if not able:
        return [at.line(x, lost[x]) for x in [*seen, *rest]], [], ""
    best, risk = able[0], 2 * judge.inference.alpha / max(1, len(able) - 1)
    claims = dict(zip(able[1:], judge.claims([at.pair(x, best) for x in able[1:]], risk), strict=True))
    beaten = {x: c for x in able if (c := _beaten(at, x, able, judge, risk)) is not None}
    told: list[Line] = []
    for x in able:
        near = x == best or math.exp(at.height(x) - at.height(best)) >= 1 - judge.inference.margin
        standing = Standing.WEAKER if x in beaten else Standing.TOP if near else Standing.UNCLEAR
        told.append(at.line(x, standing, claims.get(x)))
    order = (Standing.TOP, Standing.UNCLEAR, Standing.WEAKER)
    told.sort(key=lambda line: order.index(line.standing))
    # One or two pieces neither throw another out nor are thrown out; what fell apart is told last.
    lines = [*told, *(at.line(x, lost[x]) for x in [*seen, *rest])]
    own = {c.id: c for c in (*claims.values(), *beaten.values())}
    return lines, list(own.values()), best


def _beaten(at: Levels, level: str, able: list[str], judge: Judge, risk: float) -> Claim | None:
    """Return the claim that a level is weaker than some other, and so not among the best; ``None`` if there is none."""
    higher = [x for x in able if x != level and at.height(x) > at.height(level)]
    claims = judge.claims([at.pair(level, x) for x in higher], risk)
    return next((c for c in claims if c.relation is Relation.WEAKER), None)
