"""Copies from the shop page and from the command line, while the program runs."""

from __future__ import annotations

import sqlite3
import threading
from pathlib import Path

import pytest

from adhaero import cli
from adhaero.workflow.copies import keep_daily
from tests.running import App, fields


def test_taken_listed_saved_and_put_back(app: App) -> None:
    app.batch("before")
    seen = app.post("/copies")
    (copy,) = seen["copies"]
    assert copy["why"] == "taken by hand"
    assert seen["taken"] == copy["size"] > 0
    batch = app.locked("pva-damp", "casein")
    assert len(app.compare(batch)["treatments"]) == 3
    saved = app.client.get(f"/api/copies/{copy['name']}")
    assert saved.content.startswith(b"SQLite format 3")
    app.clock.pass_(minutes=1)
    after = app.post("/copies/back", {"name": copy["name"]})
    assert [c["why"] for c in after["copies"]] == ["before another was put back", "taken by hand"]
    assert [b["batch"]["name"] for b in app.get("/today")["batches"]] == ["before"]
    assert app.get(f"/batches/{batch}/compare", 404), "nothing that was worked out before is shown again"
    app.clock.pass_(minutes=1)
    app.post("/copies/back", {"name": after["copies"][0]["name"]})
    assert len(app.compare(batch)["treatments"]) == 3


def test_a_copy_that_is_not_there_is_refused(app: App) -> None:
    assert fields(app.post("/copies/back", {"name": "20200101T000000Z-day.db"}, 422)) == {"copy"}
    assert app.client.get("/api/copies/..%2Fadhaero.db").status_code in (404, 422)


def test_the_copy_of_the_day_is_made_by_itself_and_once(app: App) -> None:
    for _ in range(2):
        ended = threading.Event()
        thread = keep_daily(app.client.app.state.context, ended)  # type: ignore[attr-defined]
        ended.set()
        thread.join(20)
        assert not thread.is_alive()
    assert [c["why"] for c in app.get("/copies")["copies"]] == ["of the day"]


def test_restore_lists_and_puts_back(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from tests.running import open_app

    with open_app(tmp_path) as app:
        app.batch("first")
        name = app.post("/copies")["copies"][0]["name"]
        app.batch("second")
        data = app.client.app.state.context.db.path.parent  # type: ignore[attr-defined]
    cli.main(["restore", "--data", str(data)])
    assert capsys.readouterr().out.strip() == name
    cli.main(["restore", "--data", str(data), name])
    told = capsys.readouterr().out
    assert f"Put back {name}." in told
    assert "What was there is in" in told
    conn = sqlite3.connect(data / "adhaero.db")
    assert [r[0] for r in conn.execute("SELECT name FROM batch")] == ["first"]
    conn.close()
    with pytest.raises(SystemExit, match="There is no copy nothing"):
        cli.main(["restore", "--data", str(data), "nothing"])


def test_restore_of_a_damaged_file_says_where_it_is_kept(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from tests.running import open_app

    with open_app(tmp_path) as app:
        app.batch("first")
        name = app.post("/copies")["copies"][0]["name"]
        data = app.client.app.state.context.db.path.parent  # type: ignore[attr-defined]
    (data / "adhaero.db").write_bytes(b"no data at all, but a letter" * 300)
    cli.main(["restore", "--data", str(data), name])
    assert "can't be read, and is kept as adhaero.db.damaged-" in capsys.readouterr().out
    cli.main(["check", "--data", str(data)])
    assert "in order" in capsys.readouterr().out
