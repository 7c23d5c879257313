"""Pulls on the simulated rig through the application: recorded while they come in, judged, interrupted, resumed."""

from __future__ import annotations

import socket
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from adhaero.store import breaks, curves
from adhaero.workflow.breaking.rig_session import thin
from tests.rig.harness import RigUnderTest, running_rig, wait_for
from tests.workshop import Bench, open_bench

RIG = {"name": "Press", "capacity_n": 20000.0, "resolution_n": 1.0, "fixture": "Fixture 1"}


@pytest.fixture
def rig() -> Iterator[RigUnderTest]:
    with running_rig() as started:
        yield started


@pytest.fixture
def at_rig(rig: RigUnderTest, tmp_path: Path) -> Iterator[tuple[Bench, int]]:
    with open_bench(tmp_path, rig.hand_port) as bench:
        bench.put("/rig", {**RIG, "port": rig.url})
        batch = bench.locked("pva-damp", "casein")
        wait_for(lambda: heard_s(bench) > 0.7, "the rig")
        yield bench, batch


def heard_s(bench: Bench) -> float:
    """For how long the rig has been heard."""
    live = bench.get("/rig/live")
    points = live["points"] if live["status"] == "live" else []
    return float(points[-1][0] - points[0][0]) if points else 0.0


def test_a_pull_needs_quiet_before_it_for_its_zero(rig: RigUnderTest, tmp_path: Path) -> None:
    with open_bench(tmp_path, rig.hand_port) as bench:
        batch = bench.locked("pva-damp", "casein")
        code = next_piece(bench, batch)
        bench.put("/rig", {**RIG, "port": rig.url})
        wait_for(lambda: heard_s(bench) > 0, "the first samples")
        early = bench.post(f"/batches/{batch}/pulls", {"code": code}, 422)
        assert "only just begun to speak" in early["detail"]
        wait_for(lambda: heard_s(bench) > 0.7, "the rig")
        bench.post(f"/batches/{batch}/pulls", {"code": code}, 201)


def next_piece(bench: Bench, batch: int) -> str:
    return str(bench.get(f"/batches/{batch}/break")["next"])


def pull(bench: Bench, batch: int, seconds: float = 0.8) -> tuple[str, int]:
    """Begin, let the hand pull, wait for the break."""
    code = next_piece(bench, batch)
    pull_id = int(bench.post(f"/batches/{batch}/pulls", {"code": code}, 201)["id"])
    assert bench.post(f"/batches/{batch}/hand", {"do": "pull", "code": code, "seconds": seconds})["ok"]
    wait_for(lambda: bench.get("/rig/live")["pull"]["state"] == "ended", "the break")
    return code, pull_id


