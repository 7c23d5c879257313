"""Home: what is due, in order of time, and how far every batch is."""

from __future__ import annotations

from typing import Any

from tests.running import App


def due(app: App) -> list[tuple[str, int]]:
    return [(d["stage"], d["pieces"]) for d in app.get("/today")["due"]]


def progress(app: App, batch: int) -> Any:
    return next(p for p in app.get("/today")["batches"] if p["batch"]["id"] == batch)


def test_a_draft_is_listed_and_nothing_is_due(app: App) -> None:
    batch = app.planned("pva-damp", "casein")
    p = progress(app, batch)
    assert (p["locked"], p["pieces"], p["question"]) == (False, 0, "Which glue?")
    assert due(app) == []


def test_progress_follows_the_work(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    codes = app.codes(batch, "joint")
    app.sizes(batch, [(codes[0], "width", "20"), (codes[0], "overlap", "25"), (codes[1], "width", "20")])
    app.glue(batch, codes[:4])
    app.post(f"/batches/{batch}/unclamp", {"codes": codes[:1], "note": ""})
    app.observe(batch, codes[0], low="5000 N")
    p = progress(app, batch)
    assert {k: p[k] for k in ("joints", "pieces", "measured", "glued", "in_clamps", "observed")} == {
        "joints": 6, "pieces": 9, "measured": 1, "glued": 4, "in_clamps": 3, "observed": 1,
    }  # fmt: skip


def test_clamps_then_breaks_in_order_of_time(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    codes = app.codes(batch, "joint")
    app.glue(batch, codes[:3])
    app.clock.pass_(hours=1)
    app.glue(batch, codes[3:])
    assert due(app) == [("glue", 3), ("glue", 3)]
    app.post(f"/batches/{batch}/unclamp", {"codes": codes[:2], "note": ""})
    assert due(app) == [("glue", 1), ("glue", 3), ("break", 2)]
    first = app.get("/today")["due"]
    assert [d["at"] for d in first] == sorted(d["at"] for d in first)
    app.observe(batch, codes[0], low="5000 N")
    assert due(app) == [("glue", 1), ("glue", 3), ("break", 1)]


def test_what_is_due_together_is_one_line_that_names_its_treatments(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    codes = app.codes(batch, "joint")
    app.glue(batch)
    app.post(f"/batches/{batch}/unclamp", {"codes": codes, "note": ""})
    (line,) = app.get("/today")["due"]
    assert line["pieces"] == 6
    assert line["what"] == "Break: cure time reached (Damp-proof PVA and 1 more)"


def test_work_in_one_batch_leaves_the_line_of_another(app: App) -> None:
    first, second = app.locked("pva-damp", "casein"), app.locked("hide-hot", "casein", name="Second")
    app.glue(first)
    before = progress(app, first)
    app.clock.pass_(minutes=5)
    app.glue(second, app.codes(second, "joint")[:2])
    assert progress(app, first) == before
    assert progress(app, second)["glued"] == 2
    assert [p["batch"]["name"] for p in app.get("/today")["batches"]] == ["Second", "Laminations"]


def test_undo_is_seen_at_home(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    app.glue(batch)
    assert due(app) == [("glue", 6)]
    app.post(f"/batches/{batch}/undo", {"stage": "glue"})
    assert due(app) == []
    app.post(f"/batches/{batch}/redo", {"stage": "glue"})
    assert due(app) == [("glue", 6)]


def test_a_first_coat_that_is_dry_is_named_by_its_pieces(app: App) -> None:
    batch = app.locked("pva-damp", "casein", solid=0)
    codes = app.codes(batch, "joint")
    for code in codes[:2]:
        at = app.clock.at.isoformat()
        app.post(f"/batches/{batch}/taps", {"kind": "coat", "at": at, "code": code})
    found = [d for d in app.get("/today")["due"] if d["what"].startswith("First coat dry")]
    assert [(d["stage"], d["codes"], d["pieces"]) for d in found] == [("bench", codes[:2], 2)]
    coated = app.clock.at
    app.clock.pass_(minutes=10)
    assert found[0]["at"][:16] == app.clock.at.isoformat()[:16]
    assert (app.clock.at - coated).total_seconds() == 600
    app.post(f"/batches/{batch}/taps", {"kind": "spread", "at": app.clock.at.isoformat(), "code": codes[0]})
    left = [d for d in app.get("/today")["due"] if d["what"].startswith("First coat dry")]
    assert [d["codes"] for d in left] == [codes[1:2]]


def test_what_is_due_names_its_first_pieces(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=5, solid=0)
    app.glue(batch)
    due = app.get("/today")["due"]
    assert due
    for d in due:
        assert len(d["codes"]) == min(d["pieces"], 6)
        assert set(d["codes"]) <= set(app.codes(batch))
