"""How long pieces last: whole at looks on their way, or under a load that stands on them.

Survival is Kaplan and Meier's, treatments are held against each other by the log-rank test. A piece that came apart
between two looks counts at the look that found it, which all pieces looked at on the same days have alike.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

from adhaero.core.compare.data import counted, listed, p_in_words
from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.logrank import LogRank, kaplan_meier, log_rank
from adhaero.core.times import span

LOOKS, UNDER_LOAD = "looks", "load"
FEW = 3
"""Pieces below which nothing is said of how long a treatment lasts."""


@dataclass(frozen=True)
class Lasted:
    """A piece: how long (s) it was known whole, whether it gave way then, and under what share of the strength of its
    kind, where a load stood on it and that is known.
    """

    code: str
    letter: str
    time_s: float
    failed: bool
    load_n: float | None = None
    share: float | None = None


@dataclass(frozen=True)
class StepAt:
    """From ``time_s`` on this share is whole, with its interval; ``at_risk`` pieces were whole until then."""

    time_s: float
    whole: float
    low: float | None
    high: float | None
    at_risk: int


@dataclass(frozen=True)
class Lasting:
    """How long they last: ``kind`` is looks or load, ``p`` of there being no difference, ``text`` says it."""

    kind: str
    pieces: list[Lasted]
    steps: dict[str, list[StepAt]]
    p: float | None
    text: list[str]


def lasting(kind: str, pieces: Sequence[Lasted], label: Mapping[str, str], alpha: float = 0.05) -> Lasting | None:
    """What is known of how long the treatments last; ``None`` where nothing gave way, or of fewer than three pieces."""
    if len(pieces) < FEW or not any(p.failed for p in pieces):
        return None
    own: dict[str, list[tuple[float, bool]]] = {}
    for p in pieces:
        own.setdefault(p.letter, []).append((p.time_s, p.failed))
    steps = {x: _steps(times) for x, times in own.items()}
    told = {x: t for x, t in own.items() if len(t) >= FEW}
    found = log_rank(list(told.values())) if len(told) > 1 else None
    return Lasting(kind, list(pieces), steps, found.p if found else None, _in_words(told, found, label, alpha))


def _steps(times: Sequence[tuple[float, bool]]) -> list[StepAt]:
    moments = sorted({t for t, failed in times if failed})
    return [StepAt(s.time, s.survival, s.low, s.high, s.at_risk)
            for s in kaplan_meier(times, moments) if s.survival is not None]  # fmt: skip


def _in_words(
    own: Mapping[str, Sequence[tuple[float, bool]]], found: LogRank | None, label: Mapping[str, str], alpha: float
) -> list[str]:
    said = []
    for x, times in own.items():
        failed = sum(f for _, f in times)
        half = next((s.time_s for s in _steps(times) if s.whole <= 0.5), None)
        until = f", half of them by {span(half)}" if half is not None else ""
        said.append(f"{label[x]}: {failed} of {counted(len(times), 'piece')} gave way{until}.")
    if found is None:
        return said
    p = p_in_words(found.p)
    if found.p >= alpha:
        return [f"No difference in how long they last is shown (log-rank, {p}).", *said]
    return [_which(own, label, alpha, p), *said]


def _which(own: Mapping[str, Sequence[tuple[float, bool]]], label: Mapping[str, str], alpha: float, p: str) -> str:
    """Which of them last longer, pair by pair."""
    if len(own) == 2:
        (a, b), (_, second) = own, own.values()
        seen = log_rank(list(own.values()))
        assert seen is not None
        longer = b if seen.expected[1] > sum(f for _, f in second) else a
        return f"{label[longer]} lasts longer than {label[a if longer == b else b]} (log-rank, {p})."
    pairs = list(combinations(own, 2))
    tests = [log_rank([own[a], own[b]]) for a, b in pairs]
    known = [(pair, t) for pair, t in zip(pairs, tests, strict=True) if t is not None]
    adjusted = holm([t.p for _, t in known])
    apart = []
    for ((a, b), t), q in zip(known, adjusted, strict=True):
        if q < alpha:
            longer = b if t.expected[1] > sum(f for _, f in own[b]) else a
            apart.append(f"{label[longer]} longer than {label[a if longer == b else b]}")
    if not apart:
        return f"They do not last equally long (log-rank, {p}), but no pair is told apart."
    return f"They do not last equally long (log-rank, {p}): {listed(apart, 4)}."
