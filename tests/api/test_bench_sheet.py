"""The bench sheet typed back: times, forces and notes in the order of the paper; past midnight; all or nothing."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_parents import panels
from tests.api.test_schedule import at_the_bench, make
from tests.running import App, fields


def sheet(app: App, batch: int, rows: list[dict[str, Any]], status: int = 200, **more: Any) -> Any:
    body = {"day": "2026-11-22", "bottle": "Blue", "air_c": 18.5, "rows": rows, **more}
    return app.post(f"/batches/{batch}/bench-sheet", body, status)


def pieces(app: App, batch: int) -> dict[str, dict[str, Any]]:
    return {p["code"]: p for p in app.get(f"/batches/{batch}/glue")["pieces"]}


def test_the_sheet_is_in_the_order_of_the_schedule_with_its_targets(app: App) -> None:
    at_the_bench(app)
    batch = app.locked("pva-damp", "casein")
    slots = [s for s in make(app, batch)["schedule"]["slots"] if s["kind"] == "glue"]
    rows = app.get(f"/batches/{batch}/bench-sheet")["rows"]
    assert [r["code"] for r in rows] == [c for s in slots for c in s["codes"]]
    assert rows[0]["run"] == slots[0]["run"]
    assert rows[0]["begins_at"] == slots[0]["start"]
    # 0.8 MPa on 20 x 25 mm.
    assert {r["wanted"] for r in rows} == {"400 N"}


def test_what_is_typed_back_is_as_if_it_had_been_tapped(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=2)
    codes = [r["code"] for r in app.get(f"/batches/{batch}/bench-sheet")["rows"]]
    first, second, third = codes[:3]
    sheet(app, batch, [
        {"code": first, "spread": "22:50", "closed": "22:53", "off": "2:55", "force": "390"},
        {"code": second, "spread": "23:58", "closed": "0:02", "note": "starved at one end"},
        {"code": third},
    ])  # fmt: skip
    own = pieces(app, batch)
    assert (own[first]["open_s"], own[second]["open_s"], own[third]["glueup"]) == (180.0, 240.0, None)
    assert own[first]["pressure_mpa"] == pytest.approx(0.78)
    assert own[first]["unclamped_at"] == "2026-11-23T02:55:00.000Z"
    assert own[second]["pressure_mpa"] is None
    found = next(r for r in app.get("/search?text=starved")["hits"] if r["code"] == second)
    assert "starved at one end" in found["text"]
    assert [r["code"] for r in app.get(f"/batches/{batch}/bench-sheet")["rows"]] == codes[2:]
    glueups = app.get(f"/batches/{batch}/glue")["glueups"]
    assert {g["glueup"]["bottle"] for g in glueups} == {"Blue"}
    # Nobody told when a session ended: it ended with its last closing.
    assert {g["ended_at"] for g in glueups} == {"2026-11-22T22:53:00.000Z", "2026-11-23T00:02:00.000Z"}
    # Two glues are two glue-ups, and one step back takes the whole sheet back.
    app.post(f"/batches/{batch}/undo", {"stage": "glue"})
    assert len(app.get(f"/batches/{batch}/bench-sheet")["rows"]) == 4


def test_a_panel_is_one_row(app: App) -> None:
    batch = panels(app)
    rows = app.get(f"/batches/{batch}/bench-sheet")["rows"]
    assert len(rows) == 4
    sheet(app, batch, [{"code": rows[0]["code"], "closed": "20:15"}])
    own = [p for p in pieces(app, batch).values() if p["glueup"]]
    assert [(p["code"], len(p["pieces"])) for p in own] == [(rows[0]["code"], 3)]


@pytest.mark.parametrize(
    ("row", "field"),
    [
        ({"spread": "22:10"}, "rows.0.closed"),
        ({"closed": "25:10"}, "rows.0.closed"),
        ({"closed": "half past"}, "rows.0.closed"),
        ({"closed": "21:00", "force": "strong"}, "rows.0.force"),
        ({}, "rows"),
    ],
)
def test_what_cannot_be_read_is_named_and_nothing_written(app: App, row: dict[str, str], field: str) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.get(f"/batches/{batch}/bench-sheet")["rows"][0]["code"]
    refused = sheet(app, batch, [{"code": code, **row}], 422)
    assert fields(refused) == {field}
    assert app.get(f"/batches/{batch}/glue")["glueups"] == []


def test_a_sheet_of_tomorrow_is_refused(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.get(f"/batches/{batch}/bench-sheet")["rows"][0]["code"]
    refused = sheet(app, batch, [{"code": code, "closed": "21:00"}], 422, day="2026-11-24")
    assert "future" in refused["detail"]
