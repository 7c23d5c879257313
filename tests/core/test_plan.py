"""Plans: what is refused, what is warned of, and the pieces that follow from them."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.parents import Parents
from adhaero.core.plan.caveats import caveats
from adhaero.core.plan.checks import problems
from adhaero.core.plan.codes import SIGNS, new_codes, read_code
from adhaero.core.plan.design import specimens
from adhaero.core.plan.document import (
    Asked,
    Assumptions,
    Blocks,
    Extra,
    Factor,
    Level,
    Outcome,
    Plan,
    first_plan,
)
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.plan.judging import Judging, PassRule
from adhaero.core.plan.reach import reach
from adhaero.core.plan.records import cells, pieces_in_all
from adhaero.core.plan.treatments import letter, treatments
from adhaero.core.properties import Property
from adhaero.core.protocol import ProtocolStep
from adhaero.core.refusal import Refusal
from adhaero.core.units import Units

UNITS = Units()


def glue_plan(*glues: str, **changes: object) -> Plan:
    levels = tuple(Level(g) for g in glues)
    plan = replace(
        first_plan(), question="Which glue?", factors=(Factor("glue", "Glue", levels),), control={"glue": "l1"}
    )
    return replace(plan, **changes)  # type: ignore[arg-type]


FOUR = glue_plan("pva-damp", "polyurethane", "epoxy-slow", "urea-resin")


def fields(plan: Plan) -> set[str]:
    return {p.field for p in problems(plan)}


def test_a_sound_plan_has_no_problem() -> None:
    assert problems(FOUR) == []


def test_the_first_plan_says_what_is_missing() -> None:
    assert fields(first_plan()) == {"question", "factors.0.levels"}


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"question": "  "}, "question"),
        ({"question": "x" * 501}, "question"),
        ({"factors": ()}, "extras"),
        ({"factors": (Factor("glue", "Glue", (Level("pva-damp"),)),)}, "factors.0.levels"),
        ({"factors": (Factor("glue", "Glue", tuple(Level(f"g{i}") for i in range(65))),)}, "factors.0.levels"),
        ({"factors": (Factor("glue", "Glue", (Level("a"), Level("A"))),)}, "factors.0.levels.1"),
        ({"factors": (Factor("mine", "", (Level("a"), Level("b"))),)}, "factors.0.name"),
        ({"factors": (Factor("clamp_s", "Clamp time", (Level(-1.0), Level(60.0))),)}, "factors.0.levels.0"),
        ({"factors": (Factor("orientation", "Grain", (Level("long-end"), Level("sideways"))),)}, "factors.0.levels.1"),
        ({"replicates": 0}, "replicates"),
        ({"replicates": 2000}, "replicates"),
        ({"solid_reference": -1}, "solid_reference"),
        ({"sizes": {"width": 20.0, "overlap": 25.0}}, "sizes.thickness_mm"),
        ({"sizes": {"width": 2000.0, "overlap": 25.0, "thickness": 20.0}}, "sizes.width_mm"),
        ({"control": {"glue": "l7"}}, "control.glue"),
        ({"control": {"prep": "l1"}}, "control.prep"),
        ({"method": "telepathy"}, "method"),
        ({"constants": {}}, "constants.species"),
    ],
)
def test_names_the_field_that_is_wrong(change: dict[str, object], field: str) -> None:
    plan = replace(FOUR, **change)  # type: ignore[arg-type]
    if field.startswith("constants"):
        assert field in fields(plan)
        return
    assert field in fields(plan)
    assert all(p.message and p.remedy for p in problems(plan))


@pytest.mark.parametrize(
    ("change", "about"),
    [
        ({"guess": "x" * 2001}, "the guess"),
        ({"spares": 51}, "spares"),
        ({"dummies": -1}, "dummies"),
        ({"tolerances": {"clamp_s": 0.0}}, "clamp time"),
        ({"tolerance_mm": 0.0}, "tolerance of sizes"),
        ({"assumptions": Assumptions(alpha=0.6)}, "the risk"),
        ({"assumptions": Assumptions(matters=1.5)}, "that matters"),
        ({"protocol": (ProtocolStep("Wipe", wait_s=-1.0),)}, "Wipe"),
        ({"properties": (Property("Feel", unit="thumbs of an ell"),)}, "Feel"),
        ({"extras": (Extra("Plain", {}, replicates=0),)}, "Plain"),
        ({"outcomes": (Outcome("Tore", "whatever"),)}, "Tore"),
        ({"factors": (Factor("mine", "", (Level("a"), Level("b"))),)}, "what differs"),
        ({"constants": {**FOUR.constants, "species": Level(" ")}}, "Species"),
        ({"blocks": Blocks("day", 1)}, "blocks"),
        ({"parents": Parents("panel", each=0)}, "panel"),
        ({"judging": Judging(rule=PassRule(least=-1.0))}, "what a piece must reach"),
    ],
)
def test_what_is_wrong_is_told_with_what_it_is_about(change: dict[str, object], about: str) -> None:
    """They are listed beside the plan, away from the field: "must be 0 to 500" would be nobody's."""
    told = [p.message for p in problems(replace(FOUR, **change))]  # type: ignore[arg-type]
    assert [m for m in told if about in m]
    assert not [m for m in told if m.split()[0] in ("is", "are", "must", "needs", "cannot", "has", "names", "says")]


