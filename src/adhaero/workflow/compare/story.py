"""One piece in full: its figure and how it is known, sizes, times, what is to be minded of it, and its history."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from adhaero.core.breaking.shares import in_words as shares_in_words
from adhaero.core.flags import DOUBT
from adhaero.core.glue import joint_records
from adhaero.core.joint_forms import Size
from adhaero.core.method import FAILURE_NAMES
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known, PieceRecord, datum
from adhaero.core.quantity import Dimension
from adhaero.core.times import span
from adhaero.core.units import Units, half_up
from adhaero.store import actions
from adhaero.store.actions import ActionRecord
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import AppContext, iso
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.piece_records import flags, piece_record
from adhaero.workflow.record_loading import load

LOAD, FIGURE = "Load", "Figure of merit"


@dataclass(frozen=True)
class Fact:
    """A name and what stands under it, with its moment where it has one."""

    name: str
    text: str
    at: str = ""


@dataclass(frozen=True)
class Doubted:
    """Who doubts the piece, why, and since when."""

    by: str
    reason: str
    at: str


@dataclass(frozen=True)
class Story:
    """A piece in full. ``counts`` is how it enters the comparison; ``facts`` stand in the order of its life,
    ``pull_id`` is the curve of the reading that counts, ``joint`` whether it has faces that were glued.
    """

    code: str
    name: str
    label: str
    letter: str
    role: str
    counts: str
    facts: list[Fact]
    flags: list[str]
    doubt: Doubted | None
    pull_id: int | None
    resolution_n: float | None
    broken: bool
    history: list[ActionRecord]


def story(w: AppContext, batch_id: int, code: str) -> Story:
    """The piece with that code."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        s = find_piece(conn, record, code)
        done = actions.of_piece(conn, batch_id, s.id)
    p, last = piece_record(record, s), record.last(s.id, DOUBT)
    doubted = last is not None and bool(last.value.get("doubtful"))
    return Story(
        code=s.code,
        name=s.alias,
        label=p.label,
        letter=p.letter,
        role=p.role,
        counts=_counts(datum(p, record.plan.target), record.units, p.dimension),
        facts=list(_facts(record, p)),
        flags=[f.text for f in flags(record, s)],
        doubt=Doubted(str(last.value["by"]), last.note, last.at) if last is not None and doubted else None,
        pull_id=p.reading.pull_id if p.reading else None,
        resolution_n=p.reading.resolution_n if p.reading else None,
        broken=p.reading is not None,
        history=done,
    )


def _counts(d: Datum, units: Units, dimension: Dimension) -> str:
    """How a piece enters the comparison of its plan."""
    low = units.text(d.low, dimension) if d.counts else ""
    match d.known:
        case Known.EXACT:
            return f"counts as {low}"
        case Known.AT_LEAST:
            return f"counts as at least {low}: {d.reason}"
        case Known.BETWEEN:
            return f"counts as between {low} and {units.text(d.high, dimension)}"
        case Known.BELOW:
            return f"{d.reason}: below all that could be read"
        case _:
            return f"does not count: {d.reason}"


