"""How joints are pressed, and times that are told afterwards: from the plan over the bench to flags and files."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest

from tests.api.test_exchange import bring, export, rows_of
from tests.running import START, App, open_app

PRESSED = ("nothing", "tape", 0.6)


def pressings(app: App, **changes: Any) -> tuple[int, dict[str, list[str]]]:
    """A batch that is pressed by nothing, by tape and by clamps: codes by treatment letter."""
    batch = app.planned("pva-damp", "casein")
    plan = app.get(f"/batches/{batch}/plan")["document"]
    levels = [{"value": v, "unit": "" if isinstance(v, str) else "MPa"} for v in PRESSED]
    held = {k: v for k, v in plan["constants"].items() if k != "pressure_mpa"}
    app.draft(
        batch, factors=[{"key": "pressure_mpa", "name": "Clamp pressure", "levels": levels}], control={},
        constants={**held, "glue": {"value": "pva-damp", "unit": ""}}, solid_reference=0, **changes,
    )  # fmt: skip
    app.lock(batch)
    codes: dict[str, list[str]] = {}
    for p in app.get(f"/batches/{batch}/glue")["pieces"]:
        codes.setdefault(p["treatment"], []).append(p["code"])
    return batch, codes


def piece(app: App, batch: int, code: str) -> dict[str, Any]:
    return next(p for p in app.get(f"/batches/{batch}/glue")["pieces"] if p["code"] == code)


def glue(app: App, batch: int, codes: list[str], expect: int = 200, **entry: Any) -> dict[str, Any]:
    return dict(app.post(f"/batches/{batch}/glueups", {"codes": codes, **entry}, expect))


def ago(**by: float) -> str:
    return (START - timedelta(**by)).isoformat()


def test_what_takes_no_clamp_is_in_none(app: App) -> None:
    batch, codes = pressings(app)
    glue(app, batch, codes["A"], pressed_by="nothing")
    glue(app, batch, codes["B"], pressed_by="tape")
    glue(app, batch, codes["C"], pressed_by="screw", force_n=300, force_known="measured")
    nothing, tape, clamped = (piece(app, batch, codes[k][0]) for k in "ABC")
    assert [p["pressure_mpa"] for p in (nothing, tape, clamped)] == [0.0, None, pytest.approx(0.6)]
    assert [p["clamp_until"] is None for p in (nothing, tape, clamped)] == [True, True, False]
    assert [g["in_clamps"] for g in app.get(f"/batches/{batch}/glue")["glueups"]] == [0, 0, len(codes["C"])]
    assert not any("planned" in f for p in (nothing, tape, clamped) for f in p["flags"])
    today = app.get("/today")
    assert [b["in_clamps"] for b in today["batches"]] == [len(codes["C"])]


def test_other_means_than_planned_are_a_flag_that_goes_with_the_piece(app: App) -> None:
    batch, codes = pressings(app)
    glue(app, batch, codes["A"], pressed_by="tape")
    said = "pressed by other means than planned: tape instead of nothing on it"
    assert said in piece(app, batch, codes["A"][0])["flags"]
    row = next(r for r in rows_of(export(app, batch)) if r["code"] == codes["A"][0])
    assert said in row["flags"]
    assert row["pressed_by"] == "tape"


@pytest.mark.parametrize(
    ("entry", "field"),
    [
        ({"pressed_by": "faith"}, "pressed_by"),
        ({"pressed_by": "tape", "force_n": 100}, "force_n"),
        ({"pressed_by": "tape", "unclamped_at": ago(hours=1), "started_at": ago(hours=3)}, "unclamped_at"),
        ({"started_at": ago(hours=3), "ended_at": ago(hours=4)}, "ended_at"),
        ({"started_at": ago(hours=3), "ended_at": ago(hours=2), "unclamped_at": ago(hours=2.5)}, "unclamped_at"),
        ({"started_at": ago(hours=3), "unclamped_at": ago(hours=-2)}, "unclamped_at"),
    ],
)
def test_what_cannot_have_been_is_refused_and_nothing_is_written(app: App, entry: dict[str, Any], field: str) -> None:
    batch, codes = pressings(app)
    problem = glue(app, batch, codes["C"], 422, **entry)
    assert [e["field"] for e in problem["errors"]] == [field]
    assert app.get(f"/batches/{batch}/glue")["glueups"] == []


def test_an_afternoon_is_written_down_in_the_evening_by_one_act(app: App) -> None:
    """Closings lie evenly between first and last, one is told by itself, and the clamps came off at six."""
    batch, codes = pressings(app)
    three = codes["C"]
    glue(
        app, batch, three, started_at=ago(hours=6), ended_at=ago(hours=5), force_n=300,
        closed_at={three[1]: ago(hours=5.75)}, unclamped_at=ago(hours=2), pressed_by="screw",
    )  # fmt: skip
    rows = {r["code"]: r for r in rows_of(export(app, batch))}
    held = [piece(app, batch, c)["clamp_s"] / 3600 for c in three]
    assert held == pytest.approx([4, 3.75, 3])
    (session,) = app.get(f"/batches/{batch}/glue")["glueups"]
    assert session["ended_at"] == session["glueup"]["ended_at"] == rows[three[0]]["glueup_ended_at"]
    assert all(rows[c]["glueup_ended_at"] and rows[c]["unclamped_at"] for c in three)
    # Four hours were planned: three is another time, and says so.
    said = "in clamps for another time than planned: 3 h instead of 4 h"
    assert said in piece(app, batch, three[2])["flags"]
    assert not any("another time" in f for f in piece(app, batch, three[0])["flags"])
    assert app.get(f"/batches/{batch}/glue")["glueups"][0]["in_clamps"] == 0


def test_a_taped_joint_goes_into_its_bath_without_being_unclamped(app: App) -> None:
    wet, wet_codes = pressings(
        app, extras=[{"label": "Wet", "changes": {"conditioning": {"value": "soak-24h", "unit": ""},
                      "pressure_mpa": {"value": "tape", "unit": ""}}, "replicates": 2, "control": None}]
    )  # fmt: skip
    soaked = next(own for own in wet_codes.values() if len(own) == 2)
    glue(app, wet, soaked, pressed_by="tape", started_at=ago(days=4))
    app.post(f"/batches/{wet}/condition", {"codes": soaked, "way": "in"})
    assert piece(app, wet, soaked[0])["in_at"]


def test_means_and_told_times_come_back_from_the_file(app: App, tmp_path: Any) -> None:
    batch, codes = pressings(app)
    glue(app, batch, codes["A"], pressed_by="nothing", started_at=ago(hours=6), ended_at=ago(hours=5))
    glue(app, batch, codes["B"], pressed_by="hand")
    text = export(app, batch)
    with open_app(tmp_path / "other") as other:
        made = bring(other, text)["batch_id"]
        again = rows_of(export(other, made))
        assert [t["label"] for t in other.compare(made)["treatments"]] == [
            "pressed by nothing", "pressed by tape", "clamp pressure 0.6 MPa"
        ]  # fmt: skip
    keys = ("code", "pressed_by", "glueup_ended_at", "pressure_mpa", "flags", "planned_clamp_s")
    assert [[r[k] for k in keys] for r in again] == [[r[k] for k in keys] for r in rows_of(text)]


def test_a_schedule_gives_tape_and_nothing_no_clamp(app: App) -> None:
    batch, codes = pressings(app)
    app.post("/clamps", {"label": "Bar", "kind": "bar", "count": 1, "force_n": 3000, "places": 1})
    view = app.post(f"/batches/{batch}/schedule", {"style": "blocks", "seek": False})
    schedule = view["schedule"]
    assert schedule["unplaced"] == []
    off = {c for s in schedule["slots"] if s["kind"] == "unclamp" for c in s["codes"]}
    assert off == set(codes["C"])
    assert {lane["clamp"] for lane in schedule["lanes"]} == {"Bar"}
    runs = sorted({s["run"] for s in schedule["slots"] if s["kind"] == "glue"})
    laid = [p for run in runs for p in app.get(f"/batches/{batch}/guide?run={run}")["pieces"]]
    force = {p["treatment"]: p["force_n"] for p in laid}
    assert force == {"A": None, "B": None, "C": pytest.approx(300)}
    assert {(p["treatment"], p["pressed_by"], p["clamp"][:3]) for p in laid} == {
        ("A", "pressed by nothing", ""), ("B", "pressed by tape", ""), ("C", "", "Bar"),
    }  # fmt: skip


def test_what_is_clamped_until_broken_is_offered_when_its_time_has_come(app: App) -> None:
    """Its break ends the clamping: nobody has to take a clamp off first, and the time in the clamp is its age."""
    batch = app.planned("pva-damp", "casein")
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    times = {"clamp_s": {"value": "until broken", "unit": ""}, "cure_s": {"value": 6 * 3600, "unit": "h"}}
    app.draft(batch, constants={**held, **times})
    app.lock(batch)
    codes = app.codes(batch, "joint")
    app.glue(batch, codes)
    view = app.get(f"/batches/{batch}/break")
    assert not set(codes) & set(view["order"])
    assert view["waiting"]["first_at"] is not None
    app.clock.pass_(hours=6)
    view = app.get(f"/batches/{batch}/break")
    assert set(codes) <= set(view["order"])
    assert view["waiting"]["first_at"] is None
    app.observe(batch, codes[0], low="3000 N", failure_mode="in-glue")
    glued = next(p for p in app.get(f"/batches/{batch}/glue")["pieces"] if p["code"] == codes[0])
    assert glued["clamp_until"] is None
    facts = app.get(f"/batches/{batch}/story/{codes[0]}")["facts"]
    assert any("in clamps 6 h" in f["text"] for f in facts)
