"""What the planned comparisons gave, in sentences: pooled ones first, then the largest differences."""

from __future__ import annotations

import math
from collections.abc import Iterator

from adhaero.core.compare.case import Case, Finding, Numbers
from adhaero.core.compare.data import counted, p_in_words
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import FamilyResult, Judged, Over
from adhaero.core.compare.saying import over_in_words, said

MOST = 12
"""Comparisons of a family that are told one by one; the rest stand in the table."""


def in_order(case: Case) -> list[FamilyResult]:
    """The families, that of the main question first."""
    return sorted(case.results, key=lambda r: r is not case.main)


def find(case: Case) -> list[Finding]:
    """Every family: what holds over its strata, then its comparisons, those with an outcome and a large ratio first."""
    found: list[Finding] = []
    for axis in case.axes:
        found += [Finding("difference", text) for text in axis.sentences]
    for r in in_order(case):
        found += _taken_out(case, r)
        found += [Finding("difference", over_in_words(case, r.family, o), _of_over(o)) for o in r.pooled]
        if any(a.factor == r.family.of for a in case.axes):
            # Along an axis the plateau and the trend answer; pairs of levels stand in the table.
            continue
        ranked = sorted(r.comparisons, key=_rank)
        found += [
            Finding("difference", said(case, r.family, j), _numbers(j), (j.first, j.second)) for j in ranked[:MOST]
        ]
        rest = ranked[MOST:]
        if rest:
            open_ = sum(j.outcome is Outcome.UNKNOWN for j in rest)
            text = f"{counted(len(rest), 'further comparison')}, {open_} of them can't be told yet: see the table."
            found.append(Finding("difference", text, {"comparisons": len(rest)}))
    return found


def _taken_out(case: Case, r: FamilyResult) -> Iterator[Finding]:
    """That blocks were taken out, how much that was, and what would be said otherwise."""
    if r.shared is None:
        return
    f = r.shared
    text = f"Judged within {counted(f.blocks, f.name)}, which take out {100 * f.taken_out:.0f} % of the scatter"
    if len(r.comparisons) == 1 and r.left_in[0].p is not None:
        p = r.comparisons[0].p or 0.0
        text += f" ({p_in_words(p)}; left in, {p_in_words(r.left_in[0].p)})"
    else:
        pairs = zip(r.comparisons, r.left_in, strict=True)
        other = sum(a.outcome is not b.outcome for a, b in pairs)
        text += f"; left in, {other} of {counted(len(r.comparisons), 'comparison')} would end otherwise"
    yield Finding("difference", f"{text}.", {"blocks": f.blocks, "taken_out": f.taken_out})


def _rank(j: Judged) -> tuple[bool, float]:
    size = abs(math.log(j.ratio)) if j.ratio and j.ratio > 0 else math.inf
    return j.outcome is Outcome.UNKNOWN, -size


def known_end(high: float | None) -> float | None:
    """The upper end of an interval, where it has one."""
    return None if high is None or math.isinf(high) else high


def _numbers(j: Judged) -> Numbers:
    return {
        "ratio": j.ratio, "ratio_low": j.low, "ratio_high": known_end(j.high),
        "p": j.p, "p_by_order": j.by_order, "outcome": j.outcome.value,
    }  # fmt: skip


def _of_over(o: Over) -> Numbers:
    return {"ratio": o.ratio, "ratio_low": o.low, "ratio_high": known_end(o.high), "p": o.p, "p_same_in_each": o.q_p,
            "outcome": o.outcome.value}  # fmt: skip
