"""Rip and crosscut plan: where on a board every blank comes from.

A board is ripped into strips along its grain, the strips are crosscut into places, each for the blanks of one piece:
mating halves lie beside each other, so that both come from the same wood. Rip lines are set by dynamic programming
over the width of the board (one millimetre steps), so that strips dodge defects and edges.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from adhaero.core.cut.blanks import Blank


@dataclass(frozen=True)
class Rect:
    """A rectangle on a board, mm: x along the grain from the left end, y across from the lower edge."""

    x: float
    y: float
    length: float
    width: float

    def overlaps(self, other: Rect) -> bool:
        """Whether two rectangles share more than a border."""
        return (
            self.x < other.x + other.length - 1e-9
            and other.x < self.x + self.length - 1e-9
            and self.y < other.y + other.width - 1e-9
            and other.y < self.y + self.width - 1e-9
        )


@dataclass(frozen=True)
class Board:
    """A board in the rough, mm, with the defects to leave out."""

    id: int
    label: str
    species: str
    length_mm: float
    width_mm: float
    thickness_mm: float
    defects: tuple[Rect, ...] = ()


@dataclass(frozen=True)
class Saw:
    """How it is cut, mm: kerf, what is trimmed off both ends and both edges, and what planing and jointing take."""

    kerf: float = 3.0
    end_trim: float = 25.0
    edge_trim: float = 5.0
    planing: float = 2.0
    jointing: float = 1.0


@dataclass(frozen=True)
class Need:
    """The blanks of one kind of piece, as they are cut from one place of a strip."""

    blanks: tuple[Blank, ...]
    saw: Saw

    @cached_property
    def length_mm(self) -> float:
        """Length of the place: the blanks one after the other with a kerf after each."""
        return sum(b.length_mm + self.saw.kerf for b in self.blanks)

    @cached_property
    def _section(self) -> tuple[float, float]:
        return max(b.width_mm for b in self.blanks), max(b.thickness_mm for b in self.blanks)

    def strip_mm(self, board: Board) -> float | None:
        """Width of the strip to rip from a board; ``None`` if the board is too thin either way.

        Where the board is too thin for the thickness the strip is turned on its edge; the grain stays as it is.
        """
        width, thickness = self._section
        room = board.thickness_mm - self.saw.planing
        if thickness <= room + 1e-9:
            return width + self.saw.jointing
        return thickness + self.saw.jointing if width <= room + 1e-9 else None


TOO_THIN, TOO_NARROW, TOO_SHORT, TAKEN = "too thin", "too narrow", "too short", "taken up"


def unfit(board: Board, need: Need) -> str | None:
    """Why not a single piece comes out of a board: too thin, narrow or short in itself, or taken up by other pieces and
    defects; ``None`` where one does.
    """
    strip = need.strip_mm(board)
    if strip is None:
        return TOO_THIN
    if strip > board.width_mm - 2 * need.saw.edge_trim + 1e-9:
        return TOO_NARROW
    if need.length_mm - need.saw.kerf > board.length_mm - 2 * need.saw.end_trim + 1e-9:
        return TOO_SHORT
    return None if places(board, need) else TAKEN


@dataclass(frozen=True)
class Place:
    """Room for the blanks of one piece: a rectangle on a board, kerfs included."""

    board_id: int
    rect: Rect
    strip: int

    def blanks(self, need: Need) -> list[tuple[Blank, Rect]]:
        """Where each blank lies within the place, its kerf left out."""
        found, x = [], self.rect.x
        for b in need.blanks:
            found.append((b, Rect(x, self.rect.y, b.length_mm, self.rect.width)))
            x += b.length_mm + need.saw.kerf
        return found


def _runs(board: Board, saw: Saw, y: float, width: float) -> list[tuple[float, float]]:
    """Stretches (from, to) of a strip at ``y`` that are free of defects, a kerf away from them, ends trimmed."""
    runs, start, end = [], saw.end_trim, board.length_mm - saw.end_trim
    in_strip = [d for d in board.defects if d.y < y + width and y < d.y + d.width]
    for d in sorted(in_strip, key=lambda d: d.x):
        if min(d.x - saw.kerf, end) > start:
            runs.append((start, min(d.x - saw.kerf, end)))
        start = max(start, d.x + d.length + saw.kerf)
    if end > start:
        runs.append((start, end))
    return runs


def places(board: Board, need: Need, low: float | None = None, first_strip: int = 0) -> list[Place]:
    """The most places of one kind that a board has above ``low`` (mm from its lower edge), strip by strip."""
    saw, strip = need.saw, need.strip_mm(board)
    if strip is None:
        return []
    bottom = saw.edge_trim if low is None else low
    # The last strip needs no kerf after it: the edge is trimmed anyway.
    steps = max(0, int(board.width_mm - saw.edge_trim - bottom + saw.kerf))
    width = strip + saw.kerf

    def count(y: float) -> int:
        # The last kerf of a run may fall into the trim or the defect's margin.
        return sum(int((b - a + saw.kerf + 1e-9) // need.length_mm) for a, b in _runs(board, saw, y, strip))

    # best[i]: most places in the first i millimetres; a strip ends at i, or that millimetre is waste.
    best, taken = [0] * (steps + 1), [False] * (steps + 1)
    reach = int(-(-width // 1))
    for i in range(1, steps + 1):
        best[i] = best[i - 1]
        begin = i - reach
        if begin >= 0:
            gained = best[begin] + count(bottom + begin)
            if gained > best[i]:
                best[i], taken[i] = gained, True
    lines, i = [], steps
    while i > 0:
        if taken[i]:
            i -= reach
            lines.append(bottom + i)
        else:
            i -= 1
    return [p for n, y in enumerate(reversed(lines), first_strip) for p in _strip(board, need, y, strip, n)]


def _strip(board: Board, need: Need, y: float, width: float, number: int) -> list[Place]:
    found = []
    for a, b in _runs(board, need.saw, y, width):
        many = int((b - a + need.saw.kerf + 1e-9) // need.length_mm)
        found += [
            Place(board.id, Rect(a + i * need.length_mm, y, need.length_mm - need.saw.kerf, width), number)
            for i in range(many)
        ]
    return found


def fewest_boards(capacities: Sequence[int], needed: int) -> int | None:
    """The least number of boards that can hold ``needed`` places; ``None`` if all together cannot."""
    total = 0
    for count, capacity in enumerate(sorted(capacities, reverse=True), 1):
        total += capacity
        if total >= needed:
            return count
    return None if needed else 0
