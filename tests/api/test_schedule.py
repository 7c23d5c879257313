"""The schedule of a batch through the application: the bench, the search, what is glued already, the calendar."""

from __future__ import annotations

import itertools
import threading
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from icalendar import Calendar

from tests.rig.harness import wait_for
from tests.running import App, fields, open_app

HOURS = [[d, 8 * 60, 18 * 60] for d in range(7)]
PACE = {"mix_s": 180, "joint_s": 120, "unclamp_s": 30, "soak_s": 120, "break_s": 180, "saw_s": 60}


def clamps(app: App, label: str = "Bar clamps", count: int = 6, status: int = 200, **more: Any) -> Any:
    body = {"label": label, "kind": "bar", "count": count, "force_n": 3000.0, **more}
    return app.post("/clamps", body, status)


def at_the_bench(app: App) -> None:
    app.put("/working-hours", {"weekly": HOURS, "zone": "UTC", "pace": PACE, "tolerance": 0.05})
    clamps(app)


def make(app: App, batch: int, status: int = 200, **more: Any) -> Any:
    return app.post(f"/batches/{batch}/schedule", {"seek": False, **more}, status)


def when(text: str) -> datetime:
    return datetime.fromisoformat(text)


def test_the_bench_is_kept_and_wrong_hours_are_named(app: App) -> None:
    usual = app.get("/working-hours")
    assert usual["clamps"] == []
    at_the_bench(app)
    kept = app.get("/working-hours")
    assert (kept["weekly"], kept["pace"]) == (HOURS, PACE)
    wrong = {"weekly": [[7, 10, 5]], "zone": "Mars/Base", "pace": PACE}
    assert fields(app.put("/working-hours", wrong, 422)) == {"weekly.0", "zone"}
    assert fields(app.put("/working-hours", {"weekly": HOURS, "pace": {**PACE, "joint_s": 0}}, 422)) == {"pace.joint_s"}
    assert app.get("/working-hours")["weekly"] == HOURS


def test_clamps_come_and_go(app: App) -> None:
    made = clamps(app)["clamps"][0]
    assert "already" in clamps(app, status=422)["detail"]
    assert fields(clamps(app, "Iron", kind="weight", force_n=None, status=422)) == {"force_n"}
    assert fields(clamps(app, "Odd", kind="nail", count=0, status=422)) == {"kind", "count"}
    app.post(f"/clamps/{made['id']}/retire")
    assert app.get("/working-hours")["clamps"] == []
    clamps(app)
    app.post("/clamps/99/retire", status=404)


def test_the_weights_on_hand_stand_beside_the_forecast(app: App) -> None:
    batch = app.planned("pva-damp", "casein")
    assert app.get(f"/batches/{batch}/plan")["forecast"]["weights_n"] is None
    clamps(app, "Cast weights", 4, kind="weight", force_n=120.0)
    clamps(app)
    assert app.get(f"/batches/{batch}/plan")["forecast"]["weights_n"] == 480


def test_a_batch_is_scheduled_with_the_trade_between_blocks_and_loads(app: App) -> None:
    at_the_bench(app)
    batch = app.locked("pva-damp", "casein", replicates=6, solid=3)
    view = make(app, batch)
    s = view["schedule"]
    assert (s["unplaced"], s["late"], s["stale"]) == ([], [], False)
    glued = [c for slot in s["slots"] if slot["kind"] == "glue" for c in slot["codes"]]
    assert sorted(glued) == sorted(app.codes(batch, "joint"))
    for slot in s["slots"]:
        begin, end = when(slot["start"]), when(slot["end"])
        assert begin.hour >= 8
        assert (end.hour, end.minute) <= (18, 0)
    assert {t["style"] for t in view["trades"]} == {"blocks", "loads"}
    lanes = {(lane["clamp"], lane["number"]) for lane in s["lanes"]}
    assert len(lanes) <= 6
    assert make(app, batch, style="loads")["schedule"]["style"] == "loads"
    app.post(f"/batches/{batch}/undo", {"stage": "glue"})
    assert app.get(f"/batches/{batch}/schedule")["schedule"]["style"] == "blocks"


