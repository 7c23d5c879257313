"""Answers to: how much is enough, what is left, does it last, how close to solid wood."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from adhaero.core.questions.how_much_is_enough import SCATTERED_END
from adhaero.core.questions.question import OWN, Answer, Line, Standing
from adhaero.core.wording.comparing import as_seen
from adhaero.core.wording.say import Say, apart, is_or_are, joined, percent, row, sentences

KEPT = (Standing.LASTS, Standing.LOSES, Standing.UNCLEAR, Standing.GAINS)


def share_of(x: Line) -> str:
    """The share that a line reaches, with its range where that says something."""
    if x.ratio is None:
        return "an unknown share"
    if x.ratio_low is None or x.ratio_high is None:
        return percent(x.ratio)
    return f"{percent(x.ratio)} ({percent(x.ratio_low).removesuffix(' %')}–{percent(x.ratio_high)})"


def enough(say: Say, a: Answer) -> list[str]:
    """From which level on it is enough, or up to which, and how far the next one falls short."""
    q, of = a.question, a.question.of
    judged = (Standing.ENOUGH, Standing.TOO_LITTLE, Standing.UNCLEAR)
    if not any(x.standing in judged for x in a.lines):
        return as_seen(say, a, a.lines)
    factor = say.study.factor(of)
    sized = {x.id: x.size for x in factor.levels if x.size is not None}
    base = say.name(of, a.base)
    reach = [x for x in a.lines if x.standing is Standing.ENOUGH]
    short = [x for x in a.lines if x.standing is Standing.TOO_LITTLE]
    on_axis = sorted((x for x in reach if x.level in sized), key=lambda x: sized[x.level] or 0.0)
    ends = [on_axis[0], on_axis[-1]] if on_axis else reach[:1]
    hump = any((sized.get(x.level) or 0) > (sized.get(ends[-1].level) or 0) for x in short) and any(
        (sized.get(x.level) or 0) < (sized.get(ends[0].level) or 0) for x in short
    )
    so_far = "so far, " if a.so_far else ""
    if hump and len(ends) > 1 and ends[0] is not ends[1]:
        first = f"{so_far}{say.name(of, ends[0].level)} to {say.name(of, ends[1].level)} is enough and not too much"
        first += _costs(say, a, [x for x in ends if x.level != a.base], base)
    elif len(reach) == 1 and reach[0].level == a.base:
        first = f"{so_far}nothing but {base} ({say.figure(reach[0])}) is shown to be enough"
    else:
        far = ends[-1] if factor.less_is_sound else ends[0]
        first = f"{so_far}{say.name(of, far.level)} is enough"
        first += _costs(say, a, [far], base) if far.level != a.base else f" ({say.figure(far)})"
    if a.verdict == SCATTERED_END:
        end = sound_end(a, sized)
        first += f"; {say.name(of, end.level)} scatters too much to hold others against"
    # The nearest to what is enough is the one that is asked after next.
    near = sorted(short, key=lambda x: -(x.ratio or 0.0))
    told = [f"{say.name(of, x.level)} reaches only {share_of(x)}{_fell(x)}" for x in near[:4]]
    open_ = [f"{say.name(of, x.level)} has {share_of(x)}, which is not clear yet" for x in a.of(Standing.UNCLEAR)[:3]]
    return sentences([first, "; ".join([*told, *open_]), "; ".join(apart(say, q.of, a.lines))])


def sound_end(a: Answer, sized: Mapping[str, float]) -> Line:
    """Return the line of the sound end: lines come in that order."""
    return next(x for x in a.lines if x.level in sized and x.n)


def _costs(say: Say, a: Answer, lines: Sequence[Line], base: str) -> str:
    told = joined([share_of(x) for x in lines if x.ratio is not None])
    return f": {told} of the strength with {base}" if told else ""


def _fell(x: Line) -> str:
    return f", and {x.fallen} of {x.fallen + x.n} fell apart" if x.fallen and x.n else ""


def left(say: Say, a: Answer, what: str = "") -> list[str]:
    """What each level keeps of its own, who holds most afterwards, and what fell apart."""
    q = a.question
    if q.along and q.against in ("", OWN):
        return _of_own(say, a)
    return _of_states(say, a)


def _of_own(say: Say, a: Answer) -> list[str]:
    q = a.question
    first = a.base
    ids = list(dict.fromkeys(x.level for x in a.lines))
    last: list[Line] = []
    before: dict[str, Line] = {}
    for level in ids:
        own = [x for x in a.lines if x.level == level]
        before[level] = own[0]
        # The last state that was tested; one that is still to break is told beside it.
        tested = [x for x in own[1:] if x.standing not in (Standing.STILL_TO_BREAK, Standing.LEFT_OUT)]
        last.append(tested[-1] if tested else own[-1])
    judged = sorted((x for x in last if x.standing in KEPT), key=lambda x: -(x.ratio or 0.0))
    if not judged:
        return (
            as_seen(say, a, last) if not any(x.fallen for x in last) else sentences(["; ".join(apart(say, q.of, last))])
        )
    upper = any(before[x.level].at_least for x in judged)
    told = [f"{say.name(q.of, x.level)} keeps {'at most ' if upper and before[x.level].at_least else ''}{share_of(x)}"
            f"{_verb(x)}{_fell(x)}" for x in judged]  # fmt: skip
    when = say.name(q.along, judged[0].within)
    head = f"after {when}, of what each held {say.state(q.along, first)}, {row(told)}"
    strongest = max(judged, key=lambda x: x.figure or 0.0)
    most = f"{say.name(q.of, strongest.level)} holds most then: {say.figure(strongest)}" if len(judged) > 1 else ""
    wood = "; some failed in the wood before, so the glue may keep less" if upper else ""
    rest = [*apart(say, q.of, last), *_later(say, a)]
    return sentences([head + wood if len(head + wood) <= 215 else head, most, "; ".join(rest)])


def _verb(x: Line) -> str:
    return {Standing.LASTS: "", Standing.GAINS: " (a gain)"}.get(x.standing, "")


def _later(say: Say, a: Answer) -> list[str]:
    """States that are still to break, or were left out, of levels of which an earlier one is told."""
    wait = [x for x in a.lines if x.standing is Standing.STILL_TO_BREAK]
    names = list(dict.fromkeys(say.name(a.question.along, x.within) for x in wait))
    return [f"{joined(names[:3])} {is_or_are(names[:3])} still to break"] if wait and a.question.along else []


def _of_states(say: Say, a: Answer) -> list[str]:
    """One level in several states or ages, each against the first."""
    q = a.question
    base = next((x for x in a.lines if x.standing is Standing.BASE), None)
    others = [x for x in a.lines if x.standing is not Standing.BASE]
    judged = [x for x in others if x.standing in KEPT]
    if not judged:
        return as_seen(say, a, a.lines)
    sized = {x.id: x.size for x in say.study.factor(q.of).levels}
    if all(sized.get(x.level) is not None for x in judged):
        judged.sort(key=lambda x: sized[x.level] or 0.0)
    told = [f"{share_of(x)} {_at(say, q.of, x.level)}{_fell(x)}{_rest_of(x)}" for x in judged]
    wood = "at most " if base is not None and base.at_least else ""
    at_first = f" ({say.figure(base)})" if base is not None else ""
    so_far = "so far, " if a.so_far else ""
    head = f"{so_far}of the strength {say.state(q.of, a.base)}{at_first}, {wood}{row(told)} is left"
    return sentences([head, _when(say, a, judged), "; ".join(apart(say, q.of, others))])


def _at(say: Say, factor: str, level: str) -> str:
    sized = say.study.factor(factor).level(level).size is not None
    return f"{'at' if sized else 'after'} {say.name(factor, level)}"


def _rest_of(x: Line) -> str:
    return f" ({x.unbroken} still to break)" if x.unbroken else ""


def _when(say: Say, a: Answer, judged: Sequence[Line]) -> str:
    """The two ages between which strength falls below the share that counts."""
    q = a.question
    kept = [x for x in judged if x.standing in (Standing.LASTS, Standing.GAINS)]
    lost = [x for x in judged if x.standing is Standing.LOSES]
    if say.study.factor(q.of).level(a.base).size is None:
        return ""
    if not lost:
        return f"no loss below {percent(q.share)} is shown" if kept and len(kept) < len(judged) else ""
    before = kept[-1].level if kept else a.base
    return (f"it falls below {percent(q.share)} between {say.name(q.of, before)} and "
            f"{say.name(q.of, lost[0].level)}")  # fmt: skip


def solid(say: Say, a: Answer) -> list[str]:
    """The share of solid wood that each level reaches, in each wood."""
    q = a.question
    judged = [
        x for x in a.lines if x.standing in (Standing.STRONGER, Standing.ALIKE, Standing.WEAKER, Standing.UNCLEAR)
    ]
    rest = apart(say, q.of, [x for x in a.lines if x not in judged])
    if a.verdict == "no solid" or not judged:
        lines = sorted((x for x in a.lines if x.n), key=lambda x: -(x.figure or 0.0))
        seen = f"{say.with_figures(q.of, lines)} {'was' if len(lines) == 1 else 'were'} measured" if lines else ""
        return sentences(["we can't say: no solid pieces were broken that these joints could be held against", seen])

    def told(x: Line) -> str:
        where = f" {say.place(q.within, x.within)}" if x.within else ""
        return f"{say.name(q.of, x.level)} {share_of(x)}{where}{say.fallen(x)}"

    above = [x for x in judged if x.standing is Standing.STRONGER]
    near = [x for x in judged if x.standing is Standing.ALIKE]
    far = [x for x in judged if x.standing is Standing.WEAKER]
    open_ = [x for x in judged if x.standing is Standing.UNCLEAR]
    parts = []
    if above:
        parts.append(f"stronger than solid wood: {row([told(x) for x in above])}")
    if near:
        parts.append(f"as good as solid wood, within {say.margin}: {row([told(x) for x in near])}")
    if far:
        parts.append(f"{'weaker' if near or above else 'weaker than solid wood'}: {row([told(x) for x in far])}")
    if open_:
        parts.append(f"no clear difference from solid wood yet: {row([told(x) for x in open_])}")
    return sentences([*parts[:2], "; ".join([*parts[2:], *rest])])
