"""What the rig said stays what it said: one connection, one time, the range of its day."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from adhaero.core.breaking.proposal import propose
from adhaero.core.breaking.signal import read_signal
from adhaero.rig.strength_model import Fate
from adhaero.store import curves
from tests.api.test_pulls import RIG, heard_s, next_piece
from tests.rig.harness import RigUnderTest, running_rig, wait_for
from tests.running import App, open_app


@pytest.fixture
def rig() -> Iterator[RigUnderTest]:
    with running_rig() as started:
        yield started


def seat(rig: RigUnderTest, load_n: float) -> None:
    """A piece at the rig whose load is known to the test alone."""
    rig.simulator.fate = Fate(load_n=load_n, crack_n=None, failure_mode="in-glue", wood_failure_pct=0)


def pulled(app: App, batch: int, rig: RigUnderTest, load_n: float) -> tuple[str, int]:
    """A piece that breaks at a load of our choice, pulled through; its code and its pull."""
    wait_for(lambda: heard_s(app) > 0.7, "the rig")
    code = next_piece(app, batch)
    number = app.post(f"/batches/{batch}/pulls", {"code": code, "confirmed": ["early"]}, 201)["id"]
    seat(rig, load_n)
    rig.hand(do="pump", seconds=0.6)
    wait_for(lambda: app.get("/rig/live")["pull"]["state"] == "ended", "the break")
    return code, int(number)


def force_of(app: App, batch: int, code: str) -> float:
    return float(next(r["low_n"] for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code))


def test_a_pull_after_the_rig_was_saved_again_holds_only_its_own_samples(rig: RigUnderTest, tmp_path: Path) -> None:
    with open_app(tmp_path) as app:
        app.put("/rig", {**RIG, "port": rig.url})
        batch = app.locked("pva-damp", "casein")
        strong, number = pulled(app, batch, rig, 7700)
        app.observe(batch, strong, pull_id=number, low="", failure_mode="in-glue")
        app.put("/rig", {**RIG, "port": rig.url, "reason": "new zero"})
        weak, number = pulled(app, batch, rig, 3000)
        app.observe(batch, weak, pull_id=number, low="", failure_mode="in-glue")
        assert force_of(app, batch, weak) == pytest.approx(3000, abs=40)
        with app.context.db.read() as conn:
            t = curves.curve(conn, number)[:, 0]
        assert t.min() > -1.5
        assert (np.diff(t) >= 0).all()


def test_silence_over_the_break_makes_a_bound_and_marks_the_curve(rig: RigUnderTest, tmp_path: Path) -> None:
    with open_app(tmp_path) as app:
        app.put("/rig", {**RIG, "port": rig.url})
        batch = app.locked("pva-damp", "casein")
        wait_for(lambda: heard_s(app) > 0.7, "the rig")
        code = next_piece(app, batch)
        number = app.post(f"/batches/{batch}/pulls", {"code": code, "confirmed": ["early"]}, 201)["id"]
        seat(rig, 5000)
        rig.hand(do="fault", name="silence", seconds=2.5, from_n=1500)
        rig.hand(do="pump", seconds=2.0)
        wait_for(lambda: app.get("/rig/live")["pull"]["state"] in ("ended", "interrupted"), "the end")
        found = app.get(f"/pulls/{number}")["proposal"]
        assert (found["kind"], found["bound_by"]) == ("at_least", "gap")
        assert found["reading"]["gaps"]
        assert found["reading"]["peak_n"] < 5000


def test_after_a_crash_a_saturated_pull_is_still_a_bound(tmp_path: Path) -> None:
    """The recovery knows the range of the rig of that day, also when the rig of today has another."""
    with open_app(tmp_path) as app:
        app.put("/rig", {**RIG, "capacity": 4000.0, "port": ""})
        batch = app.locked("pva-damp", "casein")
        code = next_piece(app, batch)
    t = np.arange(0, 5, 0.0125)
    force = np.where(t < 1, 0.0, np.minimum(2000 * (t - 1), 4000.0))
    force[t > 4] = 2.0
    with sqlite3.connect(tmp_path / "adhaero.db") as conn:
        specimen, setup = (
            conn.execute(sql).fetchone()[0]
            for sql in (f"SELECT id FROM specimen WHERE code = '{code}'", "SELECT max(id) FROM rig_setup")
        )
        action = conn.execute("SELECT max(id) FROM action").fetchone()[0]
        conn.execute(
            "INSERT INTO pull (specimen_id, setup_id, number, state, started_at, action_id) "
            "VALUES (?, ?, 1, 'open', '2026-11-23T08:30:00.000Z', ?)",
            (specimen, setup, action),
        )
        pull_id = conn.execute("SELECT max(id) FROM pull").fetchone()[0]
        curves.append(conn, pull_id, 0, np.column_stack([t, force, np.full(len(t), np.nan)]))
    with open_app(tmp_path) as app:
        app.put("/rig", {**RIG, "capacity": 20_000.0, "port": ""})
        loose = app.get(f"/batches/{batch}/break")["loose"][0]["pull"]
        assert loose["state"] == "interrupted"
        assert (loose["proposal"]["kind"], loose["proposal"]["bound_by"]) == ("at_least", "range")


def test_readings_keep_the_range_they_were_made_under(app: App) -> None:
    app.put("/rig", {**RIG, "capacity": 9000.0, "port": ""})
    batch = app.locked("pva-damp", "casein")
    code = next_piece(app, batch)
    app.observe(batch, code, low="8900 N", failure_mode="in-glue")
    before = next(r["uncertainty"] for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    app.put("/rig", {**RIG, "capacity": 50_000.0, "step": 50.0, "port": "", "reason": "another cell"})
    rows = app.get(f"/batches/{batch}/break")["rows"]
    assert next(r["uncertainty"] for r in rows if r["code"] == code) == before
    assert [round(x * 500) for x in app.compare(batch)["limits"]] in ([9000], [7200], [9000, 9000])


def test_going_back_to_an_earlier_rig_brings_its_own_range(app: App) -> None:
    """A, B, A: the third has A's capacity and A's set-up, and each saving can be undone."""
    a = {**RIG, "name": "A", "capacity": 5000.0, "fixture": "F", "port": ""}
    b = {**RIG, "name": "B", "capacity": 900.0, "fixture": "F", "port": ""}
    first = app.put("/rig", a)["rig"]["set_up"]
    app.put("/rig", b)
    third = app.put("/rig", a)["rig"]["set_up"]
    assert (third["id"], third["capacity_n"]) == (first["id"], 5000.0)
    assert app.get("/shop/history")[0]["kind"] == app.get("/shop/history")[1]["kind"]
    app.post("/shop/undo")
    assert app.get("/shop")["rig"]["set_up"]["rig"] == "B"
    app.post("/shop/redo")
    assert app.get("/shop")["rig"]["set_up"]["rig"] == "A"


def test_a_gap_before_the_load_came_is_no_gap_at_the_break() -> None:
    """What was missed before the pull rose says nothing about its peak."""
    t = np.concatenate([np.arange(0, 1, 0.0125), np.arange(2, 4, 0.0125)])
    force = np.where(t < 2.2, 0.0, np.minimum((t - 2.2) * 4000, 5000))
    force[t > 3.6] = 1.0
    reading = read_signal(t, force)
    found = propose(reading, 20_000)
    assert found is not None
    assert found.kind == "exact"
    assert reading is not None
    assert reading.peak_n == pytest.approx(5000, abs=60)
