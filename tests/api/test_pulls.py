"""Pulls on the simulated rig through the application: recorded while they come in, judged, interrupted, resumed."""

from __future__ import annotations

import socket
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from adhaero.store import curves, pulls
from adhaero.workflow.breaking.live import RigSession, thin
from tests.rig.harness import RigUnderTest, longest_stall, running_rig, wait_for
from tests.running import App, open_app

RIG = {"name": "Press", "capacity": 20000.0, "step": 1.0, "fixture": "Fixture 1"}


@pytest.fixture
def rig() -> Iterator[RigUnderTest]:
    with running_rig() as started:
        yield started


@pytest.fixture
def at_rig(rig: RigUnderTest, tmp_path: Path) -> Iterator[tuple[App, int]]:
    with open_app(tmp_path, rig.hand_port) as app:
        app.put("/rig", {**RIG, "port": rig.url})
        batch = app.locked("pva-damp", "casein")
        wait_for(lambda: heard_s(app) > 0.7, "the rig")
        yield app, batch


def heard_s(app: App) -> float:
    """For how long the rig has been heard."""
    live = app.get("/rig/live")
    points = live["points"] if live["status"] == "live" else []
    return float(points[-1][0] - points[0][0]) if points else 0.0


def test_a_hitch_of_the_signal_is_waited_out(
    rig: RigUnderTest, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Away for an instant as the pull is asked for: it begins when the signal is back, and nobody presses again."""
    with open_app(tmp_path, rig.hand_port) as app:
        batch = app.locked("pva-damp", "casein")
        app.put("/rig", {**RIG, "port": rig.url})
        wait_for(lambda: heard_s(app) > 0.7, "the rig")
        away = iter([True] * 5)
        monkeypatch.setattr(RigSession, "_stale", lambda _: next(away, False))
        app.post(f"/batches/{batch}/pulls", {"code": next_piece(app, batch)}, 201)
        assert next(away, None) is None


def test_a_pull_needs_quiet_before_it_for_its_zero(rig: RigUnderTest, tmp_path: Path) -> None:
    with open_app(tmp_path, rig.hand_port) as app:
        batch = app.locked("pva-damp", "casein")
        code = next_piece(app, batch)
        app.put("/rig", {**RIG, "port": rig.url})
        wait_for(lambda: heard_s(app) > 0, "the first samples")
        # It waits for half a second of rest instead of taking its zero from less.
        began = app.post(f"/batches/{batch}/pulls", {"code": code}, 201)["id"]
        wait_for(lambda: app.get("/rig/live")["pull"]["saved_samples"] > 0, "its quiet")
        with app.context.db.read() as conn:
            assert np.ptp(curves.curve(conn, began)[:, 0]) > 0.45


def test_a_pull_begun_right_after_a_load_was_let_go_takes_no_load_for_its_zero(
    rig: RigUnderTest, tmp_path: Path
) -> None:
    with open_app(tmp_path, rig.hand_port) as app:
        batch = app.locked("pva-damp", "casein")
        app.put("/rig", {**RIG, "port": rig.url})
        wait_for(lambda: heard_s(app) > 0.7, "the rig")
        offset = rig.simulator.offset_n
        rig.simulator.offset_n = offset + 500
        wait_for(lambda: (app.get("/rig/live")["force_n"] or 0) > offset + 400, "a hand on the lever")
        time.sleep(0.5)
        rig.simulator.offset_n = offset
        wait_for(lambda: (app.get("/rig/live")["force_n"] or 0) < offset + 100, "let go")
        code = next_piece(app, batch)
        number = app.post(f"/batches/{batch}/pulls", {"code": code}, 201)["id"]
        app.post(f"/batches/{batch}/hand", {"do": "pull", "code": code, "seconds": 0.8})
        wait_for(lambda: app.get("/rig/live")["pull"]["state"] == "ended", "the break")
        proposal = next(x["pull"] for x in app.get(f"/batches/{batch}/break")["loose"] if x["pull"]["id"] == number)
        assert proposal["proposal"]["reading"]["zero"]["mean_n"] == pytest.approx(offset, abs=10)


def test_a_rig_that_describes_itself_anew_ends_the_pull(at_rig: tuple[App, int], rig: RigUnderTest) -> None:
    """Another capacity in mid pull: what comes after it is of another rig, or of another setting."""
    app, batch = at_rig
    code = next_piece(app, batch)
    app.post(f"/batches/{batch}/pulls", {"code": code}, 201)
    app.post(f"/batches/{batch}/hand", {"do": "pull", "code": code, "seconds": 4})
    wait_for(lambda: app.get("/rig/live")["pull"]["peak_n"] > 500, "some load")
    rig.simulator.capacity_n = 2000.0
    for writer in tuple(rig.simulator.clients):
        rig.at_its_end(writer.write, rig.simulator.identity())
    wait_for(lambda: app.get("/rig/live")["pull"]["state"] == "interrupted", "the end of the pull")
    proposal = app.get(f"/batches/{batch}/break")["loose"][0]["pull"]["proposal"]
    assert (proposal["kind"], proposal["bound_by"]) == ("at_least", "gap")


def at_rest(app: App) -> bool:
    """Whether the load stood still for as long as a pull asks for: right after a break it did not yet."""
    points = app.get("/rig/live")["points"]
    last = [force for at, force in points if at > points[-1][0] - 0.7]
    return bool(last) and max(last) - min(last) < 100


def next_piece(app: App, batch: int) -> str:
    return str(app.get(f"/batches/{batch}/break")["next"])


def pull(app: App, batch: int, seconds: float = 0.8) -> tuple[str, int]:
    """Begin once the rig is at rest, let the hand pull, wait for the break."""
    wait_for(lambda: at_rest(app), "the rig at rest")
    code = next_piece(app, batch)
    pull_id = int(app.post(f"/batches/{batch}/pulls", {"code": code}, 201)["id"])
    assert app.post(f"/batches/{batch}/hand", {"do": "pull", "code": code, "seconds": seconds})["ok"]
    wait_for(lambda: app.get("/rig/live")["pull"]["state"] == "ended", "the break")
    return code, pull_id


def test_a_pull_ends_itself_and_is_offered(at_rig: tuple[App, int], rig: RigUnderTest) -> None:
    app, batch = at_rig
    code, pull_id = pull(app, batch)
    assert rig.simulator.broken is not None
    truth = rig.simulator.broken.load_n
    loose = app.get(f"/batches/{batch}/break")["loose"]
    assert [(p["code"], p["pull"]["id"]) for p in loose] == [(code, pull_id)]
    proposal = loose[0]["pull"]["proposal"]
    assert proposal["kind"] == "exact"
    assert proposal["reading"]["peak_n"] == pytest.approx(truth, rel=0.02)
    assert proposal["reading"]["zero"]["mean_n"] == pytest.approx(37, abs=4)
    following = app.observe(batch, code, pull_id=pull_id, source="rig", failure_mode="in-glue")["next"]
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert row["low_n"] == pytest.approx(proposal["reading"]["peak_n"], abs=0.001)
    assert following == next_piece(app, batch)
    assert app.get("/rig/live")["pull"] is None
    curve = app.get(f"/pulls/{pull_id}")
    assert max(f for _, f in curve["points"]) >= 0.98 * truth


def test_a_typed_load_wins_over_the_trace(at_rig: tuple[App, int]) -> None:
    app, batch = at_rig
    code, pull_id = pull(app, batch)
    app.observe(batch, code, pull_id=pull_id, low="4321 N")
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert row["low_n"] == 4321


def test_stopped_by_hand_it_is_a_lower_bound(at_rig: tuple[App, int]) -> None:
    app, batch = at_rig
    code = next_piece(app, batch)
    app.post(f"/batches/{batch}/pulls", {"code": code}, 201)
    app.post(f"/batches/{batch}/hand", {"do": "pull", "code": code, "seconds": 20})
    wait_for(lambda: app.get("/rig/live")["pull"]["peak_n"] > 150, "some load")
    # It moves on its way up: millimetres in a few seconds.
    wait_for(lambda: 0.01 < (app.get("/rig/live")["pull"]["travel_rate_mm_s"] or 0) < 50, "a speed")
    assert app.post("/rig/end")["state"] == "ended"
    proposal = app.get(f"/batches/{batch}/break")["loose"][0]["pull"]["proposal"]
    assert proposal["kind"] == "at_least"
    assert not proposal["reading"]["broke"]


def test_a_piece_that_held_is_pulled_again_and_keeps_both_readings(at_rig: tuple[App, int]) -> None:
    app, batch = at_rig
    code = next_piece(app, batch)
    app.observe(batch, code, kind="at_least", low="1400 N")
    assert "already done with" in app.post(f"/batches/{batch}/pulls", {"code": code}, 422)["detail"]
    number = app.post(f"/batches/{batch}/pulls", {"code": code, "again": True}, 201)["id"]
    app.post(f"/batches/{batch}/hand", {"do": "pull", "code": code, "seconds": 0.8})
    wait_for(lambda: app.get(f"/batches/{batch}/break")["loose"], "the break")
    assert app.get(f"/batches/{batch}/break")["loose"][0]["pull"]["id"] == number
    app.observe(batch, code, pull_id=number, low="", source="rig", failure_mode="wood-deep")
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert [(x["kind"], x["counts"]) for x in row["loadings"]] == [("at_least", False), ("exact", True)]
    assert app.get(f"/batches/{batch}/break")["loose"] == []


def test_a_saturated_rig_gives_a_lower_bound(tmp_path: Path) -> None:
    with running_rig(capacity_n=3000.0) as rig, open_app(tmp_path, rig.hand_port) as app:
        app.put("/rig", {**RIG, "capacity": 3000.0, "port": rig.url})
        batch = app.locked("pva-damp", "casein")
        wait_for(lambda: heard_s(app) > 0.7, "the rig")
        app.post("/rig/zero")
        pull(app, batch)
        proposal = app.get(f"/batches/{batch}/break")["loose"][0]["pull"]["proposal"]
        assert (proposal["kind"], proposal["bound_by"]) == ("at_least", "range")


def test_only_one_pull_at_a_time(at_rig: tuple[App, int]) -> None:
    app, batch = at_rig
    code = next_piece(app, batch)
    app.post(f"/batches/{batch}/pulls", {"code": code}, 201)
    assert "another pull" in app.post(f"/batches/{batch}/pulls", {"code": code}, 422)["detail"]
    assert "still going on" in app.observe(batch, code, 422, pull_id=1)["detail"]
    app.post("/rig/end")


def test_a_loaded_rig_must_be_unloaded_first(at_rig: tuple[App, int], rig: RigUnderTest) -> None:
    app, batch = at_rig
    rig.simulator.offset_n = 900.0
    wait_for(lambda: min(f for _, f in app.get("/rig/live")["points"][-8:]) > 800, "the load")
    assert "already shows" in app.post(f"/batches/{batch}/pulls", {"code": next_piece(app, batch)}, 422)["detail"]
    wait_for(lambda: abs(app.post("/rig/zero")["zero_n"] - 900) < 5, "zero")
    wait_for(lambda: abs(app.get("/rig/live")["force_n"]) < 30, "a load of nothing")


def test_a_discarded_pull_stays_on_record(at_rig: tuple[App, int]) -> None:
    app, batch = at_rig
    code, pull_id = pull(app, batch)
    app.post(f"/batches/{batch}/pulls/{pull_id}/discard", {"reason": "slipped"})
    view = app.get(f"/batches/{batch}/break")
    assert view["loose"] == []
    assert view["next"] == code
    assert app.get(f"/pulls/{pull_id}")["state"] == "discarded"
    assert len(app.get(f"/pulls/{pull_id}")["points"]) > 50
    again, second = pull(app, batch)
    assert again == code
    app.observe(batch, code, pull_id=second, source="rig")
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert any(f.startswith("loaded before the reading that counts: up to ") for f in row["flags"]), row["flags"]


def test_a_cable_pulled_out_in_the_middle_loses_nothing_and_is_a_bound(
    at_rig: tuple[App, int], rig: RigUnderTest
) -> None:
    """What came in is kept to the last sample; whether it broke meanwhile nobody saw, so the peak is only a bound."""
    app, batch = at_rig
    code = next_piece(app, batch)
    pull_id = int(app.post(f"/batches/{batch}/pulls", {"code": code}, 201)["id"])
    app.post(f"/batches/{batch}/hand", {"do": "pull", "code": code, "seconds": 4})
    wait_for(lambda: app.get("/rig/live")["pull"]["peak_n"] > 500, "some load")
    rig.hand(do="fault", name="drop", seconds=0.6)
    wait_for(lambda: app.get("/rig/live")["pull"]["state"] == "interrupted", "the loss is seen")
    wait_for(lambda: app.get("/rig/live")["status"] == "live", "the return")
    with app.context.db.read() as conn:
        rows = curves.curve(conn, pull_id)
    assert np.all(np.diff(rows[:, 0]) >= 0)
    proposal = app.get(f"/batches/{batch}/break")["loose"][0]["pull"]["proposal"]
    assert (proposal["kind"], proposal["bound_by"]) == ("at_least", "gap")
    assert proposal["reading"]["gaps"][-1]["to_s"] is None
    assert len(rows) == proposal["reading"]["samples"], "every sample that came is on disk"
    refused = app.observe(batch, code, 422, pull_id=pull_id, source="rig", failure_mode="in-glue")
    assert "no exact load" in refused["detail"]
    app.observe(batch, code, kind="at_least", pull_id=pull_id, source="rig")
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert any("lines were lost" in f for f in row["flags"])


def test_raw_data_go_to_disk_while_they_come_in(at_rig: tuple[App, int], tmp_path: Path) -> None:
    app, batch = at_rig
    app.post(f"/batches/{batch}/pulls", {"code": next_piece(app, batch)}, 201)
    with longest_stall(tmp_path) as stall:
        for target in (100, 200, 300):
            wait_for(lambda target=target: app.get("/rig/live")["pull"]["saved_samples"] >= target, "a chunk on disk")
            live = app.get("/rig/live")["pull"]
            unsaved_s = live["seconds"] - live["saved_samples"] / 200
            # At 200 a second less than half a second may wait, and a little for the polling.
            assert unsaved_s < 0.6 + stall()
    app.post("/rig/end")


def test_after_a_crash_the_pull_is_offered_as_interrupted(at_rig: tuple[App, int], tmp_path: Path) -> None:
    app, batch = at_rig
    code = next_piece(app, batch)
    pull_id = int(app.post(f"/batches/{batch}/pulls", {"code": code}, 201)["id"])
    wait_for(lambda: app.get("/rig/live")["pull"]["saved_samples"] > 100, "some data")
    with app.context.db.read() as conn:
        state = pulls.pull(conn, pull_id)
    assert state is not None
    assert state.state == "open", "as a killed process would leave it"
    with open_app(tmp_path) as after:
        loose = after.get(f"/batches/{batch}/break")["loose"]
        assert [(p["code"], p["pull"]["state"]) for p in loose] == [(code, "interrupted")]
        assert loose[0]["pull"]["proposal"]["reading"]["samples"] > 100
        assert after.context.db.check() == []


def test_without_a_rig_the_peak_is_typed(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = next_piece(app, batch)
    assert "Type the peak" in app.post(f"/batches/{batch}/pulls", {"code": code}, 422)["detail"]
    assert "no simulated rig" in app.post(f"/batches/{batch}/hand", {"do": "look"}, 422)["detail"]
    assert "No rig" in app.post("/rig/zero", status=422)["detail"]
    assert "no pull" in app.post("/rig/end", status=422)["detail"]
    app.observe(batch, code, low="5 kN")


def test_thinning_keeps_the_peak() -> None:
    points = [(i / 100, float(i % 97)) for i in range(10_000)]
    points[4321] = (43.21, 5000.0)
    points[77] = (0.77, -300.0)
    kept = [tuple(p) for p in thin(np.array(points), 500).tolist()]
    assert len(kept) <= 520
    assert (43.21, 5000.0) in kept
    assert (0.77, -300.0) in kept
    assert kept == sorted(kept)
    assert thin(np.array(points[:10]), 500).tolist() == [list(p) for p in points[:10]]


def test_a_rig_that_is_no_rig(app: App) -> None:
    with socket.create_server(("127.0.0.1", 0)) as server:
        port = server.getsockname()[1]
        app.put("/rig", {**RIG, "port": f"socket://127.0.0.1:{port}"})
        link, _ = server.accept()
        link.sendall(b"HTTP/1.1 200 OK\r\n" * 200)
        wait_for(lambda: app.get("/rig/live")["status"] == "garbled", "the complaint")
        assert "line format" in app.get("/rig/live")["message"]
        link.close()


def test_cycles_below_the_break_are_read_from_one_pull(at_rig: tuple[App, int], rig: RigUnderTest) -> None:
    """Loaded to some 60 %, let go, loaded again until it breaks: the pull goes on until it is ended by hand."""
    app, batch = at_rig
    code = next_piece(app, batch)
    pull_id = int(app.post(f"/batches/{batch}/pulls", {"code": code, "in_cycles": True}, 201)["id"])
    # Slowly: on a busy machine the release comes late, and must still come well below the break.
    app.post(f"/batches/{batch}/hand", {"do": "pull", "code": code, "seconds": 8})
    peak = 0.6 * rig.simulator.fate.load_n if rig.simulator.fate else 0.0
    wait_for(lambda: (app.get("/rig/live")["force_n"] or 0) > peak, "the first high")
    rig.hand(do="release")
    wait_for(lambda: (app.get("/rig/live")["force_n"] or 0) < 0.1 * peak, "the release")
    assert app.get("/rig/live")["pull"]["state"] == "open", "a release ends nothing"
    rig.hand(do="pump", seconds=1.5)
    wait_for(lambda: rig.simulator.broken, "the break")
    wait_for(lambda: (app.get("/rig/live")["force_n"] or 0) < 0.1 * peak, "nothing borne")
    app.post("/rig/end")
    found = wait_for(lambda: app.get(f"/pulls/{pull_id}")["course"], "the whole curve")
    assert found["cycles"][0]["load_n"] == pytest.approx(peak, rel=0.25)
    assert found["cycles"][0]["residual_mm"] > 0.02
    assert found["marks"]["peak"]["load_n"] > 1.3 * found["cycles"][0]["load_n"]
    assert found["figures"]["by_travel"]
    proposal = app.get(f"/batches/{batch}/break")["loose"][0]["pull"]["proposal"]
    assert (proposal["kind"], proposal["bound_by"]) == ("at_least", "cycles")
    app.observe(batch, code, pull_id=pull_id, low="", source="rig", failure_mode="in-glue")
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert row["kind"] == "exact", "whether the last fall was its break is for the person to say"


def test_a_pull_in_which_nothing_was_loaded_gives_no_load(at_rig: tuple[App, int]) -> None:
    """The highest of the noise was offered as the load at which it broke."""
    app, batch = at_rig
    code = next_piece(app, batch)
    number = app.post(f"/batches/{batch}/pulls", {"code": code}, 201)["id"]
    app.post("/rig/end")
    for kind in ("exact", "at_least"):
        refused = app.observe(batch, code, 422, kind=kind, low="", pull_id=number, source="rig")
        assert "shows no load" in refused["detail"]
