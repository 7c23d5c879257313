"""What is concluded stands beside what the figures say of it, with its scope; limits can only be commented on."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_planned_comparisons import factor, study
from tests.running import App, fields


@pytest.fixture
def told(app: App) -> tuple[App, int]:
    """Hide bears 22 % of solid wood, casein as much as the hide; one casein joint broke in the wood."""
    batch = study(app, factor("glue", "Glue", "hide", "casein"), control={"glue": "l1"}, n=4, solid_reference=4)
    seen: dict[str, int] = {}
    for r in app.get(f"/batches/{batch}/break")["rows"]:
        n = seen[r["treatment"]] = seen.get(r["treatment"], 0) + 1
        base = 5000 if r["role"] == "solid" else 1100
        mode = "wood-deep" if r["treatment"] == "B" and n == 2 else "in-glue"
        app.observe(batch, r["code"], low=f"{base * (1.02 if n % 2 else 0.98)} N", failure_mode=mode)
    return app, batch


def conclude(app: App, batch: int, status: int = 201, **said: Any) -> Any:
    return app.post(f"/batches/{batch}/conclusions", {"treatments": ["A"], "says": "same", "against": "C", **said},
                    status)  # fmt: skip


def test_a_conclusion_is_contradicted_with_the_figure(told: tuple[App, int]) -> None:
    app, batch = told
    conclude(app, batch, note="looks fine to me")
    (c,) = app.compare(batch)["conclusions"]
    assert c["text"] == "Hide nearly equals Solid ash."
    assert (c["state"], c["note"]) == ("contradicted", "looks fine to me")
    assert "22 %" in c["why"]
    assert c["scope"] == app.compare(batch)["scope"], "quoted elsewhere, it says what it holds for"


def test_the_piece_that_differs_is_named(told: tuple[App, int]) -> None:
    app, batch = told
    conclude(app, batch, says="alike", treatments=["A", "B"], against="")
    (c,) = app.compare(batch)["conclusions"]
    wood = next(r["code"] for r in app.get(f"/batches/{batch}/break")["rows"] if r.get("failure_mode") == "wood-deep")
    assert c["state"] == "contradicted"
    assert wood in c["why"]


def test_it_follows_the_figures_and_can_be_taken_back(told: tuple[App, int]) -> None:
    app, batch = told
    made = conclude(app, batch, says="share", share=0.2)
    assert app.compare(batch)["conclusions"][0]["state"] == "borne out"
    assert app.compare(batch, figure="load")["conclusions"][0]["state"] == "borne out"
    app.post(f"/batches/{batch}/conclusions/{made['id']}/gone")
    assert app.compare(batch)["conclusions"] == []
    app.post(f"/batches/{batch}/conclusions/{made['id']}/gone", status=422)
    app.post(f"/batches/{batch}/undo", {"stage": "compare"})
    assert len(app.compare(batch)["conclusions"]) == 1, "taking it back can be undone"


@pytest.mark.parametrize(("said", "field"), [
    ({"says": "beats"}, "says"), ({"treatments": []}, "treatments"), ({"treatments": ["Z"]}, "treatments"),
    ({"against": "A"}, "against"), ({"against": ""}, "against"), ({"says": "share", "share": 0}, "share"),
])  # fmt: skip
def test_what_cannot_be_held_against_figures_is_refused(
    told: tuple[App, int], said: dict[str, Any], field: str
) -> None:
    app, batch = told
    assert fields(conclude(app, batch, 422, **said)) == {field}
    assert app.compare(batch)["conclusions"] == []


def test_a_weak_point_stays_and_can_be_commented_on(told: tuple[App, int]) -> None:
    app, batch = told
    weak = [f["text"] for f in app.compare(batch)["caveats"]]
    app.post(f"/batches/{batch}/comments", {"about": weak[0], "text": "the next batch will have more"}, 201)
    view = app.compare(batch)
    assert [f["text"] for f in view["caveats"]] == weak
    assert [(c["about"], c["text"]) for c in view["comments"]] == [(weak[0], "the next batch will have more")]
    assert fields(app.post(f"/batches/{batch}/comments", {"about": weak[0], "text": " "}, 422)) == {"text"}
    assert fields(app.post(f"/batches/{batch}/comments", {"about": "", "text": "x"}, 422)) == {"about"}
