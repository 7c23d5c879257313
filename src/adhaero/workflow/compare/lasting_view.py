"""How long pieces lasted, from their records: looks on the way, and loads that stood on them."""

from __future__ import annotations

from collections.abc import Mapping
from math import fsum

from adhaero.core.compare.lasting import LOOKS, UNDER_LOAD, Lasted, Lasting, lasting
from adhaero.core.observation import Kind
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.confounding import looks_of
from adhaero.workflow.piece_records import piece_record


def lasted_of(record: BatchRecord) -> list[Lasted]:
    """How long each piece lasted under its load, else between the looks outdoors."""
    return _under_load(record) or _at_looks(record)


def lasting_of(record: BatchRecord) -> list[Lasting]:
    """Both kinds, where there is anything to tell."""
    label = {t.letter: t.label for t in record.treatments.values()}
    alpha = record.plan.assumptions.alpha
    found = [lasting(kind, pieces, label, alpha)
             for kind, pieces in ((LOOKS, _at_looks(record)), (UNDER_LOAD, _under_load(record)))]  # fmt: skip
    return [x for x in found if x is not None]


def _at_looks(record: BatchRecord) -> list[Lasted]:
    pieces = []
    for treatment, own in looks_of(record).items():
        for code, looks in own.items():
            apart = next((day for day, whole in looks if not whole), None)
            day = apart if apart is not None else max(day for day, _ in looks)
            pieces.append(Lasted(code, record.treatments[treatment].letter, day * 86400, apart is not None))
    return pieces


def _under_load(record: BatchRecord) -> list[Lasted]:
    held = [(s, p, o) for s in record.counting for p in [piece_record(record, s)]
            if p.reading and (o := p.reading.observation).held_s and o.low_n and o.kind is not Kind.VOID]  # fmt: skip
    strengths = _short_term(record) if held else {}
    found = []
    for s, p, o in held:
        failed = o.kind in (Kind.HELD, Kind.EXACT)
        usual = strengths.get(s.treatment_id)
        load_n, held_s = o.low_n or 0.0, o.held_s or 0.0
        found.append(Lasted(s.code, p.letter, held_s, failed, load_n, load_n / usual if usual else None))
    return found


def _short_term(record: BatchRecord) -> Mapping[int, float]:
    """Mean load at which pieces of a treatment broke at once; of the control for treatments that have none."""
    own: dict[int, list[float]] = {}
    for s in record.counting:
        r = piece_record(record, s).reading
        o = r.observation if r else None
        if o is not None and o.kind is Kind.EXACT and not o.held_s and o.low_n:
            own.setdefault(s.treatment_id, []).append(o.low_n)
    means = {t: fsum(v) / len(v) for t, v in own.items()}
    control = next((t.id for t in record.treatments.values() if t.control == "standard" and t.id in means), None)
    if control is None and len(means) != 1:
        return means
    usual = means[control] if control is not None else next(iter(means.values()))
    return {t: means.get(t, usual) for t in record.treatments}
