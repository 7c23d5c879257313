"""Glue: glue-ups with what really happened, clamp pressure from the measured area, and what is still in clamps."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from operator import attrgetter
from typing import Any

from adhaero.core.glue import told
from adhaero.core.glue.clamping import caul_for, force_n, line_of, side_by_side
from adhaero.core.glue.exposure import NAMED
from adhaero.core.glue.limits import limits
from adhaero.core.materials.bottle import BottleEvent, state
from adhaero.core.materials.glue import GLUES
from adhaero.core.plan.document import level_name
from adhaero.core.refusal import refuse
from adhaero.store import bottles as store
from adhaero.store import glueups
from adhaero.store.bottles import Bottle, StoredEvent
from adhaero.store.glueups import Glueup, Mix
from adhaero.store.specimens import Specimen
from adhaero.workflow.facts import Facts, find_piece, find_pieces, load
from adhaero.workflow.glue.demand import line_clamps
from adhaero.workflow.glue.flags import pressure_flags, time_flags
from adhaero.workflow.workshop import Act, Workshop, iso, moment

APART_DAYS = 30
"""Bottles opened less far apart than this are taken as of one age."""


@dataclass(frozen=True)
class GluePiece:
    """A joint as the bench sees it. Pressure follows from force and measured area; ``flags`` say what is off.

    ``open_s`` is how long it stood open, ``told`` what else was told of it: (kind, in words). ``clamps_wanted`` is how
    many clamps its line wants for even pressure, ``cauls`` with which caul (mm) fewer clamps do.
    """

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
    clamps_wanted: int
    cauls: list[tuple[int, float]]
    glueup: int | None
    pressure_mpa: float | None
    open_s: float | None
    flags: list[str]
    told: list[tuple[str, str]]
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


def _conditioning(facts: Facts, s: Specimen) -> str:
    """The conditioning of a piece in words; empty for one that has none."""
    level, path = facts.level(s, "conditioning"), facts.exposure(s)
    if level is None or path is None:
        return ""
    # A path written out says what it adds up to; those with a name say it in their name.
    name = level_name("conditioning", level)
    return name if level.value in NAMED else f"{name} ({path.in_words()})"


def _late(facts: Facts, s: Specimen, now: datetime) -> bool:
    """Whether a piece is still in its clamps after its clamp time."""
    member = facts.members.get(s.id)
    if member is None or s.id in facts.unclamped:
        return False
    return now > facts.pressed_at(s) + timedelta(seconds=s.clamp_s or 0)


@dataclass(frozen=True)
class _Bottle:
    """Of a piece's bottle, what its row depends on."""

    limits: tuple[tuple[str, float], ...]
    state: str


def _piece(facts: Facts, s: Specimen, late: bool, bottle: _Bottle) -> GluePiece:
    t, member = facts.treatments[s.treatment_id], facts.members.get(s.id)
    area = facts.area_mm2(s)
    glueup = facts.glueups[member.glueup_id] if member else None
    pressure = facts.pressure_mpa(s)
    out = facts.unclamped.get(s.id)
    until = facts.pressed_at(s) + timedelta(seconds=s.clamp_s or 0) if glueup else None
    begun, ended = facts.conditioned.get((s.id, "in")), facts.conditioned.get((s.id, "out"))
    taken = (moment(out.at) - facts.pressed_at(s)).total_seconds() if glueup and out else None
    spread, closed = facts.last(s.id, "spread"), facts.closed.get(s.id)
    open_s = (moment(closed.at) - moment(spread.at)).total_seconds() if spread and closed else None
    found = limits(s.glue, dict(bottle.limits), glueup.air_c if glueup else None)
    wanted = line_clamps(facts, s, 0.0)
    flags = list(pressure_flags(s, pressure, found)) if pressure is not None else []
    if glueup:
        flags += time_flags(facts, s, open_s, taken, found)
        flags += [f"bottle: {bottle.state}"] if bottle.state else []
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
        clamps_wanted=wanted,
        cauls=_cauls(facts, s, wanted),
        glueup=glueup.number if glueup else None,
        pressure_mpa=pressure,
        open_s=open_s,
        flags=[*flags, *(["past its clamp time"] if late else [])],
        told=_told(facts, s, area),
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


def _cauls(facts: Facts, s: Specimen, clamps: int) -> list[tuple[int, float]]:
    """For each smaller number of clamps than a line wants, the caul that makes it do, mm."""
    length, through = line_of(facts.form(s).key, facts.sizes(s.id))
    return [(n, caul_for(length, through, n)) for n in range(1, min(clamps, 9))]


