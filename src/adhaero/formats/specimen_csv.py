"""One row a specimen, with its record, sizes, gluing and reading; units stand in the headings.

The columns are described in ``docs/data-format.md``. ``read`` accepts what ``write`` makes, with columns in any order
and others left out, and names every wrong cell by its row.
"""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, fields

from adhaero.core.method_catalogue import METHODS
from adhaero.core.refusal import Problems, refuse

TEXT = (
    "batch", "question", "code", "treatment", "treatment_label", "role", "part", "control", "method", "target",
    "species_a", "species_b", "orientation", "glue", "prep", "glued_at", "glued_by", "bottle",
    "clamp_force_known", "unclamped_at", "mix_deviation", "events", "figure_unit", "kind", "failure_mode", "source",
    "observed_at", "observed_by", "reason", "note",
)  # fmt: skip
COUNT = ("replicate", "break_order", "glue_order", "glueup", "clamps")
NUMBER = (
    "planned_pressure_mpa", "planned_clamp_s", "planned_cure_s", "clamp_force_n", "air_c", "humidity_pct",
    "load_low_n", "load_high_n", "held_s", "first_crack_n", "area_mm2", "strength_low_mpa", "strength_high_mpa",
    "figure_low", "figure_high", "wood_failure_pct",
)  # fmt: skip
NEEDED = ("batch", "code", "treatment_label", "role")
MAX_TEXT, MAX_EVENTS = 2000, 100_000


@dataclass(frozen=True)
class Row:
    """A specimen as a row of the file. Empty cells are ``""`` or ``None``; ``factors`` maps name to (value, unit)."""

    batch: str = ""
    question: str = ""
    code: str = ""
    treatment: str = ""
    treatment_label: str = ""
    role: str = ""
    part: str = ""
    control: str = ""
    method: str = ""
    target: str = ""
    replicate: int | None = None
    break_order: int | None = None
    glue_order: int | None = None
    species_a: str = ""
    species_b: str = ""
    orientation: str = ""
    glue: str = ""
    prep: str = ""
    planned_pressure_mpa: float | None = None
    planned_clamp_s: float | None = None
    planned_cure_s: float | None = None
    glueup: int | None = None
    glued_at: str = ""
    glued_by: str = ""
    bottle: str = ""
    clamp_force_n: float | None = None
    clamp_force_known: str = ""
    clamps: int | None = None
    air_c: float | None = None
    humidity_pct: float | None = None
    unclamped_at: str = ""
    mix_deviation: str = ""
    events: str = ""
    kind: str = ""
    load_low_n: float | None = None
    load_high_n: float | None = None
    held_s: float | None = None
    first_crack_n: float | None = None
    area_mm2: float | None = None
    strength_low_mpa: float | None = None
    strength_high_mpa: float | None = None
    figure_low: float | None = None
    figure_high: float | None = None
    figure_unit: str = ""
    failure_mode: str = ""
    wood_failure_pct: float | None = None
    source: str = ""
    observed_at: str = ""
    observed_by: str = ""
    reason: str = ""
    note: str = ""
    factors: dict[str, tuple[str | float | None, str]] = field(default_factory=dict)
    nominal: dict[str, float] = field(default_factory=dict)
    sizes: dict[str, float] = field(default_factory=dict)
    number: int = 0


_COLUMNS = [f.name for f in fields(Row) if f.name not in ("factors", "nominal", "sizes", "number")]
_FACTOR = "factor "
_ALL_SIZES = {s.key: s for m in METHODS.values() for s in m.sizes_for(m.forms)}


def size_head(key: str) -> str:
    """Heading of a size: ``width_mm``; a plain number has no unit."""
    return f"{key}_mm" if _ALL_SIZES[key].unit else f"{key}_count"


_SIZE_HEADS = {size_head(k): ("sizes", k) for k in _ALL_SIZES} | {
    f"nominal_{size_head(k)}": ("nominal", k) for k in _ALL_SIZES
}


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, float):
        return repr(value) if not value.is_integer() else str(int(value))
    return str(value)


