"""Answers to: is it true, which for what."""

from __future__ import annotations

from adhaero.core.questions import does_it_pass, is_it_true, which_for_what
from adhaero.core.questions.question import Answer, Line, Standing
from adhaero.core.wording.comparing import as_seen
from adhaero.core.wording.holding import share_of
from adhaero.core.wording.say import MOST_NAMES, Say, apart, joined, packed, percent, row, sentences

ROOM_OF_HELD = 110
"""Signs that the levels of a claim may take, beside what they are held against."""


def claimed(say: Say, a: Answer) -> list[str]:
    """True, not true, or not shown, with what each level holds of the one it is held against."""
    q = a.question
    base = next((x for x in a.lines if x.standing is Standing.BASE), None)
    judged = (Standing.ENOUGH, Standing.TOO_LITTLE, Standing.UNCLEAR)
    told = [x for x in a.lines if x.standing in judged]
    if not told or base is None or not base.n:
        return as_seen(say, a, a.lines)
    start = {is_it_true.TRUE: "true", is_it_true.UNTRUE: "not true"}.get(a.verdict, "not shown")
    # What decides comes first: those that fall short, then those that bear it out.
    order = (Standing.TOO_LITTLE, Standing.ENOUGH, Standing.UNCLEAR)
    told.sort(key=lambda x: order.index(x.standing))
    named = f"{say.name(q.of, q.against)} ({say.figure(base)})"

    def held(x: Line) -> str:
        if not x.n:
            return f"{say.name(q.of, x.level)} fell apart (all {x.fallen})"
        return f"{say.name(q.of, x.level)} ({say.figure(x)}) holds {share_of(x)}{say.fallen(x)}"

    first = f"{start}: {row([held(x) for x in told], ROOM_OF_HELD)} of {named}; at least {percent(q.share)} was claimed"
    open_ = [x for x in told if x.standing is Standing.UNCLEAR]
    unclear = f"{row([say.name(q.of, x.level) for x in open_])} could still be either" if open_ else ""
    return sentences([first, unclear, "; ".join(apart(say, q.of, [x for x in a.lines if x not in told]))])


def for_what(say: Say, a: Answer) -> list[str]:
    """One pick for each job, what it rests on, and what passed nowhere."""
    q = a.question
    jobs = list(dict.fromkeys(x.within for x in a.lines))
    by_job = {job: [x for x in a.lines if x.within == job] for job in jobs}
    picks = {job: next((x for x in own if x.standing is Standing.TOP), None) for job, own in by_job.items()}

    def held(job: str, x: Line) -> str:
        cost = "" if x.cost is None else f", {say.money(x.cost)} a joint"
        passed = x.counts.get(does_it_pass.PASSED, 0)
        return f"{say.name(q.within, job)} ({say.figure(x)}, {passed} of {passed} passed{cost})"

    chosen: dict[str, list[str]] = {}
    for job, x in picks.items():
        if x is not None:
            chosen.setdefault(x.level, []).append(held(job, x))
    told = [f"{say.name(q.of, level)} for {joined(own)}" for level, own in chosen.items()]
    none = [_none(say, a, job, by_job[job]) for job, x in picks.items() if x is None]
    why = "cheapest" if a.verdict == which_for_what.CHEAPEST else "strongest"
    parts = packed("use ", told) if told else []
    rule = f"Each is the {why} of those of which every piece passed your rule" if told else ""
    nothing = row(none)
    rule = f"{rule}; {nothing}" if rule and nothing else rule or nothing
    ids = list(dict.fromkeys(x.level for x in a.lines))
    failed = [x for x in ids if all(y.standing is Standing.FAILS for y in a.lines if y.level == x)]
    avoid = f"{joined([say.name(q.of, x) for x in failed[:MOST_NAMES]])} passed nowhere" if failed and told else ""
    return sentences([*parts[:1], f"{rule}; {avoid}" if avoid else rule, *parts[1:]])


def _none(say: Say, a: Answer, job: str, lines: list[Line]) -> str:
    """Why nothing is picked for a job, with what came closest."""
    q, place = a.question, say.name(a.question.within, job)
    tried = [x for x in lines if x.counts.get(does_it_pass.FAILED)]
    if not tried:
        return f"there is not enough to pick from for {place}"
    near = max(tried, key=lambda x: (x.counts[does_it_pass.PASSED] / sum(x.counts.values()), x.figure or 0.0))
    passed, n = near.counts[does_it_pass.PASSED], sum(near.counts.values())
    return f"nothing passed for {place} ({say.name(q.of, near.level)} came closest, {passed} of {n})"
