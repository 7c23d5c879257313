"""Shares of a face through the application: on the piece, in counts, corrected, in the file."""

from __future__ import annotations

from pathlib import Path

from tests.api.test_exchange import bring, export, rows_of
from tests.api.test_instruments import read
from tests.running import App, open_app

SHARES = [{"mode": "wood-at-line", "member": "B", "pct": 60}, {"mode": "interface", "member": "A", "pct": 40}]


def test_shares_give_mode_and_wood_failure_and_travel(app: App, tmp_path: Path) -> None:
    batch = app.locked("pva-damp", "casein")
    a, b = app.codes(batch, "joint")[:2]
    app.observe(batch, a, low="3000 N", shares=SHARES)
    found = read(app, batch, a)
    assert (found["failure_mode"], found["wood_failure_pct"]) == ("mixed", 60)
    assert found["shares_text"] == "60 % in the wood at the line of B, 40 % at the interface of A"
    short = [{**SHARES[0], "pct": 50}, SHARES[1]]
    refused = app.observe(batch, b, 422, low="3000 N", shares=short)
    assert refused["errors"][0]["field"] == "shares"
    text = export(app, batch)
    assert {r["shares"] for r in rows_of(text)} == {"", "wood-at-line@B 60; interface@A 40"}
    with open_app(tmp_path / "elsewhere") as other:
        taken = bring(other, text)["batch_id"]
        assert read(other, taken, a)["shares"] == found["shares"]
    wrong = text.replace("interface@A 40", "interface@A 30")
    with open_app(tmp_path / "third") as third:
        assert "shares" in str(bring(third, wrong, 422)["errors"])


def test_shares_are_corrected_like_anything(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    app.observe(batch, code, low="3000 N", failure_mode="in-glue", wood_failure_pct=10)
    app.patch(f"/batches/{batch}/observations/{code}",
              {"shares": SHARES, "failure_mode": "mixed", "wood_failure_pct": None})  # fmt: skip
    assert read(app, batch, code)["wood_failure_pct"] == 60
    app.patch(f"/batches/{batch}/observations/{code}", {"shares": [], "failure_mode": "interface"})
    assert (read(app, batch, code)["shares"], read(app, batch, code)["wood_failure_pct"]) == ([], None)
