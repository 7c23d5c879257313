"""Differences between treatments in words: with the reference all of them, of the other pairs the largest.

With d the smallest difference that matters, as a share of the mean of the reference of the pair, and the simultaneous
interval of the difference, a pair ends as *same for practical purposes* (the interval lies within +-d), *better* or
*worse* (it excludes 0), or *can't tell yet*. A percentage needs a base: against next to nothing there is none.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.case import Case, Finding, Numbers, Words
from adhaero.core.compare.data import counted
from adhaero.core.statistics.pairwise import Pair

MOST_OTHERS = 12
"""Differences told of, beside those with the reference; the rest stand in the table of all pairs."""


class Outcome(StrEnum):
    """What can be said of one treatment against another."""

    BETTER = "better"
    WORSE = "worse"
    SAME = "same for practical purposes"
    UNKNOWN = "can't tell yet"


@dataclass(frozen=True)
class Comparison:
    """``first`` against ``second`` (rows by index) in words, in percent of the second's mean where that is a base."""

    first: int
    second: int
    outcome: Outcome
    percent: float | None
    percent_low: float | None
    percent_high: float | None
    p: float | None
    text: str
    of_wood: bool = False


def outcome(low: float, high: float, matters: float) -> Outcome:
    """The outcome of a difference with interval [low, high] when ``matters`` is the smallest that counts."""
    if -matters <= low and high <= matters:
        return Outcome.SAME
    if low > 0:
        return Outcome.BETTER
    if high < 0:
        return Outcome.WORSE
    return Outcome.UNKNOWN


def compare(case: Case, pair: Pair, *, flip: bool) -> Comparison:
    """A pair in words; ``flip`` sets the second against the first."""
    a = case.analysis
    first, second = a.tested[pair.first], a.tested[pair.second]
    diff, low, high = pair.diff, pair.ci_low, pair.ci_high
    if flip:
        first, second, diff = second, first, -diff
        low, high = (None, None) if low is None or high is None else (-high, -low)
    name, other = a.rows[first].group.label, a.rows[second].group.label
    base = a.rows[second].summary.mean
    if not base or low is None or high is None:
        text = f"{name} against {other}: can't tell yet; there is no scatter to judge by."
        return Comparison(first, second, Outcome.UNKNOWN, None, None, None, None, text)
    found = outcome(low / base, high / base, case.matters)
    wood = all_in_wood(a.rows[first]) and all_in_wood(a.rows[second])
    if not is_base(a.rows[second], low / base):
        text = _without_percent(case, a.rows[first], a.rows[second], found, low, high)
        return Comparison(first, second, found, None, None, None, pair.p, _of_wood(text, wood), wood)
    percent, p_low, p_high = (100 * v / base for v in (diff, low, high))
    text = _in_percent(name, other, found, percent, f"{p_low:+.0f} % to {p_high:+.0f} %", case.matters, case.words)
    return Comparison(first, second, found, percent, p_low, p_high, pair.p, _of_wood(text, wood), wood)


def is_base(row: Row, low_share: float = 0.0) -> bool:
    """Whether percentages against a treatment say anything: its own interval excludes 0, and nothing is lost by more
    than all of it.
    """
    ci_low = row.summary.exact.ci_low
    return (ci_low is None or ci_low > 0) and low_share >= -1


def all_in_wood(row: Row) -> bool:
    """Whether every piece of a treatment whose face was looked at gave way in the wood."""
    seen = [p for p in row.group.pieces if p.opened]
    return bool(seen) and all(p.in_wood for p in seen)


def _of_wood(text: str, wood: bool) -> str:
    return f"{text} All of them broke in the wood: that compares the wood, not the glue." if wood else text


def _in_percent(name: str, other: str, found: Outcome, percent: float, span: str, matters: float, words: Words) -> str:
    match found:
        case Outcome.BETTER:
            return f"{name} is {words.more} than {other} by {percent:.0f} % ({span})."
        case Outcome.WORSE:
            return f"{name} is {words.less} than {other} by {-percent:.0f} % ({span})."
        case Outcome.SAME:
            what = f"{100 * matters:.0f} % is what matters"
            return f"{name} and {other} are the same for practical purposes ({span}; {what})."
        case Outcome.UNKNOWN:
            return f"{name} against {other}: can't tell yet ({span})."


def _without_percent(case: Case, first: Row, second: Row, found: Outcome, low: float, high: float) -> str:
    """A difference against next to nothing, in the unit itself."""
    means = [case.show(r.summary.mean or 0.0) for r in (first, second)]
    name, other = first.group.label, second.group.label
    span = f"difference {case.show(low)} to {case.show(high)}"
    little = "next to nothing" if not is_base(second) else "little"
    match found:
        case Outcome.BETTER:
            return f"{name} {case.words.has} {means[0]}, {other} {little} ({means[1]}; {span})."
        case Outcome.WORSE:
            return f"{name} {case.words.has} {means[0]} against {means[1]} of {other} ({span})."
        case _:
            return f"{name} against {other}: can't tell yet ({means[0]} and {means[1]}; {span})."


def with_reference(case: Case) -> list[Comparison]:
    """Every tested treatment against the reference."""
    a = case.analysis
    place = a.tested.index(case.reference) if case.reference in a.tested else None
    return [compare(case, pair, flip=pair.first == place) for pair in a.pairs if place in (pair.first, pair.second)]


def other_pairs(case: Case) -> tuple[list[Pair], int]:
    """The other pairs that have an outcome, largest difference first, and how many have none.

    Of a thousand pairs only a few are told, so the outcome of each is found here without its words.
    """
    a = case.analysis
    place = a.tested.index(case.reference) if case.reference in a.tested else None
    means = [a.rows[i].summary.mean for i in a.tested]
    found, open_ = [], 0
    for pair in a.pairs:
        if place in (pair.first, pair.second):
            continue
        base = means[pair.first] if pair.diff < 0 else means[pair.second]
        if base and pair.ci_low is not None and pair.ci_high is not None:
            low, high = pair.ci_low / base, pair.ci_high / base
            if outcome(low, high, case.matters) is not Outcome.UNKNOWN:
                found.append((abs(pair.diff / base), pair))
                continue
        open_ += 1
    return [pair for _, pair in sorted(found, key=lambda f: -f[0])], open_


def find(case: Case) -> list[Finding]:
    """Every pair with the reference, the largest of the other differences, and how many more there are."""
    settled, open_ = other_pairs(case)
    told = [*with_reference(case), *(compare(case, p, flip=p.diff < 0) for p in settled[:MOST_OTHERS])]
    rows = case.analysis.rows
    found = [
        Finding("difference", c.text, _numbers(c), (rows[c.first].group.letter, rows[c.second].group.letter))
        for c in told
    ]
    more = len(settled) - min(len(settled), MOST_OTHERS)
    for count, what in ((more, "told apart, or found the same"), (open_, "not told apart yet")):
        if count:
            verb = "is" if count == 1 else "are"
            found.append(Finding("difference", f"{counted(count, 'other pair')} {verb} {what}; see all pairs.",
                                 {"pairs": count}))  # fmt: skip
    return found


def _numbers(c: Comparison) -> Numbers:
    return {
        "percent": c.percent,
        "percent_low": c.percent_low,
        "percent_high": c.percent_high,
        "p": c.p,
        "outcome": c.outcome.value,
    }