def test_cure_time_includes_clamp_time() -> None:
    constants = {**FOUR.constants, "clamp_s": Level(7200.0, "h"), "cure_s": Level(3600.0, "h")}
    found = problems(replace(FOUR, constants=constants))
    assert [p.field for p in found] == ["constants.cure_s"]
    assert "1 h" in found[0].message
    assert "2 h" in found[0].message


def test_too_many_pieces_for_one_batch() -> None:
    assert "replicates" in fields(replace(FOUR, replicates=500, factors=(
        Factor("glue", "Glue", FOUR.factors[0].levels),
        Factor("dose", "Dose", (Level(0.0), Level(1.0), Level(2.0))),
    ), control={}))  # fmt: skip


def test_warnings_name_what_cannot_be_found_out() -> None:
    text = " ".join(w.text for w in caveats(replace(FOUR, replicates=1, control={}, solid_reference=0), UNITS))
    for words in ("not how often", "No control", "No solid reference"):
        assert words in text
    assert not any("No control" in w.text for w in caveats(FOUR, UNITS))


def test_warns_of_pressure_outside_the_usual_window() -> None:
    pressed = replace(FOUR, constants={**FOUR.constants, "pressure_mpa": Level(3.0, "MPa")})
    assert any("above the usual" in w.text and "Slow epoxy" in w.text for w in caveats(pressed, UNITS))


def test_warns_of_a_block_that_tips() -> None:
    tall = replace(FOUR, sizes={"width": 20.0, "overlap": 60.0, "thickness": 20.0})
    assert any("tips" in w.text for w in caveats(tall, UNITS))


def test_document_there_and_back() -> None:
    asked = (Asked("And wet?", ("Epoxy",)),)
    plan = replace(FOUR, dropped=({"glue": "l2"},), extra_replicates=(({"glue": "l3"}, 3),), side_questions=asked)
    assert plan_from_json(json.loads(json.dumps(plan.to_json()))) == plan


@pytest.mark.parametrize(
    "document", [{}, {"format": 99}, {**FOUR.to_json(), "factors": "glue"}, {**FOUR.to_json(), "x": 1}]
)
def test_a_document_that_is_no_plan_is_refused(document: dict[str, object]) -> None:
    with pytest.raises(Refusal):
        plan_from_json(document)


def test_full_crossing_of_three_factors() -> None:
    """3 adhesives x 4 ages x 2 exposures x 6: 24 treatments and 144 joints, each with its three levels."""
    plan = replace(
        FOUR,
        factors=(
            Factor("glue", "Glue", (Level("pva-damp"), Level("epoxy-slow"), Level("casein"))),
            Factor("cure_s", "Cure time", tuple(Level(d * 86400.0, "d") for d in (1, 7, 30, 90))),
            Factor("exposure", "Exposure", (Level("dry"), Level("soaked"))),
        ),
        control={},
        solid_reference=0,
    )
    assert problems(plan) == []
    made = specimens(plan, 1, set())
    planned = treatments(plan)
    assert len(planned) == 24
    assert len(made) == 144
    combinations = {tuple(t.record[k].value for k in ("glue", "cure_s", "exposure")) for t in planned}
    assert len(combinations) == 24


