"""Answers to: which is strongest, is it better, does it matter, does it depend, is it worth it."""

from __future__ import annotations

from collections.abc import Sequence

from adhaero.core.questions import does_it_depend, does_it_matter
from adhaero.core.questions.question import Answer, Line, Standing
from adhaero.core.wording.say import (
    MOST_SIGNS,
    Say,
    apart,
    is_or_are,
    joined,
    less,
    lower_first,
    packed,
    percent,
    row,
    sentences,
)

JUDGED = (Standing.TOP, Standing.UNCLEAR, Standing.WEAKER, Standing.STRONGER, Standing.ALIKE)
MOST_WEAKER, FEWER = 4, 100
"""Weaker levels that are told by name; signs of a row that has long words beside its figures."""


def as_seen(say: Say, a: Answer, lines: Sequence[Line]) -> list[str]:
    """What was seen, for levels that all have too few pieces to judge."""
    own = sorted((x for x in lines if x.n), key=lambda x: -(x.figure or 0))
    of = a.question.of
    n = max((x.n for x in own), default=0)
    many = "One piece of each" if n == 1 else f"{n} pieces of each at most"
    if not own and any(c.excluded for c in say.study.cells) and not any(c.unbroken for c in say.study.cells):
        return sentences(["every reading is excluded: nothing can be compared"])
    if not own:
        return sentences(["nothing is broken yet", "; ".join(apart(say, of, lines))])
    rest = "; ".join(apart(say, of, [x for x in lines if not x.n]))
    sizes = {x.id: x.size for x in say.study.factor(of).levels}
    if len(own) > 1 and all(sizes.get(x.level) is not None for x in own):
        own.sort(key=lambda x: sizes[x.level] or 0.0)
        return sentences([f"As seen: {say.with_figures(of, own)}", f"{many}: not enough data to say more", rest])
    if len(own) == 1:
        return sentences([f"As seen: {say.with_figures(of, own)}", f"{many}: the next could differ", rest])
    middle = own[1:-1][:3]
    between = f", then {say.with_figures(of, middle)}" if middle else ""
    first = f"As seen: {say.name(of, own[0].level)} {say.words.topped}, {say.figure(own[0])}{between}, and "
    first += f"{say.name(of, own[-1].level)} {say.words.least}, {say.figure(own[-1])}"
    return sentences([first, f"{many}: the next could turn the order", rest])


def best(say: Say, a: Answer) -> list[str]:
    """Who leads, who is weaker; over several conditions who leads in each."""
    within = list(dict.fromkeys(x.within for x in a.lines))
    if len(within) > 1:
        told = []
        for w in within:
            top = [x for x in a.lines if x.within == w and x.standing is Standing.TOP]
            place = say.name(a.question.within, w)
            told.append(
                f"in {place} {say.with_figures(a.question.of, top)}" if top else f"in {place} nothing is clear yet"
            )
        return sentences([f"strongest {'; '.join(told)}", "; ".join(apart(say, a.question.of, a.lines))])
    of, top = a.question.of, a.of(Standing.TOP)
    if not top:
        return as_seen(say, a, a.lines)
    so_far = "so far, " if a.so_far else ""
    lead = say.with_figures(of, top, say.fallen)
    alike = all(x.ratio_low is None or x.ratio_low >= 1 - say.inference.margin for x in top)
    if len(top) == 1:
        first = f"{so_far}{lead} {say.words.tops}"
    elif alike:
        first = f"{so_far}{lead} {say.words.top}, the same within {say.margin}"
    else:
        first = f"{so_far}{lead} {say.words.top}; there is no clear difference between them yet"
    open_ = a.of(Standing.UNCLEAR)
    second = f"{say.with_figures(of, open_, say.fallen)} can't be placed yet" if open_ else ""
    third = _weaker(say, a, top[0])
    rest = "; ".join(apart(say, of, a.lines))
    return sentences([first, "; ".join(x for x in (second, third) if x), rest])


def _weaker(say: Say, a: Answer, lead: Line) -> str:
    of, lines = a.question.of, a.of(Standing.WEAKER)
    if not lines:
        return ""
    named = f" than {say.name(of, lead.level)}"

    def below(x: Line) -> str:
        if x.ratio is None or x.ratio > 1:
            return say.fallen(x)
        own = named if x is lines[0] else ""
        return f", {percent(1 - x.ratio)} less{own}{say.fallen(x)}"

    if len(lines) > MOST_WEAKER:
        first, last = lines[0], lines[-1]
        ends = [f"{say.name(of, x.level)} ({say.figure(x)})" for x in (first, last)]
        return f"the other {len(lines)} are clearly {say.words.less}, from {ends[0]} down to {ends[1]}"
    return f"{say.with_figures(of, lines, below)} {is_or_are(lines)} {say.sized(lines, say.words.less)}"


