"""What was read of a piece: patched, never rewritten; void but not gone; one answer to what it says."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_exchange import export, rows_of
from tests.api.test_pulls import next_piece
from tests.protects.test_rig_facts import RIG, pulled, rig  # noqa: F401 -- the fixture
from tests.rig.harness import RigUnderTest
from tests.running import App


def row(app: App, batch: int, code: str) -> dict[str, Any]:
    return dict(next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code))


def joint(app: App, batch: int) -> str:
    return app.codes(batch, "joint")[0]


def test_a_correction_of_the_failure_mode_keeps_curve_and_source(app: App, rig: RigUnderTest) -> None:  # noqa: F811
    app.put("/rig", {**RIG, "port": rig.url})
    batch = app.locked("pva-damp", "casein")
    code, number = pulled(app, batch, rig, 4000)
    app.observe(batch, code, pull_id=number, low="", source="rig", failure_mode="in-glue")
    before = rows_of(export(app, batch))
    app.patch(f"/batches/{batch}/observations/{code}", {"failure_mode": "mixed"})
    after = rows_of(export(app, batch))
    changed = {
        k for b, a in zip(before, after, strict=True) for k in b if b[k] != a[k] and b["code"] == code
    }  # fmt: skip
    assert changed == {"failure_mode"}
    assert next(r["source"] for r in after if r["code"] == code) == "rig"


def test_a_held_reading_opened_and_saved_keeps_its_failure_mode(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = joint(app, batch)
    app.observe(batch, code, kind="at_least", low="6000 N", failure_mode="interface", wood_failure_pct=5)
    app.patch(f"/batches/{batch}/observations/{code}", {"note": "stopped at the weights' end"})
    found = row(app, batch, code)
    assert (found["kind"], found["failure_mode"], found["wood_failure_pct"]) == ("at_least", "interface", 5)


def test_void_keeps_its_load_in_sheet_file_and_plot(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = joint(app, batch)
    app.observe(batch, code, low="4321 N", failure_mode="in-glue")
    app.patch(f"/batches/{batch}/observations/{code}", {"kind": "void", "reason": "seated crooked"})
    found = row(app, batch, code)
    assert (found["kind"], found["low_n"], found["figure_low"]) == ("void", 4321.0, pytest.approx(4321 / 500))
    written = next(r for r in rows_of(export(app, batch)) if r["code"] == code)
    assert float(written["load_low_n"]) == 4321
    treated = app.compare(batch)["treatments"][0]
    mark = next(m for m in treated["marks"] if m["code"] == code)
    assert (mark["hollow"], mark["reason"]) == (True, "void: seated crooked")
    assert (treated["n"], treated["void"]) == (0, 1)


def test_elsewhere_is_a_bound_of_the_glue_and_a_load_of_the_joint_everywhere(app: App) -> None:
    """Queue, table, file and forecast give the same answer, for either question."""
    for target, known in (("adhesive", "at_least"), ("joint", "exact")):
        batch = app.locked("pva-damp", "casein", target=target)
        code = joint(app, batch)
        app.observe(batch, code, low="5000 N", failure_mode="elsewhere")
        found = row(app, batch, code)
        assert found["known"] == known
        assert found["figure_high"] == (None if known == "at_least" else pytest.approx(10))
        mark = next(m for t in app.compare(batch)["treatments"] for m in t["marks"] if m["code"] == code)
        assert mark["known"] == known


def test_a_moment_is_shown_as_a_moment(app: App) -> None:
    app.put("/settings", {"units": {"force": "lbf", "length": "in", "stress": "psi"}})
    batch = app.locked("pva-damp", "casein", method="racking", sizes={}, constants=bridle(app))
    view = app.get(f"/batches/{batch}/break")
    assert view["figure_dimension"] == "moment"
    assert app.get("/shop")["units"]["moment"] == "lbf·ft"
    assert app.compare(batch)["dimension"] == "moment"


def bridle(app: App) -> dict[str, Any]:
    batch = app.batch("for its constants")
    document = app.get(f"/batches/{batch}/plan")["document"]
    form = {"value": "mortise-tenon", "unit": ""}
    return {k: v for k, v in document["constants"].items() if k != "glue"} | {"form": form}


def test_a_joint_apart_on_its_way_leaves_the_queue_with_nothing_borne(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    app.glue(batch)
    code = joint(app, batch)
    app.clock.pass_(hours=5)
    app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    app.post(f"/batches/{batch}/joint-records", {"codes": [code], "kind": "inspected", "value": {"whole": "apart"}})
    view = app.get(f"/batches/{batch}/break")
    found = row(app, batch, code)
    assert view["next"] != code
    assert found["known"] == "below"
    app.observe(batch, code, 422, low="4000 N")


@pytest.mark.parametrize("stage", ["not glued", "not of age"])
def test_a_joint_before_its_time_is_asked_about_and_flagged(app: App, stage: str) -> None:
    batch = app.locked("pva-damp", "casein")
    if stage == "not of age":
        app.glue(batch)
        app.clock.pass_(hours=5)
        app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    code = joint(app, batch)
    asked = app.observe(batch, code, 422, low="4000 N", confirmed=[])
    assert asked["type"] == "/problems/doubt"
    assert [e["field"] for e in asked["errors"]] == ["early"]
    assert row(app, batch, code)["kind"] is None
    app.observe(batch, code, low="4000 N", confirmed=["early"])
    assert any("before its time" in f for f in row(app, batch, code)["flags"])


def test_a_typed_load_above_the_rig_is_asked_about_and_flagged(app: App) -> None:
    app.put("/rig", {**RIG, "capacity": 4000.0, "port": ""})
    batch = app.locked("pva-damp", "casein")
    code = next_piece(app, batch)
    asked = app.observe(batch, code, 422, low="9000 N")
    assert [e["field"] for e in asked["errors"]] == ["over capacity"]
    app.observe(batch, code, low="9000 N", confirmed=["early", "over capacity"])
    assert any("above the rig's range" in f for f in row(app, batch, code)["flags"])
