"""Answers to: does it pass, how does it fail, how long does it hold, how strong is it."""

from __future__ import annotations

from collections.abc import Sequence

from adhaero.core.questions import does_it_pass, how_does_it_fail, how_long_does_it_hold
from adhaero.core.questions.question import Answer, Line, Standing
from adhaero.core.wording.comparing import as_seen
from adhaero.core.wording.say import MOST_NAMES, Say, apart, joined, packed, percent, row, sentences

LONG = 190
MODES = {
    "in-glue": "in the glue", "interface": "at the interface", "in-wood": "in the wood", "mixed": "partly in the wood",
    "elsewhere": "elsewhere", "wood-at-line": "in the wood at the line", "wood-deep": "deep in the wood",
}  # fmt: skip


def passes(say: Say, a: Answer) -> list[str]:
    """Counts by the plan's rule, and what the true rate could still be."""
    q = a.question
    told = [x for x in a.lines if x.counts]

    def count(x: Line) -> str:
        apart_ = f" ({x.fallen} fell apart)" if x.fallen else ""
        return f"{say.name(q.of, x.level)} passed {x.counts.get(does_it_pass.PASSED, 0)} of {x.n}{apart_}"

    if not told:
        return sentences(["nothing is tested yet", "; ".join(apart(say, q.of, a.lines))])
    groups = []
    for standing, words in ((Standing.PASSES, "good enough"), (Standing.UNCLEAR, "not decided yet"),
                            (Standing.FAILS, "not good enough")):  # fmt: skip
        own = [x for x in told if x.standing is standing]
        if own:
            groups.append(f"{words}: {row([count(x) for x in own], 80)}")
    full = [x for x in told if x.ratio is not None and x.ratio_low is not None]
    best = max(full, key=lambda x: (x.ratio or 0.0, x.n), default=None)
    could = ""
    if best is not None and best.ratio_low is not None and best.counts.get(does_it_pass.PASSED):
        could = (f"with {best.counts[does_it_pass.PASSED]} of {best.n}, the true share that passes could be as low as "
                 f"{percent(best.ratio_low)}")  # fmt: skip
    return sentences(["; ".join(groups), could, "; ".join(apart(say, q.of, a.lines))])


def fails(say: Say, a: Answer) -> list[str]:
    """How the pieces of each level failed, and whether that changes along the levels."""
    q = a.question
    told = [x for x in a.lines if x.counts]
    if not told:
        return sentences(["no failure is described yet", "; ".join(apart(say, q.of, a.lines))])

    def counts(x: Line) -> str:
        n = sum(x.counts.values())
        ways = sorted(((m, hits) for m, hits in x.counts.items() if hits), key=lambda m: -m[1])[:2]
        own = joined([f"{hits} of {n} {MODES.get(mode, mode)}" for mode, hits in ways])
        return f"with {say.name(q.of, x.level)} {own}{f' ({x.fallen} fell apart)' if x.fallen else ''}"

    start = {how_does_it_fail.CHANGES: "they failed differently: ", how_does_it_fail.SAME: "they all failed alike: "}
    head = start.get(a.verdict, "there is no clear difference yet: ")
    blank = [x for x in told if x.told < x.n + x.fallen and x.n > sum(x.counts.values())]
    faces = f"some faces of {joined([say.name(q.of, x.level) for x in blank[:3]])} are not described" if blank else ""
    rest = "; ".join(x for x in (faces, *apart(say, q.of, [x for x in a.lines if not x.counts])) if x)
    return sentences([*packed(head, [counts(x) for x in told]), rest])


def survives(say: Say, a: Answer) -> list[str]:
    """Who lasts longest: medians, and how many still hold."""
    q = a.question
    lines = [x for x in a.lines if x.n]
    judged = [x for x in lines if x.standing in (Standing.TOP, Standing.WEAKER, Standing.UNCLEAR)]
    rest = "; ".join(apart(say, q.of, [x for x in a.lines if x not in lines]))

    def holding(x: Line) -> int:
        return x.counts.get(how_long_does_it_hold.HOLDING, 0)

    def course(x: Line) -> str:
        still = holding(x)
        if still == x.n:
            return f"{still} of {x.n} still held at {say.time(x.lowest or 0.0)}"
        also = f" ({still} of {x.n} still held at {say.time(x.lowest or 0.0)})" if still else ""
        return f"half failed {_median(say, x)}{also}"

    def seen(x: Line) -> str:
        return f"{say.name(q.of, x.level)}: {course(x)}"

    if not judged:
        told = []
        for x in lines[:MOST_NAMES]:
            verb = "still held after" if holding(x) else "held for"
            told.append(f"{say.name(q.of, x.level)} {verb} {say.time(x.figure or 0.0)}")
        few = "one piece of each is too few" if all(x.n == 1 for x in lines) else "there are too few pieces"
        return sentences([f"As seen: {joined(told)}", f"{few} to say which lasts longest", rest])
    top = [x for x in judged if x.standing is Standing.TOP]
    if not top:
        return sentences([f"there is no clear difference yet; {'; '.join(seen(x) for x in judged[:4])}", rest])
    if len(top) == 1:
        others = [x for x in judged if x is not top[0]][:3]
        first = f"{say.name(q.of, top[0].level)} lasts longest: {course(top[0])}"
        return sentences(["; ".join([first, *(seen(x) for x in others)]), rest])
    head = f"{joined([say.name(q.of, x.level) for x in top[:4]])} last longest"
    return sentences([f"{head}; {'; '.join(seen(x) for x in judged[:4])}", rest])


def _median(say: Say, x: Line) -> str:
    if x.figure is None:
        return "at an unknown time"
    if x.high is not None and x.high > x.figure * 1.001:
        return f"between {say.time(x.figure)} and {say.time(x.high)}"
    return f"by {say.time(x.figure)}"


def strong(say: Say, a: Answer) -> list[str]:
    """Mean with interval, weakest piece, and what 19 of 20 such pieces would bear."""
    q = a.question
    judged = [x for x in a.lines if x.standing is Standing.NOT_COMPARED and x.n]
    if not judged:
        return as_seen(say, a, a.lines)

    def told(x: Line) -> str:
        named = f"{say.name(q.of, x.level)} holds {say.figure(x)}"
        inside = ""
        if x.mean_low is not None and x.mean_high is not None and not x.at_least:
            inside = f" ({say.show(x.mean_low)} to {say.show(x.mean_high)})"
        return f"{named}{inside}{_wood(x)}{say.fallen(x)}"

    bears = [x for x in judged if x.bears is not None]
    could = [f"{say.show(x.bears or 0.0)} from {say.name(q.of, x.level)}" for x in bears]
    count_on = f"19 of 20 such pieces should hold (75 % sure) {row(could)}" if could else (
        f"{_few(judged)} too few to say what 19 of 20 would hold"
    )  # fmt: skip
    rest = apart(say, q.of, [x for x in a.lines if x not in judged])
    return sentences([f"on average {row([told(x) for x in judged], LONG)}", count_on, "; ".join(rest)])


def _wood(x: Line) -> str:
    return f" because {x.in_wood} of {x.n} failed in the wood" if x.at_least and x.in_wood else ""


def _few(lines: Sequence[Line]) -> str:
    n = max(x.n for x in lines)
    return f"{n} pieces are" if n > 1 else "one piece is"
