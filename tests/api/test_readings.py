"""Kinds of readings beside a plain load, through the application: what each gives, and where it is shown."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from tests.api.test_curves import RIG, send
from tests.api.test_exchange import bring, export, rows_of
from tests.api.test_instruments import read
from tests.running import App, open_app


@pytest.fixture
def batch(app: App) -> int:
    app.put("/rig", RIG)
    return app.locked("pva-damp", "casein")


def compared(app: App, batch: int, code: str, query: str = "") -> dict[str, Any]:
    view = app.get(f"/batches/{batch}/compare{query}")
    marks = [m for t in view["treatments"] for m in t["marks"]]
    without = {c: why for c, _, why in view["figureless"]}
    return {"known": "none", "why": without[code]} if code in without else next(m for m in marks if m["code"] == code)


def drops(*falls: tuple[float, float], peak: float, rate: float = 100.0, per_mm: float = 400.0) -> str:
    """A curve that rises at ``rate`` N/s, falls to the second load at the first of each pair, and breaks at its peak;
    with the travel in mm at ``per_mm`` N/mm."""
    rows, load, t, travel = ["time [s],load [N],travel [mm]"], 0.0, 0.0, 0.0
    left = list(falls)
    while load < peak:
        rows.append(f"{t:.2f},{load:.1f},{travel:.4f}")
        if left and load >= left[0][0]:
            load = left.pop(0)[1]
        t, load, travel = t + 0.05, load + rate / 20, travel + rate / 20 / per_mm
    rows += [f"{t:.2f},{peak},{travel:.4f}", *(f"{t + n / 20:.2f},0,{travel:.4f}" for n in range(1, 17))]
    return "\n".join(rows)


def pull(app: App, batch: int, code: str, text: str) -> int:
    send(app, "", text, code=code, time=1, load=2, travel=3)
    return int(app.get(f"/batches/{batch}/break")["loose"][0]["pull"]["id"])


def test_a_proof_load_stays_apart_from_strength(app: App, batch: int) -> None:
    """Held 2,000 N for 45 s, then failed."""
    a, b = app.codes(batch, "joint")[:2]
    app.observe(batch, a, kind="proof", low="2000 N", held="45 s", details={"ended": "failed"}, failure_mode="in-glue")
    app.observe(batch, b, kind="proof", low="", details={"ended": "held"})
    assert (read(app, batch, a)["kind"], read(app, batch, a)["held_s"]) == ("proof", 45)
    assert compared(app, batch, a)["why"] == "proof load: failed under 2000 N for 45 s"
    assert compared(app, batch, b)["why"] == "proof load: held under an unknown load"
    refused = app.observe(batch, app.codes(batch, "joint")[2], 422, kind="proof", low="2000 N")
    assert refused["errors"][0]["field"] == "details.ended"
    # One that held is loaded again to its break: that counts, and what went before is a flag.
    app.observe(batch, b, low="3000 N", again=True, failure_mode="in-glue")
    assert read(app, batch, b)["low_n"] == 3000
    assert "loaded before" in " ".join(read(app, batch, b)["flags"])


def test_two_readings_of_one_break_stay_and_one_is_chosen(app: App, batch: int, tmp_path: Path) -> None:
    """At least 300 N, then about 325 N."""
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, kind="at_least", low="300 N")
    app.observe(batch, a, low="325 N", beside=True, details={"how": "about"}, failure_mode="in-glue")
    row = read(app, batch, a)
    assert [(x["number"], x["beside"], x["counts"]) for x in row["loadings"]] == [(1, None, True), (2, 1, False)]
    assert not any("loaded before" in f for f in row["flags"])
    app.post(f"/batches/{batch}/loadings/{a}", {"loading": 2, "reason": "the gauge was filmed"})
    row = read(app, batch, a)
    assert (row["low_n"], row["details"]["how"]) == (325, "about")
    assert any("load read roughly" in f for f in row["flags"])
    with open_app(tmp_path / "other") as other:
        there = bring(other, export(app, batch))["batch_id"]
        there_row = read(other, there, a)
        assert (there_row["loadings"], there_row["flags"]) == (row["loadings"], row["flags"])


def test_at_most_is_a_range_that_begins_at_nothing(app: App, batch: int) -> None:
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, kind="between", low="0 N", high="400 N", failure_mode="in-glue")
    assert compared(app, batch, a)["known"] == "between"


def test_stages_and_directions_are_told_in_their_units(app: App, batch: int) -> None:
    a = app.codes(batch, "joint")[0]
    stages = [{"what": "crushed", "load": "0.9 kN"}, {"what": "pulled halfway", "load": ""}, {"what": "snapped"}]
    app.observe(batch, a, low="2100 N", failure_mode="mixed", details={"stages": stages, "direction": "opening"})
    row = read(app, batch, a)
    assert row["details"]["stages"] == [["crushed", 900.0], ["pulled halfway", None], ["snapped", None]]
    assert "crushed at 900 N, then pulled halfway, then snapped" in row["details_text"]
    app.patch(f"/batches/{batch}/observations/{a}", {"note": "wet"})
    assert read(app, batch, a)["details"] == row["details"]
    stages[0]["load"] = "much"
    refused = app.observe(batch, a, 422, low="2100 N", details={"stages": stages}, again=True)
    assert refused["errors"][0]["field"] == "details.stages.0"


def test_a_pull_off_the_middle_is_cleavage_and_gives_a_load_only(app: App, batch: int) -> None:
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, low="500 N", failure_mode="in-glue", details={"off_line": "30 mm"})
    assert any("cleavage: 30" in f for f in read(app, batch, a)["flags"])
    assert compared(app, batch, a)["known"] == "none"
    assert compared(app, batch, a, "?figure=load")["low"] == 500


def test_outcomes_in_the_plans_own_words(app: App) -> None:
    words = [{"word": "tears out", "mode": "wood-deep"}, {"word": "lifts clean", "mode": "interface"}]
    batch = app.locked("pva-damp", "casein", outcomes=words)
    a, b = app.codes(batch, "joint")[:2]
    details = {"outcome": "tears out", "side": "left", "tool": "chisel"}
    app.observe(batch, a, kind="seen", failure_mode="wood-deep", details=details)
    assert "from the left side; with chisel; tears out" in read(app, batch, a)["details_text"]
    wrong = app.observe(batch, b, 422, kind="seen", failure_mode="wood-deep", details={"outcome": "lifts clean"})
    assert "stands for at the interface" in wrong["detail"]
    unknown = app.observe(batch, b, 422, kind="seen", failure_mode="interface", details={"outcome": "y"})
    assert "none of the plan's words" in unknown["detail"]


def test_three_loads_of_a_curve_and_the_one_that_is_the_strength(app: App) -> None:
    """Drops at 1,200 and 1,750 N and a peak of 2,010 N: which counts is the plan's choice."""
    for strength, load in (("peak", 2010), ("first_drop", 1200)):
        batch = app.locked("pva-damp", "casein", strength=strength, name=strength)
        if strength == "peak":
            app.put("/rig", RIG)
        a, b = app.codes(batch, "joint")[:2]
        number = pull(app, batch, a, drops((1200, 1000), (1750, 1400), peak=2010))
        found = app.get(f"/pulls/{number}")["course"]
        assert [d["load_n"] for d in found["drops"]] == [1200, 1750, 2010]
        app.observe(batch, a, pull_id=number, low="", source="rig", failure_mode="in-glue")
        assert compared(app, batch, a, "?figure=load")["low"] == load
        app.observe(batch, b, low="1900 N", failure_mode="in-glue")
        assert compared(app, batch, b, "?figure=load")["known"] == ("exact" if strength == "peak" else "none")


