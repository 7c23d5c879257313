"""One row a specimen, with its record, sizes, gluing and reading; units stand in the headings.

The columns are described in ``docs/data-format.md``. ``read`` accepts what ``write`` makes, with columns in any order
and others left out, and names every wrong cell by its row.
"""

from __future__ import annotations

import csv
import io
import math
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, fields

from adhaero.core.cut.measurements import MEASUREMENTS
from adhaero.core.method_catalogue import METHODS
from adhaero.core.refusal import Problems, refuse

TEXT = (
    "batch", "question", "code", "piece_name",
    "treatment", "treatment_label", "role", "part", "control", "method", "target",
    "policy",
    "species_a", "species_b", "orientation", "glue", "prep", "glued_at", "glued_by", "bottle",
    "clamp_force_known", "pressed_by", "glueup_ended_at",
    "unclamped_at", "mixed_at", "mix_ratio", "mix_deviation", "glueup_faces", "glueup_note",
    "parent", "parent_kind", "block",
    "exception_note", "bottle_state", "events", "steps", "defects", "swapped_with", "board", "board_places",
    "instead_of", "part_reason", "not_run", "amended", "figure_unit", "kind", "known", "failure_mode", "source",
    "observed_at", "observed_by", "reason", "note", "confirmed", "rig", "fixture", "rig_instrument",
    "loadings", "details", "curve", "shares", "flags", "plan", "shop",
)  # fmt: skip
COUNT = ("parent_number", "parent_place", "replicate", "break_order", "glue_order", "glueup", "clamps")
NUMBER = (
    "planned_pressure_mpa", "planned_clamp_s", "planned_cure_s", "clamp_force_n", "spread_g_m2", "air_c",
    "humidity_pct", "pressure_mpa", "board_density_kg_m3", "board_moisture_pct", "age_s", "load_low_n", "load_high_n",
    "held_s", "first_crack_n", "area_mm2", "strength_low_mpa", "strength_high_mpa", "figure_low", "figure_high",
    "uncertainty", "wood_failure_pct", "wood_counted_pct", "rig_capacity_n", "rig_resolution_n", "rig_working_share",
)  # fmt: skip
NEEDED = ("batch", "code", "treatment_label", "role")
DOCUMENTS = ("events", "steps", "defects", "board_places", "amended", "confirmed", "rig_instrument", "loadings",
             "details", "curve", "plan", "shop")  # fmt: skip
"""Columns whose cells are JSON."""
MAX_TEXT, MAX_DOCUMENT = 2000, 4_000_000
RISKY = ("=", "+", "-", "@", "\t", "\r", "'")
"""A text that begins with one of these is a formula to a spreadsheet (the last one hides that it was none)."""


@dataclass(frozen=True)
class Row:
    """A specimen as a row of the file. Empty cells are ``""`` or ``None``; ``factors`` maps name to (value, unit)."""

    batch: str = ""
    question: str = ""
    code: str = ""
    piece_name: str = ""
    treatment: str = ""
    treatment_label: str = ""
    role: str = ""
    part: str = ""
    control: str = ""
    method: str = ""
    target: str = ""
    policy: str = ""
    replicate: int | None = None
    break_order: int | None = None
    glue_order: int | None = None
    parent: str = ""
    parent_kind: str = ""
    parent_number: int | None = None
    parent_place: int | None = None
    block: str = ""
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
    bottle_state: str = ""
    clamp_force_n: float | None = None
    clamp_force_known: str = ""
    pressed_by: str = ""
    glueup_ended_at: str = ""
    clamps: int | None = None
    spread_g_m2: float | None = None
    pressure_mpa: float | None = None
    air_c: float | None = None
    humidity_pct: float | None = None
    unclamped_at: str = ""
    mixed_at: str = ""
    mix_ratio: str = ""
    mix_deviation: str = ""
    glueup_faces: str = ""
    glueup_note: str = ""
    exception_note: str = ""
    events: str = ""
    steps: str = ""
    defects: str = ""
    swapped_with: str = ""
    board: str = ""
    board_places: str = ""
    board_density_kg_m3: float | None = None
    board_moisture_pct: float | None = None
    instead_of: str = ""
    part_reason: str = ""
    not_run: str = ""
    amended: str = ""
    age_s: float | None = None
    kind: str = ""
    load_low_n: float | None = None
    load_high_n: float | None = None
    held_s: float | None = None
    first_crack_n: float | None = None
    area_mm2: float | None = None
    strength_low_mpa: float | None = None
    strength_high_mpa: float | None = None
    known: str = ""
    figure_low: float | None = None
    figure_high: float | None = None
    uncertainty: float | None = None
    figure_unit: str = ""
    failure_mode: str = ""
    wood_failure_pct: float | None = None
    wood_counted_pct: float | None = None
    source: str = ""
    observed_at: str = ""
    observed_by: str = ""
    reason: str = ""
    note: str = ""
    confirmed: str = ""
    rig: str = ""
    fixture: str = ""
    rig_capacity_n: float | None = None
    rig_resolution_n: float | None = None
    rig_working_share: float | None = None
    rig_instrument: str = ""
    loadings: str = ""
    details: str = ""
    curve: str = ""
    shares: str = ""
    flags: str = ""
    plan: str = ""
    shop: str = ""
    factors: dict[str, tuple[str | float | None, str]] = field(default_factory=dict)
    own: dict[str, str] = field(default_factory=dict)
    nominal: dict[str, float] = field(default_factory=dict)
    sizes: dict[str, float] = field(default_factory=dict)
    number: int = 0


