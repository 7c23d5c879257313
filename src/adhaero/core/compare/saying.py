"""Comparisons in words: by how much, with the interval, and no percentage where it would say nothing."""

from __future__ import annotations

import math

from adhaero.core.compare import steps
from adhaero.core.compare.analysis import Row
from adhaero.core.compare.case import Case, Words
from adhaero.core.compare.data import p_in_words
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import FALLEN, MEANS, NONE, ORDER, Judged, Over
from adhaero.core.plan.comparisons import KEPT, Family
from adhaero.core.units import half_up, signed_percent

TIMES_FROM = 2.0
"""Ratio from which on it is told as so many times."""
MOST_KEPT = 10.0
"""Share from which on an upper end of what is kept is none."""


def begun(text: str) -> str:
    """A sentence with a capital: levels may begin with a small letter."""
    return text[:1].upper() + text[1:]


def is_base(row: Row) -> bool:
    """Whether percentages against a treatment say anything: its own interval excludes 0."""
    ci_low = row.summary.exact.ci_low
    return row.summary.bounded or ci_low is None or ci_low > 0


def ratio_in_words(ratio: float, low: float | None, high: float | None, words: Words) -> str:
    """How much more or less, with the interval: "stronger than {} by 25 % (12 to 40 %)"."""
    if ratio >= TIMES_FROM:
        return f"{words.has} {ratio:.1f} times as much as {{}} ({_span(low, high, times=True)})"
    more = ratio >= 1
    own = 100 * (ratio - 1) if more else 100 * (1 - ratio)
    ends = (low, high) if more else (high, low)
    shares = [None if e is None or math.isinf(e) else 100 * (e - 1) * (1 if more else -1) for e in ends]
    told = words.by_size(ratio, words.more if more else words.less)
    return f"{told} than {{}} by {half_up(own, 0):.0f} % ({_ends(*shares)}){words.about_equal(ratio)}"


def _ends(first: float | None, second: float | None) -> str:
    if first is None:
        return "no upper end"
    if second is None:
        return f"{half_up(first, 0):.0f} % or more"
    return f"{half_up(first, 0):.0f} to {half_up(second, 0):.0f} %"


def _span(low: float | None, high: float | None, *, times: bool = False) -> str:
    """An interval of a ratio: in percent more or less, or in times."""
    if low is None or high is None or math.isinf(high):
        return f"{low or 0:.2g} times or more"
    if times or high > 1 + TIMES_FROM:
        return f"{low:.2g} to {high:.2g} times"
    return f"{signed_percent(low - 1)} to {signed_percent(high - 1)}"


def said(case: Case, f: Family, j: Judged) -> str:
    """One comparison within its stratum, whole."""
    a, b = case.row(j.first), case.row(j.second)
    text = _told(case, f, j, a, b)
    return f"{text} All of them broke in the wood: that compares the wood, not the glue." if j.of_wood else text


def known_end(high: float | None) -> float | None:
    """The upper end of an interval, where it has one."""
    return None if high is None or math.isinf(high) else high


def _told(case: Case, f: Family, j: Judged, a: Row, b: Row) -> str:
    name, other = a.group.label, b.group.label
    if j.route == NONE:
        stepped = steps.in_words(j, case.setting) if steps.few(j, case.setting) else ""
        seen = f"{stepped} was seen" if stepped else "can't tell yet"
        return f"{name} against {other}: {seen}; {j.why}."
    if j.route == ORDER:
        assert j.p is not None
        p = f"by their order alone, {p_in_words(j.p)}"
        if j.outcome is Outcome.UNKNOWN:
            return f"{name} against {other}: can't tell yet ({p})."
        return f"{name} is {case.words.more if j.outcome is Outcome.BETTER else case.words.less} than {other} ({p})."
    if j.route == FALLEN:
        assert j.p is not None
        more = j.outcome is Outcome.BETTER
        own = [case.setting.sample(r) for r in (a, b)]
        whole = [f"{len(x.held)} of {len(x.held) + x.fallen}" for x in own]
        held = f"{whole[0]} held against {whole[1]}, {p_in_words(j.p)}"
        return f"{name} is {case.words.more if more else case.words.less} than {other} ({held})."
    if j.ratio is None and j.low is not None:
        return _bounded(case, j, name, other)
    if j.ratio is None or (j.route == MEANS and not is_base(b)):
        return _without_percent(case, j, a, b)
    if f.of == KEPT:
        return _kept(j, name, other)
    match j.outcome:
        case Outcome.UNKNOWN:
            return f"{name} against {other}: can't tell yet ({_span(j.low, j.high)})."
        case Outcome.SAME:
            what = f"{half_up(100 * case.matters, 0):.0f} % is what matters"
            return f"{name} and {other} are the same for practical purposes ({_span(j.low, j.high)}; {what})."
        case _:
            words = ratio_in_words(j.ratio, j.low, j.high, case.words).format(other)
            return f"{name} is {words}." if "times as much" not in words else f"{name} {words}."


