"""Treatments with sizes of their own, from the plan over cutting and gluing to the figures and the file."""

from __future__ import annotations

from pathlib import Path

import pytest

from adhaero.core.plan.fields import SIZE
from tests.api.test_exchange import bring, export, rewrite, rows_of
from tests.running import App, open_app


def corners(app: App) -> int:
    """Butt, keyed and splined corners, and one more mitre with a long spline; the keys are shorter than the splines."""
    batch = app.batch("Eight corners")
    plan = app.get(f"/batches/{batch}/plan")["document"]
    forms = ("butt-corner", "mitre-key", "mitre-spline-along")
    levels = [{"value": f, "unit": "", "id": f"l{i}"} for i, f in enumerate(forms, 1)]
    changes = {"form": {"value": "mitre-spline-along"}, SIZE + "spline_length": {"value": 80.0, "unit": "mm"}}
    long = {"label": "long spline", "replicates": 2, "changes": changes}
    app.draft(
        batch,
        question="Which corner?",
        method="corner-pull",
        sizes={"width": 90.0, "thickness": 18.0, "spline_length": 40.0},
        form_sizes={"mitre-key": {"spline_length": 15.0, "keys": 3.0}},
        factors=[{"key": "form", "name": "Joint form", "levels": levels}],
        constants={**plan["constants"], "glue": {"value": "pva-damp", "unit": ""}},
        control={"form": "l1"},
        replicates=2,
        solid_reference=0,
        extras=[long],
    )
    return batch


def area_by_label(app: App, batch: int) -> dict[str, float]:
    return {r["label"]: r["area_mm2"] for r in app.get(f"/batches/{batch}/cut")["rows"]}


def test_areas_pressures_and_the_cut_sheet_follow_each_treatment(app: App) -> None:
    batch = corners(app)
    told = {(s["key"], s["form"]) for s in app.get(f"/batches/{batch}/plan")["forecast"]["sizes"]}
    assert {("spline_length", "mitre-key"), ("spline_length", "mitre-spline-along"), ("width", "")} <= told
    app.lock(batch)
    mitre = 90 * 18 * 2**0.5
    areas = area_by_label(app, batch)
    assert areas["Butt corner"] == pytest.approx(90 * 18)
    assert areas["Mitre with keys"] == pytest.approx(mitre + 3 * 15 * (2 * 8 - 4))
    assert areas["Mitre, spline grain along"] == pytest.approx(mitre + 40 * (2 * 8 - 4))
    assert areas["long spline"] == pytest.approx(mitre + 80 * (2 * 8 - 4))
    row = next(r for r in app.get(f"/batches/{batch}/cut")["rows"] if r["label"] == "long spline")
    assert row["nominal"]["spline_length"] == 80


def test_a_measured_size_is_held_against_that_of_its_own_treatment(app: App) -> None:
    batch = corners(app)
    app.lock(batch)
    rows = app.get(f"/batches/{batch}/cut")["rows"]
    code = {r["label"]: r["code"] for r in rows}
    sheet = app.sizes(batch, [(code["long spline"], "spline_length", "80"), (code["Mitre with keys"], "keys", "3")])
    assert all(r["question"] is None for r in sheet["rows"])
    sheet = app.sizes(batch, [(code["Mitre with keys"], "spline_length", "80")])
    asked = next(r["question"] for r in sheet["rows"] if r["code"] == code["Mitre with keys"])
    assert "off the planned 15 mm" in asked


@pytest.mark.parametrize("left_out", [(), ("plan",)])
def test_the_file_brings_the_sizes_back(app: App, tmp_path: Path, left_out: tuple[str, ...]) -> None:
    """With its plan, and as a table whose columns alone bear the sizes out."""
    batch = corners(app)
    app.lock(batch)
    before = area_by_label(app, batch)
    rows = [{k: v for k, v in r.items() if k not in left_out} for r in rows_of(export(app, batch))]
    with open_app(tmp_path / "elsewhere") as other:
        again = bring(other, rewrite(rows))["batch_id"]
        assert area_by_label(other, again) == pytest.approx(before)


def test_usual_sizes_are_sixteenths_in_a_shop_that_thinks_in_inches(app: App) -> None:
    app.put("/settings", {"units": {"length": "in", "force": "lbf", "stress": "psi"}})
    batch = app.batch("Inches")
    plan = app.get(f"/batches/{batch}/plan")
    sixteenth = 25.4 / 16
    assert all((v / sixteenth) == pytest.approx(round(v / sixteenth)) for v in plan["document"]["sizes"].values())
    assert plan["document"]["sizes"]["width"] == pytest.approx(13 * sixteenth), "20 mm are nearest to 13/16 in"
    # Another method fills in its own the same way; what was typed stays as it is.
    plan = app.draft(batch, method="bend-three-point", sizes={"width": 19.3})
    assert plan["document"]["sizes"]["width"] == 19.3
    assert plan["document"]["sizes"]["span"] == pytest.approx(round(240 / sixteenth) * sixteenth)