def _told(facts: Facts, s: Specimen, area: float) -> list[tuple[str, str]]:
    """What was told of a joint: the latest of each kind, and how far its clamp relaxed."""
    said = {e.kind: e for e in facts.told.get(s.id, ()) if e.kind in told.KINDS}
    found = []
    for kind, e in said.items():
        words = ", ".join(x for x in (told.in_words(kind, e.value, area), e.note) if x)
        found.append((kind, words))
    fell = told.relaxed([e.value["force_n"] for e in facts.told.get(s.id, ()) if e.kind == "force"])
    if fell is not None:
        found.append(("force", f"fell by {100 * fell:.0f} % since the first reading"))
    return found


def view(w: Workshop, batch_id: int) -> GlueView:
    """All joints of a locked batch with their gluing, and its glue-ups."""
    with w.db.read() as conn:
        facts = load(w, conn, batch_id)
        bottles = {b.label: b for b in store.bottles(conn)}
        went_through = store.events(conn)
    now = w.now()
    pieces = []
    for s in facts.pieces:
        if s.role != "solid":
            bottle = _of_bottle(facts, s, bottles, went_through)
            pieces.append(facts.row("glue", s, _piece, _late(facts, s, now), bottle))
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
        bottles=[(b.label, b.family) for b in bottles.values()],
        warnings=_bottle_warnings(facts, bottles),
    )


_NO_BOTTLE = _Bottle((), "")


def _of_bottle(
    facts: Facts, s: Specimen, bottles: dict[str, Bottle], went_through: dict[int, list[StoredEvent]]
) -> _Bottle:
    """The limits on the label of a joint's bottle, and the state it was in when the joint was glued."""
    if s.id not in facts.members:
        return _NO_BOTTLE
    b = bottles.get(facts.bottle(s))
    if b is None:
        return _NO_BOTTLE
    events = [BottleEvent(e.kind, moment(e.at), e.note) for e in went_through.get(b.id, ())]
    return _Bottle(tuple(sorted(b.limits.items())), state(events, facts.pressed_at(s)) if events else "")


def _bottle_warnings(facts: Facts, known: dict[str, Bottle]) -> list[str]:
    """What the bottles add to the test: two of one glue opened at different times, or one past its date when used."""
    used: dict[str, dict[str, str]] = {}
    for s in facts.pieces:
        member = facts.members.get(s.id)
        if member is not None:
            g = facts.glueups[member.glueup_id]
            label = facts.bottle(s)
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
    """A glue-up as entered; numbers in N, degrees Celsius, %, g/m2. ``over`` is how many joints lie side by side under
    each clamp or weight, in the order of ``codes``.
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


def _check(new: NewGlueup, now: datetime) -> None:
    if not new.codes:
        raise refuse("codes", "no piece is chosen", "Choose the pieces that go into this glue-up.")
    if new.force_n is not None and not 0 < new.force_n <= 200_000:
        raise refuse("force_n", f"a clamp force of {new.force_n:g} N is not possible", "Check the number and its unit.")
    if not 1 <= new.over <= 50:
        raise refuse("over", "joints under one clamp must be 1 to 50", "Type how many lie side by side.")
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
        bottle = next((b for b in store.bottles(conn) if b.label == new.bottle), None)
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
        }
        glueup_id = glueups.add_glueup(conn, batch_id, values, action_id)
        glueups.add_members(conn, glueup_id, [s.id for s in pieces], action_id)
        if new.over > 1 and new.force_n is not None:
            _share(conn, facts, pieces, new, action_id)
        if new.mixed_at is not None or new.deviation or new.ratio:
            mixed = iso(new.mixed_at) if new.mixed_at else started
            glueups.add_mix(conn, Mix(glueup_id, mixed, new.ratio, new.deviation), action_id)
        return {"pieces": len(pieces)}

    act = Act("glue", "glue-up", f"Glued {len(new.codes)} joints", batch_id, new.person, key=key, request=repr(new))
    return w.perform(act, body)


def _share(conn: sqlite3.Connection, facts: Facts, pieces: Sequence[Specimen], new: NewGlueup, action_id: int) -> None:
    """Give joints that lie side by side under one clamp or weight each its share of the force."""
    members = {m.specimen_id: m for m in glueups.members(conn, facts.batch.id, {s.id for s in pieces})}
    for n in range(0, len(pieces), new.over):
        own = pieces[n : n + new.over]
        areas = [facts.area_mm2(s) for s in own]
        for s, area, pressure in zip(own, areas, side_by_side(new.force_n or 0.0, areas), strict=True):
            glueups.except_member(conn, members[s.id], {"force_n": force_n(pressure, area)}, action_id)


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
