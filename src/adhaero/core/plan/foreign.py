"""Words of a table from another shop as levels of the record: the field's own names, numbers with units, or a text."""

from __future__ import annotations

import re

from adhaero.core.method import Method
from adhaero.core.plan.document import Level
from adhaero.core.plan.fields import FIELDS
from adhaero.core.quantity import BASE, parse, parse_level
from adhaero.core.refusal import refuse

NONE = ("none", "-", "–", "")


def level_of(key: str, text: str, unit: str = "") -> Level:
    """A cell as a level of a field (or of a factor of one's own). ``unit`` is that of a bare number.

    Raises ``Refusal`` where a known field cannot take it.
    """
    known, word = FIELDS.get(key), text.strip()
    if known is None:
        value, own = parse_level(word)
        return Level(value, own or (unit if not isinstance(value, str) else ""))
    if word.lower() in NONE:
        if known.may_be_none:
            return Level(None)
        raise refuse(key, f"{known.name} is not stated", "Fill the cell in, or state it for all pieces.")
    for choice, name in (*(known.choices or {}).items(), *known.words.items()):
        if word.lower() in (choice.lower(), name.lower()):
            return Level(choice, BASE[known.dimension] if known.dimension else "")
    if known.dimension is not None:
        read = parse(word, known.dimension, unit or BASE[known.dimension])
        return Level(read.base, read.unit.symbol)
    if known.free_text:
        return Level(word)
    able = ", ".join((known.choices or {}).values())
    raise refuse(key, f"{word[:40]!r} is none of: {able}", "Write one of these, or make it a factor of your own.")


def key_of(name: str) -> str:
    """The key of a factor of one's own from its heading."""
    own = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "treatment"
    return f"{own}-own" if own in FIELDS else own


def failure_mode(method: Method, text: str) -> str:
    """The key of a failure mode from its key or word. ``Refusal`` for another word."""
    word = text.strip().lower()
    found = next((k for k, name in method.modes if word in (k, name.lower())), None)
    if found is None:
        able = ", ".join(name.lower() for _, name in method.modes)
        raise refuse("failure_mode", f"{text.strip()[:40]!r} is none of: {able}", "Write one of these.")
    return found
