"""Which is strongest: who may be the best, who leads, and who is shown weaker.

A level is weaker where it is shown to lie below some other one. The best as measured is picked from all, so any two
that are truly alike could be set against each other by chance: the risk is shared by all pairs of those still in the
group, and as levels go out of it, fewer share it (J. P. Shaffer, J. Am. Statist. Assoc. 81, 1986). While any two of the
group are truly alike, a false "weaker" has at most the risk of the plan. Comparison with the best alone (J. C. Hsu,
Annals of Statistics 9, 1981) keeps the truly best in the group, but calls one of eight equal glues weaker in a fifth of
all studies. Leaders are the best as measured and those of the group within what matters of it; the rest of the group
cannot be placed yet.
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
    best = able[0]
    claims, out = _step_down(at, able, judge)
    told: list[Line] = []
    for x in able:
        near = x == best or math.exp(at.height(x) - at.height(best)) >= 1 - judge.inference.margin
        standing = Standing.WEAKER if x in out else Standing.TOP if near else Standing.UNCLEAR
        told.append(at.line(x, standing, claims.get(x)))
    order = (Standing.TOP, Standing.UNCLEAR, Standing.WEAKER)
    told.sort(key=lambda line: order.index(line.standing))
    # One or two pieces neither throw another out nor are thrown out; what fell apart is told last.
    lines = [*told, *(at.line(x, lost[x]) for x in [*seen, *rest])]
    own = {c.id: c for c in (*claims.values(), *out.values())}
    return lines, list(own.values()), best


def _step_down(at: Levels, able: list[str], judge: Judge) -> tuple[dict[str, Claim], dict[str, Claim]]:
    """Return the claim of each level against the best, and for each weaker level the claim that shows it."""
    best, claims, out = able[0], dict[str, Claim](), dict[str, Claim]()
    p = {x: judge.found(at.pair(x, best)).p_above for x in able[1:]}
    # What lies below the best most clearly comes first: its chance to be no weaker is the smallest.
    for x in sorted(p, key=lambda x: p[x], reverse=True):
        group = len(able) - len(out)
        risk = judge.inference.alpha / max(1, group * (group - 1) // 2)
        (claims[x],) = judge.claims([at.pair(x, best)], risk)
        shown = claims[x] if claims[x].relation is Relation.WEAKER else _beaten(at, x, able, judge, risk)
        if shown is not None:
            out[x] = shown
    return claims, out


def _beaten(at: Levels, level: str, able: list[str], judge: Judge, risk: float) -> Claim | None:
    """Return the claim that a level is weaker than some other but the best; ``None`` if there is none."""
    for x in able[1:]:
        if at.height(x) > at.height(level):
            (claim,) = judge.claims([at.pair(level, x)], risk)
            if claim.relation is Relation.WEAKER:
                return claim
    return None
