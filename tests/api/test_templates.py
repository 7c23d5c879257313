"""Plans used again: templates, plan files of older versions, and two plans held against each other."""

from __future__ import annotations

from typing import Any

from tests.workshop import Bench


def test_a_template_begins_another_plan_without_the_guesses(bench: Bench) -> None:
    batch = bench.planned("pva-damp", "casein", replicates=7, guesses={"Casein": 4000.0})
    kept = bench.post(f"/batches/{batch}/template", {"name": "My glue test"}, 201)["id"]
    assert "already a template" in bench.post(f"/batches/{batch}/template", {"name": "My glue test"}, 422)["detail"]
    other = bench.batch("Another")
    plan = bench.get(f"/batches/{other}/plan")
    assert [t["name"] for t in plan["templates"]] == ["My glue test"]
    new = bench.post(f"/batches/{other}/from-template/{kept}", {"version": plan["version"]})
    assert new["document"]["replicates"] == 7
    assert new["document"]["guesses"] == {}
    bench.post(f"/batches/{other}/undo", {"stage": "plan"})
    assert bench.get(f"/batches/{other}/plan")["document"]["replicates"] == 6
    assert bench.client.delete(f"/api/batches/templates/{kept}").status_code == 200
    assert bench.get(f"/batches/{other}/plan")["templates"] == []
    bench.post(f"/batches/{other}/from-template/999", {"version": plan["version"]}, 404)


def test_two_plans_list_every_difference(bench: Bench) -> None:
    one = bench.planned("pva-damp", "casein")
    two = bench.post(f"/batches/{one}/copy", {"name": "Again"}, 201)["id"]
    assert bench.get(f"/batches/{one}/against/{two}")["differences"] == []
    document = bench.get(f"/batches/{two}/plan")["document"]
    softer = {**document["constants"], "pressure_mpa": {"value": 0.2, "unit": "MPa"}}
    bench.draft(two, constants=softer, replicates=9)
    found = bench.get(f"/batches/{one}/against/{two}")
    assert (found["name"], found["other"]) == ("Laminations", "Again")
    assert [(d["what"], d["first"], d["second"], d["weighs"]) for d in found["differences"]] == [
        ("Clamp pressure", "0.8 MPa", "0.2 MPa", True),
        ("Pieces of each", "3", "9", False),
    ]
    bench.get(f"/batches/{one}/against/99", 404)


def document(bench: Bench) -> dict[str, Any]:
    return dict(bench.get(f"/batches/{bench.planned('pva-damp', 'casein')}/plan")["document"])


def test_a_plan_file_of_an_older_version_is_read_as_it_was_meant(bench: Bench) -> None:
    old = document(bench)
    for key in ("claims", "tolerances", "spares", "dummies", "solid_own"):
        del old[key]
    old |= {"format": 2, "side_questions": ["And wet?"], "predictions": []}
    made = bench.post("/batches/from-plan", {"name": "Old", "document": old}, 201)["id"]
    plan = bench.get(f"/batches/{made}/plan")["document"]
    assert plan["side_questions"] == [{"text": "And wet?", "treatments": []}]
    assert (plan["format"], plan["spares"]) == (3, 0)


def test_a_plan_file_with_a_wrong_value_names_it_and_makes_nothing(bench: Bench) -> None:
    wrong = {**document(bench), "target": "the moon"}
    before = len(bench.get("/today")["batches"])
    problem = bench.post("/batches/from-plan", {"name": "Wrong", "document": wrong}, 422)
    assert "target" in str(problem["errors"])
    newer = {**document(bench), "format": 99}
    assert (
        "plan format 99 is not known"
        in bench.post("/batches/from-plan", {"name": "N", "document": newer}, 422)["detail"]
    )
    assert len(bench.get("/today")["batches"]) == before + 1, "only the batch that the second document came from"
