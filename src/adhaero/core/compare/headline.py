"""The first sentence: the answer to the question that the batch asked, and no more than the figures bear."""

from __future__ import annotations

from collections.abc import Sequence

from adhaero.core.compare import steps
from adhaero.core.compare.axis import Axis
from adhaero.core.compare.case import Case, Finding
from adhaero.core.compare.data import counted, listed
from adhaero.core.compare.level_words import series_in_words, with_missing
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import NONE, FamilyResult, Judged, Over
from adhaero.core.compare.saying import apart_in_words, begun, is_base, kept_ends, over_in_words, said, strata_in_words
from adhaero.core.compare.standing import Standing, several, standing
from adhaero.core.plan.comparisons import KEPT

ONE_OF_EACH = "one piece of each shows what can happen, not how often"
LONGEST = 140
"""Signs that a headline may have before names give way to numbers."""


def headline(case: Case) -> Finding:
    """The answer first."""
    r = case.main
    if r is None or all(j.route == NONE for j in r.comparisons):
        return Finding("headline", _nothing_yet(case))
    text = _answer(case, r)
    about = sorted({x for j in r.comparisons for x in (j.first, j.second)})
    if r.comparisons and all(j.of_wood for j in r.comparisons):
        text += " All broke in the wood: this compares the wood."
    return Finding("headline", text, {"comparisons": len(r.comparisons)}, tuple(about) if len(about) < 9 else ())


def _answer(case: Case, r: FamilyResult) -> str:
    axis = next((a for a in case.axes if a.factor == r.family.of), None)
    if axis is not None and axis.series:
        return _along(case, r, axis)
    if r.pooled:
        return _over(case, r)
    if r.family.every_pair:
        return _ranking(case, r.comparisons)
    if r.family.of == KEPT and len(r.comparisons) <= 2:
        return " ".join(begun(said(case, r.family, j)) for j in r.comparisons)
    if r.family.of == KEPT and len({j.second for j in r.comparisons}) == 1:
        if any(j.ratio is None for j in r.comparisons):
            return _against(case, r.comparisons)
        kept = _shares([(case.label(j.first), j) for j in r.comparisons])
        return f"Of {case.label(r.comparisons[0].second)}: {'; '.join(kept)}."
    if len({j.second for j in r.comparisons}) > 1:
        return _of_many(r)
    return _against(case, r.comparisons)


def _of_many(r: FamilyResult) -> str:
    """Comparisons in several strata that cannot be pooled: how they ended."""
    count = {end: sum(j.outcome is end for j in r.comparisons) for end in Outcome}
    said_ = ", ".join(f"{n} {end.value}" for end, n in count.items() if n)
    return f"{r.family.sentence}: of {counted(len(r.comparisons), 'comparison')} {said_}."


def _nothing_yet(case: Case) -> str:
    broken = sum(r.summary.n for r in case.analysis.rows)
    if not broken:
        void = any(r.void for r in case.analysis.rows) and not any(r.unbroken for r in case.analysis.rows)
        return "Every reading is excluded: nothing can be compared." if void else "Nothing broken yet."
    bounded = [r.group.label for r in case.analysis.rows if r.group.role != "solid" and r.summary.bounded]
    text = "Can't tell yet."
    if case.main is not None and (seen := steps.seen(case.main.comparisons, case.setting)):
        names = list(dict.fromkeys((c.first, c.second) for c in case.main.family.contrasts))
        what = f"{names[0][0]} against {names[0][1]}" if len(names) == 1 else case.main.family.sentence
        return f"{what}: {seen}, as seen; so few pieces show what can happen, not how often."
    whys = list(dict.fromkeys(j.why for res in case.results for j in res.comparisons if j.why))
    if whys:
        single = len(whys) > 1 and all(row.summary.n == 1 for row in case.analysis.rows if row.summary.n)
        text = f"Can't tell yet: {ONE_OF_EACH if single else whys[0]}."
    return f"{text} Of {listed(bounded, 3)} only bounds are known." if bounded else text


