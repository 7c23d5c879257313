"""What the columns of a table of another shop hold, told by their headings and by what is in them."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from adhaero.core.glue.exposure import path_of
from adhaero.core.joint_forms import Size
from adhaero.core.method import FAILURE_NAMES
from adhaero.core.method_catalogue import METHODS
from adhaero.core.plan.fields import CONDITIONINGS, FIELDS
from adhaero.core.quantity import Dimension, parse, unit
from adhaero.core.refusal import Refusal
from adhaero.formats.foreign_dates import is_date
from adhaero.formats.foreign_outcomes import ended

FACTOR, LOAD, RESULT, PIECE, DATE, MODE, WOOD, SIZE_OF, NOTE, SKIP, ASK = (
    "factor", "load", "result", "piece", "date", "failure_mode", "wood_failure_pct", "size", "note", "skip", "ask",
)  # fmt: skip
OF_OTHERS = frozenset(
    ("mean", "average", "avg", "avg.", "median", "sd", "s.d.", "cv", "cv%", "min", "max", "n", "count", "total", "sum")
)
"""Headings that mark summary rows (mean, total), which are not pieces."""
MOST_OF = 0.8
"""Share of the filled cells that must be of a kind to tell a column by what is in it."""
_SAME = {
    "wood": "species", "timber": "species", "adhesive": "glue", "surface": "prep", "preparation": "prep",
    "cure": "cure_s", "curing": "cure_s", "age": "cure_s", "clamp": "clamp_s", "clamped": "clamp_s",
    "clamping time": "clamp_s", "pressure": "pressure_mpa", "condition": "conditioning", "conditioned": "conditioning",
    "exposure": "conditioning", "grain": "orientation", "gap": "gap_mm", "joint": "form",
}  # fmt: skip
_LOADS = ("load", "force", "peak", "strength", "stress", "newton", "pounds", "kilos")
_NOTES = ("note", "remark", "comment", "observ")
_PIECES = ("piece", "specimen", "sample", "number", "no.", "nr", "id", "code", "name", "label", "#")


@dataclass(frozen=True)
class Column:
    """What a column of a long table holds: its ``role``; the ``key`` of a field or size, if it is one; its unit."""

    role: str
    key: str = ""
    unit: str = ""


def guessed(rows: Sequence[Sequence[str]]) -> list[Column]:
    """Return what the columns of a table seem to hold. The first row are the headings.

    Headings are believed first, then the cells. A column that neither tells has the role ``ask``: its meaning is asked
    for, it is never averaged over or made a treatment by a guess.
    """
    found = [_guess(head, [row[i].strip() for row in rows[1:] if i < len(row) and row[i].strip()])
             for i, head in enumerate(rows[0])]  # fmt: skip
    return _one_load(found, rows)


def split_head(head: str) -> tuple[str, str]:
    """Return name and unit of a heading: "Peak load (lbf)", "Load, N", "load_kg"."""
    m = re.fullmatch(r"\s*(.*?)\s*[(\[]\s*([^)\]]*?)\s*[)\]]?\s*", head)
    if m:
        return m[1].strip().lower(), m[2]
    for sign in (",", "_", " in ", " "):
        name, parted, behind = head.strip().rpartition(sign)
        if parted and name and _is_unit(behind.strip()):
            return name.strip().lower(), behind.strip()
    return head.strip().lower(), ""


def _states_times(text: str) -> bool:
    words = {w.lower(): k for k, name in CONDITIONINGS.items() for w in (k, name)}
    key = words.get(text.lower(), text)
    return key == "dry" or path_of(key) is not None


def _is_unit(word: str) -> bool:
    """Whether a word is a unit of anything that a column may hold; a single letter only where it is N."""
    for d in (Dimension.FORCE, Dimension.STRESS, Dimension.TIME, Dimension.LENGTH, Dimension.LINE_LOAD):
        try:
            unit(word, d)
        except Refusal:
            continue
        return len(word) > 1 or word in ("N", "h", "d")
    return False


def _guess(head: str, cells: Sequence[str]) -> Column:
    name, symbol = split_head(head)
    bare = name.replace("_", " ")
    known = _SAME.get(bare) or next((k for k, x in FIELDS.items() if bare in (k, x.name.lower())), "")
    if any(w in bare for w in ("wood failure", "wood %", "wood fail", "% wood")):
        return Column(WOOD)
    if known == "conditioning" and not all(map(_states_times, cells)):
        # "Soaked" says what was done, and not for how long: no stay to be followed, but a difference all the same.
        return Column(FACTOR)
    if known:
        return Column(FACTOR, known, symbol)
    if bare in OF_OTHERS:
        return Column(SKIP)
    if (size := _SIZES.get(bare)) is not None:
        return Column(SIZE_OF, size.key, symbol)
    return _by_words(bare, symbol, cells) or _by_cells(bare, cells)


def _by_words(name: str, symbol: str, cells: Sequence[str]) -> Column | None:
    """A column recognised by a word in its heading, unless its cells plainly hold something else."""
    if any(w in name for w in _LOADS) and not _most(cells, _is_outcome):
        return Column(LOAD, unit=symbol)
    if name.startswith(("date", "tested", "broken on", "day of")) or name == "when":
        return Column(DATE) if _most(cells, is_date) or not cells else Column(ASK)
    if any(w in name for w in ("failure", "mode", "how it broke", "broke at", "where it")):
        return Column(RESULT) if _most(cells, _is_outcome) else Column(MODE)
    if any(w in name for w in _NOTES):
        return Column(NOTE)
    if any(name == w or name.startswith(w + " ") or name.endswith(" " + w) for w in _PIECES):
        return Column(PIECE) if len(set(cells)) == len(cells) else Column(NOTE)
    return None


def _by_cells(name: str, cells: Sequence[str]) -> Column:
    """A column recognised by its cells."""
    different = len(set(cells))
    if _most(cells, is_date):
        return Column(DATE)
    if _most(cells, _is_outcome) or name in ("result", "outcome", "ended", "end", "status"):
        return Column(RESULT)
    if _most(cells, _is_mode):
        return Column(MODE)
    numbers = _most(cells, _is_number)
    if not numbers and len(cells) > 3 and different == len(cells):
        short = all(len(c) <= 14 and len(c.split()) == 1 for c in cells)
        return Column(PIECE) if short and any(any(s.isdigit() for s in c) for c in cells) else Column(NOTE)
    if not cells:
        return Column(SKIP)
    repeats = different <= max(2, len(cells) // 2)
    return Column(FACTOR) if repeats or (not numbers and len(cells) <= 3) else Column(ASK)


def _one_load(found: list[Column], rows: Sequence[Sequence[str]]) -> list[Column]:
    """The same with one load: the first that is called so; else the only column of numbers that nothing tells."""
    loads = [i for i, c in enumerate(found) if c.role == LOAD]
    if loads:
        return [Column(ASK, c.key, c.unit) if c.role == LOAD and i != loads[0] else c for i, c in enumerate(found)]
    asked = [i for i, c in enumerate(found) if c.role == ASK
             and _most([r[i].strip() for r in rows[1:] if i < len(r) and r[i].strip()], _is_number)]  # fmt: skip
    if len(asked) == 1:
        found[asked[0]] = Column(LOAD, unit=split_head(rows[0][asked[0]])[1])
    return found


def _most(cells: Sequence[str], of_kind: Callable[[str], bool]) -> bool:
    return bool(cells) and sum(map(of_kind, cells)) >= MOST_OF * len(cells)


def _is_outcome(text: str) -> bool:
    return ended(text) is not None and not text.isdigit()


def _is_mode(text: str) -> bool:
    return text.lower() in _MODES


def _is_number(text: str) -> bool:
    for d, usual in ((Dimension.FORCE, "N"), (Dimension.STRESS, "MPa")):
        try:
            parse(text.strip("<>≥≤~≈+ "), d, usual)
        except Refusal:
            continue
        return True
    return False


def _all_sizes() -> dict[str, Size]:
    return {s.name.lower(): s for m in METHODS.values() for s in m.sizes}


_SIZES = _all_sizes()
_MODES = {w.lower() for pair in FAILURE_NAMES.items() for w in pair}
