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


@dataclass(frozen=True)
class Components:
    """How much of the variance lies between parents and within them (one-way random model; a negative variance between
    them is set to 0), with ``icc``, the share between. ``n0`` is the pieces of a parent, averaged for it.
    """

    ms_between: float
    ms_within: float
    n0: float
    between: float
    within: float
    icc: float | None


def components(values: Sequence[float], parents: Sequence[Hashable]) -> Components | None:
    """The components of one treatment; ``None`` with one parent, or where no parent has two pieces."""
    own: dict[Hashable, list[float]] = {}
    for value, parent in zip(values, parents, strict=True):
        own.setdefault(parent, []).append(value)
    n, k = len(values), len(own)
    if k < 2 or n == k:
        return None
    mean = math.fsum(values) / n
    means = {p: fmean(v) for p, v in own.items()}
    ms_between = math.fsum(len(v) * (means[p] - mean) ** 2 for p, v in own.items()) / (k - 1)
    ms_within = math.fsum((x - means[p]) ** 2 for p, v in own.items() for x in v) / (n - k)
    n0 = (n - sum(len(v) ** 2 for v in own.values()) / n) / (k - 1)
    between = max(0.0, (ms_between - ms_within) / n0)
    whole = between + ms_within
    return Components(ms_between, ms_within, n0, between, ms_within, between / whole if whole else None)
