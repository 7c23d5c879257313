"""Doubtful pieces: a reason and a name, with and without beside each other, told in the piece's own story."""

from __future__ import annotations

from typing import Any

from tests.api.test_planned_comparisons import broken, factor, headline, study
from tests.running import App


def two_glues(app: App) -> tuple[int, list[str]]:
    """Casein a fifth weaker; the codes of its pieces."""
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=5)
    broken(app, batch, {"Damp-proof PVA": 4000.0, "Casein": 3300.0}, cv=0.03)
    return batch, [r["code"] for r in app.get(f"/batches/{batch}/break")["rows"] if r["treatment"] == "B"]


def doubt(app: App, batch: int, code: str, want: int = 200, **body: Any) -> Any:
    return app.post(
        f"/batches/{batch}/doubts", {"code": code, "reason": "the fixture tipped", "by": "Ada", **body}, want
    )


def test_with_and_without_stand_beside_each_other(app: App) -> None:
    batch, codes = two_glues(app)
    assert app.compare(batch)["beside"] is None
    for code in codes[:3]:
        doubt(app, batch, code)
    view = app.compare(batch)
    told = view["beside"]
    assert sorted(told["codes"]) == sorted(codes[:3])
    assert told["with_them"] == headline(view), "they still count"
    assert "too few" in told["without_them"] or "As seen" in told["without_them"]
    assert told["changed"] == ["Casein against Damp-proof PVA: can't tell yet, not worse."]
    without = app.compare(batch, without="doubtful")
    assert headline(without) == told["without_them"]
    assert without["beside"] == told, "whichever way it is looked at"
    assert next(t for t in without["treatments"] if t["letter"] == "B")["n"] == 2
    # Taken back, nothing is left of it but the story.
    for code in codes[:3]:
        doubt(app, batch, code, reason="seen again: it stood straight", doubtful=False)
    assert app.compare(batch)["beside"] is None


def test_a_doubt_wants_a_reason_a_name_and_a_result(app: App) -> None:
    batch, codes = two_glues(app)
    assert doubt(app, batch, codes[0], 422, reason=" ")["errors"][0]["field"] == "reason"
    assert doubt(app, batch, codes[0], 422, by="")["errors"][0]["field"] == "by"
    assert "not marked" in doubt(app, batch, codes[0], 422, doubtful=False)["errors"][0]["message"]
    doubt(app, batch, codes[0])
    assert "already" in doubt(app, batch, codes[0], 422)["errors"][0]["message"]


def test_the_story_of_a_piece_says_all_of_it(app: App) -> None:
    batch, codes = two_glues(app)
    doubt(app, batch, codes[0])
    story = app.get(f"/batches/{batch}/story/{codes[0]}")
    facts = {f["name"]: f["text"] for f in story["facts"]}
    load = float(facts["Load"].split(" N")[0].replace("\u202f", ""))
    area = 500.0
    assert story["counts"] == f"counts as {load / area:.2f} MPa"
    assert facts["Where it gave way"] == "In the glue"
    assert story["doubt"]["reason"] == "the fixture tipped"
    assert story["flags"][0].startswith("marked as doubtful: the fixture tipped")
    assert [h["kind"] for h in story["history"]][-1] == "doubt"
    assert app.get(f"/batches/{batch}/story/ZZZZ", 422)["errors"]


def test_doubts_travel_with_the_file(app: App) -> None:
    batch, codes = two_glues(app)
    doubt(app, batch, codes[1])
    text = app.client.get(f"/api/batches/{batch}/specimens.csv").text
    taken = app.client.post("/api/batches/import", content=text.replace("the fixture tipped", "it tipped"),
                            headers={"Content-Type": "text/csv"}).json()  # fmt: skip
    other = taken["batch_id"] if "batch_id" in taken else taken["id"]
    assert len(app.compare(other)["beside"]["codes"]) == 1


def test_a_doubt_is_undone_and_brought_back(app: App) -> None:
    batch, codes = two_glues(app)
    doubt(app, batch, codes[0])
    assert app.get(f"/batches/{batch}/undo/compare")["undo"] == f"Marked {codes[0]} as doubtful"
    app.post(f"/batches/{batch}/undo", {"stage": "compare"})
    assert app.compare(batch)["beside"] is None
    assert app.get(f"/batches/{batch}/story/{codes[0]}")["doubt"] is None
    app.post(f"/batches/{batch}/redo", {"stage": "compare"})
    assert app.compare(batch)["beside"]["codes"] == [codes[0]]


def test_a_doubt_sent_twice_is_one(app: App) -> None:
    batch, codes = two_glues(app)
    body = {"code": codes[0], "reason": "the fixture tipped", "by": "Ada"}
    for _ in range(2):
        app.post(f"/batches/{batch}/doubts", body, **{"Idempotency-Key": "tablet sends again"})
    kinds = [h["kind"] for h in app.get(f"/batches/{batch}/story/{codes[0]}")["history"]]
    assert kinds.count("doubt") == 1


def test_a_piece_that_broke_between_two_steps_tells_both(app: App) -> None:
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=3)
    rows = app.get(f"/batches/{batch}/break")["rows"]
    app.observe(batch, rows[0]["code"], kind="between", low="2000 N", high="2200 N", failure_mode="in-glue")
    app.observe(batch, rows[1]["code"], kind="at_least", low="2500 N")
    told = [app.get(f"/batches/{batch}/story/{r['code']}") for r in rows[:3]]
    assert told[0]["counts"].startswith("counts as between 4")
    assert told[1]["counts"].startswith("counts as at least 5")
    assert told[2]["counts"] == "does not count: not broken yet"
    assert (told[2]["broken"], told[2]["doubt"]) == (False, None)
