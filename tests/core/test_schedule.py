"""Schedules of glue-ups: the six instances, hours across a clock change, clamps, runs, and the impossible."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta

import pytest
from benchmarks.instances import BARS, DAYS, GLUES, INSTANCES, START, D, H, joint, pressures_by_ages
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.glue.schedule.calendar import overlap, shifted
from adhaero.core.glue.schedule.checker import check
from adhaero.core.glue.schedule.compose import LOADS, Load, Run, compose, most_joints
from adhaero.core.glue.schedule.explain import applied, explain
from adhaero.core.glue.schedule.greedy import first_schedule, put_in
from adhaero.core.glue.schedule.hours import Hours, stretches
from adhaero.core.glue.schedule.improve import improve
from adhaero.core.glue.schedule.problem import Clamps, GlueLimits, Joint, Problem
from adhaero.core.glue.schedule.timetable import timetable
from adhaero.core.glue.schedule.timing import chain
from adhaero.core.refusal import Refusal

EVENINGS = Hours(tuple((d, 17 * 60, 22 * 60) for d in range(5)))


def clock(s: int) -> str:
    return (START + timedelta(seconds=s)).strftime("%a %H:%M")


def small(joints: list[Joint], hours: Hours = DAYS, clamps: tuple[Clamps, ...] = (BARS,), days: int = 14) -> Problem:
    named = tuple(replace(j, code=f"J{n:02d}") for n, j in enumerate(joints))
    return Problem(named, clamps, GLUES, tuple(stretches(hours, START, days)))


@pytest.mark.parametrize("name", sorted(INSTANCES))
def test_every_instance_is_placed_whole_and_keeps_every_rule(name: str) -> None:
    problem = INSTANCES[name]()
    _, _, table = first_schedule(problem)
    assert table.unplaced == ()
    assert check(problem, table) == []


@pytest.mark.slow
def test_the_better_schedule_is_no_worse_and_valid_and_repeats() -> None:
    problem = pressures_by_ages()
    chains, starts, table = first_schedule(problem)
    found = [improve(problem, chains, starts, 7, 2.0, lambda *_: True, deterministic=True) for _ in range(2)]
    assert found[0].starts == found[1].starts
    assert check(problem, found[0].table) == []
    night = 12 * H
    assert found[0].table.finish_s <= table.finish_s + night, "it may end later in the same visit, not in a later one"
    assert found[0].table.visits <= table.visits


def test_treatments_are_spread_evenly_over_the_visits_where_that_costs_nothing() -> None:
    # Two treatments in loads of two; four clamps hold two loads an evening. Dealt out as they come, one evening may
    # be all A and the other all B; A and B on each is as soon, and the day is not confounded with the treatment.
    joints = [joint(0, t, clamp=18 * H, cure=48 * H, replicate=r, share=0.2) for t in "AB" for r in range(1, 5)]
    problem = small(joints, EVENINGS, (replace(BARS, count=4),))
    runs = [Run(n, (Load("bar", (2 * n,)), Load("bar", (2 * n + 1,)))) for n in range(4)]
    chains = [chain(problem, r) for r in runs]
    starts = put_in(problem, chains)
    before = timetable(problem, chains, starts)
    assert before.spread > 1, "A on the first evening, B on the second"
    found = improve(problem, chains, starts, 1, 6.0, lambda *_: True, deterministic=True)
    assert found.table.spread == 0
    assert found.table.visits <= before.visits
    assert check(problem, found.table) == []


def test_runs_take_the_clamps_that_others_leave_free() -> None:
    # Eight joints, three at most to a run by open time: four screw clamps hold one run, six bars the other two.
    joints = [joint(0, t, clamp=20 * H, cure=72 * H, replicate=r) for t in "AB" for r in range(1, 5)]
    kinds = (replace(BARS, key="bar", count=6, most_n=4000.0), Clamps("screw", "Screw clamp", 4, 1, 2500.0))
    problem = replace(small(joints, EVENINGS, kinds), glues={"pva-damp": GlueLimits(420)})
    chains, starts, table = first_schedule(problem)
    assert check(problem, table) == []
    assert all(len(c.clamps) == 1 for c in chains), "one kind of clamp to a run"
    assert {k for c in chains for k in c.clamps} == {"bar", "screw"}
    evenings = {starts[c.run.index][0] // D for c in chains}
    assert len(evenings) == 1, "all in one evening"


def test_what_a_weight_presses_waits_for_a_weight() -> None:
    joints = [joint(0, "A", mpa=0.12, clamp=4 * H, cure=72 * H, replicate=r) for r in range(1, 7)]
    kinds = (Clamps("weight", "Dead weight", 2, 1, 60.0, 60.0), replace(BARS, count=6))
    problem = small(joints, DAYS, kinds)
    chains, _, table = first_schedule(problem)
    assert table.unplaced == ()
    assert {k for c in chains for k in c.clamps} == {"weight"}


def test_a_long_line_takes_several_clamps_at_once() -> None:
    # Three clamps a joint and seven in the shop: two joints at a time, the seventh clamp is of no use.
    joints = [replace(joint(0, t, mpa=3, clamp=20 * H, cure=60 * H, share=0.2), clamps=3) for t in "ABCD"]
    problem = small(joints, EVENINGS, (replace(BARS, count=7),))
    chains, _, table = first_schedule(problem)
    assert table.unplaced == ()
    assert check(problem, table) == []
    assert all(c.clamps == {"bar": 3 * len(c.run.joints)} and len(c.run.joints) <= 2 for c in chains)
    assert all(len({c.number, *c.also}) == 3 for c in table.courses)


def test_too_few_clamps_for_a_long_line_are_explained() -> None:
    problem = small([replace(joint(0, "A"), clamps=8)])
    _, _, table = first_schedule(problem)
    (reason,) = explain(problem, table, clock)
    assert reason.text == "The line of a joint wants 8 clamps; of Bar clamp there are 6."
    helped = applied(problem, reason.remedies[0], reason.codes)
    assert first_schedule(helped)[2].unplaced == ()


def test_improving_stops_when_it_is_told_to() -> None:
    problem = INSTANCES["wet and dry"]()
    chains, starts, table = first_schedule(problem)
    joint_records: list[bool] = []

    def enough(_table: object, _proved: bool) -> bool:
        joint_records.append(True)
        return False

    found = improve(problem, chains, starts, 1, 60.0, enough)
    assert found.table == table
    assert len(joint_records) == 1


@pytest.mark.slow
def test_taking_apart_and_putting_together_keeps_every_rule() -> None:
    problem = INSTANCES["wet and dry"]()
    more = [replace(j, code=f"{j.code}{n}", glue=f"{j.glue} {n}") for n in range(8) for j in problem.joints]
    large = replace(problem, joints=tuple(more), hours=tuple(stretches(DAYS, START, 400)))
    chains, starts, table = first_schedule(large, tries=1)
    assert len(chains) > 130
    found = improve(large, chains, starts, 3, 4, lambda *_: True, deterministic=True)
    assert check(large, found.table) == []
    assert (len(found.table.unplaced), found.table.finish_s) <= (len(table.unplaced), table.finish_s)


@pytest.mark.slow
@settings(max_examples=60, deadline=None)
@given(st.data())
def test_whatever_is_placed_keeps_every_rule(data: st.DataObject) -> None:
    many = data.draw(st.integers(1, 14))
    joints = [
        joint(
            0,
            data.draw(st.sampled_from("ABC")),
            glue=data.draw(st.sampled_from(["pva-damp", "epoxy-slow"])),
            mpa=data.draw(st.sampled_from([0.2, 0.8, 1.4])),
            clamp=data.draw(st.sampled_from([0.5 * H, 3 * H, 12 * H])),
            cure=data.draw(st.sampled_from([1 * H, 6 * H, 12 * H, 30 * H])),
            wet=data.draw(st.sampled_from([0, 0, 6 * H])),
            share=data.draw(st.sampled_from([0.02, 0.1])),
        )
        for _ in range(many)
    ]
    joints = [replace(j, clamps=data.draw(st.sampled_from([1, 1, 2, 3]))) for j in joints]
    clamps = (Clamps("bar", "Bar", data.draw(st.integers(1, 4)), data.draw(st.integers(1, 2)), 1500.0),)
    hours = data.draw(st.sampled_from([EVENINGS, DAYS]))
    problem = small(joints, hours, clamps)
    problem = replace(problem, busy=((10 * H, 11 * H),), held=(("bar", 2 * H, 30 * H, 1),))
    style = data.draw(st.sampled_from(["blocks", LOADS]))
    _, _, table = first_schedule(problem, style, data.draw(st.integers(0, 5)), tries=2)
    assert check(problem, table) == []
    for reason in explain(problem, table, clock):
        assert reason.text
        assert set(reason.codes) <= set(table.unplaced)


def test_a_run_is_a_block_of_treatments_or_a_load_of_one() -> None:
    problem = pressures_by_ages()
    for run in compose(problem):
        own = [problem.joints[j].treatment for j in run.joints]
        assert len(own) == len(set(own)) == 3
    for run in compose(problem, LOADS):
        assert len({problem.joints[j].treatment for j in run.joints}) == 1


def test_a_run_is_as_long_as_open_time_and_pot_life_allow() -> None:
    j = joint(1, "A", glue="x")
    base = small([j])
    free = replace(base, joints=(replace(j, clamp_tol_s=H, cure_tol_s=H),))
    assert most_joints(replace(free, glues={"x": GlueLimits(600)}), free.joints[0]) == 5
    assert most_joints(replace(free, glues={"x": GlueLimits(3600, 900)}), free.joints[0]) == 6
    short = replace(free, glues={"x": GlueLimits(36000)}, hours=((0, 1000),))
    assert most_joints(short, free.joints[0]) == 6
    tight = replace(free, joints=(replace(j, clamp_tol_s=180),), glues={"x": GlueLimits(36000)})
    assert most_joints(tight, tight.joints[0]) == 5, "each clamp comes off 90 s earlier than its joint was closed"


def test_weights_press_with_what_they_weigh() -> None:
    weight = Clamps("w", "Weight", 2, 1, 60.0, 60.0)
    assert weight.gives(60.0)
    assert weight.gives(50.0), "within a fifth"
    assert not weight.gives(40.0)
    assert not weight.gives(70.0)
    shared = Clamps("c", "Caul", 1, 2, 1000.0)
    assert shared.gives(1000.0)
    assert not shared.gives(1200.0)


def test_hours_across_a_clock_change_are_as_long_as_they_are() -> None:
    hours = Hours(((6, 0, 1440),), "Europe/Berlin")
    spring = datetime(2027, 3, 27, 23, 0, tzinfo=UTC)
    assert stretches(hours, spring, 2) == [(0, 23 * H)]
    autumn = datetime(2026, 10, 24, 22, 0, tzinfo=UTC)
    assert stretches(hours, autumn, 2) == [(0, 25 * H)]
    assert stretches(replace(hours, off=(date(2026, 10, 25),)), autumn, 2) == []


def test_hours_that_cannot_be_are_refused() -> None:
    with pytest.raises(Refusal, match="no stretch of a day"):
        Hours(((0, 600, 500),)).check()
    with pytest.raises(Refusal, match="no time zone"):
        Hours(((0, 500, 600),), "Mars/Base").check()


def test_sets_of_moments() -> None:
    assert overlap([(0, 10), (20, 30)], [(5, 25)]) == [(5, 10), (20, 25)]
    assert shifted([(100, 110), (112, 120)], 5, 8) == [(92, 115)]


IMPOSSIBLE = [
    ([joint(0, "x", clamp=2 * H, cure=12 * H)] * 3, EVENINGS, "the break falls between Tue 04:26 and Tue 10:33"),
    ([joint(0, "x", mpa=8)] * 3, DAYS, "A joint wants 4000 N; the strongest clamp, Bar clamp, gives 3000 N."),
    ([joint(0, "x", glue="hide")] * 2, DAYS, "Hands take 120 s for a joint, and the glue stays open for 90 s only."),
    ([joint(0, "x", clamp=6 * H, cure=6 * H, clamp_tol=60, cure_tol=60)] * 3, DAYS, "the clamps may come off too late"),
]


@pytest.mark.parametrize(("joints", "hours", "words"), IMPOSSIBLE)
def test_the_impossible_is_explained_and_each_remedy_makes_it_possible(
    joints: list[Joint], hours: Hours, words: str
) -> None:
    problem = replace(small(joints, hours), glues={**GLUES, "hide": GlueLimits(90)})
    _, _, table = first_schedule(problem)
    assert len(table.unplaced) == len(joints)
    (reason,) = explain(problem, table, clock)
    assert words in reason.text
    assert reason.proved
    assert reason.remedies
    for remedy in reason.remedies:
        changed = applied(problem, remedy, reason.codes)
        _, _, after = first_schedule(changed)
        assert after.unplaced == (), remedy.text
        assert check(changed, after) == []


def test_the_tolerance_offered_is_the_least_that_works() -> None:
    problem = small([joint(0, "x", clamp=2 * H, cure=12 * H)], EVENINGS)
    _, _, table = first_schedule(problem)
    (reason,) = explain(problem, table, clock)
    remedy = next(r for r in reason.remedies if r.kind == "cure_tol")
    less = replace(remedy, amount=remedy.amount - 60)
    assert first_schedule(applied(problem, less, reason.codes))[2].unplaced
    # Glued at 17:00 it is closed after 300 s and can be broken by 22:00: 17700 s old instead of 43200 s.
    assert remedy.amount + problem.joints[0].cure_tol_s == pytest.approx(43200 - 17700, abs=60)


def test_too_few_clamps_are_not_called_impossible() -> None:
    problem = small([joint(0, "x", clamp=24 * H, cure=72 * H)] * 60, DAYS, days=10)
    _, _, table = first_schedule(problem)
    (reason,) = explain(problem, table, clock)
    assert not reason.proved
    assert "joints are not placed within" in reason.text
    more = next(r for r in reason.remedies if r.kind == "clamps")
    assert len(first_schedule(applied(problem, more, ()))[2].unplaced) < len(table.unplaced)


def test_a_joint_glued_before_a_long_age_waits_in_days() -> None:
    problem = small([joint(0, "x", cure=90 * D, share=0.02)], EVENINGS, days=120)
    _, _, table = first_schedule(problem)
    broken = table.courses[0].broken_s
    assert broken is not None
    assert abs(broken - table.courses[0].closed_s - 90 * D) <= 0.02 * 90 * D
