"""Amendments of a locked plan: with a reason, on record, and nothing overwritten."""

from __future__ import annotations

from typing import Any

import pytest

from tests.workshop import Bench, fields


def more(bench: Bench, batch: int, status: int = 200, **changes: Any) -> Any:
    body = {"treatment": "A", "count": 2, "reason": "two were spoiled at the saw", **changes}
    return bench.post(f"/batches/{batch}/more", body, status)


def leave_out(bench: Bench, batch: int, status: int = 200, **changes: Any) -> Any:
    return bench.post(
        f"/batches/{batch}/leave-out", {"treatment": "B", "reason": "bottle was empty", **changes}, status
    )


def test_more_pieces_get_new_codes_and_come_last(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    before = bench.get(f"/batches/{batch}/break")["rows"]
    plan = more(bench, batch)
    after = bench.get(f"/batches/{batch}/break")["rows"]
    assert after[: len(before)] == before
    new = after[len(before) :]
    assert [(r["treatment"], r["break_order"]) for r in new] == [("A", 10), ("A", 11)]
    assert not {r["code"] for r in new} & {r["code"] for r in before}
    assert plan["kind"] == "amended"
    assert [(n["kind"], n["reason"]) for n in plan["notes"]] == [
        ("locked", ""),
        ("amended", "two were spoiled at the saw"),
    ]
    assert next(t for t in plan["outlook"]["treatments"] if t["letter"] == "A")["replicates"] == 5
    assert bench.compare(batch)["treatments"][0]["made"] == 5


def test_more_solid_pieces(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    more(bench, batch, treatment="C", count=1)
    assert len(bench.codes(batch, "solid")) == 4
    new = bench.get(f"/batches/{batch}/cut")["rows"][-1]
    assert (new["role"], new["replicate"], new["halves"]) == ("solid", 4, [new["code"]])


def test_an_amendment_is_undone_until_its_pieces_are_worked_on(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    codes = bench.codes(batch)
    more(bench, batch)
    new = next(c for c in bench.codes(batch) if c not in codes)
    bench.sizes(batch, [(new, "width", "20")])
    assert "already worked on" in bench.post(f"/batches/{batch}/undo", {"stage": "plan"}, 422)["detail"]
    bench.post(f"/batches/{batch}/undo", {"stage": "cut"})
    bench.post(f"/batches/{batch}/undo", {"stage": "plan"})
    assert bench.codes(batch) == codes
    assert bench.get(f"/batches/{batch}/plan")["kind"] == "locked"


def test_a_treatment_left_out_keeps_what_was_broken(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    first = next(r["code"] for r in bench.get(f"/batches/{batch}/break")["rows"] if r["treatment"] == "B")
    bench.observe(batch, first, low="4000 N")
    leave_out(bench, batch)
    row = bench.compare(batch)["treatments"][1]
    assert (row["made"], row["n"], row["void"], row["unbroken"]) == (3, 1, 2, 0)
    aside = [r for r in bench.get(f"/batches/{batch}/break")["rows"] if r["kind"] == "void"]
    assert {r["reason"] for r in aside} == {"not run: bottle was empty"}
    assert fields(leave_out(bench, batch, 422)) == {"treatment"}
    bench.post(f"/batches/{batch}/undo", {"stage": "plan"})
    assert bench.compare(batch)["treatments"][1]["void"] == 0


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"reason": " "}, "reason"),
        ({"count": 0}, "count"),
        ({"count": 101}, "count"),
        ({"treatment": "Q"}, "treatment"),
    ],
)
def test_what_is_no_amendment_is_refused(bench: Bench, change: dict[str, Any], field: str) -> None:
    batch = bench.locked("pva-damp", "casein")
    assert fields(more(bench, batch, 422, **change)) == {field}
    assert len(bench.codes(batch)) == 9


def test_a_draft_is_changed_not_amended(bench: Bench) -> None:
    assert fields(more(bench, bench.planned("pva-damp", "casein"), 422)) == {"plan"}


def test_an_amendment_sent_twice_counts_once(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    body = {"treatment": "A", "count": 2, "reason": "two were spoiled"}
    for _ in range(2):
        bench.post(f"/batches/{batch}/more", body, **{"Idempotency-Key": "amend-0001"})
    assert len(bench.codes(batch)) == 11
