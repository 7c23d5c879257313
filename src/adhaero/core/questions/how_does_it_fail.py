"""Where does it break: counts by failure mode, and whether they change along the levels."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from itertools import combinations

from adhaero.core.claims.judge import Judge
from adhaero.core.questions.levels import Levels, levels_of
from adhaero.core.questions.question import Answer, Line, Question, Standing
from adhaero.core.questions.study import Study
from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.shares import fisher, share

CHANGES, SAME, UNKNOWN = "changes", "same", "unknown"


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return the counts of each level, and whether some mode is shown to be more frequent in one than in another."""
    lines: list[Line] = []
    verdicts = set()
    for at in levels_of(q, study, judge):
        own = _with_all_modes([_line(at, x) for x in at.ids])
        told = [x for x in own if x.counts]
        verdict = _verdict(told, judge)
        verdicts.add(verdict)
        if verdict == UNKNOWN:
            own = [replace(x, standing=Standing.UNCLEAR) if x.counts else x for x in own]
        lines += own
    verdict = CHANGES if CHANGES in verdicts else SAME if verdicts == {SAME} else UNKNOWN
    return Answer(q, tuple(lines), verdict=verdict)


def _line(at: Levels, level: str) -> Line:
    s = at.all_of(level)
    counts = dict(Counter(u.mode for u in s.units if u.mode and not u.fell).most_common())
    lost = at.missing(level)
    standing = Standing.NOT_COMPARED if counts else lost or Standing.NOT_ENOUGH_DATA
    return replace(at.line(level, standing), counts=counts)


def _with_all_modes(lines: list[Line]) -> list[Line]:
    """The same with a count of 0 for a mode that others have."""
    modes = dict.fromkeys(m for x in lines for m in x.counts)
    return [replace(x, counts={**dict.fromkeys(modes, 0), **x.counts}) if x.counts else x for x in lines]


def _verdict(lines: list[Line], judge: Judge) -> str:
    modes = sorted({m for x in lines for m in x.counts})
    p = []
    for a, b in combinations(lines, 2):
        for mode in modes:
            n = [sum(x.counts.values()) for x in (a, b)]
            p.append(fisher(share(a.counts.get(mode, 0), n[0]), share(b.counts.get(mode, 0), n[1])))
    if p and min(holm(p)) < judge.inference.alpha:
        return CHANGES
    all_one = len(modes) == 1 and all(sum(x.counts.values()) >= judge.inference.least for x in lines)
    return SAME if all_one and lines else UNKNOWN
