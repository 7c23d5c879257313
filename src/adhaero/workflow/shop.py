"""Shop: what stays between batches: units, people, bottles, the rig and its set-ups."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from adhaero.core.breaking.rack import Rack
from adhaero.core.cut.cutlist import SAFE_LENGTH_MM
from adhaero.core.glue.limits import check_label
from adhaero.core.materials.bottle import EVENTS, BottleEvent, left_g, state
from adhaero.core.materials.glue import GLUES
from adhaero.core.quantity import Dimension, parse, unit
from adhaero.core.refusal import Problems, Refusal, refuse
from adhaero.core.units import SYSTEMS, units_of
from adhaero.store import actions, boards, bottles, rigs, shop
from adhaero.store.boards import StoredBoard
from adhaero.store.bottles import Bottle, StoredEvent
from adhaero.store.rigs import RigUse, SetUp
from adhaero.workflow.breaking.rack_of_shop import rack
from adhaero.workflow.context import Act, AppContext, NotFound, iso, moment
from adhaero.workflow.rigs import RigState
from adhaero.workflow.rigs import state as state_of

CHOSEN = ("length", "force", "stress", "temperature", "moment", "load per length", "area")
"""Dimensions whose unit can be chosen; those of the others follow."""


@dataclass(frozen=True)
class BottleView:
    """A bottle with its age in days, what it went through, the state that it is in now, what is left of it (g), and a
    warning.
    """

    bottle: Bottle
    family_name: str
    open_days: int | None
    warning: str | None
    state: str
    left_g: float | None
    events: list[StoredEvent]


@dataclass(frozen=True)
class ShopView:
    """The shop."""

    units: dict[str, str]
    person: str
    currency: str
    safe_length_mm: float
    bottles: list[BottleView]
    boards: list[StoredBoard]
    rig: RigUse | None
    rig_state: RigState | None
    rack: Rack
    earlier: list[SetUp]
    systems: dict[str, dict[str, str]]
    link: str
    link_message: str


def view(w: AppContext) -> ShopView:
    """Everything in the shop."""
    with w.db.read() as conn:
        settings = shop.settings(conn)
        link, went_through, used = w.rig.link(), bottles.events(conn), rigs.in_use(conn)
        units = units_of(settings.get("units", {}))
        return ShopView(
            units=units.all(),
            person=settings.get("person", ""),
            currency=settings.get("currency", ""),
            safe_length_mm=settings.get("safe_length_mm", SAFE_LENGTH_MM),
            bottles=[_bottle(b, w.now(), went_through.get(b.id, [])) for b in bottles.bottles(conn)],
            boards=boards.boards(conn),
            rig=used,
            rig_state=state_of(conn, used.set_up, units) if used else None,
            rack=rack(conn),
            earlier=list(rigs.set_ups(conn).values())[::-1],
            systems=SYSTEMS,
            link=link.status,
            link_message=link.message,
        )


def _bottle(b: Bottle, now: datetime, events: list[StoredEvent]) -> BottleView:
    opened = date.fromisoformat(b.opened_on) if b.opened_on else None
    expires = date.fromisoformat(b.expires_on) if b.expires_on else None
    warning = None
    if expires and expires < now.date():
        days = (now.date() - expires).days
        warning = f"Past its date by {days} day{'s' * (days != 1)}: discard it, or test it against a fresh one first."
    family = GLUES[b.family].name if b.family in GLUES else b.family
    told = [BottleEvent(e.kind, moment(e.at), e.note) for e in events]
    age = (now.date() - opened).days if opened else None
    return BottleView(b, family, age, warning, state(told, now), left_g(b.pack_g, told, now), events)


def save_settings(
    w: AppContext, units: dict[str, str] | None, person: str | None, key: str | None = None,
    currency: str | None = None, safe_length_mm: float | None = None,
) -> None:  # fmt: skip
    """Save the user's units, name, currency, and the length under which no piece goes over a machine by hand."""
    if units is not None:
        for name, symbol in units.items():
            if name not in CHOSEN:
                raise refuse(f"units.{name}", "is not a setting", "Use one of: " + ", ".join(CHOSEN) + ".")
            unit(symbol, Dimension(name))
    if person is not None and len(person) > 60:
        raise refuse("person", "is longer than 60 characters", "Use a short name or a role.")

    if currency is not None and (len(currency.strip()) > 8 or any(c.isdigit() for c in currency)):
        raise refuse("currency", "is no currency", "Write its sign or its letters, at most eight.")
    if safe_length_mm is not None and not 50 <= safe_length_mm <= 1000:
        raise refuse("safe_length_mm", "is no safe length", "Type 50 to 1000 mm; 150 mm is the usual rule.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        values: dict[str, Any] = {}
        if safe_length_mm is not None:
            values["safe_length_mm"] = safe_length_mm
        if currency is not None:
            values["currency"] = currency.strip()
        if units is not None:
            values["units"] = {**shop.settings(conn).get("units", {}), **units}
        if person is not None:
            values["person"] = person.strip()
        shop.save_settings(conn, values, action_id)
        return {}

    said = [f"{d} in {s}" for d, s in (units or {}).items()] + ([f"name {person.strip()}"] if person else [])
    said += [f"money in {currency.strip()}"] if currency else []
    said += [f"safe length {safe_length_mm:g} mm"] if safe_length_mm is not None else []
    what = f"Settings: {', '.join(said)}"[:120]
    w.perform(Act("shop", "settings", what, key=key, request=f"{units}{person}{currency}{safe_length_mm}"), body)


def _day(text: str | None, field: str) -> str | None:
    if not text:
        return None
    try:
        return date.fromisoformat(text).isoformat()
    except ValueError:
        raise refuse(field, f"{text!r} is not a date", "Write it as 2026-11-23.") from None


def add_bottle(w: AppContext, b: Bottle, key: str | None) -> dict[str, Any]:
    """A new bottle; its label must be new."""
    label = b.label.strip()
    if not 1 <= len(label) <= 80:
        raise refuse("label", "the label is empty or longer than 80 characters", "Write what stands on the bottle.")
    if not b.family.strip():
        raise refuse("family", "the glue family is missing", "Choose one.")
    check_label(b.limits)
    p = Problems()
    p.check(b.price is None or 0 <= b.price <= 1e6, "price", "is no price", "Type what a pack cost.")
    p.check(b.pack_g is None or 0 < b.pack_g <= 1e6, "pack_g", "is no pack", "Type the glue in it, like 500 g.")
    p.raise_if_any()
    opened, expires = _day(b.opened_on, "opened_on"), _day(b.expires_on, "expires_on")
    clean = Bottle(0, label, b.family, b.lot, opened, expires, b.note[:500], dict(b.limits), b.price, b.pack_g)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        if any(o.label == label for o in bottles.bottles(conn)):
            raise refuse("label", f"there is already a bottle {label!r}", "Number the bottles.")
        return {"id": bottles.add(conn, clean, action_id)}

    return w.perform(Act("shop", "bottle", f"Added the bottle {label}", key=key, request=repr(clean)), body)


def tell_of_bottle(
    w: AppContext, bottle_id: int, kind: str, at: datetime | None, note: str, key: str | None
) -> dict[str, Any]:
    """Write down what happened to a bottle: what is glued with it later carries that state."""
    when = at or w.now()
    if kind not in EVENTS:
        raise refuse("kind", f"{kind[:20]!r} does not happen to a bottle", "Use one of: " + ", ".join(EVENTS) + ".")
    if when > w.now() + timedelta(minutes=5):
        raise refuse("at", "that lies in the future", "Type when it was.")
    if kind == "looks" and not note.strip():
        raise refuse("note", "says nothing", "Say how it looked: thick, lumpy, separated.")
    if kind == "holds":
        try:
            parse(note, Dimension.MASS, "g")
        except Refusal as refusal:
            raise refuse("note", "is no mass", "Type what is left, like 250 g.") from refusal

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        found = next((b for b in bottles.bottles(conn) if b.id == bottle_id), None)
        if found is None:
            raise NotFound(f"There is no bottle {bottle_id}.")
        actions.say(conn, action_id, f"{found.label} {EVENTS[kind]} {note.strip()[:60]}".strip())
        return {"id": bottles.add_event(conn, StoredEvent(found.id, kind, iso(when), note.strip()[:200]), action_id)}

    act = Act("shop", "bottle event", f"A bottle {EVENTS[kind]}", key=key, request=f"{bottle_id}{kind}{at}{note}")
    return w.perform(act, body)
