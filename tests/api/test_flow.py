"""From a question to a verdict over HTTP, and what each stage says on the way."""

from __future__ import annotations

import csv
import io
import math
import re
import statistics
from typing import Any

import pytest

from tests.running import App, fields

LOADS = {
    "A": [5600.0, 5800.0, 6000.0],
    "B": [3900.0, 4100.0, 4000.0],
    "C": [5700.0, 5900.0, 5850.0],
    "D": [5200.0, 6400.0, 5800.0],
    "E": [7400.0, 7600.0, 7500.0],
}


def test_an_empty_workshop(app: App) -> None:
    today = app.get("/today")
    assert (today["due"], today["batches"], today["interrupted"]) == ([], [], [])
    shop = app.get("/shop")
    assert shop["rig"] is None
    assert shop["link"] == "off"


def test_the_whole_story(app: App) -> None:
    batch = app.planned()
    assert app.lock(batch) == {"pieces": 15}
    cells = [(c, q, t) for c in app.codes(batch) for q, t in (("width", "20"), ("overlap", "25.0 mm"))]
    assert app.sizes(batch, cells)["measured"] == 15
    glued = app.glue(batch, air_c=18.5, humidity_pct=52, bottle="Bottle 4")
    assert glued["glueups"][0]["in_clamps"] == 12
    assert all(p["pressure_mpa"] == pytest.approx(0.8) for p in glued["pieces"])
    app.clock.pass_(hours=4)
    assert app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")}) == {"pieces": 12}
    assert app.get(f"/batches/{batch}/glue")["glueups"][0]["in_clamps"] == 0
    app.clock.pass_(days=3)
    app.break_all(batch, LOADS)
    view = app.compare(batch)
    for row in view["treatments"]:
        expected = [x / 500 for x in LOADS[row["letter"]]]
        assert row["mean"] == pytest.approx(statistics.fmean(expected), rel=1e-12)
        assert row["sd"] == pytest.approx(statistics.stdev(expected), rel=1e-12)
        assert row["n"] == 3
    assert view["treatments"][1]["efficiency_pct"] == pytest.approx(100 * 4000 / 7500)
    assert re.search(r"Foaming polyurethane \(.*\) is weaker", view["answers"][0]["text"])
    loads = app.compare(batch, figure="load")
    assert loads["unit"] == "N"
    assert loads["treatments"][0]["mean"] == pytest.approx(5800)


