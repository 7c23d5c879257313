"""A curve that a logger left behind: rows of time, load and perhaps travel, with the columns and units said.

Cells end at a tab, semicolon or comma; with one of the first two a comma in a number is its point. Rows before the
first number are heads. Nothing is guessed in silence: a cell that is no number refuses the file with its row.
"""

from __future__ import annotations

import csv
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from adhaero.core.breaking.instrument import Instrument
from adhaero.core.breaking.signal import Reading, SignalTracker, Zero
from adhaero.core.quantity import Dimension, unit
from adhaero.core.refusal import Problems, refuse

Array = NDArray[np.float64]
LEAST_ROWS = 5
MOST_ROWS = 3_000_000
MOST_COLUMNS = 100
MOST_PROBLEMS = 20
OFF_SHARE = 0.01
"""A first sample beyond this share of the peak is no zero."""
NOISE_ROWS = 64


@dataclass(frozen=True)
class Columns:
    """Which column has what (from 1; ``travel`` 0 for none), and in which unit."""

    time: int = 1
    load: int = 2
    travel: int = 0
    time_unit: str = "s"
    load_unit: str = "N"
    travel_unit: str = "mm"


@dataclass(frozen=True)
class Table:
    """The cells of a file: its ``heads`` (empty without any) and its rows, with the ``lines`` of the file on which they
    stand.
    """

    heads: tuple[str, ...]
    rows: Sequence[Sequence[str]]
    lines: Sequence[int]


def table(text: str) -> Table:
    """Cells of a text. Raises ``Refusal`` for one without rows of numbers."""
    numbered = [
        (n, line)
        for n, line in enumerate(text.lstrip("\ufeff").splitlines(), 1)
        if line.strip() and not line.startswith("#")
    ]
    if not numbered:
        raise refuse("file", "is empty", "Choose the file that the logger wrote.")
    if len(numbered) > MOST_ROWS:
        raise refuse("file", f"has more than {MOST_ROWS} rows", "Thin it, or send the piece that has the break.")
    sample = numbered[min(len(numbered) - 1, 20)][1]
    separator = next((s for s in ("\t", ";", ",") if s in sample), None)
    lines = [line for _, line in numbered]
    split: list[list[str]] = list(csv.reader(lines, delimiter=separator)) if separator else [x.split() for x in lines]
    widest = max(map(len, split))
    if widest > MOST_COLUMNS:
        raise refuse("file", f"has {widest} columns", f"Save time, load and travel alone: at most {MOST_COLUMNS}.")
    if len(split) != len(lines):
        raise refuse("file", "has a quote that is left open", "Save it as text again.")
    cells = [tuple(p.strip() if separator == "," else p.strip().replace(",", ".") for p in row) for row in split]
    first = next((i for i, row in enumerate(cells) if sum(_number(c) is not None for c in row) >= 2), None)
    if first is None:
        raise refuse("file", "has no row of numbers", "Save it as text with a column of time and one of load.")
    return Table(cells[first - 1] if first else (), cells[first:], [n for n, _ in numbered[first:]])


def _number(cell: str) -> float | None:
    try:
        value = float(cell)
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def read(t: Table, c: Columns, i: Instrument) -> Array:
    """Rows of (s from the first, N on the piece, mm or nan). Raises ``Refusal`` with the number of every wrong row."""
    p = Problems()
    scale = (
        float(unit(c.time_unit, Dimension.TIME).factor),
        i.factor * float(unit(c.load_unit, i.dimension).factor),
        float(unit(c.travel_unit, Dimension.LENGTH).factor),
    )
    found: list[tuple[float, float, float]] = []
    for n, row in zip(t.lines, t.rows, strict=True):
        values = [_cell(row, column, name, n, p) for column, name in ((c.time, "time"), (c.load, "load"))]
        values.append(_cell(row, c.travel, "travel", n, p) if c.travel else math.nan)
        found.append((values[0] * scale[0], values[1] * scale[1], values[2] * scale[2]))
        if len(p.found) >= MOST_PROBLEMS:
            break
    p.raise_if_any()
    rows = np.array(found)
    if len(rows) < LEAST_ROWS:
        raise refuse("file", f"has {len(rows)} rows", f"A curve needs {LEAST_ROWS} at least; type the peak instead.")
    back = np.flatnonzero(np.diff(rows[:, 0]) < 0)
    if len(back):
        number = t.lines[int(back[0]) + 1]
        raise refuse(
            f"row {number}: time", "goes back", "Choose the column of the time, or take one pull out of the file."
        )
    rows[:, 0] -= rows[0, 0]
    return rows


