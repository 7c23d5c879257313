"""Which piece the rig is offered next: what is of age, what runs out first, and never what is not glued."""

from __future__ import annotations

from typing import Any

from tests.running import App

DAY = 86400.0


def aged(app: App, *hours: float, **changes: Any) -> int:
    """Joints of one glue at these ages, three of each."""
    batch = app.planned("pva-damp", replicates=3, solid=0)
    plan = app.get(f"/batches/{batch}/plan")["document"]
    levels = [{"value": h * 3600, "unit": "h", "id": f"l{i}"} for i, h in enumerate(hours, 1)]
    held = {**plan["constants"], "glue": {"value": "pva-damp", "unit": ""}, "clamp_s": {"value": 1800.0, "unit": "min"}}
    held.pop("cure_s")
    app.draft(
        batch, factors=[{"key": "cure_s", "name": "Age", "levels": levels}], constants=held, control={}, **changes
    )
    app.lock(batch)
    return batch


def view(app: App, batch: int, query: str = "") -> Any:
    return app.get(f"/batches/{batch}/break{query}")


def letter_of(app: App, batch: int, code: str | None) -> str:
    return next((r["treatment"] for r in view(app, batch)["rows"] if r["code"] == code), "")


def test_what_is_not_glued_is_not_offered(app: App) -> None:
    batch = aged(app, 2, 24)
    first = view(app, batch)
    assert (first["next"], first["waiting"]) == (None, {"pieces": 6, "not_glued": 6, "first_at": None})
    assert view(app, batch, "?early=true")["next"] is not None
    glued = [r["code"] for r in first["rows"] if r["treatment"] == "A"]
    app.glue(batch, glued)
    app.clock.pass_(hours=1)
    app.post(f"/batches/{batch}/unclamp", {"codes": glued})
    waits = view(app, batch)["waiting"]
    assert (waits["pieces"], waits["not_glued"], view(app, batch)["next"]) == (6, 3, None)
    app.clock.pass_(hours=1, minutes=1)
    assert letter_of(app, batch, view(app, batch)["next"]) == "A"
    assert waits["first_at"] < app.clock.at.isoformat()


def test_what_leaves_its_age_first_is_offered_first(app: App) -> None:
    """Two days on all are of age; those of 24 hours are past their tolerance, those of two days have just begun."""
    batch = aged(app, 24, 48)
    app.glue(batch)
    app.clock.pass_(hours=2)
    app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    app.clock.pass_(hours=46, minutes=30)
    order = []
    while (code := view(app, batch)["next"]) is not None:
        order.append(letter_of(app, batch, code))
        app.observe(batch, code, low="4000 N", failure_mode="in-glue")
    assert order == ["A"] * 3 + ["B"] * 3
    said = [a["summary"] for a in app.get(f"/batches/{batch}/history") if a["kind"] == "observe"]
    assert not any("out of turn" in text for text in said), "what is offered is in turn"


def test_within_one_age_the_order_is_random_or_by_treatment(app: App) -> None:
    batch = app.planned("pva-damp", "casein", "hide-hot", replicates=4, solid=4)
    app.lock(batch)
    app.glue(batch)
    app.clock.pass_(days=3, hours=1)
    app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    planned = [r["code"] for r in view(app, batch)["rows"]]
    assert view(app, batch)["next"] == planned[0]
    letters = []
    while (code := view(app, batch, "?groups=true")["next"]) is not None:
        letters.append(letter_of(app, batch, code))
        app.observe(batch, code, low="4000 N", failure_mode="in-glue")
    assert letters == sorted(letters)


def test_a_soaked_piece_says_since_when_it_is_out(app: App) -> None:
    batch = app.planned("pva-damp", "casein", replicates=2, solid=0)
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, constants={**held, "conditioning": {"value": "soak-24h", "unit": ""}})
    app.lock(batch)
    codes = app.codes(batch, "joint")
    app.glue(batch)
    app.clock.pass_(days=3, hours=1)
    app.post(f"/batches/{batch}/unclamp", {"codes": codes})
    app.post(f"/batches/{batch}/condition", {"codes": codes, "way": "in"})
    app.clock.pass_(days=1)
    app.post(f"/batches/{batch}/condition", {"codes": codes[:1], "way": "out"})
    rows = {r["code"]: r for r in view(app, batch)["rows"]}
    assert rows[codes[0]]["out_since"][:19] == app.clock.at.isoformat()[:19]
    assert rows[codes[1]]["out_since"] is None
    app.observe(batch, codes[0], low="2000 N", failure_mode="in-glue")
    assert next(r for r in view(app, batch)["rows"] if r["code"] == codes[0])["out_since"] is None