def test_a_mark_is_moved_its_proposal_stays_and_the_load_follows(app: App, batch: int) -> None:
    a = app.codes(batch, "joint")[0]
    number = pull(app, batch, a, drops(peak=2000))
    view = app.get(f"/pulls/{number}")
    assert view["course"]["figures"]["stiffness"] == pytest.approx(400, rel=0.01)
    assert view["course"]["figures"]["energy_j"] == pytest.approx(5.0, rel=0.01)
    app.post(f"/pulls/{number}/marks", {"marks": {"peak": 15.0}})
    moved = app.get(f"/pulls/{number}")
    assert moved["by_hand"] == ["peak"]
    assert moved["course"]["marks"]["peak"]["load_n"] == 1500
    assert moved["proposal"]["course"]["marks"]["peak"]["load_n"] == 2000
    app.observe(batch, a, pull_id=number, low="", source="rig", failure_mode="in-glue")
    assert read(app, batch, a)["low_n"] == 1500
    assert any("moved by hand: peak" in f for f in read(app, batch, a)["flags"])
    # Moved once more after it was saved: the reading follows, and undo takes both back.
    app.post(f"/pulls/{number}/marks", {"marks": {"peak": 18.0}})
    assert read(app, batch, a)["low_n"] == 1800
    app.post(f"/batches/{batch}/undo", {"stage": "break"})
    assert read(app, batch, a)["low_n"] == 1500
    wrong = app.post(f"/pulls/{number}/marks", {"marks": {"peak": 99.0}}, 422)
    assert "not on this curve" in wrong["errors"][0]["message"]
    app.post(f"/pulls/{number}/marks", {"marks": {"straight_from": 14.0}}, 422)
    app.post(f"/pulls/{number}/marks", {"marks": {"nose": 1.0}}, 422)


