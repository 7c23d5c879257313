"""Taps at the bench: each thing done there with its own time, each counted once however often it is sent."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from adhaero.core.compare.data import counted
from adhaero.core.glue.clamping import force_n
from adhaero.core.refusal import refuse
from adhaero.store import actions, bottles, glueups
from adhaero.store.glueups import Mix
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, iso, moment
from adhaero.workflow.glue import after
from adhaero.workflow.glue.after import JointRecord
from adhaero.workflow.glue.bench_guide import scheduled_clamp
from adhaero.workflow.glue.glueup_entry import refuse_together
from adhaero.workflow.piece_finding import find_pieces, find_unit
from adhaero.workflow.record_loading import load

MIXED, COAT, SPREAD, CLAMPED, NOTE = "mixed", "coat", "spread", "clamped", "note"
UNCLAMPED, IN, OUT, CLEANED = "unclamped", "in", "out", "cleaned"
KINDS = (MIXED, COAT, SPREAD, CLAMPED, NOTE, UNCLAMPED, IN, OUT, CLEANED)
NOTES = ("slipped", "starved", "much squeeze-out", "spilled")


@dataclass(frozen=True)
class Tap:
    """One tap. ``mixed`` lays out ``codes``; coat, spread, clamped and note are about ``code``, clamped under the mix
    that has key ``mix``; the others are about ``codes`` that are glued. ``text`` is a note, how squeeze-out was
    cleaned, or of a mix what was not as its label has it. ``force_known`` of a mix says how the force of its clamps
    will be known: measured (each is read, ``force_n`` of clamped), estimated (set as planned, by turns or feel),
    unknown.
    """

    kind: str
    at: datetime
    codes: tuple[str, ...] = ()
    code: str = ""
    mix: str = ""
    text: str = ""
    ratio: str = ""
    air_c: float | None = None
    humidity_pct: float | None = None
    bottle: str = ""
    force_known: str = "unknown"
    force_n: float | None = None


def tap(w: AppContext, batch_id: int, t: Tap, person: str, key: str | None) -> dict[str, Any]:
    """Take down one tap. Under the key of an earlier one nothing happens twice, in whatever order answers get lost."""
    if t.kind not in KINDS:
        raise refuse("kind", f"{t.kind[:20]!r} is no tap", "Use one of: " + ", ".join(KINDS) + ".")
    if t.at > w.now() + timedelta(minutes=5):
        raise refuse("at", "that lies in the future", "Check the clock of this device.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        match t.kind:
            case "mixed":
                return {"pieces": _mix(conn, record, t, person, action_id)}
            case "unclamped":
                return {"pieces": after.unclamped(conn, record, t.codes, t.at, "", action_id)}
            case "in" | "out":
                return {"pieces": after.conditioned(conn, record, t.codes, t.kind, t.at, action_id)}
            case "cleaned":
                joint_records = JointRecord("squeeze-out", t.codes, {"how": t.text})
                return {"pieces": after.tell(conn, record, joint_records, t.at, action_id)}
            case _:
                _one(conn, record, t, action_id)
                return {"pieces": 1}

    kind = "mix" if t.kind == MIXED else t.kind
    act = Act("glue", kind, _what(t), batch_id, person, key=key, request=repr(t), after={"codes": list(t.codes)})
    return w.perform(act, body)


def _what(t: Tap) -> str:
    many = counted(len(t.codes), "joint")
    return {
        MIXED: f"Mixed glue for {many}",
        COAT: f"First coat on {t.code}",
        SPREAD: f"Spread {t.code}",
        CLAMPED: f"Clamped {t.code}",
        NOTE: f"Noted of {t.code}: {t.text[:40]}",
        UNCLAMPED: f"Unclamped {many}",
        IN: f"Put into conditioning: {many}",
        OUT: f"Took out of conditioning: {many}",
        CLEANED: f"Squeeze-out of {many}: {t.text[:20]}",
    }[t.kind]


def _one(conn: sqlite3.Connection, record: BatchRecord, t: Tap, action_id: int) -> None:
    """A tap about one joint of the run."""
    own = find_pieces(conn, record, [t.code])
    ids = [s.id for s in own]
    if t.kind == NOTE:
        if not 2 <= len(t.text.strip()) <= 300:
            raise refuse("text", "the note has no words", "Say what happened.")
        glueups.add_events(conn, ids, NOTE, iso(t.at), t.text.strip(), action_id)
    elif any(i in record.members for i in ids):
        raise refuse("code", f"{t.code} is already glued", "Go on with the next one.")
    elif t.kind == CLAMPED:
        _clamp(conn, record, find_unit(conn, record, t.code), t, action_id)
    else:
        # Two devices at one bench: the first one's moment is the one at which its glue began to dry.
        if record.last(ids[0], t.kind) is not None:
            said = {COAT: "has its first coat", SPREAD: "was spread"}[t.kind]
            why = f"{t.code} {said} already, perhaps by another device"
            raise refuse("code", why, "Leave this tap out; to begin again, undo the first.")
        glueups.add_events(conn, ids, t.kind, iso(t.at), "", action_id)


def _mix(conn: sqlite3.Connection, record: BatchRecord, t: Tap, person: str, action_id: int) -> int:
    if not t.codes:
        raise refuse("codes", "no joint is laid out", "Lay out the joints of this run.")
    laid = []
    for i, code in enumerate(t.codes):
        own = find_unit(conn, record, code, f"codes.{i}")
        if any(s.id in record.members for s in own):
            raise refuse(f"codes.{i}", f"{code} is already glued", "Leave it out.")
        laid.append(own[0])
    refuse_together(record, laid)
    bottle = next((b for b in bottles.bottles(conn) if b.label == t.bottle), None)
    values = {
        "started_at": iso(t.at), "person": person, "air_c": t.air_c, "humidity_pct": t.humidity_pct,
        "bottle": t.bottle, "bottle_id": bottle.id if bottle else None, "force_n": None, "clamps": 1,
        "force_known": t.force_known, "spread_g_m2": None, "faces": "one", "note": "",
    }  # fmt: skip
    glueup = glueups.add_glueup(conn, record.batch.id, values, action_id)
    glueups.add_mix(conn, Mix(glueup, iso(t.at), t.ratio.strip(), t.text.strip()), action_id)
    return len(t.codes)


def _clamp(conn: sqlite3.Connection, record: BatchRecord, own: list[Specimen], t: Tap, action_id: int) -> None:
    """Close a joint, or a panel with all of its sections."""
    made = glueups.made_by(conn, actions.of_key(conn, t.mix))
    if made is None:
        raise refuse("mix", "there is no such mix", "Begin the run again: mix, then joint after joint.")
    if t.at < moment(made.started_at):
        raise refuse("at", f"{t.code} cannot be clamped before its glue was mixed", "Check the clock.")
    ids, first = [s.id for s in own], own[0]
    glueups.add_members(conn, made.id, ids, action_id)
    # A planned force is no read one: it is on record only where it was read, or where somebody says that it was set.
    force = t.force_n
    if force is None and made.force_known == "estimated" and first.pressure_mpa is not None:
        force = force_n(first.pressure_mpa, record.pressed_mm2(first))
    if force is not None:
        for member in glueups.members(conn, record.batch.id, set(ids)):
            glueups.except_member(conn, member, {"force_n": force}, action_id)
    clamp = scheduled_clamp(conn, record.batch.id, record.unit_code(first))
    glueups.add_events(conn, ids, "closed", iso(t.at), "", action_id, clamp)
