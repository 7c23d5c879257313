"""The planner: questions to start from, grids with gaps, forecasts against the rig, costs, caveats and remedies."""

from __future__ import annotations

import json
import math
import random
from dataclasses import replace

import pytest

from adhaero.core.plan.caveats import caveats, rig_caveats
from adhaero.core.plan.checks import problems
from adhaero.core.plan.cost import cost, costs
from adhaero.core.plan.design import specimens
from adhaero.core.plan.document import Extra, Factor, Level, Plan, first_plan
from adhaero.core.plan.forecast import (
    Expected,
    History,
    Range,
    expected,
    fitting_sizes,
    kind_of,
    largest_fitting,
)
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.plan.questions import QUESTIONS, plan_for
from adhaero.core.plan.records import cell_ids, cells, completed, forms_of, pieces_in_all
from adhaero.core.plan.shares import cured
from adhaero.core.plan.treatments import treatments
from adhaero.core.units import Units

GLUES = Factor("glue", "Glue", tuple(Level(g) for g in ("pva-indoor", "polyurethane", "epoxy-slow")))
WATER = Factor("conditioning", "Conditioning", (Level("dry"), Level("soak-24h")))

UNITS = Units()


def two_factors(**more: object) -> Plan:
    base = first_plan()
    plan = replace(base, question="Wet?", factors=(GLUES, WATER), control={"glue": "l1", "conditioning": "l1"}, **more)  # type: ignore[arg-type]
    assert problems(plan) == []
    return plan


@pytest.mark.parametrize("key", [k for k in QUESTIONS if k != "own"])
def test_every_question_leads_to_a_plan_that_can_be_locked(key: str) -> None:
    plan = plan_for(key)
    assert problems(plan) == []
    made = specimens(plan, 1, set())
    assert len(made) == pieces_in_all(plan) == sum(t.replicates for t in treatments(plan))
    assert plan_from_json(json.loads(json.dumps(plan.to_json()))) == plan
    assert QUESTIONS[key].hint


def test_a_question_of_ones_own_states_nothing() -> None:
    assert {p.field for p in problems(plan_for("own"))} == {"question", "factors.0.levels"}


def test_pressure_by_age_is_a_grid_of_fifteen_with_three_each() -> None:
    plan = plan_for("pressure-by-age")
    joints = [t for t in treatments(plan) if t.role == "joint"]
    assert (len(joints), sum(t.replicates for t in joints)) == (15, 45)


def test_the_ageing_plan_reaches_five_years() -> None:
    ages = {t.record["cure_s"].value for t in treatments(plan_for("how-ages")) if t.role == "joint"}
    assert max(a for a in ages if isinstance(a, float)) == pytest.approx(5 * 365.25 * 86400)


def test_full_crossing_gives_the_exact_list() -> None:
    """3 adhesives x 4 ages x 2 exposures x 6 replicates: 24 treatments, 144 specimens."""
    ages = Factor("cure_s", "Age", tuple(Level(d * 86400.0, "d") for d in (1, 7, 30, 90)))
    plan = replace(
        two_factors(),
        factors=(GLUES, ages, WATER),
        control={"glue": "l1", "cure_s": "l1", "conditioning": "l1"},
        replicates=6,
        solid_reference=0,
    )
    assert problems(plan) == []
    made = treatments(plan)
    assert len(made) == 24
    assert len(specimens(plan, 5, set())) == 144
    assert all({"glue", "cure_s", "conditioning"} <= set(t.record) for t in made)


def test_cells_may_be_dropped_and_single_ones_added() -> None:
    dry = Extra("Unglued", {"glue": Level(None)}, 2, "untreated")
    plan = two_factors(
        dropped=({"glue": "l2", "conditioning": "l2"}, {"glue": "l3", "conditioning": "l2"}),
        extras=(dry,),
        replicates=5,
        solid_reference=0,
    )
    assert [t.cell for t in treatments(plan)] == [(0, 0), (0, 1), (1, 0), (2, 0), None]
    single = treatments(plan)[-1]
    assert (single.record["glue"].value, single.replicates, single.control) == (None, 2, "untreated")
    assert pieces_in_all(plan) == 22


def test_a_grid_without_cells_is_no_plan() -> None:
    gone = tuple(cell_ids(two_factors(), c) for c in cells(two_factors()))
    assert "dropped" in {p.field for p in problems(replace(two_factors(), dropped=gone))}
    assert "dropped" in {p.field for p in problems(replace(two_factors(), dropped=gone[1:]))}


