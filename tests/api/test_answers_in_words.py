"""Answers through the API: they name what they are of, in its unit; a plan that lost what was asked says so."""

from __future__ import annotations

from itertools import product
from typing import Any

import pytest

from adhaero.core.inference import Inference
from adhaero.core.quantity import Dimension
from adhaero.core.questions.question import QuestionKind
from adhaero.core.questions.study import Factor, Level, Study
from adhaero.core.units import Units
from adhaero.workflow.compare.answer_data import Asked
from adhaero.workflow.compare.answers import Told
from tests.running import App

SPREAD = (0.98, 1.0, 1.02, 0.99, 1.01, 1.0)


def crossed(app: App, **loads: int) -> int:
    """Two glues in two woods, both factors with levels of the same ids; loads by the first word of glue and wood."""
    batch = app.planned("pva-damp", "casein", replicates=6, solid=0)
    plan = app.get(f"/batches/{batch}/plan")["document"]
    wood = {"key": "species", "name": "Species", "levels": [{"value": v, "id": f"l{i}"} for i, v in
            enumerate(("ash", "oak"), 1)]}  # fmt: skip
    held = {k: v for k, v in plan["constants"].items() if k != "species"}
    app.draft(batch, factors=[plan["factors"][0], wood], constants=held)
    app.lock(batch)
    turn: dict[str, int] = {}
    for r in app.get(f"/batches/{batch}/break")["rows"]:
        glue, species = r["label"].split(" · ")
        n = turn[r["label"]] = turn.get(r["label"], -1) + 1
        app.observe(batch, r["code"], low=f"{loads[glue[:3] + species] * SPREAD[n]:.0f} N", failure_mode="in-glue")
    return batch


def ask(app: App, batch: int, **question: Any) -> dict[str, Any]:
    app.post(f"/batches/{batch}/questions", {"questions": [{"of": "glue", **question}]})
    answer: dict[str, Any] = app.compare(batch, figure="load")["answers"][0]
    return answer


@pytest.fixture
def study(app: App) -> int:
    return crossed(app, DamAsh=4000, CasAsh=3000, DamOak=2000, CasOak=2600)


def test_what_is_answered_for_each_wood_names_the_wood(app: App, study: int) -> None:
    main = ask(app, study, kind="better_than", against="l1", within="species")
    assert main["question"] == "Which glue is better than Damp-proof PVA, for each species?"
    ash, oak = main["text"].split(" In oak: ") if " In oak: " in main["text"] else main["text"].split(" In Oak: ")
    assert ash.lower().startswith("in ash: casein")
    assert "weaker" in ash
    assert "stronger" not in ash
    assert "stronger" in oak
    assert "weaker" not in oak
    assert {(r["within"], r["standing"]) for r in main["table"] if r["name"] == "Casein"} == {
        ("Ash", "weaker"), ("Oak", "stronger")}  # fmt: skip


def test_letters_and_shares_of_a_row_are_those_of_its_treatments(app: App, study: int) -> None:
    main = ask(app, study, kind="which_is_best", within="species")
    label = {t["letter"]: t["label"] for t in app.compare(study)["treatments"]}
    for row in main["table"]:
        (letter,) = row["letters"]
        assert label[letter] == f"{row['name']} · {row['within']}"
    strong = ask(app, study, kind="how_strong")
    assert all(r["share"] is None for r in strong["table"]), "a load that 19 of 20 hold is no share"
    assert "19 of 20 such pieces should hold" in strong["text"]


def test_a_question_in_place_of_the_planned_one_is_told_in_its_own_words(app: App, study: int) -> None:
    assert app.compare(study)["answers"][0]["question"] == "Which glue?"
    assert ask(app, study, kind="does_it_matter")["question"] == "Does the glue make any difference?"
    assert ask(app, study, kind="does_it_matter", words="Is it the glue?")["question"] == "Is it the glue?"


