"""Claims that rest on a single piece: shown, but not without it; or hidden by an outlier (Grubbs)."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from statistics import fmean

from adhaero.core.claims.claim import Basis, Claim, Relation
from adhaero.core.claims.judge import Judge, Pair
from adhaero.core.questions.study import Sample, Unit
from adhaero.core.statistics.outliers import grubbs

ENOUGH = 5
"""With fewer pieces than this, leaving one out only shows that there are few."""
REFITTED = (Basis.BLOCKS, Basis.ADDITIVE)
"""Bases for which all pieces are fitted together: leaving one out takes a new fit."""
MOST_FITS, FARTHEST = 40, 3
"""Pieces of a comparison within blocks from which on only those are tried that lie farthest out on either end."""


@dataclass(frozen=True)
class Hangs:
    """A claim, and the codes of those pieces without each of which it would end otherwise."""

    claim: Claim
    pieces: tuple[str, ...]

    @property
    def hidden(self) -> bool:
        """Whether a difference would be shown without the piece."""
        return self.claim.relation is Relation.UNCLEAR


def hanging(claims: Iterable[Claim], judge: Judge) -> list[Hangs]:
    """Return the claims that would end otherwise without some single piece, those that rest on fewest pieces first.
    Only exact loads are looked at, on sides of ``ENOUGH`` pieces; where a claim is unclear, only outliers are left out.
    """
    asked = (Relation.STRONGER, Relation.WEAKER, Relation.UNCLEAR)
    found = []
    for c in {c.id: c for c in claims}.values():
        able = c.relation in asked and c.basis in (Basis.MEANS, *REFITTED) and c.id in judge.judged
        if able and _is_exact(judge.judged[c.id][0]) and (pieces := tuple(_carrying(c, judge))):
            found.append(Hangs(c, pieces))
    return sorted(found, key=lambda h: len(h.pieces))


def _is_exact(pair: Pair) -> bool:
    """Whether every load of both samples is known as one number above 0: limits have no logarithm to rank by."""
    return all(s.is_exact and min(s.values, default=1.0) > 0 for s in (*pair.first, *pair.second))


def _carrying(c: Claim, judge: Judge) -> Iterator[str]:
    pair, risk = judge.judged[c.id]
    hidden = c.relation is Relation.UNCLEAR
    samples = [*pair.first, *pair.second]
    tried = _outliers(samples, judge) if hidden else _tried(samples, in_blocks=c.basis in REFITTED)
    for side in (pair.first, pair.second):
        if sum(len(s.held) for s in side) < ENOUGH:
            continue
        for unit in (u for s in side for u in s.held if u.code and u.code in tried):
            without = Judge(judge.study.without(unit), judge.inference) if c.basis in REFITTED else judge
            less = replace(pair, first=[_less(s, unit) for s in pair.first],
                           second=[_less(s, unit) for s in pair.second])  # fmt: skip
            p = without.found(less).p
            if (p is None or p >= risk) != hidden:
                yield unit.code


def _outliers(samples: Sequence[Sample], judge: Judge) -> set[str]:
    """Return the codes of the outliers of each sample."""
    found = set()
    for s in samples:
        if len(s.held) >= ENOUGH:
            one = grubbs([math.log(u.low) for u in s.held], judge.inference.alpha)
            if one is not None and one.outlier:
                found.add(s.held[one.suspect].code)
    return found


def _tried(samples: Sequence[Sample], *, in_blocks: bool) -> set[str]:
    """Return the codes of the pieces to leave out one by one: all of them, or of very many the most extreme."""
    units = [u for s in samples for u in s.held]
    if not in_blocks or len(units) <= MOST_FITS:
        return {u.code for u in units}
    by_block: dict[str, list[float]] = {}
    for u in units:
        by_block.setdefault(u.block, []).append(math.log(u.low))
    found: set[str] = set()
    for s in samples:
        order = sorted(s.held, key=lambda u: math.log(u.low) - fmean(by_block[u.block]))
        found |= {u.code for u in (*order[:FARTHEST], *order[-FARTHEST:])}
    return found


def _less(s: Sample, unit: Unit) -> Sample:
    """Return the sample without a piece, or unchanged if the piece is not in it."""
    return replace(s, units=tuple(u for u in s.units if u is not unit)) if any(u is unit for u in s.units) else s
