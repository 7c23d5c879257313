"""What was guessed before the first break, held against what came out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import combinations

from adhaero.core.units import half_up


@dataclass(frozen=True)
class Score:
    """``pairs_right`` of ``pairs`` of treatments were put in the right order; ties count as half.

    ``off`` is the mean absolute error of the guesses, as a share of what came out.
    """

    treatments: int
    pairs_right: float
    pairs: int
    off: float


def score(guessed: Mapping[str, float], found: Mapping[str, float]) -> Score | None:
    """Guesses against means of the same figure, by treatment. ``None`` while fewer than two can be compared."""
    both = [k for k in guessed if found.get(k)]
    if len(both) < 2:
        return None
    right = 0.0
    for a, b in combinations(both, 2):
        sign = (guessed[a] - guessed[b]) * (found[a] - found[b])
        right += 1.0 if sign > 0 else 0.5 if sign == 0 else 0.0
    off = sum(abs(guessed[k] / found[k] - 1) for k in both) / len(both)
    return Score(len(both), right, len(both) * (len(both) - 1) // 2, off)


def in_words(s: Score) -> str:
    """The score as a sentence."""
    right = f"{s.pairs_right:g} of {s.pairs} {'pair' if s.pairs == 1 else 'pairs'}"
    return (
        f"Your guess put {right} in the right order; its loads were off by {half_up(100 * s.off, 0):.0f} % on average."
    )
