"""Counts of pieces, where there is no load to compare: exact intervals and exact tests.

Intervals are Clopper and Pearson's, tests Fisher's; several tests at once are adjusted by Holm's method.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from adhaero.core.compare.analysis import Row
from adhaero.core.observation import WOOD_MODES


@dataclass(frozen=True)
class Share:
    """``hits`` of ``n`` pieces as a share with its exact interval; ``share`` is ``None`` of no pieces."""

    hits: int
    n: int
    share: float | None
    low: float
    high: float


def share(hits: int, n: int, alpha: float = 0.05) -> Share:
    """A share with its Clopper-Pearson interval; of no pieces anything is possible."""
    if n == 0:
        return Share(0, 0, None, 0.0, 1.0)
    low = float(stats.beta.ppf(alpha / 2, hits, n - hits + 1)) if hits else 0.0
    high = float(stats.beta.ppf(1 - alpha / 2, hits + 1, n - hits)) if hits < n else 1.0
    return Share(hits, n, hits / n, low, high)


def fisher(a: Share, b: Share) -> float:
    """Two-sided p of Fisher's exact test that two shares are the same."""
    table = np.array([[a.hits, a.n - a.hits], [b.hits, b.n - b.hits]])
    return float(stats.fisher_exact(table).pvalue)


def holm(p: Sequence[float]) -> list[float]:
    """P values adjusted for being several (S. Holm, 1979), in the order given."""
    order = sorted(range(len(p)), key=lambda i: p[i])
    adjusted, largest = [0.0] * len(p), 0.0
    for rank, i in enumerate(order):
        largest = max(largest, min(1.0, (len(p) - rank) * p[i]))
        adjusted[i] = largest
    return adjusted


def in_wood(modes: Mapping[str, int], n: int, alpha: float = 0.05) -> Share:
    """How many of ``n`` pieces gave way in the wood, by their failure modes."""
    return share(sum(c for m, c in modes.items() if m in WOOD_MODES), n, alpha)


def judge_counts(rows: Sequence[Row], alpha: float) -> list[str]:
    """Sentences on how often each treatment gave way in the wood, and against the control (else the best)."""
    shares = [in_wood(r.modes, sum(r.modes.values()) + r.summary.n_fell_apart, alpha) for r in rows]
    known = [i for i, s in enumerate(shares) if s.n]
    if not known:
        return ["Nothing is opened yet."]
    found = [
        f"{rows[i].group.label}: {s.hits} of {s.n} gave way in the wood "
        f"({100 * s.low:.0f} to {100 * s.high:.0f} % at {100 * (1 - alpha):.0f} % confidence)."
        for i in known
        for s in (shares[i],)
    ]
    control = next((i for i in known if rows[i].group.is_control), None)
    reference = control if control is not None else max(known, key=lambda i: shares[i].share or 0.0)
    others = [i for i in known if i != reference]
    tested = holm([fisher(shares[i], shares[reference]) for i in others])
    for i, p in zip(others, tested, strict=True):
        a, b = shares[i], shares[reference]
        names = f"{rows[i].group.label} against {rows[reference].group.label}"
        if p < alpha:
            more = "more" if (a.share or 0) > (b.share or 0) else "less"
            found.append(f"{names}: gives way in the wood {more} often (p = {p:.2g}, Fisher's test, Holm).")
        else:
            found.append(f"{names}: can't tell yet (p = {p:.2g}, Fisher's test, Holm).")
    return found
