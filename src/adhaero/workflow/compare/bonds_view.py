"""Bond and wood of each treatment of a batch, from the records of its pieces."""

from __future__ import annotations

import math
from dataclasses import dataclass

from adhaero.core.compare.bonds import Bonds, Broken, bonds
from adhaero.core.piece_record import Known, datum
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import AppContext
from adhaero.workflow.piece_records import piece_record
from adhaero.workflow.record_loading import load


@dataclass(frozen=True)
class BondsView:
    """All treatments of joints; figures in the base unit of the strength."""

    mixed_at_pct: float
    dimension: str
    rows: list[Bonds]


def bonds_of(w: AppContext, batch_id: int) -> BondsView:
    """The bond and the wood of every treatment that is broken."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
    own: dict[int, list[Broken]] = {}
    for s in record.counting:
        if s.role != "solid" and (one := _broken(record, s)) is not None:
            own.setdefault(s.treatment_id, []).append(one)
    at = record.plan.assumptions.mixed_at_pct
    rows = [bonds(t.letter, own[t.id], at) for t in record.treatments.values() if t.id in own]
    return BondsView(at, record.method.figure_dimension.value, rows)


def _broken(record: BatchRecord, s: Specimen) -> Broken | None:
    p = piece_record(record, s)
    d = datum(p, "joint")
    if p.reading is None or not d.counts or d.known is Known.BELOW:
        return None
    o = p.reading.observation
    return Broken((d.low, d.high), o.failure_mode, p.wood_failure_pct, math.isfinite(d.high))
