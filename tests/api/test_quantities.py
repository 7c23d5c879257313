"""What stands beside strength: an axis, a covariate within treatments, and a filter of pieces."""

from __future__ import annotations

import random
from typing import Any

import pytest

from tests.api.test_own_properties import write
from tests.api.test_planned_comparisons import factor, study
from tests.running import App


def with_foam(app: App, slope: float) -> tuple[int, dict[str, float]]:
    """Two glues with 6 pieces each; every millimetre of foam takes ``slope`` off the load of 4,000 or 3,000 N."""
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=6,
                  properties=[{"name": "Foam", "of": "joint", "when": "before", "unit": "mm"}])  # fmt: skip
    rng, foam = random.Random(3), {}
    for n, row in enumerate(app.get(f"/batches/{batch}/break")["rows"]):
        foam[row["code"]] = 1 + n % 6 + (2 if row["treatment"] == "B" else 0)
        load = (4000 if row["treatment"] == "A" else 3000) - slope * foam[row["code"]] + rng.gauss(0, 20)
        app.observe(batch, row["code"], low=f"{load:.0f} N", failure_mode="in-glue")
    write(app, batch, *(("p1", code, f"{v} mm") for code, v in foam.items()))
    return batch, foam


def foam_of(view: dict[str, Any]) -> dict[str, Any]:
    return next(q for q in view["quantities"] if q["name"] == "Foam")


def test_a_property_is_an_axis_and_a_covariate(app: App) -> None:
    batch, foam = with_foam(app, 150)
    q = foam_of(app.compare(batch, figure="load"))
    letter = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch}/break")["rows"]}
    for x in "AB":
        own = [v for c, v in foam.items() if letter[c] == x]
        assert q["means"][x] == pytest.approx(sum(own) / len(own))
        assert q["counts"][x] == 6
    said = q["within"]
    assert said.startswith("Within treatments the figure falls with foam: by 1")
    step = float(said.split("by ")[1].split(" N")[0])
    assert step == pytest.approx(150, abs=15)
    assert foam_of(app.compare(with_foam(app, 0)[0], figure="load"))["within"].startswith(
        "Within treatments the figure shows no tie to foam (12 pieces"
    )


def test_pieces_can_be_narrowed_to_a_range_and_it_is_said(app: App) -> None:
    batch, foam = with_foam(app, 150)
    view = app.compare(batch, figure="load", only="p1::4")
    assert sum(t["n"] for t in view["treatments"]) == sum(v <= 4 for v in foam.values())
    hollow = [m for t in view["treatments"] for m in t["marks"] if m["hollow"]]
    assert {m["code"] for m in hollow} == {c for c, v in foam.items() if v > 4}
    assert view["only"] == ["p1::4"]
    assert view["changed"]
    for wrong in ("foam:1:2", "p1:few:", "p1"):
        if wrong == "p1":
            assert app.compare(batch, only=wrong)["only"] == ["p1"], "no ends leave all in"
        else:
            assert app.get(f"/batches/{batch}/compare?only={wrong}", 422)["errors"][0]["field"] == "only"