_COLUMNS = [f.name for f in fields(Row) if f.name not in ("factors", "own", "nominal", "sizes", "number")]
MOST_COLUMNS, MOST_CELLS = 1000, 3_000_000
_FACTOR = "factor "
_OWN = "property "
"""Before the id of a property of the plan's own in the heading of its column."""
_ALL_SIZES = {s.key: s for m in METHODS.values() for s in m.sizes_for(m.forms)}


def size_range(key: str) -> tuple[float, float]:
    """The range of a size over all methods that have it, as at the bench, with half as much to either side: sawn pieces
    are not as planned.
    """
    own = [s for m in METHODS.values() for s in m.sizes_for(m.forms) if s.key == key]
    return min(s.low for s in own) / 2, max(s.high for s in own) * 1.5


def size_head(key: str) -> str:
    """Heading of a size or of what else is measured: ``width_mm``, ``moisture_pct``; a plain number has no unit."""
    if key in MEASUREMENTS:
        return MEASUREMENTS[key].column
    return key + (_ALL_SIZES[key].suffix or "_count")


_SIZE_HEADS = {size_head(k): ("sizes", k) for k in (*_ALL_SIZES, *MEASUREMENTS)} | {
    f"nominal_{size_head(k)}": ("nominal", k) for k in _ALL_SIZES
}


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, float):
        return repr(value) if not value.is_integer() else str(int(value))
    return harmless(str(value)) if isinstance(value, str) else str(value)


def harmless(text: str) -> str:
    """A text as a cell that no spreadsheet takes for a formula; ``as_written`` gives it back."""
    return f"'{text}" if text.startswith(RISKY) else text


def as_written(cell: str) -> str:
    """A cell without the sign that made it harmless."""
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(RISKY) else cell


