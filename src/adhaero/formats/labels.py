"""Labels for the halves: a code that can be read by eye and by a scanner."""

from __future__ import annotations

from dataclasses import dataclass

import segno


@dataclass(frozen=True)
class Symbol:
    """A square 2D code (QR, error correction M): ``path`` draws its dark modules in a box of ``size`` modules."""

    path: str
    size: int


def symbol(text: str) -> Symbol:
    """The 2D code of a text, with its quiet zone of four modules."""
    code = segno.make(text, micro=False, error="m")
    rows = [bytes(row) for row in code.matrix_iter(border=4)]
    path = []
    for y, row in enumerate(rows):
        x = 0
        while x < len(row):
            run = x
            while run < len(row) and row[run]:
                run += 1
            if run > x:
                path.append(f"M{x} {y}h{run - x}v1h-{run - x}z")
            x = max(run, x + 1)
    return Symbol("".join(path), len(rows))
