"""Properties that a plan defines for itself: a number with its unit, or a grade from a list of its own.

Line visibility, foam, fit, ease of spreading, permanent set: what a workshop judges beside the load. Each belongs to a
board, a bottle, a joint, a face or a reading, and is asked before, at or after the break.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from adhaero.core.refusal import refuse

BOARD, BOTTLE, JOINT, FACE, READING = "board", "bottle", "joint", "face", "reading"
OF: Mapping[str, str] = {
    BOARD: "a board", BOTTLE: "a bottle", JOINT: "a joint", FACE: "a face", READING: "a reading",
}  # fmt: skip
WHEN: Mapping[str, str] = {"before": "before the break", "at": "at the break", "after": "after the break"}


@dataclass(frozen=True)
class Property:
    """A property: its name, what it belongs to, when it is asked, and its unit (numbers) or its grades, the lowest
    first.
    """

    name: str
    of: str = JOINT
    when: str = "before"
    unit: str = ""
    grades: tuple[str, ...] = ()
    id: str = ""


@dataclass(frozen=True)
class OwnValue:
    """A value: a number, or a grade with its place among them (from 1) as the number."""

    number: float
    grade: str = ""


def read_value(p: Property, text: str, field: str) -> OwnValue:
    """A value as it was typed: a number, with its unit or without; a grade by its name or its place."""
    clean = " ".join(text.split())
    if p.grades:
        lowered = [g.lower() for g in p.grades]
        place = lowered.index(clean.lower()) if clean.lower() in lowered else int(clean) - 1 if clean.isdigit() else -1
        if not 0 <= place < len(p.grades):
            raise refuse(field, f"{clean[:30]!r} is no grade of {p.name}", "Use one of: " + ", ".join(p.grades) + ".")
        return OwnValue(float(place + 1), p.grades[place])
    bare = clean.removesuffix(p.unit).strip() if p.unit else clean
    try:
        value = float(bare.replace(",", "."))
    except ValueError as error:
        wanted = f"Type a number of {p.unit}." if p.unit else "Type a number."
        raise refuse(field, f"{clean[:30]!r} is no number", wanted) from error
    if not -1e9 < value < 1e9:
        raise refuse(field, f"{value:g} is no value that can be kept", "Check the number.")
    return OwnValue(value)


def in_words(p: Property, v: OwnValue) -> str:
    """A value as it is shown."""
    return v.grade or f"{v.number:g} {p.unit}".strip()
