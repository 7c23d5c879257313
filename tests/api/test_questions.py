"""Questions in the plan decide what is answered: proposed, changed at any time, in any order, whatever the factors'."""

from __future__ import annotations

from typing import Any

import pytest

from tests.running import App, fields

STARTS = {
    "which-glue": "which_is_best", "which-prep": "which_is_best", "how-long": "how_much_is_enough",
    "how-hard": "how_much_is_enough", "what-gap": "how_much_is_enough", "stands-it": "what_is_left",
    "how-ages": "does_it_last", "which-form": "which_is_best", "grain": "does_it_matter",
}  # fmt: skip


@pytest.mark.parametrize(("start", "kind"), STARTS.items())
def test_a_starting_question_is_of_its_kind_and_says_how_its_answer_will_read(app: App, start: str, kind: str) -> None:
    batch = app.post("/batches", {"name": "Asked", "start": start}, 201)["id"]
    view = app.get(f"/batches/{batch}/plan")
    main = view["questions"][0]
    assert main["kind"] == kind
    assert "__" in main["preview"]
    assert main["words"] == view["document"]["question"]
    assert any(k["kind"] == kind and k["fits"] for k in view["kinds"])


def soaked(app: App, *, turned: bool = False, words: str = "Which glue survives a day in water?") -> int:
    """Two glues dry and soaked, six of each; one keeps nearly all, one a third."""
    batch = app.planned("pva-damp", "casein", replicates=6, solid=0)
    plan = app.get(f"/batches/{batch}/plan")["document"]
    wet = {"key": "conditioning", "name": "Conditioning",
           "levels": [{"value": "dry", "id": "d"}, {"value": "soak-24h", "id": "w"}]}  # fmt: skip
    held = {k: v for k, v in plan["constants"].items() if k != "conditioning"}
    factors = [plan["factors"][0], wet]
    app.draft(batch, question=words, factors=factors[::-1] if turned else factors, constants=held, control={})
    app.lock(batch)
    truth = {"Damp-proof PVA": (4000, 3900), "Casein": (4100, 1350)}
    turn = dict.fromkeys(truth, 0)
    for r in app.get(f"/batches/{batch}/break")["rows"]:
        glue = next(g for g in truth if g in r["label"])
        turn[glue] += 1
        load = truth[glue]["soak" in r["label"].lower()] * (1 + 0.02 * (turn[glue] % 5 - 2))
        app.observe(batch, r["code"], low=f"{load:.0f} N", failure_mode="in-glue")
    return batch


@pytest.mark.parametrize("turned", [False, True])
def test_the_question_decides_and_not_the_order_of_factors(app: App, *, turned: bool) -> None:
    (main, *_) = app.compare(soaked(app, turned=turned), figure="load")["answers"]
    assert main["kind"] == "what_is_left"
    rows = {(r["name"], r["within"]): r for r in main["table"]}
    kept = {name: r for (name, state), r in rows.items() if r["standing"] not in ("base",)}
    assert kept["Damp-proof PVA"]["standing"] == "lasts"
    assert kept["Casein"]["standing"] == "loses"
    assert kept["Casein"]["share"] == pytest.approx(1350 / 4100, rel=0.04)
    assert f"{100 * kept['Casein']['share']:.0f} %" in main["text"], "sentence and table say the same figure"
    assert "Casein" in main["text"]


def test_another_question_is_asked_after_the_lock_and_marked_as_late(app: App) -> None:
    batch = soaked(app)
    own = [{k: q[k] for k in ("kind", "of", "against", "along", "within", "share", "words")}
           for q in app.get(f"/batches/{batch}/plan")["questions"]]  # fmt: skip
    more = {"kind": "which_is_best", "of": "glue", "within": "conditioning", "words": "Which is strongest in each?"}
    view = app.post(f"/batches/{batch}/questions", {"questions": [more, *own]})
    assert [q["late"] for q in view["questions"]] == [True, *[False] * len(own)]
    first, second, *_ = app.compare(batch, figure="load")["answers"]
    assert (first["kind"], first["late"], second["kind"]) == ("which_is_best", True, "what_is_left")
    wet = {r["name"]: r["standing"] for r in first["table"] if "oak" in r["within"]}
    assert wet == {"Damp-proof PVA": "top", "Casein": "weaker"}
    app.post(f"/batches/{batch}/undo", {"stage": "plan"})
    assert app.compare(batch)["answers"][0]["kind"] == "what_is_left"


def test_a_question_about_nothing_in_the_plan_is_refused_and_one_that_lacks_something_says_so(app: App) -> None:
    batch = app.planned("pva-damp", "casein", solid=0)
    app.draft(batch, questions=[{"kind": "close_to_solid", "of": "glue", "against": "solid"}])
    (only,) = app.get(f"/batches/{batch}/plan")["questions"]
    assert only["own"]
    assert only["lacks"] == ["Without solid pieces you can't say how the joint compares with wood. Add some."]
    app.lock(batch)
    wrong = app.post(f"/batches/{batch}/questions", {"questions": [{"kind": "which_is_best", "of": "form"}]}, 422)
    assert fields(wrong) == {"questions.0.of"}
    assert fields(app.post(f"/batches/{batch}/questions", {"questions": []}, 422)) == {"questions"}


def test_questions_go_with_the_plan_to_another_shop(app: App) -> None:
    batch = app.planned("pva-damp", "casein")
    asked: list[dict[str, Any]] = [{"kind": "does_it_matter", "of": "glue", "against": "l1", "words": "Does it?"}]
    app.draft(batch, questions=asked)
    document = app.client.get(f"/api/batches/{batch}/plan.json").json()["document"]
    assert document["format"] == 8
    (own,) = document["questions"]
    assert (own["kind"], own["of"], own["against"], own["words"]) == ("does_it_matter", "glue", "l1", "Does it?")
