"""Joints from outdoors: their stay, how wet they were at the break, and the gap of a line told in full."""

from __future__ import annotations

from typing import Any

from tests.running import App, fields


def outdoors(app: App) -> int:
    batch = app.planned("pva-damp", "casein", replicates=3, solid=0)
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, constants={**held, "conditioning": {"value": "weather 3 weeks", "unit": ""}})
    app.lock(batch)
    app.glue(batch)
    app.clock.pass_(days=3)
    app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    app.post(f"/batches/{batch}/condition", {"codes": app.codes(batch, "joint"), "way": "in"})
    app.clock.pass_(days=21)
    app.post(f"/batches/{batch}/condition", {"codes": app.codes(batch, "joint"), "way": "out"})
    return batch


def tell(app: App, batch: int, kind: str, codes: list[str], status: int = 200, **value: Any) -> Any:
    return app.post(f"/batches/{batch}/joint-records", {"kind": kind, "codes": codes, "value": value}, status)


def test_how_wet_it_was_is_asked_at_the_break_and_told_in_compare(app: App) -> None:
    batch = outdoors(app)
    rows = app.get(f"/batches/{batch}/break")["rows"]
    assert all(r["outdoors"] and r["wetness"] == "" for r in rows)
    own: dict[str, list[str]] = {}
    for r in rows:
        own.setdefault(r["treatment"], []).append(r["code"])
        app.observe(batch, r["code"], low="2000 N", failure_mode="in-glue")
    tell(app, batch, "wetness", own["A"][:2], state="wet")
    tell(app, batch, "wetness", own["A"][2:], state="dry")
    tell(app, batch, "wetness", own["B"][:1], state="damp")
    assert fields(tell(app, batch, "wetness", own["B"], 422, state="soggy")) == {"value.state"}
    said = app.compare(batch)["inspected"]
    assert "Damp-proof PVA: at the break 2 wet, 1 dry. Wet and dry ones do not compare" in said
    assert "Casein: at the break 1 damp, 2 not noted" in said
    states = {r["code"]: r["wetness"] for r in app.get(f"/batches/{batch}/break")["rows"]}
    assert states[own["B"][0]] == "damp"


def test_a_dried_or_dry_joint_is_not_asked(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    assert not any(r["outdoors"] for r in app.get(f"/batches/{batch}/break")["rows"])


def test_a_gap_says_its_share_its_spacers_and_whether_it_closes(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    app.glue(batch)
    tell(app, batch, "gap line", [code], share_pct=40, spacers="two strips of paper", closes="closes under the clamp")
    piece = next(p for p in app.get(f"/batches/{batch}/glue")["pieces"] if p["code"] == code)
    assert ["gap line", "over a share of 40 %, two strips of paper, closes under the clamp"] in piece["joint_records"]
    app.sizes(batch, [(code, "gap", "0.16; 0.20; 0.24")])
    row = next(r for r in app.get(f"/batches/{batch}/cut")["rows"] if r["code"] == code)
    assert abs(row["sizes"]["gap"]["value"] - 0.20) < 1e-9