def test_a_pull_ends_itself_and_is_offered(at_rig: tuple[Bench, int], rig: RigUnderTest) -> None:
    bench, batch = at_rig
    code, pull_id = pull(bench, batch)
    assert rig.simulator.broken is not None
    truth = rig.simulator.broken.load_n
    loose = bench.get(f"/batches/{batch}/break")["loose"]
    assert [(p["code"], p["pull"]["id"]) for p in loose] == [(code, pull_id)]
    proposal = loose[0]["pull"]["proposal"]
    assert proposal["kind"] == "exact"
    assert proposal["peak_n"] == pytest.approx(truth, rel=0.02)
    assert proposal["zero"]["mean_n"] == pytest.approx(37, abs=4)
    following = bench.observe(batch, code, pull_id=pull_id, source="rig", failure_mode="in-glue")["next"]
    row = next(r for r in bench.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert row["low_n"] == pytest.approx(proposal["peak_n"], abs=0.001)
    assert following == next_piece(bench, batch)
    assert bench.get("/rig/live")["pull"] is None
    curve = bench.get(f"/pulls/{pull_id}")
    assert max(f for _, f in curve["points"]) >= 0.98 * truth


def test_a_typed_load_wins_over_the_trace(at_rig: tuple[Bench, int]) -> None:
    bench, batch = at_rig
    code, pull_id = pull(bench, batch)
    bench.observe(batch, code, pull_id=pull_id, low="4321 N")
    row = next(r for r in bench.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert row["low_n"] == 4321


def test_stopped_by_hand_it_is_a_lower_bound(at_rig: tuple[Bench, int]) -> None:
    bench, batch = at_rig
    code = next_piece(bench, batch)
    bench.post(f"/batches/{batch}/pulls", {"code": code}, 201)
    bench.post(f"/batches/{batch}/hand", {"do": "pull", "code": code, "seconds": 20})
    wait_for(lambda: bench.get("/rig/live")["pull"]["peak_n"] > 150, "some load")
    assert bench.post("/rig/end")["state"] == "ended"
    proposal = bench.get(f"/batches/{batch}/break")["loose"][0]["pull"]["proposal"]
    assert proposal["kind"] == "at_least"
    assert not proposal["broke"]


def test_a_saturated_rig_gives_a_lower_bound(tmp_path: Path) -> None:
    with running_rig(capacity_n=3000.0) as rig, open_bench(tmp_path, rig.hand_port) as bench:
        bench.put("/rig", {**RIG, "capacity_n": 3000.0, "port": rig.url})
        batch = bench.locked("pva-damp", "casein")
        wait_for(lambda: heard_s(bench) > 0.7, "the rig")
        bench.post("/rig/zero")
        pull(bench, batch)
        proposal = bench.get(f"/batches/{batch}/break")["loose"][0]["pull"]["proposal"]
        assert proposal["saturated"]
        assert proposal["kind"] == "at_least"


def test_only_one_pull_at_a_time(at_rig: tuple[Bench, int]) -> None:
    bench, batch = at_rig
    code = next_piece(bench, batch)
    bench.post(f"/batches/{batch}/pulls", {"code": code}, 201)
    assert "another pull" in bench.post(f"/batches/{batch}/pulls", {"code": code}, 422)["detail"]
    assert "still going on" in bench.observe(batch, code, 422, pull_id=1)["detail"]
    bench.post("/rig/end")


def test_a_loaded_rig_must_be_unloaded_first(at_rig: tuple[Bench, int], rig: RigUnderTest) -> None:
    bench, batch = at_rig
    rig.simulator.offset_n = 900.0
    wait_for(lambda: min(f for _, f in bench.get("/rig/live")["points"][-8:]) > 800, "the load")
    assert "already shows" in bench.post(f"/batches/{batch}/pulls", {"code": next_piece(bench, batch)}, 422)["detail"]
    wait_for(lambda: abs(bench.post("/rig/zero")["zero_n"] - 900) < 5, "zero")
    wait_for(lambda: abs(bench.get("/rig/live")["force_n"]) < 30, "a load of nothing")


def test_a_discarded_pull_stays_on_record(at_rig: tuple[Bench, int]) -> None:
    bench, batch = at_rig
    code, pull_id = pull(bench, batch)
    bench.post(f"/batches/{batch}/pulls/{pull_id}/discard", {"reason": "slipped"})
    view = bench.get(f"/batches/{batch}/break")
    assert view["loose"] == []
    assert view["next"] == code
    assert bench.get(f"/pulls/{pull_id}")["state"] == "discarded"
    assert len(bench.get(f"/pulls/{pull_id}")["points"]) > 50
    again, second = pull(bench, batch)
    assert again == code
    bench.observe(batch, code, pull_id=second, source="rig")


def test_a_cable_pulled_out_in_the_middle_loses_nothing(at_rig: tuple[Bench, int], rig: RigUnderTest) -> None:
    bench, batch = at_rig
    code = next_piece(bench, batch)
    pull_id = int(bench.post(f"/batches/{batch}/pulls", {"code": code}, 201)["id"])
    bench.post(f"/batches/{batch}/hand", {"do": "pull", "code": code, "seconds": 4})
    wait_for(lambda: bench.get("/rig/live")["pull"]["peak_n"] > 500, "some load")
    rig.hand(do="fault", name="drop", seconds=0.6)
    lost = wait_for(lambda: (live := bench.get("/rig/live"))["status"] == "lost" and live, "the loss")
    assert "check cable" in lost["message"]
    saved = wait_for(lambda: bench.get("/rig/live")["pull"]["saved_samples"], "what came in is on disk")
    wait_for(lambda: bench.get("/rig/live")["status"] == "live", "the return")
    wait_for(lambda: bench.get("/rig/live")["pull"]["state"] == "ended", "the break", 10)
    with bench.workshop.db.read() as conn:
        rows = curves.curve(conn, pull_id)
    assert len(rows) > saved
    assert np.all(np.diff(rows[:, 0]) >= 0)
    proposal = bench.get(f"/batches/{batch}/break")["loose"][0]["pull"]["proposal"]
    assert proposal["kind"] == "exact"


def test_raw_data_go_to_disk_while_they_come_in(at_rig: tuple[Bench, int]) -> None:
    bench, batch = at_rig
    bench.post(f"/batches/{batch}/pulls", {"code": next_piece(bench, batch)}, 201)
    for target in (100, 200, 300):
        wait_for(lambda target=target: bench.get("/rig/live")["pull"]["saved_samples"] >= target, "a chunk on disk")
        live = bench.get("/rig/live")["pull"]
        unsaved_s = live["seconds"] - live["saved_samples"] / 200
        assert unsaved_s < 0.6, "at 200 a second, less than half a second may wait, and a little for the polling"
    bench.post("/rig/end")


def test_after_a_crash_the_pull_is_offered_as_interrupted(at_rig: tuple[Bench, int], tmp_path: Path) -> None:
    bench, batch = at_rig
    code = next_piece(bench, batch)
    pull_id = int(bench.post(f"/batches/{batch}/pulls", {"code": code}, 201)["id"])
    wait_for(lambda: bench.get("/rig/live")["pull"]["saved_samples"] > 100, "some data")
    with bench.workshop.db.read() as conn:
        state = breaks.pull(conn, pull_id)
    assert state is not None
    assert state.state == "open", "as a killed process would leave it"
    with open_bench(tmp_path) as after:
        loose = after.get(f"/batches/{batch}/break")["loose"]
        assert [(p["code"], p["pull"]["state"]) for p in loose] == [(code, "interrupted")]
        assert loose[0]["pull"]["proposal"]["samples"] > 100
        assert after.workshop.db.check() == []


def test_without_a_rig_the_peak_is_typed(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    code = next_piece(bench, batch)
    assert "Type the peak" in bench.post(f"/batches/{batch}/pulls", {"code": code}, 422)["detail"]
    assert "no simulated rig" in bench.post(f"/batches/{batch}/hand", {"do": "look"}, 422)["detail"]
    assert "No rig" in bench.post("/rig/zero", status=422)["detail"]
    assert "no pull" in bench.post("/rig/end", status=422)["detail"]
    bench.observe(batch, code, low="5 kN")


def test_thinning_keeps_the_peak() -> None:
    points = [(i / 100, float(i % 97)) for i in range(10_000)]
    points[4321] = (43.21, 5000.0)
    points[77] = (0.77, -300.0)
    kept = thin(points, 500)
    assert len(kept) <= 520
    assert (43.21, 5000.0) in kept
    assert (0.77, -300.0) in kept
    assert kept == sorted(kept)
    assert thin(points[:10], 500) == points[:10]


def test_a_rig_that_is_no_rig(bench: Bench) -> None:
    with socket.create_server(("127.0.0.1", 0)) as server:
        port = server.getsockname()[1]
        bench.put("/rig", {**RIG, "port": f"socket://127.0.0.1:{port}"})
        link, _ = server.accept()
        link.sendall(b"HTTP/1.1 200 OK\r\n" * 200)
        wait_for(lambda: bench.get("/rig/live")["status"] == "garbled", "the complaint")
        assert "line format" in bench.get("/rig/live")["message"]
        link.close()
