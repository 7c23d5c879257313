"""Several crossings in one batch: each with its own treatments, its own control and its own answer."""

from __future__ import annotations

from typing import Any

from tests.api.test_exchange import bring, export
from tests.running import App, fields, open_app

LISTS = [{"key": "glue", "text": "casein\nhide-hot"}, {"key": "clamp_s", "text": "30 min, 2 h"}]


def cross(app: App, batch: int, lists: Any = LISTS, status: int = 200, **more: Any) -> Any:
    """Ask for a crossing on the draft's document; it is saved if it could be made."""
    document = app.get(f"/batches/{batch}/plan")["document"]
    body = {"document": document, "question": "Does longer help?", "factors": lists, "replicates": 4, **more}
    found = app.post("/batches/crossing", body, status)
    if status == 200:
        app.draft(batch, **found["document"])
    return found


def crossed(app: App) -> int:
    batch = app.planned("pva-damp", "polyurethane", replicates=4, solid=0)
    cross(app, batch)
    app.lock(batch)
    return batch


def test_every_combination_is_made_and_the_first_is_the_control(app: App) -> None:
    batch = app.planned("pva-damp", "polyurethane", replicates=3, solid=0)
    found = cross(app, batch)
    assert (found["treatments"], found["made"]) == (4, 4)
    plan = app.get(f"/batches/{batch}/plan")
    labels = {t["id"]: t["label"] for t in plan["forecast"]["treatments"]}
    (asked,) = plan["document"]["side_questions"]
    assert labels[asked["against"]] == "Casein · clamp time 30 min"
    assert len({labels[x] for x in asked["treatments"]}) == 4
    made = {t["label"]: t["replicates"] for t in plan["forecast"]["treatments"]}
    assert [n for label, n in made.items() if "clamp time" in label] == [4] * 4


def test_what_the_grid_makes_is_not_made_again(app: App) -> None:
    batch = app.planned("pva-damp", "casein", replicates=3, solid=0)
    constant = app.get(f"/batches/{batch}/plan")["document"]["constants"]["clamp_s"]["value"] / 3600
    found = cross(app, batch, [LISTS[0], {"key": "clamp_s", "text": f"{constant:g} h, 2 h"}])
    assert (found["treatments"], found["made"]) == (4, 3)


def test_each_crossing_is_answered_against_its_own_control(app: App, tmp_path: Any) -> None:
    batch = crossed(app)
    plan = app.get(f"/batches/{batch}/plan")
    ids = {t["letter"]: t["id"] for t in plan["forecast"]["treatments"]}
    own = set(plan["document"]["side_questions"][0]["treatments"])
    loads = {letter: [5000.0, 5050, 4950, 5000] for letter in ids}
    loads["B"] = [3000.0, 3050, 2950, 3000]
    longer = [t["letter"] for t in plan["forecast"]["treatments"] if t["label"].endswith("2 h")]
    for x in longer:
        loads[x] = [7000.0, 7050, 6950, 7000]
    app.break_all(batch, loads)
    view = app.compare(batch, figure="load")
    assert {t["letter"] for t in view["treatments"]} == {x for x, i in ids.items() if i not in own}
    (side,) = view["sides"]
    assert {t["letter"] for t in side["treatments"]} == {x for x, i in ids.items() if i in own}
    # Both longer ones are above the crossing's control, which holds what the control of the grid holds.
    answer = side["answer"]
    assert "stronger than Casein · clamp time 30 min (5000 N)" in answer["text"]
    assert "40 % more" in answer["text"]
    stronger = [r["name"] for r in answer["table"] if r["standing"] == "stronger"]
    assert len(stronger) == 2
    assert all(x.endswith("clamp time 2 h") for x in stronger)
    with open_app(tmp_path) as elsewhere:
        home = bring(elsewhere, export(app, batch))["batch_id"]
        assert {t["letter"] for t in elsewhere.compare(home, figure="load")["treatments"]} >= {"A", "B"}


def test_what_pieces_can_show_is_reckoned_by_question(app: App) -> None:
    batch = app.planned("pva-damp", "polyurethane", "hide-hot", replicates=6)
    alone = app.get(f"/batches/{batch}/plan")["forecast"]["reach"]
    cross(app, batch, [{"key": "clamp_s", "text": "1 h, 2 h, 3 h"}])
    # Three and three, each question for itself: six comparisons at once are asked by nobody.
    assert app.get(f"/batches/{batch}/plan")["forecast"]["reach"] == alone
    cross(app, batch, [{"key": "cure_s", "text": "20 h, 24 h, 30 h, 40 h"}])
    assert app.get(f"/batches/{batch}/plan")["forecast"]["reach"]["planned_pct"] > alone["planned_pct"]


def test_what_cannot_be_crossed_names_its_field(app: App) -> None:
    batch = app.planned("pva-damp", "polyurethane")
    assert fields(cross(app, batch, [{"key": "cure_s", "text": "soon, 2 h"}], 422)) == {"factors.0"}
    assert fields(cross(app, batch, [LISTS[0], LISTS[0]], 422)) == {"factors.1"}
    assert fields(cross(app, batch, [], 422)) == {"factors"}
    assert fields(cross(app, batch, [{"key": "glue", "text": "casein"}], 422)) == {"factors"}
    assert fields(cross(app, batch, LISTS, 422, question=" ")) == {"question"}


def test_a_side_question_is_set_against_one_of_its_own(app: App) -> None:
    batch = app.planned("pva-damp", "polyurethane")
    cross(app, batch)
    asked = app.get(f"/batches/{batch}/plan")["document"]["side_questions"][0]
    app.draft(batch, side_questions=[{**asked, "against": "glue=l1"}])
    problems = app.get(f"/batches/{batch}/plan")["forecast"]["problems"]
    assert [p["field"] for p in problems] == ["side_questions.0.against"]
