"""Writing down a glue-up: which joints, from which bottle, pressed how hard by what, and when."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from adhaero.core.compare.data import counted
from adhaero.core.glue.clamping import force_n, side_by_side
from adhaero.core.glue.pressing import CLAMPLESS, MEANS
from adhaero.core.materials.glue import GLUES
from adhaero.core.refusal import Doubts, refuse
from adhaero.store import bottles as store
from adhaero.store import glueups
from adhaero.store.bottles import Bottle
from adhaero.store.glueups import Mix
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import Act, AppContext, iso
from adhaero.workflow.piece_finding import find_piece, find_unit
from adhaero.workflow.record_loading import load

OTHER_GLUE = "other glue"


@dataclass(frozen=True)
class NewGlueup:
    """A glue-up as entered; numbers in N, degrees Celsius, %, g/m2. ``over`` is how many joints lie side by side under
    each clamp or weight, in the order of ``codes``. ``pressed_by`` is a means of pressing, or empty. Times that were
    told: ``started_at`` is the first closing, ``ended_at`` the last one (the others lie evenly between), ``closed_at``
    single closings by code, ``unclamped_at`` when all came out of their clamps.
    """

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
    mixed_at: datetime | None = None
    ratio: str = ""
    deviation: str = ""
    over: int = 1
    pressed_by: str = ""
    ended_at: datetime | None = None
    closed_at: Mapping[str, datetime] = field(default_factory=dict)
    unclamped_at: datetime | None = None
    confirmed: Sequence[str] = ()


def check_new(new: NewGlueup, now: datetime) -> None:
    """Raise ``Refusal`` for a glue-up that cannot have been so."""
    if not new.codes:
        raise refuse("codes", "no piece is chosen", "Choose the pieces that go into this glue-up.")
    if new.force_n is not None and not 0 <= new.force_n <= 200_000:
        raise refuse("force_n", f"a clamp force of {new.force_n:g} N is not possible", "Check the number and its unit.")
    if not 1 <= new.over <= 50:
        raise refuse("over", "joints under one clamp must be 1 to 50", "Type how many lie side by side.")
    if new.over > 1 and len(new.codes) % new.over:
        left = len(new.codes) % new.over
        message = f"{len(new.codes)} joints do not come out even: {left} would lie alone under the last clamp"
        remedy = "Choose as many as lie side by side, put a dummy beside an odd one, or write it down apart."
        raise refuse("over", message, remedy)
    if new.over > 1 and new.clamps > 1:
        raise refuse("clamps", "several clamps a joint and several joints a clamp do not go together", "Make one 1.")
    if not 1 <= new.clamps <= 50:
        raise refuse("clamps", "clamps per joint must be 1 to 50", "Type how many clamps press on one joint.")
    if new.air_c is not None and not -20 <= new.air_c <= 50:
        raise refuse("air_c", f"{new.air_c:g} °C is no air to glue in", "Check the number and its unit.")
    if new.humidity_pct is not None and not 0 <= new.humidity_pct <= 100:
        raise refuse("humidity_pct", "humidity must be 0 to 100 %", "Check the number.")
    if new.started_at is not None and new.started_at > now + timedelta(minutes=5):
        raise refuse("started_at", "the start lies in the future", "Type when the gluing began.")
    if new.mixed_at is not None and new.mixed_at > (new.started_at or now) + timedelta(minutes=5):
        raise refuse("mixed_at", "the glue was mixed after the gluing began", "Type when it was mixed.")
    _check_pressing(new)
    _check_told(new, now)


def _check_pressing(new: NewGlueup) -> None:
    if new.pressed_by and new.pressed_by not in MEANS:
        raise refuse(
            "pressed_by", f"{new.pressed_by[:20]!r} is no means of pressing", "Use one of: " + ", ".join(MEANS)
        )
    if new.pressed_by in CLAMPLESS and new.force_n:
        name = MEANS[new.pressed_by].lower()
        raise refuse("force_n", f"{name} has no clamp force", "Leave the force empty, or choose what pressed.")


def _check_told(new: NewGlueup, now: datetime) -> None:
    """Times that were told stand in order, and none lies in the future."""
    begun = new.started_at or now
    last = max([begun, *([new.ended_at] if new.ended_at else []), *new.closed_at.values()])
    for name, at, least, what in (
        ("ended_at", new.ended_at, begun, "the last closing lies before the first"),
        ("unclamped_at", new.unclamped_at, last, "the clamps came off before the last joint was closed"),
    ):
        if at is not None and at < least:
            raise refuse(name, what, "Check the times.")
    for code, at in new.closed_at.items():
        if code not in new.codes:
            raise refuse(f"closed_at.{code}", f"{code} is not in this glue-up", "Leave it out.")
        if new.started_at is not None and at < new.started_at:
            raise refuse(f"closed_at.{code}", f"{code} was closed before the gluing began", "Check the times.")
    told = {"ended_at": new.ended_at, "unclamped_at": new.unclamped_at,
            **{f"closed_at.{c}": at for c, at in new.closed_at.items()}}  # fmt: skip
    for name, told_at in told.items():
        if told_at is not None and told_at > now + timedelta(minutes=5):
            raise refuse(name, "lies in the future", "Type when it happened.")
    if new.unclamped_at is not None and new.pressed_by in CLAMPLESS:
        raise refuse("unclamped_at", "there is no clamp to come off", "Leave the time empty.")


def add_glueup(w: AppContext, batch_id: int, new: NewGlueup, key: str | None) -> dict[str, Any]:
    """Write down a glue-up of joints that have none yet. Returns their number."""
    check_new(new, w.now())

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        return {"pieces": write_glueup(w, conn, record, new, action_id)}

    act = Act(
        "glue", "glue-up", f"Glued {counted(len(new.codes), 'joint')}", batch_id, new.person, key=key, request=repr(new)
    )
    return w.perform(act, body)


def write_glueup(w: AppContext, conn: sqlite3.Connection, record: BatchRecord, new: NewGlueup, action_id: int) -> int:
    """Write a glue-up down inside an action; returns how many pieces are in it."""
    units = [find_unit(conn, record, code, f"codes.{i}") for i, code in enumerate(new.codes)]
    pieces = [s for own in units for s in own]
    if len({s.id for s in pieces}) < len(pieces):
        raise refuse("codes", "a joint stands twice", "Take one of the two out.")
    refuse_together(record, [own[0] for own in units])
    for i, s in ((i, s) for i, own in enumerate(units) for s in own):
        if s.role == "solid":
            raise refuse(f"codes.{i}", f"{s.code} is solid wood", "Leave it out: there is nothing to glue.")
        if s.id in record.members:
            raise refuse(f"codes.{i}", f"{s.code} is already glued", "Leave it out, or undo that glue-up first.")
        if s.id in record.not_run:
            raise refuse(f"codes.{i}", f"{s.code} was left out of the plan", "Undo that first: under Plan.")
    bottle = next((b for b in store.bottles(conn) if b.label == new.bottle), None)
    if bottle is not None:
        ask_glue(record, pieces, bottle, Doubts(new.confirmed))
    started = iso(new.started_at or w.now())
    values = {
        "started_at": started,
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
        "pressed_by": new.pressed_by,
        "ended_at": iso(new.ended_at) if new.ended_at else None,
    }
    glueup_id = glueups.add_glueup(conn, record.batch.id, values, action_id)
    glueups.add_members(conn, glueup_id, [s.id for s in pieces], action_id)
    if new.over > 1 and new.force_n is not None:
        _share(conn, record, units, new, action_id)
    if new.mixed_at is not None or new.deviation or new.ratio:
        mixed = iso(new.mixed_at) if new.mixed_at else started
        glueups.add_mix(conn, Mix(glueup_id, mixed, new.ratio, new.deviation), action_id)
    for own, at in closings_told(new, units):
        glueups.add_events(conn, [s.id for s in own], "closed", iso(at), "", action_id)
    if new.unclamped_at is not None:
        glueups.add_events(conn, [s.id for s in pieces], "unclamped", iso(new.unclamped_at), "", action_id)
    return len(pieces)


def ask_glue(record: BatchRecord, pieces: Sequence[Specimen], bottle: Bottle, doubts: Doubts) -> None:
    """Ask about a bottle that holds another glue than the one that is planned. Raises ``Doubt``."""
    planned = {family for s in pieces if (family := record.glue_of(s.glue)[0]) and family in GLUES}
    other = sorted(GLUES[family].name for family in planned if family != bottle.family)
    if other and bottle.family in GLUES:
        message = f"{bottle.label} holds {GLUES[bottle.family].name}; planned is {' and '.join(other)}"
        remedy = "Choose another bottle. If you use this one, the pieces will be flagged."
        doubts.ask(OTHER_GLUE, message, remedy)
        doubts.raise_if_any()


def refuse_together(record: BatchRecord, joints: Sequence[Specimen]) -> None:
    """Raise ``Refusal`` for joints that differ in what is one for a whole glue-up."""
    own = {record.apart(s): s.code for s in joints}
    if len(own) > 1:
        (first, one), (second, other) = list(own.items())[:2]
        message = f"{one} ({first or 'not stated'}) and {other} ({second or 'not stated'}) are not glued at once"
        raise refuse("codes", message, "Write them down as two glue-ups, or choose those of one level.")


def closings_told(new: NewGlueup, units: Sequence[list[Specimen]]) -> list[tuple[list[Specimen], datetime]]:
    """When each joint (or panel) was closed, as far as it was told: its own time, or its share of the time from first
    to last.
    """
    begun, steps = new.started_at, max(1, len(units) - 1)
    found = []
    for n, (code, own) in enumerate(zip(new.codes, units, strict=True)):
        at = new.closed_at.get(code)
        if at is None and begun is not None and new.ended_at is not None:
            at = begun + (new.ended_at - begun) * (n / steps)
        if at is not None:
            found.append((own, at))
    return found


def _share(
    conn: sqlite3.Connection, record: BatchRecord, units: Sequence[list[Specimen]], new: NewGlueup, action_id: int
) -> None:
    """Give joints that lie side by side under one clamp or weight each its share of the force."""
    members = {m.specimen_id: m for m in glueups.members(conn, record.batch.id, {s.id for own in units for s in own})}
    for n in range(0, len(units), new.over):
        beside = units[n : n + new.over]
        areas = [record.pressed_mm2(own[0]) for own in beside]
        for own, area, pressure in zip(beside, areas, side_by_side(new.force_n or 0.0, areas), strict=True):
            for s in own:
                glueups.except_member(conn, members[s.id], {"force_n": force_n(pressure, area)}, action_id)


def except_piece(
    w: AppContext, batch_id: int, code: str, changed: dict[str, Any], person: str, key: str | None
) -> dict[str, Any]:
    """Note what was different for one piece of a glue-up: force_n, clamps, bottle, spread_g_m2, note."""
    force = changed.get("force_n")
    if force is not None and not 0 <= force <= 200_000:
        raise refuse("force_n", f"a clamp force of {force:g} N is not possible", "Check the number and its unit.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        record = load(w, conn, batch_id, action_id)
        piece = find_piece(conn, record, code)
        member = record.members.get(piece.id)
        if member is None:
            raise refuse("code", f"{piece.code} is in no glue-up yet", "Put it into one first.")
        glueups.except_member(conn, member, changed, action_id)
        return {"pieces": 1}

    summary = f"Noted an exception for {code}"
    return w.perform(Act("glue", "exception", summary, batch_id, person, key=key, request=f"{code}{changed}"), body)
