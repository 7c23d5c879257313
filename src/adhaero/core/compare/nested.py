"""Pieces that share a parent: sections sawn from one glue-up are not as independent as their number makes believe."""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from statistics import fmean, stdev


@dataclass(frozen=True)
class Nested:
    """A mean's standard error with single pieces as units, and with their parents (by the parents' means)."""

    pieces: int
    parents: int
    se_pieces: float
    se_parents: float


def nested(values: Sequence[float], parents: Sequence[Hashable]) -> Nested | None:
    """Both standard errors; ``None`` with fewer than two parents, or where no parent has two pieces."""
    own: dict[Hashable, list[float]] = {}
    for value, parent in zip(values, parents, strict=True):
        own.setdefault(parent, []).append(value)
    if len(own) < 2 or len(own) == len(values):
        return None
    means = [fmean(v) for v in own.values()]
    return Nested(len(values), len(own), stdev(values) / math.sqrt(len(values)), stdev(means) / math.sqrt(len(means)))
