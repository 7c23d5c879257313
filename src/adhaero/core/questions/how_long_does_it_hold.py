"""How long does it hold under a load, or outdoors: medians of survival, and which last longer by order (Gehan)."""

from __future__ import annotations

import math
from dataclasses import replace

from adhaero.core.claims.claim import Basis, Claim, Relation
from adhaero.core.claims.judge import Judge
from adhaero.core.questions.levels import Levels, levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Sample, Study
from adhaero.core.statistics.gehan import gehan

HOLDING = "still holding"


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return which level lasts longest. Figures are median times: by when half of the pieces had failed."""
    lines: list[Line] = []
    claims: list[Claim] = []
    for at in levels_of(q, study, judge):
        own, said = _of_group(at, judge)
        lines += own
        claims += said
    return Answer(q, tuple(lines), tuple(claims), lines[0].level if lines else "")


def median_of(s: Sample) -> tuple[float, float]:
    """The two times between which half of the pieces had failed; pieces that still hold are counted last."""
    lows = sorted(u.low if math.isfinite(u.high) else math.inf for u in s.held)
    highs = sorted(u.high for u in s.held)
    n = len(lows)
    if not n:
        return math.nan, math.nan
    if n % 2:
        return lows[n // 2], highs[n // 2]
    low, high = (lows[n // 2 - 1] + lows[n // 2]) / 2, (highs[n // 2 - 1] + highs[n // 2]) / 2
    return low, high


def _of_group(at: Levels, judge: Judge) -> tuple[list[Line], list[Claim]]:
    lost = {x: s for x in at.ids if (s := at.missing(x)) is not None}
    able = sorted((x for x in at.ids if x not in lost), key=lambda x: _rank(at.all_of(x)), reverse=True)
    least, k = judge.inference.alpha, max(1, len(able) - 1)
    out: dict[str, Claim] = {}
    for i, x in enumerate(able):
        for other in able[:i]:
            found = gehan(at.all_of(other).bounds, at.all_of(x).bounds)
            if found is not None and found.score > 0 and found.p / 2 < least / k:
                n = min(len(at.all_of(y).held) for y in (x, other))
                out[x] = Claim(x, other, Relation.WEAKER, n=n, basis=Basis.ORDER, p=found.p)
                break
    lines = []
    for x in able:
        standing = Standing.WEAKER if x in out else Standing.TOP if out else Standing.UNCLEAR
        lines.append(_line(at, x, standing))
    seen = sorted((x for x in lost if at.all_of(x).held), key=lambda x: _rank(at.all_of(x)), reverse=True)
    rest = [x for x in lost if x not in seen]
    return [*lines, *(_line(at, x, lost[x]) for x in [*seen, *rest])], list(out.values())


def _rank(s: Sample) -> tuple[float, int, float]:
    low, high = median_of(s)
    return (low if math.isfinite(low) else 1e300, s.unbounded, high if math.isfinite(high) else 1e300)


def _line(at: Levels, level: str, standing: Standing) -> Line:
    s = at.all_of(level)
    low, high = median_of(s)
    last = max((u.low for u in s.held), default=None)
    known = math.isfinite(low)
    return replace(at.line(level, standing), figure=low if known else last, at_least=not known, lowest=last,
                   high=high if math.isfinite(high) else None, counts={HOLDING: s.unbounded})  # fmt: skip
