"""What the curves of pulls and readings show, as it stands: where a person put marks, else where the machine did."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from adhaero.core.breaking.proposal import EXACT, Proposal
from adhaero.core.breaking.trace import Course, course_from_json
from adhaero.core.observation import Kind
from adhaero.store.observations import Observed
from adhaero.workflow.batch_record import MARKS_EVENT, BatchRecord


def course_of(record: BatchRecord, pull_id: int, proposal: Proposal | None = None) -> Course | None:
    """What the curve of a pull shows, with its marks where they were put last; of a pull that has only just ended its
    ``proposal``.
    """
    found = proposal or record.shown.get(pull_id)
    return record.moved_courses.get(pull_id) or (found.course if found else None)


def course_of_reading(record: BatchRecord, o: Observed) -> Course | None:
    """What the curve behind a reading showed; of one from a file what the file says of it."""
    if o.pull_id is not None:
        # What was typed over a curve says nothing of where its marks are.
        return course_of(record, o.pull_id) if o.source == "rig" else None
    told = _from_file(record, o.specimen_id)
    return course_from_json(told["course"]) if told else None


def signal_error_of(record: BatchRecord, o: Observed) -> float | None:
    """How far off an exact load may be by the noise and the sampling of its signal, in N; ``None``: not known."""
    if o.observation.kind is not Kind.EXACT:
        return None
    if o.pull_id is None:
        told = _from_file(record, o.specimen_id) if o.source == "file" else None
        return told.get("signal_error_n") if told else None
    shown = record.shown.get(o.pull_id) if o.source == "rig" else None
    return shown.uncertainty_n if shown is not None and shown.kind == EXACT else None


def _from_file(record: BatchRecord, specimen_id: int) -> Mapping[str, Any] | None:
    e = record.last(specimen_id, MARKS_EVENT)
    return e.value if e is not None and not e.value["pull"] else None


def moved_by_hand(record: BatchRecord, o: Observed) -> list[str]:
    """The marks of a reading's curve that do not lie where the machine put them."""
    if o.pull_id is None:
        return list((_from_file(record, o.specimen_id) or {}).get("by_hand", ()))
    return moved_on(record, o.pull_id)


def moved_on(record: BatchRecord, pull_id: int) -> list[str]:
    """The same, of a pull."""
    stands, proposal = record.moved_courses.get(pull_id), record.shown.get(pull_id)
    proposed = proposal.course.marks if proposal is not None and proposal.course is not None else {}
    return [k for k, m in stands.marks.items() if proposed.get(k) != m] if stands is not None else []