def write(rows: Sequence[Row], factors: Sequence[tuple[str, str, str]]) -> str:
    """The file as text. ``factors`` are (key, name, unit); each becomes a column ``factor key: name [unit]``."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    heads = {key: f"{_FACTOR}{key}: {name}" + (f" [{unit}]" if unit else "") for key, name, unit in factors}
    keys = [k for k in _ALL_SIZES if any(k in row.nominal or k in row.sizes for row in rows)]
    size_heads = [h for k in keys for h in (f"nominal_{size_head(k)}", size_head(k))]
    writer.writerow([*_COLUMNS, *size_heads, *heads.values()])
    for row in rows:
        values = vars(row)
        levels = [row.factors.get(key, ("", ""))[0] for key in heads]
        sizes = [v for k in keys for v in (row.nominal.get(k), row.sizes.get(k))]
        writer.writerow([
            *(_cell(values[c]) for c in _COLUMNS), *(_cell(v) for v in sizes),
            *("none" if v is None else _cell(v) for v in levels),
        ])  # fmt: skip
    return out.getvalue()


def _factor_head(head: str) -> tuple[str, str, str]:
    key, _, name = head.removeprefix(_FACTOR).partition(": ")
    name, _, unit = name.partition(" [")
    return key.strip(), name.strip(), unit.removesuffix("]")


def _number(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(text)
    return value


def read(text: str) -> tuple[list[Row], list[tuple[str, str, str]]]:
    """Rows and factors of a file. Raises ``Refusal`` with every wrong cell; row numbers count the heading as row 1."""
    reader = csv.reader(io.StringIO(text.removeprefix("\ufeff"), newline=""), strict=True)
    try:
        lines = [line for line in enumerate(reader, 1) if any(cell.strip() for cell in line[1])]
    except csv.Error as error:
        raise refuse(f"row {reader.line_num}", f"cannot be read ({error})", "Save the sheet as CSV again.") from error
    if not lines:
        raise refuse("file", "the file is empty", "Choose a file with a heading and one row for each specimen.")
    heads = [h.strip() for h in lines[0][1]]
    problems = Problems()
    for head in heads:
        known = head in _COLUMNS or head in _SIZE_HEADS or head.startswith(_FACTOR)
        if not known or heads.count(head) > 1:
            what = "stands twice" if known else "is not a column of this format"
            problems.add(f"row 1: {head[:40]}", what, "Rename or remove it; the names are in docs/data-format.md.")
    for head in NEEDED:
        problems.check(head in heads, f"row 1: {head}", "this column is missing", "Add it.")
    problems.raise_if_any()
    factors = [_factor_head(h) for h in heads if h.startswith(_FACTOR)]
    rows = [_read_row(number, heads, cells, problems) for number, cells in lines[1:]]
    problems.check(bool(rows), "file", "there is a heading but no row", "Add one row for each specimen.")
    problems.raise_if_any()
    return rows, factors


def _read_row(number: int, heads: Sequence[str], cells: Sequence[str], problems: Problems) -> Row:
    if len(cells) != len(heads):
        problems.add(f"row {number}", f"has {len(cells)} cells instead of {len(heads)}", "Check its commas and quotes.")
        return Row(number=number)
    values: dict[str, object] = {"number": number}
    sizes: dict[str, dict[str, float]] = {"sizes": {}, "nominal": {}}
    levels: dict[str, tuple[str | float | None, str]] = {}
    for head, raw in zip(heads, cells, strict=True):
        cell = raw.strip()
        where = f"row {number}: {head}"
        most = MAX_EVENTS if head == "events" else MAX_TEXT
        if len(cell) > most:
            problems.add(where, f"is longer than {most} characters", "Shorten it.")
        elif head.startswith(_FACTOR):
            key, _, unit = _factor_head(head)
            levels[key] = (_level(cell), unit)
        elif not cell:
            if head in NEEDED:
                problems.add(where, "is empty", "Fill it in.")
        elif head in TEXT:
            values[head] = cell
        else:
            try:
                if head in _SIZE_HEADS:
                    which, key = _SIZE_HEADS[head]
                    sizes[which][key] = _number(cell)
                else:
                    values[head] = int(cell) if head in COUNT else _number(cell)
            except ValueError:
                problems.add(where, f"{cell[:40]!r} is not a number", "Use a point for decimals; no unit in the cell.")
    return Row(**values, factors=levels, **sizes)  # type: ignore[arg-type]


def _level(cell: str) -> str | float | None:
    if cell == "none":
        return None
    try:
        return _number(cell)
    except ValueError:
        return cell


def names(rows: Iterable[Row]) -> list[str]:
    """Batch names in the file, each once, in order."""
    return list(dict.fromkeys(r.batch for r in rows))
