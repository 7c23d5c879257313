"""Means of pressing in a schedule: what takes no clamp, what gives its own force, and dummies beside it."""

from __future__ import annotations

from dataclasses import replace

import pytest
from benchmarks.instances import BARS, MINUTE, H, joint
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.glue.schedule.checker import check
from adhaero.core.glue.schedule.greedy import first_schedule
from adhaero.core.glue.schedule.improve import improve
from adhaero.core.glue.schedule.problem import Clamps, Joint, Problem
from adhaero.core.glue.schedule.timetable import Timetable
from tests.core.test_schedule import DAYS, small

TWO_UNDER = Clamps("weight", "Weight on two", 3, 2, 120.0, 120.0, "weight")
TAPE = Clamps("free-tape", "tape", 20, means="tape")
NOTHING = Clamps("free-nothing", "nothing on it", 20, means="nothing")
SPRING = Clamps("spring", "Spring clamp", 2, 1, 100.0, 100.0, "spring")


def pressed(means: str, mpa: float = 0.0, clamp: float = 0, replicate: int = 1) -> Joint:
    return replace(joint(0, means or f"{mpa}", mpa=mpa, clamp=clamp, cure=24 * H, replicate=replicate), means=means)


def weights_on_two() -> tuple[Problem, Timetable]:
    """Five joints that want 60 N under weights of 120 N: two pairs, and one beside a dummy."""
    problem = small([joint(0, "A", mpa=0.12, clamp=2 * H, replicate=r) for r in range(1, 6)], DAYS, (TWO_UNDER,))
    return problem, first_schedule(problem)[2]


def beside_clamps() -> tuple[Problem, Timetable]:
    """Nothing, tape and one bar clamp: what takes no clamp waits for none."""
    joints = [pressed(m, replicate=r) for m in ("tape", "nothing") for r in (1, 2, 3)]
    joints += [pressed("", 0.8, 4 * H, r) for r in (1, 2, 3)]
    problem = small(joints, DAYS, (replace(BARS, count=1), TAPE, NOTHING))
    return problem, first_schedule(problem)[2]


def test_a_dummy_shares_the_weight_with_the_odd_joint() -> None:
    problem, table = weights_on_two()
    assert table.unplaced == ()
    assert check(problem, table) == []
    assert sorted(c.dummies for c in table.courses) == [0, 0, 0, 0, 1]


def test_a_weight_for_one_joint_alone_needs_no_dummy() -> None:
    problem = small([joint(0, "A", mpa=0.24, clamp=2 * H, replicate=r) for r in (1, 2)], DAYS, (TWO_UNDER,))
    table = first_schedule(problem)[2]
    assert check(problem, table) == []
    assert {c.dummies for c in table.courses} == {0}
    assert len({(c.run, c.number) for c in table.courses}) == 2


def test_tape_and_nothing_take_no_clamp_and_no_clamp_time() -> None:
    problem, table = beside_clamps()
    assert table.unplaced == ()
    assert check(problem, table) == []
    free = {j.code for j in problem.joints if j.clampless}
    assert {c.code for c in table.courses if c.released_s == c.pressed_s} == free
    off = [code for s in table.slots if s.kind == "unclamp" for code in s.codes]
    assert set(off).isdisjoint(free)
    assert len(off) == 3
    # Six joints without clamps are not held up by the single clamp: all are glued in the first visit.
    first = min(s.start_s for s in table.slots)
    assert all(c.mixed_s < first + 2 * H for c in table.courses if c.code in free)


def test_a_means_is_never_given_by_another() -> None:
    spring = small([pressed("spring", clamp=H, replicate=r) for r in (1, 2, 3)], DAYS, (BARS, SPRING, TAPE))
    table = first_schedule(spring)[2]
    assert check(spring, table) == []
    assert {c.clamp for c in table.courses} == {"spring"}
    none = small([pressed("spring", clamp=H)], DAYS, (BARS, TAPE))
    assert first_schedule(none)[2].unplaced == (none.joints[0].code,)


