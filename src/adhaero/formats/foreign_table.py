"""A table that somebody else wrote: rows of readings, columns of readings, or a row a piece; with signs of their own.

Every cell is understood or refused by its row and column, counted as a spreadsheet counts them, from 1; nothing is
passed over in silence.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

from adhaero.core.quantity import Dimension, parse
from adhaero.core.refusal import Refusal, refuse

MOST_CELLS = 20_000
MOST_TEXT = 2_000_000
LONG_CELL = 200


class Written(StrEnum):
    """What a cell of readings holds."""

    VALUE = "value"
    AT_LEAST = "at_least"
    APART = "apart"
    EMPTY = "empty"
    REFUSED = "refused"


@dataclass(frozen=True)
class Signs:
    """How the table is written: marks before or after a load that was only reached, words for a piece that fell apart
    and for one without a reading. Case does not matter.
    """

    at_least: tuple[str, ...] = (">", "≥", "+")
    apart: tuple[str, ...] = ("F",)
    empty: tuple[str, ...] = ("-", "–", "n/a")


@dataclass(frozen=True)
class Cell:
    """A cell of readings. ``value`` is in the base unit of what was asked for; ``why`` says what is wrong with it."""

    row: int
    column: int
    text: str
    written: Written
    value: float | None = None
    why: str = ""


def split(text: str) -> list[list[str]]:
    """The cells of a pasted or saved table, without rows that are all empty but for their place.

    Cells are parted by tabs, else by semicolons, else by commas, whichever the first row has. ``Refusal`` for an empty
    or a far too large table, or one whose quotes do not close.
    """
    clean = text.removeprefix("\ufeff")
    if len(clean) > MOST_TEXT:
        raise refuse("text", "is longer than two million characters", "Bring the table in parts.")
    first = next((line for line in clean.splitlines() if line.strip()), "")
    apart = next((sign for sign in "\t;," if sign in first), "\t")
    try:
        rows = [
            [c.strip() for c in row] for row in csv.reader(io.StringIO(clean, newline=""), delimiter=apart, strict=True)
        ]
    except csv.Error as error:
        raise refuse("text", f"cannot be read ({error})", "Copy the table again, or save it as CSV.") from error
    while rows and not any(rows[-1]):
        rows.pop()
    if not rows:
        raise refuse("text", "there is no table in it", "Paste the cells with their headings.")
    if sum(map(len, rows)) > MOST_CELLS:
        raise refuse("text", f"has more than {MOST_CELLS} cells", "Bring the table in parts.")
    return rows


def reading(row: int, column: int, text: str, dimension: Dimension, unit: str, signs: Signs) -> Cell:
    """A cell that holds a reading, understood or refused."""
    word = text.strip()
    if not word or word.lower() in {s.lower() for s in signs.empty}:
        return Cell(row, column, word, Written.EMPTY)
    if word.lower() in {s.lower() for s in signs.apart}:
        return Cell(row, column, word, Written.APART)
    mark = next((s for s in sorted(signs.at_least, key=len, reverse=True) if _marked(word, s)), None)
    bare = word if mark is None else word.removesuffix(mark) if word.endswith(mark) else word.removeprefix(mark)
    try:
        if len(word) > LONG_CELL:
            raise refuse("value", "is far too long", "")
        value = parse(bare, dimension, unit).base
    except Refusal as refusal:
        return Cell(row, column, word[:LONG_CELL], Written.REFUSED, why=refusal.problems[0].message)
    if value <= 0:
        return Cell(row, column, word, Written.REFUSED, why="is no load; is 0 the sign of one that fell apart?")
    return Cell(row, column, word, Written.VALUE if mark is None else Written.AT_LEAST, value)


def _marked(word: str, mark: str) -> bool:
    """Whether a mark stands before or behind; a plus before a number is only its sign."""
    return word.endswith(mark) or (mark != "+" and word.startswith(mark))


def words(text: str) -> tuple[str, ...]:
    """Signs as a person writes them, parted by blanks."""
    return tuple(dict.fromkeys(w for w in re.split(r"\s+", text.strip()) if w))


def turned(rows: Sequence[Sequence[str]]) -> list[list[tuple[int, int, str]]]:
    """Columns as rows, each cell with its own row and column."""
    wide = max(map(len, rows))
    return [[(r, c, row[c - 1] if c <= len(row) else "") for r, row in enumerate(rows, 1)] for c in range(1, wide + 1)]


def placed(rows: Sequence[Sequence[str]]) -> Iterator[list[tuple[int, int, str]]]:
    """Rows, each cell with its row and column."""
    for r, row in enumerate(rows, 1):
        yield [(r, c, cell) for c, cell in enumerate(row, 1)]