def test_free_factors_are_carried_in_the_record() -> None:
    plan = replace(FOUR, factors=(Factor("own", "Anti-slip grit", (Level(None), Level("fine"), Level(0.3, "mm"))),),
                   constants={**FOUR.constants, "glue": Level("pva-damp")}, control={"glue": "l1"})  # fmt: skip
    labels = [t.label for t in treatments(plan)]
    assert labels == ["anti-slip grit none", "anti-slip grit fine", "anti-slip grit 0.3 mm", "Solid ash"]


def test_dropped_and_extra_cells() -> None:
    plan = replace(FOUR, dropped=({"glue": "l2"},), extra_replicates=(({"glue": "l3"}, 2),))
    counts = Counter(s.treatment for s in specimens(plan, 1, set()))
    assert len(cells(plan)) == 3
    assert [counts[i] for i in range(4)] == [6, 2, 6, 4]


def test_every_wood_gets_its_own_solid_reference() -> None:
    plan = replace(FOUR, factors=(Factor("species", "Species", (Level("ash"), Level("elm"))),),
                   constants={**FOUR.constants, "glue": Level("pva-damp")}, control={})  # fmt: skip
    assert [t.label for t in treatments(plan) if t.role == "solid"] == ["Solid ash", "Solid elm"]


def test_one_control_and_letters_in_order() -> None:
    planned = treatments(FOUR)
    assert [t.letter for t in planned] == list("ABCDE")
    assert [t.letter for t in planned if t.is_control] == ["A"]
    assert [letter(i) for i in (0, 25, 26, 27, 51, 52)] == ["A", "Z", "AA", "AB", "AZ", "BA"]


def test_seed_repeats_everything_and_another_does_not() -> None:
    assert specimens(FOUR, 41, set()) == specimens(FOUR, 41, set())
    assert [s.break_order for s in specimens(FOUR, 41, set())] != [s.break_order for s in specimens(FOUR, 42, set())]


def test_orders_are_permutations_that_do_not_follow_the_plan() -> None:
    made = specimens(FOUR, 7, set())
    for order in ([s.break_order for s in made], [s.glue_order for s in made]):
        assert sorted(order) == list(range(1, 29))
        assert order != sorted(order)


def test_reach_agrees_with_known_figures() -> None:
    """Scatter 20 %: with 5 of each only about 40 % shows in one pair, with 10 about 26 %; one piece shows nothing."""
    a = replace(FOUR.assumptions, cv=0.2)
    five, ten = (reach(replace(FOUR, replicates=n, assumptions=a)) for n in (5, 10))
    assert five.one_pair == pytest.approx(0.40, abs=0.01)
    assert ten.one_pair == pytest.approx(0.26, abs=0.01)
    assert reach(replace(FOUR, replicates=1)).one_pair is None
    assert five.planned is not None
    assert five.one_pair is not None
    assert five.planned > five.one_pair


def test_reach_names_the_pieces_for_what_matters() -> None:
    """20 % CV, 15 %, one pair: 28 to 29 of each."""
    two = glue_plan("pva-damp", "casein", assumptions=replace(FOUR.assumptions, cv=0.2, matters=0.15))
    assert reach(two).needed in (28, 29)


# Codes --------------------------------------------------------------------------------


def test_codes_have_no_ambiguous_sign() -> None:
    assert not set("01ILO") & set(SIGNS)
    assert len(set(SIGNS)) == 31
    assert all(set(code) <= set(SIGNS) for code in new_codes(500, 3, set()))


def test_codes_are_unique_and_avoid_the_taken() -> None:
    first = new_codes(2000, 1, set())
    again = new_codes(2000, 1, set(first))
    assert len(set(first + again)) == 4000


