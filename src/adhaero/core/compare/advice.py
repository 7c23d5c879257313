"""What to test next: how many pieces it takes to tell apart what could not be."""

from __future__ import annotations

from adhaero.core.compare.case import Case, Finding
from adhaero.core.compare.data import counted
from adhaero.core.compare.differences import Outcome, other_pairs, with_reference
from adhaero.core.plan.power import comparisons, pieces_needed


def find(case: Case) -> list[Finding]:
    """About the pairs that were not told apart; and, where nothing is missing at all, that they all were."""
    a = case.analysis
    if not a.pairs:
        return []
    open_ = other_pairs(case)[1] + sum(c.outcome is Outcome.UNKNOWN for c in with_reference(case))
    if not open_:
        joints = [r for r in a.rows if r.group.role != "solid"]
        missing = any(r.unbroken or r.untested or r.left_out for r in joints)
        text = "All pairs have an outcome: more pieces would narrow the intervals, not change what is said."
        return [] if missing else [Finding("advice", text)]
    cvs = [(a.rows[i].summary.exact.cv or 0.0, a.rows[i].summary.n) for i in a.tested]
    weight = sum(n - 1 for _, n in cvs)
    if not weight:
        return []
    cv = (sum(c * c * (n - 1) for c, n in cvs) / weight) ** 0.5
    pairs = max(1, comparisons(len(a.tested), "all pairs"))
    needed = pieces_needed(case.matters, cv, case.alpha / pairs, case.wanted_power) if cv else None
    most = max(n for _, n in cvs)
    if needed is None or needed[0] <= most:
        return []
    text = (
        f"To show a difference of {100 * case.matters:.0f} % at the scatter seen here (CV {100 * cv:.0f} %) "
        f"takes about {counted(needed[0], a.rows[a.tested[0]].group.unit)} of each treatment; you have up to {most}."
    )
    return [Finding("advice", text, {"needed": needed[0], "cv": cv})]