@pytest.mark.parametrize(
    ("extra", "field"),
    [
        (Extra("", {}, 2), "extras.0.label"),
        (Extra("Odd", {}, 0), "extras.0.replicates"),
        (Extra("Odd", {}, 2, "sacred"), "extras.0.control"),
        (Extra("Odd", {"pressure_mpa": Level(99.0, "MPa")}, 2), "extras.0.changes.pressure_mpa"),
    ],
)
def test_single_treatments_are_checked(extra: Extra, field: str) -> None:
    assert field in {p.field for p in problems(replace(two_factors(), extras=(extra,)))}


def test_sizes_of_every_form_in_the_plan_are_asked_for() -> None:
    plan = plan_for("which-form")
    assert forms_of(plan) == ("mortise-tenon", "dowelled", "loose-tenon-along", "mitre")
    short = {k: v for k, v in plan.sizes.items() if k != "dowel_diameter"}
    assert {p.field for p in problems(replace(plan, sizes=short))} == {"sizes.dowel_diameter_mm"}


def test_sizes_not_stated_are_completed_and_stated_ones_stay() -> None:
    base = replace(first_plan(), method="bend-three-point", sizes={"span": 180.0, "width": 9999.0})
    scarf = completed(replace(base, constants={**base.constants, "form": Level("scarf")}))
    assert scarf.sizes == {"span": 180.0, "width": 9999.0, "depth": 20, "slope": 8}
    assert completed(replace(base, method="unknown")).sizes == base.sizes


def test_a_document_of_the_first_format_still_opens() -> None:
    old = {k: v for k, v in two_factors().to_json().items() if k not in ("extras", "start", "costs")}
    old["assumptions"] = {k: v for k, v in old["assumptions"].items() if not k.startswith("humidity")}
    by_place = {"format": 1, "control": [0, 0], "dropped": [], "extra_replicates": []}
    for f in old["factors"]:
        f["levels"] = [{"value": v["value"], "unit": v["unit"]} for v in f["levels"]]
    assert plan_from_json({**old, **by_place}) == two_factors()


def loads(plan: Plan, rig: Range) -> list[Expected]:
    """The forecast of every treatment whose wood is known."""
    return [e for t in treatments(plan) if (e := expected(plan, t, {}, rig)) is not None]


# Forecast ------------------------------------------------------------------------------------------


def test_the_largest_section_for_a_rig() -> None:
    """Pilot 3,000 N at 21 mm square, rig 2,000 N used to 80 %: 18 mm would take 1,889 N; 17 mm (1,591 N) fits."""
    assert largest_fitting(3000, 21, 1600, 3) == 17
    assert pytest.approx(1889, abs=1) == 3000 * (18 / 21) ** 3
    assert largest_fitting(3000, 21, 3000, 3) == 21


def test_history_of_the_same_kind_is_used_first() -> None:
    plan = two_factors()
    first = treatments(plan)[0]
    key = kind_of(plan.method, first.form, first.record, first.role)
    own = expected(plan, first, {key: History(9.0, 0.1, 12)}, None)
    assert own is not None
    # 3 days for a glue whose label says 1 h and 24 h: 99.8 % of its full strength.
    assert own.load_n == pytest.approx(9.0 * 500 * cured(72, 1, 24))
    assert "your own 12 pieces" in own.source
    few = expected(plan, first, {key: History(9.0, 0.1, 2)}, None)
    assert few is not None
    assert "Handbook" in few.source


def test_the_range_holds_nine_pieces_in_ten() -> None:
    """Against a simulation of the lognormal that the forecast states."""
    plan = two_factors()
    first = treatments(plan)[0]
    e = expected(plan, first, {}, Range(3000.0, 1.0))
    sigma = math.sqrt(math.log1p(e.cv**2))
    rng = random.Random(3)
    loads = [e.load_n * math.exp(rng.gauss(0, sigma) - sigma**2 / 2) for _ in range(40_000)]
    assert sum(e.low_n < v < e.high_n for v in loads) / len(loads) == pytest.approx(0.9, abs=0.01)
    assert e.beyond == pytest.approx(sum(v > 3000 for v in loads) / len(loads), abs=0.01)
    assert sum(loads) / len(loads) == pytest.approx(e.load_n, rel=0.01)


