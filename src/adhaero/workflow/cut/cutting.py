"""Cut: what to cut, the labels, and the real sizes."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from adhaero.core.cut.making import Insert, inserts, settings
from adhaero.core.cut.measurements import MEASUREMENTS, mean_of
from adhaero.core.joint_forms import Size
from adhaero.core.observation import Kind
from adhaero.core.parents import KINDS, counted_pieces
from adhaero.core.plan.document import level_text
from adhaero.core.plan.fields import value_name
from adhaero.core.plan.records import forms_of
from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Problems, Refusal, refuse
from adhaero.formats.labels import Symbol, symbol
from adhaero.store import boards as store_boards
from adhaero.store import shop, specimens
from adhaero.store.boards import StoredBoard
from adhaero.store.parents import Parent
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext
from adhaero.workflow.cut import boards
from adhaero.workflow.cut.boards import CutLayout, blanks_of, blanks_of_parent, known_of_wood
from adhaero.workflow.piece_finding import find_piece
from adhaero.workflow.record_loading import load

FAR_OFF = 0.15
"""A size this share away from the nominal one is questioned: a slip of the unit or a wrong piece."""


@dataclass(frozen=True)
class SizeView:
    """A measured size: mm, and what the user typed."""

    value: float
    typed: str


@dataclass(frozen=True)
class CutRow:
    """One piece on the cut sheet; ``halves`` are the labels to write on it, ``nominal`` its planned sizes by key."""

    code: str
    treatment: str
    label: str
    role: str
    part: str
    parent: str
    instead_of: str
    replicate: int
    halves: list[str]
    nominal: dict[str, float]
    sizes: dict[str, SizeView]
    area_mm2: float
    measured: bool
    aside: bool
    question: str | None


@dataclass(frozen=True)
class ParentRow:
    """What several pieces are made as: its kind in words, the labels to write on it, the blanks that it is cut from in
    words, and the codes of its pieces; ``sawn`` ones get theirs after the saw.
    """

    code: str
    kind: str
    number: int
    treatments: list[str]
    label: str
    labels: list[str]
    blanks: str
    pieces: list[str]
    sawn: bool


@dataclass(frozen=True)
class MakingView:
    """How the joints of one form and size are made: the settings, and the loose parts in words, for all of them."""

    form: str
    treatments: list[str]
    settings: list[str]
    parts: list[str]


@dataclass(frozen=True)
class CutView:
    """The cut sheet. ``blanks`` counts the pieces of wood by species."""

    batch_id: int
    name: str
    size_names: dict[str, str]
    to_measure: list[str]
    blanks: dict[str, int]
    rows: list[CutRow]
    parents: list[ParentRow]
    making: list[MakingView]
    measured: int
    layout: CutLayout | None
    stock: list[StoredBoard]


def _sizes(record: BatchRecord) -> tuple[Size, ...]:
    return record.method.sizes_for(forms_of(record.plan))


def _question(record: BatchRecord, specimen_id: int) -> str | None:
    """What is odd about a piece's sizes: so far off that it is a slip, or beyond the plan's tolerance."""
    names = {s.key: s.name for s in _sizes(record)}
    for key, m in record.measured.get(specimen_id, {}).items():
        nominal = record.nominal(specimen_id).get(key)
        if not nominal or key not in names:
            continue
        off = m.value - nominal
        if abs(off / nominal) > FAR_OFF:
            planned = record.units.typed(nominal, Dimension.LENGTH)
            return f"{names[key]} is {100 * off / nominal:+.0f} % off the planned {planned}: right piece, right unit?"
        if abs(off) > record.plan.tolerance_mm + 1e-9:
            far, allowed = (record.units.text(x, Dimension.LENGTH) for x in (abs(off), record.plan.tolerance_mm))
            return f"{names[key]} is {far} too {'large' if off > 0 else 'small'}; the plan allows {allowed}."
    return None


def _row(record: BatchRecord, s: Specimen) -> CutRow:
    t = record.treatments[s.treatment_id]
    return CutRow(
        code=s.code,
        treatment=t.letter,
        label=t.label,
        role=s.role,
        part=record.part(s),
        parent=record.home_in_words(s),
        instead_of=record.parts[s.id].instead_of if s.id in record.parts else "",
        replicate=s.replicate,
        halves=_halves(record, s),
        nominal=record.nominal(s.id),
        sizes={k: SizeView(m.value, m.typed) for k, m in record.measured.get(s.id, {}).items()},
        area_mm2=record.area_mm2(s),
        measured=s.id in record.measured and record.is_measured(s.id),
        aside=s.id in record.observed and record.observed[s.id].observation.kind is Kind.VOID,
        question=_question(record, s.id),
    )


def _making(record: BatchRecord) -> list[MakingView]:
    """The settings and parts of every joint form, once for each of its sizes and inserts."""
    alike: dict[tuple[object, ...], list[Specimen]] = {}
    for s in record.pieces:
        if s.role == "joint":
            sizes = tuple(sorted(record.nominal(s.id).items()))
            alike.setdefault((record.form(s).key, sizes, _material(record, s)), []).append(s)
    found = []
    for pieces in alike.values():
        first = pieces[0]
        form, nominal = record.form(first), record.nominal(first.id)
        said = settings(form.key, nominal, record.units)
        parts = [_part(record, x, len(pieces), _material(record, first)) for x in inserts(form.key, nominal)]
        if said or parts:
            letters = dict.fromkeys(record.treatments[s.treatment_id].letter for s in pieces)
            found.append(MakingView(form.name, list(letters), said, parts))
    return found


def _material(record: BatchRecord, s: Specimen) -> tuple[str | None, str | None]:
    """What the inserts of a joint are made of, and how they fit."""
    return level_text(record.level(s, "insert")), level_text(record.level(s, "insert_fit"))


def _part(record: BatchRecord, x: Insert, joints: int, own: tuple[str | None, str | None]) -> str:
    say = [record.units.typed(v, Dimension.LENGTH) for v in (x.thickness_mm, x.width_mm, x.length_mm)]
    size = f"{say[0]} thick, {say[2]} long" if not x.width_mm else f"{say[0]} x {say[1]} x {say[2]}"
    material, fit = own
    more = [value_name("insert", material) if material else "", f"grain {x.grain} it",
            value_name("insert_fit", fit).lower() if fit else ""]  # fmt: skip
    n = x.count * joints
    return f"{n} {x.name}{'s' * (n != 1)} of {size} ({', '.join(m for m in more if m)})"


def view(w: AppContext, batch_id: int) -> CutView:
    """The cut sheet of a locked batch, in the order of the plan."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        laid, stock = boards.layout(w, conn, record), store_boards.boards(conn)
    wood = [m for s in record.pieces for m in _woods(record, s)]
    made = [p for p in record.parents.values() if record.pieces_of[p.id]]
    for p in made:
        first = record.pieces_of[p.id][0]
        wood += (first.species_a, first.species_b)[: len(blanks_of_parent(record, p))]
    rows = [record.row("cut", s, _row) for s in record.pieces]
    return CutView(
        batch_id=batch_id,
        name=record.batch.name,
        size_names={s.key: s.name for s in _sizes(record)} | {k: m.name for k, m in MEASUREMENTS.items()},
        to_measure=list(record.to_measure),
        blanks=dict(Counter(wood)),
        rows=rows,
        parents=[_parent_row(record, p) for p in made],
        making=_making(record),
        measured=sum(r.measured for r in rows),
        layout=laid,
        stock=[b for b in stock if b.species in set(wood)],
    )


