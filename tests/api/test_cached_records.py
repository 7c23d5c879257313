"""Facts kept in memory and patched piece by piece are those that stand in the file, whatever was done and undone."""

from __future__ import annotations

import random
from typing import Any

import pytest

from adhaero.workflow import record_loading
from tests.running import App


def check(app: App, batch: int) -> None:
    with app.context.db.read() as conn:
        assert record_loading.load(app.context, conn, batch) == record_loading.fresh(conn, batch)


class Hand:
    """Does something at random; refused attempts are fine, they must change nothing."""

    def __init__(self, app: App, batch: int, seed: int) -> None:
        self.app, self.batch, self.rng = app, batch, random.Random(seed)
        self.codes = app.codes(batch)

    def send(self, path: str, body: Any) -> None:
        response = self.app.client.post(f"/api/batches/{self.batch}/{path}", json=body)
        assert response.status_code in (200, 422), response.text

    def act(self) -> None:
        some = self.rng.sample(self.codes, self.rng.randint(1, 4))
        match self.rng.randrange(7):
            case 0:
                cells = [{"code": c, "quantity": "width", "text": f"{self.rng.uniform(19, 21):.2f}"} for c in some]
                self.send("sizes", {"cells": cells})
            case 1:
                self.send("glueups", {"codes": some, "force_n": 400.0})
            case 2:
                self.send("exceptions", {"code": some[0], "force_n": 500.0, "note": "slipped"})
            case 3:
                self.send("unclamp", {"codes": some, "note": ""})
            case 4:
                load = f"{self.rng.uniform(3000, 7000):.0f} N"
                self.send("observations", {"code": some[0], "kind": "exact", "low": load})
            case 5:
                self.send("undo", {"stage": self.rng.choice(["cut", "glue", "break"])})
            case _:
                self.send("redo", {"stage": self.rng.choice(["cut", "glue", "break"])})


@pytest.mark.parametrize("seed", range(4))
def test_patched_facts_are_the_facts(app: App, seed: int) -> None:
    batch = app.locked("pva-damp", "casein", replicates=4, solid=2)
    hand = Hand(app, batch, seed)
    for step in range(60):
        hand.act()
        if step % 3 == 0:
            check(app, batch)
    check(app, batch)


def test_views_after_patches_are_those_of_a_fresh_start(app: App) -> None:
    """Rows kept for unchanged pieces are the rows that would be made anew."""
    batch = app.locked("pva-damp", "casein", replicates=4, solid=2)
    hand = Hand(app, batch, 9)
    for _ in range(40):
        hand.act()
        for stage in ("cut", "glue", "break"):
            app.get(f"/batches/{batch}/{stage}")
    app.clock.pass_(hours=30)
    paths = [f"/batches/{batch}/{stage}" for stage in ("cut", "glue", "break", "compare")] + ["/today"]
    kept = [app.get(p) for p in paths]
    app.context._cache.clear()
    assert [app.get(p) for p in paths] == kept


def test_another_batch_is_left_alone(app: App) -> None:
    first, second = app.locked("pva-damp", "casein"), app.locked("hide-hot", "casein", name="Second")
    with app.context.db.read() as conn:
        before = record_loading.load(app.context, conn, first)
    app.observe(second, app.codes(second)[0], low="4000 N")
    with app.context.db.read() as conn:
        assert record_loading.load(app.context, conn, first) is before
    check(app, second)