def better(say: Say, a: Answer) -> list[str]:
    """Each level against the reference: stronger, the same, no clear difference, weaker."""
    q = a.question
    base = next((x for x in a.lines if x.standing is Standing.BASE), None)
    others = [x for x in a.lines if x.standing is not Standing.BASE]
    if base is None or not any(x.standing in JUDGED for x in others):
        if base is not None and base.n and any(x.n for x in others):
            return as_seen(say, a, a.lines)
        seen = [x for x in a.lines if x.n]
        measured = f"{say.with_figures(q.of, seen)} {'was' if len(seen) == 1 else 'were'} measured" if seen else ""
        missing = f"there is nothing to hold it against: no {say.name(q.of, q.against)} was broken"
        if base is not None and base.fallen and not base.n:
            missing = f"nothing is left of {say.name(q.of, q.against)}: all {base.fallen} fell apart"
        silent = [x for x in others if not x.n]
        first = "" if base is not None and base.n else missing
        return sentences([first, measured, "; ".join(apart(say, q.of, silent))])
    named = say.name(q.of, q.against)
    told_base = f"{named} ({say.figure(base)}{say.fallen(base)})" if base.n else f"{named}, which fell apart"
    parts = against_in_words(say, a, others, told_base)
    return sentences([*parts, "; ".join(apart(say, q.of, others))])


def against_in_words(say: Say, a: Answer, others: Sequence[Line], told_base: str) -> list[str]:
    """How levels stand to a base, most important first; the base is named once."""
    of = a.question.of

    def of_standing(s: Standing) -> list[Line]:
        return [x for x in others if x.standing is s]

    def by(x: Line) -> str:
        return ("" if x.ratio is None else f", {less(x.ratio)}") + say.fallen(x)

    found: list[str] = []
    up, same, open_, down = map(of_standing, (Standing.STRONGER, Standing.ALIKE, Standing.UNCLEAR, Standing.WEAKER))
    clear = []
    if up:
        clear.append(f"{say.with_figures(of, up, by)} {is_or_are(up)} {say.sized(up, say.words.more)} than {told_base}")
    if down:
        than = "" if up else f" than {told_base}"
        clear.append(f"{say.with_figures(of, down, by)} {is_or_are(down)} {say.sized(down, say.words.less)}{than}")
    found += ["; ".join(clear)] if clear and len("; ".join(clear)) <= MOST_SIGNS - 20 else clear
    rest = []
    if same:
        than = "" if clear else f" as {told_base}"
        rest.append(f"{say.with_figures(of, same, say.fallen)} {is_or_are(same)} the same within {say.margin}{than}")
    if open_:
        beside = "" if clear or same else f" from {told_base}"
        rest.append(f"there is no clear difference{beside} yet: {say.with_figures(of, open_, _possible, FEWER)}")
    found += ["; ".join(rest)] if rest and len("; ".join(rest)) <= MOST_SIGNS - 20 else rest
    return found


def _possible(x: Line) -> str:
    """What is still possible, where that says something."""
    if x.ratio_low is None or x.ratio_high is None or x.ratio_high / max(x.ratio_low, 1e-9) > 9:
        return ""
    return f", from {less_or_same(x.ratio_low)} to {less_or_same(x.ratio_high)} is possible"


def less_or_same(ratio: float) -> str:
    """A ratio at the end of an interval."""
    return "no difference" if round(100 * abs(1 - ratio)) == 0 else less(ratio)


