"""Undo, redo, history; and a tablet that sends twice."""

from __future__ import annotations

from pathlib import Path

import pytest

from adhaero.core.plan.document import first_plan
from tests.api.test_exchange import bring, export
from tests.running import App, fields, open_app


def undo(app: App, batch: int, stage: str, status: int = 200) -> dict[str, str | None]:
    return app.post(f"/batches/{batch}/undo", {"stage": stage}, status)  # type: ignore[no-any-return]


def redo(app: App, batch: int, stage: str, status: int = 200) -> dict[str, str | None]:
    return app.post(f"/batches/{batch}/redo", {"stage": stage}, status)  # type: ignore[no-any-return]


def test_undo_and_redo_of_sizes(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    app.sizes(batch, [(code, "width", "20.1")])
    app.sizes(batch, [(code, "width", "20.9")])

    def width() -> float | None:
        size = app.get(f"/batches/{batch}/cut")["rows"][0]["sizes"].get("width")
        return None if size is None else float(size["value"])

    assert width() == 20.9
    undo(app, batch, "cut")
    assert width() == 20.1
    undo(app, batch, "cut")
    assert width() is None
    redo(app, batch, "cut")
    assert width() == 20.1
    redo(app, batch, "cut")
    assert width() == 20.9
    assert "nothing to redo" in redo(app, batch, "cut", 422)["detail"]  # type: ignore[operator]


def test_redo_is_gone_after_new_work(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    app.sizes(batch, [(code, "width", "20.1")])
    undo(app, batch, "cut")
    app.sizes(batch, [(code, "width", "20.5")])
    offered = app.get(f"/batches/{batch}/undo/cut")
    assert (offered["undo"], offered["redo"]) == (f"Measured {code} width 20.5", None)


def test_nobody_undoes_what_another_device_did_meanwhile(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    mine, theirs = app.codes(batch)[:2]
    app.sizes(batch, [(mine, "width", "20.1")])
    seen = app.get(f"/batches/{batch}/undo/cut")["undo_id"]
    app.sizes(batch, [(theirs, "width", "20.7")])
    refused = app.post(f"/batches/{batch}/undo", {"stage": "cut", "seen": seen}, 409)
    assert f"Measured {theirs} width 20.7" in refused["detail"]
    rows = {r["code"]: r["sizes"] for r in app.get(f"/batches/{batch}/cut")["rows"]}
    assert (rows[mine]["width"]["typed"], rows[theirs]["width"]["typed"]) == ("20.1", "20.7")
    stands = app.get(f"/batches/{batch}/undo/cut")["undo_id"]
    undone = app.post(f"/batches/{batch}/undo", {"stage": "cut", "seen": stands})
    app.post(f"/batches/{batch}/redo", {"stage": "cut", "seen": undone["redo_id"] + 1}, 409)
    app.post(f"/batches/{batch}/redo", {"stage": "cut", "seen": undone["redo_id"]})
    redo(app, batch, "cut", 422)


def test_undo_brings_a_broken_piece_back(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    first = app.get(f"/batches/{batch}/break")["next"]
    second = app.observe(batch, first, low="5000")["next"]
    app.observe(batch, second, low="5100")
    undo(app, batch, "break")
    view = app.get(f"/batches/{batch}/break")
    assert (view["next"], view["done"]) == (second, 1)
    undo(app, batch, "break")
    assert app.get(f"/batches/{batch}/break")["next"] == first
    assert "nothing to undo" in undo(app, batch, "break", 422)["detail"]  # type: ignore[operator]


def test_a_correction_can_be_undone(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    app.observe(batch, code, low="412")
    app.observe_anew(batch, code, low="421")

    def load() -> float:
        rows = app.get(f"/batches/{batch}/break")["rows"]
        return float(next(r["low_n"] for r in rows if r["code"] == code))

    assert load() == 421
    undo(app, batch, "break")
    assert load() == 412
    with app.context.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM observation").fetchone()[0] == 2, "nothing is deleted"


def test_undo_of_gluing_in_steps(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    joints = app.codes(batch, "joint")
    app.glue(batch, joints)
    app.post(f"/batches/{batch}/unclamp", {"codes": joints})
    undo(app, batch, "glue")
    assert app.get(f"/batches/{batch}/glue")["glueups"][0]["in_clamps"] == 6
    undo(app, batch, "glue")
    assert app.get(f"/batches/{batch}/glue")["glueups"] == []
    app.glue(batch, joints)


def test_a_lock_can_be_undone_until_work_begins(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    old = set(app.codes(batch))
    undo(app, batch, "plan")
    assert app.get(f"/batches/{batch}/plan")["kind"] == "draft"
    app.draft(batch, replicates=4)
    app.lock(batch)
    new = set(app.codes(batch))
    assert len(new) == 11
    assert not old & new, "a code on a label is never given to another piece"
    app.sizes(batch, [(next(iter(new)), "width", "20")])
    assert "already worked on" in undo(app, batch, "plan", 422)["detail"]  # type: ignore[operator]
    undo(app, batch, "cut")
    undo(app, batch, "plan")


def test_drafts_are_undone_step_by_step(app: App) -> None:
    batch = app.batch()
    for question in ("One?", "Two?", "Three?"):
        app.draft(batch, question=question)
    seen = []
    for _ in range(3):
        undo(app, batch, "plan")
        seen.append(app.get(f"/batches/{batch}/plan")["document"]["question"])
    assert seen == ["Two?", "One?", first_plan().question]
    undo(app, batch, "plan", 422)


def test_history_tells_who_what_and_what_was_undone(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    app.post(f"/batches/{batch}/observations", {"code": code, "kind": "exact", "low": "5000",
             "confirmed": ["early"]}, 200, **{"Adhaero-Person": "J%C3%B6rg"})  # fmt: skip
    undo(app, batch, "break")
    history = app.get(f"/batches/{batch}/history")
    assert [h["kind"] for h in history] == ["undo", "observe", "lock", "draft", "create"]
    assert history[1]["person"] == "Jörg"
    assert history[1]["undone"]
    assert history[1]["at"] == "2026-11-23T08:30:00.000Z"


def test_sending_twice_counts_once(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    body = {"code": code, "kind": "exact", "low": "5000", "confirmed": ["early"]}
    key = {"Idempotency-Key": "tablet-0001"}
    first = app.post(f"/batches/{batch}/observations", body, 200, **key)
    assert app.post(f"/batches/{batch}/observations", body, 200, **key) == first
    with app.context.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM observation").fetchone()[0] == 1


@pytest.mark.parametrize("path", ["", "/glueups", "/unclamp", "/sizes", "/lock"])
def test_every_write_of_the_bench_may_be_repeated(app: App, path: str) -> None:
    key = {"Idempotency-Key": "tablet-0002"}
    if path == "":
        assert app.post("/batches", {"name": "x"}, 201, **key) == app.post("/batches", {"name": "x"}, 201, **key)
        assert len(app.get("/today")["batches"]) == 1
        return
    batch = app.planned("pva-damp", "casein") if path == "/lock" else app.locked("pva-damp", "casein")
    codes = [] if path == "/lock" else app.codes(batch, "joint")
    if path == "/unclamp":
        app.glue(batch)
    version = app.get(f"/batches/{batch}/plan")["version"]
    body = {
        "/glueups": {"codes": codes, "force_n": 400.0},
        "/unclamp": {"codes": codes},
        "/sizes": {"cells": [{"code": c, "quantity": "width", "text": "20"} for c in codes]},
        "/lock": {"version": version},
    }[path]
    first = app.post(f"/batches/{batch}{path}", body, 200, **key)
    before = len(app.get(f"/batches/{batch}/history"))
    assert app.post(f"/batches/{batch}{path}", body, 200, **key) == first
    assert len(app.get(f"/batches/{batch}/history")) == before


def test_a_key_used_for_something_else_is_refused(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    a, b = app.codes(batch)[:2]
    key = {"Idempotency-Key": "tablet-0003"}
    app.post(
        f"/batches/{batch}/observations",
        {"code": a, "kind": "exact", "low": "5000", "confirmed": ["early"]},
        200,
        **key,
    )
    problem = app.post(
        f"/batches/{batch}/observations",
        {"code": b, "kind": "exact", "low": "5000", "confirmed": ["early"]},
        422,
        **key,
    )
    assert fields(problem) == {"Idempotency-Key"}
    assert app.get(f"/batches/{batch}/break")["done"] == 1


def test_a_refused_write_leaves_its_key_free(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    key = {"Idempotency-Key": "tablet-0004"}
    app.post(f"/batches/{batch}/observations", {"code": code, "kind": "exact", "low": "-1"}, 422, **key)
    app.post(
        f"/batches/{batch}/observations",
        {"code": code, "kind": "exact", "low": "5000", "confirmed": ["early"]},
        200,
        **key,
    )


def test_undo_in_the_shop_does_not_offer_to_remove_a_study(app: App, tmp_path: Path) -> None:
    """A study that was taken in is undone where the studies are listed, and stays when the shop's acts are undone."""
    text = export(app, app.locked("pva-damp", "casein"))
    with open_app(tmp_path / "other") as other:
        other.post("/bottles", {"label": "B1", "family": "pva-damp"})
        made = bring(other, text)["batch_id"]
        assert other.get("/shop/undo")["undo"] == "Added the bottle B1"
        assert other.get("/shop/undo?of=imports")["undo"].startswith("Imported ")
        other.post("/shop/undo")
        assert other.get(f"/batches/{made}/plan")
        assert other.get("/shop/undo")["redo"] == "Added the bottle B1"
        gone = other.post("/shop/undo?of=imports")
        assert (gone["undo"], gone["redo"][:8]) == (None, "Imported")
        other.get(f"/batches/{made}/plan", 404)
        other.post("/shop/redo?of=imports")
        assert other.get(f"/batches/{made}/plan")
        assert other.get("/shop/undo")["redo"] == "Added the bottle B1", "nothing was done in the shop since"