def _along(case: Case, r: FamilyResult, axis: Axis) -> str:
    """What the levels of the axis are: over the strata where these agree, else stratum by stratum."""
    whole = [series_in_words(case, axis, s, r.comparisons) for s in axis.series]
    if len(whole) == 1:
        return f"{whole[0]}."
    if r.pooled and all(o.agree for o in r.pooled) and (together := _all_over(case, r, axis.name)):
        return together
    told: list[str] = []
    brief = [series_in_words(case, axis, s, r.comparisons, brief=True) for s in axis.series]
    for texts in (whole, brief, [with_missing(s, s.short) for s in axis.series]):
        told = [f"{s.stratum}: {text[:1].lower()}{text[1:]}" for s, text in zip(axis.series, texts, strict=True)]
        if len("; ".join(told)) <= LONGEST:
            return f"{'; '.join(told)}."
    first = f"{brief[0][:1].lower()}{brief[0][1:]}"
    return f"{axis.series[0].stratum}: {first}; {'the others are' if len(told) > 2 else 'the other is'} told below."


def _over(case: Case, r: FamilyResult) -> str:
    """The contrast that says most over its strata."""
    known = sorted(r.pooled, key=lambda o: (o.outcome is Outcome.UNKNOWN, o.p))
    # That strata differ by less than matters is sure in some batches, and no answer.
    apart = not known[0].agree and known[0].highest > known[0].lowest * (1 + case.matters)
    differs = apart_in_words(r.family, known[0], r.comparisons) if apart else ""
    if differs:
        return differs
    texts = [begun(over_in_words(case, r.family, o)) for o in known[:2]]
    # A contrast that no ratio can be pooled of (all fell apart) is part of the answer.
    whole = len(known) == len(r.family.contrasts)
    if whole and (len(known) == 1 or (len(known) == 2 and sum(map(len, texts)) < LONGEST + 40)):
        return " ".join(texts)
    return _all_over(case, r) or texts[0]


def _all_over(case: Case, r: FamilyResult, axis: str = "") -> str:
    """Several contrasts with one level over the same strata, in one sentence; empty where they are no such. The name of
    an ``axis`` is said once.
    """
    against, strata = {o.second for o in r.pooled}, {strata_in_words(r.family, o) for o in r.pooled}
    if len(against) > 1 or len(strata) > 1:
        return ""
    short = f"{axis.lower()} " if axis else ""
    second, over = against.pop(), strata.pop()
    if r.family.of == KEPT:
        told, begins = _shares([(o.first, o) for o in r.pooled]), f"{begun(over)}, of {second}"
    else:
        told = _by_end(case, [(o.first.removeprefix(short), o) for o in r.pooled])
        begins = f"Against {second}, {over}"
    unlike = [o.first.removeprefix(short) for o in r.pooled if not o.agree]
    if unlike:
        told.append(f"{listed(unlike, 4)} {'is' if len(unlike) == 1 else 'are'} not alike in each")
    alone = [c.first.removeprefix(short) for c in r.family.contrasts if c.name not in {o.name for o in r.pooled}]
    if alone:
        told.append(f"{listed(alone, 4)} {'is' if len(alone) == 1 else 'are'} told below")
    return f"{begins}: {'; '.join(told)}."


def _shares(known: Sequence[tuple[str, Judged | Over]]) -> list[str]:
    """What several keep of one and the same, each with its interval."""
    return [
        f"{name} {'' if i else 'keeps '}{100 * (j.ratio or 0):.0f} % ({kept_ends(j.low, j.high)}"
        + (": that it changes can't be told yet)" if j.outcome is Outcome.UNKNOWN else ")")
        for i, (name, j) in enumerate(known)
    ]


def _names(names: Sequence[str], all_of: int) -> str:
    """Names of treatments, as long as they are few and short; else how many."""
    if sum(map(len, names)) <= LONGEST // 2 and len(names) <= 5:
        return listed(names)
    return "all others" if len(names) == all_of else f"{len(names)} of {all_of}"


def _labels(case: Case, letters: Sequence[str], all_of: int) -> str:
    return _names([case.label(x) for x in letters], all_of)


