"""From a batch to a scheduling problem: what is still to be glued, what is in clamps, what other batches need."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from adhaero.core.glue.clamping import clamps_along, line_of
from adhaero.core.glue.limits import limits
from adhaero.core.glue.pressing import CLAMPLESS, MEANS, OWN_FORCE
from adhaero.core.glue.schedule.calendar import within
from adhaero.core.glue.schedule.hours import Stretch, stretches
from adhaero.core.glue.schedule.problem import Clamps, GlueLimits, Joint, Problem
from adhaero.core.glue.schedule.timetable import Slot
from adhaero.core.glue.schedule.timing import BREAK, SOAK, UNCLAMP
from adhaero.core.materials.glue import NO_GLUE
from adhaero.core.plan.design import COUNTS, DUMMY
from adhaero.core.units import METRIC, Units
from adhaero.store import batches, bottles
from adhaero.store import clamps as store
from adhaero.store.clamps import StoredClamp
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import moment
from adhaero.workflow.glue.allowing import Allowed, kept, with_allowed
from adhaero.workflow.glue.working_hours import WorkingHours, working_hours

H, D = 3600, 86400
LEAST_TOLERANCE_S, STUDIED_LEAST_S, STUDIED_SHARE = 120, 60, 0.01
"""A time that is studied is aimed at: a hundredth, or a minute, is what hands need."""
CLAMP_TIME, AGE = {"clamp_s"}, {"cure_s"}


@dataclass(frozen=True)
class OtherTask:
    """A task of another batch: its name, what it is, and when, in s from the start of the schedule."""

    batch: str
    kind: str
    start_s: int
    end_s: int


@dataclass(frozen=True)
class Demand:
    """The problem, the moment it counts from, and what joints already glued still need; ``late`` ones in words."""

    problem: Problem
    start: datetime
    follow_up: tuple[Slot, ...]
    late: tuple[str, ...]
    working_hours: WorkingHours
    allowed: tuple[Allowed, ...] = ()
    units: Units = METRIC
    others: tuple[OtherTask, ...] = ()


def demand(
    conn: sqlite3.Connection, record: BatchRecord, start: datetime, *, allowed: Sequence[Allowed] | None = None
) -> Demand:
    """What is to be scheduled from ``start`` on. Without ``allowed``, what the schedule that stands was allowed."""
    b = working_hours(conn)
    if allowed is None:
        stands = store.schedule(conn, record.batch.id)
        allowed = kept(stands.document if stands else None)
    waiting = record.as_units(unglued(record))
    stored = store.clamps(conn)
    caul = max((c.caul_mm or 0.0 for c in stored), default=0.0)
    joints = tuple(_joint(record, own, b, caul) for own in waiting)
    kinds = (*(kind_of(c) for c in stored), *_clampless(joints))
    horizon = _days(joints, kinds)
    hours = tuple(stretches(b.hours, start, horizon))
    others, held = others_at_work(conn, record.batch.id, start)
    busy = [(o.start_s, o.end_s) for o in others]
    # Clamps that went out of use may still stand in the schedule of another batch.
    held = [h for h in held if h[0] in {k.key for k in kinds if k.means not in CLAMPLESS}]
    held += [(k, 0, until, n) for k, until, n in _in_use(record, kinds, start)]
    follow, late = _follow_up(record, b, start, list(hours), list(busy))
    late += _several_ages(record, waiting)
    glues = _glue_limits(conn, record, {j.glue for j in joints}, b.air_c)
    taken = sorted([*busy, *((s.start_s, s.end_s) for s in follow)])
    problem = Problem(joints, kinds, glues, hours, b.pace, tuple(taken), tuple(held))
    problem = with_allowed(problem, allowed, b, start)
    return Demand(problem, start, tuple(follow), tuple(late), b, tuple(allowed), record.units, tuple(others))


def _glue_limits(conn: sqlite3.Connection, record: BatchRecord, glues: set[str], air_c: float) -> dict[str, GlueLimits]:
    """Open time and pot life of each glue in the air of the bench: by the tightest label among its bottles."""
    labels: dict[str, list[dict[str, float]]] = {}
    for bottle in bottles.bottles(conn):
        if bottle.limits:
            labels.setdefault(bottle.family, []).append(bottle.limits)
    found = {}
    for glue in glues:
        if glue == NO_GLUE:
            found[glue] = GlueLimits(D)
            continue
        family, own = record.glue_of(glue)
        able = [limits(family, label, air_c) for label in ([own] if own else labels.get(family, [{}]))]
        opens, pots = [x.open_s for x in able if x.open_s], [x.pot_s for x in able if x.pot_s]
        if opens:
            found[glue] = GlueLimits(int(min(opens)), int(min(pots)) if pots else None)
    return found


def unglued(record: BatchRecord) -> list[Specimen]:
    """The joints that still wait for their glue. A dummy only fills a place beside them: it waits for none."""
    joints = (s for s in record.pieces if s.role == "joint" and record.part(s) != DUMMY)
    return [s for s in joints if s.id not in record.members and not record.finished(s)]


def _days(joints: tuple[Joint, ...], kinds: tuple[Clamps, ...]) -> int:
    """A horizon that is long enough: the longest course, and every clamp used one after the other."""
    longest = max((j.clamp_s + j.cure_s + j.wet_s + j.dry_s for j in joints), default=D)
    places = max(1, sum(k.count * k.places for k in kinds))
    rounds = -(-len(joints) // min(places, 40))
    return int(longest / D) + 21 + rounds * 2


def line_clamps(record: BatchRecord, s: Specimen, caul_mm: float) -> int:
    """How many clamps the line of a joint wants, under cauls of that thickness."""
    length, through = line_of(record.form(s).key, record.line_sizes(s))
    return clamps_along(length, through, caul_mm) if length > 0 and through > 0 else 1


def _usual_tolerance(seconds: int, share: float, *, studied: bool) -> float:
    """How far a time may be off where the plan states nothing."""
    return max(STUDIED_LEAST_S, STUDIED_SHARE * seconds) if studied else max(LEAST_TOLERANCE_S, share * seconds)


def _at_several_ages(record: BatchRecord, own: Sequence[Specimen]) -> bool:
    """Whether the sections of one panel are broken at different ages, or conditioned in different ways."""
    return len({(s.cure_s, record.conditioning(s)) for s in own}) > 1


def _several_ages(record: BatchRecord, waiting: Sequence[Sequence[Specimen]]) -> list[str]:
    n = sum(_at_several_ages(record, own) for own in waiting)
    said = f"The sections of {n} panels are broken at several ages: that is scheduled once they are glued."
    return [said] if n else []


def _joint(record: BatchRecord, own: Sequence[Specimen], b: WorkingHours, caul_mm: float) -> Joint:
    """A joint to be glued, or a panel with its sections."""
    s, share, tolerances = own[0], b.tolerance, record.plan.tolerances
    several = _at_several_ages(record, own)
    counting = sum(record.part(x) == COUNTS for x in own)
    sections = max(1, counting)
    means = record.pressed_by(s)
    clamp, cure = 0 if means in CLAMPLESS else int(s.clamp_s or 0), int(s.cure_s or 0)
    studied = {f.key for f in record.plan.factors}
    wet, dry = (0, 0) if several else record.conditioning(s)
    # Sections are broken one after the other: the first of them before the age, the last one after it.
    apart = -(-(sections - 1) * b.pace.break_s // 2)
    usual = max(apart, _usual_tolerance(cure, share, studied=bool(studied & AGE)))
    return Joint(
        code=record.unit_code(s),
        treatment=record.treatments[s.treatment_id].letter,
        glue=s.glue,
        force_n=(s.pressure_mpa or 0.0) * record.pressed_mm2(s),
        clamp_s=clamp,
        cure_s=cure,
        clamp_tol_s=int(tolerances.get("clamp_s", _usual_tolerance(clamp, share, studied=bool(studied & CLAMP_TIME)))),
        cure_tol_s=int(tolerances.get("cure_s", usual)),
        wet_s=wet,
        dry_s=dry,
        wet_tol_s=max(600, int(share * max(wet, dry))),
        breaks=counting > 0 and not several,
        sections=sections,
        apart=f"{record.apart(s)} {record.block_in_words(s)}" if record.glued_in_blocks else record.apart(s),
        replicate=s.replicate,
        clamps=line_clamps(record, s, caul_mm) if means not in CLAMPLESS else 1,
        means=means,
    )


SHOP_MEANS = {"bar": "screw", "press": "screw"}
"""Kinds of the shop's clamps -> means of pressing; the others are called alike."""
FREE = "free-"
"""Before the key of what stands in the schedule for no clamp at all."""


