"""What an answer rests on too lightly, and what to do next about what it leaves open."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from adhaero.core.claims.claim import Relation
from adhaero.core.claims.judge import Judge
from adhaero.core.claims.leverage import hanging
from adhaero.core.claims.settle import more_of_each
from adhaero.core.compare.data import listed
from adhaero.core.questions.question import Answer, QuestionKind, Standing
from adhaero.core.wording.evidence import name_of
from adhaero.core.wording.say import Say, upper_first

MOST = 3


def rests_on(say: Say, a: Answer, judge: Judge) -> list[str]:
    """Return which comparisons would end otherwise without a single piece."""
    found = []
    for h in hanging(a.claims, judge):
        names = f"{name_of(say, a, h.claim.subject)} against {name_of(say, a, h.claim.object)}"
        if h.hidden:
            found.append(
                f"{names} is unclear because of one outlier: leave out {h.pieces[0]} and there is a difference."
            )
        elif len(h.pieces) == 1:
            found.append(f"{names} rests on one piece: leave out {h.pieces[0]} and the difference is no longer clear.")
        else:
            codes = listed(list(h.pieces), 4)
            found.append(f"{names} rests on a few pieces: leave out any one of {codes} and the difference is no longer "
                         "clear.")  # fmt: skip
    more = len(found) - MOST
    return found[:MOST] + ([f"{more} more of these comparisons rest on single pieces."] if more > 0 else [])


def next_steps(say: Say, a: Answer, judge: Judge) -> list[str]:
    """Return what would settle what the answer leaves open, the quickest first."""
    open_ = [(n, c) for c in a.claims if (n := more_of_each(c, judge)) is not None]
    found = list(_between(say, a))
    for n, c in sorted(open_, key=lambda x: x[0])[:MOST]:
        first, second = (name_of(say, a, x) for x in (c.subject, c.object))
        size = "if the difference is as large as it looks"
        found.append(f"{first} against {second}: {size}, about {n} more of each would settle it.")
    settled = (Relation.STRONGER, Relation.WEAKER, Relation.ALIKE)
    missing = (Standing.STILL_TO_BREAK, Standing.NOT_ENOUGH_DATA, Standing.UNCLEAR)
    if not found and a.claims and not a.so_far and all(c.relation in settled for c in a.claims) and not a.of(*missing):
        found.append("Every comparison here is settled. More pieces would narrow the ranges, not change the answer.")
    return [upper_first(x) for x in found]


def _between(say: Say, a: Answer) -> Iterator[str]:
    """The level to try next, between what is too little and what is enough."""
    if a.question.kind is not QuestionKind.HOW_MUCH_IS_ENOUGH:
        return
    sized = [(x.size, x.id) for x in say.study.factor(a.question.of).levels if x.size is not None]
    standing = {x.level: x.standing for x in a.lines}
    order = [standing.get(x) for _, x in sorted(sized)]
    ids = [x for _, x in sorted(sized)]
    ends: Sequence[set[Standing | None]] = [{order[i], order[i + 1]} for i in range(len(order) - 1)]
    for i, pair in enumerate(ends):
        if pair == {Standing.ENOUGH, Standing.TOO_LITTLE}:
            both = [say.name(a.question.of, x) for x in (ids[i], ids[i + 1])]
            yield f"Next, test a level between {both[0]} and {both[1]}: somewhere there it becomes enough."
