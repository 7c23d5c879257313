"""What a level keeps of its own strength in an earlier state, pooled over strata: for water, frost and years."""

from __future__ import annotations

from adhaero.core.claims.claim import Claim
from adhaero.core.claims.judge import Apart, Judge, Pair
from adhaero.core.inference import Inference
from adhaero.core.questions.levels import Levels, line_of, missing
from adhaero.core.questions.question import Line, Question, Standing
from adhaero.core.questions.study import Factor, Sample, Study


def states(of: Factor, study: Study) -> tuple[str, list[str]]:
    """The first state along a factor (dry, the earliest age), and those after it in their order."""
    named = next((x.id for x in of.levels if x.text.lower() in ("dry", "dry, indoors")), None)
    ordered = sorted(of.levels, key=lambda x: (x.size is None, x.size or 0.0)) if any(
        x.size is not None for x in of.levels
    ) else list(of.levels)  # fmt: skip
    first = named or ordered[0].id
    return first, [x.id for x in ordered if x.id != first]


def standing_of(c: Claim, share: float, inference: Inference) -> Standing:
    """Whether ``share`` is kept, is not kept, or can't be told; or whether strength has grown."""
    if c.ratio is None or c.low is None or c.high is None:
        return Standing.NOT_ENOUGH_DATA if c.p is None else Standing.UNCLEAR
    if c.low > 1 and c.ratio > 1 + inference.margin:
        return Standing.GAINS
    if c.low >= share:
        return Standing.LASTS
    return Standing.LOSES if c.high < share else Standing.UNCLEAR


def own_lines(q: Question, at: Levels, judge: Judge) -> tuple[list[Line], list[Claim], str, str]:
    """Compare each level with itself in the first state. The lines cover every later state, the answer the last."""
    along = at.study.factor(q.along)
    first, later = states(along, at.study)
    pairs: list[Pair] = []
    of_pair: list[tuple[str, str]] = []
    samples: dict[tuple[str, str], Sample] = {}
    for level in at.ids:
        for state in (first, *later):
            samples[level, state] = at.all_of(level, **{q.along: state})
        before = at.by_stratum(level, **{q.along: first})
        for state in later:
            if missing(samples[level, state], judge.inference.least) is None:
                after = at.by_stratum(level, **{q.along: state})
                apart = Apart(q.along, state, first, {**at.at, at.of.key: level})
                pairs.append(Pair(f"{level} | {state}", f"{level} | {first}", after, before, apart))
                of_pair.append((level, state))
    claims = dict(zip(of_pair, judge.claims(pairs), strict=True))
    least = judge.inference.least
    lines: list[Line] = []
    for level in at.ids:
        lacks = missing(samples[level, first], least)
        lines.append(line_of(level, samples[level, first], Standing.BASE, within=first))
        for state in later:
            why = missing(samples[level, state], least)
            claim = claims.get((level, state))
            if why is None:
                why = lacks and Standing.NOT_ENOUGH_DATA
            standing = why or (standing_of(claim, q.share, judge.inference) if claim else Standing.NOT_ENOUGH_DATA)
            lines.append(line_of(level, samples[level, state], standing, claim, state))
    return lines, list(claims.values()), first, later[-1]
