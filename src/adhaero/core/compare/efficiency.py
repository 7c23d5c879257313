"""Joint efficiency: a joint against solid wood that is loaded the same way (ratio of means, Fieller's interval)."""

from __future__ import annotations

from adhaero.core.compare.case import Case, Finding


def find(case: Case) -> list[Finding]:
    """What each treatment keeps of solid wood."""
    found = []
    for r in case.analysis.rows:
        if r.efficiency is None:
            continue
        f, share = r.efficiency.fieller, 100 * r.efficiency.ratio
        low, high = (f.ci_low, f.ci_high) if f is not None else (None, None)
        if low is not None and high is not None:
            span = f" ({max(0.0, 100 * low):.0f} to {100 * high:.0f} %)"
        else:
            span = f" (no interval: {r.efficiency.reason or 'too few pieces'})"
        text = f"{r.group.label} keeps {share:.0f} % of solid wood{span}."
        numbers = {"ratio": r.efficiency.ratio, "ci_low": low, "ci_high": high}
        found.append(Finding("efficiency", text, {**numbers}, (r.group.letter,)))
    return found
