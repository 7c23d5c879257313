"""What the signal of a pull gives for the reading of its piece, where nothing was typed."""

from __future__ import annotations

from dataclasses import replace

from adhaero.core.breaking.proposal import BOUNDS, EXACT, UNSURE, Proposal
from adhaero.core.breaking.trace import PEAK
from adhaero.core.observation import Kind, Observation
from adhaero.core.refusal import refuse
from adhaero.store.pulls import Pull
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.courses import course_of, moved_on

FROM_SIGNAL = (Kind.EXACT, Kind.BETWEEN, Kind.AT_LEAST, Kind.HELD)


def from_signal(
    record: BatchRecord, pull: Pull | None, o: Observation, tare_n: float
) -> tuple[Observation, float | None]:
    """Take loads that were not typed from the signal, plus the dead load (``tare_n``). Returns the first crack too, N.
    Raises ``Refusal`` if the signal does not give what is asked of it.
    """
    found = pull.proposal if pull else None
    if found is None:
        return o, None
    if o.low_n is None and o.high_n is None and o.kind in FROM_SIGNAL:
        if found.kind is None:
            # The highest sample is only noise.
            raise refuse("low", "this pull shows no load", "Pull again, or type the load that was read elsewhere.")
        refuse_as_exact(found, o.kind)
        by_hand = pull is not None and PEAK in moved_on(record, pull.id)
        course = course_of(record, pull.id, found) if pull else None
        highest = course.marks[PEAK].load_n if course and by_hand else found.reading.peak_n
        o = _with_loads(o, found, highest, by_hand, tare_n)
    crack = found.reading.first_crack_n
    return o, None if crack is None else crack + tare_n


def _with_loads(o: Observation, found: Proposal, highest: float, by_hand: bool, tare_n: float) -> Observation:
    """Return the observation with its loads from the signal plus the dead load. A peak moved by hand is used as is."""
    low = highest if by_hand or found.low_n is None else found.low_n
    if o.kind is Kind.EXACT:
        low, high = highest, highest
    elif o.kind is Kind.BETWEEN and found.high_n is not None and found.high_n > low:
        high = found.high_n
    else:
        return replace(o, low_n=round(low + tare_n, 3), high_n=None)
    return replace(o, low_n=round(low + tare_n, 3), high_n=round(high + tare_n, 3))


def refuse_as_exact(found: Proposal, kind: Kind) -> None:
    """Raise ``Refusal`` if a load is to be saved as exact and the signal gives only a bound."""
    if kind in (Kind.EXACT, Kind.HELD) and found.kind != EXACT and found.bound_by in UNSURE:
        raise refuse(
            "kind",
            f"this pull gives no exact load: {BOUNDS[found.bound_by or '']}",
            "Choose 'it broke between' or 'it held, at least', or type the peak that another instrument showed.",
        )
