"""Climate readings as a CSV table: time, temperature and humidity, as loggers write them."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from datetime import UTC, datetime, tzinfo

from adhaero.core.refusal import Problems, refuse

_TIME = ("time", "at", "date", "datetime", "timestamp")
_AIR = ("temperature", "temp", "air", "air_c", "t")
_DAMP = ("humidity", "rh", "humidity_pct", "h")
MOST_ROWS = 200_000


@dataclass(frozen=True)
class Row:
    """A reading: UTC; degrees Celsius and % relative humidity, ``None`` where the cell is empty."""

    at: datetime
    air_c: float | None
    humidity_pct: float | None


def read(text: str, zone: tzinfo = UTC) -> list[Row]:
    """The readings in a table whose first row names its columns. Times that state no zone are of ``zone``.

    ``Refusal`` names each row that cannot be read; nothing is taken from a table with one.
    """
    lines = text.lstrip("\ufeff").strip()
    if not lines:
        raise refuse("text", "the file is empty", "Choose the file that the logger wrote.")
    first = lines.splitlines()[0]
    try:
        table = csv.reader(io.StringIO(lines, newline=""), delimiter=max(",;\t", key=first.count), strict=True)
        rows = [r for r in table if r]
    except csv.Error as error:
        raise refuse("text", "the table cannot be read: a quote is left open, or a line ends oddly",
                     "Save it as CSV again.") from error  # fmt: skip
    head = [c.strip().lower().split(" ")[0].split("(")[0] for c in rows[0]]
    at, air, damp = (_column(head, names) for names in (_TIME, _AIR, _DAMP))
    if at is None or (air is None and damp is None):
        raise refuse(
            "text", "the first row names no time, or neither temperature nor humidity",
            "Name the columns time, temperature and humidity.",
        )  # fmt: skip
    if len(rows) > MOST_ROWS:
        raise refuse("text", f"the file has {len(rows)} rows", f"Send at most {MOST_ROWS} at a time.")
    p, found = Problems(), []
    for n, cells in enumerate(rows[1:], 2):
        try:
            found.append(Row(_moment(cells[at], zone), _number(cells, air, -60, 90), _number(cells, damp, 0, 100)))
        except (ValueError, IndexError):
            p.add(f"row {n}", "cannot be read", "Write it like 2026-03-01T08:00, 17.5, 52.")
            if len(p.found) > 20:
                break
    p.raise_if_any()
    return found


def _column(head: list[str], names: tuple[str, ...]) -> int | None:
    return next((i for i, c in enumerate(head) if c in names), None)


def _moment(text: str, zone: tzinfo) -> datetime:
    at = datetime.fromisoformat(text.strip())
    if not 1970 <= at.year <= 2200:
        raise ValueError(text)
    return (at.replace(tzinfo=zone) if at.tzinfo is None else at).astimezone(UTC)


def _number(cells: list[str], column: int | None, low: float, high: float) -> float | None:
    text = cells[column].strip().replace(",", ".") if column is not None else ""
    if not text:
        return None
    value = float(text)
    if not low <= value <= high:
        raise ValueError(text)
    return value
