"""The checklist before the first pull: for a batch, a set-up and a day; what is left open is flagged."""

from __future__ import annotations

import pytest

from tests.api.test_exchange import export, rows_of
from tests.api.test_instruments import SCALE, read
from tests.running import App

RIG = {"name": "Press", "fixture": "Shear 1", "capacity": 20000, "step": 1}


@pytest.fixture
def batch(app: App) -> int:
    app.put("/rig", RIG)
    return app.locked("pva-damp", "casein")


def points(app: App, batch: int) -> dict[str, bool]:
    return {p["key"]: p["ticked"] for p in app.get(f"/batches/{batch}/break")["checklist"]}


def flagged(app: App, batch: int, code: str) -> str:
    return next((f for f in read(app, batch, code)["flags"] if "not looked at" in f), "")


def test_an_open_hold_down_is_on_the_reading_in_compare_and_in_the_file(app: App, batch: int) -> None:
    a, b = app.codes(batch, "joint")[:2]
    own = points(app, batch)
    assert list(own) == ["zero", "check weight", "bearing", "hold-down", "no turning"]
    app.post(f"/batches/{batch}/checklist", {"keys": [k for k in own if k != "hold-down"]}, 201)
    app.observe(batch, a, low="3000 N", failure_mode="in-glue")
    assert flagged(app, batch, a) == "not looked at before the pull: hold-down"
    app.post(f"/batches/{batch}/checklist", {"keys": ["hold-down"]}, 201)
    app.observe(batch, b, low="3000 N", failure_mode="in-glue")
    assert flagged(app, batch, b) == ""
    assert {f["kind"]: f["codes"] for f in app.compare(batch)["flags"]}["not checked"] == [a]
    assert [r["code"] for r in rows_of(export(app, batch)) if "not looked at" in r["flags"]] == [a]


def test_another_day_and_another_set_up_are_looked_at_anew(app: App, batch: int) -> None:
    app.post(f"/batches/{batch}/checklist", {"keys": list(points(app, batch))}, 201)
    assert all(points(app, batch).values())
    first = app.get("/shop")["rig"]["set_up"]["id"]
    app.put("/rig", SCALE)
    assert not any(points(app, batch).values())
    app.post(f"/rig/again/{first}", {})
    assert all(points(app, batch).values()), "going back is going back"
    app.post(f"/batches/{batch}/undo", {"stage": "break"})
    assert not any(points(app, batch).values())
    app.post(f"/batches/{batch}/checklist", {"keys": ["zero"]}, 201)
    app.clock.pass_(days=1)
    assert not any(points(app, batch).values())


def test_a_check_weight_is_its_own_tick_and_none_while_it_is_off(app: App, batch: int) -> None:
    app.post("/rig/check", {"known": "1000 N", "shown": "1001 N"}, 201)
    assert points(app, batch)["check weight"] is True
    app.post("/rig/check", {"known": "1000 N", "shown": "950 N"}, 201)
    app.post(f"/batches/{batch}/checklist", {"keys": list(points(app, batch))}, 201)
    now = points(app, batch)
    assert [k for k, ticked in now.items() if not ticked] == ["check weight"]
    app.post("/rig/check", {"known": "1000 N", "shown": "1000 N"}, 201)
    assert all(points(app, batch).values())


def test_points_follow_the_method(app: App) -> None:
    app.put("/rig", RIG)
    pried = app.locked("pva-damp", "casein", method="pry")
    assert points(app, pried) == {}
    bent = app.locked("pva-damp", "casein", method="bend-three-point")
    assert {"span", "over the line"} < set(points(app, bent))
    assert app.post(f"/batches/{bent}/checklist", {"keys": ["hold-down"]}, 422)["errors"][0]["field"] == "keys"
