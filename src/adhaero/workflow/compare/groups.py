"""From the records of pieces to what the statistics are given: groups of pieces, and their marks for the plot."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace

from adhaero.core.compare.data import Group, Piece
from adhaero.core.flags import FLAGS, by_kind
from adhaero.core.observation import Kind, Observation
from adhaero.core.piece_record import Known, datum
from adhaero.core.plan.treatments import SOLID
from adhaero.core.quantity import Dimension
from adhaero.core.times import span
from adhaero.core.units import Units
from adhaero.store.specimens import Specimen, StoredTreatment
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.as_done import label_of
from adhaero.workflow.compare.sections import scale_of_solid
from adhaero.workflow.piece_records import flags, piece_record


@dataclass(frozen=True)
class Mark:
    """One piece on the strength plot: known to lie in [low, high]; ``high`` is empty for 'at least'.

    A piece that does not count is drawn hollow, with its ``reason``; ``flags`` are what is worth minding about it.
    """

    code: str
    known: str
    low: float
    high: float | None
    failure_mode: str | None
    wood_failure_pct: float | None
    hollow: bool
    reason: str
    flags: list[str]


@dataclass(frozen=True)
class FlagCount:
    """A kind of flag, in words, and the pieces that carry it."""

    kind: str
    text: str
    codes: list[str]


def _piece(record: BatchRecord, s: Specimen, load: bool) -> Piece:
    p = piece_record(record, s)
    o = p.reading.observation if p.reading else None
    return Piece(
        code=s.code,
        datum=datum(p, record.plan.target, load=load),
        kind=p.kind,
        failure_mode=o.failure_mode if o else None,
        wood_failure_pct=p.wood_failure_pct,
        set_up=p.reading.set_up_id if p.reading else None,
        flags=tuple(dict.fromkeys(f.kind for f in flags(record, s))),
        parent=parent.code if (parent := record.parent(s)) else "",
    )


def with_mark(record: BatchRecord, s: Specimen, load: bool) -> tuple[Piece, Mark | None]:
    """A piece for the analysis, and as the plot shows it."""
    p = _piece(record, s, load)
    if math.isnan(p.datum.low):
        return p, None
    high = p.datum.high if math.isfinite(p.datum.high) else None
    texts = [f.text for f in flags(record, s)]
    return p, Mark(p.code, p.datum.known.value, p.datum.low, high, p.failure_mode, p.wood_failure_pct,
                   p.datum.known is Known.NONE, p.datum.reason, texts)  # fmt: skip


def marked(record: BatchRecord, s: Specimen, *, load: bool) -> tuple[Piece, Mark | None]:
    """The same, made anew only when something about the piece changed."""
    return record.row("load mark" if load else "mark", s, with_mark, load)


def figureless(record: BatchRecord, *, load: bool) -> list[tuple[str, str, str]]:
    """(code, letter, why) of pieces that were looked at or loaded, and give no figure: proof loads with theirs."""
    if record.method.loadless:
        return []
    found = []
    for s in record.counting:
        p, _ = marked(record, s, load=load)
        if p.kind in (None, Kind.VOID) or p.datum.known is not Known.NONE:
            continue
        o = record.observed[s.id].observation if s.id in record.observed else None
        why = _proof(o, record.units) if o is not None and o.kind is Kind.PROOF else p.datum.reason
        found.append((s.code, record.treatments[s.treatment_id].letter, why))
    return found


def _proof(o: Observation, units: Units) -> str:
    load = "an unknown load" if o.low_n is None else units.text(o.low_n, Dimension.FORCE)
    held = f" for {span(o.held_s)}" if o.held_s else ""
    return f"proof load: {o.details.ended} under {load}{held}"


@dataclass(frozen=True)
class Treated:
    """A treatment with its group, its marks, and the pieces that a filter left out."""

    stored: StoredTreatment
    group: Group
    marks: list[Mark]
    flags: list[FlagCount]


def treated(
    record: BatchRecord,
    only: Sequence[int],
    filtered: Collection[str],
    *,
    load: bool,
    unit: str = "piece",
    against: int = 0,
) -> list[Treated]:
    """These treatments (by id). Pieces with the codes ``filtered`` are left out of the analysis, and drawn hollow.
    ``unit`` names what is counted; ``against`` is the treatment that is the control, where it is not that of the plan.
    """
    pieces: dict[int, list[Specimen]] = {t: [] for t in only}
    left_out: dict[int, list[str]] = {t: [] for t in only}
    for s in record.counting:
        if s.treatment_id in pieces:
            pieces[s.treatment_id].append(s)
    for s in record.left_out:
        if s.treatment_id in left_out:
            left_out[s.treatment_id].append(record.not_run[s.id])
    solids = {_solid_key(record, s) for s in record.pieces if s.role == SOLID}
    found = [_treated(record, t, pieces[t], left_out[t], filtered, solids, load=load, unit=unit) for t in only]
    if load and record.plan.judging.section is not None:
        found = [_scaled(record, t, pieces[t.stored.id]) for t in found]
    return [_with_control(t, against) for t in found] if against else found


def _treated(
    record: BatchRecord, treatment: int, pieces: list[Specimen], left_out: list[str], filtered: Collection[str],
    solids: Collection[str], *, load: bool, unit: str,
) -> Treated:  # fmt: skip
    t = record.treatments[treatment]
    shown = [marked(record, s, load=load) for s in pieces]
    used = [p for p, _ in shown if p.code not in filtered]
    marks = [_hollow(m) if m.code in filtered else m for _, m in shown if m is not None]
    solid, missing = _solid(record, pieces[0], solids) if pieces else ("", "")
    group = Group(
        letter=t.letter,
        label=label_of(record, t),
        role=t.role,
        control=control_of(record, t),
        pieces=used,
        solid=solid,
        no_solid=missing,
        left_out=tuple(left_out),
        unit="piece" if t.role == SOLID else unit,
    )
    return Treated(t, group, marks, counts(record, pieces))


def _scaled(record: BatchRecord, t: Treated, pieces: Sequence[Specimen]) -> Treated:
    """The same with solid wood of another section scaled by the plan's rule."""
    if t.group.role == SOLID:
        return t
    solid = [s for s in record.counting if s.role == SOLID and _solid_key(record, s) == t.group.solid]
    return replace(t, group=replace(t.group, solid_scale=scale_of_solid(record, pieces, solid)))


