"""What to test next: how many pieces it takes to tell apart what could not be."""

from __future__ import annotations

from adhaero.core.compare.case import Case, Finding
from adhaero.core.compare.data import counted
from adhaero.core.compare.how_many import more_of_each
from adhaero.core.compare.outcome import Outcome
from adhaero.core.plan.power import pieces_needed

MOST = 3
"""Comparisons of which it is told one by one how many more they take; the table tells it of all."""


def find(case: Case) -> list[Finding]:
    """About the comparisons that were not told apart; and, where nothing is missing at all, that they all were."""
    judged = [j for r in case.results for j in r.comparisons]
    if not judged or not any(j.p is not None for j in judged):
        return []
    open_ = [j for j in judged if j.outcome is Outcome.UNKNOWN]
    single = _each(case)
    joints = [r for r in case.analysis.rows if r.group.role != "solid"]
    if not open_:
        missing = any(r.unbroken or r.untested or r.left_out for r in joints)
        text = (
            "All planned comparisons have an outcome: more pieces would narrow the intervals, not change what is said."
        )
        return [] if missing else [Finding("advice", text)]
    known = [r for r in joints if not r.summary.bounded and r.summary.n > 1 and r.summary.exact.cv is not None]
    weight = sum(r.summary.n - 1 for r in known)
    if not weight:
        return single
    cv = (sum((r.summary.exact.cv or 0.0) ** 2 * (r.summary.n - 1) for r in known) / weight) ** 0.5
    family = max(case.results, key=lambda r: sum(j.outcome is Outcome.UNKNOWN for j in r.comparisons))
    together = max(1, len(family.comparisons))
    needed = pieces_needed(case.matters, cv, case.alpha / together, case.wanted_power) if cv else None
    most = max(r.summary.n for r in known)
    if needed is None or needed[0] <= most:
        return single
    text = (
        f"To show a difference of {100 * case.matters:.0f} % at the scatter seen here (CV {100 * cv:.0f} %) "
        f"takes about {counted(needed[0], known[0].group.unit)} of each treatment; you have up to {most}."
    )
    return [*single, Finding("advice", text, {"needed": needed[0], "cv": cv, "open": len(open_)})]


def _each(case: Case) -> list[Finding]:
    """What would settle the open comparisons of the main question, those that take least first."""
    if case.main is None:
        return []
    known = [(n, j) for j in case.main.comparisons if (n := more_of_each(case, case.main, j)) is not None]
    return [
        Finding(
            "advice",
            f"{case.label(j.first)} against {case.label(j.second)}: about {n} more of each would settle it, were it "
            "truly as it looks.",
            {"more": n}, (j.first, j.second),
        )
        for n, j in sorted(known, key=lambda x: x[0])[:MOST]
    ]  # fmt: skip
