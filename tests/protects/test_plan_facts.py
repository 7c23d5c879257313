"""The plan means what it says: ids tie, forms are not replaced, nothing is assumed without a word."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_exchange import export, rows_of
from tests.running import App, fields


def level(value: Any, key: str, unit: str = "") -> dict[str, Any]:
    return {"value": value, "unit": unit, "id": key}


def curing(*hours: float) -> dict[str, Any]:
    levels = [level(3600.0 * h, f"l{i}", "h") for i, h in enumerate(hours, 1)]
    return {"key": "cure_s", "name": "Cure time", "levels": levels}


def constants(app: App, batch: int, **changes: Any) -> dict[str, Any]:
    own = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    return {**own, "glue": level("pva-damp", ""), **changes}


def problems(app: App, batch: int) -> list[dict[str, str]]:
    return list(app.get(f"/batches/{batch}/plan")["forecast"]["problems"])


def caveats(app: App, batch: int) -> str:
    return " ".join(c["text"] for c in app.get(f"/batches/{batch}/plan")["forecast"]["caveats"])


def test_removing_an_earlier_level_leaves_the_control_where_it_is(app: App) -> None:
    batch = app.batch()
    held = {k: v for k, v in constants(app, batch).items() if k != "cure_s"}
    app.draft(batch, question="?", factors=[curing(4, 24, 72)], constants=held, control={"cure_s": "l2"})
    kept = {**curing(24, 72), "levels": [level(86_400.0, "l2", "h"), level(259_200.0, "l3", "h")]}
    plan = app.draft(batch, factors=[kept])
    assert [t["label"] for t in plan["forecast"]["treatments"] if t["is_control"]] == ["cure time 24 h"]


def test_retyping_a_level_keeps_its_guess_claim_and_side_question(app: App) -> None:
    batch = app.batch()
    held = {k: v for k, v in constants(app, batch).items() if k != "cure_s"}
    app.draft(batch, question="?", factors=[curing(4, 24)], constants=held, control={"cure_s": "l2"})
    short = app.get(f"/batches/{batch}/plan")["forecast"]["treatments"][0]["id"]
    asked = {"text": "is four hours enough?", "treatments": [short], "id": "q1"}
    app.draft(batch, guesses={short: 4000}, side_questions=[asked], claims=[{**asked, "id": "c1"}])
    retyped = {**curing(4, 24), "levels": [level(14_400.0, "l1", "min"), level(86_400.0, "l2", "h")]}
    plan = app.draft(batch, factors=[retyped])
    assert plan["forecast"]["treatments"][0]["label"] == "cure time 240 min"
    assert plan["forecast"]["treatments"][0]["id"] == short
    assert plan["document"]["guesses"] == {short: 4000}
    assert plan["document"]["side_questions"][0]["treatments"] == [short]
    app.lock(batch)
    view = app.compare(batch)
    assert view["sides"][0]["treatments"][0]["label"] == "cure time 240 min"
    assert view["claims"][0]["treatments"] == ["A"]


def test_single_treatments_take_nothing_from_a_factor_of_ones_own(app: App) -> None:
    """A fast epoxy is not filed as 'viscosity thin, activator no'."""
    batch = app.batch()
    thin = {"key": "own", "name": "Viscosity", "levels": [level("thin", "l1"), level("thick", "l2")]}
    fast = {"label": "Fast epoxy", "changes": {"glue": level("epoxy-fast", "")}, "replicates": 3, "id": "x1"}
    app.draft(
        batch, question="?", factors=[thin], constants=constants(app, batch), control={"own": "l1"}, extras=[fast]
    )
    app.lock(batch)
    rows = rows_of(export(app, batch))
    assert {r["factor own: Viscosity"] for r in rows if r["treatment_label"].startswith("Fast epoxy")} == {""}
    assert {r["factor own: Viscosity"] for r in rows if "thin" in r["treatment_label"]} == {"thin"}


@pytest.mark.parametrize("kind", ["plain", "untreated", "dry", "time-zero"])
def test_every_kind_of_control_can_be_held_against(app: App, kind: str) -> None:
    batch = app.batch()
    glue = {"key": "glue", "name": "Glue", "levels": [level("casein", "l1"), level("epoxy-slow", "l2")]}
    held = {k: v for k, v in constants(app, batch).items() if k != "glue"}
    own = {"label": "The other", "changes": {"clamp_s": level(7200.0, "", "h")}, "replicates": 4, "control": kind,
           "id": "x1"}  # fmt: skip
    app.draft(batch, question="?", factors=[glue], constants=held, replicates=4, solid_reference=0, extras=[own])
    app.lock(batch)
    app.break_all(batch, {"A": [4000, 4100, 4200, 4300], "B": [6000, 6100, 6200, 6300], "C": [5000, 5040, 5080, 5100]})
    told = app.compare(batch)["answers"][0]["table"]
    assert "The other" in {r["name"] for r in told}


def test_a_form_the_method_cannot_break_is_refused_not_replaced(app: App) -> None:
    batch = app.planned("pva-damp", "casein")
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, constants={**held, "form": level("butt", "")})
    assert any("Butt cannot be broken by compression shear block" in p["message"] for p in problems(app, batch))
    assert app.get(f"/batches/{batch}/plan")["forecast"]["areas"] == []
    app.lock(batch, 422)


def test_an_unknown_unit_is_refused_at_the_door(app: App) -> None:
    batch = app.batch()
    held = {k: v for k, v in constants(app, batch).items() if k != "pressure_mpa"}
    odd = {"key": "pressure_mpa", "name": "Clamp pressure", "levels": [level(0.5, "l1", "furlong"), level(1, "l2")]}
    answer = app.draft(batch, 422, question="?", factors=[odd], constants=held)
    assert "furlong" in answer["detail"], fields(answer)
    assert app.get(f"/batches/{batch}/plan")["document"]["question"] == ""


@pytest.mark.parametrize("wood", ["poplar", "birch plywood", "ash, acetylated"])
def test_an_unlisted_wood_is_not_forecast_as_another(app: App, wood: str) -> None:
    batch = app.planned("pva-damp", "casein")
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, constants={**held, "species": level(wood, "")})
    plan = app.get(f"/batches/{batch}/plan")["forecast"]
    assert plan["loads"] == []
    assert f"{wood[0].upper()}{wood[1:]} is no wood of the list" in caveats(app, batch)


def test_a_product_has_the_limits_of_its_bottle_and_its_family(app: App) -> None:
    bottle = {"label": "Wonder Fix", "family": "epoxy-slow", "opened_on": "2026-11-01"}
    app.post("/bottles", bottle)
    batch = app.planned("pva-damp", "Wonder Fix")
    app.lock(batch)
    cautions = app.get(f"/batches/{batch}/cautions/glue")
    assert "glue epoxy-slow" in [c["key"] for c in cautions], cautions


def test_a_conditioning_without_times_cannot_be_locked(app: App) -> None:
    batch = app.planned("pva-damp", "casein")
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, constants={**held, "conditioning": level("steamed a while", "")})
    assert any("conditioning" in p["field"] for p in problems(app, batch))
    app.lock(batch, 422)


def test_no_clamp_time_needs_no_clamp(app: App) -> None:
    batch = app.planned("contact", "casein")
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, constants={**held, "clamp_s": level(0.0, "", "h")})
    app.lock(batch)
    app.glue(batch)
    assert not [d for d in app.get("/today")["due"] if "lamp" in d["what"]]
    assert all("clamp" not in (r["ready"] or "") for r in app.get(f"/batches/{batch}/break")["rows"])


@pytest.mark.parametrize(("form", "size"), [("mitre-spline-along", "spline_length"), ("mortise-tenon", "tenon_width")])
def test_parts_that_cannot_be_are_refused(app: App, form: str, size: str) -> None:
    batch = app.planned("pva-damp", "casein")
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, method="racking", sizes={}, constants={**held, "form": level(form, "")})
    plan = app.get(f"/batches/{batch}/plan")
    usual = {s["key"]: s["nominal"] for s in plan["forecast"]["sizes"]}
    assert not [p for p in problems(app, batch) if p["field"].startswith("sizes")]
    app.draft(batch, sizes={**usual, size: 400.0})
    assert [p["field"] for p in problems(app, batch) if p["field"].startswith("sizes")] == [f"sizes.{size}_mm"]


def test_a_treatment_left_out_can_be_replaced_as_control(app: App) -> None:
    batch = app.locked("pva-damp", "casein", "epoxy-slow")
    app.post(f"/batches/{batch}/leave-out", {"treatments": ["A"], "reason": "the bottle froze"})
    app.post(f"/batches/{batch}/control", {"treatment": "B", "reason": "A was not run"})
    app.break_all(batch, {"B": [4000, 4100, 4200], "C": [6000, 6100, 6200], "D": [9000, 9100, 9200]})
    view = app.compare(batch)
    assert [t["label"] for t in view["treatments"] if t["is_control"]] == ["Casein"]
    assert {r["name"]: r["standing"] for r in view["answers"][0]["table"]} == {
        "Slow epoxy": "top", "Casein": "weaker", "Damp-proof PVA": "left_out"}  # fmt: skip
    assert view["answers"][0]["text"].endswith("Damp-proof PVA was left out.")
    progress = app.get("/today")["batches"][0]
    assert (progress["pieces"], progress["observed"], progress["left_out"]) == (9, 9, 3)
