"""Boards that are shared: what one batch has ripped is gone for the next, and pieces that come later find room."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from adhaero.core.cut.cutlist import CutBlank, Cutting, Wanted, balance_of, cutting
from adhaero.core.cut.layout import Board, Rect, Saw


def bands(rects: Iterable[Rect], board: Board, kerf: float) -> tuple[Rect, ...]:
    """The strips that blanks at ``rects`` lie in, kerfs included: a rip cut runs the whole length of the board."""
    lines = sorted({(r.y, r.width) for r in rects})
    return tuple(Rect(0.0, y - kerf, board.length_mm, width + 2 * kerf) for y, width in lines)


def without(board: Board, rects: Iterable[Rect], kerf: float) -> Board:
    """The board with the strips of other blanks left out."""
    return replace(board, defects=board.defects + bands(rects, board, kerf))


def left_over(blanks: Sequence[CutBlank], like: Sequence[tuple[str, float, float]]) -> list[list[CutBlank]]:
    """Runs of empty neighbours in one strip with these (side, length, width): places for one more such piece."""
    empty = [b for b in blanks if b.code == ""]
    runs = [empty[i : i + len(like)] for i in range(len(empty) - len(like) + 1)]

    def fits(run: Sequence[CutBlank]) -> bool:
        one_strip = len({(b.board_id, b.strip) for b in run}) == 1
        return one_strip and [(b.side, b.rect.length, b.rect.width) for b in run] == list(like)

    return [r for r in runs if fits(r)]


def given(blanks: Sequence[CutBlank], run: Sequence[CutBlank], code: str) -> list[CutBlank]:
    """The blanks with those of a run given to a piece (or marked as spoiled)."""
    own = {id(b) for b in run}
    return [replace(b, code=code) if id(b) in own else b for b in blanks]


def with_more(
    old: Cutting, missing: Sequence[Wanted], every: Sequence[Wanted], boards: Sequence[Board], saw: Saw, seed: int
) -> Cutting:
    """The plan at the saw with places for the ``missing`` pieces: left-over ones first, then new strips.

    What is laid out already stays where it is: it may have been cut. ``every`` are all pieces of the batch.
    """
    blanks, spare, rest = list(old.blanks), old.spare, []
    by_id = {b.id: b for b in boards}
    for w in missing:
        run = None
        for board in (b for b in boards if b.species == w.species):
            strip = w.need.strip_mm(board)
            like = [(b.side, b.length_mm, strip or 0.0) for b in w.need.blanks]
            run = next((r for r in left_over(blanks, like) if r[0].board_id == board.id), None)
            if run:
                break
        if run is None:
            rest.append(w)
        else:
            blanks, spare = given(blanks, run, w.code), spare - 1
    free = [without(b, (x.rect for x in blanks if x.board_id == b.id), saw.kerf) for b in boards]
    new = cutting(rest, free, seed)
    first = {b: 1 + max((x.strip for x in blanks if x.board_id == b), default=-1) for b in by_id}
    blanks += [replace(b, strip=b.strip + first[b.board_id]) for b in new.blanks]
    treatment = {w.code: w.treatment for w in every}
    table: dict[int, dict[int, int]] = {}
    for code, board_id in {(b.code, b.board_id) for b in blanks if b.code in treatment}:
        row = table.setdefault(treatment[code], {})
        row[board_id] = row.get(board_id, 0) + 1
    used = set(old.boards) | set(new.boards)
    balance = balance_of(table, used, every)
    return Cutting(blanks, sorted(used), table, balance, spare + new.spare, old.lower_bound, new.short)
