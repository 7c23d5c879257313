"""Undo, redo, history; and a tablet that sends twice."""

from __future__ import annotations

import pytest

from adhaero.core.plan.document import first_plan
from tests.workshop import Bench, fields


def undo(bench: Bench, batch: int, stage: str, status: int = 200) -> dict[str, str | None]:
    return bench.post(f"/batches/{batch}/undo", {"stage": stage}, status)  # type: ignore[no-any-return]


def redo(bench: Bench, batch: int, stage: str, status: int = 200) -> dict[str, str | None]:
    return bench.post(f"/batches/{batch}/redo", {"stage": stage}, status)  # type: ignore[no-any-return]


def test_undo_and_redo_of_sizes(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    code = bench.codes(batch)[0]
    bench.sizes(batch, [(code, "width", "20.1")])
    bench.sizes(batch, [(code, "width", "20.9")])

    def width() -> float | None:
        size = bench.get(f"/batches/{batch}/cut")["rows"][0]["sizes"].get("width")
        return None if size is None else float(size["value"])

    assert width() == 20.9
    undo(bench, batch, "cut")
    assert width() == 20.1
    undo(bench, batch, "cut")
    assert width() is None
    redo(bench, batch, "cut")
    assert width() == 20.1
    redo(bench, batch, "cut")
    assert width() == 20.9
    assert "nothing to redo" in redo(bench, batch, "cut", 422)["detail"]  # type: ignore[operator]


def test_redo_is_gone_after_new_work(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    code = bench.codes(batch)[0]
    bench.sizes(batch, [(code, "width", "20.1")])
    undo(bench, batch, "cut")
    bench.sizes(batch, [(code, "width", "20.5")])
    assert bench.get(f"/batches/{batch}/undo/cut") == {"undo": f"Measured {code} width 20.5", "redo": None}
    redo(bench, batch, "cut", 422)


def test_undo_brings_a_broken_piece_back(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    first = bench.get(f"/batches/{batch}/break")["next"]
    second = bench.observe(batch, first, low="5000")["next"]
    bench.observe(batch, second, low="5100")
    undo(bench, batch, "break")
    view = bench.get(f"/batches/{batch}/break")
    assert (view["next"], view["done"]) == (second, 1)
    undo(bench, batch, "break")
    assert bench.get(f"/batches/{batch}/break")["next"] == first
    assert "nothing to undo" in undo(bench, batch, "break", 422)["detail"]  # type: ignore[operator]


def test_a_correction_can_be_undone(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    code = bench.codes(batch)[0]
    bench.observe(batch, code, low="412")
    bench.observe(batch, code, low="421")

    def load() -> float:
        rows = bench.get(f"/batches/{batch}/break")["rows"]
        return float(next(r["low_n"] for r in rows if r["code"] == code))

    assert load() == 421
    undo(bench, batch, "break")
    assert load() == 412
    with bench.workshop.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM observation").fetchone()[0] == 2, "nothing is deleted"


def test_undo_of_gluing_in_steps(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    joints = bench.codes(batch, "joint")
    bench.glue(batch, joints)
    bench.post(f"/batches/{batch}/unclamp", {"codes": joints})
    undo(bench, batch, "glue")
    assert bench.get(f"/batches/{batch}/glue")["glueups"][0]["in_clamps"] == 6
    undo(bench, batch, "glue")
    assert bench.get(f"/batches/{batch}/glue")["glueups"] == []
    bench.glue(batch, joints)


def test_a_lock_can_be_undone_until_work_begins(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    old = set(bench.codes(batch))
    undo(bench, batch, "plan")
    assert bench.get(f"/batches/{batch}/plan")["kind"] == "draft"
    bench.draft(batch, replicates=4)
    bench.lock(batch)
    new = set(bench.codes(batch))
    assert len(new) == 11
    assert not old & new, "a code on a label is never given to another piece"
    bench.sizes(batch, [(next(iter(new)), "width", "20")])
    assert "already worked on" in undo(bench, batch, "plan", 422)["detail"]  # type: ignore[operator]
    undo(bench, batch, "cut")
    undo(bench, batch, "plan")


def test_drafts_are_undone_step_by_step(bench: Bench) -> None:
    batch = bench.batch()
    for question in ("One?", "Two?", "Three?"):
        bench.draft(batch, question=question)
    seen = []
    for _ in range(3):
        undo(bench, batch, "plan")
        seen.append(bench.get(f"/batches/{batch}/plan")["document"]["question"])
    assert seen == ["Two?", "One?", first_plan().question]
    undo(bench, batch, "plan", 422)


def test_history_tells_who_what_and_what_was_undone(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    code = bench.codes(batch)[0]
    bench.post(f"/batches/{batch}/observations", {"code": code, "kind": "exact", "low": "5000"}, 200,
               **{"Adhaero-Person": "J%C3%B6rg"})  # fmt: skip
    undo(bench, batch, "break")
    history = bench.get(f"/batches/{batch}/history")
    assert [h["kind"] for h in history] == ["undo", "observe", "lock", "draft", "create"]
    assert history[1]["person"] == "Jörg"
    assert history[1]["undone"]
    assert history[1]["at"] == "2026-11-23T08:30:00.000Z"


def test_sending_twice_counts_once(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    code = bench.codes(batch)[0]
    body = {"code": code, "kind": "exact", "low": "5000"}
    key = {"Idempotency-Key": "tablet-0001"}
    first = bench.post(f"/batches/{batch}/observations", body, 200, **key)
    assert bench.post(f"/batches/{batch}/observations", body, 200, **key) == first
    with bench.workshop.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM observation").fetchone()[0] == 1


@pytest.mark.parametrize("path", ["", "/glueups", "/unclamp", "/sizes", "/lock"])
def test_every_write_of_the_bench_may_be_repeated(bench: Bench, path: str) -> None:
    key = {"Idempotency-Key": "tablet-0002"}
    if path == "":
        assert bench.post("/batches", {"name": "x"}, 201, **key) == bench.post("/batches", {"name": "x"}, 201, **key)
        assert len(bench.get("/today")["batches"]) == 1
        return
    batch = bench.planned("pva-damp", "casein") if path == "/lock" else bench.locked("pva-damp", "casein")
    codes = [] if path == "/lock" else bench.codes(batch, "joint")
    if path == "/unclamp":
        bench.glue(batch)
    version = bench.get(f"/batches/{batch}/plan")["version"]
    body = {
        "/glueups": {"codes": codes, "force_n": 400.0},
        "/unclamp": {"codes": codes},
        "/sizes": {"cells": [{"code": c, "quantity": "width", "text": "20"} for c in codes]},
        "/lock": {"version": version},
    }[path]
    first = bench.post(f"/batches/{batch}{path}", body, 200, **key)
    before = len(bench.get(f"/batches/{batch}/history"))
    assert bench.post(f"/batches/{batch}{path}", body, 200, **key) == first
    assert len(bench.get(f"/batches/{batch}/history")) == before


def test_a_key_used_for_something_else_is_refused(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    a, b = bench.codes(batch)[:2]
    key = {"Idempotency-Key": "tablet-0003"}
    bench.post(f"/batches/{batch}/observations", {"code": a, "kind": "exact", "low": "5000"}, 200, **key)
    problem = bench.post(f"/batches/{batch}/observations", {"code": b, "kind": "exact", "low": "5000"}, 422, **key)
    assert fields(problem) == {"Idempotency-Key"}
    assert bench.get(f"/batches/{batch}/break")["done"] == 1


def test_a_refused_write_leaves_its_key_free(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    code = bench.codes(batch)[0]
    key = {"Idempotency-Key": "tablet-0004"}
    bench.post(f"/batches/{batch}/observations", {"code": code, "kind": "exact", "low": "-1"}, 422, **key)
    bench.post(f"/batches/{batch}/observations", {"code": code, "kind": "exact", "low": "5000"}, 200, **key)
