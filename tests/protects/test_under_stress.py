"""A slow disk, a busy file and many tabs hold up neither the reading of the rig nor anybody's screen."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest

from adhaero.store import curves
from tests.api.test_pulls import RIG, heard_s
from tests.protects.test_rig_facts import force_of, next_piece, seat
from tests.rig.harness import RigUnderTest, running_rig, wait_for
from tests.running import App, open_app


@pytest.fixture
def rig() -> Iterator[RigUnderTest]:
    with running_rig() as started:
        yield started


def begun(app: App, rig: RigUnderTest) -> tuple[int, str, int]:
    app.put("/rig", {**RIG, "port": rig.url})
    batch = app.locked("pva-damp", "casein")
    wait_for(lambda: heard_s(app) > 0.7, "the rig")
    code = next_piece(app, batch)
    number = app.post(f"/batches/{batch}/pulls", {"code": code, "confirmed": ["early"]}, 201)["id"]
    seat(rig, 4000)
    return batch, code, int(number)


@contextmanager
def refused_writes(app: App, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Nothing can be written, as on a full disk."""
    real = app.context.db.write

    @contextmanager
    def full(*_: Any, **__: Any) -> Iterator[Any]:
        raise sqlite3.OperationalError("database or disk is full")
        yield

    monkeypatch.setattr(app.context.db, "write", full)
    try:
        yield
    finally:
        monkeypatch.setattr(app.context.db, "write", real)


def test_a_full_disk_over_the_break_loses_no_sample(
    rig: RigUnderTest, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with open_app(tmp_path) as app:
        batch, code, number = begun(app, rig)
        with refused_writes(app, monkeypatch):
            rig.hand(do="pump", seconds=0.6)
            wait_for(lambda: app.get("/rig/live")["pull"]["broke"], "the break is seen all the same")
            wait_for(lambda: "cannot be saved" in app.get("/rig/live")["message"], "it is said")
        wait_for(lambda: app.get("/rig/live")["pull"]["state"] == "ended", "what was kept is written")
        app.observe(batch, code, pull_id=number, low="", failure_mode="in-glue")
        assert force_of(app, batch, code) == pytest.approx(4000, abs=40)
        with app.context.db.read() as conn:
            t = curves.curve(conn, number)[:, 0]
        assert (t[1:] - t[:-1]).max() < 0.2, "the whole pull, without a hole"
        assert app.get("/rig/live")["status"] == "live", "the reader goes on"


def test_a_busy_file_holds_up_no_screen_and_no_reader(rig: RigUnderTest, tmp_path: Path) -> None:
    with open_app(tmp_path) as app:
        begun(app, rig)
        held, let_go = threading.Event(), threading.Event()

        def hold() -> None:
            with sqlite3.connect(tmp_path / "adhaero.db", isolation_level=None) as conn:
                conn.execute("BEGIN IMMEDIATE")
                held.set()
                let_go.wait(30)
                conn.execute("ROLLBACK")

        holder = threading.Thread(target=hold)
        holder.start()
        assert held.wait(5)
        rig.hand(do="pump", seconds=0.6)
        wait_for(lambda: app.get("/rig/live")["pull"]["broke"], "the break, while the file is busy")
        assert not let_go.is_set()
        let_go.set()
        holder.join()
        wait_for(lambda: app.get("/rig/live")["pull"]["state"] == "ended", "the end is written")


def test_the_live_signal_holds_no_connection_open(app: App) -> None:
    """Six tabs with an open stream were all that a browser has."""
    response = app.client.get("/api/rig/live")
    assert response.headers["content-type"].startswith("application/json")
    assert int(response.headers["content-length"]) == len(response.content)
    assert app.client.get("/api/rig/stream").status_code == 404
