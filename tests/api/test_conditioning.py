"""Conditioning at the bench: in when the cure time is over, out again, and what Today says of it."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from tests.running import App, fields


def soaked(app: App, *levels: str, cure_h: float = 24) -> int:
    """Casein, dry and soaked, 2 of each, clamped for four hours."""
    wet = {"key": "conditioning", "name": "Conditioning", "levels": [{"value": v, "unit": ""} for v in levels]}
    batch = app.batch("Wet")
    plan = app.get(f"/batches/{batch}/plan")["document"]
    constants = {**plan["constants"], "glue": {"value": "casein", "unit": ""}}
    constants["cure_s"] = {"value": cure_h * 3600, "unit": "h"}
    app.draft(
        batch,
        question="Wet?",
        factors=[wet],
        constants=constants,
        control={"conditioning": "l1"},
        replicates=2,
        solid_reference=0,
    )
    app.lock(batch)
    return batch


def due(app: App) -> list[tuple[str, int]]:
    return [(d["what"], d["pieces"]) for d in app.get("/today")["due"]]


def of(app: App, batch: int, letter: str) -> list[Any]:
    return [p for p in app.get(f"/batches/{batch}/glue")["pieces"] if p["treatment"] == letter]


def test_a_soaked_joint_waits_for_its_bath_and_then_for_its_break(app: App) -> None:
    batch = soaked(app, "dry", "soak-24h")
    app.glue(batch)
    wet = [p["code"] for p in of(app, batch, "B")]
    early = app.post(f"/batches/{batch}/condition", {"codes": wet, "way": "in"}, 422)
    assert fields(early) == {"codes.0"}
    app.clock.pass_(hours=4)
    app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    assert due(app) == [("Into conditioning", 2), ("Break: cure time reached (Dry, indoors)", 2)]
    app.clock.pass_(hours=20)
    dry = of(app, batch, "A")[0]["code"]
    assert (
        "not to be conditioned" in app.post(f"/batches/{batch}/condition", {"codes": [dry], "way": "in"}, 422)["detail"]
    )
    app.post(f"/batches/{batch}/condition", {"codes": wet, "way": "in"})
    begun = app.clock.at
    assert fields(app.post(f"/batches/{batch}/condition", {"codes": wet, "way": "in"}, 422)) == {"codes.0"}
    rows = {r["code"]: r for r in app.get(f"/batches/{batch}/break")["rows"]}
    assert rows[wet[0]]["ready"] == "its conditioning is not over"
    assert datetime.fromisoformat(rows[wet[0]]["due_at"]) == begun + timedelta(hours=24)
    assert rows[dry]["ready"] is None
    app.clock.pass_(hours=24)
    assert {r["ready"] for r in app.get(f"/batches/{batch}/break")["rows"]} == {None}
    app.post(f"/batches/{batch}/undo", {"stage": "glue"})
    assert app.get(f"/batches/{batch}/break")["rows"][0]["ready"] in (None, "not conditioned yet")
    assert "not conditioned yet" in {r["ready"] for r in app.get(f"/batches/{batch}/break")["rows"]}


def test_dried_joints_come_out_first(app: App) -> None:
    batch = soaked(app, "dry", "soak-24h-dried")
    app.glue(batch)
    app.clock.pass_(hours=5)
    app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    codes = [p["code"] for p in of(app, batch, "B")]
    assert fields(app.post(f"/batches/{batch}/condition", {"codes": codes, "way": "out"}, 422)) == {"codes.0"}
    app.clock.pass_(hours=19)
    app.post(f"/batches/{batch}/condition", {"codes": codes, "way": "in"})
    assert ("Out of conditioning, to dry", 2) in due(app)
    app.clock.pass_(hours=24)
    app.post(f"/batches/{batch}/condition", {"codes": codes, "way": "out"})
    out = app.clock.at
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] in codes)
    assert datetime.fromisoformat(row["due_at"]) == out + timedelta(days=7)
    piece = of(app, batch, "B")[0]
    assert (piece["conditioning"], piece["out_at"] is not None) == ("Soaked 24 h, dried again", True)


def test_scheduled_runs_stand_on_today_and_lead_to_the_bench(app: App) -> None:
    hours = [[d, 8 * 60, 18 * 60] for d in range(7)]
    pace = {"mix_s": 180, "joint_s": 120, "unclamp_s": 30, "soak_s": 120, "break_s": 180}
    app.put("/working-hours", {"weekly": hours, "zone": "UTC", "pace": pace})
    app.post("/clamps", {"label": "Bar clamps", "kind": "bar", "count": 6, "force_n": 3000})
    batch = soaked(app, "dry", "soak-24h", cure_h=48)
    view = app.post(f"/batches/{batch}/schedule", {"seek": False})["schedule"]
    kinds = {s["kind"] for s in view["slots"]}
    assert {"glue", "unclamp", "soak", "break"} <= kinds
    first = app.get("/today")["due"][0]
    assert (first["stage"], first["what"]) == ("bench", f"Glue run {view['slots'][0]['run']}")
    guide = app.get(f"/batches/{batch}/guide")
    assert [p["code"] for p in guide["pieces"]] == view["slots"][0]["codes"]
    app.glue(batch, view["slots"][0]["codes"])
    runs = [d for d in app.get("/today")["due"] if d["stage"] == "bench"]
    assert len(runs) == sum(s["kind"] == "glue" for s in view["slots"]) - 1


def test_taps_make_a_glueup_and_a_key_counts_once(app: App) -> None:
    batch = soaked(app, "dry", "soak-24h")
    codes = [p["code"] for p in app.get(f"/batches/{batch}/guide")["pieces"]]
    at = app.clock.at.isoformat()

    def tap(key: str, status: int = 200, **body: Any) -> Any:
        headers = {"Idempotency-Key": key}
        return app.post(f"/batches/{batch}/taps", {"at": at, **body}, status, **headers)

    lost = tap("clamp-key-0", 422, kind="clamped", code=codes[0], mix="never")
    assert fields(lost) == {"mix"}
    for _ in range(2):
        tap("mix-key-1", kind="mixed", codes=codes, bottle="")
    tap("spread-key-1", kind="spread", code=codes[0], mix="mix-key-1")
    for _ in range(2):
        tap("clamp-key-1", kind="clamped", code=codes[0], mix="mix-key-1")
    tap("note-key-1", kind="note", code=codes[0], mix="mix-key-1", text="slipped")
    view = app.get(f"/batches/{batch}/glue")
    assert [(g["glueup"]["number"], g["pieces"]) for g in view["glueups"]] == [(1, 1)]
    guide = app.get(f"/batches/{batch}/guide")
    assert (guide["glueup"], guide["mix_key"]) == (1, "mix-key-1")
    assert [p["closed_at"] is not None for p in guide["pieces"]].count(True) == 1
    assert guide["pieces"][0]["notes"] == ["slipped"]
    assert fields(tap("clamp-key-2", 422, kind="clamped", code=codes[0], mix="mix-key-1")) == {"code"}
    later = (app.clock.at + timedelta(hours=1)).isoformat()
    assert fields(tap("spread-key-3", 422, kind="spread", code=codes[1], mix="mix-key-1", at=later)) == {"at"}
    before = (app.clock.at - timedelta(hours=1)).isoformat()
    assert fields(tap("clamp-key-4", 422, kind="clamped", code=codes[1], mix="mix-key-1", at=before)) == {"at"}
    app.post(f"/batches/{batch}/undo", {"stage": "glue"})
    assert app.get(f"/batches/{batch}/guide")["pieces"][0]["notes"] == []


def test_bottles_of_different_age_and_past_their_date_are_named(app: App) -> None:
    for label, opened, expires in (
        ("One", "2026-01-10", "2026-06-30"),
        ("Two", "2026-10-01", None),
        ("Three", "2026-10-20", None),
    ):
        body = {"label": label, "family": "pva-damp", "opened_on": opened, "expires_on": expires}
        app.post("/bottles", body)
    batch = app.locked("pva-damp", "casein", replicates=4)
    codes = [p["code"] for p in app.get(f"/batches/{batch}/glue")["pieces"] if p["glue"] == "pva-damp"]
    app.glue(batch, codes[:1], bottle="Two")
    assert app.glue(batch, codes[1:2], bottle="Three")["warnings"] == [], "19 days are no difference"
    said = app.glue(batch, codes[2:], bottle="One")["warnings"]
    assert said[0].startswith("Damp-proof PVA came from bottles opened at different times: ")
    assert said[1] == "One was past its date (2026-06-30) when it was used."


def test_the_glue_to_mix_follows_from_area_spread_and_waste(app: App) -> None:
    batch = soaked(app, "dry", "soak-24h")
    # Four joints of 20 x 25 mm, 180 g/m2 on one face, half as much again for waste.
    assert abs(app.get(f"/batches/{batch}/guide")["grams"] - 4 * 500e-6 * 180 * 1.5) < 1e-9
