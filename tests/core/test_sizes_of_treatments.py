"""Sizes that differ between treatments: by a factor, in a single treatment, for one joint form alone."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from adhaero.core.materials.wood import WOODS
from adhaero.core.method import nominal_sizes
from adhaero.core.method_catalogue import METHODS
from adhaero.core.plan.caveats import caveats, rig_caveats
from adhaero.core.plan.checks import problems
from adhaero.core.plan.cost import WASTE, cost
from adhaero.core.plan.differences import differences
from adhaero.core.plan.document import Extra, Factor, Level, Plan, first_plan
from adhaero.core.plan.fields import SIZE
from adhaero.core.plan.forecast import History, Range, expected, fitting_sizes, kind_of
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.plan.records import completed, form_has_own
from adhaero.core.plan.treatments import Treatment, treatments
from adhaero.core.refusal import Problem
from adhaero.core.units import METRIC

DEPTHS = (15.0, 20.0, 25.0)


def bars(**changes: Any) -> Plan:
    """Finger-jointed bars of three depths, bent over 240 mm."""
    method = METHODS["bend-three-point"]
    own = first_plan().constants
    levels = tuple(Level(d, "mm") for d in DEPTHS)
    plan = Plan(
        question="Which depth?",
        method=method.key,
        sizes=nominal_sizes(method, ("finger",), {"width": 20.0}),
        factors=(Factor(SIZE + "depth", "Depth", levels),),
        constants={**own, "glue": Level("pva-damp"), "form": Level("finger"), "orientation": Level("end-end")},
        control={SIZE + "depth": "l1"},
    )
    return replace(plan, **changes)


def corners(**changes: Any) -> Plan:
    """Case corners: butt, mitre with keys, mitre with a spline, rebate with dowels."""
    method, forms = METHODS["corner-pull"], ("butt-corner", "mitre-key", "mitre-spline-along", "rebate-dowels")
    plan = Plan(
        question="Which corner?",
        method=method.key,
        sizes=nominal_sizes(method, forms),
        factors=(Factor("form", "Joint form", tuple(Level(f) for f in forms)),),
        constants={**first_plan().constants, "glue": Level("pva-damp")},
        control={"form": "l1"},
        solid_reference=0,
    )
    return replace(plan, **changes)


def by_form(plan: Plan) -> dict[str, Treatment]:
    return {t.form: t for t in treatments(plan)}


def said(found: list[Problem]) -> dict[str, str]:
    return {p.field: p.message for p in found}


def test_a_size_is_a_factor_like_any_other() -> None:
    plan = bars()
    assert problems(plan) == []
    joints = [t for t in treatments(plan) if t.role == "joint"]
    assert [t.sizes["depth"] for t in joints] == list(DEPTHS)
    assert [t.label for t in joints] == ["depth 15 mm", "depth 20 mm", "depth 25 mm"]
    assert all(t.sizes["depth"] == 20 for t in treatments(plan) if t.role == "solid")


def test_the_forecast_of_a_bar_follows_the_square_of_its_depth() -> None:
    """A bar bears F = 2 b d2 s / 3 L of the strength s of its line."""
    plan = bars(solid_reference=0)
    loads = [e.load_n for t in treatments(plan) if (e := expected(plan, t, {}, None))]
    assert loads[2] / loads[0] == pytest.approx((25 / 15) ** 2)
    strength = loads[1] * 3 * 240 / (2 * 20 * 20**2)
    assert 0.3 < strength / WOODS["ash"].bending_mpa < 0.7


def test_wood_and_glue_are_those_of_each_section() -> None:
    """Two halves of 120 + 20 mm, and half of the fingers' length; three sections of four pieces each."""
    plan = bars(replicates=4, solid_reference=0)
    found = cost(plan, treatments(plan))
    volume = sum(4 * 2 * (140 + 5) * 20 * d for d in DEPTHS)
    assert found.wood_dm3 == pytest.approx(WASTE * volume / 1e6)
    flanks = sum(4 * 2 * (20 / 4) * (10**2 + 2**2) ** 0.5 * d for d in DEPTHS)
    assert found.glue_g == pytest.approx(flanks * 1e-6 * 180 * 1.5)


