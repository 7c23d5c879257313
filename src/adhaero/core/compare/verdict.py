"""The verdict: which treatment the others are set against, the headline, and the findings in their order."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from adhaero.core.compare.analysis import Analysis
from adhaero.core.compare.case import OF_STRENGTH, Numbers, Words
from adhaero.core.compare.data import Piece, listed
from adhaero.core.compare.differences import Comparison, Outcome, is_base, with_reference
from adhaero.core.compare.findings import Case, Finding, findings
from adhaero.core.piece_record import Known


@dataclass(frozen=True)
class Verdict:
    """The comparisons with the reference (the control or, without one, the highest mean), and the findings."""

    reference: int | None
    comparisons: list[Comparison]
    findings: list[Finding]


def reference_row(analysis: Analysis) -> int | None:
    """The control if it can be tested (the standard one first), else the highest mean; ``None`` if nothing can."""
    rows = analysis.rows
    controls = [i for i in analysis.tested if rows[i].group.is_control]
    if controls:
        return min(controls, key=lambda i: rows[i].group.control != "standard")
    return max(analysis.tested, key=lambda i: rows[i].summary.mean or 0.0, default=None)


def judge(
    analysis: Analysis, show: Callable[[float], str], *, matters: float = 0.10, alpha: float = 0.05,
    wanted_power: float = 0.8, single_figure: str = "strength", words: Words = OF_STRENGTH,
) -> Verdict:  # fmt: skip
    """The verdict of an analysis. ``show`` writes a figure with its unit; ``matters`` is a share of the mean,
    ``words`` say what more of the figure is."""
    case = Case(analysis, reference_row(analysis), show, matters, alpha, wanted_power, single_figure, words)
    against = with_reference(case)
    return Verdict(case.reference, against, [_headline(case, against), *findings(case)])


def _headline(case: Case, found: list[Comparison]) -> Finding:
    a, reference = case.analysis, case.reference
    if reference is None or len(a.tested) < 2:
        broken = sum(r.summary.n for r in a.rows)
        return Finding("headline", _without_pairs(case, broken), {"broken": broken})
    row = a.rows[reference]
    by = {o: [a.rows[c.first].group.label for c in found if c.outcome is o] for o in Outcome}
    name = row.group.label
    parts = [
        (by[Outcome.BETTER], f"{case.words.more} than {name}"),
        (by[Outcome.WORSE], f"{case.words.less} than {name}"),
        (by[Outcome.SAME], f"the same as {name} for practical purposes"),
    ]
    said = [f"{listed(names)} {'is' if len(names) == 1 else 'are'} {what}" for names, what in parts if names]
    if by[Outcome.UNKNOWN]:
        said.append(f"{listed(by[Outcome.UNKNOWN])} can't be told apart from it yet")
    mean = row.summary.mean or 0.0
    holds = case.show(mean) if is_base(row) or not mean else f"{case.show(mean)}, too scattered to tell from nothing"
    text = f"Against {name} ({_role(case)}, mean {case.figure} {holds}): {'; '.join(said)}."
    if found and all(c.of_wood for c in found):
        text += " All broke in the wood: this compares the wood."
    return Finding("headline", text, _numbers(a, mean), (row.group.letter,))


def _without_pairs(case: Case, broken: int) -> str:
    if not broken:
        return "Nothing broken yet."
    joints = [r for r in case.analysis.rows if r.group.role != "solid" and r.summary.n]
    bounded = [r.group.label for r in joints if r.summary.bounded]
    text = "Can't tell yet: fewer than two treatments can be tested."
    return f"{text} Of {listed(bounded)} only bounds are known." if bounded else text


def _role(case: Case) -> str:
    """What the reference is: the control; else the highest mean, unless something may lie above it."""
    a = case.analysis
    assert case.reference is not None
    row = a.rows[case.reference]
    if row.group.is_control:
        kind = row.group.control
        return "the control" if kind in (None, "standard") else f"the control, {kind}"
    mean = row.summary.mean or 0.0
    above = [
        r.group.label
        for r in a.rows
        if r is not row
        and r.group.role != "solid"
        and (_reaches(r.group.pieces) > mean or (r.unbroken and not r.summary.n))
    ]
    return f"the highest exact mean; {listed(above, 3)} may be higher" if above else "the highest mean"


def _reaches(pieces: Sequence[Piece]) -> float:
    """How high the figures of a treatment with bounds may reach; nothing where all are exact."""
    data = [p.datum for p in pieces]
    if not any(d.known in (Known.AT_LEAST, Known.BETWEEN) for d in data):
        return float("-inf")
    return max(d.high for d in data if d.counts)


def _numbers(a: Analysis, mean: float) -> Numbers:
    numbers: Numbers = {"reference_mean": mean}
    if a.welch is not None:
        numbers |= {"welch_f": a.welch.f, "df_num": a.welch.df_num, "df_den": a.welch.df_den, "p": a.welch.p}
    if a.kruskal is not None:
        numbers |= {"kruskal_h": a.kruskal.h, "kruskal_p": a.kruskal.p}
    return numbers
