"""From the facts of a batch to the record of each piece: the one place where it is put together."""

from __future__ import annotations

from datetime import date

from adhaero.core.breaking.instrument import Instrument
from adhaero.core.breaking.trace import MARKS
from adhaero.core.flags import Flag, flags_of
from adhaero.core.glue.limits import limits
from adhaero.core.materials.bottle import BottleEvent, state
from adhaero.core.parents import KINDS
from adhaero.core.piece_record import Gluing, JointEvent, PieceRecord, Reading, Stay
from adhaero.core.plan.woods import wood_of
from adhaero.core.protocol import StepMark
from adhaero.store.observations import Observed
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import CALIPER_MM, BatchRecord
from adhaero.workflow.context import moment
from adhaero.workflow.courses import course_of_reading, moved_by_hand, signal_error_of

GAP_MARK = "gap: "
"""Curves do not travel in a file; that one had a hole at its break does, among what was confirmed."""


def piece_record(record: BatchRecord, s: Specimen) -> PieceRecord:
    """The record of a piece, made anew only when something about it changed."""
    known = record.rows.get("piece")
    found = known.get(s.id) if known is not None else None
    if found is not None:
        # Asked for many times a page, each piece by each: straight from where rows are held.
        own: PieceRecord = found[1]
        return own
    return record.row("piece", s, _piece_record)


def flags(record: BatchRecord, s: Specimen) -> tuple[Flag, ...]:
    """Everything worth minding about a piece."""
    return record.row("flags", s, _flags)


def _flags(record: BatchRecord, s: Specimen) -> tuple[Flag, ...]:
    return flags_of(piece_record(record, s), record.units)


def _piece_record(record: BatchRecord, s: Specimen) -> PieceRecord:
    t, seen = record.treatments[s.treatment_id], record.observed.get(s.id)
    sizes = record.sizes_loaded(s, seen)
    swap = record.last(s.id, "swapped")
    method = record.method
    return PieceRecord(
        code=s.code,
        role=s.role,
        part=record.part(s),
        treatment_id=s.treatment_id,
        letter=t.letter,
        label=t.label,
        species=s.species_a,
        form=record.form(s).key,
        orientation=s.orientation,
        glue=s.glue,
        levels={**record.plan.constants, **{k: v for k, _, v in t.levels}, **record.amended.get(s.id, {})},
        sizes=sizes,
        measured=record.is_measured(s.id),
        area_mm2=record.area_mm2(s),
        per_newton=method.per_newton(sizes),
        dimension=method.figure_dimension,
        crush_across_mpa=wood.crush_across_mpa if (wood := wood_of(record.plan, s.species_a)) else None,
        pressure_mpa=s.pressure_mpa,
        clamp_s=s.clamp_s,
        cure_s=s.cure_s,
        gluing=_gluing(record, s) if s.id in record.members else None,
        stay=_stay(record, s),
        events=tuple(JointEvent(e.kind, moment(e.at), e.value, e.note) for e in record.joint_records.get(s.id, ())),
        swapped_with=str(swap.value["with"]) if swap and swap.value.get("with") else "",
        reading=_reading(record, seen) if seen else None,
        not_run=record.not_run.get(s.id, ""),
        tolerances=record.plan.tolerances,
        protocol=_protocol(record, s),
        earlier=tuple(
            o.observation
            for o in record.loadings.get(s.id, ())
            if seen and o.beside is None and seen.beside is None and o.loading < seen.loading
        ),
        strength=record.plan.strength,
        pace=record.plan.pace,
        mixed_at_pct=record.plan.assumptions.mixed_at_pct,
        least=method.plausible[0],
        arm_mm=(sizes["arm"], record.nominal(s.id)["arm"]) if "arm" in method.setup_sizes else None,
        sizes_error=tuple(method.relative_error(sizes, CALIPER_MM)),
    )


def _protocol(record: BatchRecord, s: Specimen) -> tuple[StepMark, ...]:
    """The steps of a joint with what was said of each last."""
    if not record.plan.protocol or s.role == "solid":
        return ()
    planned = record.planned.get(record.treatments[s.treatment_id].letter)
    said = {e.value["step"]: e for e in record.joint_records.get(s.id, ()) if e.kind == "step"}
    own = [x for x in record.plan.protocol if planned is None or x.is_for(planned.id)]
    return tuple(
        StepMark(x, str(e.value["state"]), moment(e.at)) if (e := said.get(x.id)) else StepMark(x) for x in own
    )


