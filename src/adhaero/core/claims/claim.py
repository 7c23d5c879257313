"""A claim: what data show of a subject held against an object. Every sentence about results rests on one of these."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum


class Relation(StrEnum):
    """How a subject stands to an object."""

    STRONGER = "stronger"
    WEAKER = "weaker"
    ALIKE = "alike"
    UNCLEAR = "unclear"
    NOT_ENOUGH_DATA = "not_enough_data"
    NOT_COMPARED = "not_compared"


class Basis(StrEnum):
    """What a claim rests on."""

    MEANS = "means"
    BLOCKS = "means within blocks"
    ADDITIVE = "means in a model of the factors"
    BOUNDS = "medians fitted to limits"
    ORDER = "order"
    FALLEN = "fell apart"
    NOTHING = ""


@dataclass(frozen=True)
class Claim:
    """``ratio`` is subject over object with its interval (``None``: not known); ``n`` the pieces of the smaller side,
    ``p`` two-sided, for one comparison alone.
    """

    subject: str
    object: str
    relation: Relation
    ratio: float | None = None
    low: float | None = None
    high: float | None = None
    n: int = 0
    basis: Basis = Basis.NOTHING
    p: float | None = None

    @property
    def id(self) -> str:
        """A name that stays the same as long as the claim compares the same two."""
        return hashlib.sha256(f"{self.subject}|{self.object}".encode()).hexdigest()[:10]


def contradictions(claims: Iterable[Claim]) -> list[tuple[Claim, Claim]]:
    """Return pairs of claims that cannot both be so: about the same two, and excluding each other."""
    found: list[tuple[Claim, Claim]] = []
    known: dict[tuple[str, str], Claim] = {}
    turned = {Relation.STRONGER: Relation.WEAKER, Relation.WEAKER: Relation.STRONGER}
    for c in claims:
        before = known.get((c.subject, c.object))
        other = known.get((c.object, c.subject))
        if before is not None and before.relation is not c.relation:
            found.append((before, c))
        if other is not None and turned.get(other.relation, other.relation) is not c.relation:
            found.append((other, c))
        if not _holds_together(c):
            found.append((c, c))
        known[c.subject, c.object] = c
    return found


def _holds_together(c: Claim) -> bool:
    """Whether relation and interval of one claim agree."""
    low = -math.inf if c.low is None else c.low
    high = math.inf if c.high is None else c.high
    if c.ratio is None or c.basis in (Basis.ORDER, Basis.FALLEN):
        return True
    if not low - 1e-9 <= c.ratio <= high + 1e-9:
        return False
    if c.relation is Relation.STRONGER:
        return low > 1
    if c.relation is Relation.WEAKER:
        return high < 1
    return True
