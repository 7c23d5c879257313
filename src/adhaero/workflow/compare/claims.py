"""The claims of a plan, and how each ended."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any

from adhaero.core.compare.analysis import Row
from adhaero.core.compare.claim_end import NOT_SUPPORTED, NOT_TESTED, SUPPORTED, UNKNOWN, end_of
from adhaero.core.compare.planned import Setting
from adhaero.core.plan.document import Asked
from adhaero.core.refusal import refuse
from adhaero.store import actions, remarks
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, need_locked

STATES = (SUPPORTED, NOT_SUPPORTED, NOT_TESTED)


@dataclass(frozen=True)
class ClaimView:
    """A claim with the treatments that decide it, by letter; ``state`` is empty until somebody says how it ended.

    ``by_figures`` is how it ends by its figures, with the comparisons that decide it in ``figures``; empty where it is
    not put in figures and its treatments have results. ``objection`` is what the figures say against the ``state``.
    """

    id: str
    text: str
    treatments: list[str]
    state: str
    note: str
    by_figures: str = ""
    figures: list[str] = field(default_factory=list)
    objection: str = ""


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
        if state != NOT_TESTED and not found.says and not note.strip():
            raise refuse("note", "no comparison is named that decides it", "Write first which figures decide it.")
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


def with_figures(record: BatchRecord, claims: Iterable[ClaimView], rows: Iterable[Row], s: Setting) -> list[ClaimView]:
    """The claims with how they end by the figures of ``rows`` (all treatments, those of side questions too)."""
    by_letter = {r.group.letter: r for r in rows}
    letters = {t.id: t.letter for t in record.planned.values()}
    stated = {c.id: c for c in record.plan.claims}
    return [_judged(c, stated[c.id], by_letter, letters, s) for c in claims]


def _judged(c: ClaimView, claim: Asked, rows: dict[str, Row], letters: dict[str, str], s: Setting) -> ClaimView:
    tried = [rows.get(x) for x in c.treatments]
    if not claim.says:
        untested = not tried or any(r is None or r.summary.n == 0 for r in tried)
        return replace(c, by_figures=NOT_TESTED if untested and c.treatments else "")
    other = rows.get(letters.get(claim.against, ""))
    ends = [end_of(claim.says, claim.share, r, other, s) for r in tried]
    states = [e.state for e in ends]
    # All of its treatments have to bear a claim out; one that speaks against it is enough.
    state = next((s for s in (NOT_SUPPORTED, NOT_TESTED, UNKNOWN, SUPPORTED) if s in states), NOT_TESTED)
    against = c.state in (SUPPORTED, NOT_SUPPORTED) and state != c.state
    objection = f"This says {c.state}; its figures say {state}" if against else ""
    return replace(c, by_figures=state, figures=[e.text for e in ends], objection=objection)
