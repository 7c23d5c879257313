"""The testing sheet: in the order of the plan, typed back afterwards, all or none."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest

from tests.api.test_instruments import GAUGE, read
from tests.running import App


@pytest.fixture
def batch(app: App) -> int:
    return app.locked("pva-damp", "casein")


def rows_of(app: App, batch: int) -> list[dict[str, Any]]:
    return list(app.get(f"/batches/{batch}/testing-sheet")["rows"])


def back(app: App, batch: int, rows: list[dict[str, Any]], status: int = 200, **more: Any) -> Any:
    day = (app.clock().date()).isoformat()
    return app.post(
        f"/batches/{batch}/testing-sheet", {"day": day, "confirmed": ["early"], "rows": rows, **more}, status
    )


def test_it_has_the_order_of_the_rig_and_what_is_expected(app: App, batch: int) -> None:
    queue = [r["code"] for r in app.get(f"/batches/{batch}/break")["rows"]]
    sheet = rows_of(app, batch)
    assert [r["code"] for r in sheet] == queue
    assert all(" to " in r["expected"] and r["expected"].endswith("N") for r in sheet)
    assert {r["waits"] for r in sheet if r["code"] in app.codes(batch, "joint")} == {"not glued yet"}
    app.observe(batch, queue[3], low="3000 N", failure_mode="mixed")
    assert [r["code"] for r in rows_of(app, batch)] == [c for c in queue if c != queue[3]], "what is done is not on it"


def test_a_whole_sheet_with_all_kinds_is_typed_back(app: App, batch: int) -> None:
    codes = [r["code"] for r in rows_of(app, batch)]
    done = back(app, batch, [
        {"code": codes[0], "load": "3200", "mode": "2", "wood": "20 %", "note": "loud"},
        {"code": codes[1], "load": ">3000"},
        {"code": codes[2], "load": "2000 - 2200 N", "mode": "1"},
        {"code": codes[3], "load": "apart"},
        {"code": codes[4]},
        {"code": codes[5], "load": "3.1 kN", "mode": "mixed"},
    ])  # fmt: skip
    assert done["pieces"] == 5
    found = [read(app, batch, c) for c in codes[:6]]
    assert [f["kind"] for f in found] == ["exact", "at_least", "between", "fell_apart", None, "exact"]
    assert (found[0]["low_n"], found[0]["failure_mode"], found[0]["wood_failure_pct"], found[0]["note"]) == (
        3200, "in-glue", 20, "loud",
    )  # fmt: skip
    assert (found[2]["low_n"], found[2]["high_n"]) == (2000, 2200)
    assert app.get(f"/batches/{batch}/history")[0]["summary"] == "Typed the testing sheet back: 5 pieces"
    again = back(app, batch, [{"code": codes[0], "load": "3300"}], confirmed=["early", "has a result"])
    assert again["pieces"] == 1
    said = app.get(f"/batches/{batch}/history")[0]["summary"]
    assert said == f"Typed the testing sheet back: 1 piece; took the place of 3200 N of {codes[0]}"
    app.post(f"/batches/{batch}/undo", {"stage": "break"})
    app.post(f"/batches/{batch}/undo", {"stage": "break"})
    assert app.get(f"/batches/{batch}/break")["done"] == 0, "one sheet is one thing to undo"


def test_times_on_the_clock_go_on(app: App, batch: int) -> None:
    codes = [r["code"] for r in rows_of(app, batch)]
    yesterday = (app.clock() - timedelta(days=1)).date().isoformat()
    rows = [{"code": codes[0], "load": "3000", "at": "23:50"}, {"code": codes[1], "load": "3000", "at": "0:10"}]
    back(app, batch, rows, day=yesterday)
    times = [read(app, batch, c)["at"] for c in codes[:2]]
    assert [t[:16] for t in times] == [f"{yesterday}T23:50", f"{app.clock().date().isoformat()}T00:10"]


def test_what_is_wrong_names_its_row_and_nothing_is_written(app: App, batch: int) -> None:
    codes = [r["code"] for r in rows_of(app, batch)]
    wrong = back(app, batch, [
        {"code": codes[0], "load": "3200"},
        {"code": codes[1], "load": "3 m"},
        {"code": codes[2], "mode": "2"},
        {"code": codes[3], "load": "3000", "mode": "9"},
        {"code": codes[4], "load": "3000", "wood": "half"},
        {"code": codes[5], "load": "9 MN"},
        {"code": "ZZZZ", "load": "3000"},
    ], 422)  # fmt: skip
    assert {e["field"] for e in wrong["errors"]} == {
        "rows.1.load", "rows.2.load", "rows.3.mode", "rows.4.wood", "rows.5.load", "rows.6.code",
    }  # fmt: skip
    assert app.get(f"/batches/{batch}/break")["done"] == 0
    assert "rows" in str(back(app, batch, [{"code": codes[0]}], 422)["errors"])


def test_doubts_are_asked_once_for_all(app: App, batch: int) -> None:
    joints = app.codes(batch, "joint")
    rows = [{"code": c, "load": "3000"} for c in joints[:4]]
    asked = back(app, batch, rows, 422, confirmed=[])
    assert [e["field"] for e in asked["errors"]] == ["early"]
    assert "3 more such pieces" in asked["errors"][0]["message"]
    assert back(app, batch, rows)["pieces"] == 4


def test_what_the_instrument_shows_is_what_is_typed(app: App, batch: int) -> None:
    app.put("/rig", GAUGE)
    code = rows_of(app, batch)[0]["code"]
    back(app, batch, [{"code": code, "load": "6.4 - 6.5 MPa"}])
    found = read(app, batch, code)
    assert [found["low_n"], found["high_n"]] == pytest.approx([5120, 5200])
