"""What a conclusion holds for travels with it; and what the plan states of its judging travels with the plan."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_planned_comparisons import broken, factor, study
from tests.running import App, open_app, overturning

JUDGING: dict[str, Any] = {
    "rule": {"least": 6.5, "wood_pct": 20},
    "limits": [{"name": "promised", "value": 7.0, "figure": "strength", "source": "data sheet"}],
    "formula": {"name": "credit", "text": "raw * (1 + 0.2 * wood)"},
    "words": {"equal": 0.03, "slightly": 0.1, "clearly": 0.25},
}


def test_the_scope_names_form_wood_age_and_state(app: App) -> None:
    woods, states = (
        factor("species", "Species", "ash", "oak"),
        factor("conditioning", "Conditioning", "dry", "outdoors"),
    )
    batch = study(app, woods, states, control={"conditioning": "l1"}, n=3)
    assert app.compare(batch)["scope"] == (
        "Holds for: Compression shear block; lap; Ash and Oak; age not known; dry, indoors and outdoors for a year."
    )
    glued = app.locked("pva-damp", "casein", replicates=3, solid=0)
    app.glue(glued)
    app.clock.pass_(hours=80)
    for code in app.codes(glued):
        app.observe(glued, code, low="4000 N", failure_mode="in-glue")
    assert "3.33 days old" in app.compare(glued)["scope"]


def test_solid_wood_of_another_section_is_no_base_for_loads(app: App) -> None:
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=3, solid_reference=3)
    rows = app.get(f"/batches/{batch}/break")["rows"]
    app.sizes(batch, [(r["code"], "width", "30") for r in rows if r["role"] == "solid"])
    for r in rows:
        app.observe(batch, r["code"], low=f"{4000 + r['break_order']} N", failure_mode="in-glue")
    assert any("another section" in x for x in overturning(app.compare(batch, figure="load")))
    assert not any("another section" in x for x in overturning(app.compare(batch))), "a strength knows its section"


def test_from_which_share_of_wood_a_mixed_failure_bounds_the_bond(app: App) -> None:
    held = app.get(f"/batches/{app.batch('x')}/plan")["document"]["assumptions"]
    for share, bounds in ((50.0, True), (70.0, False)):
        batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=4,
                      assumptions={**held, "mixed_at_pct": share}, target="adhesive")  # fmt: skip
        broken(app, batch, {"Damp-proof PVA": 4000.0, "Casein": 3000.0}, failure_mode="mixed", wood_failure_pct=60)
        assert {t["bounded"] for t in app.compare(batch)["treatments"]} == {bounds}


def test_what_is_judged_by_travels_with_the_file(app: App, tmp_path: Any) -> None:
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=3, judging=JUDGING)
    broken(app, batch, {"Damp-proof PVA": 4000.0, "Casein": 2400.0}, wood_failure_pct=40)
    text = app.client.get(f"/api/batches/{batch}/specimens.csv").content
    here = app.compare(batch)["good_enough"]
    with open_app(tmp_path) as elsewhere:
        taken = elsewhere.client.post("/api/batches/import", content=text, headers={"Content-Type": "text/csv"}).json()
        there = elsewhere.compare(taken["batch_id"])["good_enough"]
    assert there["rule"] == here["rule"] == "at least 6.5 MPa, at least 20 % wood failure"
    assert [r["passed"] for r in there["rows"]] == [r["passed"] for r in here["rows"]] == [3, 0]
    assert there["limits"] == here["limits"]
    assert there["formula"]["rows"][0]["adjusted"] == pytest.approx(here["formula"]["rows"][0]["adjusted"])


def test_a_share_of_solid_wood_is_asked_of_every_piece(app: App) -> None:
    rule = {"limits": [], "rule": {"of_solid": 0.8}}
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=3, solid_reference=3,
                  judging=rule)  # fmt: skip
    loads = {"A": 4100, "B": 3900}
    for r in app.get(f"/batches/{batch}/break")["rows"]:
        app.observe(batch, r["code"], low=f"{loads.get(r['treatment'], 5000)} N", failure_mode="in-glue")
    found = app.compare(batch)["good_enough"]
    assert found["rule"] == "at least 80 % of solid wood"
    assert [(r["letter"], r["passed"], r["told"]) for r in found["rows"]] == [("A", 3, 3), ("B", 0, 3)]
