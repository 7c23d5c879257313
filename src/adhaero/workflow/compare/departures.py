"""The joints that left the plan's tolerances."""

from __future__ import annotations

from dataclasses import dataclass

from adhaero.core.glue.departures import Departure, departures
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.piece_records import piece_record


@dataclass(frozen=True)
class Departed:
    """A piece made or broken outside of the plan's tolerance, in words."""

    code: str
    treatment: str
    text: str


def departed(record: BatchRecord) -> list[Departed]:
    """The joints that left the plan's tolerances, in plan order."""
    if not record.plan.tolerances:
        return []
    found = []
    for s in record.counting:
        for d in record.row("departed", s, _departures):
            text = d.in_words(record.units)
            found.append(Departed(s.code, record.treatments[s.treatment_id].letter, text))
    return found


def _departures(record: BatchRecord, s: Specimen) -> list[Departure]:
    p = piece_record(record, s)
    if p.gluing is None:
        return []
    actual = {
        "pressure_mpa": p.gluing.pressure_mpa,
        "clamp_s": p.gluing.clamped_s,
        "cure_s": p.age_s,
        "air_c": p.gluing.air_c,
        "spread_g_m2": p.gluing.spread_g_m2,
    }
    return departures({k: p.levels.get(k) for k in record.plan.tolerances}, actual, record.plan.tolerances)
