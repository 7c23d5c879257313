"""How the treatments gave way: the commonest failure mode, and the wood failure."""

from __future__ import annotations

from collections import Counter

from adhaero.core.compare.case import Case, Finding
from adhaero.core.method import FAILURE_NAMES


def find(case: Case) -> list[Finding]:
    """One sentence a treatment whose faces were looked at."""
    found = []
    for r in case.analysis.rows:
        if not r.modes or r.group.role == "solid":
            continue
        total, common = sum(r.modes.values()), Counter(r.modes).most_common()
        wood = "" if r.wood_failure_pct is None else f"; wood failure {r.wood_failure_pct:.0f} % on average"
        if common[0][1] > total / 2:
            how = f"mostly {FAILURE_NAMES[common[0][0]].lower()} ({common[0][1]} of {total})"
        else:
            how = ", ".join(f"{FAILURE_NAMES[m].lower()} ({n})" for m, n in common)
        text = f"{r.group.label} gave way {how}{wood}."
        numbers = {**r.modes, "wood_failure_pct": r.wood_failure_pct}
        found.append(Finding("failure", text, {**numbers}, (r.group.letter,)))
    return found
