"""What the numbers are held against: covariates that run along, tolerances, and the claims to be tested."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from adhaero.core.compare import runs_along
from adhaero.core.compare.nested import nested
from adhaero.core.glue.departures import Departure, departures
from adhaero.core.refusal import refuse
from adhaero.store import boards, remarks, shop
from adhaero.store.specimens import Specimen
from adhaero.workflow.facts import Facts
from adhaero.workflow.workshop import Act, Workshop, moment, need_locked

STATES = ("supported", "not supported", "not tested")


@dataclass(frozen=True)
class ClaimView:
    """A claim with the treatments that decide it and how it ended; ``state`` is empty while nobody has said."""

    text: str
    treatments: list[str]
    state: str
    note: str


@dataclass(frozen=True)
class Departed:
    """A piece made or broken outside of the plan's tolerance, in words."""

    code: str
    treatment: str
    text: str


def decide(
    w: Workshop, batch_id: int, text: str, state: str, note: str, person: str, key: str | None
) -> dict[str, Any]:
    """Say how a claim of the plan ended."""
    if state not in STATES:
        raise refuse("state", f"{state[:40]!r} is no end of a claim", "Use one of: " + ", ".join(STATES) + ".")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        plan = need_locked(conn, batch_id).plan
        if all(c.text != text for c in plan.claims):
            raise refuse("text", "the plan makes no such claim", "Choose one of the plan's claims.")
        return {
            "id": remarks.add(
                conn, batch_id, "claim", {"text": text, "state": state, "note": note}, w.stamp(), action_id
            )
        }

    act = Act(
        "compare", "claim", f"Claim {state}: {text[:60]}", batch_id, person, key=key, request=f"{text}{state}{note}"
    )
    return w.perform(act, body)


def of_plan(conn: sqlite3.Connection, facts: Facts) -> list[ClaimView]:
    """The claims of a plan with what was said of them last."""
    said = {r["text"]: r for r in remarks.standing(conn, facts.batch.id, "claim")}
    return [
        ClaimView(
            c.text, list(c.treatments), said.get(c.text, {}).get("state", ""), said.get(c.text, {}).get("note", "")
        )
        for c in facts.plan.claims
    ]


def along(conn: sqlite3.Connection, facts: Facts) -> list[str]:
    """What runs along with the treatments among the joints that were made."""
    joints = [s for s in facts.counting if s.role != "solid" and s.id in facts.members]
    if not joints:
        return []
    plan = boards.cut_plan(conn, facts.batch.id)
    board = {b["code"]: str(b["board_id"]) for b in plan.document["blanks"]} if plan else {}
    rows = [facts.row("along", s, _covariates, board.get(s.code)) for s in joints]
    letters = [facts.treatments[s.treatment_id].letter for s in joints]
    keys = [k for k in runs_along.NAMES if k != "bottle"]
    found = runs_along.sentences(letters, {k: [r[k] for r in rows] for k in keys})
    # Another glue comes from another bottle: only among treatments of the same glue does the bottle say something.
    for glue in sorted({s.glue for s in joints}):
        own = [i for i, s in enumerate(joints) if s.glue == glue]
        found += runs_along.sentences([letters[i] for i in own], {"bottle": [rows[i]["bottle"] for i in own]})
    return list(dict.fromkeys(found))


def units(facts: Facts, figure: Callable[[Specimen], float | None], shown: Callable[[float], str]) -> list[str]:
    """Where several pieces come from one glue-up: that pieces are the units here, and what it would be otherwise.

    ``figure`` gives the exact figure of a piece, ``shown`` puts it in words.
    """
    own: dict[int, list[tuple[float, int]]] = {t: [] for t in facts.treatments}
    for s in facts.counting:
        if s.id in facts.members and (v := figure(s)) is not None:
            own[s.treatment_id].append((v, facts.members[s.id].glueup_id))
    found = []
    for t in facts.treatments.values():
        n = nested([v for v, _ in own[t.id]], [g for _, g in own[t.id]])
        if n is not None:
            found.append(
                f"{t.label}: {n.parents} glue-ups, {n.pieces} pieces. Pieces are the units here (standard error "
                f"{shown(n.se_pieces)}); with glue-ups as units it is {shown(n.se_parents)}."
            )
    return found


def _covariates(facts: Facts, s: Specimen, board: str | None) -> dict[str, str | None]:
    member, seen = facts.members[s.id], facts.observed.get(s.id)
    g = facts.glueups[member.glueup_id]
    return {
        "day": g.started_at[:10],
        "glueup": str(g.number),
        "person": g.person or None,
        "bottle": (member.bottle if member.bottle is not None else g.bottle) or None,
        "board": board,
        "break-day": seen.at[:10] if seen else None,
        "tester": (seen.person or None) if seen else None,
        "setup": str(seen.setup_id) if seen and seen.setup_id is not None else None,
    }


def departed(conn: sqlite3.Connection, facts: Facts) -> list[Departed]:
    """The joints that left the plan's tolerances, in plan order."""
    if not facts.plan.tolerances:
        return []
    unit = shop.settings(conn).get("units", {}).get("stress", "MPa")
    found = []
    for s in facts.counting:
        for d in facts.row("departed", s, _departures):
            text = d.in_words(unit if d.field == "pressure_mpa" else {"clamp_s": "h", "cure_s": "h"}.get(d.field, ""))
            found.append(Departed(s.code, facts.treatments[s.treatment_id].letter, text))
    return found


def _departures(facts: Facts, s: Specimen) -> list[Departure]:
    member = facts.members.get(s.id)
    if member is None:
        return []
    g, out, seen = facts.glueups[member.glueup_id], facts.unclamped.get(s.id), facts.observed.get(s.id)
    start, until = facts.pressed_at(s), facts.conditioned.get((s.id, "in")) or seen
    spread = member.spread_g_m2 if member.spread_g_m2 is not None else g.spread_g_m2
    actual = {
        "pressure_mpa": facts.pressure_mpa(s),
        "clamp_s": (moment(out.at) - start).total_seconds() if out else None,
        "cure_s": (moment(until.at) - start).total_seconds() if until else None,
        "air_c": g.air_c,
        "spread_g_m2": spread,
    }
    return departures({k: facts.level(s, k) for k in facts.plan.tolerances}, actual, facts.plan.tolerances)
