"""The cautions of a batch at a stage, and that they were read: once a session, kept with who and when."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Any

from adhaero.core.cautions import AtHand, of_stage
from adhaero.core.glue.joint_records import LEFT_IN
from adhaero.core.observation import Kind
from adhaero.core.plan.document import level_text
from adhaero.core.questions.question import QuestionKind
from adhaero.core.refusal import refuse
from adhaero.store import bottles, rigs
from adhaero.store import cautions as store
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext
from adhaero.workflow.cut.boards import blanks_of, safe_length_mm
from adhaero.workflow.glue.working_hours import day_in_shop
from adhaero.workflow.record_loading import load

STAGES = ("cut", "glue", "break")


@dataclass(frozen=True)
class CautionView:
    """A caution; one of ``high`` risk is confirmed once a day, ``confirmed`` tells whether it was today."""

    key: str
    text: str
    high: bool
    confirmed: bool


def cautions(w: AppContext, batch_id: int, stage: str) -> list[CautionView]:
    """The cautions of a locked batch at a stage."""
    if stage not in STAGES:
        raise refuse("stage", f"{stage[:20]!r} has no cautions", "Use one of: " + ", ".join(STAGES) + ".")
    with w.db.read() as conn:
        return _of(w, conn, load(w, conn, batch_id), stage)


def _of(w: AppContext, conn: sqlite3.Connection, record: BatchRecord, stage: str) -> list[CautionView]:
    read = store.read(conn, record.batch.id, stage, day_in_shop(conn, w.now()).isoformat())
    return [CautionView(c.key, c.text, c.high, c.key in read) for c in of_stage(stage, _at_hand(conn, record))]


def confirm(w: AppContext, batch_id: int, stage: str, person: str, key: str | None) -> dict[str, Any]:
    """Say that the cautions of high risk of a stage were read and are kept to, for today."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        keys = [c.key for c in _of(w, conn, record, stage) if c.high]
        return {"id": store.add(conn, batch_id, stage, day_in_shop(conn, w.now()).isoformat(), keys, action_id)}

    if stage not in STAGES:
        raise refuse("stage", f"{stage[:20]!r} has no cautions", "Use one of: " + ", ".join(STAGES) + ".")
    act = Act(stage, "caution", f"Read the cautions of {stage}", batch_id, person, key=key, request=stage,
              undoable=False)  # fmt: skip
    return w.perform(act, body)


def _at_hand(conn: sqlite3.Connection, record: BatchRecord) -> AtHand:
    joints = [s for s in record.pieces if s.role != "solid"]
    known = {b.label: b.family for b in bottles.bottles(conn)}
    used = rigs.in_use(conn)
    lengths = [b.length_mm for s in record.pieces for b in blanks_of(record, s)]
    return AtHand(
        method=record.method,
        families=frozenset(f for s in joints for f in families(record, s, known)),
        preps=frozenset(s.prep for s in joints),
        means=frozenset(record.pressed_by(s) for s in joints),
        additives=_levels(record, joints, "additive"),
        conditionings=_levels(record, joints, "conditioning"),
        materials=frozenset(m for s in record.pieces for m in (s.species_a, s.species_b)),
        reinforcements=_levels(record, joints, "reinforcement"),
        shortest_mm=min(lengths, default=None),
        safe_mm=safe_length_mm(conn),
        left_in=any((e := record.last(s.id, "fastener")) and e.value.get("left") == LEFT_IN for s in joints),
        frozen_bottle=_frozen(record, joints),
        working_share=used.set_up.working_share if used and used.port and not record.method.loadless else None,
        by_weights=(used is None or not used.port) and not record.method.loadless,
        held=_held(record),
        to_break=sum(not record.finished(s) for s in record.to_break),
    )


def _held(record: BatchRecord) -> bool:
    """Whether loads hang for long: it is asked how long joints hold, or one broke while a load stood on it."""
    asked_for = any(q.kind is QuestionKind.HOW_LONG_DOES_IT_HOLD for q in record.plan.questions)
    return asked_for or any(o.observation.kind is Kind.HELD for o in record.observed.values())


def _frozen(record: BatchRecord, joints: list[Specimen]) -> bool:
    """Whether frost is part of it: by the plan, or by what a bottle of these joints went through."""
    if any("frozen" in state for state in _levels(record, joints, "glue_state")):
        return True
    used = {record.bottle(s) for s in joints if s.id in record.members}
    return any(e.kind == "frozen" for label in used & record.bottles.keys() for e in record.bottles[label][1])


def _levels(record: BatchRecord, joints: list[Specimen], key: str) -> frozenset[str]:
    return frozenset(text for s in joints if (text := level_text(record.level(s, key))))


def families(record: BatchRecord, s: Specimen, known: dict[str, str]) -> list[str]:
    """The glue families that a joint has to do with: by its plan, and by the bottle that it was glued from. A glue
    named as a product keeps the cautions of the family that its bottle belongs to.
    """
    used = record.bottle(s) if s.id in record.members else ""
    planned, _ = record.glue_of(s.glue)
    return [known.get(s.glue, planned), *([known[used]] if used in known else [])]