def test_a_pace_that_was_missed_is_a_flag(app: App, tmp_path: Path) -> None:
    app.put("/rig", RIG)
    batch = app.locked("pva-damp", "casein", pace={"kind": "time", "low": 30, "high": 90})
    a, b = app.codes(batch, "joint")[:2]
    for code, rate in ((a, 250.0), (b, 50.0)):
        number = pull(app, batch, code, drops(peak=2000, rate=rate))
        app.observe(batch, code, pull_id=number, low="", source="rig", failure_mode="in-glue")
    flags = [f for f in read(app, batch, a)["flags"] if "pace" in f]
    assert len(flags) == 1
    assert "too fast: 8" in flags[0]
    assert not any("pace" in f for f in read(app, batch, b)["flags"])
    with open_app(tmp_path / "other") as other:
        there = bring(other, export(app, batch))["batch_id"]
        assert read(other, there, a)["flags"] == read(app, batch, a)["flags"], "it goes with its piece"
        times = [x.get(f"/batches/{n}/compare")["times_to_peak"] for x, n in ((app, batch), (other, there))]
        assert times[0] == times[1]


def test_the_raw_trace_leaves_as_it_came(app: App, batch: int) -> None:
    a = app.codes(batch, "joint")[0]
    number = pull(app, batch, a, drops(peak=1000))
    text = app.client.get(f"/api/pulls/{number}/trace.csv").text.splitlines()
    assert text[0] == "time [s],load [N],travel [mm],raw [N]"
    assert len(text) == 1 + drops(peak=1000).count("\n")
    assert text[21].split(",")[1] == "100.000"


def test_a_levers_own_weight_is_told_apart(app: App, batch: int) -> None:
    """150 N at the end of the arm, 12 N halfway, against: 144 N, which at 400 mm are 57.6 N m of 60.0."""
    lever = {**RIG, "instrument": {"measures": "force", "unit": "N", "own_n": 12, "own_at": -0.5}}
    state = app.put("/rig", lever)["rig_state"]
    assert any("against the load: 6" in w for w in state["words"])
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, low="150 N", failure_mode="in-glue")
    assert read(app, batch, a)["low_n"] == pytest.approx(144)
    assert read(app, batch, a)["low_n"] * 0.4 == pytest.approx(57.6)


def test_the_weakest_part_is_the_limit(app: App, batch: int) -> None:
    app.put("/rig", {**RIG, "weakest": "shackle", "weakest_n": 2500, "load_point": "middle"})
    view = app.get(f"/batches/{batch}/break")
    assert (view["limit_n"], view["weakest"]) == (2500, "shackle")
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, low="3000 N", failure_mode="in-glue")
    assert any("working share" in f for f in read(app, batch, a)["flags"])
    app.put("/rig", {**RIG, "weakest": "shackle", "weakest_n": -1}, 422)


