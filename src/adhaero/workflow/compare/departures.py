"""The pieces that left the plan's own tolerances, and what it wants held and nobody noted."""

from __future__ import annotations

from dataclasses import dataclass

from adhaero.core.plan.fields import FIELDS
from adhaero.core.tolerances import WATCHED, not_noted
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.piece_records import flags, piece_record


@dataclass(frozen=True)
class Departed:
    """A piece made or broken outside of the plan's tolerance, in words."""

    code: str
    treatment: str
    text: str


def departed(record: BatchRecord) -> list[Departed]:
    """The pieces with a flag of a field that the plan states a tolerance of, in plan order."""
    stated = {WATCHED[f].flag for f in record.plan.tolerances if f in WATCHED}
    if not stated:
        return []
    return [
        Departed(s.code, record.treatments[s.treatment_id].letter, flag.text)
        for s in record.counting
        for flag in flags(record, s)
        if flag.kind in stated
    ]


def missing(record: BatchRecord) -> list[str]:
    """Of every field that the plan wants held: of how many pieces nothing is on record."""
    if not record.plan.tolerances:
        return []
    without: dict[str, int] = {}
    for s in record.counting:
        for field in not_noted(piece_record(record, s)):
            without[field] = without.get(field, 0) + 1
    return [
        f"{FIELDS[f].name} was not noted for {n} joint{'s' * (n != 1)}: whether it was held is not known"
        for f, n in without.items()
    ]
