"""What several people guessed, each in a way of their own, held against what came out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import combinations

from adhaero.core.compare.prediction import score
from adhaero.core.units import half_up

LOAD, SHARE, RANK, OUTCOME = "load", "share", "rank", "outcome"
HOW: Mapping[str, str] = {
    LOAD: "loads", SHARE: "shares of the control", RANK: "an order", OUTCOME: "an outcome in words",
}  # fmt: skip
"""Ways to guess -> what is stated."""


def pairs_in_order(order: Sequence[str], found: Mapping[str, float]) -> tuple[float, int]:
    """How many pairs of an order, the highest first, stand as they came out, and of how many; ties count as half."""
    both = [k for k in order if k in found]
    right = 0.0
    for a, b in combinations(both, 2):
        right += 1.0 if found[a] > found[b] else 0.5 if found[a] == found[b] else 0.0
    return right, len(both) * (len(both) - 1) // 2


def shares_off(guessed: Mapping[str, float], found: Mapping[str, float], control: str) -> float | None:
    """Mean distance of guessed shares of the control from those that came out, in percent points; ``None`` where the
    control or all others are missing.
    """
    base = found.get(control)
    both = [k for k in guessed if k in found and k != control]
    if not base or not both:
        return None
    return sum(abs(guessed[k] - 100 * found[k] / base) for k in both) / len(both)


def _pairs(right: float, pairs: int) -> str:
    return f"{right:g} of {pairs} pair{'s' * (pairs != 1)} in the right order"


def scored(how: str, value: Mapping[str, float] | Sequence[str] | str, found: Mapping[str, float], control: str) -> str:
    """A guess held against the means (of the same figure, by treatment) in words; empty while that cannot be done."""
    if how == OUTCOME:
        return f"guessed: {value}" if found else ""
    if how == RANK and not isinstance(value, Mapping | str):
        right, pairs = pairs_in_order(value, found)
        return f"put {_pairs(right, pairs)}" if pairs else ""
    if not isinstance(value, Mapping):
        return ""
    if how == SHARE:
        off = shares_off(value, found, control)
        right, pairs = pairs_in_order(sorted(value, key=lambda k: -value[k]), found)
        return (
            ""
            if off is None
            else f"put {_pairs(right, pairs)}; shares off by {half_up(off, 0):.0f} % points on average"
        )
    s = score(value, found)
    return (
        ""
        if s is None
        else f"put {_pairs(s.pairs_right, s.pairs)}; loads off by {half_up(100 * s.off, 0):.0f} % on average"
    )
