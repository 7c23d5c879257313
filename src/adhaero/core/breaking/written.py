"""How people write a reading into one blank of a sheet: ``3200``, ``>3000``, ``2000 - 2200 N``, ``apart``."""

from __future__ import annotations

import re

from adhaero.core.method import FAILURE_NAMES
from adhaero.core.observation import Kind
from adhaero.core.refusal import refuse

_BETWEEN = re.compile(r"^(.*?[\d\w])\s*(?:-|–|\.\.|to)\s*(\d.*)$")
_UNIT = re.compile(r"[^\d\s.,/]+$")
_APART = {"apart", "fell apart", "0"}
_HELD = re.compile(r"^(?:>=?|≥|at least)\s*(.+)$|^(.+?)\s*\+$", re.IGNORECASE)


def reading(text: str) -> tuple[Kind, str, str]:
    """The kind of a reading as written, with its load, or its lower and upper one, still as text. A unit at the end of
    a range is that of both.
    """
    clean = " ".join(text.replace("−", "-").split())
    if clean.lower() in _APART:
        return Kind.FELL_APART, "", ""
    if held := _HELD.match(clean):
        return Kind.AT_LEAST, (held[1] or held[2]).strip(), ""
    if between := _BETWEEN.match(clean):
        low, high = between[1].strip(), between[2].strip()
        own = _UNIT.search(high)
        return Kind.BETWEEN, low if _UNIT.search(low) or own is None else f"{low} {own[0]}", high
    return Kind.EXACT, clean, ""


def mode(text: str, modes: list[tuple[str, str]], field: str) -> str | None:
    """The failure mode for its number on the screen, or for the beginning of its name; empty is not judged."""
    clean = text.strip().lower()
    if not clean:
        return None
    if clean.isdigit() and 1 <= int(clean) <= len(modes):
        return modes[int(clean) - 1][0]
    found = [key for key, name in modes if name.lower().startswith(clean) or key == clean]
    if len(found) == 1:
        return found[0]
    numbered = ", ".join(f"{i} {FAILURE_NAMES[key]}" for i, (key, _) in enumerate(modes, 1))
    raise refuse(field, f"{text.strip()[:20]!r} is no way of giving way", f"Write its number: {numbered}.")
