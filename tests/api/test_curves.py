"""Curves from files through the application: looked at, taken, judged; nothing half-written."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_instruments import SCALE, read
from tests.core.test_curve_file import by_hand
from tests.running import App

RIG = {"name": "Press", "fixture": "Shear 1", "capacity": 20000, "step": 1}


@pytest.fixture
def batch(app: App) -> int:
    app.put("/rig", RIG)
    return app.locked("pva-damp", "casein")


def send(app: App, path: str, text: str, status: int = 201, **query: Any) -> Any:
    head = {"Content-Type": "text/csv"}
    answer = app.client.post(f"/api/curves{path}", content=text.encode(), params=query, headers=head)
    assert answer.status_code == status, answer.text
    return answer.json()


def test_a_file_is_looked_at_taken_and_judged(app: App, batch: int) -> None:
    code = app.codes(batch, "joint")[0]
    look = send(app, "/look", by_hand(0.1), 200)
    assert look["heads"] == ["time [s]", "load [N]"]
    assert (look["peak_n"], look["first_drop_n"], look["bound"]) == (pytest.approx(3480), pytest.approx(2900), "")
    assert app.get(f"/batches/{batch}/break")["loose"] == [], "a look writes nothing"
    send(app, "", by_hand(0.1), code=code, time=1, load=2)
    loose = app.get(f"/batches/{batch}/break")["loose"]
    assert [x["code"] for x in loose] == [code]
    proposal, number = loose[0]["pull"]["proposal"], loose[0]["pull"]["id"]
    assert (proposal["kind"], proposal["bound_by"]) == ("exact", None)
    assert len(app.get(f"/pulls/{number}")["points"]) > 100
    app.observe(batch, code, pull_id=number, low="", source="rig", failure_mode="in-glue")
    assert read(app, batch, code)["low_n"] == pytest.approx(3480)


def test_a_slow_file_gives_a_bound(app: App, batch: int) -> None:
    code = app.codes(batch, "joint")[0]
    send(app, "", by_hand(2.0), code=code, time=1, load=2)
    pull = app.get(f"/batches/{batch}/break")["loose"][0]["pull"]
    assert (pull["proposal"]["kind"], pull["proposal"]["bound_by"]) == ("at_least", "slow")
    refused = app.observe(batch, code, 422, pull_id=pull["id"], low="", source="rig", failure_mode="in-glue")
    assert "may lie between two of them" in refused["detail"]


def test_lever_and_tare_are_in_the_load_of_a_file(app: App, batch: int) -> None:
    app.put("/rig", SCALE)
    code = app.codes(batch, "joint")[0]
    text = "\n".join(f"{n / 10},{v}" for n, v in enumerate([0, 5, 10, 15, 20, 24, 25, 0.1, 0, 0, 0]))
    send(app, "", text, code=code, time=1, load=2, load_unit="kgf")
    number = app.get(f"/batches/{batch}/break")["loose"][0]["pull"]["id"]
    app.observe(batch, code, pull_id=number, low="", kind="at_least", source="rig")
    assert read(app, batch, code)["low_n"] == pytest.approx(4 * 25 * 9.80665 + 12, abs=0.01)


def test_a_file_that_was_not_zeroed_is_pointed_out(app: App, batch: int) -> None:
    text = "\n".join(f"{n / 10},{v + 60}" for n, v in enumerate([0, 500, 1000, 1500, 1600, 0, 0, 0, 0]))
    look = send(app, "/look", text, 200)
    assert (look["start_n"], look["off"]) == (60, True)
    assert send(app, "/look", by_hand(0.1), 200)["off"] is False


def test_what_is_wrong_is_said_before_and_nothing_is_written(app: App, batch: int) -> None:
    code = app.codes(batch, "joint")[0]
    bad = by_hand(0.1).replace("3480.0", "x3480")
    assert "'x3480' is no number" in send(app, "/look", bad, 200)["trouble"]
    wrong = send(app, "", bad, 422, code=code, time=1, load=2)
    assert wrong["errors"][0]["field"].startswith("row ")
    send(app, "", by_hand(0.1), 422, code="ZZZZ", time=1, load=2)
    send(app, "", by_hand(0.1), 422, code=code, time=1, load=2, load_unit="MPa")
    assert app.get(f"/batches/{batch}/break")["loose"] == []