def _cell(row: Sequence[str], column: int, name: str, n: int, p: Problems) -> float:
    text = row[column - 1] if 0 < column <= len(row) else ""
    value = _number(text)
    if value is None:
        what = f"{text[:20]!r} is no number" if text else "is empty"
        p.add(f"row {n}: {name}", what, "Choose another column, or mend that row.")
        return math.nan
    return value


@dataclass(frozen=True)
class FirstLook:
    """What a curve shows: its reading, samples a second, and what it shows at its first one (N)."""

    reading: Reading
    rate_hz: float
    start_n: float

    @property
    def is_off(self) -> bool:
        """Whether it shows a load before there can be one: whoever wrote it did not zero it."""
        return not self.reading.zero.steady


def first_look(rows: Array, step_n: float) -> FirstLook:
    """Return what the rows of a curve show. It was zeroed by whoever wrote it; its noise is told from how it shakes
    about its own rise at the start. Raises ``Refusal`` for one that is too short.
    """
    steps = np.diff(rows[:, 0])
    rate = 1 / float(np.median(steps[steps > 0])) if (steps > 0).any() else 0.0
    start_n = float(rows[0, 1])
    zeroed = abs(start_n) <= OFF_SHARE * float(rows[:, 1].max())
    zero = Zero(0.0, _noise(rows[:NOISE_ROWS, 1]), min(NOISE_ROWS, len(rows)), zeroed)
    tracker = SignalTracker(step_n, zero)
    tracker.feed(rows[:, 0], rows[:, 1])
    found = tracker.reading()
    if found is None:
        raise refuse("file", "is too short to say anything", "Type the peak instead.")
    return FirstLook(found, rate, start_n)


def _noise(force: Array) -> float:
    """Robust standard deviation about a straight rise: of second differences, which have six times its variance."""
    if len(force) < 4:
        return 0.0
    return 1.4826 * float(np.median(np.abs(np.diff(force, 2)))) / math.sqrt(6)


_NAMES = {
    "time": ("time", "zeit", "t", "sec", "ms"),
    "load": ("load", "force", "kraft", "f", "weight", "pressure"),
    "travel": ("travel", "displacement", "deflection", "weg", "position", "x"),
}


def guess(t: Table) -> Columns:
    """Columns by their heads, with the units that stand in brackets; else time, load, travel from the left."""
    found: dict[str, int] = {}
    units: dict[str, str] = {}
    for n, head in enumerate(t.heads, 1):
        name, _, rest = head.lower().replace("(", "[").partition("[")
        words = name.replace("_", " ").split()
        for what, names in _NAMES.items():
            if what not in found and words and words[0].rstrip(",:") in names:
                found[what] = n
                units[what] = head[len(head) - len(rest) :].strip(" ])") if rest else ""
    usual = Columns(travel=0)
    return Columns(
        found.get("time", 1), found.get("load", 2), found.get("travel", usual.travel),
        _unit_or(units.get("time", ""), Dimension.TIME, "s"),
        units.get("load", "") or usual.load_unit,
        _unit_or(units.get("travel", ""), Dimension.LENGTH, "mm"),
    )  # fmt: skip


def _unit_or(symbol: str, dimension: Dimension, usual: str) -> str:
    try:
        return unit(symbol, dimension).symbol if symbol else usual
    except ValueError:
        return usual
