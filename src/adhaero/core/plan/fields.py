"""The fields of a specimen's record that can be held constant or varied, and what a value of each may be.

A factor is one of these, or a name of the user's own: free factors are carried, shown and analysed all the same.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from adhaero.core.glue.pressing import MEANS
from adhaero.core.joint import METALS, ORIENTATIONS, USUAL
from adhaero.core.joint_forms import FORMS, Size
from adhaero.core.materials.glue import GLUES, NO_GLUE
from adhaero.core.materials.wood import WOODS
from adhaero.core.method_catalogue import METHODS
from adhaero.core.quantity import Dimension


@dataclass(frozen=True)
class Field:
    """A field of the record. ``choices`` maps keys to names; a quantity has a dimension and a range instead.

    A plan must state what is ``needed``; what is not, and is not stated, is as usual and nobody looks at it.
    ``words`` may stand for a number of the quantity: what they stand for is worked out in core.plan.records.
    """

    key: str
    name: str
    usual: str | float | None
    choices: dict[str, str] | None = None
    free_text: bool = False
    dimension: Dimension | None = None
    low: float = 0.0
    high: float = 0.0
    needed: bool = True
    may_be_none: bool = False
    words: Mapping[str, str] = field(default_factory=dict)


CONDITIONINGS: dict[str, str] = {
    "dry": "Dry, indoors",
    "soak-24h": "Soaked 24 h, wet",
    "soak-24h-dried": "Soaked 24 h, dried again",
    "soak-7d": "Soaked 7 days, wet",
    "boil-6h": "Boiled 6 h, wet",
    "freeze-thaw-5": "5 times frozen and thawed",
    "freeze-thaw-20": "20 times frozen and thawed",
    "wet-cold-3wk": "Three weeks wet and cold",
    "hot-60": "At 60 °C for a day, hot",
    "swing-10": "10 swings of humidity",
    "outdoors": "Outdoors for a year",
}
GLUE_STATES: dict[str, str] = {
    "fresh": "Fresh",
    "opened-1y": "Opened a year ago",
    "opened-3y": "Opened three years ago",
    "frozen-thawed": "Frozen and thawed",
    "thinned-5": "Thinned by 5 %",
    "thinned-10": "Thinned by 10 %",
}
ADDITIVES: dict[str, str] = {
    "none": "Nothing",
    "salt": "A pinch of salt",
    "sand": "Fine sand",
    "grit": "Anti-slip grit",
    "sawdust": "Sanding dust",
    "pigment": "Pigment powder",
}
INSERTS: dict[str, str] = {
    "beech": "Beech",
    "same": "The wood of the joint",
    "plywood": "Plywood",
    "pressed": "Pressed wood, bought",
    "cast": "Cast in place",
    "shim": "Veneer shim",
}
FACINGS: dict[str, str] = {
    "up": "Slope or V towards the load",
    "down": "Slope or V away from the load",
    "edge": "Loaded on edge",
}
REINFORCEMENTS: dict[str, str] = {
    "none": "Nothing",
    "screws": "Screws left in",
    "brads": "Brads left in",
    "dowels": "Dowels",
    "splines": "Splines",
}

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

SIZE = "size:"
"""Begins the key of a field that is a size of the joint: what follows is that of the size."""
AT_RELEASE, UNTIL_BROKEN = "at release", "until broken"
"""Words for a time: an age that is the clamp time, and a clamp time that is the age."""

_DAY = 86400.0
_GLUE_NAMES = {k: g.name for k, g in GLUES.items()} | {NO_GLUE: "No glue"}

_MATERIALS = {k: w.name for k, w in WOODS.items()} | {m: m.capitalize() for m in METALS}


def _more(
    key: str, name: str, usual: str | float | None, choices: dict[str, str] | None = None, *, free_text: bool = False,
    dimension: Dimension | None = None, low: float = 0.0, high: float = 0.0,
) -> Field:  # fmt: skip
    return Field(key, name, usual, choices, free_text, dimension, low, high, needed=False, may_be_none=True)


def _of_sizes() -> Iterator[Field]:
    """Every size that a method or a form asks for may differ between treatments; its range is that of all of them."""
    found: dict[str, list[Size]] = {}
    for method in METHODS.values():
        for size in method.sizes_for(method.forms):
            found.setdefault(size.key, []).append(size)
    for key, sizes in found.items():
        low, high = min(s.low for s in sizes), max(s.high for s in sizes)
        # Methods call a size by what it is to them; the shortest name is that of all.
        first = min(sizes, key=lambda s: len(s.name))
        yield Field(
            SIZE + key, first.name, float(first.nominal), dimension=first.dimension, low=low, high=high, needed=False
        )


FIELDS: dict[str, Field] = {
    f.key: f
    for f in (
        Field("species", "Species", "ash", {k: w.name for k, w in WOODS.items()}, free_text=True),
        Field("orientation", "Grain orientation", USUAL, {k: o.name for k, o in ORIENTATIONS.items()}),
        Field("glue", "Glue", "pva-indoor", _GLUE_NAMES, free_text=True, may_be_none=True),
        Field("prep", "Surface prep", "planed", PREPS, free_text=True),
        Field("pressure_mpa", "Clamp pressure", 0.8, dimension=Dimension.STRESS, low=0.0, high=20.0, may_be_none=True,
              words=MEANS),
        Field("clamp_s", "Clamp time", 4 * 3600.0, dimension=Dimension.TIME, low=0.0, high=60 * _DAY,
              words={UNTIL_BROKEN: "Until broken"}),
        Field("cure_s", "Cure time", 3 * _DAY, dimension=Dimension.TIME, low=0.0, high=50 * 366 * _DAY,
              words={AT_RELEASE: "At release"}),
        _more("press_by", "Means of pressing", None, MEANS),
        _more("grit", "Sanding grit", 120.0, dimension=Dimension.NUMBER, low=16, high=5000),
        _more("form", "Joint form", None, {k: f.name for k, f in FORMS.items()}),
        _more("conditioning", "Conditioning", "dry", CONDITIONINGS, free_text=True),
        _more("species_b", "Other adherend", None, _MATERIALS, free_text=True),
        _more("glue_state", "State of the glue", "fresh", GLUE_STATES, free_text=True),
        _more("additive", "Additive", "none", ADDITIVES, free_text=True),
        _more("reinforcement", "Reinforcement", "none", REINFORCEMENTS, free_text=True),
        _more("insert", "Inserts and fillers", None, INSERTS, free_text=True),
        _more("insert_fit", "Fit of inserts", None, {"press": "Press fit", "sliding": "Sliding fit", "loose": "Loose"}),
        _more("facing", "Side that faces the load", None, FACINGS, free_text=True),
        _more("kept_at", "Kept at", None, {"shop": "In the shop", "house": "In the house", "cellar": "In the cellar",
              "outdoors": "Outdoors, under a roof"}, free_text=True),
        _more("faces", "Faces spread", "one", {"one": "One face", "both": "Both faces"}),
        _more("gap_mm", "Gap", 0.0, dimension=Dimension.LENGTH, low=0.0, high=10.0),
        _more("spread_g_m2", "Spread", 180.0, dimension=Dimension.SPREAD, low=0.0, high=2000.0),
        _more("open_s", "Open time", 120.0, dimension=Dimension.TIME, low=0.0, high=6 * 3600.0),
        _more("moisture_pct", "Wood moisture", 10.0, dimension=Dimension.SHARE, low=2.0, high=60.0),
        _more("humidity_pct", "Air humidity", 50.0, dimension=Dimension.SHARE, low=0.0, high=100.0),
        _more("air_c", "Air temperature", 20.0, dimension=Dimension.TEMPERATURE, low=-20.0, high=50.0),
        *_of_sizes(),
    )
}  # fmt: skip


def value_name(field: str, value: str | float) -> str:
    """A choice's name; any other value as it is."""
    known = FIELDS.get(field)
    if known is not None and known.choices is not None and isinstance(value, str):
        return known.choices.get(value, value)
    if known is not None and isinstance(value, str):
        return known.words.get(value, value)
    return str(value)