def test_a_line_is_measured_in_several_places(app: App, batch: int) -> None:
    """0.16, 0.18 and 0.20 mm: 0.18 mm, which are 7.09 thousandths of an inch."""
    a = app.codes(batch, "joint")[0]
    app.glue(batch)
    for mm, where in ((0.16, "left"), (0.18, "middle"), (0.20, "right")):
        told = {"kind": "line", "codes": [a], "value": {"mm": mm, "where": where, "how": "loupe"}}
        app.post(f"/batches/{batch}/joint-records", told)
    app.post(
        f"/batches/{batch}/joint-records",
        {"kind": "prepared", "codes": [a], "value": {"what": "drilled", "size_mm": 6}},
    )
    text = read(app, batch, a)["line_text"]
    assert "line 0.18 mm (7.09 thousandths of an inch), the mean of 3 places" in text
    assert "drilled" in text


def test_what_a_gauge_without_a_piston_showed_is_kept_and_is_no_load(app: App, batch: int) -> None:
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, kind="seen", low="", failure_mode="in-glue", details={"shown": "6.5 MPa"})
    assert "its instrument showed 6.5 MPa" in read(app, batch, a)["details_text"]
    assert compared(app, batch, a)["known"] == "none"


def test_a_bucket_over_the_edge_and_a_longer_arm(app: App) -> None:
    """17.3 kg at 80 mm are 169.7 N and 13.57 N m; 150 N at 400 mm are 60.0 N m, at 250 mm 37.5, and that is flagged."""
    app.put("/rig", RIG)
    sizes = {"width": 50, "overlap": 25, "thickness": 20, "arm": 400}
    batch = app.locked("pva-damp", "casein", method="cantilever", sizes=sizes, solid=0)
    a, b, c = app.codes(batch, "joint")[:3]
    for code, arm, load in ((a, "", "150 N"), (b, "250 mm", "150 N"), (c, "80 mm", "17.3 kg")):
        if arm:
            app.sizes(batch, [(code, "arm", arm)])
        app.observe(batch, code, low=load, failure_mode="in-glue")
    found = [read(app, batch, x) for x in (a, b, c)]
    assert [f["figure_low"] for f in found] == pytest.approx([60.0, 37.5, 13.57], abs=0.005)
    assert found[2]["low_n"] == pytest.approx(169.7, abs=0.05)
    assert [any("another arm than planned" in x for x in f["flags"]) for f in found] == [False, True, True]


def test_held_and_hung_again_with_a_longer_arm(app: App) -> None:
    """All plates hang and it holds; with a longer arm the same plates break it: both loadings stay, each in order."""
    app.put("/rig", RIG)
    sizes = {"width": 50, "overlap": 25, "thickness": 20, "arm": 200}
    batch = app.locked("pva-damp", "casein", method="cantilever", sizes=sizes, solid=0)
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, kind="at_least", low="18.8 kg", held="60 s")
    app.sizes(batch, [(a, "arm", "400 mm")])
    app.observe(batch, a, kind="between", low="13.8 kg", high="16.3 kg", again=True, failure_mode="in-glue")
    row = read(app, batch, a)
    assert [(x["kind"], x["counts"]) for x in row["loadings"]] == [("at_least", False), ("between", True)]
    assert (row["figure_low"], row["figure_high"]) == pytest.approx((13.8 * 9.80665 * 0.4, 16.3 * 9.80665 * 0.4))
    assert any("loaded before" in f for f in row["flags"])
    # Each loading keeps its own arm: the first bore 18.8 kg at 200 mm, whichever of them counts.
    hung = [18.8 * 9.80665 * 0.2, 13.8 * 9.80665 * 0.4]
    assert [x["figure"] for x in row["loadings"]] == pytest.approx(hung)
    assert [x["arm_mm"] for x in row["loadings"]] == [200, 400]
    app.post(f"/batches/{batch}/loadings/{a}", {"loading": 1, "reason": "it twisted"})
    assert read(app, batch, a)["figure_low"] == pytest.approx(hung[0])


