"""Price, pack and stock of bottles, and what their glue costs by joint in Compare."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_exchange import bring, export
from tests.api.test_flow import LOADS
from tests.running import App, fields, open_app


def add(app: App, label: str, status: int = 200, **more: Any) -> Any:
    return app.post("/bottles", {"label": label, "family": "pva-damp", **more}, status)


def bottle(app: App, label: str) -> Any:
    return next(b for b in app.get("/shop")["bottles"] if b["bottle"]["label"] == label)


def happened(app: App, label: str, kind: str, note: str = "", status: int = 200) -> Any:
    number = bottle(app, label)["bottle"]["id"]
    return app.post(f"/bottles/{number}/events", {"kind": kind, "note": note}, status)


def test_what_is_left_is_what_was_told_last(app: App) -> None:
    add(app, "Blue", pack_g=500, price=12.0, lot="L-7")
    add(app, "No pack")
    assert (bottle(app, "Blue")["left_g"], bottle(app, "No pack")["left_g"]) == (500, None)
    happened(app, "Blue", "holds", "0.25 kg")
    assert bottle(app, "Blue")["left_g"] == pytest.approx(250)
    refused = happened(app, "Blue", "holds", "half of it", status=422)
    assert "250 g" in refused["errors"][0]["remedy"]
    app.clock.pass_(hours=1)
    happened(app, "Blue", "used up")
    assert bottle(app, "Blue")["left_g"] == 0


def test_a_past_date_says_discard_or_test(app: App) -> None:
    add(app, "Old", expires_on="2026-11-22")
    assert bottle(app, "Old")["warning"] == "Past its date by 1 day: discard it, or test it against a fresh one first."


def test_a_pack_of_nothing_and_a_price_below_it_are_refused(app: App) -> None:
    assert fields(add(app, "Odd", 422, pack_g=0, price=-1)) == {"pack_g", "price"}


def glued_and_broken(app: App) -> int:
    """Joints of 20 x 25 mm; the first treatment's bottle has a price, the others' is not known."""
    add(app, "Blue", pack_g=500, price=12.0)
    batch = app.locked()
    rows = [r for r in app.get(f"/batches/{batch}/cut")["rows"] if r["role"] == "joint"]
    own = [r["code"] for r in rows if r["treatment"] == "A"]
    app.glue(batch, own, bottle="Blue", spread_g_m2=200.0)
    app.glue(batch, [r["code"] for r in rows if r["treatment"] != "A"])
    app.clock.pass_(days=4)
    app.break_all(batch, LOADS)
    return batch


def test_the_glue_of_a_joint_by_hand(app: App) -> None:
    """20 x 25 mm with 200 g/m2 are 0.1 g; of 500 g for 12 they cost 0.0024."""
    view = app.compare(glued_and_broken(app))
    assert [c["letter"] for c in view["glue_costs"]] == ["A"]
    cost, row = view["glue_costs"][0], next(t for t in view["treatments"] if t["letter"] == "A")
    assert (cost["glue_g"], cost["money"]) == (pytest.approx(0.1), pytest.approx(0.0024))
    assert cost["per_money"] == pytest.approx(row["mean"] / 0.0024)
    assert cost["weighed"]


def test_price_and_pack_travel_with_the_file(app: App, tmp_path: Any) -> None:
    text = export(app, glued_and_broken(app))
    with open_app(tmp_path / "other") as other:
        other.clock.at = app.clock.at
        bring(other, text)
        assert bottle(other, "Blue")["bottle"]["price"] == 12
        assert bottle(other, "Blue")["left_g"] == 500