def test_codes_grow_when_the_short_ones_are_scarce() -> None:
    taken = {a + b + c for a in SIGNS for b in SIGNS for c in SIGNS}

    class AllShort:
        def __contains__(self, code: str) -> bool:
            return len(code) == 4 and code[:3] in taken

    assert all(len(code) == 5 for code in new_codes(20, 1, AllShort()))  # type: ignore[arg-type]


@given(st.integers(0, 10_000))
def test_a_code_is_read_as_people_write_it(seed: int) -> None:
    code = new_codes(1, seed, set())[0]
    for written in (code, code.lower(), f" {code} ", f"{code}-a", f"{code[:2]} {code[2:]}", f"{code.lower()}-B"):
        assert read_code(written) == code


@settings(max_examples=40)
@given(st.integers(0, 10_000))
def test_every_wrong_sign_and_every_swap_is_caught(seed: int) -> None:
    code = new_codes(1, seed, set())[0]
    wrong = [code[:i] + s + code[i + 1 :] for i in range(4) for s in SIGNS if s != code[i]]
    swapped = [code[:i] + code[i + 1] + code[i] + code[i + 2 :] for i in range(3) if code[i] != code[i + 1]]
    for text in wrong + swapped:
        with pytest.raises(Refusal):
            read_code(text)


@pytest.mark.parametrize("text", ["", "A", "O0I1", "AB CD EF GH IJ KL MN", "ÄÖÜß", "2345" * 50])
def test_what_is_no_code_is_refused(text: str) -> None:
    with pytest.raises(Refusal):
        read_code(text)


def test_spares_and_dummies_come_last_in_the_order_to_break_and_among_the_others_in_that_to_glue() -> None:
    plan = replace(FOUR, replicates=3, solid_reference=2, spares=1, dummies=3)
    made = specimens(plan, 7, set())
    parts = Counter(s.part for s in made)
    assert parts == {"counts": 4 * 3 + 2, "spare": 4, "dummy": 3}
    assert pieces_in_all(plan) == len(made)
    counted = [s.break_order for s in made if s.part == "counts"]
    assert sorted(counted) == list(range(1, 15))
    assert min(s.break_order for s in made if s.part != "counts") == 15
    assert sorted(s.glue_order for s in made) == list(range(1, len(made) + 1))
    joints = [t for t in treatments(plan) if t.role == "joint"]
    assert {s.treatment for s in made if s.part == "spare"} == set(range(len(joints)))


def test_a_late_treatment_leaves_every_letter_as_it_was() -> None:
    before = [(t.letter, t.label) for t in treatments(FOUR)]
    late = Extra("Hard", {"pressure_mpa": Level(1.4, "MPa")}, 2, late=1)
    after = [(t.letter, t.label) for t in treatments(replace(FOUR, extras=(late,)))]
    assert after == [*before, (letter(len(before)), "Hard")]
    early = replace(late, late=0)
    assert [t.label for t in treatments(replace(FOUR, extras=(early,)))][-1].startswith("Solid")


def test_tolerances_are_stated_for_what_is_on_record_only() -> None:
    assert problems(replace(FOUR, tolerances={"clamp_s": 600.0, "air_c": 2.0})) == []
    wrong = problems(replace(FOUR, tolerances={"species": 1.0, "clamp_s": 0.0}))
    assert {p.field for p in wrong} == {"tolerances.species", "tolerances.clamp_s"}


def test_a_claim_in_figures_says_what_is_held_against_what() -> None:
    half = Asked("stronger", ("glue=l1",), says="stronger")
    same = Asked("as itself", ("glue=l1",), says="same", against="glue=l1")
    odd = Asked("nicer", ("glue=l1",), says="nicer", against="glue=l2")
    fine = Asked("stronger", ("glue=l1",), says="stronger", against="glue=l2")
    wrong = problems(replace(FOUR, claims=(half, same, odd, fine)))
    assert {p.field for p in wrong} == {"claims.0.against", "claims.1.against", "claims.2.says"}


def test_a_claim_and_a_side_question_need_words() -> None:
    wrong = problems(replace(FOUR, claims=(Asked(" "),), side_questions=(Asked("x" * 301),)))
    assert {p.field for p in wrong} == {"claims.0", "side_questions.0"}