def test_compare_can_take_another_mark_for_the_strength(app: App, batch: int) -> None:
    """Planned was the peak; switched to the first drop it says so, and typed loads have none."""
    a, b = app.codes(batch, "joint")[:2]
    number = pull(app, batch, a, drops((1200, 1000), peak=2010))
    app.observe(batch, a, pull_id=number, low="", source="rig", failure_mode="in-glue")
    app.observe(batch, b, low="1900 N", failure_mode="in-glue")
    for strength, load, typed in (("", 2010, "exact"), ("first_drop", 1200, "none"), ("peak", 2010, "exact")):
        query = f"?figure=load&strength={strength}"
        assert compared(app, batch, a, query)["low"] == load
        assert compared(app, batch, b, query)["known"] == typed
        view = app.get(f"/batches/{batch}/compare{query}")
        assert (view["strength"], view["planned_strength"]) == (strength or "peak", "peak")
    assert set(view["strengths"]) == {"peak", "first_drop", "limit"}
    assert "without a curve the load before the first drop" in compared(app, batch, b, "?strength=first_drop")["why"]
    assert app.get(f"/batches/{batch}/compare?strength=nose", 422)["errors"][0]["field"] == "strength"


def test_the_peak_of_a_loading_that_does_not_count_is_followed_too(app: App, batch: int) -> None:
    a = app.codes(batch, "joint")[0]
    numbers = []
    for n, peak in enumerate((1500, 2000)):
        numbers.append(pull(app, batch, a, drops(peak=peak)))
        app.observe(
            batch, a, pull_id=numbers[-1], low="", source="rig", failure_mode="in-glue", kind="exact", again=n > 0
        )
    app.post(f"/pulls/{numbers[0]}/marks", {"marks": {"peak": 10.0}})
    loads = [(x["number"], x["low_n"], x["counts"]) for x in read(app, batch, a)["loadings"]]
    assert loads == [(1, 1000, False), (2, 2000, True)]


def test_lengths_of_a_pull_are_told_in_the_shops_unit(app: App, batch: int) -> None:
    a = app.codes(batch, "joint")[0]
    app.put("/settings", {"units": {"length": "in"}})
    app.observe(batch, a, low="500 N", failure_mode="in-glue", details={"off_line": "2"})
    row = read(app, batch, a)
    assert row["details"]["off_line_mm"] == pytest.approx(50.8)
    assert "pulled 2" in row["details_text"]
    assert "mm" not in row["details_text"]


def test_what_counts_as_wood_failure_leaves_with_the_file(app: App, batch: int) -> None:
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, low="3000 N", failure_mode="mixed", wood_failure_pct=20)
    app.post(f"/batches/{batch}/faces/{a}", {"how": "typed", "wood_pct": 60}, 200, **{"Adhaero-Person": "Bo"})
    row = next(r for r in rows_of(export(app, batch)) if r["code"] == a)
    assert (float(row["wood_failure_pct"]), float(row["wood_counted_pct"])) == (20, 40)


def test_a_plan_with_words_that_stand_for_nothing_is_not_locked(app: App) -> None:
    for outcomes, field in (
        ([{"word": "x", "mode": "none"}], "outcomes.0.mode"),
        ([{"word": "", "mode": "mixed"}], "outcomes.0"),
        ([{"word": "tears", "mode": "mixed"}, {"word": "Tears", "mode": "mixed"}], "outcomes.0"),
    ):
        refused = app.lock(app.planned("casein", "pva-damp", outcomes=outcomes), 422)
        assert field in [e["field"] for e in refused["errors"]]
    for changes, field in (
        ({"pace": {"kind": "time", "low": 90, "high": 30}}, "pace.high"),
        ({"overlap_most": 0.0}, "overlap_most"),
        ({"joint_off_mm": -1}, "joint_off_mm"),
    ):
        refused = app.lock(app.planned("casein", "pva-damp", **changes), 422)
        assert field in [e["field"] for e in refused["errors"]]


def test_a_second_result_of_a_piece_is_asked_about_and_the_first_stays_on_record(app: App, batch: int) -> None:
    """Two people at two screens, or a label that was misread."""
    a = app.codes(batch, "joint")[0]
    app.observe(batch, a, low="1650 N", failure_mode="in-glue")
    asked = app.observe(batch, a, 422, low="1500 N", failure_mode="in-glue")
    assert [e["field"] for e in asked["errors"]] == ["has a result"]
    assert "1650 N" in asked["errors"][0]["message"]
    assert read(app, batch, a)["low_n"] == 1650
    app.observe(batch, a, low="1500 N", failure_mode="in-glue", confirmed=["early", "has a result"])
    assert read(app, batch, a)["low_n"] == 1500
    told = [h["summary"] for h in app.get(f"/batches/{batch}/history")]
    assert any(f"Took the place of 1650 N of {a}" in s for s in told)
    # A bound stays a bound in words, too.
    app.observe_anew(batch, a, kind="at_least", low="1700 N")
    asked = app.observe(batch, a, 422, low="1500 N", failure_mode="in-glue")
    assert "has at least 1700 N already" in asked["errors"][0]["message"]


