"""Pieces that are made as one: sawn from a panel or a beam after gluing, or glued side by side on a backing board.

The parent is cut, glued, labelled and clamped as one. What it measures follows from its pieces: a panel is as long as
its sections side by side, with a cut of the saw before, between and after them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from adhaero.core.cut.blanks import Blank, blanks, step_mm

PANEL, BEAM, BACKING = "panel", "beam", "backing"
SHEAR_BLOCK = "compression-shear"


@dataclass(frozen=True)
class Kind:
    """What a parent is called, and its pieces; ``along`` is the size of a piece that runs along the parent.

    A ``sawn`` one is glued as a whole and cut into its pieces afterwards.
    """

    name: str
    piece: str
    along: str
    sawn: bool
    between_mm: float
    methods: tuple[str, ...]


KINDS: Mapping[str, Kind] = {
    PANEL: Kind(
        "Panel", "section", "width", True, 3.0,
        ("edge-fold", SHEAR_BLOCK, "lap-tension", "lap-tension-double", "butt-pull", "bend-three-point",
         "bend-four-point", "corner-pull", "pry"),
    ),
    BEAM: Kind("Beam", "block", "overlap", True, 3.0, (SHEAR_BLOCK,)),
    BACKING: Kind("Backing board", "block", "overlap", False, 10.0, (SHEAR_BLOCK, "pry")),
}  # fmt: skip
"""``between_mm`` is usual between two pieces: a cut of the saw, or room for the fixture."""


@dataclass(frozen=True)
class Parents:
    """How the pieces of a plan are made together: ``each`` of every treatment in one parent. ``within`` are the factors
    whose levels share a parent; of the others each combination has parents of its own. ``length_mm`` is the parent's
    own length where it is stated, ``between_mm`` what lies between two pieces.
    """

    kind: str
    each: int = 1
    within: tuple[str, ...] = ()
    length_mm: float | None = None
    between_mm: float = 3.0


def kinds_for(method: str) -> tuple[str, ...]:
    """The kinds of parents that pieces of a method can come from."""
    return tuple(key for key, kind in KINDS.items() if method in kind.methods)


def counted_pieces(kind: str, n: int) -> str:
    """So many pieces in words: 3 sections."""
    return f"{n} {KINDS[kind].piece}{'s' * (n != 1)}"


def needed_mm(p: Parents, pieces: int, method: str, sizes: Mapping[str, float]) -> float:
    """The length that a parent takes for its pieces: each as long as it is, with what lies between them and at both
    ends. A shear block stands out by a step at either end, which is sawn out of the beam.
    """
    step = 2 * step_mm(sizes["overlap"]) if p.kind == BEAM and method == SHEAR_BLOCK else 0.0
    return pieces * (sizes[KINDS[p.kind].along] + step) + (pieces + 1) * p.between_mm


def length_mm(p: Parents, pieces: int, method: str, sizes: Mapping[str, float]) -> float:
    """The length of a parent: as stated, or as its pieces take."""
    return p.length_mm if p.length_mm is not None else needed_mm(p, pieces, method, sizes)


def line_sizes(p: Parents, pieces: int, method: str, sizes: Mapping[str, float]) -> dict[str, float]:
    """The sizes of what is glued and pressed at once: those of the whole parent where it is sawn afterwards."""
    kind = KINDS[p.kind]
    return {**sizes, kind.along: length_mm(p, pieces, method, sizes)} if kind.sawn else dict(sizes)


def parent_blanks(
    p: Parents, pieces: int, method: str, sizes: Mapping[str, float], form: str, loaded: Sequence[str] = ()
) -> tuple[Blank, ...]:
    """The blanks of a parent: both strips of a panel or beam; the board alone of a backing board."""
    long = length_mm(p, pieces, method, sizes)
    kind = KINDS[p.kind]
    if kind.sawn:
        found = blanks(method, "joint", {**sizes, kind.along: long}, form, loaded)
        # A shear block's blank is a step longer than its overlap; a beam is as long as it is.
        return tuple(replace(b, length_mm=long) for b in found) if p.kind == BEAM and method == SHEAR_BLOCK else found
    return (Blank("a", long, sizes["width"], sizes["thickness"]),)


def block_blanks(method: str, sizes: Mapping[str, float], form: str, loaded: Sequence[str] = ()) -> tuple[Blank, ...]:
    """The blanks of a piece on a backing board: all but the board; a shear block lies on it with its whole face."""
    own = blanks(method, "joint", sizes, form, loaded)[1:]
    return tuple(replace(b, length_mm=sizes["overlap"]) for b in own) if method == SHEAR_BLOCK else own
