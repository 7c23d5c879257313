"""A broken face as a map: what each field of a grid shows; shares, wood failure, and how far assessors agree.

Both faces of a joint are laid open like a book: a field of one lies where the mirrored field of the other lay against
it. Where either shows wood, the wood gave way there.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from itertools import combinations
from typing import Any

from adhaero.core.refusal import refuse

KINDS: dict[str, str] = {
    "g": "glue",
    "w": "wood",
    "v": "void",
    "b": "bare",
    "s": "shiny",
}
"""Letter of what a field shows -> its word: glue, torn wood, a void, bare wood that no glue reached, shiny glue that
never touched.
"""
UNSEEN = "."
GRIDS = ((6, 4), (12, 8), (24, 16))
"""Columns and rows of the grids that a face is judged on."""
STEP_WORDS: dict[int, str] = {
    0: "no wood to be seen: glue or bare line all over",
    25: "fibres here and there, mostly glue",
    50: "about as much wood as glue",
    75: "mostly wood, glue shows in places",
    100: "wood all over, or the break is beside the line",
}
"""Wood failure in steps, for those in a hurry, % -> what is seen."""


@dataclass(frozen=True)
class FaceMap:
    """What the fields of a face show, row by row from the upper left, one letter each (``UNSEEN``: not judged)."""

    columns: int
    rows: int
    cells: str

    @property
    def shares(self) -> dict[str, float]:
        """Share of each kind among the judged fields, %."""
        seen = [c for c in self.cells if c != UNSEEN]
        return {k: 100 * seen.count(k) / len(seen) for k in KINDS if k in seen}

    def mirrored(self) -> str:
        """Its cells seen from the other side."""
        rows = (self.cells[i : i + self.columns] for i in range(0, len(self.cells), self.columns))
        return "".join(row[::-1] for row in rows)


def checked(columns: int, rows: int, cells: str, field: str) -> FaceMap:
    """A map; ``Refusal`` for a grid that is none, or fields of no kind."""
    if (columns, rows) not in GRIDS:
        able = ", ".join(f"{c} x {r}" for c, r in GRIDS)
        raise refuse(field, f"{columns} x {rows} is no grid of a face", f"Use one of: {able}.")
    if len(cells) != columns * rows or set(cells) - {*KINDS, UNSEEN}:
        raise refuse(field, "does not say of every field what it shows", "Paint it anew.")
    return FaceMap(columns, rows, cells)


def wood_pct(maps: Mapping[str, FaceMap]) -> float | None:
    """Wood failure of a joint from the maps of its faces (A, B), %: fields where either face shows wood, of those that
    are judged on any; ``None`` without one.
    """
    a, b = maps.get("A"), maps.get("B")
    if a is not None and b is not None and (a.columns, a.rows) == (b.columns, b.rows):
        pairs = list(zip(a.cells, b.mirrored(), strict=True))
    else:
        pairs = [(c, UNSEEN) for m in maps.values() for c in m.cells]
    judged = [p for p in pairs if p != (UNSEEN, UNSEEN)]
    return 100 * sum("w" in p for p in judged) / len(judged) if judged else None


@dataclass(frozen=True)
class Verdict:
    """What an assessor found of a joint's faces: the wood failure, %, ``how`` (by a map, in steps, typed, or at the
    break), the maps by side, and what a photo had proposed, %.
    """

    assessor: str
    at: datetime
    how: str
    wood_pct: float
    maps: Mapping[str, FaceMap] = field(default_factory=dict)
    proposed_pct: float | None = None


def counting(verdicts: Sequence[Verdict]) -> list[Verdict]:
    """Of each assessor the last verdict."""
    return list({v.assessor: v for v in verdicts}.values())


def verdict_of(value: Mapping[str, Any], at: datetime) -> Verdict:
    """A stored verdict."""
    maps = {side: FaceMap(*m) for side, m in value["maps"].items()}
    proposed = {s: replace(maps[s], cells=c) for s, c in value.get("proposed", {}).items() if s in maps}
    return Verdict(
        str(value["assessor"]), at, str(value["how"]), float(value["wood_pct"]), maps,
        wood_pct({**maps, **proposed}) if proposed else None,
    )  # fmt: skip


@dataclass(frozen=True)
class Agreement:
    """How far several assessors agree about the same faces: pairs of verdicts, their mean difference and the largest,
    in points of wood failure, and the share (%) of pairs within ten points.
    """

    faces: int
    pairs: int
    mean_off: float
    most_off: float
    within_ten_pct: float


def agreement(verdicts: Sequence[Mapping[str, float]]) -> Agreement | None:
    """Agreement over pieces: each with the wood failure (%) by assessor. ``None`` where nobody judged the same one."""
    twice = [v for v in verdicts if len(v) > 1]
    off = [abs(x - y) for v in twice for x, y in combinations(v.values(), 2)]
    if not off:
        return None
    near = 100 * sum(o <= 10 for o in off) / len(off)
    return Agreement(len(twice), len(off), sum(off) / len(off), max(off), near)
