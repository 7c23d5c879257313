"""Does it depend: the contrast of levels against one, in each level of another factor, and whether these differ."""

from __future__ import annotations

import math
from itertools import combinations
from statistics import NormalDist

from adhaero.core.claims.claim import Claim, Relation
from adhaero.core.claims.judge import Judge, Pair
from adhaero.core.questions.levels import OF_RELATION, levels_of, line_of, missing
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study

DIFFERS, SAME, UNKNOWN = "differs", "same in each", "unknown"
ONE_SD = 0.3173
"""The risk of an interval that reaches one standard error to either side."""


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return each level against the base in every stratum, and whether the contrast is the same in all of them."""
    lines: list[Line] = []
    pairs: list[Pair] = []
    place: list[int] = []
    ats = levels_of(q, study, judge)
    base = q.against or (ats[0].ids[0] if ats and ats[0].ids else "")
    for at in ats:
        within = next(iter(at.at.values()), "")
        lines.append(at.line(base, Standing.BASE))
        lacks = at.missing(base)
        for x in at.ids:
            if x == base:
                continue
            why = missing(at.all_of(x), judge.inference.least) or (lacks and Standing.NOT_COMPARED)
            if why is None:
                place.append(len(lines))
                pairs.append(at.pair(x, base))
            lines.append(line_of(x, at.all_of(x), why or Standing.UNCLEAR, within=within))
    claims = judge.claims(pairs)
    for i, c in zip(place, claims, strict=True):
        lines[i] = Line(**{**vars(lines[i]), "standing": OF_RELATION[c.relation], "ratio": c.ratio, "ratio_low": c.low,
                           "ratio_high": c.high})  # fmt: skip
    return Answer(q, tuple(lines), tuple(claims), base, _verdict(claims, pairs, judge))


def _verdict(claims: list[Claim], pairs: list[Pair], judge: Judge) -> str:
    """Whether the ratios differ between strata: by the differences of their logarithms, each at its share of risk."""
    known: dict[str, list[tuple[Claim, float, float]]] = {}
    for c, p in zip(claims, pairs, strict=True):
        low, high = judge.found(p.first, p.second).interval(ONE_SD)
        if c.ratio and low and high:
            level = c.subject.partition(" | ")[0]
            known.setdefault(level, []).append((c, math.log(c.ratio), math.log(high / low) / 2))
    several = [(a, b) for own in known.values() for a, b in combinations(own, 2)]
    z = NormalDist().inv_cdf(1 - judge.inference.alpha / 2 / max(1, len(several)))
    off = [(abs(a[1] - b[1]), z * math.hypot(a[2], b[2])) for a, b in several]
    if any(d > wide for d, wide in off):
        return DIFFERS
    turned = any({a[0].relation, b[0].relation} == {Relation.STRONGER, Relation.WEAKER} for a, b in several)
    if turned:
        return DIFFERS
    near = bool(off) and max(d + wide for d, wide in off) < math.log1p(2 * judge.inference.margin)
    return SAME if near and len({c.relation for c in claims}) == 1 else UNKNOWN
