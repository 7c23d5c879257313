"""What weakens an answer, by how much."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum


class Weight(IntEnum):
    """How much a caveat weighs: it could overturn the answer, it bears on parts of it, or it is so in general."""

    OVERTURNS = 0
    BEARS = 1
    GENERAL = 2


@dataclass(frozen=True)
class Caveat:
    """One sentence, ``about`` treatments by their letters (none: about the whole)."""

    text: str
    weight: Weight = Weight.BEARS
    about: tuple[str, ...] = ()
