"""The fields of a specimen's record that can be held constant or varied, and what a value of each may be.

A factor is one of these, or a name of the user's own: free factors are carried, shown and analysed all the same.
"""

from __future__ import annotations

from dataclasses import dataclass

from adhaero.core.joint import ORIENTATIONS
from adhaero.core.materials.glue import GLUES, NO_GLUE
from adhaero.core.materials.wood import WOODS
from adhaero.core.quantity import Dimension


@dataclass(frozen=True)
class Field:
    """A field of the record. ``choices`` maps keys to names; a quantity has a dimension and a range instead."""

    key: str
    name: str
    usual: str | float
    choices: dict[str, str] | None = None
    free_text: bool = False
    dimension: Dimension | None = None
    low: float = 0.0
    high: float = 0.0


PREPS: dict[str, str] = {
    "planed": "Fresh planed",
    "planed-aged": "Planed, days old",
    "sawn": "Sawn",
    "sanded-80": "Sanded, grit 80",
    "sanded-150": "Sanded, grit 150",
    "solvent-wiped": "Planed, wiped with solvent",
    "scraped": "Scraped",
    "sized": "Sized with thin glue",
    "oily": "Oily",
}

_DAY = 86400.0
_GLUE_NAMES = {k: g.name for k, g in GLUES.items()} | {NO_GLUE: "No glue"}

FIELDS: dict[str, Field] = {
    f.key: f
    for f in (
        Field("species", "Species", "ash", {k: w.name for k, w in WOODS.items()}, free_text=True),
        Field("orientation", "Grain orientation", "long-parallel", {k: o.name for k, o in ORIENTATIONS.items()}),
        Field("glue", "Glue", "pva-indoor", _GLUE_NAMES, free_text=True),
        Field("prep", "Surface prep", "planed", PREPS, free_text=True),
        Field("pressure_mpa", "Clamp pressure", 0.8, dimension=Dimension.STRESS, low=0.0, high=20.0),
        Field("clamp_s", "Clamp time", 4 * 3600.0, dimension=Dimension.TIME, low=0.0, high=60 * _DAY),
        Field("cure_s", "Cure time", 3 * _DAY, dimension=Dimension.TIME, low=0.0, high=20 * 365 * _DAY),
    )
}  # fmt: skip


def value_name(field: str, value: str | float) -> str:
    """A choice's name; any other value as it is."""
    known = FIELDS.get(field)
    if known is not None and known.choices is not None and isinstance(value, str):
        return known.choices.get(value, value)
    return str(value)