def kind_of(c: StoredClamp) -> Clamps:
    """A kind of clamp of the shop as a schedule knows it."""
    means, force = SHOP_MEANS.get(c.kind, c.kind), c.force_n
    own = force if means in OWN_FORCE and force else 0.0
    return Clamps(str(c.id), c.label, c.count, c.places, force, own, means)


def _clampless(joints: Sequence[Joint]) -> list[Clamps]:
    """What presses joints without a clamp: as many as there are of them, so that nothing waits for it."""
    means = dict.fromkeys(j.means for j in joints if j.clampless)
    return [Clamps(f"{FREE}{m}", MEANS[m].lower(), len(joints), means=m) for m in means]


def clamp_labels(stored: Sequence[StoredClamp]) -> dict[str, str]:
    """The names of what a schedule presses with, by key."""
    return {str(c.id): c.label for c in stored} | {f"{FREE}{m}": name.lower() for m, name in MEANS.items()}


def others_at_work(
    conn: sqlite3.Connection, batch_id: int, start: datetime
) -> tuple[list[OtherTask], list[tuple[str, int, int, int]]]:
    """What hands and clamps do for other batches from ``start`` on."""
    names = dict(batches.names(conn))
    busy: list[OtherTask] = []
    held: list[tuple[str, int, int, int]] = []
    for other in store.other_schedules(conn, batch_id):
        shift = int((moment(other.document["start"]) - start).total_seconds())
        for s in other.document["slots"]:
            if s["end_s"] + shift > 0:
                name = names.get(other.batch_id, "another batch")
                busy.append(OtherTask(name, s["kind"], max(0, s["start_s"] + shift), s["end_s"] + shift))
        lanes = {
            (c["clamp"], number, c["mixed_s"], c["released_s"])
            for c in other.document["courses"]
            for number in (c["number"], *c.get("also", ()))
        }
        held += [(k, max(0, a + shift), b + shift, 1) for k, _, a, b in lanes if b + shift > 0]
    return busy, held