def _with_control(t: Treated, against: int) -> Treated:
    """The same where another treatment is the control: the plan's own one is a treatment like others there."""
    if t.group.role == SOLID:
        return t
    return replace(t, group=replace(t.group, control="standard" if t.stored.id == against else None))


def _hollow(m: Mark) -> Mark:
    return Mark(**{**vars(m), "hollow": True, "reason": "left out by the filter"})


def counts(record: BatchRecord, pieces: Iterable[Specimen]) -> list[FlagCount]:
    """The flags of these pieces, kind by kind."""
    found = by_kind(f for s in pieces for f in flags(record, s))
    return [FlagCount(kind, FLAGS[kind], codes) for kind, codes in found.items()]


def control_of(record: BatchRecord, t: StoredTreatment) -> str | None:
    """What a treatment serves as now: an amendment may have chosen another control."""
    planned = record.planned.get(t.letter)
    return planned.control if planned is not None else t.control


def _solid(record: BatchRecord, s: Specimen, known: Collection[str]) -> tuple[str, str]:
    """(key of the solid reference, why there is none of the ``known`` ones): the same species, loaded the same way."""
    if s.role == SOLID:
        return _solid_key(record, s), ""
    p = piece_record(record, s)
    grain = record.method.loading_grain(p.form, p.orientation) or ""
    key = f"{p.species} {grain}".strip()
    loaded = f" that is loaded {grain} the grain, as these joints are" if grain else ""
    return key, "" if key in known else f"there is no solid {p.species}{loaded}"


def _solid_key(record: BatchRecord, s: Specimen) -> str:
    return " ".join((s.species_a, *record.loaded(s)))
