"""Amendments of a locked plan: more pieces, another treatment, one left out, a constant changed.

Nothing is overwritten: each is a version with its reason, and pieces that were made keep the record they were made by.
"""

from __future__ import annotations

import sqlite3
from dataclasses import asdict, replace
from typing import Any

from adhaero.core.observation import Kind, Observation
from adhaero.core.plan import design
from adhaero.core.plan.checks import problems
from adhaero.core.plan.document import MAX_SPECIMENS, Extra, Level, level_name
from adhaero.core.plan.fields import FIELDS
from adhaero.core.refusal import Refusal, refuse
from adhaero.store import batches, breaks, glueups, specimens
from adhaero.store.specimens import StoredTreatment
from adhaero.workflow.facts import Facts, load
from adhaero.workflow.workshop import Act, Workshop, need_locked


def _reason(text: str) -> str:
    reason = " ".join(text.split())
    if not 3 <= len(reason) <= 500:
        raise refuse("reason", "an amendment needs its reason", "Say in a few words why the plan is changed.")
    return reason


def _treatment(facts: Facts, letter: str) -> StoredTreatment:
    found = next((t for t in facts.treatments.values() if t.letter == letter), None)
    if found is None:
        raise refuse("treatment", f"there is no treatment {letter[:10]!r}", "Choose one of the list.")
    return found


def add_pieces(
    w: Workshop, batch_id: int, letter: str, count: int, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """More pieces of a treatment, with new codes; they come last in both orders."""
    why = _reason(reason)
    if not 1 <= count <= 100:
        raise refuse("count", f"{count} more pieces is not possible at once", "Type 1 to 100.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        facts, version = load(w, conn, batch_id, action_id), need_locked(conn, batch_id)
        stored = _treatment(facts, letter)
        if len(facts.pieces) + count > MAX_SPECIMENS:
            raise refuse("count", "the batch would get too large", "Begin another batch.")
        planned = design.treatments(version.plan)
        place = next(i for i, t in enumerate(planned) if t.letter == stored.letter)
        made = sum(s.treatment_id == stored.id for s in facts.pieces)
        new = design.more_specimens(place, made, count, len(facts.pieces), w.new_seed(), specimens.taken_codes(conn))
        ids = {t.letter: t.id for t in facts.treatments.values()}
        amended = design.with_more(version.plan, planned[place], count)
        batches.add_version(conn, batch_id, "amended", amended, version.seed, why, action_id)
        specimens.add_specimens(conn, batch_id, planned, [ids[t.letter] for t in planned], new, action_id,
                                version.plan.sizes.get("slope"))  # fmt: skip
        return {"pieces": count}

    act = Act("plan", "amend", f"Added {count} pieces of {letter}", batch_id, person, why, key=key,
              request=f"{letter}{count}{why}")  # fmt: skip
    return w.perform(act, body)


def leave_out(w: Workshop, batch_id: int, letter: str, reason: str, person: str, key: str | None) -> dict[str, Any]:
    """Leave a treatment out from now on: its unbroken pieces are put aside as not run, those broken stay."""
    why = _reason(reason)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        facts, version = load(w, conn, batch_id, action_id), need_locked(conn, batch_id)
        stored = _treatment(facts, letter)
        aside = [s for s in facts.pieces if s.treatment_id == stored.id and s.id not in facts.observed]
        if not aside:
            raise refuse("treatment", f"every piece of {letter} is broken or put aside already", "Choose another one.")
        batches.add_version(conn, batch_id, "amended", version.plan, version.seed, why, action_id)
        for s in aside:
            void = Observation(Kind.VOID, reason=f"not run: {why}")
            breaks.add_observation(conn, s.id, void, source="typed", now=w.stamp(), person=person, pull_id=None,
                                   setup_id=None, first_crack_n=None, action_id=action_id)  # fmt: skip
        return {"pieces": len(aside)}

    act = Act("plan", "amend", f"Left out treatment {letter}", batch_id, person, why, key=key,
              request=f"out {letter}{why}")  # fmt: skip
    return w.perform(act, body)


def add_treatment(
    w: Workshop, batch_id: int, extra: Extra, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """A further single treatment, lettered after the others; its pieces come last in both orders."""
    why = _reason(reason)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        facts, version = load(w, conn, batch_id, action_id), need_locked(conn, batch_id)
        amended = replace(version.plan, extras=(*version.plan.extras, replace(extra, late=True)))
        wrong = problems(amended)
        if wrong:
            raise Refusal(wrong)
        new = design.treatments(amended)[-1]
        names = {f.key: f.name for f in amended.factors}
        batches.add_version(conn, batch_id, "amended", amended, version.seed, why, action_id)
        ids = specimens.add_treatments(conn, batch_id, [new], names, action_id)
        made = design.more_specimens(
            0, 0, extra.replicates, len(facts.pieces), w.new_seed(), specimens.taken_codes(conn)
        )
        specimens.add_specimens(conn, batch_id, [new], ids, made, action_id, amended.sizes.get("slope"))
        return {"pieces": extra.replicates}

    act = Act("plan", "amend", f"Added the treatment {extra.label}", batch_id, person, why, key=key,
              request=f"{extra}{why}")  # fmt: skip
    return w.perform(act, body)


BEFORE_BREAK = ("cure_s", "conditioning")
"""Fields that can still be changed after a piece is glued."""


def change_constant(
    w: Workshop, batch_id: int, field: str, level: Level, reason: str, person: str, key: str | None
) -> dict[str, Any]:
    """Hold a constant at another value from now on. Joints that are made already keep theirs. Returns how many change.

    What is made is a joint that is glued (for cure time and conditioning: one that is broken).
    """
    why = _reason(reason)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        facts, version = load(w, conn, batch_id, action_id), need_locked(conn, batch_id)
        if any(f.key == field for f in version.plan.factors) or field == "species":
            raise refuse("field", f"{field!r} is not held constant here", "Choose a constant of the plan.")
        amended = replace(version.plan, constants={**version.plan.constants, field: level})
        wrong = problems(amended)
        if wrong:
            raise Refusal(wrong)
        made = facts.observed if field in BEFORE_BREAK else {**facts.members, **facts.observed}
        singles = {t.id for t in facts.treatments.values() if any(k == field for k, _, _ in t.levels)}
        joints = [s for s in facts.pieces if s.role == design.JOINT and s.treatment_id not in singles]
        changed = [s.id for s in joints if s.id not in made]
        if not changed:
            raise refuse("field", "every joint is made already", "Nothing is left to change: begin another batch.")
        batches.add_version(conn, batch_id, "amended", amended, version.seed, why, action_id)
        for s in joints:
            old = facts.level(s, field)
            now = level if s.id in changed else old
            if now is not None:
                glueups.add_events(conn, [s.id], "amended", w.stamp(), why, action_id, {field: asdict(now)})
        return {"pieces": len(changed)}

    what = FIELDS[field].name.lower() if field in FIELDS else field
    act = Act("plan", "amend", f"Changed {what} to {level_name(field, level)}", batch_id, person, why, key=key,
              request=f"{field}{level}{why}")  # fmt: skip
    return w.perform(act, body)
