"""Notes on paper that come a week late: with their time they are taken of pieces that are broken already."""

from __future__ import annotations

from datetime import timedelta

import pytest

from tests.running import App, fields

NOTES = [
    ("amount", {"word": "starved", "tool": "brush"}),
    ("force", {"force_n": 350}),
    ("squeeze-out", {"how": "scraped"}),
    ("shift", {"along_mm": 1.5}),
]


def broken(app: App) -> tuple[int, str]:
    batch = app.locked("pva-damp", "casein", solid=0, replicates=3)
    app.glue(batch)
    app.clock.pass_(days=3)
    code = app.codes(batch, "joint")[0]
    app.observe(batch, code, low="3000 N", failure_mode="in-glue", confirmed=["early", "age", "clamps on"])
    app.clock.pass_(days=7)
    return batch, code


@pytest.mark.parametrize(("kind", "value"), NOTES)
def test_a_note_made_before_the_break_is_taken_with_its_time(app: App, kind: str, value: dict[str, object]) -> None:
    batch, code = broken(app)
    made = (app.clock.at - timedelta(days=9)).isoformat()
    body = {"kind": kind, "codes": [code], "value": value}
    assert fields(app.post(f"/batches/{batch}/joint-records", body, 422)) == {"at"}
    app.post(f"/batches/{batch}/joint-records", {**body, "at": made})
    story = app.get(f"/batches/{batch}/story/{code}")
    said = str(next(iter(value.values())))
    notes = [f for f in story["facts"] if f["at"] and f["at"][:10] == made[:10] and said in f["text"]]
    assert notes, story["facts"]


def test_it_does_to_the_piece_what_it_would_have_done_in_time(app: App) -> None:
    batch, code = broken(app)
    made = (app.clock.at - timedelta(days=9)).isoformat()
    app.post(f"/batches/{batch}/joint-records",
             {"kind": "amount", "codes": [code], "value": {"word": "starved"}, "at": made})  # fmt: skip
    assert any("glue" in x for x in app.get(f"/batches/{batch}/story/{code}")["flags"])
    view = app.compare(batch)
    assert code in {c for f in view["flags"] if f["kind"] == "spread thin" for c in f["codes"]}


def test_a_time_before_the_glue_is_refused(app: App) -> None:
    batch, code = broken(app)
    early = (app.clock.at - timedelta(days=30)).isoformat()
    body = {"kind": "amount", "codes": [code], "value": {"word": "thin"}, "at": early}
    assert fields(app.post(f"/batches/{batch}/joint-records", body, 422)) == {"at"}
