"""The bench that glue-ups are scheduled for: clamps and weights, the user's hours, and how long hands take."""

from __future__ import annotations

import itertools
import sqlite3
import statistics
from dataclasses import asdict, dataclass, replace
from datetime import date, datetime
from typing import Any
from zoneinfo import ZoneInfo

from adhaero.core.glue.limits import USUAL_C
from adhaero.core.glue.schedule.hours import Hours
from adhaero.core.glue.schedule.problem import Pace
from adhaero.core.refusal import Problems, refuse
from adhaero.store import clamps, glueups, shop
from adhaero.store.clamps import StoredClamp
from adhaero.workflow.context import Act, AppContext, NotFound, moment

KINDS = ("bar", "screw", "spring", "weight", "press", "vacuum", "tape")
KNOWN_BY: dict[str, str] = {
    "": "estimated", "gauge": "measured", "weight": "measured", "turns": "estimated", "feel": "estimated",
    "unknown": "unknown",
}  # fmt: skip
"""How the force of a clamp is known, and what that makes of it."""
USUAL_HOURS = Hours((*((d, 17 * 60 + 30, 21 * 60 + 30) for d in range(5)), (5, 9 * 60, 18 * 60)))
"""Evenings and Saturday."""
TOLERANCE = 0.05
LATELY, ENOUGH, PAUSE_S = 60, 3, 1800


@dataclass(frozen=True)
class WorkingHours:
    """What stays the same from batch to batch: hours, pace in s, the usual tolerance of times as a share, and how warm
    it is where the gluing is done, in degrees Celsius.
    """

    hours: Hours
    pace: Pace
    tolerance: float
    air_c: float = USUAL_C


def working_hours(conn: sqlite3.Connection) -> WorkingHours:
    """The bench as it was set up; the usual one before."""
    stored = shop.settings(conn).get("working-hours")
    if stored is None:
        return WorkingHours(USUAL_HOURS, Pace(), TOLERANCE)
    off = tuple(date.fromisoformat(d) for d in stored["off"])
    weekly = tuple((d, a, b) for d, a, b in stored["weekly"])
    return WorkingHours(
        Hours(weekly, stored["zone"], off), Pace(**stored["pace"]), stored["tolerance"], stored.get("air_c", USUAL_C)
    )


def view(w: AppContext) -> tuple[WorkingHours, list[StoredClamp], int | None]:
    """The bench, its clamps, and how long a joint took at the bench lately, s."""
    with w.db.read() as conn:
        return working_hours(conn), clamps.clamps(conn), learned(conn)


def learned(conn: sqlite3.Connection) -> int | None:
    """Median time from one joint closed to the next in the same glue-up, of the last that were taken down at the bench.

    ``None`` before there are enough; pauses of over half an hour are no pace.
    """
    by_glueup: dict[int, list[datetime]] = {}
    for glueup, at in glueups.closed_lately(conn, LATELY):
        by_glueup.setdefault(glueup, []).append(moment(at))
    steps = [(b - a).total_seconds() for own in by_glueup.values() for a, b in itertools.pairwise(sorted(own))]
    usual = [s for s in steps if s <= PAUSE_S]
    return round(statistics.median(usual)) if len(usual) >= ENOUGH else None


def save(w: AppContext, b: WorkingHours, key: str | None = None) -> None:
    """Save hours, pace and tolerance."""
    b.hours.check()
    p = Problems()
    for name, value in asdict(b.pace).items():
        p.check(1 <= value <= 4 * 3600, f"pace.{name}", "must be 1 s to 4 h", "Type how long your hands take.")
    p.check(0.005 <= b.tolerance <= 0.5, "tolerance", "must be 0.5 to 50 %", "5 % is usual.")
    p.check(-20 <= b.air_c <= 50, "air_c", f"{b.air_c:g} °C is no air to glue in", "Check the number and its unit.")
    p.raise_if_any()
    document = {
        "weekly": [list(x) for x in b.hours.weekly], "zone": b.hours.zone,
        "off": [d.isoformat() for d in b.hours.off], "pace": asdict(b.pace), "tolerance": b.tolerance,
        "air_c": b.air_c,
    }  # fmt: skip

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        shop.save_settings(conn, {"working-hours": document}, action_id)
        return {}

    w.perform(Act("shop", "hours", "Changed the hours and the pace", key=key, request=repr(b)), body)


def add_clamps(w: AppContext, c: StoredClamp, key: str | None) -> dict[str, Any]:
    """New clamps of one kind."""
    p = Problems()
    p.check(c.known_by in KNOWN_BY, "known_by", f"{c.known_by[:20]!r} is no way to know a force",
            "Use one of: " + ", ".join(k for k in KNOWN_BY if k) + ".")  # fmt: skip
    p.raise_if_any()
    known = KNOWN_BY[c.known_by] if c.known_by else c.force_known
    clean = replace(c, label=c.label.strip(), force_known=known)
    p.check(1 <= len(clean.label) <= 60, "label", "the clamps have no name, or a long one", "Name them.")
    p.check(
        clean.kind in KINDS, "kind", f"{clean.kind[:20]!r} is no kind of clamp", "Use one of: " + ", ".join(KINDS) + "."
    )
    p.check(1 <= clean.count <= 500, "count", "must be 1 to 500", "Count them.")
    p.check(1 <= clean.places <= 50, "places", "must be 1 to 50", "How many joints does one press at once?")
    p.check(clean.force_n is None or 0 < clean.force_n <= 500_000, "force_n", "is not possible", "Check the unit.")
    p.check(clean.caul_mm is None or 0 <= clean.caul_mm <= 300, "caul_mm", "must be 0 to 300 mm", "Measure the caul.")
    p.check(clean.kind != "weight" or clean.force_n is not None, "force_n", "a weight presses with what it weighs",
            "Type its mass, for example 6 kg.")  # fmt: skip
    p.raise_if_any()

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        if any(o.label == clean.label for o in clamps.clamps(conn)):
            raise refuse("label", f"there are already clamps {clean.label!r}", "Give them another name.")
        return {"id": clamps.add(conn, clean, action_id)}

    return w.perform(Act("shop", "clamps", f"Added {clean.count} {clean.label}", key=key, request=repr(clean)), body)


def retire_clamps(w: AppContext, clamp_id: int, key: str | None) -> dict[str, Any]:
    """Take clamps out of use."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        if not any(c.id == clamp_id for c in clamps.clamps(conn)):
            raise NotFound(f"There are no clamps {clamp_id}.")
        clamps.retire(conn, clamp_id, action_id)
        return {"id": clamp_id}

    return w.perform(
        Act("shop", "retire", "Took clamps out of use", key=key, request=f"retire clamps {clamp_id}"), body
    )


def day_in_shop(conn: sqlite3.Connection, now: datetime) -> date:
    """What day it is where the shop is."""
    return now.astimezone(ZoneInfo(working_hours(conn).hours.zone)).date()
