"""Glues that are bottles of the shop, products, and used by their labels: from the plan to the table of results."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_exchange import bring, export, rows_of
from tests.running import App, open_app

LABEL = {"pressure_low_mpa": 0.6, "pressure_high_mpa": 1.0, "clamp_s": 1800.0}


def bottle(app: App, label: str, family: str, limits: dict[str, float]) -> int:
    shop = app.post("/bottles", {"label": label, "family": family, "lot": "", "opened_on": None, "expires_on": None,
                                 "note": "", "limits": limits})  # fmt: skip
    return int(next(b["bottle"]["id"] for b in shop["bottles"] if b["bottle"]["label"] == label))


def by_label(app: App) -> int:
    """Two bottles of one family and a glue of a known family, each used as its label says."""
    bottle(app, "Blue jug", "pva-damp", LABEL)
    bottle(app, "Old jug", "pva-damp", {})
    batch = app.planned("pva-damp", "casein")
    levels = [{"value": v, "unit": ""} for v in ("Blue jug", "Old jug", "casein")]
    app.draft(batch, factors=[{"key": "glue", "name": "Glue", "levels": levels}], control={}, policy="by-label",
              solid_reference=0)  # fmt: skip
    return batch


def document(app: App, batch: int) -> dict[str, Any]:
    return dict(app.get(f"/batches/{batch}/plan")["document"])


def test_a_pasted_list_finds_bottles_of_the_shop(app: App) -> None:
    number = bottle(app, "Blue jug", "pva-damp", LABEL)
    read = app.post("/batches/levels", {"field": "glue", "text": "blue jug\nCasein\nMine: hide-hot\nYours: soup"})
    assert [x["value"] for x in read["levels"]] == ["Blue jug", "casein", "Mine"]
    assert read["products"]["Blue jug"] | {"label": LABEL} == read["products"]["Blue jug"]
    assert (read["products"]["Blue jug"]["bottle"], read["products"]["Mine"]["family"]) == (number, "hide-hot")
    assert [p["field"] for p in read["problems"]] == ["entry 4"]


def test_a_level_named_like_a_bottle_is_that_bottle_and_follows_its_label(app: App) -> None:
    batch = by_label(app)
    products = document(app, batch)["products"]
    assert products["Blue jug"]["family"] == "pva-damp"
    assert products["Blue jug"]["label"] == LABEL
    assert "casein" not in products
    told = {g["value"]: g for g in app.get(f"/batches/{batch}/plan")["forecast"]["glues"]}
    assert told["Blue jug"]["by_label"]
    assert "0.6 MPa to 1 MPa" in told["Blue jug"]["words"]
    assert not told["Old jug"]["by_label"]


def test_each_piece_is_planned_as_its_label_says_and_compare_and_file_say_so(app: App) -> None:
    batch = by_label(app)
    app.lock(batch)
    rows = rows_of(export(app, batch))
    wanted = {r["glue"]: (float(r["planned_pressure_mpa"]), float(r["planned_clamp_s"])) for r in rows if r["glue"]}
    assert wanted == {
        "Blue jug": pytest.approx((0.8, 1800)),  # the middle of its own label
        "Old jug": pytest.approx((0.85, 3600)),  # usual for the family
        "casein": pytest.approx((0.85, 5 * 3600)),
    }
    assert {r["policy"] for r in rows} == {"by-label"}
    app.break_all(batch, {"A": [4000, 4100, 4200], "B": [3000, 3100, 3200], "C": [2000, 2100, 2200]})
    (said,) = [f["text"] for f in app.compare(batch)["caveats"] if "as its label says" in f["text"]]
    assert "Blue jug 0.8 MPa for 30 min" in said


def test_a_batch_of_products_comes_back_from_its_file(app: App, tmp_path: Any) -> None:
    batch = by_label(app)
    app.lock(batch)
    app.break_all(batch, {"A": [4000, 4100, 4200], "B": [3000, 3100, 3200], "C": [2000, 2100, 2200]})
    text, mine = export(app, batch), document(app, batch)
    with open_app(tmp_path / "other") as other:
        made = bring(other, text)["batch_id"]
        theirs = document(other, made)
        # The number of a bottle means something in its own shop only.
        assert theirs["products"] == {k: v | {"bottle": None} for k, v in mine["products"].items()}
        assert [t["label"] for t in other.compare(made)["treatments"]] == [
            t["label"] for t in app.compare(batch)["treatments"]
        ]


def test_a_glue_of_unknown_label_cannot_be_locked_under_that_policy(app: App) -> None:
    batch = by_label(app)
    plan = document(app, batch)
    glue = plan["factors"][0]
    glue["levels"].append({"value": "Granny's paste", "unit": "", "id": ""})
    app.draft(batch, factors=[glue])
    version = app.get(f"/batches/{batch}/plan")["version"]
    problem = app.post(f"/batches/{batch}/lock", {"version": version}, 422)
    assert problem["errors"][0]["field"] == "factors.0.levels.3"
    app.draft(batch, products={**plan["products"], "Granny's paste": {"family": "hide-hot", "label": {}}})
    app.lock(batch)


def test_a_product_that_is_none_is_refused_by_its_field(app: App) -> None:
    batch = by_label(app)
    plan = document(app, batch)
    bad = {**plan["products"], "casein jar": {"family": "soup", "label": {"clamp_s": -4}, "thinned_pct": 90}}
    levels = [*plan["factors"][0]["levels"], {"value": "casein jar", "unit": "", "id": ""}]
    app.draft(batch, products=bad, factors=[{**plan["factors"][0], "levels": levels}])
    fields = {p["field"] for p in app.get(f"/batches/{batch}/plan")["forecast"]["problems"]}
    assert {"products.casein jar.family", "products.casein jar.thinned_pct"} <= fields
    assert "products.casein jar.label.clamp_s" in fields


def test_the_bench_keeps_to_the_label_of_a_product(app: App) -> None:
    """A product has its own open time; where its label is silent, its family's."""
    batch = app.planned("pva-damp", "casein")
    levels = [{"value": v, "unit": ""} for v in ("Thick white", "Thin white")]
    products = {
        "Thick white": {"family": "pva-damp", "label": {"open_s": 120.0, "pressure_low_mpa": 1.0}},
        "Thin white": {"family": "pva-damp", "label": {}},
    }
    app.draft(batch, factors=[{"key": "glue", "name": "Glue", "levels": levels}], products=products, control={},
              solid_reference=0)  # fmt: skip
    app.lock(batch)
    pieces = app.get(f"/batches/{batch}/glue")["pieces"]
    said = [c["text"] for c in app.get(f"/batches/{batch}/cautions/glue")]
    assert "Damp-proof PVA: Wash off skin with water." in said
    thick = next(p["code"] for p in pieces if p["glue"] == "Thick white")
    thin = next(p["code"] for p in pieces if p["glue"] == "Thin white")
    app.glue(batch, [thick], force_n=400, force_known="measured")
    app.glue(batch, [thin], force_n=400, force_known="measured")
    flags = {p["code"]: p["flags"] for p in app.get(f"/batches/{batch}/glue")["pieces"]}
    assert any("less than its glue wants" in f and "label from 1 MPa" in f for f in flags[thick])
    assert not any("less than its glue wants" in f for f in flags[thin])
    shown = app.get(f"/batches/{batch}/guide")
    assert shown["open_s"] in (120.0, 480.0)
    assert (shown["open_s"] == 120.0) == (shown["glue"] == "Thick white")


