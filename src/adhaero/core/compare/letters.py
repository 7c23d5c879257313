"""Compact letters: two treatments that share one were not told apart (Piepho 2004; Bron & Kerbosch 1973)."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from adhaero.core.statistics.pairwise import Pair


def cliques(order: Sequence[int], pairs: Sequence[Pair], alpha: float = 0.05) -> list[list[int]] | None:
    """The largest sets of treatments of which no pair has p < alpha; one letter belongs to each set.

    ``order`` lists the treatments by descending mean; members follow it, and sets follow their members' places.
    ``None`` when a pair has no p: then letters would claim what nobody tested.
    """
    if any(pair.p is None for pair in pairs):
        return None
    # Sets as bits, by the places of the treatments.
    place = {t: i for i, t in enumerate(order)}
    alike = [0] * len(order)
    for pair in pairs:
        if pair.p is not None and pair.p >= alpha:
            i, j = place[pair.first], place[pair.second]
            alike[i] |= 1 << j
            alike[j] |= 1 << i
    return [[order[i] for i in places] for places in _largest(tuple(alike))]


# A change of one piece seldom changes who is told apart from whom.
@lru_cache(maxsize=64)
def _largest(alike: tuple[int, ...]) -> list[list[int]]:
    """The largest sets of places of which each is alike with all others, in their order."""
    found: list[int] = []

    def grow(clique: int, candidates: int, done: int) -> None:
        """Bron & Kerbosch 1973, with a pivot."""
        if not candidates and not done:
            found.append(clique)
            return
        pivot = max(_bits(candidates | done), key=lambda t: (alike[t] & candidates).bit_count())
        for t in _bits(candidates & ~alike[pivot]):
            grow(clique | 1 << t, candidates & alike[t], done & alike[t])
            candidates &= ~(1 << t)
            done |= 1 << t

    grow(0, (1 << len(alike)) - 1, 0)
    return sorted(_bits(c) for c in found)


def _bits(mask: int) -> list[int]:
    return [i for i in range(mask.bit_length()) if mask >> i & 1]


def letters(order: Sequence[int], sets: Sequence[Sequence[int]]) -> dict[int, str]:
    """Treatment -> its letters: two that share a letter were not told apart. After z come aa, bb, ..."""
    names = [chr(97 + i % 26) * (1 + i // 26) for i in range(len(sets))]
    return {t: "".join(n for n, s in zip(names, sets, strict=True) if t in s) for t in order}
