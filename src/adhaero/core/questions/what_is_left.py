"""What is left after water, frost, weather or years: each against itself before, or states against one."""

from __future__ import annotations

from adhaero.core.claims.claim import Claim
from adhaero.core.claims.judge import Judge
from adhaero.core.questions.better_than import against
from adhaero.core.questions.levels import levels_of
from adhaero.core.questions.own_share import own_lines, standing_of, states
from adhaero.core.questions.question import OWN, Answer, Line, Question, Standing
from adhaero.core.questions.study import Study


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return the share of its own strength that each level keeps, and who holds most afterwards."""
    lines: list[Line] = []
    claims: list[Claim] = []
    base = q.against
    for at in levels_of(q, study, judge):
        if q.along and q.against in ("", OWN):
            own, said, base, _ = own_lines(q, at, judge)
        else:
            base = q.against or states(at.of, study)[0]
            own, said = against(at, base, judge)
            by_level = {c.subject.partition(" | ")[0]: c for c in said}
            own = [_kept(x, by_level.get(x.level), q, judge) for x in own]
        lines += own
        claims += said
    return Answer(q, tuple(lines), tuple(claims), base)


def _kept(x: Line, c: Claim | None, q: Question, judge: Judge) -> Line:
    judged = (Standing.STRONGER, Standing.WEAKER, Standing.ALIKE, Standing.UNCLEAR)
    if c is None or x.standing not in judged:
        return x
    return Line(**{**vars(x), "standing": standing_of(c, q.share, judge.inference)})
