"""Chooses a fraction of a plan's grid."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

from adhaero.core.plan.document import Cell
from adhaero.core.plan.fraction import PARTS, fraction, least
from adhaero.core.plan.records import cell_ids
from adhaero.core.refusal import refuse
from adhaero.store import batches
from adhaero.workflow.context import AppContext


@dataclass(frozen=True)
class Fraction:
    """``dropped`` lists the cells to leave out (factor key -> level id); ``made`` of ``of`` combinations are kept."""

    dropped: list[Cell]
    made: int
    of: int


def choose(w: AppContext, batch_id: int, part: str) -> Fraction:
    """Return a fraction of the grid of a batch's plan. ``Refusal`` where it can't be made so small."""
    if part not in PARTS:
        raise refuse("part", f"{part[:20]!r} is no fraction", "Use one of: " + ", ".join(PARTS) + ".")
    with w.db.read() as conn:
        version = batches.current_version(conn, batch_id)
    if version is None:
        raise refuse("batch", "does not exist", "Choose one from Today.")
    plan = version.plan
    levels = [len(f.levels) for f in plan.factors]
    if not levels or min(levels) < 2:
        raise refuse("factors", "has too few levels", "Give every factor at least two levels first.")
    made = fraction(levels, PARTS[part])
    if not made:
        raise refuse("part", f"a {part} is too small for these factors",
                     f"To tell every factor apart you need at least {least(levels)} combinations.")  # fmt: skip
    kept, grid = set(made), list(product(*(range(n) for n in levels)))
    return Fraction([cell_ids(plan, c) for c in grid if c not in kept], len(made), len(grid))
