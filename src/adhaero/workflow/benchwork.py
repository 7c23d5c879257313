"""The guide at the bench: what to lay out for a run, and every tap of a glue-up with its time, each counted once."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from adhaero.core.glue.clamping import force_n
from adhaero.core.materials.glue import GLUES
from adhaero.core.plan.document import Level
from adhaero.core.refusal import refuse
from adhaero.store import actions, clamps, glueups, shop
from adhaero.store.specimens import Specimen
from adhaero.workflow.demand import unglued
from adhaero.workflow.facts import Facts, find_piece, load
from adhaero.workflow.workshop import Act, Workshop, iso, moment

MIXED, SPREAD, CLAMPED, NOTE = "mixed", "spread", "clamped", "note"
NOTES = ("slipped", "starved", "much squeeze-out", "spilled")
USUAL_SPREAD_G_M2 = 180.0
WASTE = 1.5
FEW = 12


@dataclass(frozen=True)
class GuidePiece:
    """A joint of the run: ``force_n`` is what its clamp should give; ``spread_at`` and ``closed_at`` as taken down."""

    code: str
    treatment: str
    label: str
    orientation: str
    form: str
    area_mm2: float
    force_n: float | None
    clamp: str
    spread_at: str | None
    closed_at: str | None
    notes: list[str]


@dataclass(frozen=True)
class Guide:
    """A run at the bench. ``open_s`` and ``pot_s`` are the glue's limits at 20 degrees; ``mixed_at`` its mix."""

    batch_id: int
    name: str
    method: str
    run: int
    glue: str
    glue_name: str
    open_s: float | None
    pot_s: float | None
    grams: float
    pieces: list[GuidePiece]
    mixed_at: str | None
    mix_key: str | None
    glueup: int | None
    cautions: list[str]
    bottles: list[str]
    left: int


def guide(w: Workshop, batch_id: int, run: int | None = None) -> Guide:
    """The run to glue now: the one that was begun, else the next of the schedule, else what one pot of glue allows."""
    with w.db.read() as conn:
        facts = load(w, conn, batch_id)
        kept = clamps.schedule(conn, batch_id)
        labels = {str(c.id): c.label for c in clamps.clamps(conn)}
        bottles = [b.label for b in shop.bottles(conn)]
        open_mix = _open_mix(conn, batch_id)
        number, codes, places = _run(facts, kept.document if kept else None, run, open_mix)
        pieces = [find_piece(conn, facts, c) for c in codes]
        told = _told(conn, batch_id, pieces)
    family = pieces[0].glue if pieces else ""
    known = GLUES.get(family)
    return Guide(
        batch_id=batch_id,
        name=facts.batch.name,
        method=facts.plan.method,
        run=number,
        glue=family,
        glue_name=known.name if known else family,
        open_s=known.open_s if known else None,
        pot_s=known.pot_life_s if known else None,
        grams=sum(_grams(facts, s) for s in pieces),
        pieces=[_piece(facts, s, places.get(s.code, ""), labels, told) for s in pieces],
        mixed_at=open_mix["at"] if open_mix else None,
        mix_key=open_mix["key"] if open_mix else None,
        glueup=open_mix["number"] if open_mix else None,
        cautions=[known.caution] if known else [],
        bottles=bottles,
        left=len(unglued(facts)),
    )


def _open_mix(conn: sqlite3.Connection, batch_id: int) -> dict[str, Any] | None:
    """The glue-up begun at the bench last, while joints that were laid out for it are not all clamped."""
    row = conn.execute(
        """SELECT g.id, g.number, g.started_at AS at, a.key, a.after FROM current_glueup g
           JOIN action a ON a.id = g.action_id WHERE g.batch_id = ? AND a.kind = 'mix' ORDER BY g.id DESC LIMIT 1""",
        (batch_id,),
    ).fetchone()
    if row is None:
        return None
    laid_out = json.loads(row["after"])["codes"]
    done = {
        r[0] for r in conn.execute(
            """SELECT s.code FROM current_glueup_specimen m JOIN specimen s ON s.id = m.specimen_id
               WHERE m.glueup_id = ?""",
            (row["id"],),
        )
    }  # fmt: skip
    if set(laid_out) <= done:
        return None
    return {**dict(row), "codes": laid_out}


def _run(
    facts: Facts, schedule: dict[str, Any] | None, wanted: int | None, open_mix: dict[str, Any] | None
) -> tuple[int, list[str], dict[str, str]]:
    """(run, codes in order, code -> clamp) of what is glued now."""
    waiting = {s.code: s for s in unglued(facts)}
    places: dict[str, str] = {}
    runs: list[tuple[int, list[str]]] = []
    if schedule is not None:
        places = {c["code"]: f"{c['clamp']} {c['number']}" for c in schedule["courses"]}
        runs = [(s["run"] + 1, list(s["codes"])) for s in schedule["slots"] if s["kind"] == "glue"]
    if open_mix is not None:
        number = next((n for n, codes in runs if set(codes) & set(open_mix["codes"])), 0)
        return number, open_mix["codes"], places
    for number, codes in runs:
        left = [c for c in codes if c in waiting]
        if left and wanted in (None, number):
            return number, left, places
    return 0, _by_hand(list(waiting.values())), places


def _by_hand(waiting: list[Specimen]) -> list[str]:
    """Without a schedule: the next joints of one glue in the random order, a dozen at most."""
    ordered = sorted(waiting, key=lambda s: s.glue_order)
    return [s.code for s in ordered if s.glue == ordered[0].glue][:FEW]


