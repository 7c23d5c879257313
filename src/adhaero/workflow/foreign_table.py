"""A table of another shop: understood cell by cell, shown before it is taken in, and taken in as a batch of its own.

What was refused is told by row and column, and stands beside the question of the batch if the rest was taken. A bare
average is no piece: it is kept beside the pieces with its reason, outside of all statistics.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

from adhaero.core.flags import NO_DATE
from adhaero.core.method import Method
from adhaero.core.observation import Kind
from adhaero.core.plan.codes import new_codes
from adhaero.core.plan.design import COUNTS
from adhaero.core.plan.document import Factor, Level, level_name, treatment_name
from adhaero.core.plan.fields import FIELDS, SIZE
from adhaero.core.plan.treatments import JOINT, SOLID, treatments
from adhaero.core.quantity import BASE, Dimension, unit
from adhaero.core.refusal import Problem, Problems, Refusal, refuse
from adhaero.formats.foreign_dates import day_of
from adhaero.formats.foreign_table import Cell, Written, split
from adhaero.formats.specimen_csv import Row
from adhaero.store import specimens
from adhaero.workflow.context import AppContext
from adhaero.workflow.foreign_columns import DATE, Column, guessed
from adhaero.workflow.foreign_reading import (
    LONG,
    Foreign,
    Piece,
    ReadTable,
    dimension_of,
    method_of,
    read_table,
    unit_of,
)
from adhaero.workflow.imported_plan import plan_of_rows
from adhaero.workflow.imported_rows import check
from adhaero.workflow.importing import Imported, import_rows

MEAN_ONLY = "mean only, pieces unknown"


@dataclass(frozen=True)
class Seen:
    """A treatment of the table: how many cells of each kind, and the mean of its exact readings."""

    name: str
    values: int
    at_least: int
    apart: int
    mean: float | None


@dataclass(frozen=True)
class TablePreview:
    """What the table would become. ``head`` are its first rows as they stand; ``problems`` must be solved before it can
    be taken in, ``refused`` cells can be left out. Means are in the base unit of ``dimension``; ``varied``
    are the keys of what the treatments differ in.
    """

    head: list[list[str]]
    columns: list[Column]
    counts: dict[str, int]
    refused: list[Cell]
    treatments: list[Seen]
    varied: list[str]
    problems: list[Problem]
    dimension: str
    sentence: str
    doubts: list[str]


def preview(w: AppContext, f: Foreign) -> TablePreview:
    """What a table would become, without writing anything. ``Refusal`` where it is no table at all."""
    cells = split(f.text)
    columns = list(f.columns) or guessed(cells)
    f = replace(f, columns=tuple(columns))
    problems: list[Problem] = []
    read, dimension, doubts = ReadTable(), "", list[str]()
    try:
        dimension = dimension_of(f, method_of(f), unit_of(f)).value
        read = read_table(f, cells)
        doubts = _doubts(method_of(f), f, _rows(w, f, read)[0])
    except Refusal as refusal:
        problems += refusal.problems
    counts = Counter(p.cell.written.value for p in read.pieces)
    counts[Written.REFUSED.value], counts[Written.EMPTY.value] = len(read.refused), read.empty
    head, kinds = [row[:40] for row in cells[:8]], {k.value: counts[k.value] for k in Written}
    told, varied = _sentence(f, read), list(read.factors)
    return TablePreview(head, columns, kinds, read.refused, _seen(read), varied, problems, dimension, told, doubts)


def _doubts(method: Method, f: Foreign, rows: Sequence[Row]) -> list[str]:
    """What to check before the table is imported: figures that no such joint can have."""
    low, high = method.plausible
    figures = [(r, r.load_low_n * method.per_newton({**f.sizes, **r.sizes})) for r in rows if r.load_low_n]
    found = []
    for word, odd in (("below", [x for x in figures if x[1] < low]), ("above", [x for x in figures if x[1] > high])):
        if odd:
            row, figure = odd[0]
            told = f"{figure:.3g} {BASE[method.figure_dimension]}"
            many = f"{len(odd)} readings are" if len(odd) > 1 else "One reading is"
            found.append(f"{many} far {word} what such joints carry (row {row.number}: {told}). "
                         "Check the unit and the sizes.")  # fmt: skip
    return found


def take(w: AppContext, f: Foreign, leave_out: bool, person: str, key: str | None) -> Imported:
    """Make a batch of the table. Cells that cannot be read refuse it, unless they are to be left out: then the question
    of the batch names them, wherever its answer stands.
    """
    cells = split(f.text)
    f = f if f.columns else replace(f, columns=tuple(guessed(cells)))
    read = read_table(f, cells)
    if read.refused and not leave_out:
        raise Refusal([Problem(_at(c), f"{c.text!r}: {c.why}", "Mend the cell, or take in the others without it.")
                       for c in read.refused])  # fmt: skip
    rows, factors = _rows(w, f, read)
    left = f"; left out: {_left_out(read.refused)}" if read.refused else ""
    rows = [replace(r, question=r.question + left) for r in rows]
    asked = json.dumps({**asdict(f), "leave_out": leave_out})
    return import_rows(w, rows, factors, person, key, asked, "from a table of another shop")


def _left_out(refused: Sequence[Cell]) -> str:
    told = ", ".join(f"{_at(c)} {c.text[:20]!r}" for c in refused[:6])
    return told + f" and {len(refused) - 6} more" * (len(refused) > 6)


def _at(c: Cell) -> str:
    return f"row {c.row}, column {c.column}"


def _varied(read: ReadTable, pieces: Sequence[Piece]) -> list[str]:
    """The factors in which these pieces differ; all of them where they differ in none. One glue throughout is no part
    of a treatment's name.
    """
    return [k for k in read.factors if len({p.levels.get(k) for p in pieces}) > 1] or list(read.factors)


def _name(varied: Sequence[str], piece: Piece) -> str:
    """A treatment as the table names it."""
    return " · ".join(level_name(k, piece.levels[k]) for k in varied if k in piece.levels)


def _seen(read: ReadTable) -> list[Seen]:
    own: dict[str, list[Cell]] = {}
    varied = _varied(read, read.pieces)
    for p in read.pieces:
        own.setdefault(_name(varied, p), []).append(p.cell)
    found = []
    for name, cells in own.items():
        n = Counter(c.written for c in cells)
        exact = [c.value for c in cells if c.written is Written.VALUE and c.value is not None]
        mean = sum(exact) / len(exact) if exact else None
        found.append(Seen(name, n[Written.VALUE], n[Written.AT_LEAST], n[Written.APART], mean))
    return found


def _sentence(f: Foreign, read: ReadTable) -> str:
    n = Counter(p.cell.written for p in read.pieces)
    parts = [f"{n[Written.VALUE]} {'means' if f.means else 'values'}", f"{n[Written.APART]} apart",
             f"{n[Written.AT_LEAST]} at least", f"{len(read.refused)} refused", f"{read.empty} empty"]  # fmt: skip
    rest = f"; the other {len(read.pieces)} can be taken in" if read.refused and read.pieces else ""
    return ", ".join(parts) + rest + "."


def _rows(w: AppContext, f: Foreign, read: ReadTable) -> tuple[list[Row], list[tuple[str, str, str]]]:
    """The pieces as rows of the format that is known; ``Refusal`` if they bear out no plan."""
    method = method_of(f)
    if not f.name.strip():
        raise refuse("name", "the batch has no name", "Give it one.")
    if not read.pieces:
        raise refuse("text", "no reading was understood", "Check layout, unit and signs.")
    method.refuse_bad_sizes(f.sizes)
    _refuse_unstated(f, read)
    with w.db.read() as conn:
        codes = new_codes(len(read.pieces), w.new_seed(), specimens.taken_codes(conn))
    factors = [(k, name, "") for k, name in read.factors.items()]
    apart = _varied(read, read.pieces)
    names = [_name(apart, p) for p in read.pieces]
    solid = f.solid.strip().lower()
    joints = [p for p, name in zip(read.pieces, names, strict=True) if not solid or name.lower() != solid]
    varied = {k: read.factors[k] for k in _varied(read, joints)}
    rows = [_row(f, method, name, varied, p, code) for name, p, code in zip(names, read.pieces, codes, strict=True)]
    if f.control and not any(r.control for r in rows):
        raise refuse("control", f"no treatment is called {f.control!r}", "Write it as it stands in the table.")
    check(rows, w.now())
    return _with_solid(rows, factors), factors


def _with_solid(rows: list[Row], factors: list[tuple[str, str, str]]) -> list[Row]:
    """The same with solid wood called as the plan of these rows calls it. ``Refusal`` if they bear out no plan."""
    plan = plan_of_rows(rows, factors)
    called = [t.label for t in treatments(plan) if t.role == SOLID]
    return [replace(r, treatment_label=called[0]) if r.role == SOLID and len(called) == 1 else r for r in rows]


def _refuse_unstated(f: Foreign, read: ReadTable) -> None:
    """What a record needs is never made up."""
    p = Problems()
    for key, known in FIELDS.items():
        level = f.constants.get(key)
        stated = key in read.factors or (level is not None and (level.value is not None or known.may_be_none))
        p.check(stated or not known.needed or key.startswith(SIZE), known.name, "is not stated for all pieces",
                "Ask that shop, and type it.")  # fmt: skip
    p.raise_if_any()


def _row(f: Foreign, method: Method, name: str, varied: Mapping[str, str], p: Piece, code: str) -> Row:
    solid = bool(f.solid) and name.lower() == f.solid.strip().lower()
    levels = {**f.constants, **p.levels}
    species = p.levels.get("species", f.constants.get("species", Level("")))
    label = " · ".join(treatment_name(Factor(k, n, ()), p.levels[k]) for k, n in varied.items())
    if solid:
        label = f"Solid {level_name('species', species).lower()}"
    own = {**f.sizes, **p.sizes}
    load = p.cell.value
    dimension = dimension_of(f, method, unit_of(f))
    if load is not None and dimension is not Dimension.FORCE:
        load = load / method.per_newton(own)
    kind = {Written.VALUE: Kind.EXACT, Written.AT_LEAST: Kind.AT_LEAST, Written.APART: Kind.FELL_APART}[p.cell.written]
    if f.means:
        kind = Kind.VOID
    question = f"From a table of another shop: {f.name.strip()[:100]}"
    return Row(
        batch=f.name.strip()[:120], question=question, code=code, treatment_label=label,
        role=SOLID if solid else JOINT, part=COUNTS, method=method.key, target="joint",
        control="control" if f.control and name.lower() == f.control.strip().lower() and not solid else "",
        species_a=str(species.value or ""),
        kind=kind.value, load_low_n=load if kind is not Kind.FELL_APART else None,
        load_high_n=load if kind in (Kind.EXACT, Kind.VOID) else None,
        reason=MEAN_ONLY if f.means else "",
        factors={} if solid else {k: _as_cell(k, v) for k, v in levels.items()},
        nominal=dict(f.sizes), sizes=p.sizes, number=p.cell.row, **_when(f), **p.more,
    )  # fmt: skip


def _when(f: Foreign) -> dict[str, Any]:
    """When the pieces were broken, where no column says so; a day that nobody knows is flagged, not made up."""
    if any(c.role == DATE for c in f.columns) and f.layout == LONG:
        return {}
    if not f.broken_on.strip():
        return {"confirmed": json.dumps([NO_DATE])}
    day = day_of(f.broken_on, month_first=None)
    if day is None:
        raise refuse("broken_on", f"{f.broken_on[:20]!r} is no date that is understood", "Write it as 2026-05-03.")
    return {"observed_at": f"{day.isoformat()}T12:00:00Z"}


def _as_cell(key: str, level: Level) -> tuple[str | float | None, str]:
    """A level as a column of the known format has it: a number in the unit that it was written in."""
    known = FIELDS.get(key)
    if known is None or known.dimension is None or not isinstance(level.value, float) or not level.unit:
        return level.value, level.unit
    return unit(level.unit, known.dimension).from_base(level.value), level.unit