def _standing(case: Case, j: Judged) -> Standing:
    return standing((r := case.row(j.first)).group, r.summary)


def _against(case: Case, found: Sequence[Judged]) -> str:
    """Each against one control: which are stronger, weaker, the same, and not told."""
    second = found[0].second
    if len(found) == 1:
        return said(case, case.main.family, found[0]) if case.main else ""
    known = [(case.label(j.first), j) for j in found if case.row(j.first).summary.n]
    told = _by_end(case, known, len(found))
    without = [j for j in found if not case.row(j.first).summary.n]
    for why in Standing:
        own = [case.label(j.first) for j in without if _standing(case, j) is why]
        if own:
            told.append(f"{_names(own, len(found))} {several(own, why)}")
    row = case.row(second)
    scattered = "" if is_base(row) or not row.summary.mean else ", too scattered to tell from nothing"
    mean = "" if row.summary.mean is None else f" ({case.show(row.summary.mean)}{scattered})"
    return f"Against {row.group.label}{mean}: {'; '.join(told)}."


def _by_end(case: Case, known: Sequence[tuple[str, Judged | Over]], all_of: int = 0) -> list[str]:
    """Named comparisons with one and the same: which are more, which less, the same, and not told."""
    told = []
    for end, what in (
        (Outcome.BETTER, case.words.more), (Outcome.WORSE, case.words.less),
        (Outcome.SAME, "the same for practical purposes"), (Outcome.UNKNOWN, ""),
    ):  # fmt: skip
        own = [(name, j) for name, j in known if j.outcome is end]
        if not own:
            continue
        names = _names([name for name, _ in own], all_of or len(known))
        if end is Outcome.UNKNOWN:
            told.append(f"{names} can't be told apart from it yet")
            continue
        by = _by([j for _, j in own]) if end is not Outcome.SAME else ""
        only = own[0][1].ratio if len(own) == 1 else None
        sized = case.words.by_size(only, what) if only and by else what
        told.append(f"{names} {'is' if len(own) == 1 else 'are'} {sized}{by}")
    return told


def _by(found: Sequence[Judged | Over]) -> str:
    """By how much a few are stronger or weaker."""
    shares = [100 * abs(j.ratio - 1) for j in found if j.ratio is not None and j.ratio < 2]
    said_ = list(dict.fromkeys(f"{x:.0f}" for x in shares))
    return f" by {listed(said_)} %" if len(shares) == len(found) <= 3 else ""


def _ranking(case: Case, found: Sequence[Judged]) -> str:
    """All pairs: who holds more than whom, never a highest that another may lie above."""
    beats: dict[str, set[str]] = {}
    letters = list(dict.fromkeys(x for j in found for x in (j.second, j.first)))
    for j in found:
        if j.outcome in (Outcome.BETTER, Outcome.WORSE):
            up, down = (j.first, j.second) if j.outcome is Outcome.BETTER else (j.second, j.first)
            beats.setdefault(up, set()).add(down)
    beaten = set().union(*beats.values()) if beats else set()
    top = [x for x in letters if x in beats and x not in beaten]
    if not top:
        same = [j for j in found if j.outcome is Outcome.SAME]
        if found and len(same) == len(found):
            return f"All {counted(len(letters), 'treatment')} are the same for practical purposes."
        return f"None of the {counted(len(letters), 'treatment')} is told apart from another yet."
    most = set().union(*(beats[x] for x in top))
    lead = [x for x in top if beats[x] == most] or [max(top, key=lambda x: len(beats[x]))]
    under = [x for x in letters if x in beats[lead[0]]]
    open_ = [x for x in letters if x not in lead and x not in under]
    verb = "holds" if len(lead) == 1 else "hold"
    if case.words.has != "holds":
        verb = "has" if len(lead) == 1 else "have"
    most_, least = _labels(case, lead, len(letters)), _labels(case, under, len(letters) - len(lead))
    text = f"{most_} {verb} more than {least}"
    if open_:
        it = "it" if len(lead) == 1 else "them"
        text += f"; {_labels(case, open_, len(letters) - len(lead))} can't be told apart from {it} yet"
    return f"{text}."
