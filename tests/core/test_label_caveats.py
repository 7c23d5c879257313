"""What labels have to say about a plan: pressure, times and air of each glue, with the remedy that fits it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from adhaero.core.plan.checks import problems
from adhaero.core.plan.document import Factor, Level, Plan, Product, first_plan
from adhaero.core.plan.glues import as_label_says, in_words, label_of, policy_in_words
from adhaero.core.plan.label_caveats import label_caveats
from adhaero.core.units import METRIC, Units, units_of

H = 3600.0
JUG = Product("pva-damp", {"pressure_low_mpa": 1.0, "pressure_high_mpa": 1.6, "clamp_s": 2100.0, "least_c": 10.0})


def plan(*factors: Factor, products: dict[str, Product] | None = None, **constants: Level) -> Plan:
    usual = first_plan()
    varied = {f.key for f in factors}
    kept = {**usual.constants, "glue": Level("pva-damp"), **constants}
    return replace(
        usual, question="?", factors=factors, products=products or {},
        constants={k: v for k, v in kept.items() if k not in varied},
    )  # fmt: skip


PREP = Factor("prep", "Surface prep", (Level("planed"), Level("sawn")))


def said(p: Plan, units: Units = METRIC) -> list[str]:
    return list(dict.fromkeys(c.text for c in label_caveats(p, units)))


def test_a_plan_within_its_labels_hears_nothing() -> None:
    assert said(plan(PREP)) == []
    assert said(plan(PREP, products={"Jug": JUG}, glue=Level("Jug"), pressure_mpa=Level(1.3, "MPa"))) == []


def test_both_marks_of_a_piece_below_its_label() -> None:
    """Limits of 1.0 to 1.6 MPa and at least 35 min: 0.6 MPa for 30 min is below both."""
    low = plan(
        PREP, products={"Jug": JUG}, glue=Level("Jug"), pressure_mpa=Level(0.6, "MPa"), clamp_s=Level(1800.0, "min")
    )
    assert said(low) == [
        "Jug: 0.6 MPa is below its label's 1 MPa to 1.6 MPa.",
        "Jug: 30 min in the clamp is shorter than its label's 35 min.",
    ]


@pytest.mark.parametrize(
    ("constants", "text"),
    [
        ({"pressure_mpa": Level(2.0, "MPa")}, "Damp-proof PVA: 2 MPa is above the usual 0.5 MPa to 1.2 MPa."),
        ({"open_s": Level(1200.0, "min")}, "Damp-proof PVA: open for 20 min, longer than the usual 8 min."),
        ({"clamp_s": Level(600.0, "min")}, "Damp-proof PVA: 10 min in the clamp is shorter than the usual 1 h."),
    ],
)
def test_each_departure_is_named_with_both_figures(constants: dict[str, Level], text: str) -> None:
    assert said(plan(PREP, **constants)) == [text]


def test_cold_air_is_held_against_a_label_that_states_it() -> None:
    cold = {"air_c": Level(6.0, "°C"), "pressure_mpa": Level(1.2, "MPa")}
    assert said(plan(PREP, products={"Jug": JUG}, glue=Level("Jug"), **cold)) == [
        "Jug: 6 °C is colder than its label allows, 10 °C."
    ]
    assert said(plan(PREP, **cold)) == []


@pytest.mark.parametrize(
    ("factor", "constants"),
    [
        (Factor("pressure_mpa", "Clamp pressure", (Level(0.05, "MPa"), Level(3.0, "MPa"))), {}),
        (Factor("clamp_s", "Clamp time", (Level(300.0, "min"), Level(8 * H, "h"))), {}),
        (Factor("open_s", "Open time", (Level(60.0, "min"), Level(1800.0, "min"))), {}),
        (Factor("air_c", "Air temperature", (Level(5.0, "°C"), Level(20.0, "°C"))),
         {"glue": Level("Jug"), "pressure_mpa": Level(1.2, "MPa")}),
    ],
)  # fmt: skip
def test_what_is_studied_is_no_mistake(factor: Factor, constants: dict[str, Level]) -> None:
    assert said(plan(factor, products={"Jug": JUG}, **constants)) == []


def remedies(p: Plan) -> list[tuple[str, Any]]:
    return [(c.remedy, c.change) for c in label_caveats(p, METRIC)]


def test_the_remedy_for_one_glue_is_a_value_that_its_label_allows() -> None:
    soft = plan(PREP, pressure_mpa=Level(0.1, "MPa"))
    remedy, change = remedies(soft)[0]
    assert remedy == "Press with 0.5 MPa"
    assert change is not None
    better = change["constants"]["pressure_mpa"]
    assert (
        said(replace(soft, constants={**soft.constants, "pressure_mpa": Level(better["value"], better["unit"])})) == []
    )


def test_where_glues_differ_the_remedy_is_each_by_its_own_label() -> None:
    glues = plan(Factor("glue", "Glue", (Level("pva-damp"), Level("epoxy-slow"))), pressure_mpa=Level(0.8, "MPa"))
    assert said(glues)[0].startswith("Slow epoxy: 0.8 MPa is above")
    assert {r for r, _ in remedies(glues)} == {"Use each as its label says"}
    (change,) = {tuple(c.items()) for _, c in remedies(glues) if c is not None}
    by_label = replace(glues, **dict(change))
    assert said(by_label) == []
    assert not problems(by_label)


def test_a_label_is_told_in_the_units_of_the_reader() -> None:
    label = label_of(plan(PREP, products={"Jug": JUG}), "Jug")
    assert label is not None
    assert in_words(label, METRIC) == (
        "pressed with 1 MPa to 1.6 MPa, clamped for 35 min or longer, open for 8 min, from 10 °C on"
    )
    inches = in_words(label, units_of({"stress": "psi", "temperature": "°F"}))
    assert "145 psi to 232 psi" in inches
    assert "from 50 °F on" in inches


@pytest.mark.parametrize(
    ("label", "words", "wanted"),
    [
        ({"pressure_low_mpa": 0.4}, "pressed with at least 0.4 MPa", 0.4),
        ({"pressure_high_mpa": 0.3}, "pressed with up to 0.3 MPa", 0.3),
        ({"pressure_low_mpa": 0.2, "pressure_high_mpa": 0.6}, "pressed with 0.2 MPa to 0.6 MPa", 0.4),
    ],
)
def test_half_a_range_of_pressure_is_one_end(label: dict[str, float], words: str, wanted: float) -> None:
    assert in_words(label, METRIC) == words
    assert as_label_says(label) == {"pressure_mpa": pytest.approx(wanted)}


def test_the_policy_is_told_only_where_glues_differ_and_each_goes_by_its_label() -> None:
    glues = Factor("glue", "Glue", (Level("Jug"), Level("epoxy-slow"), Level(None)))
    by = replace(plan(glues, products={"Jug": JUG}), policy="by-label")
    assert "(Jug 1.3 MPa for 35 min; Slow epoxy 0.16 MPa for 12 h)" in policy_in_words(by, METRIC)
    assert policy_in_words(replace(by, policy="same-for-all"), METRIC) == ""
    assert policy_in_words(replace(plan(PREP), policy="by-label"), METRIC) == ""
