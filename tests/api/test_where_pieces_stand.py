"""A piece that is left out, excluded, fallen apart or loaded to a proof load is told as such, on every screen alike."""

from __future__ import annotations

import pytest

from adhaero.core.observation import Kind
from adhaero.core.piece_standing import Stands, stands
from tests.api.test_amendments import leave_out
from tests.api.test_exposed import tell
from tests.running import App


@pytest.mark.parametrize(
    ("kind", "more", "expected"),
    [
        (None, {"made": False, "due": False}, Stands.TO_MAKE),
        (None, {}, Stands.MADE),
        (None, {"due": True}, Stands.DUE),
        (None, {"apart": True}, Stands.FELL_APART),
        (None, {"not_run": True, "due": True}, Stands.LEFT_OUT),
        (Kind.EXACT, {"not_run": True}, Stands.LEFT_OUT),
        (Kind.EXACT, {"apart": True}, Stands.BROKEN),
        (Kind.HELD, {}, Stands.BROKEN),
        (Kind.SEEN, {}, Stands.BROKEN),
        (Kind.AT_LEAST, {}, Stands.HELD),
        (Kind.PROOF, {}, Stands.HELD),
        (Kind.PROOF, {"proof_failed": True}, Stands.BROKEN),
        (Kind.FELL_APART, {}, Stands.FELL_APART),
        (Kind.VOID, {}, Stands.EXCLUDED),
    ],
)
def test_one_function_says_where_a_piece_stands(kind: Kind | None, more: dict[str, bool], expected: Stands) -> None:
    found = stands(kind, **more)
    assert found is expected
    assert found.ended == (expected not in (Stands.TO_MAKE, Stands.MADE, Stands.DUE))


def test_every_screen_counts_the_same_pieces_as_still_to_break(app: App) -> None:
    """One piece of each kind: what the rig, the start page and the results call unbroken is the same."""
    batch = app.locked("pva-damp", "epoxy-slow", replicates=8)
    rows = app.get(f"/batches/{batch}/break")["rows"]
    a = [r["code"] for r in rows if r["treatment"] == "A"]
    app.glue(batch, a[:7])
    app.post(f"/batches/{batch}/unclamp", {"codes": a[:7]})
    tell(app, batch, "inspected", a[:1], whole="apart")
    app.clock.pass_(days=3)
    app.observe(batch, a[1], low="2000 N", failure_mode="in-glue")
    app.observe(batch, a[2], kind="fell_apart")
    app.observe(batch, a[3], kind="void", low="900 N", reason="it slipped in the jaws")
    app.observe(batch, a[4], kind="at_least", low="2400 N")
    app.observe(batch, a[5], kind="proof", low="500 N", details={"ended": "failed"})
    leave_out(app, batch)
    view = app.get(f"/batches/{batch}/break")
    far = {r["code"]: r["stands"] for r in view["rows"]}
    assert [far[c] for c in a] == [
        "fell apart", "broken", "fell apart", "excluded", "held", "broken", "due", "to make",
    ]  # fmt: skip
    (today,) = app.get("/today")["batches"]
    table = {t["letter"]: t for t in app.compare(batch)["treatments"]}
    open_ = sum(not Stands(s).ended for s in far.values())
    unbroken = sum(t["unbroken"] for t in table.values())
    assert (len(far) - view["done"], today["pieces"] - today["observed"], unbroken) == (open_,) * 3
    assert table["A"]["unbroken"] == 2
    assert table["B"]["standing"] == "was left out"
    (left,) = [f["text"] for f in app.compare(batch)["caveats"] if "not broken yet" in f["text"]][:1]
    assert left.startswith(f"{open_} pieces are")
