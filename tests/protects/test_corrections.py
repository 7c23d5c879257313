"""A correction changes what it names, asks what a new reading is asked, and never makes a bound a load."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta
from typing import Any

import pytest

from tests.api.test_exchange import bring, export, rows_of
from tests.protects.test_reading_facts import joint, row
from tests.protects.test_rig_facts import RIG, heard_s, next_piece, seat
from tests.rig.harness import RigUnderTest, running_rig, wait_for
from tests.running import App, open_app


@pytest.fixture
def rig() -> Iterator[RigUnderTest]:
    with running_rig() as started:
        yield started


def correct(app: App, batch: int, code: str, status: int = 200, **changes: Any) -> Any:
    return app.patch(f"/batches/{batch}/observations/{code}", changes, status)


def bounded(app: App, batch: int, rig: RigUnderTest) -> str:
    """A piece whose signal was away at its break, saved as the bound that it is."""
    app.put("/rig", {**RIG, "port": rig.url})
    wait_for(lambda: heard_s(app) > 0.7, "the rig")
    code = next_piece(app, batch)
    number = app.post(f"/batches/{batch}/pulls", {"code": code, "confirmed": ["early"]}, 201)["id"]
    seat(rig, 5000)
    rig.hand(do="fault", name="silence", seconds=2.5, from_n=1500)
    rig.hand(do="pump", seconds=2.0)
    wait_for(lambda: app.get("/rig/live")["pull"]["state"] in ("ended", "interrupted"), "the end")
    app.observe(batch, code, kind="at_least", low="", pull_id=number, source="rig")
    return code


def test_a_bound_from_the_rig_is_no_load_by_a_change_of_its_kind(app: App, rig: RigUnderTest) -> None:
    batch = app.locked("pva-damp", "casein")
    code = bounded(app, batch, rig)
    for kind in ("exact", "held"):
        refused = correct(app, batch, code, 422, kind=kind, held="60 s")
        assert "this pull gives no exact load" in refused["detail"]
    assert row(app, batch, code)["known"] == "at_least"
    # Another instrument's peak may be typed, and then it is typed.
    correct(app, batch, code, kind="exact", low="5010 N")
    found = row(app, batch, code)
    assert (found["known"], found["low_n"]) == ("exact", 5010.0)
    assert next(r["source"] for r in rows_of(export(app, batch)) if r["code"] == code) == "typed"


def test_a_hole_in_the_signal_stays_with_the_piece_in_its_file(app: App, rig: RigUnderTest, tmp_path: Any) -> None:
    """The curve does not travel; that it had a hole at its break does."""
    batch = app.locked("pva-damp", "casein")
    code = bounded(app, batch, rig)
    flags = [f for f in row(app, batch, code)["flags"] if f.startswith("load not seen for a moment")]
    assert flags
    with open_app(tmp_path / "other") as other:
        made = bring(other, export(app, batch))["batch_id"]
        assert [f for f in row(other, made, code)["flags"] if f.startswith("load not seen")] == flags
        assert rows_of(export(other, made)) == rows_of(export(other, made))


@pytest.mark.parametrize(
    ("first", "change", "expected"),
    [
        ({"kind": "exact", "low": "4000 N"}, {"low": "4.2 kN"}, ("exact", 4200.0, 4200.0)),
        ({"kind": "exact", "low": "4000 N"}, {"kind": "at_least"}, ("at_least", 4000.0, None)),
        ({"kind": "at_least", "low": "4000 N"}, {"kind": "exact"}, ("exact", 4000.0, 4000.0)),
        ({"kind": "exact", "low": "4000 N"}, {"kind": "between", "high": "4500 N"}, ("between", 4000.0, 4500.0)),
        ({"kind": "between", "low": "4000 N", "high": "4500 N"}, {"kind": "exact"}, ("exact", 4000.0, 4000.0)),
        ({"kind": "exact", "low": "4000 N"}, {"kind": "fell_apart"}, ("fell_apart", 0.0, 0.0)),
        ({"kind": "exact", "low": "4000 N"}, {"kind": "void", "reason": "crooked"}, ("void", 4000.0, 4000.0)),
        ({"kind": "void", "low": "4000 N", "reason": "crooked"}, {"kind": "exact"}, ("exact", 4000.0, 4000.0)),
        ({"kind": "exact", "low": "4000 N"}, {"kind": "held", "held": "75 s"}, ("held", 4000.0, None)),
    ],
)  # fmt: skip
def test_loads_follow_the_kind_and_the_rest_stays(
    app: App, first: dict[str, Any], change: dict[str, Any], expected: tuple[str, float, float | None]
) -> None:
    batch = app.locked("pva-damp", "casein")
    code = joint(app, batch)
    app.observe(batch, code, failure_mode="mixed", wood_failure_pct=40, note="by hand", **first)
    correct(app, batch, code, **change)
    found = row(app, batch, code)
    assert (found["kind"], found["low_n"], found["high_n"]) == expected
    assert (found["failure_mode"], found["wood_failure_pct"], found["note"]) == ("mixed", 40, "by hand")
    assert app.get(f"/batches/{batch}/history")[0]["kind"] == "correct"
    app.post(f"/batches/{batch}/undo", {"stage": "break"})
    assert row(app, batch, code)["kind"] == first["kind"]


def test_another_moment_is_asked_about_like_a_new_reading(app: App) -> None:
    """Told as broken two days after gluing it is early; told as broken in time it is not any more."""
    batch = app.locked("pva-damp", "casein")
    joints = app.codes(batch, "joint")
    app.glue(batch)
    app.clock.pass_(hours=5)
    app.post(f"/batches/{batch}/unclamp", {"codes": joints})
    app.clock.pass_(hours=70)
    code = joints[0]
    app.observe(batch, code, low="4000 N", confirmed=[])
    assert not any("before its time" in f for f in row(app, batch, code)["flags"])
    earlier = (app.clock.at - timedelta(hours=30)).isoformat()
    asked = correct(app, batch, code, 422, at=earlier)
    assert (asked["type"], asked["errors"][0]["field"]) == ("/problems/doubt", "early")
    correct(app, batch, code, at=earlier, confirmed=["early"])
    assert any("before its time" in f for f in row(app, batch, code)["flags"])
    correct(app, batch, code, at=app.clock.at.isoformat())
    assert not any("before its time" in f for f in row(app, batch, code)["flags"])


@pytest.mark.parametrize("typed", ["9000 N", "9 kN"])
def test_a_load_typed_beside_a_pull_is_asked_about_too(app: App, rig: RigUnderTest, typed: str) -> None:
    app.put("/rig", {**RIG, "capacity": 8000.0, "port": rig.url})
    batch = app.locked("pva-damp", "casein")
    wait_for(lambda: heard_s(app) > 0.7, "the rig")
    code = next_piece(app, batch)
    number = app.post(f"/batches/{batch}/pulls", {"code": code, "confirmed": ["early"]}, 201)["id"]
    seat(rig, 7000)
    rig.hand(do="pump", seconds=0.6)
    wait_for(lambda: app.get("/rig/live")["pull"]["state"] == "ended", "the break")
    asked = app.observe(batch, code, 422, low=typed, pull_id=number)
    assert [e["field"] for e in asked["errors"]] == ["over capacity"]
    # What the rig read by itself is not asked about, and is flagged above the working share of 80 %.
    app.observe(batch, code, low="", pull_id=number, source="rig", failure_mode="in-glue")
    assert "load above the rig's working share" in row(app, batch, code)["flags"]


def test_nothing_to_correct_is_said(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    refused = correct(app, batch, joint(app, batch), 422, note="x")
    assert "has no result yet" in refused["detail"]
    assert correct(app, 777, "AAAA", 404, note="x")["status"] == 404


def test_a_correction_sent_twice_counts_once(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = joint(app, batch)
    app.observe(batch, code, low="4000 N")
    for _ in range(2):
        app.patch(f"/batches/{batch}/observations/{code}", {"low": "4100 N"}, **{"Idempotency-Key": "correct-0001"})
    app.post(f"/batches/{batch}/undo", {"stage": "break"})
    assert row(app, batch, code)["low_n"] == 4000.0


def test_a_correction_over_one_of_another_screen_is_refused_and_says_so(app: App) -> None:
    """Two tabs open the same reading: the second one to save sees what the first one made of it."""
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    app.observe(batch, code, low="4000 N", failure_mode="in-glue")

    def row() -> dict[str, Any]:
        return dict(next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code))

    seen = row()["reading_id"]
    path = f"/batches/{batch}/observations/{code}"
    app.patch(path, {"low": "4100 N", "base": seen})
    refused = app.patch(path, {"low": "4200 N", "base": seen}, 409)
    assert "4100" in refused["detail"].replace(" ", "").replace(",", "").replace("\u202f", "")
    assert row()["low_n"] == 4100
    app.patch(path, {"low": "4200 N", "base": row()["reading_id"]})
    assert row()["low_n"] == 4200


def test_a_correction_of_the_note_keeps_what_was_typed(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    app.observe(batch, code, low="4 kN", failure_mode="in-glue")
    app.patch(f"/batches/{batch}/observations/{code}", {"details": {"how": "about"}})
    facts = app.get(f"/batches/{batch}/story/{code}")["facts"]
    assert next(f["text"] for f in facts if f["name"] == "Load").endswith("as 4 kN")
