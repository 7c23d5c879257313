"""Home: what is due, in order of time, and how far every batch is."""

from __future__ import annotations

from typing import Any

from tests.workshop import Bench


def due(bench: Bench) -> list[tuple[str, int]]:
    return [(d["stage"], d["pieces"]) for d in bench.get("/today")["due"]]


def progress(bench: Bench, batch: int) -> Any:
    return next(p for p in bench.get("/today")["batches"] if p["batch"]["id"] == batch)


def test_a_draft_is_listed_and_nothing_is_due(bench: Bench) -> None:
    batch = bench.planned("pva-damp", "casein")
    p = progress(bench, batch)
    assert (p["locked"], p["pieces"], p["question"]) == (False, 0, "Which glue?")
    assert due(bench) == []


def test_progress_follows_the_work(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    codes = bench.codes(batch, "joint")
    bench.sizes(batch, [(codes[0], "width", "20"), (codes[0], "overlap", "25"), (codes[1], "width", "20")])
    bench.glue(batch, codes[:4])
    bench.post(f"/batches/{batch}/unclamp", {"codes": codes[:1], "note": ""})
    bench.observe(batch, codes[0], low="5000 N")
    p = progress(bench, batch)
    assert {k: p[k] for k in ("joints", "pieces", "measured", "glued", "in_clamps", "observed")} == {
        "joints": 6, "pieces": 9, "measured": 1, "glued": 4, "in_clamps": 3, "observed": 1,
    }  # fmt: skip


def test_clamps_then_breaks_in_order_of_time(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    codes = bench.codes(batch, "joint")
    bench.glue(batch, codes[:3])
    bench.clock.pass_(hours=1)
    bench.glue(batch, codes[3:])
    assert due(bench) == [("glue", 3), ("glue", 3)]
    bench.post(f"/batches/{batch}/unclamp", {"codes": codes[:2], "note": ""})
    assert due(bench) == [("glue", 1), ("glue", 3), ("break", 2)]
    first = bench.get("/today")["due"]
    assert [d["at"] for d in first] == sorted(d["at"] for d in first)
    bench.observe(batch, codes[0], low="5000 N")
    assert due(bench) == [("glue", 1), ("glue", 3), ("break", 1)]


def test_what_is_due_together_is_one_line_that_names_its_treatments(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    codes = bench.codes(batch, "joint")
    bench.glue(batch)
    bench.post(f"/batches/{batch}/unclamp", {"codes": codes, "note": ""})
    (line,) = bench.get("/today")["due"]
    assert line["pieces"] == 6
    assert line["what"] == "Break: cure time reached (Damp-proof PVA and 1 more)"


def test_work_in_one_batch_leaves_the_line_of_another(bench: Bench) -> None:
    first, second = bench.locked("pva-damp", "casein"), bench.locked("hide-hot", "casein", name="Second")
    bench.glue(first)
    before = progress(bench, first)
    bench.clock.pass_(minutes=5)
    bench.glue(second, bench.codes(second, "joint")[:2])
    assert progress(bench, first) == before
    assert progress(bench, second)["glued"] == 2
    assert [p["batch"]["name"] for p in bench.get("/today")["batches"]] == ["Second", "Laminations"]


def test_undo_is_seen_at_home(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    bench.glue(batch)
    assert due(bench) == [("glue", 6)]
    bench.post(f"/batches/{batch}/undo", {"stage": "glue"})
    assert due(bench) == []
    bench.post(f"/batches/{batch}/redo", {"stage": "glue"})
    assert due(bench) == [("glue", 6)]
