"""What is asked about a reading before it is saved; answered with yes, it stays flagged."""

from __future__ import annotations

import math
import re
import sqlite3
from decimal import Decimal

from adhaero.core.breaking.proposal import Proposal
from adhaero.core.breaking.signal import SATURATED
from adhaero.core.breaking.trace import PEAK
from adhaero.core.flags import PULLED_MARK
from adhaero.core.observation import WOOD_MODES, Kind, Observation, wood_failure
from adhaero.core.quantity import Dimension, parse, unit
from adhaero.core.refusal import Doubts, Refusal
from adhaero.core.units import Units, as_typed
from adhaero.store import pulls
from adhaero.store.pulls import Pull
from adhaero.store.rigs import SetUp
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord

OVER_CAPACITY, OVER_SHARE = "over capacity", "over working share"
AT_CAPACITY, OFF_STEP = "at capacity", "finer than the step"
FACE_DIFFERS, TWO_PEAKS, VERY_LOW = "face differs", "two peaks", "very low"
OF_LOAD = (OVER_CAPACITY, OVER_SHARE, AT_CAPACITY, OFF_STEP, TWO_PEAKS, VERY_LOW)
"""Flags that no longer apply once the load is typed again."""
WITH_LOAD = (Kind.EXACT, Kind.BETWEEN, Kind.AT_LEAST, Kind.HELD, Kind.PROOF)
GLUE_MODES = frozenset({"interface", "in-glue"})
ANYWAY = "If you save it anyway, it will be flagged."
HALF_PCT = 50.0
FINE_SHARE = 0.001
"""A step below this share of the load makes no difference: a load between two marks is flagged without a question."""


def ask_range(record: BatchRecord, o: Observation, used: SetUp | None, doubts: Doubts) -> list[str]:
    """Ask about a typed load beyond the rig's range, or at its end; returns what is to be flagged."""
    load = max((v for v in (o.low_n, o.high_n) if v is not None), default=0.0)
    if used is None or o.kind not in WITH_LOAD:
        return []
    typed, most = (record.units.typed(v, Dimension.FORCE) for v in (load, used.capacity_n))
    if load > used.capacity_n * (1 + 1e-9):
        message = f"{typed} is above what {used.rig} can read ({most})"
        remedy = "Check the number and its unit, choose 'at least', or name the other rig under Shop."
        doubts.ask(OVER_CAPACITY, message, remedy)
        return [OVER_CAPACITY]
    if o.kind is Kind.EXACT and load >= SATURATED * used.capacity_n:
        message = f"{typed} is the most that {used.rig} can read: the piece may have carried more"
        doubts.ask(AT_CAPACITY, message, "Choose 'It held, at least'. If you save it as exact, it will be flagged.")
        return [AT_CAPACITY]
    return [OVER_SHARE] if load > used.limit_n * (1 + 1e-9) else []


def ask_step(
    texts: tuple[str, str], loads: tuple[float | None, float | None], used: SetUp | None, units: Units, doubts: Doubts
) -> list[str]:
    """Ask about a typed load that its gauge cannot show; returns what is to be flagged.

    A load is finer than the step if it is typed more finely than the gauge reads and lies between two of its marks.
    """
    if used is None:
        return []
    i = used.instrument
    for text, load in zip(texts, loads, strict=True):
        digit = _last_digit_n(text, used, units)
        if load is None or digit is None or digit >= 0.99 * used.resolution_n:
            continue
        shown = load - i.carried_n
        off = abs(shown - round(shown / used.resolution_n) * used.resolution_n)
        if off > 0.5 * digit + 1e-6 * used.resolution_n:
            if used.resolution_n < FINE_SHARE * load:
                return [OFF_STEP]
            own = units.symbol(Dimension.FORCE) if i.dimension is Dimension.FORCE else i.unit
            step = as_typed(used.resolution_n / i.factor, i.dimension, own)
            message = f"{text.strip()} lies between two marks of {used.rig}, which reads in steps of {step}"
            doubts.ask(OFF_STEP, message, f"Check the number. {ANYWAY}")
            return [OFF_STEP]
    return []