def write(rows: Sequence[Row], factors: Sequence[tuple[str, str, str]]) -> str:
    """The file as text. ``factors`` are (key, name, unit); each becomes a column ``factor key: name [unit]``."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    heads = {key: f"{_FACTOR}{key}: {name}" + (f" [{unit}]" if unit else "") for key, name, unit in factors}
    keys = [k for k in _ALL_SIZES if any(k in row.nominal or k in row.sizes for row in rows)]
    more = [k for k in MEASUREMENTS if any(k in row.sizes for row in rows)]
    size_heads = [h for k in keys for h in (f"nominal_{size_head(k)}", size_head(k))] + [size_head(k) for k in more]
    owns = list(dict.fromkeys(k for row in rows for k in row.own))
    writer.writerow([*_COLUMNS, *size_heads, *heads.values(), *(_OWN + k for k in owns)])
    for row in rows:
        values = vars(row)
        levels = [row.factors.get(key, ("", ""))[0] for key in heads]
        sizes = [v for k in keys for v in (row.nominal.get(k), row.sizes.get(k))] + [row.sizes.get(k) for k in more]
        writer.writerow([
            *(_cell(values[c]) for c in _COLUMNS), *(_cell(v) for v in sizes),
            *("none" if v is None else _cell(v) for v in levels), *(_cell(row.own.get(k, "")) for k in owns),
        ])  # fmt: skip
    return out.getvalue()


def _factor_head(head: str) -> tuple[str, str, str]:
    key, _, name = head.removeprefix(_FACTOR).partition(": ")
    name, _, unit = name.partition(" [")
    return key.strip(), name.strip(), unit.removesuffix("]")


def _number(text: str, decimal: str = ".") -> float:
    value = float(text.replace(",", ".") if decimal == "," and "." not in text else text)
    if not math.isfinite(value):
        raise ValueError(text)
    return value


def read(text: str) -> tuple[list[Row], list[tuple[str, str, str]]]:
    """Rows and factors of a file. Raises ``Refusal`` with every wrong cell; row numbers count the heading as row 1."""
    clean = text.removeprefix("\ufeff")
    # A spreadsheet of a country with decimal commas parts cells by semicolons.
    apart = ";" if clean.partition("\n")[0].count(";") > clean.partition("\n")[0].count(",") else ","
    reader = csv.reader(io.StringIO(clean, newline=""), strict=True, delimiter=apart)
    csv.field_size_limit(MAX_DOCUMENT + 1000)
    try:
        lines = [line for line in enumerate(reader, 1) if any(cell.strip() for cell in line[1])]
    except csv.Error as error:
        raise refuse(f"row {reader.line_num}", f"cannot be read ({error})", "Save the sheet as CSV again.") from error
    if not lines:
        raise refuse("file", "the file is empty", "Choose a file with a heading and one row for each specimen.")
    heads = [h.strip() for h in lines[0][1]]
    if len(heads) > MOST_COLUMNS or len(heads) * len(lines) > MOST_CELLS:
        what = f"has {len(heads)} columns and {len(lines)} rows"
        raise refuse("file", what, f"Use at most {MOST_COLUMNS} columns, and {MOST_CELLS} cells in all.")
    problems, often = Problems(), Counter(heads)
    for head in heads:
        known = head in _COLUMNS or head in _SIZE_HEADS or head.startswith((_FACTOR, _OWN))
        if not known or often[head] > 1:
            what = "stands twice" if known else "is not a column of this format"
            problems.add(f"row 1: {head[:40]}", what, "Rename or remove it; the names are in docs/data-format.md.")
    for head in NEEDED:
        problems.check(head in heads, f"row 1: {head}", "this column is missing", "Add it.")
    problems.raise_if_any()
    factors = [_factor_head(h) for h in heads if h.startswith(_FACTOR)]
    rows = [_read_row(number, heads, cells, problems, "," if apart == ";" else ".") for number, cells in lines[1:]]
    problems.check(bool(rows), "file", "there is a heading but no row", "Add one row for each specimen.")
    problems.raise_if_any()
    return rows, factors


def _read_row(number: int, heads: Sequence[str], cells: Sequence[str], problems: Problems, decimal: str) -> Row:
    if len(cells) != len(heads):
        problems.add(f"row {number}", f"has {len(cells)} cells instead of {len(heads)}", "Check its commas and quotes.")
        return Row(number=number)
    values: dict[str, object] = {"number": number}
    sizes: dict[str, dict[str, float]] = {"sizes": {}, "nominal": {}}
    levels: dict[str, tuple[str | float | None, str]] = {}
    own: dict[str, str] = {}
    for head, raw in zip(heads, cells, strict=True):
        cell = as_written(raw.strip())
        where = f"row {number}: {head}"
        most = MAX_DOCUMENT if head in DOCUMENTS else MAX_TEXT
        if len(cell) > most:
            problems.add(where, f"is longer than {most} characters", "Shorten it.")
        elif head.startswith(_OWN):
            if cell:
                own[head.removeprefix(_OWN)] = cell
        elif head.startswith(_FACTOR):
            key, _, unit = _factor_head(head)
            # An empty cell says nothing: a solid piece, or a single treatment with a field that the others lack.
            if cell:
                levels[key] = (_level(cell, decimal), unit)
        elif not cell:
            if head in NEEDED:
                problems.add(where, "is empty", "Fill it in.")
        elif head in TEXT:
            values[head] = cell
        else:
            try:
                if head in _SIZE_HEADS:
                    which, key = _SIZE_HEADS[head]
                    sizes[which][key] = _number(cell, decimal)
                else:
                    values[head] = _count(cell) if head in COUNT else _number(cell, decimal)
            except ValueError:
                problems.add(where, f"{cell[:40]!r} is not a number", "Use a point for decimals; no unit in the cell.")
    return Row(**values, factors=levels, own=own, **sizes)  # type: ignore[arg-type]


def _count(cell: str) -> int:
    value = int(cell)
    if not 0 <= value <= 1_000_000:
        raise ValueError(cell)
    return value


def _level(cell: str, decimal: str) -> str | float | None:
    if cell == "none":
        return None
    try:
        return _number(cell, decimal)
    except ValueError:
        return cell


def names(rows: Iterable[Row]) -> list[str]:
    """Batch names in the file, each once, in order."""
    return list(dict.fromkeys(r.batch for r in rows))