@dataclass(frozen=True)
class Label:
    """What to stick or write on one half; ``treatment`` and ``what`` are empty on a blind label."""

    text: str
    treatment: str
    what: str
    board: str
    wood: str
    symbol: Symbol


def labels(w: AppContext, batch_id: int, *, blind: bool) -> list[Label]:
    """A label for every half in the order of the plan. A blind one does not tell the treatment."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        laid = boards.layout(w, conn, record)
    board = {b.code: m.board for m in laid.maps for b in m.blanks} if laid else {}
    found = []
    for p in record.parents.values():
        row = _parent_row(record, p)
        shown = f"{row.kind} {row.number}"
        for text in row.labels:
            found.append(Label(text, "" if blind else ", ".join(row.treatments), shown, *_of_board(board.get(p.code)),
                               symbol(text.upper())))  # fmt: skip
    for s in record.pieces:
        t = record.treatments[s.treatment_id]
        from_ = record.home_in_words(s)
        what = [*([] if blind else [t.label]), *([from_] if from_ else [])]
        for half in _halves(record, s):
            found.append(Label(half, "" if blind else t.letter, ", ".join(what), *_of_board(board.get(s.code)),
                               symbol(half.upper())))  # fmt: skip
    return found


def _of_board(b: StoredBoard | None) -> tuple[str, str]:
    """A board's label, and what is known of its wood, for a label."""
    if b is None:
        return "", ""
    return b.label, known_of_wood(b)


