"""Levels: as people list them, in order, in words beside numbers, by the label of a glue."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.plan.checks import problems
from adhaero.core.plan.document import Extra, Factor, Level, Plan, Product, first_plan
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.plan.glues import as_label_says, family_of, label_of
from adhaero.core.plan.impossible import impossible
from adhaero.core.plan.level_list import read_levels
from adhaero.core.plan.level_order import in_order
from adhaero.core.plan.records import completed, record_of
from adhaero.core.plan.treatments import treatments

H = 3600.0


def listed(key: str, text: str, unit: str = "h") -> list[str | float | None]:
    found = read_levels(key, text, unit, {"Blue jug": "Blue jug"}, {})
    assert not found.problems
    return [level.value for level in found.levels]


def plan(*factors: Factor, **changes: object) -> Plan:
    usual = first_plan()
    own = {f.key for f in factors}
    constants = {k: v for k, v in {**usual.constants, "glue": Level("pva-indoor")}.items() if k not in own}
    return replace(usual, question="What differs?", factors=factors, constants=constants, **changes)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("text", "minutes"),
    [
        ("5, 15, 30 min, 1, 2, 4, 8 h and overnight", [5, 15, 30, 60, 120, 240, 480, 720]),
        ("5 min\n15 min\n1 h", [5, 15, 60]),
        ("2\t3\t90 min", [2, 3, 90]),
        ("0,5 h; 1 h", [30, 60]),
        ("1, 2", [60, 120]),
        ("240 min, 4 h", [240]),
    ],
)
def test_a_list_of_times(text: str, minutes: list[float]) -> None:
    values = listed("clamp_s", text)
    assert [v / 60 for v in values if isinstance(v, float)] == pytest.approx(minutes)


def test_a_list_names_glues_by_family_bottle_or_own_name() -> None:
    assert listed("glue", "Indoor PVA\nblue JUG\nepoxy-slow\nGranny's paste\nNo glue") == [
        "pva-indoor", "Blue jug", "epoxy-slow", "Granny's paste", None,
    ]  # fmt: skip


def test_a_family_may_stand_behind_a_glue() -> None:
    found = read_levels(
        "glue", "White 1\tIndoor PVA\nWhite 2 = casein\nBrown: Hot hide glue\nPVA\nOdd: mud", "", {}, {}
    )
    assert [level.value for level in found.levels] == ["White 1", "White 2", "Brown", "PVA"]
    assert found.families == {"White 1": "pva-indoor", "White 2": "casein", "Brown": "hide-hot"}
    assert [p.field for p in found.problems] == ["entry 5"]


def test_words_stand_among_pressures() -> None:
    assert listed("pressure_mpa", "nothing on it, tape, 0.3, 1.2 MPa", "MPa") == ["nothing", "tape", 0.3, 1.2]


def test_what_cannot_be_read_is_named_by_its_place_and_the_rest_is_kept() -> None:
    found = read_levels("clamp_s", "1 h\nsoon\n3 kg\n4 h", "h", {}, {})
    assert [level.value for level in found.levels] == [H, 4 * H]
    assert [p.field for p in found.problems] == ["entry 2", "entry 3"]
    assert "'soon'" in found.problems[0].message


@given(st.lists(st.integers(1, 5000), min_size=2, max_size=12, unique=True), st.randoms())
def test_numbers_stand_by_value_and_on_request_as_typed(values: list[int], rng: object) -> None:
    factor = Factor("clamp_s", "Clamp time", tuple(Level(float(v), "s") for v in values), "value")
    sorted_ = in_order(factor)
    assert [level.value for level in sorted_.levels] == sorted(values)
    back = in_order(replace(sorted_, order="typed"))
    assert [level.value for level in back.levels] == values
    assert {level.id for level in back.levels} == {level.id for level in factor.levels}


def test_own_numbers_are_sorted_across_units_of_one_kind_only() -> None:
    def values(*levels: Level) -> list[object]:
        return [level.value for level in in_order(Factor("own", "Soak", levels, "value")).levels]

    assert values(Level(2.0, "h"), Level(30.0, "min"), Level(None)) == [None, 30.0, 2.0]
    assert values(Level(2.0, "h"), Level(30.0, "mm")) == [2.0, 30.0]
    assert values(Level(150.0, "grit"), Level(50.0, "grit"), Level(80.0, "grit")) == [50.0, 80.0, 150.0]
    assert values(Level("coarse"), Level("fine")) == ["coarse", "fine"]


def test_at_release_and_until_broken_stand_for_the_other_time() -> None:
    ages = plan(Factor("clamp_s", "Clamp time", (Level(300.0, "min"), Level(8 * H, "h"))))
    ages = replace(ages, constants={**ages.constants, "cure_s": Level("at release")})
    assert [record_of(ages, c)["cure_s"] for c in ((0,), (1,))] == [Level(300.0, "min"), Level(8 * H, "h")]
    assert not problems(ages)
    until = plan(Factor("cure_s", "Age", (Level(H), Level(2 * H))))
    until = replace(until, constants={**until.constants, "clamp_s": Level("until broken")})
    assert record_of(until, (1,))["clamp_s"].value == 2 * H
    both = replace(until, factors=(Factor("cure_s", "Age", (Level("at release"), Level(H))),))
    assert "constants.cure_s" in {p.field for p in problems(both)}


def test_a_means_of_pressing_stands_beside_pressures() -> None:
    by = plan(Factor("pressure_mpa", "Clamp pressure", (Level("nothing"), Level("tape"), Level(0.6, "MPa"))))
    assert not problems(by)
    records = [record_of(by, (i,)) for i in range(3)]
    assert [r["pressure_mpa"].value for r in records] == [0.0, None, 0.6]
    assert [r["press_by"].value if "press_by" in r else None for r in records] == ["nothing", "tape", None]
    assert [t.label for t in treatments(by)][:3] == ["pressed by nothing", "pressed by tape", "clamp pressure 0.6 MPa"]
    assert "press_by" in treatments(by)[1].changed


def test_each_glue_by_its_label() -> None:
    glues = Factor("glue", "Glue", (Level("pva-wet"), Level("Blue jug"), Level("epoxy-slow")))
    jug = Product("polyurethane", {"pressure_low_mpa": 0.6, "pressure_high_mpa": 1.0, "clamp_s": 1800.0}, bottle=3)
    by = plan(glues, policy="by-label", products={"Blue jug": jug})
    assert not problems(by)
    wanted = [(r["pressure_mpa"].value, r["clamp_s"].value) for r in (record_of(by, (i,)) for i in range(3))]
    # The family's usual 0.5 to 1.2 MPa and 2 h; the jug's own label; slow epoxy's 0.02 to 0.3 MPa and 12 h.
    assert [x for pair in wanted for x in pair] == pytest.approx([0.85, 2 * H, 0.8, 1800.0, 0.16, 12 * H])
    alike = replace(by, policy="same-for-all")
    assert len({record_of(alike, (i,))["pressure_mpa"] for i in range(3)}) == 1


def test_what_is_varied_or_stated_is_not_overruled_by_the_label() -> None:
    by = plan(
        Factor("glue", "Glue", (Level("pva-wet"), Level("casein"))),
        Factor("clamp_s", "Clamp time", (Level(H), Level(3 * H))),
        policy="by-label", extras=(Extra("Hard", {"pressure_mpa": Level(2.0, "MPa")}, 3),),
    )  # fmt: skip
    assert record_of(by, (1, 0))["clamp_s"].value == H
    hard = next(t for t in treatments(by) if t.label == "Hard")
    assert hard.record["pressure_mpa"].value == 2.0


def test_a_glue_of_no_known_label_cannot_be_used_by_it() -> None:
    by = plan(Factor("glue", "Glue", (Level("pva-wet"), Level("Granny's paste"))), policy="by-label")
    assert [p.field for p in problems(by)] == ["factors.0.levels.1"]
    told = replace(by, products={"Granny's paste": Product("", {"pressure_low_mpa": 0.4, "clamp_s": 7200.0})})
    assert not problems(told)
    assert record_of(told, (1,))["pressure_mpa"].value == 0.4


def test_a_product_keeps_its_familys_figures_where_its_label_is_silent() -> None:
    own = plan(
        Factor("glue", "Glue", (Level("Jug"), Level("x"))), products={"Jug": Product("casein", {"open_s": 60.0})}
    )
    assert family_of(own, "Jug") == "casein"
    assert family_of(own, "x") == ""
    label = label_of(own, "Jug")
    assert label is not None
    assert (label["open_s"], label["clamp_s"]) == (60.0, 5 * H)
    assert as_label_says({}) == {}
    assert "products.Jug.family" in {
        p.field for p in problems(replace(own, products={"Jug": Product("moonshine")}))
    }  # fmt: skip


def test_what_cannot_be_is_found_with_its_reason() -> None:
    grid = plan(
        Factor("clamp_s", "Clamp time", (Level(H), Level(8 * H))),
        Factor("cure_s", "Age", (Level(2 * H), Level(24 * H))),
    )
    (found,) = impossible(grid)
    assert found.cells == ({"clamp_s": "l2", "cure_s": "l1"},)
    assert "still in the clamp" in found.reason
    left = replace(grid, dropped=found.cells)
    assert impossible(left) == []
    assert not problems(left)


def test_cells_that_only_repeat_each_other_are_found() -> None:
    glue = Factor("glue", "Glue", (Level("pva-indoor"), Level(None)))
    spread = Factor("spread_g_m2", "Spread", (Level(90.0), Level(180.0), Level(250.0)))
    (found,) = impossible(plan(glue, spread))
    assert [c["spread_g_m2"] for c in found.cells] == ["l2", "l3"]
    press = Factor("pressure_mpa", "Clamp pressure", (Level("tape"), Level(0.5)))
    times = Factor("clamp_s", "Clamp time", (Level(H), Level(2 * H)))
    (found,) = impossible(plan(press, times))
    assert found.cells == ({"pressure_mpa": "l1", "clamp_s": "l2"},)


def test_a_plan_with_all_of_it_comes_back_from_its_file() -> None:
    full = completed(
        plan(
            Factor("glue", "Glue", (Level("Jug"), Level("casein")), "typed"),
            Factor("clamp_s", "Clamp time", (Level(2 * H), Level(H)), "value"),
            products={"Jug": Product("casein", {"open_s": 60.0}, 4, "outdoor", "thick", "salt", 5.0)},
        )
    )
    assert plan_from_json(full.to_json()) == full
    assert [level.value for level in full.factors[1].levels] == [H, 2 * H]


@pytest.mark.parametrize(("means", "pressure"), [("nothing", 0.0), ("tape", None), ("hand", None), ("screw", 0.8)])
def test_a_means_that_is_a_factor_of_its_own_leaves_no_pressure_that_nothing_gives(
    means: str, pressure: float | None
) -> None:
    """Joints laid down or taped were planned with the usual 0.8 MPa and four hours in a clamp."""
    by = plan(Factor("press_by", "Means of pressing", (Level(means), Level("vacuum"))))
    record = record_of(by, (0,))
    assert record["pressure_mpa"].value == pressure
    assert record["clamp_s"].value == (4 * H if means == "screw" else 0.0)
    assert record["press_by"].value == means
    assert not problems(by)


@pytest.mark.parametrize("missing", ["glue", "clamp_s", "cure_s"])
def test_a_constant_that_is_not_stated_yet_makes_nothing_impossible(missing: str) -> None:
    plan = first_plan()
    levels = (Level("planed", id="l1"), Level("sawn", id="l2"))
    held = {k: v for k, v in plan.constants.items() if k not in (missing, "prep")}
    held |= {} if missing == "glue" or "glue" in held else {"glue": Level("pva-damp")}
    assert impossible(replace(plan, factors=(Factor("prep", "Prep", levels),), constants=held)) == []


def test_everyday_names_of_glues_are_known_and_stay_the_shops_own() -> None:
    found = read_levels("glue", "Yellow glue\nWhite glue\nhide glue\npolyurethane\n5-minute epoxy", "", {}, {})
    assert not found.problems
    assert [x.value for x in found.levels][:2] == ["Yellow glue", "White glue"]
    assert found.families["Yellow glue"] == "pva-damp"
    assert found.families["White glue"] == "pva-indoor"
    assert found.families["5-minute epoxy"] == "epoxy-fast"


def test_no_beside_yes_stays_as_it_was_typed() -> None:
    assert [level.value for level in read_levels("own", "no\nyes\nnone", "", {}, {}).levels] == ["no", "yes", None]
