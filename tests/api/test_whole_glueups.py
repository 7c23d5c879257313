"""What is one for a whole glue-up: no two of its levels in one mix, on the schedule, at the bench or written down."""

from __future__ import annotations

from datetime import datetime
from typing import Any

import pytest

from tests.api.test_schedule import at_the_bench, make
from tests.running import App, fields

AIR = {"key": "air_c", "name": "Air temperature", "levels": [{"value": 8.0, "unit": "°C", "id": "l1"},
       {"value": 20.0, "unit": "°C", "id": "l2"}]}  # fmt: skip
OWN = {"key": "own", "name": "Mixer", "whole": True, "levels": [{"value": "by hand", "unit": "", "id": "l1"},
       {"value": "by drill", "unit": "", "id": "l2"}]}  # fmt: skip


def varied(app: App, factor: dict[str, Any]) -> int:
    batch = app.planned("pva-damp", "casein", replicates=4, solid=0)
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, factors=[factor], control={factor["key"]: "l1"},
              constants={**held, "glue": {"value": "pva-damp", "unit": ""}})  # fmt: skip
    return batch


@pytest.mark.parametrize("factor", [AIR, OWN])
def test_runs_hold_one_level(app: App, factor: dict[str, Any]) -> None:
    at_the_bench(app)
    batch = varied(app, factor)
    f = app.get(f"/batches/{batch}/plan")["forecast"]
    assert any(c["text"].startswith(f"{factor['name']} is one for a whole glue-up") for c in f["caveats"])
    app.lock(batch)
    letters = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch}/cut")["rows"]}
    for s in make(app, batch)["schedule"]["slots"]:
        if s["kind"] == "glue":
            assert len({letters[c] for c in s["codes"]}) == 1
    guide = app.get(f"/batches/{batch}/guide")
    assert len({p["treatment"] for p in guide["pieces"]}) == 1


def test_two_levels_are_not_written_down_as_one_glueup(app: App) -> None:
    batch = varied(app, OWN)
    app.lock(batch)
    refused = app.glue(batch, status=422)
    assert fields(refused) == {"codes"}
    assert "by hand" in refused["errors"][0]["message"]
    assert "by drill" in refused["errors"][0]["message"]
    letters = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch}/cut")["rows"]}
    for letter in "AB":
        app.glue(batch, [c for c, own in letters.items() if own == letter])
    assert len(app.get(f"/batches/{batch}/glue")["glueups"]) == 2
    tapped = {"kind": "mixed", "at": app.clock.at.isoformat(), "codes": list(letters)}
    assert fields(app.post(f"/batches/{batch}/taps", tapped, 422)) == {"codes.0"}


def test_a_bench_does_not_mix_two_levels(app: App) -> None:
    batch = varied(app, AIR)
    app.lock(batch)
    codes = app.codes(batch, "joint")
    tapped = {"kind": "mixed", "at": datetime.isoformat(app.clock.at), "codes": codes}
    refused = app.post(f"/batches/{batch}/taps", tapped, 422)
    assert fields(refused) == {"codes"}
    assert "8" in refused["errors"][0]["message"]


def test_what_is_in_the_way_of_a_move_is_said_and_other_batches_are_on_the_time_line(app: App) -> None:
    at_the_bench(app)
    one = app.locked("pva-damp", "casein", replicates=4, solid=0, name="Spruce")
    two = app.locked("epoxy-slow", "casein", replicates=4, solid=0, name="Second")
    first = make(app, one)["schedule"]
    second = make(app, two)["schedule"]
    busy = [(o["batch"], o["kind"], o["start"]) for o in second["others"]]
    assert busy == sorted((("Spruce", s["kind"], s["start"]) for s in first["slots"]), key=lambda o: o[2])
    run = next(s["run"] for s in second["slots"] if s["kind"] == "glue")
    glued = next(s for s in first["slots"] if s["kind"] == "glue")
    move = f"/batches/{two}/schedule/move"
    taken = app.post(move, {"run": run, "to": glued["start"]}, 422)
    assert "in use" in taken["detail"] or "the gluing of Spruce" in taken["detail"]
    night = app.post(move, {"run": run, "to": glued["start"][:11] + "23:30:00Z"}, 422)
    assert "its gluing lies outside of your hours" in night["detail"]
