"""The cells of a table of another shop, sorted into pieces of treatments; what cannot be read is told by its place."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from adhaero.core.method import Method
from adhaero.core.method_catalogue import METHODS
from adhaero.core.plan.document import Level
from adhaero.core.plan.fields import FIELDS
from adhaero.core.plan.foreign import failure_mode, key_of, level_of
from adhaero.core.quantity import UNITS, Dimension, parse, unit
from adhaero.core.refusal import Problems, Refusal, refuse
from adhaero.formats.foreign_dates import day_of, order_of
from adhaero.formats.foreign_outcomes import Ended, able, ended
from adhaero.formats.foreign_table import Cell, Signs, Written, placed, reading, turned, words
from adhaero.workflow.foreign_columns import ASK, DATE, FACTOR, OF_OTHERS, PIECE, RESULT, Column, split_head

ROWS, LONG = "rows", "long"
"""Layouts: each row a treatment, a row a piece; the third has each column a treatment."""


@dataclass(frozen=True)
class Foreign:
    """A table and how to read it.

    ``layout``: each row a treatment, each column one, or a row a piece. ``unit`` is that of the readings, a load or the
    method's figure. ``factor`` names what the treatments differ in, ``key`` is its field if it is one of the record.
    ``constants`` are what all pieces have in common, ``solid`` and ``control`` names of treatments, ``sizes`` in mm.
    ``means``: every reading is an average of pieces nobody knows. ``broken_on`` is the day on which they were broken
    (2026-05-03), where no column says so; empty where nobody knows it.
    """

    name: str
    text: str
    layout: str
    method: str
    unit: str
    factor: str = ""
    key: str = ""
    heading: bool = True
    at_least: str = " ".join(Signs.at_least)
    apart: str = " ".join(Signs.apart)
    empty: str = " ".join(Signs.empty)
    means: bool = False
    solid: str = ""
    control: str = ""
    sizes: Mapping[str, float] = field(default_factory=dict)
    constants: Mapping[str, Level] = field(default_factory=dict)
    columns: tuple[Column, ...] = ()
    broken_on: str = ""


@dataclass(frozen=True)
class Piece:
    """A piece of the table: its levels by key, its reading, and what else its row tells."""

    levels: dict[str, Level]
    cell: Cell
    more: dict[str, Any] = field(default_factory=dict)
    sizes: dict[str, float] = field(default_factory=dict)


@dataclass
class ReadTable:
    """A table read: pieces, factors (key to name), and the cells that were refused."""

    pieces: list[Piece] = field(default_factory=list)
    factors: dict[str, str] = field(default_factory=dict)
    refused: list[Cell] = field(default_factory=list)
    empty: int = 0


def method_of(f: Foreign) -> Method:
    """The method by which the pieces were broken. ``Refusal`` for an unknown one, or one without loads."""
    method = METHODS.get(f.method)
    if method is None:
        raise refuse("method", f"{f.method!r} is not a test method", "Choose one from the list.")
    if method.loadless:
        raise refuse("method", f"{method.name} has no loads", "Choose the method by which these were broken.")
    return method


def dimension_of(f: Foreign, method: Method, symbol: str) -> Dimension:
    """Of which dimension the readings are: a load, or the figure of the method."""
    able = (Dimension.FORCE, method.figure_dimension)
    for d in able:
        with contextlib.suppress(Refusal):
            unit(symbol, d)
            return d
    names = ", ".join(s for d, s in UNITS if d in able)
    raise refuse("unit", f"{symbol!r} is no unit of a load or of the {method.figure_name.lower()}",
                 f"Choose one of: {names}.")  # fmt: skip


def unit_of(f: Foreign) -> str:
    """The unit of the readings: that of their column, else that of the table."""
    if f.layout != LONG:
        return f.unit
    return next((c.unit for c in f.columns if c.role == "load" and c.unit), f.unit)


def read_table(f: Foreign, cells: list[list[str]]) -> ReadTable:
    """The cells sorted into pieces. ``Refusal`` where it cannot be told how to read them at all."""
    if f.layout == LONG:
        return _read_long(f, cells)
    lines = list(placed(cells)) if f.layout == ROWS else turned(cells)
    method = method_of(f)
    dimension, signs = dimension_of(f, method, f.unit), _signs(f)
    own, called = _factor(f, cells)
    read = ReadTable(factors={own: called})
    heads = cells[0] if f.heading and f.layout == ROWS else []
    for line in lines[1:] if f.heading and f.layout == ROWS else lines:
        name = line[0] if line else (0, 0, "")
        data = line[1:]
        if not name[2] and not any(text for _, _, text in data):
            continue
        if not name[2]:
            read.refused += [_no_name(c) for c in data if c[2]]
            continue
        try:
            levels = {own: level_of(own, name[2])}
        except Refusal as refusal:
            read.refused.append(Cell(*name, Written.REFUSED, why=refusal.problems[0].message))
            continue
        for row, column, text in data:
            head = heads[column - 1] if column <= len(heads) else ""
            if text and head.lower() in OF_OTHERS and not f.means:
                why = f"stands under {head!r}: a figure made of others, no piece"
                read.refused.append(Cell(row, column, text, Written.REFUSED, why=why))
                continue
            _sort(read, Piece(levels, reading(row, column, text, dimension, f.unit, signs)))
    return read


def _factor(f: Foreign, cells: list[list[str]]) -> tuple[str, str]:
    """Key and name of what the treatments differ in: as told, else as the corner of the table has it."""
    corner = cells[0][0] if f.layout == ROWS and f.heading and cells[0] else ""
    name = f.factor.strip() or corner or "Treatment"
    key = f.key or next((k for k, x in FIELDS.items() if name.lower() in (k, x.name.lower())), "") or key_of(name)
    return key, FIELDS[key].name if key in FIELDS else name


def _no_name(cell: tuple[int, int, str]) -> Cell:
    return Cell(*cell, Written.REFUSED, why="has no name of its treatment beside it")


def _sort(read: ReadTable, piece: Piece) -> None:
    match piece.cell.written:
        case Written.REFUSED:
            read.refused.append(piece.cell)
        case Written.EMPTY:
            read.empty += 1
        case _:
            read.pieces.append(piece)


def _signs(f: Foreign) -> Signs:
    return Signs(words(f.at_least), words(f.apart), words(f.empty))


def _read_long(f: Foreign, cells: list[list[str]]) -> ReadTable:
    method, heads, symbol = method_of(f), cells[0], unit_of(f)
    loads = [i for i, c in enumerate(f.columns) if c.role == "load"]
    if len(loads) != 1:
        raise refuse("columns", f"{len(loads)} columns hold the load", "Say of one column that it is the load.")
    at = loads[0]
    dimension, signs = dimension_of(f, method, symbol), _signs(f)
    keys = _keys(f, method, heads)
    read = ReadTable()
    for c, head, own in zip(f.columns, heads, keys, strict=True):
        if c.role == FACTOR:
            read.factors[own] = FIELDS[own].name if own in FIELDS else head.partition("[")[0].partition("(")[0].strip()
    month_first = _month_first(f, cells)
    for line in list(placed(cells))[1:]:
        if not any(text for _, _, text in line):
            continue
        full = line + [(line[0][0], c, "") for c in range(len(line) + 1, len(heads) + 1)]
        row, column, text = full[at]
        piece = Piece({}, _as_ended(f, full, reading(row, column, text, dimension, symbol, signs)))
        wrong = [Cell(*c, Written.REFUSED, why="stands under no heading") for c in full[len(heads) :] if c[2]]
        wrong += _told(f, method, heads, keys, full[: len(heads)], piece, month_first)
        if wrong:
            read.refused += wrong
        else:
            _sort(read, piece)
    return read


def _as_ended(f: Foreign, line: Sequence[tuple[int, int, str]], cell: Cell) -> Cell:
    """The reading of a row with what its column of outcomes says of it: what did not break is a bound, never a load."""
    at = next((i for i, c in enumerate(f.columns) if c.role == RESULT), None)
    if at is None:
        return cell
    row, column, text = line[at]
    told = ended(text)
    zero = cell.text.strip() in ("", "0", "0.0")

    def refused(why: str) -> Cell:
        return Cell(row, column, text, Written.REFUSED, why=why)

    match told:
        case None:
            return refused(f"is not understood; write one of: {able()}")
        case Ended.UNTESTED:
            return Cell(row, cell.column, cell.text, Written.EMPTY) if zero else refused("and a load stands beside it")
        case Ended.APART:
            bare = zero or cell.written in (Written.EMPTY, Written.APART)
            return Cell(row, cell.column, cell.text, Written.APART) if bare else refused("and a load stands beside it")
        case Ended.HELD if cell.written is Written.VALUE:
            return replace(cell, written=Written.AT_LEAST)
        case Ended.HELD if cell.written is Written.EMPTY:
            return refused("and no load stands beside it: how much did it hold?")
        case Ended.HELD if cell.written is Written.APART:
            return refused("and the load says that it fell apart")
    return cell


def _month_first(f: Foreign, cells: list[list[str]]) -> bool | None:
    """How the dates of a table are written; ``None`` where nothing tells."""
    at = [i for i, c in enumerate(f.columns) if c.role == DATE]
    return order_of([row[i].strip() for row in cells[1:] for i in at if i < len(row)])


def _keys(f: Foreign, method: Method, heads: Sequence[str]) -> list[str]:
    """The key of each column: of the field or size that it is, or one of its own. ``Refusal`` where two columns are the
    same thing, or a size is none of the method's.
    """
    p, sizes = Problems(), {s.key for s in method.sizes}
    p.check(len(f.columns) == len(heads), "columns", f"{len(f.columns)} are told of, the table has {len(heads)}",
            "Load the table again.")  # fmt: skip
    p.raise_if_any()
    keys: list[str] = []
    for role in (DATE, PIECE, RESULT):
        p.check(sum(c.role == role for c in f.columns) < 2, "columns", f"two columns hold the {role}", "Leave one out.")
    for n, (c, head) in enumerate(zip(f.columns, heads, strict=True), 1):
        where = f"column {n}"
        p.check(c.role != ASK, where, f"{split_head(head)[0][:40]!r}: what it holds is not clear",
                "Say what it is, or leave it out.")  # fmt: skip
        key = c.key or (key_of(head) if c.role == "factor" else "")
        if c.role == "size":
            p.check(key in sizes, where, "is a size, and it is not told which", "Choose which size it is.")
        if key and key in keys:
            p.check(not c.key, where, "is the same as another column", "Leave one of the two out.")
            # Headings that differ in signs alone, or are written in other letters, stay apart by their place.
            key = f"{key}-{n}"
        keys.append(key)
    p.raise_if_any()
    return keys


def _told(
    f: Foreign, method: Method, heads: Sequence[str], keys: Sequence[str], line: Sequence[tuple[int, int, str]],
    piece: Piece, month_first: bool | None,
) -> list[Cell]:  # fmt: skip
    """Take what a row tells beside its load into the piece; returns what cannot be read."""
    wrong = []
    for c, head, own, (row, column, text) in zip(f.columns, heads, keys, line, strict=True):
        try:
            match c.role:
                case "piece" if text:
                    piece.more["piece_name"] = text[:80]
                case "date" if text:
                    piece.more["observed_at"] = _broken_at(text, month_first)
                case "factor":
                    piece.levels[own] = level_of(own, text, c.unit)
                case "failure_mode" if text:
                    piece.more["failure_mode"] = failure_mode(method, text)
                case "wood_failure_pct" if text:
                    piece.more["wood_failure_pct"] = parse(text, Dimension.SHARE, "%").base
                case "size" if text:
                    piece.sizes[own] = parse(text, Dimension.LENGTH, c.unit or "mm").base
                case "note" if text:
                    # Several columns may hold notes: none takes the place of another.
                    before = piece.more.get("note")
                    piece.more["note"] = f"{before}; {head}: {text}" if before else f"{head}: {text}"
        except Refusal as refusal:
            wrong.append(Cell(row, column, text, Written.REFUSED, why=refusal.problems[0].message))
    return wrong


def _broken_at(text: str, month_first: bool | None) -> str:
    """The moment that stands for the day of a break: its noon. ``Refusal`` for what is no day, or may be two."""
    day = day_of(text, month_first=month_first)
    if day is None:
        twice = day_of(text, month_first=True) is not None
        why = "can be read as two dates" if twice else "is no date that is understood"
        raise refuse("date", why, "Write it as 2026-05-03.")
    return f"{day.isoformat()}T12:00:00Z"
