"""Plans that grow after the lock: a level across the grid, and pieces drawn from store for another age."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_exchange import bring, export
from tests.running import App, fields, open_app

DAY = 86400.0
AGES = {"key": "cure_s", "name": "Age", "levels": [{"value": 3 * DAY, "unit": "d", "id": "l1"},
        {"value": 30 * DAY, "unit": "d", "id": "l2"}]}  # fmt: skip


def aged(app: App, **changes: Any) -> int:
    batch = app.planned("pva-damp", "casein", replicates=4, solid=2)
    plan = app.get(f"/batches/{batch}/plan")["document"]
    held = {k: v for k, v in plan["constants"].items() if k != "cure_s"}
    app.draft(batch, factors=[plan["factors"][0], AGES], constants=held,
              control={"glue": "l1", "cure_s": "l1"}, **changes)  # fmt: skip
    app.lock(batch)
    return batch


def letters(app: App, batch: int) -> dict[str, str]:
    return {t["letter"]: t["label"] for t in app.get(f"/batches/{batch}/plan")["forecast"]["treatments"]}


def counts(app: App, batch: int) -> dict[str, int]:
    found: dict[str, int] = {}
    for r in app.get(f"/batches/{batch}/cut")["rows"]:
        found[r["treatment"]] = found.get(r["treatment"], 0) + 1
    return found


def test_a_level_grows_across_the_grid_and_letters_stay(app: App) -> None:
    batch = aged(app)
    before = letters(app, batch)
    assert list(before) == list("ABCDE")
    body = {"factor": "glue", "level": {"value": "polyurethane", "unit": ""}, "count": 3, "reason": "a third glue came"}
    app.post(f"/batches/{batch}/level", body)
    after = letters(app, batch)
    assert {k: after[k] for k in before} == before
    assert [after[k] for k in "FG"] == ["Foaming polyurethane · age 3 d", "Foaming polyurethane · age 30 d"]
    assert counts(app, batch) == {"A": 4, "B": 4, "C": 4, "D": 4, "E": 2, "F": 3, "G": 3}
    last = [r["break_order"] for r in app.get(f"/batches/{batch}/break")["rows"] if r["treatment"] in "FG"]
    assert min(last) > 18
    again = {**body, "factor": "cure_s", "level": {"value": 365 * DAY, "unit": "d"}, "count": 2}
    app.post(f"/batches/{batch}/level", again)
    assert [k for k, label in letters(app, batch).items() if label.endswith("365 d")] == ["H", "I", "J"]
    assert fields(app.post(f"/batches/{batch}/level", again, 422)) == {"level"}
    assert fields(app.post(f"/batches/{batch}/level", {**again, "factor": "prep"}, 422)) == {"factor"}
    app.post(f"/batches/{batch}/undo", {"stage": "plan"})
    app.post(f"/batches/{batch}/undo", {"stage": "plan"})
    assert letters(app, batch) == before
    assert sum(counts(app, batch).values()) == 18


def test_a_new_wood_brings_its_solid_reference(app: App) -> None:
    batch = app.batch()
    wood = {"key": "species", "name": "Species", "levels": [{"value": "ash", "unit": "", "id": "l1"},
            {"value": "beech", "unit": "", "id": "l2"}]}  # fmt: skip
    held = {k: v for k, v in app.get(f"/batches/{batch}/plan")["document"]["constants"].items() if k != "species"}
    app.draft(batch, question="Which wood?", factors=[wood], control={"species": "l1"}, replicates=3,
              solid_reference=2, constants={**held, "glue": {"value": "pva-damp", "unit": ""}})  # fmt: skip
    app.lock(batch)
    app.post(f"/batches/{batch}/level", {"factor": "species", "level": {"value": "oak", "unit": ""}, "count": 3,
                                         "reason": "oak was found"})  # fmt: skip
    assert list(letters(app, batch).values())[4:] == ["Oak", "Solid oak"]


def test_pieces_are_drawn_from_store_for_their_occasion(app: App) -> None:
    batch = aged(app)
    app.glue(batch)
    app.clock.pass_(days=1)
    app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    body = {"treatment": "B", "count": 3, "age": {"value": 90 * DAY, "unit": "d"}, "reason": "a look after a quarter"}
    app.post(f"/batches/{batch}/draw", body)
    assert letters(app, batch)["F"] == "Damp-proof PVA · age 90 d"
    assert counts(app, batch) == {"A": 4, "B": 1, "C": 4, "D": 4, "E": 2, "F": 3}
    rows = app.get(f"/batches/{batch}/break")["rows"]
    due = {r["treatment"]: r["due_at"][:10] for r in rows if r["due_at"]}
    # Glued on 23 November 2026.
    assert (due["B"], due["F"]) == ("2026-12-23", "2027-02-21")
    assert fields(app.post(f"/batches/{batch}/draw", body, 422)) == {"count"}
    assert fields(app.post(f"/batches/{batch}/draw", {**body, "treatment": "E"}, 422)) == {"treatment"}
    app.post(f"/batches/{batch}/undo", {"stage": "plan"})
    assert counts(app, batch)["B"] == 4


@pytest.mark.parametrize("count", [0, 600])
def test_a_level_of_no_pieces_is_refused(app: App, count: int) -> None:
    body = {"factor": "glue", "level": {"value": "polyurethane", "unit": ""}, "count": count, "reason": "more of it"}
    assert fields(app.post(f"/batches/{aged(app)}/level", body, 422)) == {"count"}


def test_a_grown_plan_travels(app: App, tmp_path: Any) -> None:
    batch = aged(app)
    app.post(f"/batches/{batch}/level", {"factor": "glue", "level": {"value": "polyurethane", "unit": ""}, "count": 2,
                                         "reason": "a third glue came"})  # fmt: skip
    with open_app(tmp_path) as other:
        home = bring(other, export(app, batch))["batch_id"]
        assert letters(other, home) == letters(app, batch)
        assert counts(other, home) == counts(app, batch)
