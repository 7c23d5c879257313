"""Pieces in store: the calendar of withdrawals, what is left of each group, and a date that was missed."""

from __future__ import annotations

from typing import Any

from tests.running import App

DAY = 86400.0
RHYTHM = "1 d, half-yearly for 3 years, then yearly to 11 years"


def in_store(app: App, glues: tuple[str, ...] = ("pva-damp", "casein"), ages: str = "1 d, 30 d, 60 d", each: int = 2,
             preps: tuple[str, ...] = (), **changes: Any) -> int:  # fmt: skip
    """A batch of these glues at these ages, locked and glued."""
    batch = app.planned(*glues, replicates=each, solid=0)
    plan = app.get(f"/batches/{batch}/plan")["document"]
    listed = app.post("/batches/levels", {"field": "cure_s", "text": ages, "unit": "h", "method": plan["method"]})
    factors = [plan["factors"][0], {"key": "cure_s", "name": "Age", "levels": listed["levels"]}]
    if preps:
        levels = [{"value": p, "unit": ""} for p in preps]
        factors.append({"key": "prep", "name": "Surface prep", "levels": levels})
    held = {k: v for k, v in plan["constants"].items() if k not in [f["key"] for f in factors]}
    app.draft(batch, factors=factors, constants={**held, "clamp_s": {"value": 3600.0, "unit": "h"}}, control={},
              **changes)  # fmt: skip
    app.lock(batch)
    app.glue(batch)
    return batch


def calendar(app: App, batch: int) -> Any:
    return app.get(f"/batches/{batch}/withdrawals")


def take(app: App, batch: int, age: str) -> None:
    """Break everything of an age."""
    letters = {t["letter"] for t in app.get(f"/batches/{batch}/plan")["forecast"]["treatments"]
               if f"age {age}" in t["label"]}  # fmt: skip
    for row in app.get(f"/batches/{batch}/break")["rows"]:
        if row["treatment"] in letters:
            app.observe(batch, row["code"], low="4000 N", failure_mode="in-glue", confirmed=["early", "late"])


def test_six_groups_ten_a_date_last_fifteen_dates(app: App) -> None:
    batch = in_store(app, ("pva-damp", "casein", "hide-hot"), RHYTHM, 10, ("planed", "sanded-120"))
    view = calendar(app, batch)
    assert (len(view["groups"]), len(view["dates"]), view["left"], view["dates_left"]) == (6, 15, 900, 15)
    assert view["dates"][-1]["age"] == "11 y"
    assert {tuple(d["planned"]) for d in view["dates"]} == {(10,) * 6}
    app.clock.pass_(days=2)
    for age in ("1 d",):
        take(app, batch, age)
    view = calendar(app, batch)
    assert (view["left"], view["dates_left"]) == (840, 14)
    assert [d["state"] for d in view["dates"][:3]] == ["done", "to come", "to come"]


def test_a_missed_date_is_told_and_its_true_age_counts(app: App) -> None:
    batch = in_store(app, tolerances={"cure_s": 5 * DAY})
    app.clock.pass_(days=1)
    assert [d["state"] for d in calendar(app, batch)["dates"]] == ["due", "to come", "to come"]
    take(app, batch, "1 d")
    app.clock.pass_(days=29 + 40)
    missed, overdue = calendar(app, batch)["dates"][1:]
    assert (missed["state"], missed["off"], round(missed["late_s"] / DAY)) == ("missed", True, 40)
    assert (overdue["state"], round(overdue["late_s"] / DAY)) == ("missed", 10)
    take(app, batch, "30 d")
    done = calendar(app, batch)["dates"][1]
    assert (done["state"], done["off"], done["left"]) == ("done", True, [0, 0])
    flags = {f for r in app.get(f"/batches/{batch}/break")["rows"] if r["kind"] for f in r["flags"]}
    assert any("70 days instead of 30 days" in f for f in flags), flags


def test_a_fresh_reference_was_never_in_store(app: App) -> None:
    batch = in_store(app)
    before = calendar(app, batch)
    date = before["dates"][1]
    assert date["fresh_made"] is False
    changes = {"cure_s": {"value": DAY, "unit": "d"}}
    treatment = {"label": date["fresh"], "changes": changes, "replicates": 2}
    app.post(f"/batches/{batch}/treatment", {"treatment": treatment, "reason": "a fresh reference at each date"})
    after = calendar(app, batch)
    assert (after["groups"], after["left"]) == (before["groups"], before["left"])
    assert [d["fresh_made"] for d in after["dates"]] == [False, True, False]
    assert len(app.codes(batch, "joint")) == 14


def test_what_breaks_within_days_has_no_calendar(app: App) -> None:
    assert calendar(app, in_store(app, ages="1 d, 3 d"))["dates"] == []
    assert calendar(app, app.locked("pva-damp", "casein"))["dates"] == []


def test_the_places_on_backing_boards_empty(app: App) -> None:
    backing = {"kind": "backing", "each": 1, "within": ["cure_s", "glue"], "length_mm": 600.0, "between_mm": 20.0}
    batch = in_store(app, ages="1 d, 30 d", parents=backing)
    app.clock.pass_(days=1)
    before = calendar(app, batch)["maps"]
    assert sum(len(m["places"]) for m in before) == 8
    assert all(x["filled"] for m in before for x in m["places"])
    take(app, batch, "1 d")
    broken = {r["code"] for r in app.get(f"/batches/{batch}/break")["rows"] if r["kind"]}
    empty = {x["code"] for m in calendar(app, batch)["maps"] for x in m["places"] if not x["filled"]}
    assert len(empty) == 4
    assert empty == broken
