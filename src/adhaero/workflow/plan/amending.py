"""Amendments of a locked plan: more pieces, another treatment, one left out, a constant changed.

Nothing is overwritten: each is a version with its reason, and pieces that were made keep the record they were made by.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, replace
from typing import Any

from adhaero.core.plan import design
from adhaero.core.plan.checks import problems
from adhaero.core.plan.document import MAX_SPECIMENS, Extra, Level, level_name
from adhaero.core.plan.fields import FIELDS
from adhaero.core.plan.judging import Judging
from adhaero.core.plan.records import cell_ids, next_late
from adhaero.core.plan.treatments import JOINT, SOLID, treatments
from adhaero.core.refusal import Refusal, refuse
from adhaero.store import batches, glueups, specimens
from adhaero.store.specimens import StoredTreatment
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, need_locked
from adhaero.workflow.plan.making import write_pieces
from adhaero.workflow.record_loading import load


def reason_of(text: str) -> str:
    """The reason of an amendment in plain words; none is none."""
    reason = " ".join(text.split())
    if not 3 <= len(reason) <= 500:
        raise refuse("reason", "an amendment needs its reason", "Say in a few words why the plan is changed.")
    return reason


def _treatment(record: BatchRecord, letter: str) -> StoredTreatment:
    found = next((t for t in record.treatments.values() if t.letter == letter), None)
    if found is None:
        raise refuse("treatment", f"there is no treatment {letter[:10]!r}", "Choose one of the list.")
    return found


def parents_of_more(record: BatchRecord, *, joint: bool) -> dict[str, int]:
    """How pieces that come later share parents of their own, numbered after those that there are."""
    p = record.plan.parents
    if p is None or not joint:
        return {}
    return {"each": p.each, "parents": max((x.number for x in record.parents.values()), default=0)}


def add_pieces(
    w: AppContext, batch_id: int, letter: str, count: int, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """More pieces of a treatment, with new codes; they come last in both orders."""
    why = reason_of(reason)
    if not 1 <= count <= 100:
        raise refuse("count", f"{count} more pieces is not possible at once", "Type 1 to 100.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record, version = load(w, conn, batch_id, action_id), need_locked(conn, batch_id)
        stored = _treatment(record, letter)
        if len(record.pieces) + count > MAX_SPECIMENS:
            raise refuse("count", "the batch would get too large", "Begin another batch.")
        planned = treatments(version.plan)
        place = next(i for i, t in enumerate(planned) if t.letter == stored.letter)
        made = sum(s.treatment_id == stored.id for s in record.pieces)
        seed, joint = w.new_seed(), planned[place].role == JOINT
        new = design.more_specimens(place, made, count, len(record.pieces), seed, specimens.taken_codes(conn),
                                    **parents_of_more(record, joint=joint))  # fmt: skip
        ids = {t.letter: t.id for t in record.treatments.values()}
        amended = design.with_more(version.plan, planned[place], count)
        batches.add_version(conn, batch_id, "amended", amended, version.seed, why, action_id)
        stored_ids = [ids[t.letter] for t in planned]
        write_pieces(conn, batch_id, version.plan, planned, stored_ids, new, seed, action_id)
        return {"pieces": count}

    act = Act("plan", "amend", f"Added {count} pieces of {letter}", batch_id, person, why, key=key,
              request=f"{letter}{count}{why}")  # fmt: skip
    return w.perform(act, body)


def leave_out(
    w: AppContext, batch_id: int, letters: Sequence[str], reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """Leave treatments out from now on, with one reason: their pieces that are not broken are not run. They leave every
    count; those broken stay.
    """
    why = reason_of(reason)
    if not letters:
        raise refuse("treatments", "no treatment is named", "Choose what is to be left out.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record, version = load(w, conn, batch_id, action_id), need_locked(conn, batch_id)
        chosen = {_treatment(record, letter).id for letter in letters}
        aside = [s.id for s in record.pieces if s.treatment_id in chosen and not record.finished(s)]
        if not aside:
            raise refuse("treatments", "every piece of it is broken or left out already", "Choose another one.")
        batches.add_version(conn, batch_id, "amended", version.plan, version.seed, why, action_id)
        glueups.add_events(conn, aside, "not run", w.stamp(), why, action_id)
        return {"pieces": len(aside)}

    named = ", ".join(dict.fromkeys(letters))
    act = Act("plan", "amend", f"Left out treatment {named}", batch_id, person, why, key=key,
              request=f"out {named}{why}")  # fmt: skip
    return w.perform(act, body)


def change_control(
    w: AppContext, batch_id: int, letter: str, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """Take another treatment for the control: the one there was is left out, or turned out to be none."""
    why = reason_of(reason)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record, version = load(w, conn, batch_id, action_id), need_locked(conn, batch_id)
        planned = record.planned.get(_treatment(record, letter).letter)
        if planned is None or planned.role == SOLID:
            raise refuse("treatment", "solid wood is a reference of its own", "Choose a treatment of joints.")
        if planned.is_control:
            raise refuse("treatment", f"{letter} is the control already", "Choose another one.")
        plan = version.plan
        if planned.cell is not None:
            amended = replace(plan, control=cell_ids(plan, planned.cell))
        else:
            extras = tuple(replace(e, control="standard") if e.id == planned.id else e for e in plan.extras)
            amended = replace(plan, control={}, extras=extras)
        batches.add_version(conn, batch_id, "amended", amended, version.seed, why, action_id)
        return {"pieces": planned.replicates}

    act = Act("plan", "amend", f"Took {letter} for the control", batch_id, person, why, key=key,
              request=f"control {letter}{why}")  # fmt: skip
    return w.perform(act, body)


def change_judging(
    w: AppContext, batch_id: int, judging: Judging, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """Judge by another rule, other limits, another formula or other words from now on; no piece is touched."""
    why = reason_of(reason)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        version = need_locked(conn, batch_id)
        amended = replace(version.plan, judging=judging)
        wrong = problems(amended)
        if wrong:
            raise Refusal(wrong)
        if amended.judging == version.plan.judging:
            raise refuse("judging", "is what it was", "Change something of it.")
        batches.add_version(conn, batch_id, "amended", amended, version.seed, why, action_id)
        return {"pieces": 0}

    act = Act("plan", "amend", "Changed what counts as good enough", batch_id, person, why, key=key,
              request=f"judging {judging}{why}")  # fmt: skip
    return w.perform(act, body)


def add_treatment(
    w: AppContext, batch_id: int, extra: Extra, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """A further single treatment, lettered after the others; its pieces come last in both orders."""
    why = reason_of(reason)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record, version = load(w, conn, batch_id, action_id), need_locked(conn, batch_id)
        amended = replace(version.plan, extras=(*version.plan.extras, replace(extra, late=next_late(version.plan))))
        wrong = problems(amended)
        if wrong:
            raise Refusal(wrong)
        new = treatments(amended)[-1]
        names = {f.key: f.name for f in amended.factors}
        batches.add_version(conn, batch_id, "amended", amended, version.seed, why, action_id)
        ids = specimens.add_treatments(conn, batch_id, [new], names, action_id)
        seed = w.new_seed()
        made = design.more_specimens(0, 0, extra.replicates, len(record.pieces), seed, specimens.taken_codes(conn),
                                     **parents_of_more(record, joint=True))  # fmt: skip
        write_pieces(conn, batch_id, amended, [new], ids, made, seed, action_id)
        return {"pieces": extra.replicates}

    act = Act("plan", "amend", f"Added the treatment {extra.label}", batch_id, person, why, key=key,
              request=f"{extra}{why}")  # fmt: skip
    return w.perform(act, body)


BEFORE_BREAK = ("cure_s", "conditioning")
"""Fields that can still be changed after a piece is glued."""


def change_constant(
    w: AppContext, batch_id: int, field: str, level: Level, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """Hold a constant at another value from now on. Joints that are made already keep theirs. Returns how many change.

    What is made is a joint that is glued (for cure time and conditioning: one that is broken).
    """
    why = reason_of(reason)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record, version = load(w, conn, batch_id, action_id), need_locked(conn, batch_id)
        if any(f.key == field for f in version.plan.factors) or field == "species":
            raise refuse("field", f"{field!r} is not held constant here", "Choose a constant of the plan.")
        amended = replace(version.plan, constants={**version.plan.constants, field: level})
        wrong = problems(amended)
        if wrong:
            raise Refusal(wrong)
        made = record.observed if field in BEFORE_BREAK else {**record.members, **record.observed}
        singles = {t.id for t in record.treatments.values() if any(k == field for k, _, _ in t.levels)}
        joints = [s for s in record.pieces if s.role == JOINT and s.treatment_id not in singles]
        changed = [s.id for s in joints if s.id not in made]
        if not changed:
            raise refuse("field", "every joint is made already", "Nothing is left to change: begin another batch.")
        batches.add_version(conn, batch_id, "amended", amended, version.seed, why, action_id)
        for s in joints:
            old = record.level(s, field)
            now = level if s.id in changed else old
            if now is not None:
                glueups.add_events(conn, [s.id], "amended", w.stamp(), why, action_id, {field: asdict(now)})
        return {"pieces": len(changed)}

    what = FIELDS[field].name.lower() if field in FIELDS else field
    act = Act("plan", "amend", f"Changed {what} to {level_name(field, level)}", batch_id, person, why, key=key,
              request=f"{field}{level}{why}")  # fmt: skip
    return w.perform(act, body)
