"""Counts of pieces, where there is no load to compare: exact intervals and exact tests.

Intervals are Clopper and Pearson's, tests Fisher's; several tests at once are adjusted by Holm's method.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.case import Finding
from adhaero.core.compare.data import counted, listed, p_in_words
from adhaero.core.observation import WOOD_MODES
from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.shares import Share, fisher, share


def in_wood(modes: Mapping[str, int], n: int, alpha: float = 0.05) -> Share:
    """How many of ``n`` pieces gave way in the wood, by their failure modes."""
    return share(sum(c for m, c in modes.items() if m in WOOD_MODES), n, alpha)


def judge_counts(rows: Sequence[Row], alpha: float) -> list[Finding]:
    """How often each treatment gave way in the wood, and against the control (else the best); the headline first."""
    shares = [in_wood(r.modes, sum(r.modes.values()) + r.summary.n_fell_apart, alpha) for r in rows]
    known = [i for i, s in enumerate(shares) if s.n]
    if not known:
        return [Finding("headline", "Nothing is opened yet.")]
    control = next((i for i in known if rows[i].group.is_control), None)
    reference = control if control is not None else max(known, key=lambda i: shares[i].share or 0.0)
    others = [i for i in known if i != reference]
    tested = list(zip(others, holm([fisher(shares[i], shares[reference]) for i in others]), strict=True))
    found = [_share(rows[i], shares[i], alpha) for i in known]
    found += [_pair(rows[i], rows[reference], shares[i], shares[reference], p, alpha) for i, p in tested]
    return [_headline(rows, shares, reference, tested, alpha), *found]


def _headline(
    rows: Sequence[Row], shares: Sequence[Share], reference: int, tested: Sequence[tuple[int, float]], alpha: float
) -> Finding:
    base = shares[reference].share or 0.0
    differs = {i for i, p in tested if p < alpha}
    parts = [
        ([i for i in differs if (shares[i].share or 0.0) > base], "more often"),
        ([i for i in differs if (shares[i].share or 0.0) <= base], "less often"),
    ]
    parts.append(([i for i, _ in tested if i not in differs], "not told apart from it yet"))
    said = [f"{what}: {listed([rows[i].group.label for i in sorted(own)])}" for own, what in parts if own]
    r, s = rows[reference], shares[reference]
    start = f"{r.group.label} gave way in the wood in {s.hits} of {counted(s.n, 'piece')}"
    return Finding("headline", f"{start}; {'; '.join(said)}." if said else f"{start}.", {"hits": s.hits, "n": s.n},
                   (r.group.letter,))  # fmt: skip


def _share(r: Row, s: Share, alpha: float) -> Finding:
    span = f"{100 * s.low:.0f} to {100 * s.high:.0f} % at {100 * (1 - alpha):.0f} % confidence"
    text = f"{r.group.label}: {s.hits} of {s.n} gave way in the wood ({span})."
    return Finding("failure", text, {"hits": s.hits, "n": s.n, "low": s.low, "high": s.high}, (r.group.letter,))


def _pair(r: Row, other: Row, a: Share, b: Share, p: float, alpha: float) -> Finding:
    names, test = f"{r.group.label} against {other.group.label}", f"{p_in_words(p)}, Fisher's test, Holm"
    more = "more" if (a.share or 0) > (b.share or 0) else "less"
    said = f"gives way in the wood {more} often" if p < alpha else "can't tell yet"
    return Finding("difference", f"{names}: {said} ({test}).", {"p": p}, (r.group.letter, other.group.letter))
