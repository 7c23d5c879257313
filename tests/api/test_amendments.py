"""Amendments of a locked plan: with a reason, on record, and nothing overwritten."""

from __future__ import annotations

from typing import Any

import pytest

from tests.running import App, fields


def more(app: App, batch: int, status: int = 200, **changes: Any) -> Any:
    body = {"treatment": "A", "count": 2, "reason": "two were spoiled at the saw", **changes}
    return app.post(f"/batches/{batch}/more", body, status)


def leave_out(app: App, batch: int, status: int = 200, **changes: Any) -> Any:
    return app.post(
        f"/batches/{batch}/leave-out", {"treatments": ["B"], "reason": "bottle was empty", **changes}, status
    )


def test_more_pieces_get_new_codes_and_come_last(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    before = app.get(f"/batches/{batch}/break")["rows"]
    plan = more(app, batch)
    after = app.get(f"/batches/{batch}/break")["rows"]
    assert after[: len(before)] == before
    new = after[len(before) :]
    assert [(r["treatment"], r["break_order"]) for r in new] == [("A", 10), ("A", 11)]
    assert not {r["code"] for r in new} & {r["code"] for r in before}
    assert plan["kind"] == "amended"
    assert [(n["kind"], n["reason"]) for n in plan["notes"]] == [
        ("locked", ""),
        ("amended", "two were spoiled at the saw"),
    ]
    assert next(t for t in plan["forecast"]["treatments"] if t["letter"] == "A")["replicates"] == 5
    assert app.compare(batch)["treatments"][0]["made"] == 5


def test_more_solid_pieces(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    more(app, batch, treatment="C", count=1)
    assert len(app.codes(batch, "solid")) == 4
    new = app.get(f"/batches/{batch}/cut")["rows"][-1]
    assert (new["role"], new["replicate"], new["halves"]) == ("solid", 4, [new["code"]])


def test_an_amendment_is_undone_until_its_pieces_are_worked_on(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    codes = app.codes(batch)
    more(app, batch)
    new = next(c for c in app.codes(batch) if c not in codes)
    app.sizes(batch, [(new, "width", "20")])
    assert "already worked on" in app.post(f"/batches/{batch}/undo", {"stage": "plan"}, 422)["detail"]
    app.post(f"/batches/{batch}/undo", {"stage": "cut"})
    app.post(f"/batches/{batch}/undo", {"stage": "plan"})
    assert app.codes(batch) == codes
    assert app.get(f"/batches/{batch}/plan")["kind"] == "locked"


def test_a_treatment_left_out_keeps_what_was_broken(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    first = next(r["code"] for r in app.get(f"/batches/{batch}/break")["rows"] if r["treatment"] == "B")
    app.observe(batch, first, low="4000 N")
    leave_out(app, batch)
    row = app.compare(batch)["treatments"][1]
    # Not run is neither broken nor void nor done: these two leave every count, and are told of.
    assert (row["made"], row["n"], row["void"], row["unbroken"], row["left_out"]) == (1, 1, 0, 0, 2)
    assert row["left_out_reason"] == "bottle was empty"
    view = app.get(f"/batches/{batch}/break")
    assert (len(view["rows"]), view["done"], len(view["left_out"])) == (7, 1, 2)
    progress = app.get("/today")["batches"][0]
    assert (progress["pieces"], progress["observed"], progress["left_out"]) == (7, 1, 2)
    said = [f["text"] for f in app.compare(batch)["caveats"]]
    assert "Casein: 2 pieces not run: bottle was empty." in said
    assert fields(leave_out(app, batch, 422)) == {"treatments"}
    app.post(f"/batches/{batch}/undo", {"stage": "plan"})
    assert app.compare(batch)["treatments"][1]["left_out"] == 0


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"reason": " "}, "reason"),
        ({"count": 0}, "count"),
        ({"count": 101}, "count"),
        ({"treatment": "Q"}, "treatment"),
    ],
)
def test_what_is_no_amendment_is_refused(app: App, change: dict[str, Any], field: str) -> None:
    batch = app.locked("pva-damp", "casein")
    assert fields(more(app, batch, 422, **change)) == {field}
    assert len(app.codes(batch)) == 9


def test_a_draft_is_changed_not_amended(app: App) -> None:
    assert fields(more(app, app.planned("pva-damp", "casein"), 422)) == {"plan"}