def _facts(record: BatchRecord, p: PieceRecord) -> Iterator[Fact]:
    units = record.units
    known_sizes = {x.key: x for x in record.method.sizes_for((p.form,))}
    sizes = ", ".join(_size(known_sizes.get(k), k, v, units) for k, v in p.sizes.items())
    area = units.text(p.area_mm2, Dimension.AREA)
    yield Fact("Sizes", f"{sizes} ({'measured' if p.measured else 'nominal'}); area {area}")
    if p.gluing is not None:
        g = p.gluing
        yield Fact("Glued", f"glue-up {g.glueup}{f', {g.person}' if g.person else ''}", iso(g.pressed_at))
        times = [("open", g.open_s), ("in clamps", g.clamped_s)]
        known = [f"{word} {span(t)}" for word, t in times if t is not None]
        if g.pressure_mpa is not None:
            known.append(f"pressed with {units.text(g.pressure_mpa, Dimension.STRESS)} ({g.force_known})")
        if g.bottle:
            known.append(f"from {g.bottle}")
        if g.air_c is not None:
            known.append(f"at {g.air_c:g} °C")
        if known:
            yield Fact("How", ", ".join(known))
    for e in p.events:
        if e.kind in joint_records.KINDS:
            words = ", ".join(x for x in (joint_records.in_words(e.kind, e.value, p.area_mm2), e.note) if x)
            yield Fact(joint_records.KINDS[e.kind].name, words, iso(e.at))
    if p.stay is not None and p.stay.in_at is not None:
        yield Fact("Into its conditioning", "", iso(p.stay.in_at))
        if p.stay.out_at is not None:
            yield Fact("Out of it", "", iso(p.stay.out_at))
    if p.reading is not None:
        yield from _read(p, units)


def _read(p: PieceRecord, units: Units) -> Iterator[Fact]:
    r = p.reading
    assert r is not None
    o = r.observation
    told = [r.person, f"{span(p.age_s)} after its gluing" if p.age_s is not None else ""]
    yield Fact("Broken", ", ".join(x for x in told if x), iso(r.at))
    if o.kind is Kind.FELL_APART:
        yield Fact(LOAD, "none: it fell apart before it was loaded")
    elif o.low_n is not None:
        high = "" if o.high_n in (None, o.low_n) else f" to {units.text(o.high_n or 0.0, Dimension.FORCE)}"
        held = f", held {span(o.held_s)}" if o.held_s else ""
        source = {"rig": "from the rig", "typed": "typed in"}.get(r.source, r.source)
        sign = "at least " if o.kind is Kind.AT_LEAST else ""
        low = units.text(o.low_n, Dimension.FORCE)
        yield Fact(LOAD, f"{sign}{low}{high}{held}, {source}{_as_typed(o.details.typed, low)}")
        doubt = p.uncertainty(o.low_n)
        by = f"{units.text(o.low_n, Dimension.FORCE)} x {_per(p, units)}"
        figure = units.text(o.low_n * p.per_newton, p.dimension)
        if p.dimension is not Dimension.FORCE:
            yield Fact(FIGURE, f"{figure} ± {units.text(doubt, p.dimension)} = {by}")
    mode = FAILURE_NAMES.get(o.failure_mode or "", "")
    wood = "" if p.wood_failure_pct is None else f"wood failure {half_up(p.wood_failure_pct, 0):.0f} %"
    said = "; ".join(x for x in (mode, wood, shares_in_words(o.shares) if o.shares else "", o.note, o.reason) if x)
    if said:
        yield Fact("Where it gave way", said)
    for number, e in enumerate(p.earlier, 1):
        load = "" if e.low_n is None else f" {units.text(e.low_n, Dimension.FORCE)}"
        yield Fact(f"Loading {number}", f"{e.kind.value.replace('_', ' ')}{load}")


def _as_typed(typed: str, load: str) -> str:
    """What was typed, where the load on the piece is not the same: a lever, a tare or a calibration lies between."""
    plain = load.replace("\u202f", "").replace("\u00a0", "").replace(" ", "").replace(",", "")
    number = typed.replace(" ", "").replace(",", "")
    return f" as {typed}" if typed and not plain.startswith(number) and plain != number else ""


def _per(p: PieceRecord, units: Units) -> str:
    """What one newton gives, so that the figure can be reckoned again."""
    one = units.text(1000.0, Dimension.FORCE)
    return f"{units.text(1000.0 * p.per_newton, p.dimension)} per {one}"


def _size(known: Size | None, key: str, value: float, units: Units) -> str:
    name, unit = (known.name, known.unit) if known else (key, "")
    return f"{name.lower()} {units.text(value, Dimension.LENGTH) if unit == 'mm' else f'{value:g} {unit}'.strip()}"
