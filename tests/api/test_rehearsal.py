"""A plan rehearsed over HTTP: from what, how it ended, refused where it can't be, and nothing of it kept."""

from __future__ import annotations

from tests.api.test_planned_comparisons import factor
from tests.running import App, fields


def test_a_plan_is_rehearsed_and_nothing_is_kept(app: App) -> None:
    batch = app.planned("pva-damp", "casein", "epoxy-slow", solid=0, replicates=6)
    before = app.get(f"/batches/{batch}/plan")
    supposed = app.get(f"/batches/{batch}/rehearsal?question=0&level=l2&percent=-50")
    assert supposed["right"] + supposed["open"] + supposed["wrong"] == supposed["runs"] >= 10
    assert supposed["right"] > 0.9 * supposed["runs"]
    assert supposed["needed"] <= 6
    assert "Casein holds 50 % less" in supposed["supposed"]
    names = {r["name"] for r in supposed["example"]["table"]}
    assert names == {"Damp-proof PVA", "Casein", "Slow epoxy"}
    assert "Casein" in supposed["example"]["text"]
    again = app.get(f"/batches/{batch}/rehearsal?question=0&level=l2&percent=-50")
    assert again["example"] == supposed["example"]
    assert app.get(f"/batches/{batch}/plan") == before
    assert app.get("/today")["batches"][0]["observed"] == 0


def test_guesses_are_what_is_expected(app: App) -> None:
    batch = app.planned("pva-damp", "casein", solid=0, replicates=5, guesses={"glue=l1": 5000.0, "glue=l2": 1000.0})
    found = app.get(f"/batches/{batch}/rehearsal")
    assert found["supposed"].startswith("Expected loads are from your guesses.")
    assert found["right"] == found["runs"]


def test_what_cannot_be_rehearsed_is_refused_with_the_reason(app: App) -> None:
    batch = app.planned("pva-damp", "casein", solid=0)
    assert fields(app.get(f"/batches/{batch}/rehearsal?question=9", 422)) == {"question"}
    assert fields(app.get(f"/batches/{batch}/rehearsal?level=l9", 422)) == {"level"}
    assert app.get(f"/batches/{batch}/rehearsal?percent=-500", 422)
    app.draft(batch, questions=[{"kind": "how_does_it_fail", "of": "glue"}])
    assert fields(app.get(f"/batches/{batch}/rehearsal", 422)) == {"question"}
    pried = app.planned("pva-damp", "casein", solid=0, method="pry", sizes={})
    assert app.get(f"/batches/{pried}/rehearsal", 422)
    states = [factor("glue", "Glue", "pva-damp", "casein"), factor("conditioning", "Conditioning", "dry", "soak-24h")]
    kept = app.planned("pva-damp", "casein", solid=0)
    constants = app.get(f"/batches/{kept}/plan")["document"]["constants"]
    held = {k: v for k, v in constants.items() if k not in ("glue", "conditioning")}
    app.draft(kept, factors=states, constants=held, control={})
    left = app.get(f"/batches/{kept}/rehearsal?question=0&level=l2&percent=-50")
    assert left["right"] > 0.7 * left["runs"]
