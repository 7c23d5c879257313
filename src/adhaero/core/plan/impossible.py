"""Cells of the grid that cannot be made, or that would only repeat another one, with the reason."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from adhaero.core.glue.pressing import CLAMPLESS
from adhaero.core.plan.document import Level, Plan, level_text
from adhaero.core.plan.fields import FIELDS
from adhaero.core.plan.glues import is_glued
from adhaero.core.plan.records import cell_ids, cells, record_of

ABOUT_THE_GLUE = ("glue_state", "additive", "faces", "spread_g_m2", "open_s")
"""Fields that say nothing where there is no glue."""


@dataclass(frozen=True)
class Impossible:
    """Cells (by ids) that cannot be, and why."""

    reason: str
    cells: tuple[Mapping[str, str], ...]


def impossible(plan: Plan) -> list[Impossible]:
    """The cells still made that cannot be, by reason. Assumes that every factor has levels."""
    found: dict[str, list[Mapping[str, str]]] = {}
    for cell in cells(plan):
        reason = _reason(plan, cell, record_of(plan, cell))
        if reason:
            found.setdefault(reason, []).append(cell_ids(plan, cell))
    return [Impossible(reason, tuple(those)) for reason, those in found.items()]


def _reason(plan: Plan, cell: tuple[int, ...], record: Mapping[str, Level]) -> str:
    # A constant that is not stated yet is a problem of its own, and tells nothing here.
    clamp, cure, glue = (record[k].value if k in record else None for k in ("clamp_s", "cure_s", "glue"))
    if isinstance(clamp, float | int) and isinstance(cure, float | int) and clamp > cure:
        return "they would be broken while still in the clamp"
    beyond_first = {f.key for f, place in zip(plan.factors, cell, strict=True) if place > 0}
    if "glue" in record and not is_glued(glue):
        again = [FIELDS[k].name.lower() for k in ABOUT_THE_GLUE if k in beyond_first]
        if again:
            return f"without glue they have no {' or '.join(again)}"
    if level_text(record.get("press_by")) in CLAMPLESS and "clamp_s" in beyond_first:
        return "without a clamp there is no clamp time"
    return ""