def _last_digit_n(text: str, used: SetUp, units: Units) -> float | None:
    """What one of the last digit typed is worth on the piece, N; ``None`` where no plain number was typed."""
    i = used.instrument
    found = re.fullmatch(r"\s*(\d+(?:[.,]\d+)?)\s*([^\d\s].*)?", text)
    own = units.symbol(Dimension.FORCE) if i.dimension is Dimension.FORCE else i.unit
    if found is None:
        return None
    exponent = Decimal(found[1].replace(",", ".")).as_tuple().exponent
    try:
        one = parse(f"1 {found[2]}", i.dimension, own).base if found[2] else float(unit(own, i.dimension).factor)
    except (Refusal, ValueError):
        return None
    digit = one * 10.0 ** int(exponent) * i.factor
    return digit if math.isfinite(digit) else None


def ask_face(o: Observation, doubts: Doubts) -> list[str]:
    """Ask where the failure mode and the wood failure contradict each other; returns what is to be flagged."""
    wood = wood_failure(o)
    if wood is None or o.failure_mode is None:
        return []
    in_glue, in_wood = o.failure_mode in GLUE_MODES, o.failure_mode in WOOD_MODES
    if (in_glue and wood > HALF_PCT) or (in_wood and wood < HALF_PCT):
        where = "in the wood" if in_wood else "at the glue"
        message = f"it failed {where}, but {wood:g} % of the face is wood failure: these contradict each other"
        doubts.ask(
            FACE_DIFFERS, message, "Change one of them or choose 'Mixed'. If you save it anyway, it will be flagged."
        )
        return [FACE_DIFFERS]
    return []


def ask_low(record: BatchRecord, piece: Specimen, o: Observation, doubts: Doubts) -> list[str]:
    """Ask about a load that makes a figure far below all that such joints carry: a slip of the unit, or of a size."""
    least, high = record.method.plausible[0], o.most_n
    if not high or high * record.per_newton(piece.id) >= least:
        return []
    figure = record.units.text(high * record.per_newton(piece.id), record.method.figure_dimension)
    message = f"{record.units.text(high, Dimension.FORCE)} on this piece is only {figure}, almost nothing"
    doubts.ask(
        VERY_LOW, message, "Check the unit of the load, and the sizes. If you save it anyway, it will be flagged."
    )
    return [VERY_LOW]


def ask_peaks(record: BatchRecord, found: Proposal | None, by_hand: bool, doubts: Doubts) -> list[str]:
    """Ask which of several highs counts, where the plan's choice does not say so; returns what is to be flagged."""
    if found is None or len(found.loadings) < 2 or by_hand or record.plan.strength != PEAK:
        return []
    loads = [record.units.text(x.load_n, Dimension.FORCE) for x in found.loadings]
    highest = record.units.text(max(x.load_n for x in found.loadings), Dimension.FORCE)
    message = f"the load fell to almost nothing and rose again: {', then '.join(loads)}"
    remedy = f"Save it to use the highest, {highest}, or drag the mark “peak” to the one that counts."
    doubts.ask(TWO_PEAKS, message, remedy)
    return [TWO_PEAKS]


def pulled_before(conn: sqlite3.Connection, record: BatchRecord, piece: Specimen, pull: Pull | None) -> list[str]:
    """What earlier pulls of a piece loaded it to, where no reading was kept of them: it was loaded in cycles."""
    kept = {o.pull_id for o in (*record.loadings.get(piece.id, ()), *filter(None, [record.observed.get(piece.id)]))}
    kept.add(pull.id if pull else None)
    highs = [p.proposal.reading.peak_n for p in pulls.of_piece(conn, piece.id)
             if p.id not in kept and p.proposal is not None and p.proposal.reading.loaded]  # fmt: skip
    if not highs:
        return []
    times = f", {len(highs)} times" if len(highs) > 1 else ""
    return [f"{PULLED_MARK}up to {record.units.text(max(highs), Dimension.FORCE)}{times}"]