def test_usual_levels_are_round_in_the_units_of_the_shop(app: App) -> None:
    """A shop that reads psi is not asked for 0.2 MPa: 30 psi are as near to what is meant, and can be set."""
    app.put("/settings", {"units": {"length": "in", "force": "lbf", "stress": "psi"}})
    said = {}
    for start in ("how-hard", "what-gap"):
        batch = app.post("/batches", {"name": start, "start": start}, 201)["id"]
        view = app.get(f"/batches/{batch}/plan")
        assert view["forecast"]["problems"] == []
        said[start] = [t["label"] for t in view["forecast"]["treatments"] if t["role"] == "joint"]
    assert said["how-hard"] == [f"clamp pressure {n} psi" for n in (7, 30, 90, 200)]
    assert [x.split(" · ")[0] for x in said["what-gap"]][::2] == [
        "gap 0 in",
        "gap 0.004 in",
        "gap 0.01 in",
        "gap 0.02 in",
    ]
    plan = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    assert (plan["clamp_s"]["unit"], plan["pressure_mpa"]["unit"]) == ("h", "psi")
    # So does a field that is stated or varied later.
    usual = view["forecast"]["usual"]
    assert (usual["pressure_mpa"]["unit"], usual["cure_s"]["unit"], usual["prep"]["value"]) == ("psi", "h", "planed")
    assert usual["pressure_mpa"]["value"] * 145.0377 == pytest.approx(100, abs=0.01)


def test_usual_sizes_are_whole_millimetres_elsewhere(app: App) -> None:
    plan = app.get(f"/batches/{app.batch('Millimetres')}/plan")["document"]
    assert (plan["sizes"]["width"], plan["tolerance_mm"]) == (20, 1)


def depths(app: App) -> int:
    """Bars of 15, 20 and 25 mm depth, bent over 240 mm."""
    batch = app.batch("Depths")
    plan = app.get(f"/batches/{batch}/plan")["document"]
    levels = [{"value": v, "unit": "mm", "id": f"l{i}"} for i, v in enumerate((15.0, 20.0, 25.0), 1)]
    app.draft(
        batch,
        question="Does the depth matter?",
        method="bend-three-point",
        sizes={"width": 20.0, "depth": 20.0, "span": 240.0},
        factors=[{"key": SIZE + "depth", "name": "Depth", "levels": levels}],
        constants={**plan["constants"], "glue": {"value": "pva-damp"}, "orientation": {"value": "end-end"}},
        control={SIZE + "depth": "l2"},
        replicates=3,
        solid_reference=0,
    )
    app.lock(batch)
    return batch


def test_bars_of_other_depths_compare_by_the_square_of_them(app: App) -> None:
    """The same stress in each: 10 MPa are F = 2 b d2 s / 3 L."""
    batch = depths(app)
    deep = {"A": 15, "B": 20, "C": 25}
    loads = {k: [2 * 20 * d**2 * s / (3 * 240) for s in (9.0, 10.0, 11.0)] for k, d in deep.items()}
    app.break_all(batch, loads)
    view = app.compare(batch)
    assert [t["mean"] for t in view["treatments"]] == [pytest.approx(10.0, rel=1e-6)] * 3
    assert view["limits"] == [], "a rig's limit is another stress on each of them"
    by_load = app.compare(batch, figure="load")
    assert [t["mean"] for t in by_load["treatments"]] == [pytest.approx(sum(loads[k]) / 3, abs=0.5) for k in "ABC"]


def test_the_clamp_force_of_each_form_follows_its_own_pressed_area(app: App) -> None:
    """0.8 MPa over the cross-section of a mitre, over both faces of a rebate."""
    force = {t["label"]: t["clamp_force_n"] for t in app.get(f"/batches/{corners(app)}/plan")["forecast"]["treatments"]}
    assert force["Butt corner"] == pytest.approx(0.8 * 90 * 18)
    assert force["Mitre with keys"] == force["long spline"] == pytest.approx(0.8 * 90 * 18)


def test_the_grain_beside_sheet_keys_is_that_of_the_joint(app: App) -> None:
    batch = app.planned("pva-damp", "casein", solid=0)
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    plan = app.draft(batch, method="butt-pull", sizes={}, constants={**held, "form": {"value": "sheet-key"}})
    (area,) = plan["forecast"]["areas"]
    assert [f["grain"] for f in area["faces"]] == ["long", "long"]
    plan = app.draft(batch, constants={**plan["document"]["constants"], "orientation": {"value": "end-end"}})
    assert [f["grain"] for f in plan["forecast"]["areas"][0]["faces"]] == ["end", "long"]


def test_every_field_with_a_tolerance_can_be_given_one(app: App) -> None:
    tolerated = [t["key"] for t in app.get("/catalogue")["tolerated"]]
    fields_ = {f["key"]: f["dimension"] for f in app.get("/catalogue")["fields"]}
    assert all(fields_[key] for key in tolerated)
    batch = app.planned("pva-damp", "casein")
    plan = app.draft(batch, tolerances=dict.fromkeys(tolerated, 1.0))
    assert [p for p in plan["forecast"]["problems"] if p["field"].startswith("tolerances")] == []