def test_a_rule_of_thumb_names_the_treatment_that_it_is_about() -> None:
    """240 mm are ten times 24 mm: only the bar of 25 mm is short."""
    short = [c.text for c in caveats(bars(), METRIC) if "Short beam" in c.text]
    assert len(short) == 1
    assert short[0].startswith("Treatment C: ")


def test_a_form_has_its_own_spline_and_keys() -> None:
    plan = corners(form_sizes={"mitre-key": {"spline_length": 12.0, "keys": 3.0}})
    assert problems(plan) == []
    made = by_form(plan)
    assert made["mitre-key"].sizes["spline_length"] == 12
    assert made["mitre-spline-along"].sizes["spline_length"] == plan.sizes["spline_length"]
    own = form_has_own(plan, ("mitre-key", "butt-corner"))
    assert {s.key for s in own["mitre-key"]} == {
        "mitre_angle", "keys", "spline_length", "spline_depth", "spline_thickness",
    }  # fmt: skip
    assert own["butt-corner"] == ()


def test_a_form_that_is_left_alone_says_its_sizes_with_the_others() -> None:
    plan = corners(form_sizes={"mitre-key": {"spline_length": 12.0}, "comb": {"pins": 7.0}})
    assert completed(plan).form_sizes == {"mitre-key": {"spline_length": 12.0}}
    alone = replace(plan, factors=(), constants={**plan.constants, "form": Level("mitre-key")})
    assert completed(alone).form_sizes == {}
    assert completed(alone).sizes["spline_length"] == 12


def test_sizes_that_do_not_go_together_are_named_where_they_were_stated() -> None:
    wide = corners(form_sizes={"mitre-key": {"spline_length": 120.0}})
    assert "is more than the width" in said(problems(wide))["form_sizes.mitre-key.spline_length_mm"]
    single = Extra("long fingers", {SIZE + "finger_pitch": Level(20.0)}, 3)
    narrow = bars(sizes={**bars().sizes, "width": 10.0}, extras=(single,))
    assert "a finger pitch" in said(problems(narrow))["extras.0.changes"]
    tails = Extra("no such size", {SIZE + "tails": Level(3.0)}, 3)
    assert "no size of this test" in said(problems(bars(extras=(tails,))))["extras.0.changes.size:tails"]


def test_a_form_of_the_users_own_says_where_its_area_comes_from() -> None:
    method = METHODS["butt-pull"]
    free = bars(
        method=method.key,
        sizes={**nominal_sizes(method, ("free",)), "free_area": 812.0},
        constants={**bars().constants, "form": Level("free")},
    )
    assert "where the glued area comes from" in said(problems(free))["area_source"]
    fine = replace(free, area_source="a paper template, laid on squared paper")
    assert problems(fine) == []
    assert treatments(fine)[0].sizes["free_area"] == 812


def test_keys_of_older_plans_are_one_and_their_mitres_half_a_right_angle() -> None:
    document = corners().to_json()
    del document["form_sizes"], document["area_source"], document["sizes"]["keys"], document["sizes"]["mitre_angle"]
    plan = plan_from_json({**document, "format": 5})
    assert (plan.sizes["keys"], plan.sizes["mitre_angle"]) == (1, 45)
    assert problems(plan) == []


