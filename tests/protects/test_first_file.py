"""A data file of the first program (0.1.0, format 1): brought up to date with all it holds, and its copy put back."""

from __future__ import annotations

import gzip
import sqlite3
from pathlib import Path
from statistics import fmean
from typing import Any

import pytest

from adhaero.store.database import Database
from tests.running import App, open_app

FIRST = Path(__file__).parent / "files" / "data-0.1.0.db.gz"
"""Its demo workshop of 26 November, as that program left it."""
READINGS = """SELECT b.name AS batch, s.code, o.kind, o.low_n, o.high_n, o.failure_mode, o.wood_failure_pct
    FROM current_observation o JOIN specimen s ON s.id = o.specimen_id JOIN batch b ON b.id = s.batch_id"""
SIZES = """SELECT s.code, m.quantity, m.value FROM current_measurement m JOIN specimen s ON s.id = m.specimen_id"""


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "adhaero.db").write_bytes(gzip.decompress(FIRST.read_bytes()))
    return tmp_path


def asked(path: Path, query: str) -> list[dict[str, Any]]:
    conn = sqlite3.connect(path)
    conn.row_factory = sqlite3.Row
    try:
        return [dict(r) for r in conn.execute(query)]
    finally:
        conn.close()


def rows(app: App) -> dict[str, dict[str, Any]]:
    """The pieces of all batches that are to be broken, as they are shown."""
    batches = [p["batch"]["id"] for p in app.get("/today")["batches"]]
    views = [app.client.get(f"/api/batches/{b}/break") for b in batches]
    views = [v.json() for v in views if v.status_code == 200]
    return {r["code"]: r for view in views for r in view["rows"]}


def test_every_reading_and_size_of_the_first_program_is_there(folder: Path) -> None:
    readings, sizes = asked(folder / "adhaero.db", READINGS), asked(folder / "adhaero.db", SIZES)
    assert len(readings) > 50
    with open_app(folder) as app:
        shown = rows(app)
        for r in readings:
            now = shown[r["code"]]
            assert (now["kind"], now["low_n"], now["failure_mode"]) == (r["kind"], r["low_n"], r["failure_mode"]), r
        cut = {c["code"]: c["sizes"] for p in app.get("/today")["batches"]
               for c in app.client.get(f"/api/batches/{p['batch']['id']}/cut").json().get("rows", [])}  # fmt: skip
        assert all(cut[s["code"]][s["quantity"]]["value"] == s["value"] for s in sizes)
        assert app.context.db.check() == []


def test_its_comparison_is_worked_out_from_the_same_pieces(folder: Path) -> None:
    readings, sizes = asked(folder / "adhaero.db", READINGS), asked(folder / "adhaero.db", SIZES)
    area: dict[str, float] = {}
    for s in sizes:
        if s["quantity"] in ("width", "overlap"):
            area[s["code"]] = area.get(s["code"], 1.0) * s["value"]
    with open_app(folder) as app:
        batch = next(p["batch"] for p in app.get("/today")["batches"] if p["batch"]["name"] == "Runner laminations")
        home = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch['id']}/break")["rows"]}
        seen = app.compare(batch["id"])
    loads: dict[str, list[float]] = {}
    for r in readings:
        if r["batch"] == batch["name"] and r["kind"] == "exact":
            loads.setdefault(home[r["code"]], []).append(r["low_n"] / area[r["code"]])
    means = {t["letter"]: (t["n"], t["mean"]) for t in seen["treatments"]}
    assert set(means) == set(loads)
    for letter, own in loads.items():
        assert means[letter] == (len(own), pytest.approx(fmean(own))), letter


def test_the_copy_from_before_the_update_is_put_back_and_brought_up_to_date_again(folder: Path) -> None:
    before = asked(folder / "adhaero.db", READINGS)
    with open_app(folder) as app:
        (copy,) = [c for c in app.get("/copies")["copies"] if "updated" in c["why"]]
        assert asked(folder / "copies" / copy["name"], "PRAGMA user_version") == [{"user_version": 1}]
        assert asked(folder / "copies" / copy["name"], READINGS) == before
        standing = rows(app)
        app.batch("Begun afterwards")
        app.post("/copies/back", {"name": copy["name"]})
        assert rows(app) == standing
        assert "Begun afterwards" not in [p["batch"]["name"] for p in app.get("/today")["batches"]]
        kept = [c for c in app.get("/copies")["copies"] if "put back" in c["why"]]
        assert len(kept) == 1, "what was there is kept as well"
    assert Database(folder / "adhaero.db").check() == []