def _halves(record: BatchRecord, s: Specimen) -> list[str]:
    """The labels of a piece: both halves of a joint that is cut as such."""
    return [s.code] if s.role == "solid" or s.parent_id is not None else [f"{s.code}-a", f"{s.code}-b"]


def _woods(record: BatchRecord, s: Specimen) -> tuple[str, ...]:
    """The wood of every blank of a piece."""
    count = len(blanks_of(record, s))
    return (s.species_b,) * count if s.parent_id is not None else (s.species_a, s.species_b, s.species_b)[:count]


def _parent_row(record: BatchRecord, p: Parent) -> ParentRow:
    own, kind = record.pieces_of[p.id], KINDS[p.kind]
    letters = dict.fromkeys(record.treatments[s.treatment_id].letter for s in own)
    cut = blanks_of_parent(record, p)
    sizes = " x ".join(
        record.units.text(x, Dimension.LENGTH) for x in (cut[0].length_mm, cut[0].width_mm, cut[0].thickness_mm)
    )
    return ParentRow(
        code=p.code,
        kind=kind.name,
        number=p.number,
        treatments=list(letters),
        label=record.treatments[own[0].treatment_id].label if len(letters) == 1 else counted_pieces(p.kind, len(own)),
        labels=[f"{p.code}-a", f"{p.code}-b"] if kind.sawn else [p.code],
        blanks=f"{len(cut)} of {sizes}",
        pieces=[s.code for s in own],
        sawn=kind.sawn,
    )


@dataclass(frozen=True)
class Typed:
    """A cell of the sheet as typed."""

    code: str
    quantity: str
    text: str


def read_size(record: BatchRecord, quantity: str, text: str, length_unit: str, field: str) -> float:
    """A typed size in its base unit; ``Refusal`` with ``field`` for what cannot be."""
    size = next((s for s in _sizes(record) if s.key == quantity), None)
    if size is not None:
        dimension = size.dimension
        name, low, high = size.name, size.low, size.high
    elif quantity in MEASUREMENTS:
        more = MEASUREMENTS[quantity]
        name, dimension, low, high = more.name, more.dimension, more.low, more.high
    else:
        known = [s.key for s in _sizes(record)] + list(MEASUREMENTS)
        raise refuse(field, f"{quantity!r} is not measured on a piece", "Use one of: " + ", ".join(known) + ".")
    default = {Dimension.LENGTH: length_unit, Dimension.SHARE: "%", Dimension.MASS: "g"}.get(dimension, "")
    try:
        value = mean_of(text, dimension, default)
    except Refusal as refusal:
        raise refuse(field, refusal.problems[0].message, refusal.problems[0].remedy) from refusal
    if not low <= value <= high:
        unit = "mm" if dimension is Dimension.LENGTH else default
        raise refuse(
            field,
            f"{name.lower()} of {value:g} is outside {low:g} to {high:g} {unit}".rstrip(),
            "Check the number and its unit.",
        )
    return value


def measure(w: AppContext, batch_id: int, cells: Sequence[Typed], person: str, key: str | None) -> dict[str, Any]:
    """Save typed sizes, all or none; every wrong cell is named (``CODE quantity``)."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        unit = shop.settings(conn).get("units", {}).get("length", "mm")
        problems, good = Problems(), []
        for cell in cells:
            try:
                piece = find_piece(conn, record, cell.code)
                value = read_size(record, cell.quantity, cell.text, unit, f"{piece.code} {cell.quantity}")
                good.append((piece.id, cell.quantity, value, cell.text.strip()))
            except Refusal as refusal:
                problems.take(refusal)
        problems.raise_if_any()
        for specimen_id, quantity, value, text in good:
            specimens.add_measurement(conn, specimen_id, quantity, value, text, w.stamp(), action_id)
        return {"pieces": len({specimen_id for specimen_id, *_ in good})}

    first = cells[0] if cells else None
    what = f"{first.code} {first.quantity} {first.text}" if first and len(cells) == 1 else f"{len(cells)} sizes"
    request = ";".join(f"{c.code},{c.quantity},{c.text}" for c in cells)
    return w.perform(Act("cut", "measure", f"Measured {what}", batch_id, person, key=key, request=request), body)