def test_all_that_is_doubted_of_a_reading_is_asked_at_once(app: App, batch: int) -> None:
    """Asked one after the other, an answer to the one would forget the answer to the other, for ever."""
    app.put("/rig", {**RIG, "capacity": 4000})
    a, b = app.codes(batch, "joint")[:2]
    body = {"code": a, "kind": "exact", "low": "5000 N", "failure_mode": "in-glue"}
    asked = app.post(f"/batches/{batch}/observations", body, 422)
    keys = [e["field"] for e in asked["errors"]]
    assert sorted(keys) == ["early", "over capacity"]
    app.post(f"/batches/{batch}/observations", {**body, "confirmed": keys})
    assert read(app, batch, a)["low_n"] == 5000
    # A rig that was overloaded is one more of them.
    keys = [e["field"] for e in app.post(f"/batches/{batch}/observations", {**body, "code": b}, 422)["errors"]]
    assert sorted(keys) == ["early", "not looked over", "over capacity"]
    app.post(f"/batches/{batch}/observations", {**body, "code": b, "confirmed": keys})


@pytest.mark.parametrize(
    ("typed", "asked"),
    [("4013 N", "finer than the step"), ("4020 N", ""), ("20000 N", "at capacity"), ("410 kgf", ""), ("4.02 kN", "")],
)
def test_what_a_gauge_cannot_show_is_asked_about(app: App, typed: str, asked: str) -> None:
    """A gauge up to 20 kN in steps of 20 N: what lies between two marks, and what is its very end."""
    app.put("/rig", {**RIG, "capacity": 20_000.0, "step": 20.0})
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    body = {"code": code, "kind": "exact", "low": typed, "failure_mode": "in-glue", "confirmed": ["early"]}
    answer = app.client.post(f"/api/batches/{batch}/observations", json=body)
    assert [e["field"] for e in answer.json().get("errors", [])] == ([asked] if asked else [])
    if asked:
        app.observe(batch, code, low=typed, confirmed=["early", asked])
        row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
        assert any("gauge reads" in f or "end of the rig" in f for f in row["flags"])


def test_a_face_that_contradicts_its_failure_mode_is_asked_about(app: App) -> None:
    app.put("/rig", RIG)
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    glue = {"low": "4000 N", "failure_mode": "in-glue", "wood_failure_pct": 100}
    assert "contradict each other" in app.observe(batch, code, 422, **glue)["detail"]
    app.observe(batch, code, low="4000 N", failure_mode="wood-deep", wood_failure_pct=100)


def test_a_reading_shows_what_was_typed_and_what_follows(app: App) -> None:
    """A gauge on a lever of 2 : 1 shows 150 N: the piece carried 300 N."""
    app.put("/rig", {**RIG, "instrument": {"lever": 2.0}})
    batch = app.locked("pva-damp", "casein")
    first, second = app.codes(batch, "joint")[:2]
    app.observe(batch, first, low="150 N")
    app.observe(batch, second, kind="fell_apart", low="", failure_mode="interface")

    def load(code: str) -> str:
        facts = app.get(f"/batches/{batch}/story/{code}")["facts"]
        return str(next(f["text"] for f in facts if f["name"] == "Load"))

    assert "300" in load(first)
    assert load(first).endswith("typed in as 150 N")
    assert load(second) == "none: it fell apart before it was loaded"


def test_the_step_of_a_gauge_is_told_in_the_unit_that_is_typed(app: App) -> None:
    app.put("/settings", {"units": {"force": "lbf"}})
    app.put("/rig", {**RIG, "capacity": 22_000.0, "step": 22.2411})
    batch = app.locked("pva-damp", "casein")
    asked = app.observe(batch, app.codes(batch, "joint")[0], 422, low="402 lbf", failure_mode="in-glue")
    assert "steps of 5 lbf" in asked["detail"].replace("\u00a0", " ")