def test_without_clamps_or_joints_it_says_what_is_missing(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    assert "no clamp in the shop" in make(app, batch, 422)["detail"]
    draft = app.batch("Draft")
    assert "not locked" in make(app, draft, 422)["detail"]
    at_the_bench(app)
    assert fields(app.post(f"/batches/{batch}/schedule/what-if", {}, 422)) == {"schedule"}
    assert app.get(f"/batches/{batch}/schedule")["schedule"] is None


def test_two_batches_share_hands_and_clamps(app: App) -> None:
    at_the_bench(app)
    one = app.locked("pva-damp", "casein", replicates=4, solid=2)
    two = app.locked("epoxy-slow", "casein", replicates=4, solid=2, name="Second")
    slots = [s for b in (one, two) for s in make(app, b)["schedule"]["slots"]]
    spans = sorted((s["start"], s["end"]) for s in slots)
    for (_, end), (start, _) in itertools.pairwise(spans):
        assert end <= start


def test_reality_wins_what_is_glued_stays_and_lateness_is_told(app: App) -> None:
    at_the_bench(app)
    batch = app.locked("pva-damp", "casein", replicates=3, solid=2)
    first = make(app, batch)["schedule"]
    run = next(s for s in first["slots"] if s["kind"] == "glue")
    app.clock.at = when(run["start"])
    app.glue(batch, run["codes"])
    app.clock.pass_(hours=30)
    view = make(app, batch)["schedule"]
    assert any("unclamped" in text and "late" in text for text in view["late"])
    again = [c for s in view["slots"] if s["kind"] == "glue" for c in s["codes"]]
    assert set(again).isdisjoint(run["codes"])
    off = next(s for s in view["slots"] if s["kind"] == "unclamp" and s["run"] == 0)
    assert sorted(off["codes"]) == sorted(run["codes"])
    assert when(off["start"]) >= app.clock.at.replace(second=0)
    broken = [c for s in view["slots"] if s["kind"] == "break" for c in s["codes"]]
    assert sorted(broken) == sorted(app.codes(batch, "joint"))
    app.post(f"/batches/{batch}/unclamp", {"codes": run["codes"]})
    assert app.get(f"/batches/{batch}/schedule")["schedule"]["slots"][0]["done"]


def test_the_plan_and_the_fact_are_both_kept(app: App) -> None:
    at_the_bench(app)
    batch = app.locked("pva-damp", "casein", replicates=3, solid=2)
    assert app.get(f"/batches/{batch}/schedule")["adherence"] == []
    first = make(app, batch)["schedule"]
    run = next(s for s in first["slots"] if s["kind"] == "glue")
    off = next(s for s in first["slots"] if s["kind"] == "unclamp" and s["run"] == run["run"])
    app.clock.at = when(run["start"]) + timedelta(minutes=60)
    app.glue(batch, run["codes"])
    app.clock.at = when(off["start"]) + timedelta(hours=3)
    app.post(f"/batches/{batch}/unclamp", {"codes": run["codes"]})
    make(app, batch)
    kept = app.get(f"/batches/{batch}/schedule")["adherence"]
    many = len(run["codes"])
    # Written down as one glue-up an hour after the run was to begin; the joints of the run close one after the other.
    assert kept[0].startswith(f"{many} joints closed ")
    assert " late on average" in kept[0]
    assert kept[1].startswith(f"{many} joints taken out of the clamps 3.0 h late on average")
    assert app.compare(batch)["adherence"] == kept


def test_a_long_line_takes_several_clamps_and_fewer_under_a_caul(app: App) -> None:
    at_the_bench(app)
    # 150 mm of overlap, 20 mm of wood: a clamp every 40 mm makes four; under 30 mm of caul one every 100 makes two.
    sizes = {"width": 20.0, "overlap": 150.0, "thickness": 20.0}
    batch = app.locked("pva-damp", "casein", replicates=3, solid=2, sizes=sizes)
    first = app.get(f"/batches/{batch}/glue")["pieces"][0]
    # Two clamps on 150 mm stand 75 apart: 37.5 deep, of which the wood gives 20.
    assert (first["clamps_wanted"], first["cauls"]) == (4, [[1, 55], [2, 17.5], [3, 5]])
    make(app, batch)
    first = app.get(f"/batches/{batch}/guide")["pieces"][0]
    assert (first["clamps"], first["clamp"]) == (4, "Bar clamps 1, 2, 3, 4")
    clamps(app, "Under cauls", 4, caul_mm=30.0)
    make(app, batch)
    assert app.get(f"/batches/{batch}/guide")["pieces"][0]["clamps"] == 2
    assert fields(clamps(app, "Odd", caul_mm=900, status=422)) == {"caul_mm"}


def test_joints_hold_the_clamps_that_the_bench_took_down(app: App) -> None:
    at_the_bench(app)
    clamps(app, "Screw clamps", 2, force_n=2500.0)
    batch = app.locked("pva-damp", "casein", replicates=6, solid=2)
    first = make(app, batch)["schedule"]
    run = app.get(f"/batches/{batch}/guide")
    codes = [p["code"] for p in run["pieces"]]
    places = {p["code"]: p["clamp"] for p in run["pieces"]}
    headers = {"Idempotency-Key": "the-mix-key"}
    at = app.clock.at.isoformat()
    app.post(f"/batches/{batch}/taps", {"kind": "mixed", "at": at, "codes": codes}, **headers)
    for code in codes:
        app.post(f"/batches/{batch}/taps", {"kind": "clamped", "at": at, "code": code, "mix": "the-mix-key"})
    held = next(t for t in app.get(f"/batches/{batch}/guide")["tasks"] if t["kind"] == "unclamp")
    assert held["clamps"] == sorted(set(places.values()))
    # Scheduled again at once, no run takes those very clamps before they come off.
    again = make(app, batch)["schedule"]
    until = app.clock.at + timedelta(hours=3, minutes=30)
    early = [f"{x['clamp']} {x['number']}" for x in again["lanes"] if when(x["start"]) < until]
    assert len(early) + len(set(places.values())) <= 8
    assert first["slots"][0]["codes"] == codes


def test_an_age_in_the_night_is_explained(app: App) -> None:
    at_the_bench(app)
    evenings = [[d, 17 * 60, 22 * 60] for d in range(5)]
    app.put("/working-hours", {"weekly": evenings, "zone": "UTC", "pace": PACE, "tolerance": 0.05})
    batch = app.planned("pva-damp", "casein")
    constants = {**app.get(f"/batches/{batch}/plan")["document"]["constants"]}
    constants |= {"cure_s": {"value": 12 * 3600, "unit": "h"}, "clamp_s": {"value": 3600, "unit": "h"}}
    app.draft(batch, constants=constants)
    app.lock(batch)
    s = make(app, batch)["schedule"]
    assert len(s["unplaced"]) == 6
    reason = s["reasons"][0]
    assert "outside of your hours" in reason["text"]
    assert {r["kind"] for r in reason["remedies"]} >= {"cure_tol", "hours"}
    for remedy in reason["remedies"]:
        helped = make(app, batch, allowed=[{**remedy, "codes": reason["codes"]}])["schedule"]
        assert helped["unplaced"] == [], f"{remedy['text']}: it was to help"
        assert [a["text"] for a in helped["allowed"]] == [remedy["text"]]
    app.clock.pass_(minutes=30)
    again = make(app, batch)["schedule"]
    assert (again["unplaced"], len(again["allowed"])) == ([], 1), "what was allowed stays allowed"
    assert len(make(app, batch, allowed=[])["schedule"]["unplaced"]) == 6


def test_what_cannot_be_allowed_is_refused(app: App) -> None:
    at_the_bench(app)
    batch = app.locked("pva-damp", "casein", solid=2)
    for odd in ({"kind": "hours", "key": "soon"}, {"kind": "evening", "key": "9-1-2"}, {"kind": "magic"}):
        body = {"text": "odd", "amount": 1, **odd}
        assert make(app, batch, 422, allowed=[body])["errors"]
    assert app.get(f"/batches/{batch}/schedule")["schedule"] is None


def test_what_if_there_were_more_clamps(app: App) -> None:
    at_the_bench(app)
    batch = app.locked("pva-damp", "casein", replicates=12, solid=2)
    make(app, batch)
    kind = str(app.get("/working-hours")["clamps"][0]["id"])
    found = app.post(f"/batches/{batch}/schedule/what-if", {"clamps": {kind: 12}})
    assert found["finish"] <= found["before"]["finish"]
    assert found["unplaced"] == 0
    same = app.post(f"/batches/{batch}/schedule/what-if", {})
    assert same["finish"] == same["before"]["finish"]
    evening = {"kind": "evening", "text": "Sunday late", "amount": 0, "key": "6-1080-1320"}
    taken = make(app, batch, allowed=[{"kind": "clamps", "text": "12 more", "amount": 12, "key": kind}, evening])
    assert taken["schedule"]["finish"] < found["before"]["finish"]
    assert len({(lane["clamp"], lane["number"]) for lane in taken["schedule"]["lanes"]}) > 6


def test_a_run_is_moved_and_everything_checked_again(app: App) -> None:
    at_the_bench(app)
    batch = app.locked("pva-damp", "casein", replicates=6, solid=2)
    before = make(app, batch)["schedule"]
    first, second, *_ = (s for s in before["slots"] if s["kind"] == "glue")
    later = when(first["start"]) + timedelta(days=2)
    body = {"run": first["run"], "to": later.isoformat()}
    after = app.post(f"/batches/{batch}/schedule/move", body)["schedule"]
    slots = {(s["run"], s["kind"]): s["start"] for s in after["slots"]}
    assert timedelta() <= when(slots[first["run"], "glue"]) - later <= timedelta(minutes=15)
    assert slots[second["run"], "glue"] == second["start"], "the other run stays"
    age = when(slots[first["run"], "break"]) - when(slots[first["run"], "glue"])
    assert abs(age - timedelta(days=3)) < timedelta(hours=4)
    night = {"run": second["run"], "to": later.replace(hour=23).isoformat()}
    said = app.post(f"/batches/{batch}/schedule/move", night, 422)
    assert fields(said) == {"to"}
    assert "the next moment that will do is" in said["detail"]
    assert fields(app.post(f"/batches/{batch}/schedule/move", {**night, "run": 99}, 422)) == {"run"}
    dropped = app.post(f"/batches/{batch}/schedule/move", {**night, "snap": True})["schedule"]
    at = next(when(s["start"]) for s in dropped["slots"] if (s["run"], s["kind"]) == (second["run"], "glue"))
    assert at > later.replace(hour=23)
    assert at.hour >= 8, "put down in the night, it begins the next morning"
    app.post(f"/batches/{batch}/undo", {"stage": "glue"})
    app.post(f"/batches/{batch}/undo", {"stage": "glue"})
    assert app.get(f"/batches/{batch}/schedule")["schedule"]["slots"] == before["slots"]


def test_the_pace_is_learned_from_the_taps(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=6, solid=2)
    codes = [p["code"] for p in app.get(f"/batches/{batch}/guide")["pieces"]][:6]
    key = {"Idempotency-Key": "the-mix-key"}
    at = app.clock.at
    app.post(f"/batches/{batch}/taps", {"kind": "mixed", "at": at.isoformat(), "codes": codes, "bottle": ""}, **key)
    assert app.get("/working-hours")["learned_joint_s"] is None
    for seconds, code in zip((100, 190, 290, 400, 4000, 4095), codes, strict=True):
        app.clock.at = at + timedelta(seconds=seconds)
        tap = {"kind": "clamped", "at": app.clock.at.isoformat(), "code": code, "mix": "the-mix-key"}
        app.post(f"/batches/{batch}/taps", tap)
    # 90, 100, 110, (a pause), 95.
    assert app.get("/working-hours")["learned_joint_s"] == 98


def test_the_calendar_file_says_what_the_screen_says(app: App) -> None:
    at_the_bench(app)
    batch = app.locked("pva-damp", "casein", replicates=4, solid=2)
    slots = make(app, batch)["schedule"]["slots"]
    answer = app.client.get(f"/api/batches/{batch}/schedule.ics")
    assert answer.headers["content-type"].startswith("text/calendar")
    events = list(Calendar.from_ical(answer.content).walk("VEVENT"))
    read = sorted((e["dtstart"].dt, e["dtend"].dt, str(e["description"])) for e in events)
    assert read == sorted((when(s["start"]), when(s["end"]), ", ".join(s["codes"])) for s in slots)
    assert len({str(e["uid"]) for e in events}) == len(events)


@pytest.mark.slow
@pytest.mark.parametrize("stopped", [False, True])
def test_a_better_schedule_is_sought_and_the_search_can_be_stopped(app: App, stopped: bool) -> None:
    at_the_bench(app)
    batch = app.locked("pva-damp", "casein", "epoxy-slow", replicates=6, solid=2)
    first = make(app, batch, seek=True)
    assert first["seeking"]
    assert first["progress"]["finish"] <= first["schedule"]["finish"]
    assert 0 <= first["progress"]["share"] < 1
    if stopped:
        app.post(f"/batches/{batch}/schedule/stop")
    done = wait_for(lambda: (v := app.get(f"/batches/{batch}/schedule")) and not v["seeking"] and v, "the end", 60)
    assert done["progress"] is None
    before, after = first["schedule"], done["schedule"]
    assert after["unplaced"] == []
    late = when(before["finish"]) + timedelta(hours=11)
    assert when(after["finish"]) <= late, "at most later in the same visit"
    assert after["visits"] <= before["visits"]


def test_a_search_ends_with_the_program(tmp_path: Path) -> None:
    """A solver still at work when the program ended brought it down with an abort."""
    with open_app(tmp_path) as app:
        at_the_bench(app)
        batch = app.locked("pva-damp", "casein", "epoxy-slow", replicates=6, solid=2)
        assert make(app, batch, seek=True)["seeking"]
        assert [t for t in threading.enumerate() if t.name == f"schedule {batch}"]
    assert not [t for t in threading.enumerate() if t.name.startswith("schedule ")]