def _in_use(record: BatchRecord, kinds: tuple[Clamps, ...], start: datetime) -> list[tuple[str, int, int]]:
    """Clamps that hold joints of this batch now, as (kind, until, how many): those that the bench took down; of joints
    glued without a schedule it is not on record, so the commonest kind, one a joint.
    """
    kinds = tuple(k for k in kinds if k.means not in CLAMPLESS)
    if not kinds:
        return []
    known = {k.key: k for k in kinds}
    commonest = max(kinds, key=lambda k: k.count)
    lanes: dict[tuple[str, int], int] = {}
    loose: list[tuple[str, int, int]] = []
    for s in record.pieces:
        member = record.members.get(s.id)
        if member is None or not record.is_held(s):
            continue
        left = record.pressed_at(s) + timedelta(seconds=s.clamp_s or 0) - start
        until = max(1, int(left.total_seconds()))
        own = record.closed[s.id].value if s.id in record.closed else {}
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
    record: BatchRecord, b: WorkingHours, start: datetime, hours: list[Stretch], busy: list[Stretch]
) -> tuple[list[Slot], list[str]]:
    """Unclamping and breaks that joints already glued are waiting for: in their window, or at once if that is over."""
    groups: dict[tuple[str, int, int], list[tuple[int, Specimen]]] = {}
    for s in record.pieces:
        member = record.members.get(s.id)
        if member is None or record.finished(s):
            continue
        for kind, lasts_s, at_once in _open_tasks(record, s):
            seconds = int((at_once - start).total_seconds())
            groups.setdefault((kind, member.glueup_id, lasts_s), []).append((seconds, s))
    slots: list[Slot] = []
    late: list[str] = []
    for (kind, glueup, lasts_s), own in sorted(groups.items(), key=lambda g: min(due for due, _ in g[1])):
        # Joints of one glue-up go together; the first of them says when.
        due, tol = min(at for at, _ in own), int(max(LEAST_TOLERANCE_S, b.tolerance * lasts_s))
        pieces = [s for _, s in own]
        each = {UNCLAMP: len(record.as_units(pieces)) * b.pace.unclamp_s, SOAK: b.pace.soak_s}
        length = each.get(kind, len(own) * b.pace.break_s)
        at = _first_free(hours, busy, max(0, due - tol), length)
        if at is None:
            continue
        if at > due + tol:
            what = {UNCLAMP: "unclamped", SOAK: "put into conditioning"}.get(kind, "broken")
            late.append(
                f"{len(own)} joints of glue-up {record.glueups[glueup].number} are {what} {_late(at - due)} late."
            )
        busy.append((at, at + length))
        codes = [s.code for s in pieces] if kind == BREAK else record.in_short(pieces)
        slots.append(Slot(kind, -1, at, at + length, tuple(codes)))
    return slots, late


def _open_tasks(record: BatchRecord, s: Specimen) -> list[tuple[str, int, datetime]]:
    """What a glued joint still waits for: (task, the time it takes its tolerance from, when it is due)."""
    pressed, clamp, cure = record.pressed_at(s), int(s.clamp_s or 0), int(s.cure_s or 0)
    found = []
    if record.is_held(s):
        found.append((UNCLAMP, clamp, pressed + timedelta(seconds=clamp)))
    if record.conditioning(s)[0] and (s.id, "in") not in record.conditioned:
        found.append((SOAK, cure, pressed + timedelta(seconds=cure)))
    if record.part(s) == COUNTS:
        found.append((BREAK, cure, record.due_at(s)))
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
