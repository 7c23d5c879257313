"""Whether a schedule keeps every rule: found from the raw facts of each joint, never from what the planner worked with.

This is code of its own on purpose. It knows nothing of runs' windows or of how a schedule was made.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from adhaero.core.glue.pressing import CLAMPLESS, OWN_FORCE
from adhaero.core.glue.schedule.hours import Stretch
from adhaero.core.glue.schedule.problem import Clamps, Joint, Problem
from adhaero.core.glue.schedule.timetable import Course, Timetable


@dataclass(frozen=True)
class Violation:
    """A rule that is broken: which, by what, in words."""

    rule: str
    code: str
    text: str


def check(problem: Problem, table: Timetable) -> list[Violation]:
    """Every rule that the schedule breaks; empty for a valid one."""
    found = [*_once(problem, table), *_hands(problem, table), *_clamps(problem, table)]
    joints = {j.code: j for j in problem.joints}
    for c in table.courses:
        if c.code in joints:
            found += _course(problem, joints[c.code], c)
    found += _runs(problem, table, joints)
    found += _figures(problem, table)
    return found


def _once(problem: Problem, table: Timetable) -> Iterator[Violation]:
    wanted = [j.code for j in problem.joints]
    joint_records = [c.code for c in table.courses] + list(table.unplaced)
    for code in wanted:
        if joint_records.count(code) != 1:
            yield Violation("once", code, f"{code} stands {joint_records.count(code)} times in the schedule")
    for code in set(joint_records) - set(wanted):
        yield Violation("once", code, f"{code} is no joint of this batch")
    by_code = {j.code: j for j in problem.joints}
    for kind in ("glue", "unclamp", "soak", "take out", "break"):
        slots: dict[str, int] = {}
        for s in table.slots:
            if s.kind == kind:
                for code in s.codes:
                    slots[code] = slots.get(code, 0) + 1
        for c in table.courses:
            joint = by_code.get(c.code)
            if joint is not None and slots.get(c.code, 0) != _due(joint, kind):
                yield Violation("once", c.code, f"{c.code} is in {slots.get(c.code, 0)} tasks of the kind {kind}")


def _due(joint: Joint, kind: str) -> int:
    conditioned = joint.wet_s > 0 or joint.dry_s > 0
    if kind == "break":
        return int(joint.breaks)
    if kind == "soak":
        return int(conditioned)
    if kind == "take out":
        return int(joint.dry_s > 0)
    if kind == "unclamp":
        return int(joint.means not in CLAMPLESS)
    return 1


def _hands(problem: Problem, table: Timetable) -> Iterator[Violation]:
    for s in table.slots:
        name = f"{s.kind} of {s.codes[0] if s.codes else 'nothing'}"
        if not any(a <= s.start_s and s.end_s <= b for a, b in problem.hours):
            yield Violation("hours", s.codes[0] if s.codes else "", f"{name} lies outside of the hours")
        if s.end_s - s.start_s < _needs(problem, s.kind, s.codes):
            yield Violation("hands", s.codes[0] if s.codes else "", f"{name} is shorter than hands need")
    every = sorted([(s.start_s, s.end_s, f"{s.kind} of {s.codes[0]}") for s in table.slots if s.codes]
                   + [(a, b, "something else") for a, b in problem.busy])  # fmt: skip
    for (_, end, name), (start, _, other) in itertools.pairwise(every):
        if start < end:
            yield Violation("hands", "", f"{other} begins before {name} is over")


def _needs(problem: Problem, kind: str, codes: Sequence[str]) -> int:
    pace, joints = problem.pace, {j.code: j for j in problem.joints}
    if kind == "glue":
        return pace.mix_s + len(codes) * pace.joint_s
    if kind == "break":
        return sum(_rig_s(problem, joints.get(c)) for c in codes)
    return pace.soak_s if kind in ("soak", "take out") else 0


def _rig_s(problem: Problem, j: Joint | None) -> int:
    """What a joint takes at the rig: a panel is sawn, one cut a section, and its sections are broken one by one."""
    pace = problem.pace
    return pace.break_s if j is None or j.sections == 1 else j.sections * (pace.saw_s + pace.break_s)


def _course(problem: Problem, j: Joint, c: Course) -> Iterator[Violation]:
    limits, pace = problem.limits(j.glue), problem.pace

    def rule(kept: bool, name: str, text: str) -> Iterator[Violation]:
        if not kept:
            yield Violation(name, c.code, f"{c.code}: {text}")

    yield from rule(c.mixed_s + pace.mix_s <= c.spread_s, "order", "spread before its mix is ready")
    yield from rule(c.closed_s - c.spread_s >= pace.joint_s, "hands", "closed quicker than hands can")
    yield from rule(c.closed_s - c.spread_s <= limits.open_s, "open time", "open for longer than the glue bears")
    yield from rule(
        limits.pot_s is None or c.closed_s - c.mixed_s <= limits.pot_s,
        "pot life",
        "closed after the pot life of its mix",
    )
    yield from rule(c.pressed_s >= c.closed_s, "order", "pressed before it is closed")
    yield from rule(c.pressed_s - c.spread_s <= limits.open_s, "open time", "pressed after its open time")
    clamped = c.released_s - c.pressed_s
    if j.means in CLAMPLESS:
        yield from rule(clamped == 0, "clamp time", f"has no clamp, and yet one for {clamped} s")
    else:
        yield from rule(abs(clamped - j.clamp_s) <= j.clamp_tol_s, "clamp time", f"in its clamp for {clamped} s")
    begin = c.in_s if c.in_s is not None else c.broken_s
    if begin is not None:
        # The first section of a panel is broken while the others wait.
        earlier = (j.sections - 1) * pace.break_s if c.in_s is None else 0
        for age in {begin - c.closed_s, begin - earlier - c.closed_s}:
            yield from rule(abs(age - j.cure_s) <= j.cure_tol_s, "age", f"{age} s old")
        first = begin - (_rig_s(problem, j) if c.in_s is None else 0)
        yield from rule(c.released_s <= first, "order", "broken in its clamp")
    conditioned = j.wet_s > 0 or j.dry_s > 0
    yield from rule((c.in_s is not None) == conditioned, "conditioning", "its conditioning does not fit the plan")
    yield from rule((c.broken_s is not None) == j.breaks, "once", "its break does not fit the plan")
    if c.in_s is not None and conditioned:
        yield from _conditioning(problem, j, c)


def _conditioning(problem: Problem, j: Joint, c: Course) -> Iterator[Violation]:
    assert c.in_s is not None
    taken = None if c.broken_s is None else c.broken_s - _rig_s(problem, j)
    # When the first and the last of its sections are put into the rig.
    slots = [] if c.broken_s is None else [c.broken_s - n * problem.pace.break_s for n in (1, j.sections)]
    if j.dry_s:
        found = [("wet", c.out_s - c.in_s, j.wet_s)] if c.out_s is not None else []
        found += [("drying", slot - c.out_s, j.dry_s) for slot in slots if c.out_s is not None]
    else:
        found = [("wet", slot - c.in_s, j.wet_s) for slot in slots]
        if taken is not None and c.out_s != taken:
            yield Violation("conditioning", c.code, f"{c.code}: does not come out of its bath at its own break")
    for name, real, planned in found:
        if abs(real - planned) > j.wet_tol_s:
            yield Violation("conditioning", c.code, f"{c.code}: {name} for {real} s")


def _runs(problem: Problem, table: Timetable, joints: dict[str, Joint]) -> Iterator[Violation]:
    """Open time of a whole run; what stands in the tasks is what stands in the courses."""
    by_code = {c.code: c for c in table.courses}
    loads: dict[tuple[int, str, int], list[Course]] = {}
    for c in table.courses:
        loads.setdefault((c.run, c.clamp, c.number), []).append(c)
    for own in loads.values():
        if len({c.pressed_s for c in own}) > 1 or len({c.released_s for c in own}) > 1:
            yield Violation("load", own[0].code, "joints in one clamp are not pressed and released together")
        first = joints.get(own[0].code)
        others = [joints[c.code] for c in own if c.code in joints]
        if first and any(abs(o.force_n - first.force_n) > 0.021 * first.force_n for o in others):
            yield Violation("load", own[0].code, "joints in one clamp want different pressures")
    for s in table.slots:
        taken = s.start_s
        for code in s.codes:
            found = by_code.get(code)
            taken += _rig_s(problem, joints.get(code))
            if found is None:
                continue
            inside = {
                "glue": s.start_s <= found.mixed_s and found.closed_s <= s.end_s,
                "unclamp": s.start_s < found.released_s <= s.end_s,
                "soak": found.in_s is not None and s.start_s < found.in_s <= s.end_s,
                "take out": found.out_s is not None and s.start_s < found.out_s <= s.end_s,
                "break": found.broken_s is not None and taken == found.broken_s,
            }[s.kind]
            if not inside:
                yield Violation("tasks", code, f"{code}: its {s.kind} is not where its task stands")
    glued: dict[int, list[Course]] = {}
    for c in table.courses:
        glued.setdefault(c.run, []).append(c)
    for own in glued.values():
        if len({joints[c.code].glue for c in own if c.code in joints}) > 1:
            yield Violation("run", own[0].code, "two glues in one mix")
        if len({joints[c.code].apart for c in own if c.code in joints}) > 1:
            yield Violation("apart", own[0].code, "joints of one mix differ in what is one for a whole glue-up")
        ends = sorted((c.spread_s, c.closed_s, c.code) for c in own)
        for (_, end, _), (start, _, code) in itertools.pairwise(ends):
            if start < end:
                yield Violation("hands", code, f"{code} is spread before the joint before it is closed")


def _clamps(problem: Problem, table: Timetable) -> Iterator[Violation]:
    kinds = {c.key: c for c in problem.clamps}
    joints = {j.code: j for j in problem.joints}
    lanes: dict[tuple[str, int], list[tuple[int, int, int]]] = {}
    loads: dict[tuple[str, int, int], list[Course]] = {}
    for c in table.courses:
        kind = kinds.get(c.clamp)
        numbers = (c.number, *c.also)
        if kind is None or not all(1 <= n <= kind.count for n in numbers) or len(set(numbers)) < len(numbers):
            yield Violation("clamps", c.code, f"{c.code}: there is no clamp {c.clamp} {c.number}")
            continue
        if c.code in joints and len(numbers) != joints[c.code].clamps:
            wanted = joints[c.code].clamps
            yield Violation("clamps", c.code, f"{c.code}: {len(numbers)} clamps, its line wants {wanted}")
        loads.setdefault((c.clamp, c.number, c.run), []).append(c)
    begins = {s.run: s.start_s for s in table.slots if s.kind == "glue"}
    for (key, number, run), own in loads.items():
        yield from _load(kinds[key], own, joints)
        taken = begins.get(run, own[0].mixed_s), max(c.released_s for c in own), run
        for n in {number, *(n for c in own for n in c.also)}:
            lanes.setdefault((key, n), []).append(taken)
    for (key, number), spans in lanes.items():
        ordered = sorted(spans)
        for (_, end, _), (start, _, _) in itertools.pairwise(ordered):
            if start < end:
                yield Violation("clamps", "", f"{kinds[key].label} {number} is in two places at once")
    for kind in problem.clamps:
        held = [(a, b) for (key, _), own in lanes.items() if key == kind.key for a, b, _ in own]
        held += [(a, b) for key, a, b, many in problem.held if key == kind.key for _ in range(many)]
        if _most(held) > kind.count:
            yield Violation("clamps", "", f"more than {kind.count} of {kind.label} are needed at once")


def _load(kind: Clamps, own: Sequence[Course], joints: Mapping[str, Joint]) -> Iterator[Violation]:
    """The joints that share one clamp: as many as it has places for, pressed as hard as each is to be."""
    beside = own[0].dummies
    if len(own) + beside > kind.places:
        text = f"{len(own)} joints and {beside} dummies in a clamp with {kind.places} places"
        yield Violation("clamps", own[0].code, text)
    if len({c.dummies for c in own}) > 1:
        yield Violation("load", own[0].code, "joints in one clamp have different dummies beside them")
    pressed = [(joints[c.code], 1 + len(c.also)) for c in own if c.code in joints]
    for j, _ in pressed:
        yield from _means(kind, j)
    if not pressed or any(j.means in (*CLAMPLESS, *OWN_FORCE) and not j.force_n for j, _ in pressed):
        return
    force = sum(j.force_n / clamps for j, clamps in pressed) * (1 + beside / len(pressed))
    # A weight is what it is: joints that want a fiftieth more than it gives are pressed as planned.
    if kind.most_n is not None and force > kind.most_n * (1.02 if kind.least_n else 1.001):
        yield Violation("force", own[0].code, f"{kind.label} cannot press with {force:.0f} N")
    if force < 0.8 * kind.least_n:
        yield Violation("force", own[0].code, f"{kind.label} presses harder than {force:.0f} N")


def _means(kind: Clamps, j: Joint) -> Iterator[Violation]:
    """What presses a joint is what was planned to: tape is no clamp, and a clamp is no tape."""
    if j.means and kind.means != j.means:
        yield Violation("means", j.code, f"{j.code} is to be pressed by {j.means}, not by {kind.label}")
    if not j.means and kind.means in CLAMPLESS:
        yield Violation("means", j.code, f"{j.code} is to be pressed, and {kind.label} presses nothing")


def _most(spans: Sequence[Stretch]) -> int:
    """The most of these stretches that share a moment."""
    edges = sorted([(a, 1) for a, _ in spans] + [(b, -1) for _, b in spans], key=lambda e: (e[0], e[1]))
    used = most = 0
    for _, change in edges:
        used += change
        most = max(most, used)
    return most


def _figures(problem: Problem, table: Timetable) -> Iterator[Violation]:
    finish = max((s.end_s for s in table.slots), default=0)
    if finish != table.finish_s:
        yield Violation("figures", "", f"ends at {finish} s, not at {table.finish_s} s")
    begun = set()
    for s in table.slots:
        begun.add(next((n for n, (a, b) in enumerate(problem.hours) if a <= s.start_s < b), -1))
    if len(begun) != table.visits:
        yield Violation("figures", "", f"takes {len(begun)} visits, not {table.visits}")
