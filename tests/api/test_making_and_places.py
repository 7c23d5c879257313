"""How joints are made on the cut sheet, and where they are kept by plan."""

from __future__ import annotations

from typing import Any

from tests.running import App

L = {"unit": ""}


def test_the_cut_sheet_lists_settings_and_loose_parts(app: App) -> None:
    batch = app.batch()
    forms = {"key": "form", "name": "Joint form", "levels": [{"value": "mitre", "unit": "", "id": "l1"},
             {"value": "mitre-key", "unit": "", "id": "l2"}]}  # fmt: skip
    held = {k: v for k, v in app.get(f"/batches/{batch}/plan")["document"]["constants"].items() if k != "form"}
    app.draft(batch, question="Keys?", method="corner-pull", factors=[forms], control={"form": "l1"}, replicates=5,
              constants={**held, "glue": {"value": "pva-damp", **L}, "insert": {"value": "beech", **L},
                         "insert_fit": {"value": "sliding", **L}})  # fmt: skip
    app.lock(batch)
    plain, keyed = app.get(f"/batches/{batch}/cut")["making"]
    assert (plain["form"], plain["treatments"], plain["parts"]) == ("Mitre", ["A"], [])
    assert "Blade tilted 45°" in plain["settings"][0]
    assert keyed["treatments"] == ["B"]
    # Two keys in each of five joints.
    assert keyed["parts"][0].startswith("10 keys of ")
    assert keyed["parts"][0].endswith("(Beech, grain along it, sliding fit)")


def test_a_wide_tenon_moves_across_and_may_be_split(app: App) -> None:
    batch = app.batch()
    glue = {"key": "glue", "name": "Glue", "levels": [{"value": g, "unit": "", "id": i}
            for g, i in (("pva-damp", "l1"), ("casein", "l2"))]}  # fmt: skip
    held = {k: v for k, v in app.get(f"/batches/{batch}/plan")["document"]["constants"].items() if k != "glue"}
    app.draft(batch, question="Which?", method="racking", factors=[glue], control={"glue": "l1"},
              constants={**held, "form": {"value": "mortise-tenon", **L}},
              sizes={"arm": 300, "joint_height": 140, "thickness": 20, "tenon_length": 30, "tenon_width": 120,
                     "tenon_thickness": 8})  # fmt: skip
    said = [c["text"] for c in app.get(f"/batches/{batch}/plan")["forecast"]["caveats"]]
    assert any("Split the tenon in two, or glue its middle and let the ends float" in text for text in said)


def kept(app: App) -> int:
    batch = app.planned("pva-damp", "casein", replicates=3, solid=0)
    place = {"key": "kept_at", "name": "Kept at", "levels": [{"value": "shop", **L, "id": "l1"},
             {"value": "cellar", **L, "id": "l2"}]}  # fmt: skip
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, factors=[place], control={"kept_at": "l1"}, constants={**held, "glue": {"value": "casein", **L}})
    app.lock(batch)
    return batch


def test_the_air_of_the_planned_place_stands_in_compare(app: App) -> None:
    batch = kept(app)
    app.glue(batch)
    app.clock.pass_(hours=6)
    app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    hours = [f"2026-11-23T{h:02d}:00:00Z,{9 + h / 10},80" for h in range(15, 22)]
    rows = "\n".join(["time,temperature,humidity", *hours])
    app.post("/climate", {"place": "In the cellar", "text": rows})
    app.clock.pass_(hours=7)
    said = app.compare(batch)["inspected"]
    assert any("kept at In the cellar" in text and "80 %" in text for text in said), said


def test_a_joint_kept_elsewhere_is_flagged(app: App) -> None:
    batch = kept(app)
    app.glue(batch)
    codes: dict[str, list[str]] = {}
    for p in app.get(f"/batches/{batch}/glue")["pieces"]:
        codes.setdefault(p["treatment"], []).append(p["code"])

    def put(code: str, where: str) -> Any:
        return app.post(
            f"/batches/{batch}/joint-records", {"kind": "place", "codes": [code], "value": {"where": where}}
        )

    put(codes["A"][0], "The attic")
    put(codes["A"][1], "in the shop")
    flags = {p["code"]: p["flags"] for p in app.get(f"/batches/{batch}/glue")["pieces"]}
    assert "kept elsewhere than planned: The attic instead of in the shop" in flags[codes["A"][0]]
    assert not any("elsewhere" in f for f in flags[codes["A"][1]])
