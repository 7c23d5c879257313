"""Does it depend: the contrast of levels against one, in each level of another factor, and whether these differ."""

from __future__ import annotations

import math

from adhaero.core.claims.claim import Claim, Relation
from adhaero.core.claims.differing import differences
from adhaero.core.claims.judge import Judge, Pair
from adhaero.core.questions.levels import OF_RELATION, levels_of, line_of, missing
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study

DIFFERS, SAME, UNKNOWN = "differs", "same in each", "unknown"


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
    """Whether the ratios of a level differ between strata, all levels sharing the risk."""
    known: dict[str, list[Pair]] = {}
    for c, p in zip(claims, pairs, strict=True):
        known.setdefault(_level(c), []).append(p)
    risk = judge.inference.alpha / max(1, sum(math.comb(len(own), 2) for own in known.values()))
    ends = [e for own in known.values() for e in differences(own, judge, risk)]
    said = {(_level(c), c.relation) for c in claims}
    turned = any((x, Relation.WEAKER) in said for x, r in said if r is Relation.STRONGER)
    if turned or any(low > 0 or high < 0 for low, high in ends):
        return DIFFERS
    near = bool(ends) and max(max(-low, high) for low, high in ends) < math.log1p(2 * judge.inference.margin)
    return SAME if near and len({c.relation for c in claims}) == 1 else UNKNOWN


def _level(c: Claim) -> str:
    return c.subject.partition(" | ")[0]