@pytest.mark.parametrize(
    ("question", "said"),
    [
        ({"kind": "better_than", "against": "gone"}, "Say which glue the others are held against."),
        ({"kind": "which_is_best", "against": "gone"}, "Say which glue the others are held against."),
        ({"kind": "does_it_matter", "against": "own"}, "Say which glue the others are held against."),
        ({"kind": "how_much_is_enough", "against": "solid"}, "Say which glue the others are held against."),
        ({"kind": "what_is_left", "against": "own"}, "pieces of each are needed before and after"),
        ({"kind": "what_is_left", "along": "gone", "against": "own"}, "is not in the plan"),
        ({"kind": "does_it_depend", "against": "l1", "within": "gone"}, "is not in the plan"),
        ({"kind": "how_long_does_it_hold"}, "No piece has a time yet"),
    ],
)
def test_what_a_question_lost_is_said_and_the_page_stands(app: App, study: int, question: Any, said: str) -> None:
    main = ask(app, study, **question)
    assert (main["text"], main["table"]) == ("", [])
    assert any(said in text for text in main["lacks"]), main["lacks"]


def test_a_judgement_that_is_not_made_is_not_passed_off_as_one(app: App, study: int) -> None:
    main = ask(app, study, kind="which_is_best", judge_by="limit")
    assert "Set a limit under “What counts as good enough”. There is none to judge by yet." in main["lacks"]
    main = ask(app, study, kind="how_strong", judge_by="weakest")
    assert "This kind of question goes by the average strength, whatever else is chosen." in main["lacks"]


def test_judged_by_the_weakest_piece_the_answer_says_so(app: App, study: int) -> None:
    main = ask(app, study, kind="which_is_best", judge_by="weakest")
    assert main["text"].startswith("By the weakest piece, ")
    assert "On average: " in main["text"]
    assert main["lacks"] == []


def test_how_long_pieces_held_is_told_in_times_and_not_in_loads(app: App) -> None:
    batch = app.locked("pva-damp", "casein", solid=0)
    for n, r in enumerate(app.get(f"/batches/{batch}/break")["rows"]):
        days = (30 if r["label"].startswith("Damp") else 2) + n % 3 / 10
        app.observe(batch, r["code"], kind="held", low="500 N", held=f"{days} d", failure_mode="in-glue")
    main = ask(app, batch, kind="how_long_does_it_hold")
    rows = {r["name"]: r for r in main["table"]}
    assert 29 * 86400 < rows["Damp-proof PVA"]["figure"] < 31 * 86400
    assert "Casein" in main["text"]
    assert " N" not in main["text"]


def test_the_price_is_that_of_the_level_asked_about_and_in_the_shops_money(app: App) -> None:
    """12 for 500 g, 200 g/m2 on 5 cm2: 0.0024 a joint. Both factors have levels of the same ids."""
    ids = ("l1", "l2")
    factors = tuple(Factor(k, k, tuple(Level(i, i) for i in ids)) for k in ("glue", "species"))
    cells = {a + b: {"glue": a, "species": b} for a in ids for b in ids}
    own = Asked(Study(factors, ()), cells, {"l1l1": 0.0024, "l1l2": 0.0024, "l2l1": 0.0048})
    assert own.priced("glue").cost == pytest.approx({"l1": 0.0024, "l2": 0.0048})
    assert own.priced("species").cost == pytest.approx({"l1": 0.0036, "l2": 0.0024})
    say = Told(Units(), Dimension.FORCE, "kr").say(own.study, Inference(), in_time=False)
    assert say.money(0.0024) == "0.0024 kr"


def test_whatever_is_asked_of_a_study_the_page_stands_and_no_part_of_an_answer_is_lost(app: App, study: int) -> None:
    """Every kind with every base, state and part, sensible or not: an answer, or what it lacks."""
    keys, bases = ("", "glue", "species"), ("", "l1", "own", "solid")
    named = ("kind", "of", "against", "along", "within")
    every = [dict(zip(named, own, strict=True)) for own in product(QuestionKind, keys[1:], bases, keys, keys)]
    for i in range(0, len(every), 12):
        app.post(f"/batches/{study}/questions", {"questions": every[i : i + 12]})
        for a, q in zip(app.compare(study)["answers"], every[i : i + 12], strict=True):
            assert a["text"] or a["lacks"], q
            assert a["question"], q