def test_a_plan_that_the_rig_cannot_break_is_caught_with_the_remedy() -> None:
    plan, rig = two_factors(), Range(4000.0, 1.0)
    made = treatments(plan)
    found = fitting_sizes(plan, made, {}, rig)
    ((key, value),) = found[0].items()
    assert key == "overlap"
    said = rig_caveats(plan, loads(plan, rig), rig, found, UNITS)
    assert "Too strong" in said[0].text
    assert said[0].change == {"sizes": {"overlap": value}}
    cured = replace(plan, sizes={**plan.sizes, key: value})
    assert max(expected(cured, t, {}, rig).beyond or 0 for t in treatments(cured)) <= 0.05
    larger = replace(plan, sizes={**plan.sizes, key: value + 1})
    assert max(expected(larger, t, {}, rig).beyond or 0 for t in treatments(larger)) > 0.05
    assert rig_caveats(cured, loads(cured, rig), rig, found, UNITS) == []


def test_a_load_too_small_to_read_is_named() -> None:
    plan, rig = two_factors(), Range(500_000.0, 100.0)
    said = rig_caveats(plan, loads(plan, rig), rig, [], UNITS)
    assert len(said) == 1
    assert "Too weak to read" in said[0].text


def test_without_a_rig_the_forecast_says_so() -> None:
    assert "No rig" in rig_caveats(two_factors(), [], None, [], UNITS)[0].text


# Caveats ------------------------------------------------------------------------------------------


def test_two_factors_that_run_along_are_called_confounded() -> None:
    together = two_factors(
        dropped=tuple(
            {"glue": g, "conditioning": c} for g, c in (("l1", "l2"), ("l2", "l1"), ("l3", "l1"), ("l3", "l2"))
        )
    )
    texts = [c for c in caveats(together, UNITS) if "cannot be told apart" in c.text]
    assert len(texts) == 1
    assert texts[0].change == {"dropped": []}
    assert not any("cannot be told apart" in c.text for c in caveats(two_factors(), UNITS))


def test_by_the_label_says_what_runs_along() -> None:
    said = [c for c in caveats(two_factors(policy="by-label"), UNITS) if c.field == "policy"]
    assert "run along with the glue" in said[0].text


def test_crossed_grain_wider_than_it_bears() -> None:
    crossed = {**first_plan().constants, "orientation": Level("long-crossed")}
    sizes = {"width": 100.0, "overlap": 100.0, "thickness": 20.0}
    wide = two_factors(constants=crossed, sizes=sizes)
    said = [c.text for c in caveats(wide, UNITS) if "Crossed grain" in c.text]
    assert "100 mm of ash move 1." in said[0]
    narrow = two_factors(constants=crossed)
    assert not any("Crossed grain" in c.text for c in caveats(narrow, UNITS))


def test_pressure_that_crushes_the_wood() -> None:
    pressed = two_factors(
        constants={**first_plan().constants, "species": Level("pine"), "pressure_mpa": Level(2.8, "MPa")}
    )
    assert any("crushing pine" in c.text for c in caveats(pressed, UNITS))


def test_open_too_long_for_the_label() -> None:
    late = two_factors(constants={**first_plan().constants, "open_s": Level(1800.0, "min")})
    assert any("open for 30 min" in c.text and "Indoor PVA" in c.text for c in caveats(late, UNITS))


def test_too_few_pieces_for_what_matters_has_a_remedy() -> None:
    said = next(c for c in caveats(two_factors(replicates=4), UNITS) if c.field == "replicates")
    assert said.change is not None
    assert said.remedy


# Cost ------------------------------------------------------------------------------------------


def test_cost_by_hand() -> None:
    """Six treatments of 2 with 3 solid pieces: 12 joints of 2 halves, 3 bars."""
    plan = two_factors(replicates=2, solid_reference=3)
    c = cost(plan, treatments(plan))
    assert (c.pieces, c.blanks) == (15, 27)
    half, bar = 31 * 20 * 20, 37 * 20 * 40
    assert c.wood_dm3 == pytest.approx(1.35e-6 * (24 * half + 3 * bar))
    assert c.glue_g == pytest.approx(12 * 500e-6 * 180 * 1.5)
    assert c.hours == pytest.approx((27 * 120 + 12 * 150 + 15 * 180) / 3600)


def test_more_pieces_cost_more() -> None:
    found = costs(two_factors(), treatments(two_factors()), [3, 6, 12])
    assert [c.n for c in found] == [3, 6, 12]
    assert found[0].money < found[1].money < found[2].money
    assert found[0].hours < found[1].hours < found[2].hours
