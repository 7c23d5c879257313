"""Properties of a plan's own: asked where they belong, kept, and looked up for a piece."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from adhaero.core.compare.data import counted
from adhaero.core.properties import BOARD, BOTTLE, FACE, OwnValue, Property, in_words, read_value
from adhaero.core.refusal import Problems, Refusal, refuse
from adhaero.store import boards, bottles, own_values
from adhaero.store.boards import StoredBoard
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, need_locked
from adhaero.workflow.record_loading import load

Values = Mapping[tuple[str, str], OwnValue]


@dataclass(frozen=True)
class OwnRow:
    """A subject with its values in words, by property id; ``treatment`` is that of a piece."""

    subject: str
    treatment: str
    values: dict[str, str]


@dataclass(frozen=True)
class OwnSheet:
    """The sheet of one kind of subject: its properties and its rows."""

    of: str
    properties: list[Property]
    rows: list[OwnRow]


@dataclass(frozen=True)
class OwnView:
    """Everything that a batch judges for itself, by what it belongs to."""

    sheets: list[OwnSheet]


def view(w: AppContext, batch_id: int) -> OwnView:
    """The sheets of a locked batch."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        values = own_values.standing(conn, batch_id)
        subjects = {p.of: _subjects(conn, record, p.of) for p in record.plan.properties}
    sheets = []
    for of, own in subjects.items():
        props = [p for p in record.plan.properties if p.of == of]
        rows = [
            OwnRow(subject, letter, {p.id: in_words(p, v) for p in props if (v := values.get((p.id, subject)))})
            for subject, letter in own.items()
        ]
        sheets.append(OwnSheet(of, props, rows))
    return OwnView(sheets)


def _subjects(conn: sqlite3.Connection, record: BatchRecord, of: str) -> dict[str, str]:
    """What can have such a property, with the letter of its treatment where it is a piece."""
    if of == BOARD:
        cut = boards.cut_plan(conn, record.batch.id)
        used = set(cut.document["boards"]) if cut else set()
        return {b.label: "" for b in boards.boards(conn) if not used or b.id in used}
    if of == BOTTLE:
        used_labels = {record.bottle(s) for s in record.pieces if s.id in record.members}
        return {b.label: "" for b in bottles.bottles(conn) if not used_labels - {""} or b.label in used_labels}
    letter = {s.code: record.treatments[s.treatment_id].letter for s in record.pieces if s.id not in record.not_run}
    if of == FACE:
        joints = [s.code for s in record.pieces if s.role == "joint" and s.code in letter]
        return {f"{code}-{side}": letter[code] for code in joints for side in "ab"}
    return letter


@dataclass(frozen=True)
class OwnTyped:
    """A cell as typed; empty text takes the value back."""

    prop: str
    subject: str
    text: str


def write(w: AppContext, batch_id: int, cells: Sequence[OwnTyped], person: str, key: str | None) -> dict[str, Any]:
    """Keep typed values, all or none; every wrong cell is named (``SUBJECT property``)."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        known = {p.id: p for p in record.plan.properties}
        able = {of: _subjects(conn, record, of) for of in {p.of for p in known.values()}}
        problems, good = Problems(), []
        for c in cells:
            field = f"{c.subject} {c.prop}"
            prop = known.get(c.prop)
            try:
                if prop is None:
                    raise refuse(field, "is no property of the plan", "Choose one of the plan's properties.")
                if c.subject not in able[prop.of]:
                    raise refuse(field, f"{c.subject[:30]!r} has no such property", "Choose one of the list.")
                good.append((c, read_value(prop, c.text, field) if c.text.strip() else None))
            except Refusal as refusal:
                problems.take(refusal)
        problems.raise_if_any()
        for c, value in good:
            own_values.add(conn, batch_id, c.prop, c.subject, value, w.stamp(), action_id)
        return {"pieces": len({c.subject for c in cells})}

    # What is judged at the break or after it is undone there.
    with w.db.read() as conn:
        early = {p.id for p in need_locked(conn, batch_id).plan.properties if p.when == "before"}
    stage = "cut" if all(c.prop in early for c in cells) else "break"
    act = Act(stage, "property", f"Judged {counted(len(cells), 'value')}", batch_id, person, key=key,
              request=repr(list(cells)))  # fmt: skip
    return w.perform(act, body)


def of_piece(p: Property, values: Values, record: BatchRecord, s: Specimen, board: str) -> OwnValue | None:
    """The value of a property for a piece: its own, the mean of its faces, that of its ``board`` or its bottle."""
    if p.of == BOARD:
        return values.get((p.id, board))
    if p.of == BOTTLE:
        return values.get((p.id, record.bottle(s))) if s.id in record.members else None
    if p.of == FACE:
        own = [v for side in "ab" if (v := values.get((p.id, f"{s.code}-{side}")))]
        if not own:
            return None
        if len({v.number for v in own}) == 1:
            return own[0]
        return OwnValue(sum(v.number for v in own) / len(own), " / ".join(v.grade for v in own) if p.grades else "")
    return values.get((p.id, s.code))


def boards_of(conn: sqlite3.Connection, record: BatchRecord) -> dict[str, StoredBoard]:
    """The board that each piece comes from, by the piece's code."""
    cut = boards.cut_plan(conn, record.batch.id)
    if cut is None:
        return {}
    known = {b.id: b for b in boards.every(conn)}
    home = {b["code"]: b["board_id"] for b in reversed(cut.document["blanks"])}
    found = {s.code: known.get(home.get(s.code) or home.get(record.unit_code(s), 0)) for s in record.pieces}
    return {code: b for code, b in found.items() if b is not None}
