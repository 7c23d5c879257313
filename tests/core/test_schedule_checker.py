"""The checker against planted violations: each of them breaks a rule for certain, and each is found."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import replace

import pytest
from benchmarks.instances import D, H, joint, pressures_by_ages, tape_and_nothing, two_temperatures

from adhaero.core.glue.schedule.checker import check
from adhaero.core.glue.schedule.greedy import first_schedule
from adhaero.core.glue.schedule.problem import Clamps, GlueLimits, Problem
from adhaero.core.glue.schedule.timetable import Course, Slot, Timetable
from tests.core.test_schedule import DAYS, small

Planted = tuple[Problem, Timetable]
Plant = Callable[[Problem, Timetable, random.Random], Planted | None]
PLANTS: dict[str, Plant] = {}
IN_PANELS: set[str] = set()
"""Plants for schedules with panels and with two temperatures."""
ROUNDS = 12_500


def plants(rule: str, *, in_panels: bool = False) -> Callable[[Plant], Plant]:
    """Register a planter with the rule that must be among those found."""

    def keep(f: Plant) -> Plant:
        PLANTS[f"{rule}: {f.__name__}"] = f
        if in_panels:
            IN_PANELS.add(f"{rule}: {f.__name__}")
        return f

    return keep


def valid() -> list[Planted]:
    wet = [joint(0, f"{t} {w}", wet=w * H, cure=30 * H, replicate=r) for t in "AB" for w in (0, 24) for r in (1, 2)]
    dried = [replace(joint(0, "C", wet=24 * H, cure=30 * H), dry_s=48 * H) for _ in range(2)]
    shared = [joint(0, t, mpa=0.5, replicate=r) for t in "AB" for r in (1, 2, 3)]
    problems = [
        small([*wet, *dried], DAYS, days=30),
        small(shared, DAYS, (Clamps("caul", "Caul", 2, 3, 900.0),)),
        small([replace(joint(0, t, mpa=1.2, replicate=r), clamps=3) for t in "AB" for r in (1, 2)], DAYS),
        replace(pressures_by_ages(), joints=pressures_by_ages().joints[::3]),
    ]
    glues = {"pva-damp": GlueLimits(480, 3600), "epoxy-slow": GlueLimits(2400, 2400)}
    return made([replace(x, glues=glues) for x in problems])


def made(problems: list[Problem]) -> list[Planted]:
    """Schedules that keep every rule."""
    found = [(p, first_schedule(p)[2]) for p in problems]
    for p, t in found:
        assert t.unplaced == ()
        assert check(p, t) == []
    return found


def course(t: Timetable, n: int, **change: object) -> Timetable:
    made = replace(t.courses[n], **change)  # type: ignore[arg-type]
    return replace(t, courses=(*t.courses[:n], made, *t.courses[n + 1 :]))


def slot(t: Timetable, n: int, **change: object) -> Timetable:
    made: Slot = replace(t.slots[n], **change)  # type: ignore[arg-type]
    return replace(t, slots=(*t.slots[:n], made, *t.slots[n + 1 :]))


def pick(t: Timetable, rng: random.Random) -> tuple[int, Course]:
    n = rng.randrange(len(t.courses))
    return n, t.courses[n]


def pick_slot(t: Timetable, rng: random.Random, kind: str | None = None) -> int:
    return rng.choice([n for n, s in enumerate(t.slots) if kind in (None, s.kind)])


def of(p: Problem, code: str) -> int:
    return next(n for n, j in enumerate(p.joints) if j.code == code)


@plants("clamps")
def one_clamp_too_few(p: Problem, t: Timetable, rng: random.Random) -> Planted | None:
    n, c = pick(t, rng)
    return (p, course(t, n, also=c.also[1:])) if c.also else None


@plants("clamps")
def one_clamp_twice(p: Problem, t: Timetable, rng: random.Random) -> Planted | None:
    n, c = pick(t, rng)
    return (p, course(t, n, also=(c.number, *c.also[1:]))) if c.also else None


@plants("once")
def forgotten(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n, _ = pick(t, rng)
    return p, replace(t, courses=t.courses[:n] + t.courses[n + 1 :])


@plants("once")
def glued_twice(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    _, c = pick(t, rng)
    return p, replace(t, courses=(*t.courses, c))


@plants("once")
def a_stranger(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n, _ = pick(t, rng)
    return p, course(t, n, code="XXXX")


@plants("once")
def a_task_left_out(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n = pick_slot(t, rng)
    return p, replace(t, slots=t.slots[:n] + t.slots[n + 1 :])


@plants("hours")
def at_night(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n = pick_slot(t, rng)
    s = t.slots[n]
    kept = tuple((a, b) for a, b in p.hours if not (a <= s.start_s and s.end_s <= b))
    return replace(p, hours=kept), t


@plants("hours")
def a_minute_over(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n = pick_slot(t, rng)
    s = t.slots[n]
    cut = tuple((a, s.end_s - rng.randint(1, 60) if a <= s.start_s and s.end_s <= b else b) for a, b in p.hours)
    return replace(p, hours=cut), t


@plants("hands")
def two_at_once(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n = pick_slot(t, rng)
    s = t.slots[n]
    at = rng.randint(s.start_s, s.end_s - 1)
    return replace(p, busy=(*p.busy, (at, at + rng.randint(1, 600)))), t


@plants("hands")
def hurried(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    return replace(p, pace=replace(p.pace, joint_s=p.pace.joint_s + rng.randint(1, 100))), t


@plants("clamp time")
def released_early_or_late(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n, c = pick(t, rng)
    j = p.joints[of(p, c.code)]
    off = rng.choice((-1, 1)) * (j.clamp_tol_s + rng.randint(1, 5000))
    return p, course(t, n, released_s=c.pressed_s + j.clamp_s + off)


@plants("age")
def broken_early_or_late(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n, c = pick(t, rng)
    j = p.joints[of(p, c.code)]
    at = c.closed_s + j.cure_s + rng.choice((-1, 1)) * (j.cure_tol_s + rng.randint(1, 9000))
    return p, course(t, n, **({"in_s": at} if c.in_s is not None else {"broken_s": at}))


@plants("open time")
def open_too_long(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n, c = pick(t, rng)
    most = p.limits(p.joints[of(p, c.code)].glue).open_s
    return p, course(t, n, spread_s=c.closed_s - most - rng.randint(1, 900))


@plants("pot life")
def mixed_too_early(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n, c = pick(t, rng)
    pot = p.limits(p.joints[of(p, c.code)].glue).pot_s
    assert pot is not None
    return p, course(t, n, mixed_s=c.closed_s - pot - rng.randint(1, 900))


@plants("order")
def pressed_before_closed(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n, c = pick(t, rng)
    return p, course(t, n, pressed_s=c.closed_s - rng.randint(1, 600))


@plants("order")
def broken_in_the_clamp(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n, c = pick(t, rng)
    until = c.in_s if c.in_s is not None else (c.broken_s or 0)
    return p, course(t, n, released_s=until + rng.randint(1, 600))


@plants("conditioning")
def soaked_too_short(p: Problem, t: Timetable, rng: random.Random) -> Planted | None:
    wet = [n for n, c in enumerate(t.courses) if c.in_s is not None]
    if not wet:
        return None
    n = rng.choice(wet)
    c = t.courses[n]
    assert c.in_s is not None
    j = p.joints[of(p, c.code)]
    return p, course(t, n, out_s=c.in_s + j.wet_s - j.wet_tol_s - rng.randint(1, 3600))


@plants("conditioning")
def never_soaked(p: Problem, t: Timetable, rng: random.Random) -> Planted | None:
    wet = [n for n, c in enumerate(t.courses) if c.in_s is not None]
    return (p, course(t, rng.choice(wet), in_s=None)) if wet else None


@plants("clamps")
def one_clamp_too_many(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n, c = pick(t, rng)
    count = next(k.count for k in p.clamps if k.key == c.clamp)
    return p, course(t, n, number=count + rng.randint(1, 3))


@plants("clamps")
def in_two_places(p: Problem, t: Timetable, rng: random.Random) -> Planted | None:
    n, c = pick(t, rng)
    others = [o for o in t.courses if o.run != c.run and o.pressed_s < c.released_s and c.pressed_s < o.released_s]
    return (p, course(t, n, number=rng.choice(others).number, clamp=others[0].clamp)) if others else None


@plants("clamps")
def held_by_another(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    _, c = pick(t, rng)
    count = next(k.count for k in p.clamps if k.key == c.clamp)
    return replace(p, held=(*p.held, (c.clamp, c.pressed_s, c.released_s, count))), t


@plants("force")
def pressed_too_hard(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    n = of(p, pick(t, rng)[1].code)
    heavy = replace(p.joints[n], force_n=(5000.0 + rng.random()) * p.joints[n].clamps)
    return replace(p, joints=(*p.joints[:n], heavy, *p.joints[n + 1 :])), t


@plants("figures")
def ends_later_than_said(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    return p, replace(t, finish_s=t.finish_s - rng.randint(1, D))


@plants("figures")
def fewer_visits_than_taken(p: Problem, t: Timetable, rng: random.Random) -> Planted:
    return p, replace(t, visits=t.visits - rng.randint(1, 3))


@plants("apart", in_panels=True)
def glued_together(p: Problem, t: Timetable, rng: random.Random) -> Planted | None:
    """Two temperatures in one mix: one of the joints of a run would have to be glued in other air."""
    able = [c for c in t.courses if sum(o.run == c.run for o in t.courses) > 1]
    if not able:
        return None
    n = of(p, rng.choice(able).code)
    other = replace(p.joints[n], apart="elsewhere")
    return replace(p, joints=(*p.joints[:n], other, *p.joints[n + 1 :])), t


@plants("hands", in_panels=True)
def sawn_in_no_time(p: Problem, t: Timetable, rng: random.Random) -> Planted | None:
    """A panel has one section more than its time at the rig is for."""
    able = [j for j in p.joints if j.sections > 1]
    if not able:
        return None
    n = of(p, rng.choice(able).code)
    more = replace(p.joints[n], sections=p.joints[n].sections + 1)
    return replace(p, joints=(*p.joints[:n], more, *p.joints[n + 1 :])), t


@plants("age", in_panels=True)
def the_first_section_too_early(p: Problem, t: Timetable, rng: random.Random) -> Planted | None:
    """The last section of a panel keeps the age; the first was broken before it."""
    able = [j for j in p.joints if j.sections > 1]
    if not able:
        return None
    n = of(p, rng.choice(able).code)
    j, c = p.joints[n], next(c for c in t.courses if c.code == p.joints[n].code)
    assert c.broken_s is not None
    last = abs(c.broken_s - c.closed_s - j.cure_s)
    first = abs(c.broken_s - (j.sections - 1) * p.pace.break_s - c.closed_s - j.cure_s)
    if first <= last:
        return None
    tight = replace(j, cure_tol_s=rng.randint(last, first - 1))
    return replace(p, joints=(*p.joints[:n], tight, *p.joints[n + 1 :])), t


@plants("tasks")
def broken_out_of_its_turn(p: Problem, t: Timetable, rng: random.Random) -> Planted | None:
    able = [n for n, s in enumerate(t.slots) if s.kind == "break" and len(s.codes) > 1]
    if not able:
        return None
    n = rng.choice(able)
    return p, slot(t, n, codes=tuple(reversed(t.slots[n].codes)))


@pytest.fixture(scope="module")
def schedules() -> list[Planted]:
    return valid()


@pytest.fixture(scope="module")
def panels() -> list[Planted]:
    return made([tape_and_nothing(), two_temperatures()])


@pytest.mark.parametrize("name", sorted(PLANTS))
def test_every_planted_violation_is_found(schedules: list[Planted], panels: list[Planted], name: str) -> None:
    rng, planted = random.Random(name), 0
    among = panels if name in IN_PANELS else schedules
    rule = name.split(":")[0]
    for n in range(ROUNDS // len(PLANTS) + 1):
        problem, table = among[n % len(among)]
        wrong = PLANTS[name](problem, table, rng)
        if wrong is None:
            continue
        planted += 1
        found = {v.rule for v in check(*wrong)}
        assert rule in found, f"{name} in round {n}: only {found or 'nothing'} was found"
    assert planted >= 100