def _told(conn: sqlite3.Connection, batch_id: int, pieces: list[Specimen]) -> dict[int, dict[str, Any]]:
    found: dict[int, dict[str, Any]] = {}
    for e in glueups.events(conn, batch_id, {s.id for s in pieces}):
        own = found.setdefault(e.specimen_id, {"notes": []})
        if e.kind == NOTE:
            own["notes"].append(e.note)
        else:
            own[e.kind] = e.at
    return found


def _grams(facts: Facts, s: Specimen) -> float:
    spread, faces = facts.level(s, "spread_g_m2"), facts.level(s, "faces")
    rate = float(spread.value) if spread is not None and isinstance(spread.value, float | int) else USUAL_SPREAD_G_M2
    both = 2 if faces == Level("both") else 1
    return facts.area_mm2(s) * 1e-6 * rate * both * WASTE


def _piece(
    facts: Facts, s: Specimen, place: str, labels: dict[str, str], told: dict[int, dict[str, Any]]
) -> GuidePiece:
    t, own = facts.treatments[s.treatment_id], told.get(s.id, {"notes": []})
    kind, _, number = place.partition(" ")
    area = facts.area_mm2(s)
    return GuidePiece(
        code=s.code,
        treatment=t.letter,
        label=t.label,
        orientation=s.orientation,
        form=facts.form(s).key,
        area_mm2=area,
        force_n=None if s.pressure_mpa is None else force_n(s.pressure_mpa, area),
        clamp=f"{labels[kind]} {number}" if kind in labels else "",
        spread_at=own.get(SPREAD),
        closed_at=own.get("closed"),
        notes=own["notes"],
    )


@dataclass(frozen=True)
class Tap:
    """One tap: ``mixed`` lays out ``codes``, the others are about ``code`` under the mix that has key ``mix``."""

    kind: str
    at: datetime
    codes: tuple[str, ...] = ()
    code: str = ""
    mix: str = ""
    text: str = ""
    air_c: float | None = None
    humidity_pct: float | None = None
    bottle: str = ""


def tap(w: Workshop, batch_id: int, t: Tap, person: str, key: str | None) -> dict[str, Any]:
    """Take down one tap. Under the key of an earlier one nothing happens twice, in whatever order answers get lost."""
    if t.kind not in (MIXED, SPREAD, CLAMPED, NOTE):
        raise refuse("kind", f"{t.kind[:20]!r} is no tap", "Use mixed, spread, clamped or note.")
    if t.at > w.now() + timedelta(minutes=5):
        raise refuse("at", "that lies in the future", "Check the clock of this device.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        facts = load(w, conn, batch_id, action_id)
        if t.kind == MIXED:
            return _mix(conn, facts, t, person, action_id)
        piece = find_piece(conn, facts, t.code)
        if t.kind == NOTE:
            if not 2 <= len(t.text.strip()) <= 300:
                raise refuse("text", "the note has no words", "Say what happened.")
            glueups.add_events(conn, [piece.id], NOTE, iso(t.at), t.text.strip(), action_id)
        elif piece.id in facts.members:
            raise refuse("code", f"{piece.code} is already glued", "Go on with the next one.")
        elif t.kind == SPREAD:
            glueups.add_events(conn, [piece.id], SPREAD, iso(t.at), "", action_id)
        else:
            _clamp(conn, facts, piece, t, action_id)
        return {"pieces": 1}

    what = {MIXED: f"Mixed glue for {len(t.codes)} joints", SPREAD: f"Spread {t.code}", CLAMPED: f"Clamped {t.code}",
            NOTE: f"Noted of {t.code}: {t.text[:40]}"}[t.kind]  # fmt: skip
    kind = "mix" if t.kind == MIXED else t.kind
    return w.perform(
        Act("glue", kind, what, batch_id, person, key=key, request=repr(t), after={"codes": list(t.codes)}), body
    )


def _mix(conn: sqlite3.Connection, facts: Facts, t: Tap, person: str, action_id: int) -> dict[str, Any]:
    if not t.codes:
        raise refuse("codes", "no joint is laid out", "Lay out the joints of this run.")
    for i, code in enumerate(t.codes):
        if find_piece(conn, facts, code, f"codes.{i}").id in facts.members:
            raise refuse(f"codes.{i}", f"{code} is already glued", "Leave it out.")
    bottle = next((b for b in shop.bottles(conn) if b.label == t.bottle), None)
    values = {
        "started_at": iso(t.at), "person": person, "air_c": t.air_c, "humidity_pct": t.humidity_pct,
        "bottle": t.bottle, "bottle_id": bottle.id if bottle else None, "force_n": None, "clamps": 1,
        "force_known": "estimated", "spread_g_m2": None, "faces": "one", "note": "",
    }  # fmt: skip
    glueups.add_glueup(conn, facts.batch.id, values, action_id)
    return {"pieces": len(t.codes)}


def _clamp(conn: sqlite3.Connection, facts: Facts, piece: Specimen, t: Tap, action_id: int) -> None:
    made_by = actions.of_key(conn, t.mix)
    row = conn.execute("SELECT id, started_at FROM current_glueup WHERE action_id = ?", (made_by,)).fetchone()
    if row is None:
        raise refuse("mix", "there is no such mix", "Begin the run again: mix, then joint after joint.")
    if t.at < moment(row["started_at"]):
        raise refuse("at", f"{piece.code} cannot be clamped before its glue was mixed", "Check the clock.")
    glueups.add_members(conn, row["id"], [piece.id], action_id)
    member = next(m for m in glueups.members(conn, facts.batch.id, {piece.id}))
    if piece.pressure_mpa:
        changed = {"force_n": force_n(piece.pressure_mpa, facts.area_mm2(piece))}
        glueups.except_member(conn, member, changed, action_id)
    glueups.add_events(conn, [piece.id], "closed", iso(t.at), "", action_id)
