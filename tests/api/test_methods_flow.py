"""Every test method from plan to verdict, and out to a file and back."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from adhaero.core.method import nominal_sizes
from adhaero.core.method_catalogue import METHODS
from tests.running import App, open_app

LOADS = {"A": [1000.0, 1100.0, 1200.0], "B": [700.0, 800.0, 900.0], "C": [2000.0, 2100.0, 2200.0]}


def batch_of(app: App, method: str, **changes: Any) -> int:
    batch = app.planned("pva-damp", "casein", method=method, sizes=nominal_sizes(METHODS[method]), **changes)
    app.lock(batch)
    return batch


def test_joints_pried_open_are_counted(app: App, tmp_path: Path) -> None:
    batch = app.planned(
        "pva-damp", "casein", "hide-hot", method="pry", sizes=nominal_sizes(METHODS["pry"]), replicates=8
    )
    assert app.get(f"/batches/{batch}/plan")["forecast"]["loads"] == []
    app.lock(batch)
    queue = app.get(f"/batches/{batch}/break")
    assert queue["loadless"]
    assert len(queue["rows"]) == 24, "there is no solid piece to pry"
    no_load = app.observe(batch, queue["rows"][0]["code"], 422, low="900 N", failure_mode="in-glue")
    assert "this method has no load" in no_load["detail"]
    unseen = app.observe(batch, queue["rows"][0]["code"], 422, kind="seen")
    assert "Choose how it gave way" in unseen["detail"]
    wood = {"A": 8, "B": 0, "C": 7}
    for row in queue["rows"]:
        mode = "wood-deep" if wood[row["treatment"]] else "interface"
        wood[row["treatment"]] -= bool(wood[row["treatment"]])
        app.observe(
            batch, row["code"], kind="seen", failure_mode=mode, wood_failure_pct=90 if mode == "wood-deep" else 5
        )
    view = app.compare(batch)
    (answer,) = view["answers"]
    assert answer["kind"] == "how_does_it_fail"
    assert answer["text"].startswith("They failed differently: with Damp-proof PVA 8 of 8 in the wood")
    assert "with Casein 8 of 8 at the interface" in answer["text"]
    counts = {r["name"]: r["counts"] for r in answer["table"]}
    assert counts["Hot hide glue"] == {"in-wood": 7, "interface": 1}
    assert [t["wood_failure_pct"] for t in view["treatments"]] == [90, 5, pytest.approx((7 * 90 + 5) / 8)]
    text = app.client.get(f"/api/batches/{batch}/specimens.csv").text
    with open_app(tmp_path / "other") as other:
        taken = other.client.post("/api/batches/import", content=text.encode(), headers={"Content-Type": "text/csv"})
        assert taken.status_code == 200, taken.text
        assert other.compare(taken.json()["batch_id"])["answers"][0]["text"] == answer["text"]


@pytest.mark.parametrize("key", sorted(k for k, m in METHODS.items() if not m.loadless))
def test_a_method_goes_the_whole_way(app: App, tmp_path: Path, key: str) -> None:
    method = METHODS[key]
    batch = batch_of(app, key)
    cut = app.get(f"/batches/{batch}/cut")
    code = cut["rows"][0]["code"]
    for quantity in cut["to_measure"]:
        app.sizes(batch, [(code, quantity, f"{method_nominal(key, quantity) * 1.01:.3f}")])
    # Set-up sizes belong to the rig; where nothing was measured nothing is called so.
    assert app.get(f"/batches/{batch}/cut")["rows"][0]["measured"] is bool(cut["to_measure"])
    glued = app.glue(batch)
    assert all(p["pressure_mpa"] > 0 for p in glued["pieces"])
    app.break_all(batch, LOADS)
    view = app.compare(batch)
    per_newton = method.per_newton(nominal_sizes(method))
    assert view["unit"] in ("MPa", "N·m", "N/mm", "N")
    assert view["treatments"][1]["mean"] == pytest.approx(800 * per_newton, rel=0.03)
    # Every joint is held against solid wood that is loaded as it is: long edges are bent across the grain.
    assert (view["treatments"][0]["efficiency_pct"] is not None) == method.solid
    with open_app(tmp_path / "other") as other:
        text = app.client.get(f"/api/batches/{batch}/specimens.csv").text
        answer = other.client.post("/api/batches/import", content=text.encode(), headers={"Content-Type": "text/csv"})
        assert answer.status_code == 200, answer.text
        there = other.compare(answer.json()["batch_id"])
        assert there["figure_name"] == view["figure_name"]
        for a, b in zip(view["treatments"], there["treatments"], strict=True):
            assert (a["label"], a["n"], a["mean"], a["sd"]) == (b["label"], b["n"], b["mean"], b["sd"])


def method_nominal(key: str, quantity: str) -> float:
    return next(s.nominal for s in METHODS[key].sizes if s.key == quantity)


def test_a_grid_with_gaps_and_singles_comes_back_from_its_file(app: App, tmp_path: Path) -> None:
    glue = {"key": "glue", "name": "Glue", "levels": [{"value": g, "unit": ""} for g in ("pva-damp", "casein")]}
    wet = {"key": "conditioning", "name": "Conditioning",
           "levels": [{"value": v, "unit": ""} for v in ("dry", "soak-24h")]}  # fmt: skip
    batch = app.batch("Gaps")
    app.draft(
        batch, question="Wet?", factors=[glue, wet], control={"glue": "l1", "conditioning": "l1"},
        dropped=[{"glue": "l2", "conditioning": "l2"}],
        replicates=3, solid_reference=3,
        extra_replicates=[[{"glue": "l1", "conditioning": "l2"}, 4]],
        extras=[
            {"label": "Unglued", "changes": {"glue": {"value": None}}, "replicates": 2, "control": "untreated"},
            {"label": "Hard", "changes": {"pressure_mpa": {"value": 1.2, "unit": "MPa"}}, "replicates": 2},
        ],
    )  # fmt: skip
    app.lock(batch)
    view = app.compare(batch)
    assert [(t["label"], t["made"]) for t in view["treatments"]] == [
        ("Damp-proof PVA · Dry, indoors", 3),
        ("Damp-proof PVA · Soaked 24 h, wet", 4),
        ("Casein · Dry, indoors", 3),
        ("Unglued", 2),
        ("Hard", 2),
        ("Solid ash", 3),
    ]
    rows = app.get(f"/batches/{batch}/glue")["pieces"]
    assert {p["wanted_mpa"] for p in rows if p["label"] == "Hard"} == {1.2}
    assert {p["glue"] for p in rows if p["label"] == "Unglued"} == {"none"}
    text = app.client.get(f"/api/batches/{batch}/specimens.csv").text
    with open_app(tmp_path / "other") as other:
        answer = other.client.post("/api/batches/import", content=text.encode(), headers={"Content-Type": "text/csv"})
        assert answer.status_code == 200, answer.text
        made = answer.json()["batch_id"]
        there = other.compare(made)
        assert [(t["label"], t["made"]) for t in there["treatments"]] == [
            (t["label"], t["made"]) for t in view["treatments"]
        ]
        assert {p["wanted_mpa"] for p in other.get(f"/batches/{made}/glue")["pieces"] if p["label"] == "Hard"} == {1.2}


def test_joint_forms_as_a_factor_keep_their_own_areas(app: App) -> None:
    batch = app.batch("Forms")
    version = app.get(f"/batches/{batch}/plan")["version"]
    plan = app.post(f"/batches/{batch}/start", {"version": version, "start": "which-form"})
    areas = {a["form"]: a["area_mm2"] for a in plan["forecast"]["areas"]}
    assert len(areas) == 4
    app.lock(batch)
    pieces = app.get(f"/batches/{batch}/glue")["pieces"]
    assert {p["form"]: p["area_mm2"] for p in pieces} == areas


def test_starting_from_a_question_can_be_undone(app: App) -> None:
    batch = app.planned("pva-damp", "casein")
    plan = app.get(f"/batches/{batch}/plan")
    started = app.post(f"/batches/{batch}/start", {"version": plan["version"], "start": "how-long"})
    assert started["document"]["question"] == "When can the clamps come off?"
    app.post(f"/batches/{batch}/undo", {"stage": "plan"})
    assert app.get(f"/batches/{batch}/plan")["document"] == plan["document"]
    app.post(f"/batches/{batch}/start", {"version": 1, "start": "how-long"}, 409)
    app.post(f"/batches/{batch}/start", {"version": plan["version"], "start": "nonsense"}, 422)


def test_own_history_feeds_the_forecast_of_the_next_plan(app: App) -> None:
    app.put("/rig", {"name": "Rig", "port": "", "capacity": 20000, "step": 1, "fixture": "A"})
    first = app.locked("pva-damp", "casein", replicates=4, solid=4)
    app.break_all(first, {"A": [5000.0, 5200.0, 5400.0, 5600.0], "B": [3000.0, 3100.0, 3200.0, 3300.0],
                            "C": [7000.0] * 4})  # fmt: skip
    plan = app.get(f"/batches/{app.planned('pva-damp', 'polyurethane', name='Next')}/plan")["forecast"]
    own, other, solid = plan["loads"]
    assert own["load_n"] == pytest.approx(5300)
    assert "your own 4 pieces" in own["source"]
    assert "Handbook" in other["source"]
    assert solid["load_n"] == pytest.approx(7000)
    assert plan["own_cv_pieces"] == 8
    assert plan["own_cv_pct"] == pytest.approx(4.5, abs=0.5)