def test_what_is_to_be_clamped_is_not_taped() -> None:
    problem = small([pressed("", 0.8, H)], DAYS, (TAPE, NOTHING))
    assert first_schedule(problem)[2].unplaced == (problem.joints[0].code,)


def rules(problem: Problem, table: Timetable) -> set[str]:
    return {v.rule for v in check(problem, table)}


def changed(t: Timetable, code: str, **change: object) -> Timetable:
    courses = tuple(replace(c, **change) if c.code == code else c for c in t.courses)  # type: ignore[arg-type]
    return replace(t, courses=courses)


@pytest.mark.parametrize("n", range(5))
def test_the_checker_finds_dummies_that_are_missing_or_too_many(n: int) -> None:
    problem, table = weights_on_two()
    code, dummies = table.courses[n].code, table.courses[n].dummies
    assert rules(problem, changed(table, code, dummies=dummies + 1)) & {"clamps", "load"}
    if dummies:
        assert "force" in rules(problem, changed(table, code, dummies=0))


def test_the_checker_finds_a_means_that_was_not_planned() -> None:
    problem, table = beside_clamps()
    by_means = {j.means: j.code for j in problem.joints}
    assert "means" in rules(problem, changed(table, by_means["tape"], clamp="bar", number=1))
    assert "means" in rules(problem, changed(table, by_means[""], clamp="free-tape", number=9))
    assert "means" in rules(problem, changed(table, by_means["nothing"], clamp="free-tape", number=9))
    taped = next(c for c in table.courses if c.code == by_means["tape"])
    held = changed(table, taped.code, released_s=taped.pressed_s + 600)
    assert "clamp time" in rules(problem, held)
    off = next(s for s in table.slots if s.kind == "unclamp")
    more = replace(off, codes=(*off.codes, taped.code))
    slots = tuple(more if s is off else s for s in table.slots)
    assert "once" in rules(problem, replace(table, slots=slots))


def test_the_search_keeps_the_means() -> None:
    problem, _ = beside_clamps()
    chains, starts, _ = first_schedule(problem)
    found = improve(problem, chains, starts, 1, 3.0, lambda *_: True, deterministic=True)
    assert check(problem, found.table) == []


@settings(max_examples=40)
@given(st.data())
def test_every_mixture_of_means_is_scheduled_without_a_violation(data: st.DataObject) -> None:
    means = st.sampled_from(["", "tape", "nothing", "weight", "spring"])
    joints = []
    for r in range(data.draw(st.integers(1, 10))):
        kind = data.draw(means)
        clamp = 0 if kind in ("tape", "nothing") else data.draw(st.sampled_from([30 * MINUTE, 2 * H]))
        force = data.draw(st.sampled_from([0.12, 0.24])) if kind == "weight" else 0.2 * (kind == "spring") or 0.8
        mpa = 0.0 if kind in ("tape", "nothing") else force
        joints.append(pressed(kind, mpa, clamp, r + 1))
    problem = small(joints, DAYS, (replace(BARS, count=2), TAPE, NOTHING, TWO_UNDER, SPRING))
    table = first_schedule(problem)[2]
    assert check(problem, table) == []
    assert table.unplaced == ()


@settings(deadline=None, max_examples=40)
@given(
    forces=st.lists(st.floats(40.0, 130.0), min_size=1, max_size=9),
    near=st.floats(0.96, 1.04),
    places=st.integers(1, 3),
    own=st.sampled_from([60.0, 120.0, 180.0]),
)
def test_pieces_that_are_not_quite_alike_never_break_a_weight_s_own_rule(
    forces: list[float], near: float, places: int, own: float
) -> None:
    """Measured faces differ by some percent, and with them the force that each joint wants of a shared weight."""
    weight = Clamps("weight", "Weight", 3, places, own, own, "weight")
    wanted = [f for force in forces for f in (force, force * near)]
    joints = [replace(joint(0, "A", mpa=0.1, clamp=2 * H, replicate=n), force_n=f) for n, f in enumerate(wanted)]
    problem = small(joints, DAYS, (weight,))
    assert check(problem, first_schedule(problem)[2]) == []
