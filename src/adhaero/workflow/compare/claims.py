"""The claims of a plan, and how each ended."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Any

from adhaero.core.refusal import refuse
from adhaero.store import actions, remarks
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, need_locked

STATES = ("supported", "not supported", "not tested")


@dataclass(frozen=True)
class ClaimView:
    """A claim with the treatments that decide it, by letter; ``state`` is empty until somebody says how it ended."""

    id: str
    text: str
    treatments: list[str]
    state: str
    note: str


def decide(
    w: AppContext, batch_id: int, claim: str, state: str, note: str, person: str, key: str | None
) -> dict[str, Any]:
    """Say how a claim of the plan (by its id) ended."""
    if state not in STATES:
        raise refuse("state", f"{state[:40]!r} is no end of a claim", "Use one of: " + ", ".join(STATES) + ".")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        plan = need_locked(conn, batch_id).plan
        found = next((c for c in plan.claims if c.id == claim), None)
        if found is None:
            raise refuse("claim", "the plan makes no such claim", "Choose one of the plan's claims.")
        said = {"claim": claim, "text": found.text, "state": state, "note": note}
        actions.say(conn, action_id, f"Claim {state}: {found.text[:60]}")
        return {"id": remarks.add(conn, batch_id, "claim", said, w.stamp(), action_id)}

    act = Act("compare", "claim", f"Claim {state}", batch_id, person, key=key, request=f"{claim}{state}{note}")
    return w.perform(act, body)


def of_plan(conn: sqlite3.Connection, record: BatchRecord) -> list[ClaimView]:
    """The claims of a plan with what was said of them last."""
    remarked = remarks.standing(conn, record.batch.id, "claim")
    by_id = {r.get("claim", r["text"]): r for r in remarked}
    letters = {t.id: t.letter for t in record.planned.values()}
    found = []
    for c in record.plan.claims:
        # What was said before claims had ids names them by their words.
        said = by_id.get(c.id) or by_id.get(c.text) or {}
        named = [letters[x] for x in c.treatments if x in letters]
        found.append(ClaimView(c.id, c.text, named, said.get("state", ""), said.get("note", "")))
    return found
