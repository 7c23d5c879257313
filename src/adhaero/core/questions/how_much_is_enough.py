"""How much is enough: from which level on, or up to which, the share that counts is reached.

The base is the level asked for, else the sound end (the longest time, the strongest pressure, the smallest gap), else
the best where a level in the middle is shown to be better than that end, or where that end scatters far more than the
others (crushed pieces), so that nothing could be held against it. From the base outwards each level is held against it
with a one-sided bound, without correction, as long as the bound stays above the share (fixed sequence): beyond the
first that does not, a level is no longer called enough.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from statistics import fmean

import scipy

from adhaero.core.claims.claim import Basis, Claim, Relation
from adhaero.core.claims.judge import Judge
from adhaero.core.questions.levels import Levels, levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study

SCATTERED_END = "the sound end scatters"
"""Verdict: the sound end scatters far more than the other levels, so the best level is the reference instead."""
RISK_OF_END = 0.01
"""Chance of passing over an end that scatters no more than the other levels do."""


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return which levels are enough, which too little, and what is held against what."""
    lines: list[Line] = []
    claims: list[Claim] = []
    base = verdict = ""
    for at in levels_of(q, study, judge):
        own, said, base, verdict = _along(q, at, judge)
        lines += own
        claims += said
    return Answer(q, tuple(lines), tuple(claims), base, verdict)


def sound_first(at: Levels) -> list[str]:
    """The levels from the sound end on; words, which have no place on the axis, come last."""
    sized = [x for x in at.of.levels if x.size is not None and x.id in at.ids]
    sized.sort(key=lambda x: x.size or 0.0, reverse=not at.of.less_is_sound)
    words = [x.id for x in at.of.levels if x.size is None and x.id in at.ids]
    return [*(x.id for x in sized), *words]


def _along(q: Question, at: Levels, judge: Judge) -> tuple[list[Line], list[Claim], str, str]:
    order = sound_first(at)
    lost = {x: s for x in order if (s := at.missing(x)) is not None}
    able = [x for x in order if x not in lost]
    if not able:
        return [at.line(x, lost[x]) for x in order], [], "", ""
    base, verdict = (q.against, "") if q.against in able else _base(at, able, judge)
    others = [x for x in able if x != base]
    # Twice the risk, two-sided, is a one-sided bound at the risk itself.
    claims = dict(zip(others, judge.claims([at.pair(x, base) for x in others], 2 * judge.inference.alpha), strict=True))
    stands = {x: lost[x] if x in lost else _reaches(claims[x], q.share) for x in order if x != base}
    for x in _beyond([y for y in order if at.of.level(y).size is not None], base, stands):
        stands[x] = Standing.UNCLEAR
    lines = [replace(at.line(x, Standing.ENOUGH), ratio=1.0) if x == base else at.line(x, stands[x], claims.get(x))
             for x in order]  # fmt: skip
    return lines, list(claims.values()), base, verdict


def _beyond(axis: Sequence[str], base: str, stands: Mapping[str, Standing]) -> Iterator[str]:
    """Yield the levels beyond one that is not shown to be enough, though they would be enough by themselves."""
    if base not in axis:
        return
    at = axis.index(base)
    for outwards in (axis[at + 1 :], axis[:at][::-1]):
        stopped = False
        for x in outwards:
            if stopped and stands[x] is Standing.ENOUGH:
                yield x
            stopped |= stands[x] in (Standing.UNCLEAR, Standing.TOO_LITTLE, Standing.NOTHING_LEFT)


def _base(at: Levels, able: list[str], judge: Judge) -> tuple[str, str]:
    end, best = able[0], max(able, key=at.height)
    if best == end:
        return end, ""
    if _scatters(end, [x for x in able if x != end], at):
        return best, SCATTERED_END
    (claim,) = judge.claims([at.pair(best, end)])
    return (best if claim.relation is Relation.STRONGER else end), ""


def _scatters(end: str, others: Sequence[str], at: Levels) -> bool:
    """Whether the end scatters more than the others do, by the ratio of their squared CVs (F)."""
    own, rest = _cv2_of(end, at), [c for x in others if (c := _cv2_of(x, at)) is not None]
    if own is None or not rest:
        return False
    pooled = fmean(x for x, _ in rest)
    if pooled <= 0:
        return False
    return bool(scipy.stats.f.sf(own[0] / pooled, own[1], sum(d for _, d in rest)) < RISK_OF_END)


def _cv2_of(level: str, at: Levels) -> tuple[float, int] | None:
    """The squared CV of a level, the mean over its strata, with its degrees of freedom."""
    found = [(x.cv2, x.n - 1) for s in at.by_stratum(level) if (x := at.judge.steadied(s)) is not None]
    return (fmean(c for c, _ in found), sum(d for _, d in found)) if found else None


def _reaches(c: Claim, share: float) -> Standing:
    if c.basis is Basis.FALLEN:
        return Standing.TOO_LITTLE if c.relation is Relation.WEAKER else Standing.ENOUGH
    if c.ratio is None or c.low is None or c.high is None:
        told = {Relation.WEAKER: Standing.TOO_LITTLE, Relation.STRONGER: Standing.ENOUGH}
        return told.get(c.relation, Standing.UNCLEAR)
    if c.low >= share:
        return Standing.ENOUGH
    return Standing.TOO_LITTLE if c.high < share else Standing.UNCLEAR
