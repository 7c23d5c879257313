"""Shop: what stays between batches: units, people, bottles, the rig and its set-ups."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from adhaero.core.glue.limits import check_label
from adhaero.core.materials.bottle import EVENTS, BottleEvent, state
from adhaero.core.materials.glue import GLUES
from adhaero.core.quantity import Dimension, unit
from adhaero.core.refusal import refuse
from adhaero.store import boards, bottles, shop
from adhaero.store.boards import StoredBoard
from adhaero.store.bottles import Bottle, StoredEvent
from adhaero.store.shop import Rig, SetUp
from adhaero.workflow.workshop import Act, NotFound, Workshop, iso, moment

DEFAULT_UNITS = {"length": "mm", "force": "N", "stress": "MPa", "temperature": "°C"}


@dataclass(frozen=True)
class BottleView:
    """A bottle with its age in days, what it went through, the state that it is in now, and a warning."""

    bottle: Bottle
    family_name: str
    open_days: int | None
    warning: str | None
    state: str
    events: list[StoredEvent]


@dataclass(frozen=True)
class ShopView:
    """The shop."""

    units: dict[str, str]
    person: str
    bottles: list[BottleView]
    boards: list[StoredBoard]
    rig: Rig | None
    set_up: SetUp | None
    link: str
    link_message: str


def view(w: Workshop) -> ShopView:
    """Everything in the shop."""
    with w.db.read() as conn:
        settings = shop.settings(conn)
        link, went_through = w.rig.link(), bottles.events(conn)
        return ShopView(
            units={**DEFAULT_UNITS, **settings.get("units", {})},
            person=settings.get("person", ""),
            bottles=[_bottle(b, w.now(), went_through.get(b.id, [])) for b in bottles.bottles(conn)],
            boards=boards.boards(conn),
            rig=shop.rig(conn),
            set_up=shop.set_up(conn),
            link=link.status,
            link_message=link.message,
        )


def _bottle(b: Bottle, now: datetime, events: list[StoredEvent]) -> BottleView:
    opened = date.fromisoformat(b.opened_on) if b.opened_on else None
    expires = date.fromisoformat(b.expires_on) if b.expires_on else None
    warning = None
    if expires and expires < now.date():
        warning = f"Past its date by {(now.date() - expires).days} days: a poor result may be the bottle's."
    family = GLUES[b.family].name if b.family in GLUES else b.family
    went = state([BottleEvent(e.kind, moment(e.at), e.note) for e in events], now)
    return BottleView(b, family, (now.date() - opened).days if opened else None, warning, went, events)


def save_settings(w: Workshop, units: dict[str, str] | None, person: str | None) -> None:
    """Save the user's units and name."""
    values: dict[str, Any] = {}
    if units is not None:
        for name, symbol in units.items():
            if name not in DEFAULT_UNITS:
                raise refuse(f"units.{name}", "is not a setting", "Use length, force, stress or temperature.")
            unit(symbol, Dimension(name))
        values["units"] = {**DEFAULT_UNITS, **units}
    if person is not None:
        if len(person) > 60:
            raise refuse("person", "is longer than 60 characters", "Use a short name or a role.")
        values["person"] = person.strip()
    with w.db.write() as conn:
        shop.save_settings(conn, values)


def _day(text: str | None, field: str) -> str | None:
    if not text:
        return None
    try:
        return date.fromisoformat(text).isoformat()
    except ValueError:
        raise refuse(field, f"{text!r} is not a date", "Write it as 2026-11-23.") from None


def add_bottle(w: Workshop, b: Bottle, key: str | None) -> dict[str, Any]:
    """A new bottle; its label must be new."""
    label = b.label.strip()
    if not 1 <= len(label) <= 80:
        raise refuse("label", "the label is empty or longer than 80 characters", "Write what stands on the bottle.")
    if not b.family.strip():
        raise refuse("family", "the glue family is missing", "Choose one.")
    check_label(b.limits)
    opened, expires = _day(b.opened_on, "opened_on"), _day(b.expires_on, "expires_on")
    clean = Bottle(0, label, b.family, b.lot, opened, expires, b.note[:500], dict(b.limits))

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        if any(o.label == label for o in bottles.bottles(conn)):
            raise refuse("label", f"there is already a bottle {label!r}", "Number the bottles.")
        return {"id": bottles.add(conn, clean, action_id)}

    return w.perform(Act("shop", "bottle", f"Added the bottle {label}", key=key, request=repr(clean)), body)


def tell_of_bottle(
    w: Workshop, bottle_id: int, kind: str, at: datetime | None, note: str, key: str | None
) -> dict[str, Any]:
    """Write down what happened to a bottle: what is glued with it later carries that state."""
    when = at or w.now()
    if kind not in EVENTS:
        raise refuse("kind", f"{kind[:20]!r} does not happen to a bottle", "Use one of: " + ", ".join(EVENTS) + ".")
    if when > w.now() + timedelta(minutes=5):
        raise refuse("at", "that lies in the future", "Type when it was.")
    if kind == "looks" and not note.strip():
        raise refuse("note", "says nothing", "Say how it looked: thick, lumpy, separated.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        found = next((b for b in bottles.bottles(conn) if b.id == bottle_id), None)
        if found is None:
            raise NotFound(f"There is no bottle {bottle_id}.")
        return {"id": bottles.add_event(conn, StoredEvent(found.id, kind, iso(when), note.strip()[:200]), action_id)}

    act = Act("shop", "bottle event", f"A bottle {EVENTS[kind]}", key=key, request=f"{bottle_id}{kind}{at}{note}")
    return w.perform(act, body)


def save_rig(w: Workshop, r: Rig, fixture: str, reason: str) -> None:
    """Save the rig and connect to it; another fixture, or a reason given, starts a new set-up."""
    if not r.name.strip():
        raise refuse("name", "the rig has no name", "Give it one.")
    if not 1 <= r.capacity_n <= 10_000_000:
        raise refuse(
            "capacity_n", f"a capacity of {r.capacity_n:g} N is not possible", "Check the number and its unit."
        )
    if not 0 < r.resolution_n <= r.capacity_n / 20:
        raise refuse("resolution_n", "the step must be above 0 and under a twentieth of the capacity", "Check it.")
    if not 0 < r.working_share <= 1:
        raise refuse("working_share", "must be above 0 and at most 100 %", "80 % is usual.")
    if not fixture.strip():
        raise refuse("fixture", "the fixture has no name", "Say what holds the piece, for example 'shear fixture 1'.")
    if r.port and not (r.port.startswith(("/dev/", "socket://", "COM")) and len(r.port) < 120):
        raise refuse("port", f"{r.port!r} is not a port", "Write /dev/ttyUSB0, COM3 or socket://127.0.0.1:4545.")
    with w.db.write() as conn:
        rig_id = shop.save_rig(conn, r)
        old = shop.set_up(conn)
        if old is None or old.rig_id != rig_id or old.fixture != fixture.strip() or reason.strip():
            shop.add_set_up(conn, rig_id, fixture.strip(), reason.strip(), w.stamp())
    w.rig.connect(r.port, r.resolution_n, r.capacity_n)


def connect_rig(w: Workshop) -> None:
    """Begin to read the rig that is on record, if it has a port."""
    with w.db.read() as conn:
        r = shop.rig(conn)
    if r is not None and r.port:
        w.rig.connect(r.port, r.resolution_n, r.capacity_n)
