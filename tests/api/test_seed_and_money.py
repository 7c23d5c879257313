"""What a batch is drawn from and counted in: its seed, its months and years, its currency."""

from __future__ import annotations

from typing import Any

import pytest

from tests.running import App


def orders(app: App, batch: int) -> list[tuple[str, int, int]]:
    """Treatment and place in the order to glue, in the order to break."""
    glue = {p["code"]: p["glue_order"] for p in app.get(f"/batches/{batch}/glue")["pieces"]}
    rows = app.get(f"/batches/{batch}/break")["rows"]
    return [(r["treatment"], r["break_order"], glue.get(r["code"], 0)) for r in rows]


def lock(app: App, batch: int, expect: int = 200, **seed: Any) -> Any:
    version = app.get(f"/batches/{batch}/plan")["version"]
    return app.post(f"/batches/{batch}/lock", {"version": version, **seed}, expect)


def test_a_typed_seed_gives_the_same_orders_again_with_codes_of_their_own(app: App) -> None:
    first, second, third = (app.planned("pva-damp", "casein") for _ in range(3))
    lock(app, first, seed=41)
    lock(app, second, seed=41)
    lock(app, third)
    assert orders(app, first) == orders(app, second)
    assert orders(app, first) != orders(app, third)
    assert [app.get(f"/batches/{b}/plan")["seed"] for b in (first, second)] == [41, 41]
    codes = [{r["code"] for r in app.get(f"/batches/{b}/break")["rows"]} for b in (first, second)]
    assert codes[0].isdisjoint(codes[1])


@pytest.mark.parametrize("seed", [-1, 2**54, "today", 1.5])
def test_what_is_no_seed_is_refused(app: App, seed: Any) -> None:
    batch = app.planned("pva-damp", "casein")
    problem = lock(app, batch, 422, seed=seed)
    assert problem["errors"][0]["field"] == "seed"
    assert app.get(f"/batches/{batch}/plan")["kind"] == "draft"


def test_the_same_lock_sent_twice_with_another_seed_is_no_resend(app: App) -> None:
    batch = app.planned("pva-damp", "casein")
    version = app.get(f"/batches/{batch}/plan")["version"]
    one = {"version": version, "seed": 7}
    headers = {"Idempotency-Key": "lock-once"}
    done = [app.client.post(f"/api/batches/{batch}/lock", json=one, headers=headers) for _ in range(2)]
    assert [d.status_code for d in done] == [200, 200]
    other = app.client.post(f"/api/batches/{batch}/lock", json={**one, "seed": 8}, headers=headers)
    assert other.status_code >= 400


def test_ages_of_months_and_years(app: App) -> None:
    read = app.post("/batches/levels", {"field": "cure_s", "text": "1, 6 months, 1, 2, 5 years and 40 y", "unit": "h"})
    assert read["problems"] == []
    years = [level["value"] / (365.25 * 86400) for level in read["levels"]]
    assert years == pytest.approx([1 / 12, 0.5, 1, 2, 5, 40])
    assert [level["unit"] for level in read["levels"]] == ["mo", "mo", "y", "y", "y", "y"]


def test_money_has_a_currency_that_can_be_undone(app: App) -> None:
    assert app.get("/shop")["currency"] == ""
    assert app.put("/settings", {"currency": " kr "})["currency"] == "kr"
    assert app.put("/settings", {"units": {"length": "in"}})["currency"] == "kr"
    for wrong in ("12 kr", "a very long currency"):
        assert app.put("/settings", {"currency": wrong}, 422)["errors"][0]["field"] == "currency"
    assert app.get("/shop")["currency"] == "kr"
