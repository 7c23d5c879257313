"""The comparisons behind an answer, a line each, in the order in which the answer tells them."""

from __future__ import annotations

from collections.abc import Iterable

from adhaero.core.claims.claim import Basis, Claim, Relation
from adhaero.core.claims.judge import Judge
from adhaero.core.compare.data import counted
from adhaero.core.questions.question import Answer
from adhaero.core.wording.say import Say, percent

SHOWN = (Relation.STRONGER, Relation.WEAKER, Relation.ALIKE)


def evidence(say: Say, a: Answer, judge: Judge) -> list[str]:
    """Return the comparisons that show something, with ratio and interval, and what blocks took out of them."""
    place = {x.level: i for i, x in reversed(list(enumerate(a.lines)))}
    shown = [c for c in a.claims if c.relation in SHOWN]
    shown.sort(key=lambda c: place.get(c.subject.partition(" | ")[0], len(place)))
    found = list(_lines(say, a, shown))
    if judge.in_blocks is not None and any(c.basis is Basis.BLOCKS for c in a.claims):
        blocks, name = judge.in_blocks.blocks, judge.in_blocks.name
        out = percent(judge.in_blocks.taken_out)
        found.append(f"Compared within {counted(blocks, name)}, which take {out} out of the squared scatter.")
    if any(c.basis is Basis.ADDITIVE for c in a.claims):
        found.append("Compared over all combinations, as if the effects of the factors multiply. What two factors do "
                     "together counts as scatter.")  # fmt: skip
    return found


def name_of(say: Say, a: Answer, side: str) -> str:
    """One side of a claim in words."""
    q, (level, _, state) = a.question, side.partition(" | ")
    inner = q.within or q.along
    if not any(x.id == level for x in say.study.factor(q.of).levels):
        return "solid wood" if level == "solid" else level
    told = say.name(q.of, level)
    return f"{told}, {say.name(inner, state)}" if state and inner else told


def _lines(say: Say, a: Answer, claims: Iterable[Claim]) -> Iterable[str]:
    words = {Relation.STRONGER: say.words.more, Relation.WEAKER: say.words.less,
             Relation.ALIKE: f"the same within {say.margin}"}  # fmt: skip
    for c in claims:
        first, second = (name_of(say, a, x) for x in (c.subject, c.object))
        if c.ratio is None:
            yield f"{first} against {second}: {words[c.relation]}, by {c.basis.value} ({counted(c.n, 'piece')})."
            continue
        inside = f" ({percent(c.low)} to {percent(c.high)})" if c.low is not None and c.high is not None else ""
        yield f"{first} has {percent(c.ratio)}{inside} of {second}: {words[c.relation]}."