def test_an_amendment_sent_twice_counts_once(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    body = {"treatment": "A", "count": 2, "reason": "two were spoiled"}
    for _ in range(2):
        app.post(f"/batches/{batch}/more", body, **{"Idempotency-Key": "amend-0001"})
    assert len(app.codes(batch)) == 11


def test_a_further_treatment_is_lettered_after_the_others(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=3, solid=2)
    body = {
        "treatment": {
            "label": "Pressed hard",
            "changes": {"pressure_mpa": {"value": 1.4, "unit": "MPa"}},
            "replicates": 2,
        },
        "reason": "somebody asked at the bench",
    }
    plan = app.post(f"/batches/{batch}/treatment", body)
    assert [(t["letter"], t["label"]) for t in plan["forecast"]["treatments"]] == [
        ("A", "Damp-proof PVA"), ("B", "Casein"), ("C", "Solid ash"), ("D", "Pressed hard"),
    ]  # fmt: skip
    rows = app.get(f"/batches/{batch}/break")["rows"]
    assert [r["treatment"] for r in rows][-2:] == ["D", "D"]
    pieces = app.get(f"/batches/{batch}/glue")["pieces"]
    assert {p["wanted_mpa"] for p in pieces if p["treatment"] == "D"} == {1.4}
    app.post(f"/batches/{batch}/more", {"treatment": "C", "count": 1, "reason": "one was split"})
    made = {t["letter"]: t["made"] for t in app.compare(batch)["treatments"]}
    assert made == {"A": 3, "B": 3, "C": 3, "D": 2}
    twice = app.post(f"/batches/{batch}/treatment", body, 422)
    assert "stands twice" in twice["detail"]


def test_a_changed_constant_leaves_what_is_made_as_it_was(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=3, solid=2)
    first = app.codes(batch, "joint")[:2]
    app.glue(batch, first)
    level = {"value": 0.4, "unit": "MPa"}
    app.post(f"/batches/{batch}/constant", {"field": "pressure_mpa", "level": level, "reason": "clamps too weak"})
    wanted = {p["code"]: p["wanted_mpa"] for p in app.get(f"/batches/{batch}/glue")["pieces"]}
    assert {wanted[c] for c in first} == {0.8}
    assert {v for c, v in wanted.items() if c not in first} == {0.4}
    assert app.get(f"/batches/{batch}/plan")["document"]["constants"]["pressure_mpa"]["value"] == 0.4
    app.post(f"/batches/{batch}/undo", {"stage": "plan"})
    assert {p["wanted_mpa"] for p in app.get(f"/batches/{batch}/glue")["pieces"]} == {0.8}


def test_a_constant_can_only_be_what_a_plan_may_hold(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=3, solid=2)
    change = {"field": "glue", "level": {"value": "hide-hot", "unit": ""}, "reason": "a factor cannot"}
    assert "is not held constant" in app.post(f"/batches/{batch}/constant", change, 422)["detail"]
    change = {"field": "pressure_mpa", "level": {"value": 999.0, "unit": "MPa"}, "reason": "far too much"}
    assert "outside" in app.post(f"/batches/{batch}/constant", change, 422)["detail"]
    app.glue(batch)
    change = {"field": "pressure_mpa", "level": {"value": 0.5, "unit": "MPa"}, "reason": "too late now"}
    assert "made already" in app.post(f"/batches/{batch}/constant", change, 422)["detail"]


def test_solid_pieces_of_one_species_only(app: App) -> None:
    species = {"key": "species", "name": "Species", "levels": [{"value": s, "unit": ""} for s in ("ash", "spruce")]}
    batch = app.batch("Two woods")
    glue = {"value": "casein", "unit": ""}
    constants = {**app.get(f"/batches/{batch}/plan")["document"]["constants"], "glue": glue}
    constants.pop("species")
    app.draft(
        batch,
        question="?",
        factors=[species],
        constants=constants,
        control={"species": "l1"},
        replicates=3,
        solid_reference=3,
    )
    app.lock(batch)
    app.post(f"/batches/{batch}/more", {"treatment": "D", "count": 2, "reason": "knots in two"})
    made = {t["label"]: t["made"] for t in app.compare(batch)["treatments"] if t["role"] == "solid"}
    assert made == {"Solid ash": 3, "Solid spruce": 5}
    plan = app.get(f"/batches/{batch}/plan")
    assert {t["label"]: t["replicates"] for t in plan["forecast"]["treatments"] if t["role"] == "solid"} == made
