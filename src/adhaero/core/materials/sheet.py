"""Sheet goods: what a board of plies bears across the grain of its faces, as a share of what it bears along it.

Plies of one thickness, each crosswise to the next, the outer ones with the grain of the faces. Only the plies that lie
along the load count, and the outermost of them gives way first (Wood Handbook, chapter 12: strength of plywood by its
parallel plies).
"""

from __future__ import annotations

MOST_PLIES = 60


def bent_across(plies: int) -> float:
    """In bending: section modulus of the cross plies over that of the plies along the faces. 0 plies: a board without
    a grain (of fibres or chips), alike in every direction. ``ValueError`` for 1 or 2, which have no cross ply inside.
    """
    if plies == 0:
        return 1.0
    if plies < 3:
        raise ValueError(f"{plies} plies are no sheet")
    # In units of the thickness of a ply, from the middle of the board.
    centres = [i - (plies - 1) / 2 for i in range(plies)]

    def modulus(own: list[float]) -> float:
        outermost = max(abs(d) for d in own) + 0.5
        return sum(1 / 12 + d * d for d in own) / outermost

    return modulus(centres[1::2]) / modulus(centres[::2])


def pulled_across(plies: int) -> float:
    """In tension within the sheet: cross plies over plies along the faces."""
    return 1.0 if plies == 0 else (plies // 2) / (plies - plies // 2)
