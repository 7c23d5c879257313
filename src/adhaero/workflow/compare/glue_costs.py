"""What the glue of each treatment costs, and how much strength a unit of money buys."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from adhaero.core.materials.bottle import cost_of_joint
from adhaero.core.plan.document import Level
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.piece_records import piece_record


@dataclass(frozen=True)
class GlueCost:
    """A treatment's glue: grams and money for a joint (means over its joints), and the mean figure for one unit of
    money. ``weighed`` is whether the spread was measured for every joint; else the planned or usual one stands in.
    """

    letter: str
    glue_g: float
    money: float
    per_money: float | None
    weighed: bool


def glue_costs(record: BatchRecord, means: Mapping[str, float | None]) -> list[GlueCost]:
    """Of every treatment whose joints all come from bottles with a price; ``means`` are its figures by letter."""
    found = []
    joints: dict[int, list[Specimen]] = {}
    for s in record.counting:
        if s.id in record.members:
            joints.setdefault(s.treatment_id, []).append(s)
    for t in record.treatments.values():
        costs = [of_joint(record, s) for s in joints.get(t.id, ())]
        known = [c for c in costs if c is not None]
        if not known or len(known) < len(costs):
            continue
        grams, money = (sum(c[i] for c in known) / len(known) for i in (0, 1))
        mean = means.get(t.letter)
        per = mean / money if mean is not None and money > 0 else None
        found.append(GlueCost(t.letter, grams, money, per, all(c[2] for c in known)))
    return found


def of_joint(record: BatchRecord, s: Specimen) -> tuple[float, float, bool] | None:
    """Grams, money, and whether the spread was measured; ``None`` without a bottle that has a price and a pack."""
    bottle = record.bottles.get(record.bottle(s))
    if bottle is None or bottle[0].price is None or bottle[0].pack_g is None:
        return None
    p = piece_record(record, s)
    measured = p.gluing.spread_g_m2 if p.gluing else None
    planned = (record.level(s, "spread_g_m2") or Level(None)).value
    usual = planned if isinstance(planned, float | int) else record.plan.costs.spread_g_m2
    spread = measured if measured is not None else float(usual)
    money = cost_of_joint(p.area_mm2, spread, bottle[0].price, bottle[0].pack_g)
    return p.area_mm2 * 1e-6 * spread, money, measured is not None