def test_another_bottle_than_planned_is_a_flag(app: App) -> None:
    batch = by_label(app)
    app.lock(batch)
    code = next(p["code"] for p in app.get(f"/batches/{batch}/glue")["pieces"] if p["glue"] == "Blue jug")
    view = app.glue(batch, [code], bottle="Old jug")
    said = next(p["flags"] for p in view["pieces"] if p["code"] == code)
    assert "glued from another bottle than planned: Old jug instead of Blue jug" in said


def test_a_bottle_that_holds_another_glue_than_planned_is_asked_about_and_flagged(app: App) -> None:
    """The plan says damp-proof PVA; the bottle at hand holds casein. Each list of bottles says what is in them."""
    batch = app.locked("pva-damp", "polyurethane")
    app.post("/bottles", {"label": "Bottle 7", "family": "casein"})
    view = app.get(f"/batches/{batch}/glue")
    assert [b[2] for b in view["bottles"]] == ["Casein"]
    codes = [p["code"] for p in view["pieces"] if p["treatment"] == "A"]
    asked = app.glue(batch, codes, 422, bottle="Bottle 7", confirmed=[])
    assert [e["field"] for e in asked["errors"]] == ["other glue"]
    app.glue(batch, codes, bottle="Bottle 7", confirmed=["other glue"])
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == codes[0])
    assert any(f.startswith("glued with another glue than planned: Casein") for f in row["flags"])
