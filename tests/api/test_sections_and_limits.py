"""Solid wood of another section by a stated rule, and a usable limit read from the control's own curves."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_curves import RIG, send
from tests.api.test_planned_comparisons import factor, study
from tests.core.test_curve_file import by_hand
from tests.running import App, fields

BENT: dict[str, Any] = {"method": "bend-three-point", "sizes": {"width": 20, "depth": 18, "span": 240}}
CUBE = {"limits": [], "section": {"size": "depth", "power": 3, "source": "beam theory"}}


def bent(app: App, solid_depth: str = "21", judging: dict[str, Any] | None = None) -> int:
    """Two glues in bending; joints 18 mm deep break at 860 N, solid pieces at 2,100 N."""
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=4, solid_reference=4,
                  judging=judging or {"limits": []}, **BENT)  # fmt: skip
    rows = app.get(f"/batches/{batch}/break")["rows"]
    app.sizes(batch, [(r["code"], "depth", solid_depth) for r in rows if r["role"] == "solid"])
    wobble: dict[str, int] = {}
    for r in rows:
        n = wobble[r["treatment"]] = wobble.get(r["treatment"], 0) + 1
        base = 2100 if r["role"] == "solid" else 860
        # One part in a hundred up and down: the mean stays.
        load = base * (1.01 if n % 2 else 0.99)
        app.observe(batch, r["code"], low=f"{load} N", failure_mode="in-glue")
    return batch


def shares(app: App, batch: int, **query: Any) -> list[float]:
    return [t["efficiency_pct"] for t in app.compare(batch, **query)["treatments"] if t["role"] == "joint"]


def test_loads_of_a_deeper_solid_piece_are_scaled_by_the_cube(app: App) -> None:
    batch = bent(app, judging=CUBE)
    # 2,100 N times (18/21)^3 is 1,322 N; 860 of it is 65.0 %.
    assert shares(app, batch, figure="load") == [pytest.approx(65.03, abs=0.02)] * 2
    told = [c["text"] for c in app.compare(batch, figure="load")["caveats"] if c["weight"] == 0]
    assert any("count at 0.63 of themselves" in x and "beam theory" in x for x in told)


def test_without_a_rule_the_sections_are_pointed_out(app: App) -> None:
    batch = bent(app)
    assert shares(app, batch, figure="load") == [pytest.approx(100 * 860 / 2100)] * 2
    assert any("another section" in x for x in (c["text"] for c in app.compare(batch, figure="load")["caveats"]))


def test_a_strength_knows_its_section_whatever_the_rule(app: App) -> None:
    # Bending strength goes with the square of the depth: 3 F l / (2 b h^2).
    expected = 100 * (860 / 18**2) / (2100 / 21**2)
    assert shares(app, bent(app, judging=CUBE)) == [pytest.approx(expected)] * 2
    assert shares(app, bent(app)) == [pytest.approx(expected)] * 2


def test_the_same_section_needs_no_scaling(app: App) -> None:
    batch = bent(app, solid_depth="18", judging=CUBE)
    assert shares(app, batch, figure="load") == [pytest.approx(100 * 860 / 2100)] * 2


def test_bounds_keep_the_scale(app: App) -> None:
    """A joint that did not break is at least that share of solid wood as it counts."""
    batch = bent(app, judging=CUBE)
    code = next(r["code"] for r in app.get(f"/batches/{batch}/break")["rows"] if r["treatment"] == "A")
    app.observe_anew(batch, code, kind="at_least", low="860 N")
    found = next(t for t in app.compare(batch, figure="load")["treatments"] if t["letter"] == "A")
    assert found["bounded"]
    assert found["efficiency_pct"] == pytest.approx(65.0, abs=1.5)


def test_a_rule_names_a_size_that_there_is(app: App) -> None:
    batch = app.planned("pva-damp", "casein")
    for section, field in (({"size": "height", "power": 3}, "size"), ({"size": "width", "power": 0}, "power")):
        app.draft(batch, judging={"limits": [], "section": section})
        assert f"judging.section.{field}" in fields(app.lock(batch, 422))


def test_a_share_of_solid_wood_is_asked_of_the_strength_in_both_views(app: App) -> None:
    batch = bent(app, judging={"limits": [], "rule": {"of_solid": 0.5}})
    by_strength, by_load = (app.compare(batch, figure=f)["good_enough"]["rows"] for f in ("strength", "load"))
    assert [r["passed"] for r in by_strength] == [4, 4], "55.7 % of its strength"
    assert by_load == by_strength, "whichever figure is looked at"


def test_the_usable_limit_is_read_from_the_control_s_curves(app: App) -> None:
    app.put("/rig", RIG)
    judging = {"limits": [{"name": "gives", "value": 1, "figure": "load", "mark": "first_drop", "usable": True}],
               "rule": {"of_usable": 0.7}}  # fmt: skip
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=3, judging=judging)
    rows = app.get(f"/batches/{batch}/break")["rows"]
    control = [r["code"] for r in rows if r["treatment"] == "A"]
    others = [r["code"] for r in rows if r["treatment"] == "B"]
    before = app.compare(batch, figure="load")["good_enough"]
    assert before["limits"] == []
    said = [f["text"] for f in app.compare(batch)["caveats"]]
    assert "The line “gives” is not known: no curve of the control shows it yet." in said
    for code in control:
        send(app, "", by_hand(0.1), code=code, time=1, load=2)
        pull = app.get(f"/batches/{batch}/break")["loose"][0]["pull"]["id"]
        app.observe(batch, code, pull_id=pull, low="", source="rig", failure_mode="in-glue")
    for code, load in zip(others, (2040, 2020, 2030), strict=True):
        app.observe(batch, code, low=f"{load} N", failure_mode="in-glue")
    found = app.compare(batch, figure="load")["good_enough"]
    (limit,) = found["limits"]
    # The curve of the file gives way at 2,900 N first and breaks at 3,480 N.
    assert limit["value"] == pytest.approx(2900)
    assert limit["source"].startswith("curves of the control: the load before the first drop, mean of 3")
    of_b = next(r for r in limit["rows"] if r["letter"] == "B")
    assert of_b["mean_pct"] == pytest.approx(100 * 2030 / 2900)
    passed = {r["letter"]: r["passed"] for r in found["rows"]}
    assert passed == {"A": 3, "B": 2}, "seven tenths of it are 2,030 N"


def test_a_limit_with_a_mark_that_no_curve_has_is_refused(app: App) -> None:
    batch = app.planned("pva-damp", "casein")
    limit = {"name": "x", "value": 1, "figure": "load", "mark": "start"}
    plan = app.get(f"/batches/{batch}/plan")
    document = {**plan["document"], "judging": {"limits": [limit]}}
    body = {"version": plan["version"], "name": plan["name"], "document": document}
    assert app.client.put(f"/api/batches/{batch}/plan", json=body).status_code == 422
