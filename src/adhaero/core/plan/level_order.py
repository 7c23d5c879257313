"""In which order the levels of a factor stand: by their value, or as they were typed."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from adhaero.core.plan.document import Factor, Level
from adhaero.core.plan.fields import FIELDS
from adhaero.core.quantity import UNITS, Dimension

BY_VALUE, AS_TYPED = "value", "typed"
ORDERS = (BY_VALUE, AS_TYPED)


def in_order(factor: Factor) -> Factor:
    """The factor with its levels in its order. Words keep the order that they were typed in.

    "None" and words that stand among numbers (nothing, tape, at release) come first: they are the usual zero.
    """
    sizes = _sizes(factor)
    if factor.order == BY_VALUE and sizes is not None:
        found = sorted(zip(sizes, factor.levels, strict=True), key=lambda x: x[0])
        return replace(factor, levels=tuple(level for _, level in found))
    if factor.order == AS_TYPED:
        return replace(factor, levels=tuple(sorted(factor.levels, key=_typed_place)))
    return factor


def _typed_place(level: Level) -> int:
    """Ids are numbered in the order in which levels came; others stay where they are, before those."""
    match = re.fullmatch(r"l(\d+)", level.id)
    return int(match[1]) if match else 0


def _sizes(factor: Factor) -> list[float] | None:
    """How large every level is, in one unit; ``None`` where that means nothing (words, or units of two kinds)."""
    numbers = [level for level in factor.levels if isinstance(level.value, float | int)]
    known = FIELDS.get(factor.key)
    dimension = known.dimension if known else None
    if not numbers or (known is not None and dimension is None):
        return None
    if dimension is None and any(isinstance(level.value, str) for level in factor.levels):
        return None
    scales = {level.unit: 1.0 for level in numbers} if dimension else _one_scale([level.unit for level in numbers])
    if scales is None:
        return None
    return [
        level.value * scales[level.unit] if isinstance(level.value, float | int) else float("-inf")
        for level in factor.levels
    ]


def _one_scale(units: Sequence[str]) -> dict[str, float] | None:
    """What one of each unit is in one and the same base unit; ``None`` where there is none."""
    if len(set(units)) == 1:
        return dict.fromkeys(units, 1.0)
    for dimension in Dimension:
        found = {u: UNITS.get((dimension, u)) for u in units}
        if all(x is not None and x.offset == 0 for x in found.values()):
            return {u: float(x.factor) for u, x in found.items() if x is not None}
    return None
