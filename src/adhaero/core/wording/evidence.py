"""The comparisons behind an answer, a line each, in the order in which the answer tells them."""

from __future__ import annotations

from collections.abc import Iterable

from adhaero.core.claims.claim import Claim, Relation
from adhaero.core.questions.question import Answer
from adhaero.core.wording.say import Say, percent

WORDS = {Relation.STRONGER: "stronger", Relation.WEAKER: "weaker", Relation.ALIKE: "the same within {}"}


def evidence(say: Say, a: Answer) -> list[str]:
    """Return the comparisons that show something, with ratio and interval."""
    place = {x.level: i for i, x in reversed(list(enumerate(a.lines)))}
    shown = [c for c in a.claims if c.relation in WORDS]
    shown.sort(key=lambda c: place.get(c.subject.partition(" | ")[0], len(place)))
    return list(_lines(say, a, shown))


def _lines(say: Say, a: Answer, claims: Iterable[Claim]) -> Iterable[str]:
    q = a.question
    inner = q.within or q.along

    def name(side: str) -> str:
        level, _, state = side.partition(" | ")
        if not any(x.id == level for x in say.study.factor(q.of).levels):
            return "solid wood" if level == "solid" else level
        told = say.name(q.of, level)
        return f"{told}, {say.name(inner, state)}" if state and inner else told

    for c in claims:
        shown = WORDS[c.relation].format(say.margin)
        if c.ratio is None:
            yield f"{name(c.subject)} against {name(c.object)}: {shown}, by {c.basis.value} ({c.n} pieces)"
            continue
        inside = f" ({percent(c.low)} to {percent(c.high)})" if c.low is not None and c.high is not None else ""
        yield f"{name(c.subject)} has {percent(c.ratio)}{inside} of {name(c.object)}: {shown}."