def test_every_specimen_has_its_full_record(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    (cells, *_) = csv.DictReader(io.StringIO(app.client.get(f"/api/batches/{batch}/specimens.csv").text))
    wanted = (
        "species_a",
        "species_b",
        "orientation",
        "glue",
        "planned_pressure_mpa",
        "planned_clamp_s",
        "planned_cure_s",
        "prep",
    )
    assert all(cells[k] for k in wanted)


def test_today_shows_what_is_due(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    app.glue(batch)
    due = app.get("/today")["due"]
    assert [(d["stage"], d["pieces"], d["at"]) for d in due] == [("glue", 6, "2026-11-23T12:30:00.000Z")]
    app.clock.pass_(hours=5)
    app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    due = app.get("/today")["due"]
    assert [(d["stage"], d["at"]) for d in due] == [("break", "2026-11-26T08:30:00.000Z")]
    progress = app.get("/today")["batches"][0]
    assert (progress["joints"], progress["glued"], progress["in_clamps"], progress["observed"]) == (6, 6, 0, 0)


def test_the_plan_shows_what_it_can_find_out(app: App) -> None:
    plan = app.get(f"/batches/{app.planned(replicates=6, solid=4)}/plan")
    assert plan["forecast"]["pieces"] == 28
    assert plan["forecast"]["blanks"] == 52
    assert plan["forecast"]["areas"][0]["area_mm2"] == 500
    assert plan["forecast"]["treatments"][0]["clamp_force_n"] == pytest.approx(400)
    assert plan["forecast"]["reach"]["planned_pct"] > plan["forecast"]["reach"]["one_pair_pct"] > 20
    assert plan["forecast"]["problems"] == []
    assert [w["field"] for w in plan["forecast"]["caveats"]] == [
        "rig",
        "replicates",
        "constants.pressure_mpa",
        "constants.clamp_s",
        "constants.clamp_s",
    ]


def test_a_draft_may_be_incomplete_but_not_locked(app: App) -> None:
    batch = app.batch()
    view = app.draft(batch, question="Why?")
    assert {p["field"] for p in view["forecast"]["problems"]} == {"factors.0.levels"}
    assert fields(app.lock(batch, 422)) == {"factors.0.levels"}
    assert app.get(f"/batches/{batch}/plan")["kind"] == "draft"


def test_measured_area_changes_the_stress(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    app.sizes(batch, [(code, "width", "24.6"), (code, "overlap", "31.8")])
    app.observe(batch, code, low="5200 N")
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert row["figure_low"] == pytest.approx(6.647, abs=5e-4)
    assert row["measured"]
    assert row["uncertainty"] == pytest.approx(
        row["figure_low"] * math.hypot(0.5 / 5200, 0.05 / 24.6, 0.05 / 31.8), rel=1e-5
    )


def test_an_odd_size_is_questioned_not_refused(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    view = app.sizes(batch, [(code, "width", "3/4 in"), (code, "overlap", "2 in")])
    row = view["rows"][0]
    assert row["sizes"]["width"] == {"value": pytest.approx(19.05), "typed": "3/4 in"}
    assert "+103 % off" in row["question"]


def test_a_corrected_size_replaces_the_old_one(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    for text in ("20.1", "20.4", "20.2"):
        view = app.sizes(batch, [(code, "width", text)])
    assert view["rows"][0]["sizes"]["width"]["value"] == 20.2
    with app.context.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM measurement").fetchone()[0] == 3


def test_clamp_pressure_follows_force_and_area(app: App) -> None:
    batch = app.locked("pva-damp", "casein", sizes={"width": 50, "overlap": 70, "thickness": 40})
    code = app.codes(batch, "joint")[0]
    view = app.glue(batch, [code], force_n=2800.0, clamps=2, force_known="measured")
    piece = next(p for p in view["pieces"] if p["code"] == code)
    assert piece["pressure_mpa"] == pytest.approx(1.6)
    assert any("pressed otherwise than planned" in f for f in piece["flags"])
    assert any("pressed harder than its glue wants" in f for f in piece["flags"])


def test_unknown_force_stays_unknown(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    view = app.glue(batch, force_n=None)
    assert {p["pressure_mpa"] for p in view["pieces"]} == {None}
    assert view["glueups"][0]["glueup"]["force_known"] == "unknown"


def test_exceptions_by_piece(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    view = app.glue(batch)
    code = view["pieces"][0]["code"]
    app.post(f"/batches/{batch}/exceptions", {"code": code, "force_n": 800.0, "note": "clamped twice"})
    view = app.get(f"/batches/{batch}/glue")
    changed = [p for p in view["pieces"] if p["exception"]]
    assert [(p["code"], p["note"]) for p in changed] == [(code, "clamped twice")]
    assert changed[0]["pressure_mpa"] == pytest.approx(1.6)
    assert view["glueups"][0]["exceptions"] == 1


def test_past_its_clamp_time_is_flagged(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    app.glue(batch)
    app.clock.pass_(hours=5)
    assert all("past its clamp time" in p["flags"] for p in app.get(f"/batches/{batch}/glue")["pieces"])


def test_the_queue_is_random_and_out_of_turn_is_allowed(app: App) -> None:
    batch = app.locked()
    app.glue(batch)
    app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    app.clock.pass_(days=3)
    view = app.get(f"/batches/{batch}/break")
    codes = [r["code"] for r in view["rows"]]
    assert view["next"] == codes[0]
    assert [r["break_order"] for r in view["rows"]] == list(range(1, 16))
    assert codes != app.codes(batch)
    assert app.observe(batch, codes[5], low="4 kN")["next"] == codes[0]
    assert app.observe(batch, codes[0], low="4 kN")["next"] == codes[1]


def test_a_piece_still_in_the_clamp_is_pointed_out(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    rows = app.get(f"/batches/{batch}/break")["rows"]
    assert {r["ready"] for r in rows if r["role"] == "joint"} == {"not glued yet"}
    app.glue(batch)
    rows = app.get(f"/batches/{batch}/break")["rows"]
    assert {r["ready"] for r in rows if r["role"] == "joint"} == {"still in the clamp"}


KINDS: list[tuple[dict[str, Any], tuple[float | None, float | None]]] = [
    ({"kind": "exact", "low": "4.2 kN"}, (4200.0, 4200.0)),
    ({"kind": "exact", "low": "100 kg"}, (980.665, 980.665)),
    ({"kind": "between", "low": "180", "high": "210"}, (180.0, 210.0)),
    ({"kind": "at_least", "low": "2000"}, (2000.0, None)),
    ({"kind": "fell_apart"}, (0.0, 0.0)),
    ({"kind": "held", "low": "2000", "held": "1 min 15 s"}, (2000.0, None)),
    ({"kind": "void", "reason": "crooked"}, (None, None)),
]


@pytest.mark.parametrize(("body", "expected"), KINDS, ids=lambda v: v["kind"] if isinstance(v, dict) else "")
def test_every_kind_of_observation(app: App, body: dict[str, Any], expected: tuple[Any, Any]) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    app.observe(batch, code, **body)
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert (row["kind"], row["low_n"], row["high_n"]) == (body["kind"], *expected)
    assert row["held_s"] == (75.0 if body["kind"] == "held" else None)


def test_bounds_reach_the_table_as_bounds(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    loads = iter(["4000", "4200", "4400"])
    for row in app.get(f"/batches/{batch}/break")["rows"]:
        kind = "at_least" if row["treatment"] == "B" else "exact"
        app.observe(batch, row["code"], kind=kind, low=next(loads) if kind == "at_least" else "5000")
    row = app.compare(batch)["treatments"][1]
    assert row["bounded"]
    assert row["mean"] is None
    assert row["mean_low"] == pytest.approx(8.4)
    assert row["mean_high"] is None
    assert row["letters"] is None
    assert all(m["high"] is None for m in row["marks"])


def test_fallen_pieces_are_a_visible_switch(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    rows = app.get(f"/batches/{batch}/break")["rows"]
    fallen = next(r["code"] for r in rows if r["treatment"] == "A")
    for row in rows:
        app.observe(batch, row["code"], **({"kind": "fell_apart"} if row["code"] == fallen else {"low": "5000"}))
    zero, without = (app.compare(batch, fallen_as_zero=v)["treatments"][0] for v in ("true", "false"))
    assert (zero["n"], zero["mean"]) == (3, pytest.approx(20 / 3))
    assert (without["n"], without["mean"], without["fell_apart"]) == (2, pytest.approx(10), 1)


def test_void_pieces_are_counted_but_not_averaged(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=4)
    rows = [r for r in app.get(f"/batches/{batch}/break")["rows"] if r["treatment"] == "A"]
    app.observe(batch, rows[0]["code"], kind="void", reason="wrong fixture")
    for r in rows[1:]:
        app.observe(batch, r["code"], low="5000")
    row = app.compare(batch)["treatments"][0]
    assert (row["made"], row["void"], row["n"], row["mean"]) == (4, 1, 3, 10.0)


def test_units_are_the_users(app: App) -> None:
    units = {"length": "in", "force": "lbf", "stress": "psi", "temperature": "°F"}
    app.put("/settings", {"units": units, "person": "First maker"})
    assert app.get("/shop")["units"].items() >= units.items()
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    view = app.sizes(batch, [(code, "width", "3/4")])
    assert view["rows"][0]["sizes"]["width"]["value"] == pytest.approx(19.05)
    app.observe(batch, code, low="1000")
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert row["low_n"] == pytest.approx(4448.2216)


def test_typed_quantities_are_explained(app: App) -> None:
    got = app.post("/quantities", {"text": "3/4 in", "dimension": "length", "unit": "mm"})
    assert got == {"value": pytest.approx(19.05), "unit": "in", "shown": "3/4 in", "other": "19.1 mm"}
    assert fields(app.post("/quantities", {"text": "x", "dimension": "length", "unit": "mm"}, 422)) == {"value"}
    read = app.post("/batches/levels", {"field": "grit-size", "text": "0.3 mm"})
    assert [(x["value"], x["unit"]) for x in read["levels"]] == [(0.3, "mm")]


def test_bottles_and_rig(app: App) -> None:
    bottle = {"label": "Bottle 4", "family": "pva-damp", "opened_on": "2026-01-01", "expires_on": "2026-10-01"}
    shop = app.post("/bottles", bottle)
    assert shop["bottles"][0]["open_days"] == 326
    assert "53 days" in shop["bottles"][0]["warning"]
    assert fields(app.post("/bottles", bottle, 422)) == {"label"}
    rig = {"name": "Press", "capacity": 20000, "step": 1, "fixture": "Shear fixture 1"}
    first = app.put("/rig", rig)["rig"]["set_up"]
    assert first["fixture"] == "Shear fixture 1"
    assert app.put("/rig", rig)["rig"]["set_up"] == first, "nothing changed, so no new set-up"
    assert app.put("/rig", {**rig, "fixture": "Shear fixture 2"})["rig"]["set_up"]["id"] == first["id"] + 1


def test_results_across_set_ups_carry_a_warning(app: App) -> None:
    rig = {"name": "Press", "capacity": 20000, "step": 1, "fixture": "Fixture 1"}
    app.put("/rig", rig)
    batch = app.locked("pva-damp", "casein")
    for i, code in enumerate(app.codes(batch)):
        if i == 4:
            app.put("/rig", {**rig, "fixture": "Fixture 2", "reason": "new pin"})
        app.observe(batch, code, low="5000")
    weak = [s["text"] for s in app.compare(batch)["caveats"]]
    assert any("2 rig set-ups" in text for text in weak)


def test_out_of_turn_is_allowed_and_on_record(app: App) -> None:
    batch = app.locked("pva-damp", "casein", solid=0)
    queue = [r["code"] for r in app.get(f"/batches/{batch}/break")["rows"]]
    app.observe(batch, queue[0], low="5000 N")
    app.observe(batch, queue[4], low="5000 N")
    app.observe(batch, queue[1], low="5000 N")
    said = [a["summary"] for a in app.get(f"/batches/{batch}/history") if a["kind"] == "observe"]
    assert said == [
        f"Broke {queue[1]}",
        f"Broke {queue[4]} out of turn: {queue[1]} was next",
        f"Broke {queue[0]}",
    ]


def test_a_piece_beyond_the_tolerance_is_questioned_and_can_be_put_aside(app: App) -> None:
    batch = app.locked("pva-damp", "casein", tolerance_mm=0.5)
    first, second = app.codes(batch)[:2]
    rows = app.sizes(batch, [(first, "width", "20.8"), (second, "width", "20.4")])["rows"]
    assert rows[0]["question"] == "Width is 0.8 mm too large; the plan allows 0.5 mm."
    assert rows[1]["question"] is None
    app.observe(batch, first, kind="void", reason="out of tolerance")
    assert [r["aside"] for r in app.get(f"/batches/{batch}/cut")["rows"][:2]] == [True, False]
    assert app.compare(batch)["treatments"][0]["void"] == 1


def test_moisture_gap_and_mass_are_measured_too(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    view = app.sizes(batch, [(code, "gap", "1/32 in"), (code, "moisture", "9.5"), (code, "mass", "31 g")])
    sizes = {k: v["value"] for k, v in view["rows"][0]["sizes"].items()}
    assert sizes == {"gap": pytest.approx(0.794, abs=5e-4), "moisture": 9.5, "mass": 31.0}
    assert fields(app.sizes(batch, [(code, "moisture", "300")], 422)) == {f"{code} moisture"}
    assert not view["rows"][0]["measured"]


def test_guesses_are_sealed_at_the_lock_and_scored_afterwards(app: App) -> None:
    batch = app.planned("pva-damp", "casein", guesses={"glue=l1": 5500.0, "glue=l2": 2000.0})
    app.lock(batch)
    app.draft(batch, 422, guesses={"glue=l2": 9000.0})
    assert app.compare(batch)["guesses"] == []
    app.break_all(batch, {"A": [5000.0] * 3, "B": [4000.0] * 3, "C": [7000.0] * 3})
    view = app.compare(batch)
    assert [t["guessed_n"] for t in view["treatments"]] == [5500.0, 2000.0, None]
    assert view["guesses"] == ["Your guess put 1 of 1 pair in the right order; its loads were off by 30 % on average."]
