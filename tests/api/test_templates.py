"""Plans used again: templates, plan files of older versions, and two plans held against each other."""

from __future__ import annotations

from typing import Any

from tests.running import App


def test_a_template_begins_another_plan_without_the_guesses(app: App) -> None:
    batch = app.planned("pva-damp", "casein", replicates=7, guesses={"Casein": 4000.0})
    kept = app.post(f"/batches/{batch}/template", {"name": "My glue test"}, 201)["id"]
    assert "already a template" in app.post(f"/batches/{batch}/template", {"name": "My glue test"}, 422)["detail"]
    other = app.batch("Another")
    plan = app.get(f"/batches/{other}/plan")
    assert [t["name"] for t in plan["templates"]] == ["My glue test"]
    new = app.post(f"/batches/{other}/from-template/{kept}", {"version": plan["version"]})
    assert new["document"]["replicates"] == 7
    assert new["document"]["guesses"] == {}
    app.post(f"/batches/{other}/undo", {"stage": "plan"})
    assert app.get(f"/batches/{other}/plan")["document"]["replicates"] == 6
    assert app.client.delete(f"/api/batches/templates/{kept}").status_code == 200
    assert app.get(f"/batches/{other}/plan")["templates"] == []
    app.post(f"/batches/{other}/from-template/999", {"version": plan["version"]}, 404)


def test_two_plans_list_every_difference(app: App) -> None:
    one = app.planned("pva-damp", "casein")
    two = app.post(f"/batches/{one}/copy", {"name": "Again"}, 201)["id"]
    assert app.get(f"/batches/{one}/against/{two}")["differences"] == []
    document = app.get(f"/batches/{two}/plan")["document"]
    softer = {**document["constants"], "pressure_mpa": {"value": 0.2, "unit": "MPa"}}
    app.draft(two, constants=softer, replicates=9)
    found = app.get(f"/batches/{one}/against/{two}")
    assert (found["name"], found["other"]) == ("Laminations", "Again")
    assert [(d["what"], d["first"], d["second"], d["weighs"]) for d in found["differences"]] == [
        ("Clamp pressure", "0.8 MPa", "0.2 MPa", True),
        ("Pieces of each", "3", "9", False),
    ]
    app.get(f"/batches/{one}/against/99", 404)


def document(app: App) -> dict[str, Any]:
    return dict(app.get(f"/batches/{app.planned('pva-damp', 'casein')}/plan")["document"])


def test_a_plan_file_of_an_older_version_is_read_as_it_was_meant(app: App) -> None:
    old = document(app)
    for key in ("claims", "tolerances", "spares", "dummies", "solid_own"):
        del old[key]
    old |= {"format": 2, "side_questions": ["And wet?"], "predictions": [], "control": [0], "dropped": [],
            "extra_replicates": []}  # fmt: skip
    made = app.post("/batches/from-plan", {"name": "Old", "document": old}, 201)["id"]
    plan = app.get(f"/batches/{made}/plan")["document"]
    (asked,) = plan["side_questions"]
    assert (asked["text"], asked["treatments"], asked["id"], asked["says"]) == ("And wet?", [], "q1", "")
    assert plan["control"] == {"glue": "l1"}
    assert (plan["format"], plan["spares"]) == (8, 0)


def test_a_plan_file_with_a_wrong_value_names_it_and_makes_nothing(app: App) -> None:
    wrong = {**document(app), "target": "the moon"}
    before = len(app.get("/today")["batches"])
    problem = app.post("/batches/from-plan", {"name": "Wrong", "document": wrong}, 422)
    assert "target" in str(problem["errors"])
    newer = {**document(app), "format": 99}
    assert (
        "plan format 99 is not known" in app.post("/batches/from-plan", {"name": "N", "document": newer}, 422)["detail"]
    )
    assert len(app.get("/today")["batches"]) == before + 1, "only the batch that the second document came from"
