"""How close to solid wood: each level as a share of the solid pieces of its own wood."""

from __future__ import annotations

from adhaero.core.claims.claim import Claim
from adhaero.core.claims.judge import Judge, Pair
from adhaero.core.questions.levels import OF_RELATION, levels_of
from adhaero.core.questions.question import SOLID, Answer, Line, Question, Standing
from adhaero.core.questions.study import Sample, Study


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return the share of solid wood of each level; without solid pieces that nothing can be said of it."""
    lines: list[Line] = []
    pairs: list[Pair] = []
    wanted: list[tuple[int, str]] = []
    for at in levels_of(q, study, judge):
        for level in sorted(at.ids, key=at.height, reverse=True):
            why = at.missing(level)
            solid = [study.solid.get({**at.at, **s}.get(study.solid_by, ""), Sample()) for s in at.strata]
            if why is None and any(s.held for s in solid):
                wanted.append((len(lines), level))
                name = at.pair(level, level).subject
                pairs.append(Pair(name, SOLID, at.by_stratum(level), solid))
            lines.append(at.line(level, why or Standing.NOT_ENOUGH_DATA))
    claims: list[Claim] = judge.claims(pairs)
    for (place, _), c in zip(wanted, claims, strict=True):
        old = lines[place]
        lines[place] = Line(**{**vars(old), "standing": OF_RELATION[c.relation], "ratio": c.ratio, "ratio_low": c.low,
                               "ratio_high": c.high})  # fmt: skip
    verdict = "" if pairs else "no solid"
    return Answer(q, tuple(lines), tuple(claims), SOLID, verdict)
