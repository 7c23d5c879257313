"""Cautions over HTTP: by what the batch brings to the bench, confirmed once a day, and kept."""

from __future__ import annotations

from typing import Any

from tests.running import App, fields


def said(app: App, batch: int, stage: str) -> dict[str, Any]:
    return {c["key"]: c for c in app.get(f"/batches/{batch}/cautions/{stage}")}


def test_high_risk_is_confirmed_once_a_day_and_kept(app: App) -> None:
    batch = app.locked("pva-damp", "cyanoacrylate")
    first = said(app, batch, "glue")
    assert {k for k, c in first.items() if c["high"]} == {"glue cyanoacrylate"}
    assert not first["glue cyanoacrylate"]["confirmed"]
    app.post(f"/batches/{batch}/cautions/glue", status=201, **{"Idempotency-Key": "read-them-1"})
    assert said(app, batch, "glue")["glue cyanoacrylate"]["confirmed"]
    assert not any(c["confirmed"] for c in said(app, batch, "break").values()), "each stage for itself"
    assert any("Read the cautions" in a["summary"] for a in app.get(f"/batches/{batch}/history"))
    app.clock.pass_(days=1)
    assert not said(app, batch, "glue")["glue cyanoacrylate"]["confirmed"]


def test_a_new_fact_of_the_day_asks_anew(app: App) -> None:
    """Read in the morning; at noon a rig is unplugged and weights are hung."""
    app.put("/rig", {"name": "Press", "port": "socket://127.0.0.1:1", "capacity": 20000.0, "step": 1.0,
                     "fixture": "A"})  # fmt: skip
    batch = app.locked("pva-damp", "casein")
    app.post(f"/batches/{batch}/cautions/break", status=201)
    assert all(c["confirmed"] for c in said(app, batch, "break").values() if c["high"])
    app.put("/rig", {"name": "Press", "port": "", "capacity": 20000.0, "step": 1.0, "fixture": "A"})
    assert not said(app, batch, "break")["dead weights"]["confirmed"]


def test_short_blanks_by_the_shops_own_length(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    assert said(app, batch, "cut")["saw"]["high"], "blanks of 31 mm"


def test_a_stage_without_cautions_is_refused(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    assert fields(app.get(f"/batches/{batch}/cautions/compare", 422)) == {"stage"}
    assert fields(app.post(f"/batches/{batch}/cautions/compare", status=422)) == {"stage"}


def test_a_freezer_that_has_nothing_to_do_with_the_batch_is_not_spoken_of(app: App) -> None:
    for label in ("Ours", "Another"):
        app.post("/bottles", {"label": label, "family": "pva-damp"})
    batch = app.locked("pva-damp", "casein")
    codes = app.codes(batch, "joint")
    app.glue(batch, codes[:1], bottle="Ours")
    bottles = {b["bottle"]["label"]: b["bottle"]["id"] for b in app.get("/shop")["bottles"]}
    app.post(f"/bottles/{bottles['Another']}/events", {"kind": "frozen"})
    assert "freezer" not in said(app, batch, "glue")
    app.post(f"/bottles/{bottles['Ours']}/events", {"kind": "frozen"})
    assert "freezer" in said(app, batch, "glue")


def test_the_day_is_that_of_the_shop(app: App) -> None:
    hours = app.get("/working-hours")
    app.put("/working-hours", {"weekly": hours["weekly"], "zone": "Pacific/Auckland", "pace": hours["pace"],
                               "tolerance": hours["tolerance"]})  # fmt: skip
    batch = app.locked("pva-damp", "cyanoacrylate")
    app.clock.at = app.clock.at.replace(hour=10, minute=0)
    app.post(f"/batches/{batch}/cautions/glue", status=201)
    assert said(app, batch, "glue")["glue cyanoacrylate"]["confirmed"]
    # Two hours later it is past midnight there, and not yet anywhere in Europe.
    app.clock.pass_(hours=2)
    assert not said(app, batch, "glue")["glue cyanoacrylate"]["confirmed"]