def test_a_square_section_is_offered_by_the_cube_rule() -> None:
    """A pilot of 21 mm square broke near 3 kN; the rig is used up to 2 kN. Loads go with the cube of the side."""
    plan = corners(
        method="bend-three-point",
        sizes=nominal_sizes(METHODS["bend-three-point"], ("butt",), {"width": 21.0, "depth": 21.0}),
        factors=(Factor("glue", "Glue", (Level("pva-damp"), Level("casein"))),),
        control={"glue": "l1"},
    )
    made, pilot = treatments(plan), 3000 * 240 / 4 / (21**3 / 6)
    known = {kind_of(plan.method, t.form, t.record, t.role): History(pilot, 0.10, 12) for t in made}
    ways = fitting_sizes(plan, made, known, Range(2000.0, 1.0))
    side = next(w["width"] for w in ways if set(w) == {"width", "depth"})
    # Nineteen of twenty below the limit: 1.645 standard deviations of 10 % above the typical load.
    allowed = 2000 / 1.18
    assert 3000 * (side / 21) ** 3 <= allowed < 3000 * ((side + 1) / 21) ** 3
    loads = [e for t in made if (e := expected(plan, t, known, Range(2000.0, 1.0)))]
    offered = [c.remedy for c in rig_caveats(plan, loads, Range(2000.0, 1.0), ways, METRIC)]
    assert f"Make it {side:g} mm square" in offered


def test_a_longer_arm_is_offered_for_a_frame_that_is_too_strong() -> None:
    method = METHODS["racking"]
    plan = corners(
        method=method.key,
        sizes=nominal_sizes(method, ("dowelled",)),
        factors=(Factor("glue", "Glue", (Level("pva-damp"), Level("casein"))),),
        control={"glue": "l1"},
        constants={**corners().constants, "form": Level("dowelled")},
    )
    made = treatments(plan)
    moment = {kind_of(plan.method, t.form, t.record, t.role): History(150.0, 0.10, 12) for t in made}
    ways = fitting_sizes(plan, made, moment, Range(300.0, 1.0))
    arm = next(w["arm"] for w in ways if "arm" in w)
    assert 150 / (arm / 1000) <= 300 / 1.18 < 150 / ((arm - 10) / 1000)


def test_a_form_that_nobody_knows_has_no_forecast_but_ones_own_pieces() -> None:
    method = METHODS["butt-pull"]
    plan = corners(
        method=method.key,
        sizes={**nominal_sizes(method, ("free",)), "free_area": 812.0},
        area_source="a paper template",
        factors=(Factor("glue", "Glue", (Level("pva-damp"), Level("casein"))),),
        control={"glue": "l1"},
        constants={**corners().constants, "form": Level("free"), "orientation": Level("end-end")},
    )
    made = [t for t in treatments(plan) if t.role == "joint"]
    assert [expected(plan, t, {}, None) for t in made] == [None, None]
    assert any("form of your own" in c.text for c in caveats(plan, METRIC))
    known = {kind_of(plan.method, "free", t.record, t.role): History(4.0, 0.2, 5) for t in made}
    found = [e for t in made if (e := expected(plan, t, known, None))]
    assert len(found) == 2
    assert all("own 5 pieces" in e.source for e in found)


def test_plans_with_other_sizes_of_a_form_differ_in_them() -> None:
    first = corners(form_sizes={"mitre-key": {"spline_length": 12.0}})
    second = corners(form_sizes={"mitre-key": {"spline_length": 15.0}, "rebate-dowels": {"inserts": 3.0}})
    found = {d.what: (d.first, d.second) for d in differences(first, second) if d.weighs}
    assert found["Mitre with keys: length of spline or keys"] == ("12 mm", "15 mm")
    assert found["Rebate with dowels: inserts"] == ("not stated", "3")


def test_keys_that_take_more_than_the_line_are_refused() -> None:
    """Seven keys of 4 mm in a bar of 20 mm: 28 mm of slots."""
    method = METHODS["butt-pull"]
    sizes = {**nominal_sizes(method, ("sheet-key",)), "keys": 7.0}
    keyed = corners(
        method=method.key,
        sizes=sizes,
        factors=(Factor("glue", "Glue", (Level("pva-damp"), Level("casein"))),),
        control={"glue": "l1"},
        constants={**corners().constants, "form": Level("sheet-key")},
    )
    assert "7 keys of 4 mm take more than the depth" in said(problems(keyed))["sizes.spline_thickness_mm"]
    assert problems(replace(keyed, sizes={**sizes, "keys": 3.0})) == []
