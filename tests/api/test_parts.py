"""Spares, dummies and trials: what counts, what stands in, and what stays outside of all statistics."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from tests.running import App, fields, open_app


def rows(app: App, batch: int, part: str) -> list[Any]:
    return [r for r in app.get(f"/batches/{batch}/cut")["rows"] if r["part"] == part]


def test_spares_and_dummies_are_cut_but_not_broken(app: App) -> None:
    batch = app.planned("pva-damp", "casein", replicates=3, solid=2, spares=1, dummies=2)
    assert app.get(f"/batches/{batch}/plan")["forecast"]["pieces"] == 3 * 2 + 2 + 2 + 2
    app.lock(batch)
    assert len(rows(app, batch, "counts")) == 8
    assert [r["treatment"] for r in rows(app, batch, "spare")] == ["A", "B"]
    assert len(rows(app, batch, "dummy")) == 2
    assert len(app.get(f"/batches/{batch}/glue")["pieces"]) == 10
    queue = app.get(f"/batches/{batch}/break")["rows"]
    assert len(queue) == 8
    assert [t["made"] for t in app.compare(batch)["treatments"]] == [3, 3, 2]
    progress = app.get("/today")["batches"][0]
    assert (progress["pieces"], progress["joints"]) == (8, 8), "a dummy waits for no glue"


def test_a_spare_takes_the_place_of_a_rejected_piece(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=3, solid=2, spares=1)
    twisted = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["treatment"] == "B")
    problem = app.post(f"/batches/{batch}/spare", {"code": twisted["code"]}, 422)
    assert "not put aside" in problem["detail"]
    app.observe(batch, twisted["code"], kind="void", reason="twisted")
    taken = app.post(f"/batches/{batch}/spare", {"code": twisted["code"]})["code"]
    queue = app.get(f"/batches/{batch}/break")["rows"]
    spare = next(r for r in queue if r["code"] == taken)
    assert spare["break_order"] == twisted["break_order"], "it is broken when the other would have been"
    result = app.compare(batch)
    b = result["treatments"][1]
    assert (b["made"] - b["void"], b["void"]) == (3, 1)
    assert result["swaps"] == [[twisted["code"], taken, "twisted"]]
    again = app.post(f"/batches/{batch}/spare", {"code": twisted["code"]}, 422)
    assert "needs no other piece" in again["detail"]
    other = next(r for r in queue if r["treatment"] == "B" and r["kind"] is None and r["code"] != taken)
    app.observe(batch, other["code"], kind="void", reason="split")
    none_left = app.post(f"/batches/{batch}/spare", {"code": other["code"]}, 422)
    assert "no spare of B is left" in none_left["detail"]
    for _ in range(2):
        app.post(f"/batches/{batch}/undo", {"stage": "break"})
    app.post(f"/batches/{batch}/undo", {"stage": "cut"})
    assert [r["code"] for r in rows(app, batch, "spare")].count(taken) == 1, "undo makes it a spare again"


def test_trials_stay_on_record_outside_of_the_statistics(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=3, solid=3)
    app.break_all(batch, {"A": [5000, 5100, 9000], "B": [3000, 3100, 3200], "C": [7000, 7000, 7100]})
    odd = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["low_n"] == 9000)
    nothing_said = app.post(f"/batches/{batch}/trial", {"code": odd["code"], "trial": True, "reason": " "}, 422)
    assert fields(nothing_said) == {"reason"}
    app.post(f"/batches/{batch}/trial", {"code": odd["code"], "trial": True, "reason": "learning the fixture"})
    view = app.compare(batch, figure="load")
    assert (view["treatments"][0]["n"], view["treatments"][0]["mean"]) == (2, 5050)
    assert view["trials"] == [odd["code"]]
    shown = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == odd["code"])
    assert shown["part"] == "trial"
    app.post(f"/batches/{batch}/trial", {"code": odd["code"], "trial": False, "reason": "the fixture was right"})
    assert app.compare(batch, figure="load")["treatments"][0]["n"] == 3
    said = [a["reason"] for a in app.get(f"/batches/{batch}/history") if a["kind"] == "trial"]
    assert said == ["the fixture was right", "learning the fixture"]


def test_parts_go_out_to_the_file_and_come_back(app: App, tmp_path: Path) -> None:
    batch = app.locked("pva-damp", "casein", replicates=3, solid=3, spares=1, dummies=1)
    app.break_all(batch, {"A": [5000, 5100, 9000], "B": [3000, 3100, 3200], "C": [7000, 7000, 7100]})
    code = app.get(f"/batches/{batch}/break")["rows"][0]["code"]
    app.post(f"/batches/{batch}/trial", {"code": code, "trial": True, "reason": "first try"})
    text = app.client.get(f"/api/batches/{batch}/specimens.csv").text
    with open_app(tmp_path / "other") as other:
        answer = other.client.post("/api/batches/import", content=text.encode(), headers={"Content-Type": "text/csv"})
        assert answer.status_code == 200, answer.text
        made = answer.json()["batch_id"]
        for part in ("counts", "spare", "dummy", "trial"):
            assert [r["code"] for r in rows(other, made, part)] == [r["code"] for r in rows(app, batch, part)], part
        assert other.compare(made)["treatments"] == app.compare(batch)["treatments"]
