"""Levels as people list them: a pasted column, or "5, 15, 30 min, 1, 2, 4, 8 h and overnight"."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from adhaero.core.materials.glue import GLUES, family_of_name
from adhaero.core.plan.document import Level
from adhaero.core.plan.fields import FIELDS, Field
from adhaero.core.plan.rhythm import spelled_out
from adhaero.core.quantity import Dimension, parse, parse_level
from adhaero.core.refusal import Problem, Refusal, refuse

MOST = 64
_BETWEEN = re.compile(r"[\n\r\t;]+")
_IN_LINE = re.compile(r",\s+|\s+and\s+")
"""A comma without a space may be that of 0,5."""
_NONE = ("none", "nothing", "without", "-")
"""Words for a level that is nothing; "no" stands beside "yes", and stays as it was typed."""
SPOKEN = {"overnight": "12 h"}
"""Times in words that are taken as a number, which the level then shows."""


@dataclass(frozen=True)
class Listed:
    """What a list was read as; ``problems`` name their entry by its number, from 1. ``families`` are those that were
    written behind glues ("Blue jug: casein", or a second column), by level value.
    """

    levels: tuple[Level, ...]
    families: Mapping[str, str]
    problems: tuple[Problem, ...]


def entries(text: str, *, columns: bool = False) -> list[str]:
    """The entries of a list: lines, cells of a pasted row or, in a single line, what commas part.

    With ``columns`` every line is one entry, whatever stands behind its first cell.
    """
    lines = [x.strip() for x in (text.splitlines() if columns else _BETWEEN.split(text)) if x.strip()]
    return [x.strip() for x in _IN_LINE.split(lines[0]) if x.strip()] if len(lines) == 1 else lines


def read_levels(key: str, text: str, unit: str, products: Mapping[str, str], choices: Mapping[str, str]) -> Listed:
    """Read a list of levels of a field. A bare number has the unit of the next entry that has one, else ``unit``.

    ``products`` maps names of glues that the shop has (its bottles) to level values, ``choices`` narrows those of the
    field where it is not empty. An entry that stands twice counts once.
    """
    field = FIELDS.get(key)
    wanted = entries(text, columns=key == "glue")
    try:
        wanted = spelled_out(wanted) if field is not None and field.dimension is Dimension.TIME else wanted
    except Refusal as refusal:
        return Listed((), {}, tuple(refusal.problems))
    levels: list[Level] = []
    families: dict[str, str] = {}
    problems: list[Problem] = []
    units = _units_of(wanted, unit) if field is not None and field.dimension else [unit] * len(wanted)
    for i, (entry, own) in enumerate(zip(wanted, units, strict=True), 1):
        try:
            name, family = _with_family(entry) if key == "glue" else (entry, "")
            level = _read(field, name, own, products, choices)
            if family and isinstance(level.value, str) and level.value not in GLUES:
                families[level.value] = family
        except Refusal as refusal:
            problems += [Problem(f"entry {i}", f"{entry[:40]!r}: {p.message}", p.remedy) for p in refusal.problems]
            continue
        if field is None or level.value not in [x.value for x in levels]:
            levels.append(level)
    if len(levels) > MOST:
        problems.append(Problem("entries", f"{len(levels)} levels are too many", f"Keep to {MOST}."))
    return Listed(tuple(levels[:MOST]), families, tuple(problems))


def _with_family(entry: str) -> tuple[str, str]:
    """A glue's name and the key of the family that is written behind it, if one is."""
    name, mark, rest = re.sub(r"\s*[\t=]\s*|\s*:\s+", "\t", entry, count=1).partition("\t")
    if not mark:
        return entry, family_of_name(entry)
    family = _named(rest, {k: g.name for k, g in GLUES.items()})
    if family is None:
        raise refuse("entry", f"{rest[:40]!r} is no family of glues", f"Use one of: {', '.join(GLUES)}.")
    return name.strip(), family


def _units_of(wanted: Sequence[str], unit: str) -> list[str]:
    """The unit for a bare number of each entry: "5, 15, 30 min" are all minutes."""
    found, own = [], unit
    for entry in reversed(wanted):
        match = re.fullmatch(r"[\d.,/ ½¼¾-]+([^\d\s.,/].*)", SPOKEN.get(entry.lower(), entry))
        own = match[1].strip() if match else own
        found.append(own)
    return found[::-1]


def _read(field: Field | None, entry: str, unit: str, products: Mapping[str, str], choices: Mapping[str, str]) -> Level:
    if field is None:
        return Level(None) if entry.lower() in _NONE else Level(*parse_level(entry))
    if field.dimension is not None:
        word = _named(entry, field.words)
        if word is not None:
            return Level(word)
        q = parse(SPOKEN.get(entry.lower(), entry), field.dimension, unit)
        return Level(q.base, q.unit.symbol)
    known = _named(entry, products) or _named(entry, choices or field.choices or {})
    if known == "none" and field.key == "glue":
        return Level(None)
    if known is not None:
        return Level(known)
    if field.free_text and len(entry) <= 80:
        return Level(entry)
    able = ", ".join((choices or field.choices or {}).values())
    raise refuse("entry", f"is no {field.name.lower()}", f"Use one of: {able}.")


def _named(entry: str, names: Mapping[str, str]) -> str | None:
    """The key of the choice that goes by that name or key, whatever its case."""
    wanted = entry.strip().lower()
    return next((k for k, name in names.items() if wanted in (k.lower(), name.lower())), None)
