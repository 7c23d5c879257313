"""From a batch to a scheduling problem: what is still to be glued, what is in clamps, what other batches need."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from adhaero.core.glue.clamping import clamps_along, line_of
from adhaero.core.glue.limits import limits
from adhaero.core.glue.schedule.calendar import within
from adhaero.core.glue.schedule.hours import Stretch, stretches
from adhaero.core.glue.schedule.problem import Clamps, GlueLimits, Joint, Problem
from adhaero.core.glue.schedule.timetable import Slot
from adhaero.core.glue.schedule.timing import BREAK, SOAK, UNCLAMP
from adhaero.core.materials.glue import NO_GLUE
from adhaero.core.plan.design import COUNTS
from adhaero.store import bottles
from adhaero.store import clamps as store
from adhaero.store.clamps import StoredClamp
from adhaero.store.specimens import Specimen
from adhaero.workflow.facts import Facts
from adhaero.workflow.glue.allowing import Allowed, kept, with_allowed
from adhaero.workflow.glue.bench import Bench, bench
from adhaero.workflow.workshop import moment

H, D = 3600, 86400
LEAST_TOLERANCE_S = 120


@dataclass(frozen=True)
class Demand:
    """The problem, the moment it counts from, and what joints already glued still need; ``late`` ones in words."""

    problem: Problem
    start: datetime
    follow_up: tuple[Slot, ...]
    late: tuple[str, ...]
    bench: Bench
    allowed: tuple[Allowed, ...] = ()


def demand(
    conn: sqlite3.Connection, facts: Facts, start: datetime, *, allowed: Sequence[Allowed] | None = None
) -> Demand:
    """What is to be scheduled from ``start`` on. Without ``allowed``, what the schedule that stands was allowed."""
    b = bench(conn)
    if allowed is None:
        stands = store.schedule(conn, facts.batch.id)
        allowed = kept(stands.document if stands else None)
    waiting = [
        s for s in facts.pieces if s.role == "joint" and s.id not in facts.members and s.id not in facts.observed
    ]
    stored = store.clamps(conn)
    caul = max((c.caul_mm or 0.0 for c in stored), default=0.0)
    joints = tuple(_joint(facts, s, b.tolerance, caul) for s in waiting)
    kinds = tuple(_kind(c) for c in stored)
    horizon = _days(joints, kinds)
    hours = tuple(stretches(b.hours, start, horizon))
    busy, held = _others(conn, facts.batch.id, start)
    held += [(k, 0, until, n) for k, until, n in _in_use(facts, kinds, start)]
    follow, late = _follow_up(facts, b, start, list(hours), list(busy))
    glues = _glue_limits(conn, {j.glue for j in joints}, b.air_c)
    taken = sorted([*busy, *((s.start_s, s.end_s) for s in follow)])
    problem = Problem(joints, kinds, glues, hours, b.pace, tuple(taken), tuple(held))
    problem = with_allowed(problem, allowed, b, start)
    return Demand(problem, start, tuple(follow), tuple(late), b, tuple(allowed))


def _glue_limits(conn: sqlite3.Connection, families: set[str], air_c: float) -> dict[str, GlueLimits]:
    """Open time and pot life of each glue in the air of the bench: by the tightest label among its bottles."""
    labels: dict[str, list[dict[str, float]]] = {}
    for bottle in bottles.bottles(conn):
        if bottle.limits:
            labels.setdefault(bottle.family, []).append(bottle.limits)
    found = {}
    for family in families:
        if family == NO_GLUE:
            found[family] = GlueLimits(D)
            continue
        able = [limits(family, label, air_c) for label in labels.get(family, [{}])]
        opens, pots = [x.open_s for x in able if x.open_s], [x.pot_s for x in able if x.pot_s]
        if opens:
            found[family] = GlueLimits(int(min(opens)), int(min(pots)) if pots else None)
    return found


def unglued(facts: Facts) -> list[Specimen]:
    """The joints that still wait for their glue."""
    gone = {**facts.members, **facts.observed}
    return [s for s in facts.pieces if s.role == "joint" and s.id not in gone]


def _days(joints: tuple[Joint, ...], kinds: tuple[Clamps, ...]) -> int:
    """A horizon that is long enough: the longest course, and every clamp used one after the other."""
    longest = max((j.clamp_s + j.cure_s + j.wet_s + j.dry_s for j in joints), default=D)
    places = max(1, sum(k.count * k.places for k in kinds))
    rounds = -(-len(joints) // min(places, 40))
    return int(longest / D) + 21 + rounds * 2


def line_clamps(facts: Facts, s: Specimen, caul_mm: float) -> int:
    """How many clamps the line of a joint wants, under cauls of that thickness."""
    length, through = line_of(facts.form(s).key, facts.sizes(s.id))
    return clamps_along(length, through, caul_mm) if length > 0 and through > 0 else 1


def _joint(facts: Facts, s: Specimen, share: float, caul_mm: float) -> Joint:
    tolerances = facts.plan.tolerances
    clamp, cure = int(s.clamp_s or 0), int(s.cure_s or 0)
    wet, dry = facts.conditioning(s)
    return Joint(
        code=s.code,
        treatment=facts.treatments[s.treatment_id].letter,
        glue=s.glue,
        force_n=(s.pressure_mpa or 0.0) * facts.area_mm2(s),
        clamp_s=clamp,
        cure_s=cure,
        clamp_tol_s=int(tolerances.get("clamp_s", max(LEAST_TOLERANCE_S, share * clamp))),
        cure_tol_s=int(tolerances.get("cure_s", max(LEAST_TOLERANCE_S, share * cure))),
        wet_s=wet,
        dry_s=dry,
        wet_tol_s=max(600, int(share * max(wet, dry))),
        breaks=facts.part(s) == COUNTS,
        replicate=s.replicate,
        clamps=line_clamps(facts, s, caul_mm),
    )


def _kind(c: StoredClamp) -> Clamps:
    force = c.force_n
    return Clamps(str(c.id), c.label, c.count, c.places, force, force if c.kind == "weight" and force else 0.0)


def _others(
    conn: sqlite3.Connection, batch_id: int, start: datetime
) -> tuple[list[Stretch], list[tuple[str, int, int, int]]]:
    """What hands and clamps do for other batches from ``start`` on."""
    busy: list[Stretch] = []
    held: list[tuple[str, int, int, int]] = []
    for other in store.other_schedules(conn, batch_id):
        shift = int((moment(other.document["start"]) - start).total_seconds())
        for s in other.document["slots"]:
            if s["end_s"] + shift > 0:
                busy.append((max(0, s["start_s"] + shift), s["end_s"] + shift))
        lanes = {
            (c["clamp"], number, c["mixed_s"], c["released_s"])
            for c in other.document["courses"]
            for number in (c["number"], *c.get("also", ()))
        }
        held += [(k, max(0, a + shift), b + shift, 1) for k, _, a, b in lanes if b + shift > 0]
    return busy, held


def _in_use(facts: Facts, kinds: tuple[Clamps, ...], start: datetime) -> list[tuple[str, int, int]]:
    """Clamps that hold joints of this batch now, as (kind, until, how many): those that the bench took down; of joints
    glued without a schedule it is not on record, so the commonest kind, one a joint.
    """
    if not kinds:
        return []
    known = {k.key: k for k in kinds}
    commonest = max(kinds, key=lambda k: k.count)
    lanes: dict[tuple[str, int], int] = {}
    loose: list[tuple[str, int, int]] = []
    for s in facts.pieces:
        member = facts.members.get(s.id)
        if member is None or s.id in facts.unclamped:
            continue
        left = facts.pressed_at(s) + timedelta(seconds=s.clamp_s or 0) - start
        until = max(1, int(left.total_seconds()))
        own = facts.closed[s.id].value if s.id in facts.closed else {}
        if own.get("clamp") in known:
            for number in (own["number"], *own.get("also", ())):
                lane = own["clamp"], number
                lanes[lane] = max(until, lanes.get(lane, 0))
        else:
            loose.append((commonest.key, until, 1))
    taken = sum(key == commonest.key for key, _ in lanes)
    held = [(key, until, 1) for (key, _), until in lanes.items()]
    return held + loose[: max(0, commonest.count - taken)]


def _follow_up(
    facts: Facts, b: Bench, start: datetime, hours: list[Stretch], busy: list[Stretch]
) -> tuple[list[Slot], list[str]]:
    """Unclamping and breaks that joints already glued are waiting for: in their window, or at once if that is over."""
    groups: dict[tuple[str, int, int], list[tuple[int, Specimen]]] = {}
    for s in facts.pieces:
        member = facts.members.get(s.id)
        if member is None or s.id in facts.observed:
            continue
        for kind, lasts_s, at_once in _open_tasks(facts, s):
            seconds = int((at_once - start).total_seconds())
            groups.setdefault((kind, member.glueup_id, lasts_s), []).append((seconds, s))
    slots: list[Slot] = []
    late: list[str] = []
    for (kind, glueup, lasts_s), own in sorted(groups.items(), key=lambda g: min(due for due, _ in g[1])):
        # Joints of one glue-up go together; the first of them says when.
        due, tol = min(at for at, _ in own), int(max(LEAST_TOLERANCE_S, b.tolerance * lasts_s))
        length = {UNCLAMP: len(own) * b.pace.unclamp_s, SOAK: b.pace.soak_s}.get(kind, len(own) * b.pace.break_s)
        at = _first_free(hours, busy, max(0, due - tol), length)
        if at is None:
            continue
        if at > due + tol:
            what = {UNCLAMP: "unclamped", SOAK: "put into conditioning"}.get(kind, "broken")
            late.append(
                f"{len(own)} joints of glue-up {facts.glueups[glueup].number} are {what} {_late(at - due)} late."
            )
        busy.append((at, at + length))
        slots.append(Slot(kind, -1, at, at + length, tuple(s.code for _, s in own)))
    return slots, late


def _open_tasks(facts: Facts, s: Specimen) -> list[tuple[str, int, datetime]]:
    """What a glued joint still waits for: (task, the time it takes its tolerance from, when it is due)."""
    pressed, clamp, cure = facts.pressed_at(s), int(s.clamp_s or 0), int(s.cure_s or 0)
    found = []
    if s.id not in facts.unclamped:
        found.append((UNCLAMP, clamp, pressed + timedelta(seconds=clamp)))
    if facts.conditioning(s)[0] and (s.id, "in") not in facts.conditioned:
        found.append((SOAK, cure, pressed + timedelta(seconds=cure)))
    if facts.part(s) == COUNTS:
        found.append((BREAK, cure, facts.due_at(s)))
    return found


def _first_free(hours: list[Stretch], busy: list[Stretch], low: int, length: int) -> int | None:
    for a, b in within(hours, low, 1 << 60):
        at = max(a, low)
        for x, y in sorted(busy):
            if at < y and x < at + length:
                at = y
        if at + length <= b:
            return at
    return None


def _late(seconds: int) -> str:
    return f"{seconds / H:.1f} h" if seconds < 2 * D else f"{seconds / D:.1f} days"