def _kept(j: Judged, name: str, other: str) -> str:
    kept = 100 * (j.ratio or 0)
    lost = f"loses {half_up(100 - kept, 0):.0f} %" if kept <= 100 else f"gains {half_up(kept - 100, 0):.0f} %"
    told = "" if j.outcome is not Outcome.UNKNOWN else "; that it changes can't be told yet"
    return f"{name} keeps {half_up(kept, 0):.0f} % of {other} ({kept_ends(j.low, j.high)}), {lost}{told}."


def kept_ends(low: float | None, high: float | None) -> str:
    """The interval of what is kept."""
    least = 100 * (low or 0)
    return (
        f"{half_up(least, 0):.0f} % or more"
        if high is None or high > MOST_KEPT
        else f"{half_up(least, 0):.0f} to {half_up(100 * high, 0):.0f} %"
    )


def _bounded(case: Case, j: Judged, name: str, other: str) -> str:
    """One of the two never failed: a bound on one side."""
    if j.high is None or math.isinf(j.high):
        low = f"{j.low or 0:.2g} times"
        if j.outcome is Outcome.BETTER:
            return f"{name} {case.words.has} at least {low} as much as {other}: none of it failed."
        return (
            f"{name} against {other}: can't tell yet; none of {name} failed, it {case.words.has} {low} as much or more."
        )
    high = f"{j.high:.2g} times"
    if j.outcome is Outcome.WORSE:
        return f"{name} {case.words.has} at most {high} as much as {other}, of which none failed."
    return f"{name} against {other}: can't tell yet; none of {other} failed."


def _without_percent(case: Case, j: Judged, a: Row, b: Row) -> str:
    """A difference against next to nothing, in the unit itself."""
    name, other = a.group.label, b.group.label
    means = [case.show(r.summary.mean or 0.0) for r in (a, b)]
    little = "next to nothing" if not is_base(b) or not b.summary.mean else "little"
    match j.outcome:
        case Outcome.BETTER:
            return f"{name} {case.words.has} {means[0]}, {other} {little} ({means[1]})."
        case Outcome.WORSE:
            return f"{name} {case.words.has} {means[0]} against {means[1]} of {other}."
        case _:
            scattered = "" if not b.summary.mean else f"; {other} is too scattered to tell from nothing"
            return f"{name} against {other}: can't tell yet ({means[0]} and {means[1]}){scattered}."


def strata_in_words(f: Family, o: Over) -> str:
    """What a contrast is pooled over: "over 2 of 3 glues"."""
    whole = o.strata + len(o.left_out)
    # Species and faces are their own plural; a class is not.
    ending = "es" if f.strata.endswith("ss") else "" if f.strata.endswith("s") else "s"
    kind = f"combinations of {f.strata}" if " and " in f.strata else f.strata + ending
    return f"over {f'{o.strata} of ' if o.left_out else ''}{whole} {kind}"


def over_in_words(case: Case, f: Family, o: Over) -> str:
    """A contrast pooled over its strata."""
    over = strata_in_words(f, o)
    if f.of == KEPT:
        text = f"{o.first} keeps {half_up(100 * o.ratio, 0):.0f} % of {o.second} ({kept_ends(o.low, o.high)}), {over}"
    elif o.by_fallen:
        more, way = (case.words.more, "fewer") if o.outcome is Outcome.BETTER else (case.words.less, "more")
        text = f"{o.first} is {more} than {o.second}, {over}: {way} of its pieces fell apart ({p_in_words(o.p)})"
    elif o.outcome is Outcome.UNKNOWN:
        text = f"{o.first} against {o.second}, {over}: can't tell yet ({_span(o.low, o.high)})"
    elif o.outcome is Outcome.SAME:
        text = f"{o.first} and {o.second} are the same for practical purposes, {over} ({_span(o.low, o.high)})"
    else:
        words = ratio_in_words(o.ratio, o.low, o.high, case.words).format(o.second)
        text = f"{o.first} {'' if 'times as much' in words else 'is '}{words}, {over}"
    if o.agree:
        return f"{text}."
    each = (
        f"{half_up(100 * o.lowest, 0):.0f} to {half_up(100 * o.highest, 0):.0f} %"
        if f.of == KEPT
        else _span(o.lowest, o.highest)
    )
    return f"{text}; but it is not the same in each: {each}."
