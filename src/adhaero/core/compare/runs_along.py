"""What runs along with the treatments, so that the two cannot be told apart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache

NAMES = {
    "day": "the day of gluing",
    "glueup": "the glue-up",
    "person": "who glued",
    "bottle": "the bottle",
    "board": "the board",
    "break-day": "the day of breaking",
    "tester": "who broke",
    "setup": "the set-up of the rig",
}
"""Covariates that are on record for a piece, as a sentence names them."""


def runs_along(treatments: Sequence[str], values: Sequence[str | None]) -> bool:
    """Whether no value of a covariate holds two treatments while there are several of both.

    Pieces without a value do not count. Then any difference between treatments may be one of the covariate.
    """
    pairs = {(t, v) for t, v in zip(treatments, values, strict=True) if v is not None}
    by_value: dict[str, set[str]] = {}
    for t, v in pairs:
        by_value.setdefault(v, set()).add(t)
    return len(by_value) > 1 and len({t for t, _ in pairs}) > 1 and all(len(own) == 1 for own in by_value.values())


def apart(treatments: Sequence[str], values: Sequence[str | None]) -> bool:
    """Whether every treatment keeps to one value of a covariate that has several: some pairs never meet under it."""
    by_treatment: dict[str, set[str]] = {}
    for t, v in zip(treatments, values, strict=True):
        if v is not None:
            by_treatment.setdefault(t, set()).add(v)
    seen = set().union(*by_treatment.values()) if by_treatment else set()
    return len(by_treatment) > 1 and len(seen) > 1 and all(len(own) == 1 for own in by_treatment.values())


def sentences(treatments: Sequence[str], covariates: Mapping[str, Sequence[str | None]]) -> list[str]:
    """One sentence for every covariate that runs along; ``covariates`` are the keys of ``NAMES``."""
    found = (_sentence(key, tuple(treatments), tuple(values)) for key, values in covariates.items())
    return [text for text in found if text]


# A break or a size changes none of these, and is what a comparison is most often looked at again after.
@lru_cache(maxsize=64)
def _sentence(key: str, treatments: tuple[str, ...], values: tuple[str | None, ...]) -> str:
    name = NAMES[key]
    if runs_along(treatments, values):
        return f"Treatment and {name} cannot be told apart: no two treatments share one."
    if apart(treatments, values):
        return f"Each treatment keeps to one value of {name}: those that differ in both cannot be compared."
    return ""