def _gluing(record: BatchRecord, s: Specimen) -> Gluing:
    member = record.members[s.id]
    g, pressed, label = record.glueups[member.glueup_id], record.pressed_at(s), record.bottle(s)
    bottle, went = record.bottles.get(label, (None, ()))
    mix, out = record.mixes.get(g.id), record.unclamped.get(s.id)
    off = moment(out.at) if out else None
    if off is None and record.clamped_until_broken(s) and s.id in record.observed:
        off = moment(record.observed[s.id].at)
    spread, closed = record.last(s.id, "spread"), record.closed.get(s.id)
    until = date.fromisoformat(bottle.expires_on) if bottle and bottle.expires_on else None
    return Gluing(
        glueup=g.number,
        pressed_at=pressed,
        limits=limits(*record.glue_of(s.glue, bottle), g.air_c),
        person=g.person,
        bottle=label,
        bottle_state=state([BottleEvent(e.kind, moment(e.at), e.note) for e in went], pressed) if went else "",
        bottle_past_days=(pressed.date() - until).days if until else None,
        air_c=g.air_c,
        humidity_pct=g.humidity_pct,
        pressure_mpa=record.pressure_mpa(s),
        force_known=g.force_known,
        spread_g_m2=member.spread_g_m2 if member.spread_g_m2 is not None else g.spread_g_m2,
        open_s=(moment(closed.at) - moment(spread.at)).total_seconds() if spread and closed else None,
        stood_s=(pressed - moment(mix.mixed_at)).total_seconds() if mix else None,
        clamped_s=(off - pressed).total_seconds() if off else None,
        mix_deviation=mix.deviation if mix else "",
        pressed_by=g.pressed_by,
        glue=bottle.family if bottle else "",
        planned_glue=record.glue_of(s.glue)[0] or "",
        planned_bottle=s.glue if (own := record.plan.products.get(s.glue)) and own.bottle else "",
    )


def _stay(record: BatchRecord, s: Specimen) -> Stay | None:
    path = record.exposure(s)
    if path is None or s.role == "solid":
        return None
    begun, ended = (record.conditioned.get((s.id, way)) for way in ("in", "out"))
    return Stay(path, moment(begun.at) if begun else None, moment(ended.at) if ended else None)


def _reading(record: BatchRecord, o: Observed) -> Reading:
    set_up = record.set_ups.get(o.setup_id) if o.setup_id is not None else None
    instrument = set_up.instrument if set_up else Instrument()
    shown = record.shown.get(o.pull_id) if o.pull_id is not None and o.source == "rig" else None
    curve = course_of_reading(record, o)
    return Reading(
        observation=o.observation,
        at=moment(o.at),
        source=o.source,
        person=o.person,
        first_crack_n=o.first_crack_n,
        pull_id=o.pull_id,
        set_up_id=o.setup_id,
        capacity_n=set_up.capacity_n if set_up else None,
        resolution_n=set_up.resolution_n if set_up else None,
        instrument=instrument,
        marks={k: m.load_n + instrument.carried_n for k, m in curve.marks.items()} if curve else {},
        figures=curve.figures if curve else None,
        by_hand=tuple(MARKS.get(k, k) for k in moved_by_hand(record, o)) if curve else (),
        loading=o.loading,
        signal_error_n=signal_error_of(record, o),
        gaps=shown.reading.gaps if shown is not None else (),
        gap_note=next((c.removeprefix(GAP_MARK) for c in o.confirmed if c.startswith(GAP_MARK)), ""),
        confirmed=o.confirmed,
    )


def place_on_backing(record: BatchRecord, piece: Specimen) -> int | None:
    """Return the place of a piece on its backing board, from 1, in the random order of gluing; ``None`` elsewhere."""
    p = record.parent(piece)
    if p is None or KINDS[p.kind].sawn:
        return None
    return 1 + sum(other.glue_order < piece.glue_order for other in record.pieces_of[p.id])
