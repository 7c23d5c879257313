"""Glue: glue-ups with what really happened, clamp pressure from the measured area, and what is still in clamps."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from operator import attrgetter
from typing import Any

from adhaero.core.glue.clamping import crushes, force_n
from adhaero.core.materials.glue import GLUES
from adhaero.core.materials.wood import WOODS
from adhaero.core.plan.document import level_name
from adhaero.core.refusal import refuse
from adhaero.store import glueups, shop
from adhaero.store.glueups import Glueup
from adhaero.store.shop import Bottle
from adhaero.store.specimens import Specimen
from adhaero.workflow.facts import Facts, find_piece, find_pieces, load
from adhaero.workflow.workshop import Act, Workshop, iso, moment

APART_DAYS = 30
"""Bottles opened less far apart than this are taken as of one age."""
PRESSURE_TOLERANCE = 0.2
"""Share by which the clamp pressure may leave the planned one before it is pointed out."""


@dataclass(frozen=True)
class GluePiece:
    """A joint as the bench sees it. Pressure follows from force and measured area; ``flags`` say what is off."""

    code: str
    treatment: str
    label: str
    glue: str
    glue_order: int
    orientation: str
    form: str
    area_mm2: float
    measured: bool
    wanted_mpa: float | None
    wanted_force_n: float | None
    glueup: int | None
    pressure_mpa: float | None
    flags: list[str]
    exception: bool
    note: str
    unclamped_at: str | None
    clamp_until: str | None
    clamp_s: float | None
    conditioning: str
    condition_at: str | None
    in_at: str | None
    out_at: str | None


@dataclass(frozen=True)
class GlueupView:
    """A glue-up with the number of its pieces still in clamps."""

    glueup: Glueup
    pieces: int
    in_clamps: int
    exceptions: int


@dataclass(frozen=True)
class GlueView:
    """The gluing of a batch; ``cautions`` by glue family used."""

    batch_id: int
    name: str
    glueups: list[GlueupView]
    pieces: list[GluePiece]
    cautions: list[tuple[str, str]]
    bottles: list[tuple[str, str]]
    warnings: list[str]


def _flags(s: Specimen, pressure: float | None, late: bool) -> list[str]:
    flags = []
    family = GLUES.get(s.glue)
    if pressure is not None:
        if s.pressure_mpa and abs(pressure / s.pressure_mpa - 1) > PRESSURE_TOLERANCE:
            flags.append(f"{100 * (pressure / s.pressure_mpa - 1):+.0f} % off the planned pressure")
        if family and not family.pressure_low_mpa <= pressure <= family.pressure_high_mpa:
            side = "below" if pressure < family.pressure_low_mpa else "above"
            flags.append(f"{side} the usual {family.pressure_low_mpa:g} to {family.pressure_high_mpa:g} MPa")
        wood = WOODS.get(s.species_a)
        if wood and crushes(pressure, wood.crush_across_mpa):
            flags.append(f"near crushing {wood.name.lower()} ({wood.crush_across_mpa:g} MPa)")
    if late:
        flags.append("past its clamp time")
    return flags


def _conditioning(facts: Facts, s: Specimen) -> str:
    """The conditioning of a piece in words; empty for one that has none."""
    level = facts.level(s, "conditioning")
    return level_name("conditioning", level) if level is not None and facts.conditioning(s)[0] else ""


def _late(facts: Facts, s: Specimen, now: datetime) -> bool:
    """Whether a piece is still in its clamps after its clamp time."""
    member = facts.members.get(s.id)
    if member is None or s.id in facts.unclamped:
        return False
    return now > facts.pressed_at(s) + timedelta(seconds=s.clamp_s or 0)


def _piece(facts: Facts, s: Specimen, late: bool) -> GluePiece:
    t, member = facts.treatments[s.treatment_id], facts.members.get(s.id)
    area = facts.area_mm2(s)
    glueup = facts.glueups[member.glueup_id] if member else None
    pressure = facts.pressure_mpa(s)
    out = facts.unclamped.get(s.id)
    until = facts.pressed_at(s) + timedelta(seconds=s.clamp_s or 0) if glueup else None
    begun, ended = facts.conditioned.get((s.id, "in")), facts.conditioned.get((s.id, "out"))
    taken = (moment(out.at) - facts.pressed_at(s)).total_seconds() if glueup and out else None
    return GluePiece(
        code=s.code,
        treatment=t.letter,
        label=t.label,
        glue=s.glue,
        glue_order=s.glue_order,
        orientation=s.orientation,
        form=facts.form(s).key,
        area_mm2=area,
        measured=facts.is_measured(s.id),
        wanted_mpa=s.pressure_mpa,
        wanted_force_n=None if s.pressure_mpa is None else force_n(s.pressure_mpa, area),
        glueup=glueup.number if glueup else None,
        pressure_mpa=pressure,
        flags=_flags(s, pressure, late),
        exception=member.is_exception if member else False,
        note=member.note if member else "",
        unclamped_at=out.at if out else None,
        clamp_until=iso(until) if until else None,
        clamp_s=taken,
        conditioning=_conditioning(facts, s),
        condition_at=iso(facts.pressed_at(s) + timedelta(seconds=s.cure_s or 0)) if glueup else None,
        in_at=begun.at if begun else None,
        out_at=ended.at if ended else None,
    )


def view(w: Workshop, batch_id: int) -> GlueView:
    """All joints of a locked batch with their gluing, and its glue-ups."""
    with w.db.read() as conn:
        facts = load(w, conn, batch_id)
        bottles = shop.bottles(conn)
    now = w.now()
    pieces = []
    for s in facts.pieces:
        if s.role != "solid":
            pieces.append(facts.row("glue", s, _piece, _late(facts, s, now)))
    pieces.sort(key=attrgetter("glue_order"))
    families = dict.fromkeys(p.glue for p in pieces)
    own: dict[int | None, list[GluePiece]] = {}
    for p in pieces:
        own.setdefault(p.glueup, []).append(p)
    return GlueView(
        batch_id=batch_id,
        name=facts.batch.name,
        glueups=[_glueup(g, own.get(g.number, [])) for g in facts.glueups.values()],
        pieces=pieces,
        cautions=[(GLUES[f].name, GLUES[f].caution) for f in families if f in GLUES],
        bottles=[(b.label, b.family) for b in bottles],
        warnings=_bottle_warnings(facts, {b.label: b for b in bottles}),
    )


def _bottle_warnings(facts: Facts, known: dict[str, Bottle]) -> list[str]:
    """What the bottles add to the test: two of one glue opened at different times, or one past its date when used."""
    used: dict[str, dict[str, str]] = {}
    for s in facts.pieces:
        member = facts.members.get(s.id)
        if member is not None:
            g = facts.glueups[member.glueup_id]
            label = member.bottle if member.bottle is not None else g.bottle
            if label in known:
                used.setdefault(s.glue, {}).setdefault(label, g.started_at[:10])
    found = []
    for glue, labels in used.items():
        name = GLUES[glue].name if glue in GLUES else glue
        opened = {label: known[label].opened_on for label in labels}
        days = sorted(date.fromisoformat(d) for d in opened.values() if d)
        if len(days) > 1 and (days[-1] - days[0]).days >= APART_DAYS:
            listed = " and ".join(f"{label} ({d or 'not known'})" for label, d in opened.items())
            found.append(f"{name} came from bottles opened at different times: {listed}. Their age runs along.")
        for label, at in labels.items():
            end = known[label].expires_on
            if end and end < at:
                found.append(f"{label} was past its date ({end}) when it was used.")
    return found


def _glueup(g: Glueup, own: list[GluePiece]) -> GlueupView:
    return GlueupView(g, len(own), sum(p.unclamped_at is None for p in own), sum(p.exception for p in own))


@dataclass(frozen=True)
class NewGlueup:
    """A glue-up as entered; numbers in N, degrees Celsius, %, g/m2."""

    codes: Sequence[str]
    person: str
    started_at: datetime | None
    air_c: float | None
    humidity_pct: float | None
    bottle: str
    force_n: float | None
    clamps: int
    force_known: str
    spread_g_m2: float | None
    faces: str
    note: str


def _check(new: NewGlueup, now: datetime) -> None:
    if not new.codes:
        raise refuse("codes", "no piece is chosen", "Choose the pieces that go into this glue-up.")
    if new.force_n is not None and not 0 < new.force_n <= 200_000:
        raise refuse("force_n", f"a clamp force of {new.force_n:g} N is not possible", "Check the number and its unit.")
    if not 1 <= new.clamps <= 50:
        raise refuse("clamps", "clamps per joint must be 1 to 50", "Type how many clamps press on one joint.")
    if new.air_c is not None and not -20 <= new.air_c <= 50:
        raise refuse("air_c", f"{new.air_c:g} °C is no air to glue in", "Check the number and its unit.")
    if new.humidity_pct is not None and not 0 <= new.humidity_pct <= 100:
        raise refuse("humidity_pct", "humidity must be 0 to 100 %", "Check the number.")
    if new.started_at is not None and new.started_at > now + timedelta(minutes=5):
        raise refuse("started_at", "the start lies in the future", "Type when the gluing began.")


def add_glueup(w: Workshop, batch_id: int, new: NewGlueup, key: str | None) -> dict[str, Any]:
    """Write down a glue-up of joints that have none yet. Returns their number."""
    _check(new, w.now())

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        facts = load(w, conn, batch_id, action_id)
        pieces = find_pieces(conn, facts, new.codes)
        for i, s in enumerate(pieces):
            if s.role == "solid":
                raise refuse(f"codes.{i}", f"{s.code} is solid wood", "Leave it out: there is nothing to glue.")
            if s.id in facts.members:
                raise refuse(f"codes.{i}", f"{s.code} is already glued", "Leave it out, or undo that glue-up first.")
        bottle = next((b for b in shop.bottles(conn) if b.label == new.bottle), None)
        values = {
            "started_at": iso(new.started_at or w.now()),
            "person": new.person,
            "air_c": new.air_c,
            "humidity_pct": new.humidity_pct,
            "bottle": new.bottle,
            "bottle_id": bottle.id if bottle else None,
            "force_n": new.force_n,
            "clamps": new.clamps,
            "force_known": new.force_known if new.force_n is not None else "unknown",
            "spread_g_m2": new.spread_g_m2,
            "faces": new.faces,
            "note": new.note,
        }
        glueup_id = glueups.add_glueup(conn, batch_id, values, action_id)
        glueups.add_members(conn, glueup_id, [s.id for s in pieces], action_id)
        return {"pieces": len(pieces)}

    act = Act("glue", "glue-up", f"Glued {len(new.codes)} joints", batch_id, new.person, key=key, request=repr(new))
    return w.perform(act, body)


def except_piece(
    w: Workshop, batch_id: int, code: str, changed: dict[str, Any], person: str, key: str | None
) -> dict[str, Any]:
    """Note what was different for one piece of a glue-up: force_n, clamps, bottle, spread_g_m2, note."""
    force = changed.get("force_n")
    if force is not None and not 0 < force <= 200_000:
        raise refuse("force_n", f"a clamp force of {force:g} N is not possible", "Check the number and its unit.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        facts = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, facts, code)
        member = facts.members.get(piece.id)
        if member is None:
            raise refuse("code", f"{piece.code} is in no glue-up yet", "Put it into one first.")
        glueups.except_member(conn, member, changed, action_id)
        return {"pieces": 1}

    summary = f"Noted an exception for {code}"
    return w.perform(Act("glue", "exception", summary, batch_id, person, key=key, request=f"{code}{changed}"), body)


def condition(
    w: Workshop, batch_id: int, codes: Sequence[str], way: str, at: datetime | None, person: str, key: str | None
) -> dict[str, Any]:
    """Put pieces into their conditioning (``in``), or take them out (``out``), now or at a time stated."""
    if way not in ("in", "out"):
        raise refuse("way", f"{way[:20]!r} is no way", "Use in or out.")
    when = at or w.now()
    if when > w.now() + timedelta(minutes=5):
        raise refuse("at", "that lies in the future", "Type when it was.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        facts = load(w, conn, batch_id, action_id)
        pieces = find_pieces(conn, facts, codes)
        for i, s in enumerate(pieces):
            field = f"codes.{i}"
            if not facts.conditioning(s)[0]:
                raise refuse(field, f"{s.code} is not to be conditioned", "Leave it out.")
            if s.id not in facts.unclamped:
                raise refuse(field, f"{s.code} is not out of its clamps yet", "Take it out of them first.")
            if (s.id, way) in facts.conditioned:
                raise refuse(field, f"{s.code} is {way} already", "Leave it out.")
            begun = facts.conditioned.get((s.id, "in"))
            if way == "out" and (begun is None or when < moment(begun.at)):
                raise refuse(field, f"{s.code} was not in its conditioning then", "Put it in first.")
        glueups.add_events(conn, [s.id for s in pieces], "conditioned", iso(when), "", action_id, {"way": way})
        return {"pieces": len(pieces)}

    what = "Put into" if way == "in" else "Took out of"
    act = Act("glue", "condition", f"{what} conditioning: {len(codes)} joints", batch_id, person, key=key,
              request=f"{way}{list(codes)}{at}")  # fmt: skip
    return w.perform(act, body)


def unclamp(
    w: Workshop, batch_id: int, codes: Sequence[str], at: datetime | None, note: str, person: str, key: str | None
) -> dict[str, Any]:
    """Take pieces out of their clamps, now or at a time stated."""
    when = at or w.now()
    if when > w.now() + timedelta(minutes=5):
        raise refuse("at", "that lies in the future", "Type when the clamps came off.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        facts = load(w, conn, batch_id, action_id)
        pieces = find_pieces(conn, facts, codes)
        for i, s in enumerate(pieces):
            member = facts.members.get(s.id)
            if member is None:
                raise refuse(f"codes.{i}", f"{s.code} is in no clamp", "Glue it first.")
            if s.id in facts.unclamped:
                raise refuse(f"codes.{i}", f"{s.code} is already out of its clamps", "Leave it out.")
            if when < facts.pressed_at(s):
                raise refuse("at", f"{s.code} was glued later than that", "Type when the clamps came off.")
        glueups.add_events(conn, [s.id for s in pieces], "unclamped", iso(when), note, action_id)
        return {"pieces": len(pieces)}

    act = Act(
        "glue",
        "unclamp",
        f"Unclamped {len(codes)} joints",
        batch_id,
        person,
        key=key,
        request=f"{list(codes)}{at}{note}",
    )
    return w.perform(act, body)
