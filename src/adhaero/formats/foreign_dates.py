"""Dates as people write them in a table. A column is read as a whole: 3/4/2026 alone could be two days."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date, datetime

_NAMED = ("%d %b %Y", "%d %B %Y", "%b %d %Y", "%B %d %Y", "%d-%b-%Y", "%d %b %y", "%d-%b-%y")
_NUMBERS = re.compile(r"(\d{1,2})([./-])(\d{1,2})\2(\d{4}|\d{2})")
_ISO = re.compile(r"(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?:[T ]\d{1,2}:\d{2}(?::\d{2})?Z?)?")


def day_of(text: str, *, month_first: bool | None) -> date | None:
    """Return the day that a cell names; ``None`` where it names none.

    ``month_first`` says how a date of three numbers is read; ``None`` reads only those that cannot be mistaken, and
    those with dots, which begin with the day everywhere.
    """
    word = " ".join(text.replace(",", " ").split())
    if m := _ISO.fullmatch(word):
        return _made(int(m[1]), int(m[2]), int(m[3]))
    if m := _NUMBERS.fullmatch(word):
        a, b, year = int(m[1]), int(m[3]), int(m[4]) + (2000 if len(m[4]) == 2 else 0)
        first = False if m[2] == "." else month_first
        if first is None and max(a, b) <= 12 and a != b:
            return None
        return _made(year, a, b) if (b > 12 if first is None else first) else _made(year, b, a)
    for shape in _NAMED:
        try:
            return datetime.strptime(word, shape).date()
        except ValueError:
            continue
    return None


def _made(year: int, month: int, day: int) -> date | None:
    try:
        return date(year, month, day)
    except ValueError:
        return None


def order_of(cells: Sequence[str]) -> bool | None:
    """Return whether the dates of a column begin with the month; ``None`` where none of them tells."""
    numbers = (m for c in cells if (m := _NUMBERS.fullmatch(c.strip())) and m[2] != ".")
    found = {int(m[3]) > 12 for m in numbers if max(int(m[1]), int(m[3])) > 12}
    return found.pop() if len(found) == 1 else None


def is_date(text: str) -> bool:
    """Return whether a cell looks like a date, be it one that can be read in two ways."""
    return day_of(text, month_first=None) is not None or day_of(text, month_first=True) is not None
