"""What joints go through before they are broken: paths, the air of their stay, looks on the way, minutes out."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest

from tests.running import App, fields

H = 3600


def exposed(app: App, path: str, **changes: Any) -> tuple[int, list[str]]:
    """A batch whose joints go through ``path``, glued and out of their clamps."""
    batch = app.planned("pva-damp", "casein", solid=2, **changes)
    constants = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, constants={**constants, "conditioning": {"value": path, "unit": ""}})
    app.lock(batch)
    codes = app.codes(batch, "joint")
    app.glue(batch, codes)
    app.clock.pass_(hours=5)
    app.post(f"/batches/{batch}/unclamp", {"codes": codes})
    return batch, codes


def tell(app: App, batch: int, kind: str, codes: list[str], status: int = 200, **value: Any) -> Any:
    return app.post(f"/batches/{batch}/joint-records", {"kind": kind, "codes": codes, "value": value}, status)


def test_a_path_is_reckoned_and_followed(app: App) -> None:
    batch, codes = exposed(app, "soak 6 h at 18 °C, dry 12 h, soak 6 h")
    words = app.get(f"/batches/{batch}/glue")["pieces"][0]["conditioning"]
    assert words == "soak 6 h at 18 °C, dry 12 h, soak 6 h (24 h in all, 2 wet phases)"
    app.clock.pass_(hours=67)
    app.post(f"/batches/{batch}/condition", {"codes": codes, "way": "in"})
    tasks = app.get(f"/batches/{batch}/guide")["tasks"]
    change = next(t for t in tasks if t["kind"] == "change")
    assert change["what"] == "The next phase begins: dry"
    assert change["at"] == (app.clock.at + timedelta(hours=6)).strftime("%Y-%m-%dT%H:%M:%S.000Z")
    app.clock.pass_(hours=7)
    tasks = app.get(f"/batches/{batch}/guide")["tasks"]
    assert next(t for t in tasks if t["kind"] == "change")["what"] == "The next phase begins: soak"
    due = next(t for t in tasks if t["kind"] == "break")
    assert due["at"] == (app.clock.at + timedelta(hours=17)).strftime("%Y-%m-%dT%H:%M:%S.000Z")


def test_treatments_with_other_paths_are_other_treatments(app: App) -> None:
    batch = app.batch("Paths")
    paths = ("soak 6 h", "soak 6 h, dry 12 h, soak 6 h")
    levels = [{"value": p, "unit": ""} for p in paths]
    constants = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    constants = {**constants, "glue": {"value": "pva-damp", "unit": ""}}
    app.draft(batch, question="?", factors=[{"key": "conditioning", "name": "Conditioning", "levels": levels}],
                constants={k: v for k, v in constants.items() if k != "conditioning"})  # fmt: skip
    app.lock(batch)
    pieces = app.get(f"/batches/{batch}/glue")["pieces"]
    assert {(p["treatment"], p["conditioning"]) for p in pieces} == {
        ("A", "soak 6 h (6 h in all, 1 wet phase)"),
        ("B", "soak 6 h, dry 12 h, soak 6 h (24 h in all, 2 wet phases)"),
    }


def test_a_conditioning_without_times_cannot_be_locked(app: App) -> None:
    batch = app.planned("pva-damp", "casein")
    constants = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    view = app.draft(batch, constants={**constants, "conditioning": {"value": "salt spray", "unit": ""}})
    (wrong,) = view["forecast"]["problems"]
    assert (wrong["field"], "states no times" in wrong["message"]) == ("constants.conditioning", True)
    app.lock(batch, 422)


def test_minutes_out_of_the_bath(app: App) -> None:
    batch, codes = exposed(app, "soak 24 h")
    app.clock.pass_(hours=67)
    app.post(f"/batches/{batch}/condition", {"codes": codes, "way": "in"})
    app.clock.pass_(hours=24)
    app.post(f"/batches/{batch}/condition", {"codes": codes[:2], "way": "out"})
    app.clock.pass_(minutes=15)
    app.observe(batch, codes[0], low="3000 N", failure_mode="in-glue")
    app.clock.pass_(minutes=22)
    app.observe(batch, codes[1], low="3000 N", failure_mode="in-glue")
    late = next(f for f in app.compare(batch)["flags"] if f["kind"] == "out of the bath")
    assert late["codes"] == [codes[1]]
    row = next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == codes[1])
    assert "stood too long after its conditioning: 37 min" in row["flags"]


def test_looks_on_the_way_step_down(app: App) -> None:
    batch, codes = exposed(app, "weather 365 d", replicates=10)
    rows = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch}/break")["rows"]}
    own = [c for c in codes if rows[c] == "A"]
    app.clock.pass_(hours=-5)
    for days, whole in ((10, 10), (20, 7), (30, 2)):
        app.clock.pass_(days=days)
        for state, some in (("whole", own[:whole]), ("apart", own[whole:])):
            if some:
                tell(app, batch, "inspected", some, whole=state)
    (text,) = app.compare(batch)["inspected"]
    assert "10 of 10 whole on day 10, 7 of 10 whole on day 30, 2 of 10 whole on day 60" in text
    assert "lost 3 from day 10 to 30, 5 from day 30 to 60" in text


def hourly(app: App, days: int) -> str:
    lines = ["Time,Temperature (°C),Humidity (%)"]
    for n in range(24 * days):
        at = app.clock.at + timedelta(hours=n)
        lines.append(f"{at:%Y-%m-%d %H:%M},{10 + n / 24:.2f},{50 + 12 * (n // 24 % 2)}")
    return "\n".join(lines)


def test_a_piece_has_the_air_of_its_own_stay(app: App) -> None:
    batch, codes = exposed(app, "dry")
    answer = app.post("/climate", {"place": "Shelf A", "text": hourly(app, 40)})
    assert [(p["place"], p["readings"]) for p in answer["places"]] == [("Shelf A", 960)]
    app.clock.pass_(days=10)
    tell(app, batch, "place", codes[:1], where="Shelf A")
    app.clock.pass_(days=10)
    tell(app, batch, "place", codes[:1], where="the attic")
    app.clock.pass_(days=10)
    stood = app.get(f"/batches/{batch}/pieces/{codes[0]}")["stood"]
    assert stood[0][0] == "Shelf A"
    # Ten days from the tenth on: 20 to 30 degrees of a ramp of one a day.
    assert stood[0][1].startswith("20 to 30 °C (mean 25), 50 to 62 % humidity (mean 56)")
    assert stood[1] == ["the attic", "nothing was read"]
    (told,) = app.compare(batch)["inspected"]
    assert "1 piece kept at Shelf A, 20 to 30 °C (mean 25), 50 to 62 % humidity (mean 56)" in told
    assert app.get(f"/batches/{batch}/pieces/{codes[1]}")["stood"] == []


@pytest.mark.parametrize(
    ("text", "field"),
    [("", "text"), ("a,b\n1,2", "text"), ("time,temperature\n2026-01-01 00:00,hot", "row 2"),
     ("time;humidity\n2026-01-01 00:00;52,5\n2026-01-01 01:00;150", "row 3")],
)  # fmt: skip
def test_a_file_with_a_wrong_row_leaves_nothing_behind(app: App, text: str, field: str) -> None:
    assert fields(app.post("/climate", {"place": "Shelf A", "text": text}, 422)) == {field}
    assert app.get("/climate")["places"] == []


def test_a_logger_without_a_zone_writes_the_time_of_the_shop(app: App) -> None:
    pace = app.get("/working-hours")["pace"]
    app.put("/working-hours", {"weekly": [[0, 60, 120]], "zone": "Europe/Helsinki", "pace": pace})
    text = "time;temperature;humidity\n2026-01-01 00:00;17,5;52\n2026-01-01T00:00:00Z;18;53"
    (place,) = app.post("/climate", {"place": "Bath", "text": text})["places"]
    assert (place["first"], place["last"]) == ("2025-12-31T22:00:00.000Z", "2026-01-01T00:00:00.000Z")


def test_who_lasts_longer_at_the_looks_on_the_way(app: App) -> None:
    """PVA comes apart from the tenth day on, epoxy stays whole: survival steps at the looks, told apart by log-rank."""
    batch, codes = exposed(app, "weather 365 d", replicates=8)
    rows = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch}/break")["rows"]}
    own = {x: [c for c in codes if rows[c] == x] for x in "AB"}
    app.clock.pass_(hours=-5)
    for days, whole in ((10, 6), (20, 2), (30, 0)):
        app.clock.pass_(days=days)
        for state, some in (("whole", own["A"][:whole] + own["B"]), ("apart", own["A"][whole:])):
            if some:
                tell(app, batch, "inspected", some, whole=state)
    (found,) = app.compare(batch)["lasting"]
    assert found["kind"] == "looks"
    steps = [(round(s["time_s"] / 86400), s["whole"]) for s in found["steps"]["A"]]
    assert steps == [(10, 0.75), (30, 0.25), (60, 0.0)]
    assert found["steps"]["B"] == []
    assert found["p"] < 0.001
    assert "lasts longer than" in found["text"][0]
    assert len(found["pieces"]) == 16


def test_pieces_seen_at_one_look_have_one_age_though_they_were_closed_at_different_minutes(app: App) -> None:
    """Two groups glued minutes apart and looked at together: each look is one step, and days count from outside."""
    batch = app.planned("pva-damp", "epoxy-slow", replicates=4)
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, constants={**held, "conditioning": {"value": "weather 365 d", "unit": ""}})
    app.lock(batch)
    codes = app.codes(batch, "joint")
    for code in codes:
        app.glue(batch, [code])
        app.clock.pass_(minutes=3)
    app.clock.pass_(hours=48)
    app.post(f"/batches/{batch}/unclamp", {"codes": codes})
    app.post(f"/batches/{batch}/condition", {"codes": codes, "way": "in"})
    for days, apart in ((10, codes[:2]), (20, codes[2:4])):
        app.clock.pass_(days=days)
        tell(app, batch, "inspected", apart, whole="apart")
        tell(app, batch, "inspected", [c for c in codes if c not in codes[:4]], whole="whole")
    (found,) = app.compare(batch)["lasting"]
    times = {round(s["time_s"] / 86400, 4) for steps in found["steps"].values() for s in steps}
    assert times <= {10.0, 30.0}