def matters(say: Say, a: Answer) -> list[str]:
    """Yes, no, or not known yet, with the size that is possible."""
    q = a.question
    if a.verdict == does_it_matter.FEW:
        return as_seen(say, a, a.lines)
    yes = {does_it_matter.YES: "Yes: ", does_it_matter.NO: "No: ", does_it_matter.UNKNOWN: "Not known yet: "}
    start = yes.get(a.verdict, "Partly: ")
    others = [x for x in a.lines if x.standing is not Standing.BASE]
    rest = "; ".join(apart(say, q.of, others))
    base = next((x for x in a.lines if x.standing is Standing.BASE), None)
    if base is not None:
        told_base = f"{say.name(q.of, q.against)} ({say.figure(base)})"
        parts = against_in_words(say, a, others, told_base)
        return sentences([start + "".join(parts[:1]), *parts[1:], rest])
    judged = [x for x in others if x.standing in JUDGED]
    if a.verdict == does_it_matter.NO:
        first = f"No: {say.with_figures(q.of, judged)} are the same within {say.margin}"
    elif a.verdict == does_it_matter.UNKNOWN:
        widest = [c for c in a.claims if c.low is not None and c.high is not None]
        lows, highs = [c.low or 0.0 for c in widest], [c.high or 0.0 for c in widest]
        far = max([*highs, *(1 / x for x in lows if x > 0)], default=0.0)
        size = f"; a difference of {percent(far - 1)} is still possible" if 1 < far < 10 else ""
        first = f"Not known yet: {say.with_figures(q.of, judged)} show no clear difference{size}"
    else:
        up = [x for x in judged if x.standing is Standing.STRONGER]
        down = [x for x in judged if x.standing is Standing.WEAKER]
        open_ = [x for x in judged if x.standing is Standing.UNCLEAR]
        first = (
            f"{start}{say.with_figures(q.of, up)} {is_or_are(up)} {say.words.more} than {say.with_figures(q.of, down)}"
        )
        rest = "; ".join(
            x for x in (f"{say.with_figures(q.of, open_)} can't be placed yet" if open_ else "", rest) if x
        )
    return sentences([first, rest])


def depends(say: Say, a: Answer) -> list[str]:
    """Whether a contrast differs between the levels of another factor, told for each of them."""
    q = a.question
    base = say.name(q.of, a.base)
    start = {does_it_depend.DIFFERS: "Yes: ", does_it_depend.SAME: "No: "}.get(a.verdict, "Not known yet: ")
    told: list[str] = []
    for x in [x for x in a.lines if x.standing is not Standing.BASE]:
        place = say.place(q.within, x.within)
        own = next((b for b in a.lines if b.standing is Standing.BASE and b.within == x.within), None)
        beside = (
            f" ({say.figure(x)} against {say.figure(own)}{say.fallen(own)})"
            if own is not None and own.n and x.n
            else ""
        )
        told.append(f"{place} {say.name(q.of, x.level)} {_stands(say, x, base if not told else '')}{beside}")
    return sentences(packed(start, told, 3))


def _stands(say: Say, x: Line, base: str) -> str:
    than, as_, from_ = (f" {w} {base}" if base else "" for w in ("than", "as", "from"))
    match x.standing:
        case Standing.STRONGER:
            more = less(x.ratio) if x.ratio is not None else "clearly more"
            return f"holds {more}{than if 'times' not in more else as_}"
        case Standing.WEAKER:
            return f"holds {less(x.ratio) if x.ratio is not None else 'clearly less'}{than}"
        case Standing.ALIKE:
            return f"is the same within {say.margin}{as_}"
        case Standing.UNCLEAR:
            return f"shows no clear difference{from_}"
        case Standing.NOTHING_LEFT:
            return "fell apart"
        case Standing.STILL_TO_BREAK:
            return "is still to break"
        case Standing.LEFT_OUT:
            return "was left out"
    return "has too few pieces to judge"


def worth(say: Say, a: Answer) -> list[str]:
    """Strength beside cost."""
    q = a.question

    def price(x: Line) -> str:
        return "price not known" if x.cost is None else f"{say.money(x.cost)} a joint"

    def with_price(x: Line) -> str:
        return f"{say.name(q.of, x.level)} ({say.figure(x)}, {price(x)})"

    rest = "; ".join(apart(say, q.of, [x for x in a.lines if x.standing is not Standing.BASE]))
    if not q.against:
        top, beaten = a.of(Standing.TOP), a.of(Standing.WEAKER)
        first = f"{row([with_price(x) for x in top])} each buy something: no other is as strong and cheaper"
        if len(top) == 1:
            first = f"{with_price(top[0])} is beaten by no other on strength and price"
        second = f"{row([with_price(x) for x in beaten])} {is_or_are(beaten)} beaten on both" if beaten else ""
        return sentences([first if top else "", second, rest])
    base = next(x for x in a.lines if x.standing is Standing.BASE)
    told: list[str] = []
    for x in a.lines:
        if x.standing not in JUDGED:
            continue
        dear = x.cost is not None and base.cost is not None and x.cost > base.cost
        start = {
            Standing.STRONGER: "Yes: " if dear else "Yes, and it is no dearer: ",
            Standing.WEAKER: "No: " if dear else "It is weaker and cheaper: ",
            Standing.ALIKE: "No: " if dear else "As strong, and no dearer: ",
        }.get(x.standing, "Not known yet: ")
        told.append(
            f"{start if not told else ''}{with_price(x)} {_stands(say, x, with_price(base) if not told else '')}"
        )
    return sentences([*told[:2], *([f"{joined([lower_first(t) for t in told[2:5]])}"] if told[2:] else []), rest])
