"""Planned blocks: each holds every treatment, is made or broken by itself, and is taken out of the comparison."""

from __future__ import annotations

from collections import Counter
from typing import Any

import pytest

from tests.api.test_exchange import bring, export, rows_of
from tests.api.test_schedule import at_the_bench, make
from tests.running import App, open_app


def blocked(app: App, kind: str = "day", count: int = 3, replicates: int = 6, **changes: Any) -> int:
    batch = app.planned("pva-damp", "casein", replicates=replicates, solid=3)
    app.draft(batch, blocks={"kind": kind, "count": count}, **changes)
    app.lock(batch)
    return batch


def block_of(app: App, batch: int) -> dict[str, str]:
    return {r["code"]: r["parent"] for r in app.get(f"/batches/{batch}/cut")["rows"]}


def glue_day_by_day(app: App, batch: int) -> None:
    """Glue each planned day on a day of its own, and let everything cure."""
    day = block_of(app, batch)
    for n in sorted(set(day.values())):
        codes = [c for c in app.codes(batch, "joint") if day[c] == n]
        app.glue(batch, codes)
        app.clock.pass_(hours=8)
        app.post(f"/batches/{batch}/unclamp", {"codes": codes})
        app.clock.pass_(hours=16)
    app.clock.pass_(days=3)


def test_every_day_holds_every_treatment_and_is_glued_by_itself(app: App) -> None:
    at_the_bench(app)
    batch = blocked(app)
    day = block_of(app, batch)
    rows = app.get(f"/batches/{batch}/cut")["rows"]
    held = Counter((day[r["code"]], r["treatment"]) for r in rows)
    assert held == {(f"day {n}", t): 2 if t in "AB" else 1 for n in (1, 2, 3) for t in "ABC"}
    order = [p["code"] for p in app.get(f"/batches/{batch}/glue")["pieces"]]
    assert [day[c] for c in order] == sorted(day[c] for c in order)
    for s in make(app, batch)["schedule"]["slots"]:
        if s["kind"] == "glue":
            assert len({day[c] for c in s["codes"]}) == 1


def test_set_ups_are_blocks_of_the_order_to_break(app: App) -> None:
    batch = blocked(app, "set-up", 2)
    where = block_of(app, batch)
    order = [where[r["code"]] for r in app.get(f"/batches/{batch}/break")["rows"]]
    assert order == sorted(order)
    assert set(order) == {"rig set-up 1", "rig set-up 2"}


@pytest.mark.parametrize(("count", "replicates", "said"), [(4, 6, "do not come out even"), (8, 6, "do not reach all")])
def test_blocks_that_cannot_be_even_are_told(app: App, count: int, replicates: int, said: str) -> None:
    batch = app.planned("pva-damp", "casein", replicates=replicates)
    app.draft(batch, blocks={"kind": "day", "count": count})
    assert any(said in c["text"] for c in app.get(f"/batches/{batch}/plan")["forecast"]["caveats"])


def test_days_are_taken_out_of_the_comparison_and_travel(app: App, tmp_path: Any) -> None:
    batch = blocked(app)
    glue_day_by_day(app, batch)
    day = block_of(app, batch)
    letters = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch}/cut")["rows"]}
    step: Counter[tuple[str, str]] = Counter()
    for code, letter in letters.items():
        # Days are 700 N apart and the glues 300 N; what is left is 10 N either way.
        n, step[letter, day[code]] = int(day[code][-1]), step[letter, day[code]] + 1
        load = 4000 + 700 * n + (300 if letter == "B" else 0) + (10 if step[letter, day[code]] == 1 else -10)
        app.observe(batch, code, low=f"{load} N", failure_mode="in-glue")
    view = app.compare(batch, figure="load")
    (found,) = view["within"]
    assert (found["name"], found["blocks"], found["taken_out_pct"] > 95) == ("day", 3, True)
    other = next(r for r in found["rows"] if r["letter"] == "B")
    assert other["diff"] == pytest.approx(300)
    assert other["ci_low"] > 280
    # With the days left in, six of each do not tell 300 N from nothing; within days they are.
    told = view["families"][0]["blocks"]
    assert told.startswith("Judged within 3 days")
    assert "(p < 0.001; left in, p = 0." in told
    assert "the same within 10 %" in view["answers"][0]["text"], "the answer takes the days out too"
    (only,) = view["families"][0]["comparisons"]
    assert (only["route"], only["outcome"]) == ("blocks", "same for practical purposes"), "6 %, where 10 % matters"
    with open_app(tmp_path) as elsewhere:
        elsewhere.clock.pass_(days=6)
        home = bring(elsewhere, export(app, batch))["batch_id"]
        assert block_of(elsewhere, home) == day
        assert elsewhere.compare(home, figure="load")["within"] == view["within"]


def test_days_that_were_glued_in_one_go_are_no_days(app: App) -> None:
    """Three planned days, all glued in one morning, or by nobody: nothing is judged within days; the page says so."""
    batch = blocked(app)
    for code in app.codes(batch):
        app.observe(batch, code, low="2000 N", failure_mode="in-glue")
    assert app.compare(batch)["within"] == []
    app.glue(batch)
    view = app.compare(batch)
    assert view["within"] == []
    said = [f["text"] for f in view["caveats"] if "spreads the pieces" in f["text"]]
    assert said == ["The plan spreads the pieces over 3 days; they were glued in 1."]


def test_corners_have_the_grain_of_their_form(app: App) -> None:
    """A mitre is not recorded, shown or exported as long grain to long grain, whatever the plan's usual grain is."""
    batch = app.planned("pva-damp", replicates=3)
    forms = {"key": "form", "name": "Form", "levels": [{"value": f} for f in ("mitre", "butt-corner", "mortise-tenon")]}
    usual = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, method="racking", factors=[forms], control={}, constants={**usual, "glue": {"value": "pva-damp"}})
    app.lock(batch)
    made = app.get(f"/batches/{batch}/plan")["forecast"]["treatments"]
    ways = ["angled", "long-end", "long-crossed"]
    assert [t["orientation"] for t in made if t["role"] == "joint"] == ways
    out = {(r["treatment"], r["orientation"]) for r in rows_of(export(app, batch)) if r["role"] == "joint"}
    assert out == set(zip("ABC", ways, strict=True))
