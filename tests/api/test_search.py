"""Everything on record is found by its words, in all batches, and pieces by their codes and their makers' marks."""

from __future__ import annotations

from typing import Any
from urllib.parse import quote

import pytest

from tests.running import App, fields


def find(app: App, text: str) -> list[dict[str, Any]]:
    hits: list[dict[str, Any]] = app.get(f"/search?text={quote(text)}")["hits"]
    return hits


def codes(app: App, text: str) -> set[str]:
    return {h["code"] for h in find(app, text)}


def two_batches(app: App) -> tuple[int, int, list[str], list[str]]:
    one, other = (app.locked("pva-damp", "casein", name=n) for n in ("Runners", "Seats"))
    return one, other, app.codes(one, "joint"), app.codes(other, "joint")


def test_a_code_is_found_in_any_batch_and_stands_on_top(app: App) -> None:
    _, other, _, theirs = two_batches(app)
    first = find(app, theirs[2].lower())[0]
    assert (first["code"], first["batch_id"], first["batch"]) == (theirs[2], other, "Seats")


def test_notes_means_and_unknown_pressures_are_found(app: App) -> None:
    one, other, own, theirs = two_batches(app)
    app.glue(one, own[:2], note="window was open", pressed_by="tape", force_n=None)
    app.glue(other, theirs[:3], force_n=None, force_known="unknown")
    app.clock.pass_(days=4)
    app.observe(one, own[0], kind="void", reason="sat crooked in the fixture")
    assert codes(app, "window") == set(own[:2])
    assert codes(app, "pressed by tape") == set(own[:2])
    # Nobody knows how hard tape presses either.
    assert codes(app, "unknown pressure") == {*theirs[:3], *own[:2]}
    assert codes(app, "CROOKED") == {own[0]}


def test_every_word_has_to_be_there(app: App) -> None:
    one, _, own, _ = two_batches(app)
    app.glue(one, own[:1], note="draught from the window")
    assert codes(app, "draught window") == {own[0]}
    assert find(app, "draught door") == []


def test_boards_and_bottles_of_the_shop_are_found(app: App) -> None:
    app.post("/boards", {"label": "Loft 7", "species": "ash", "length_mm": 900, "width_mm": 110, "thickness_mm": 27,
                         "note": "from the old sled"})  # fmt: skip
    app.post("/bottles", {"label": "Blue jug", "family": "pva-damp", "lot": "L-77"})
    assert [(h["what"], h["code"]) for h in find(app, "old sled")] == [("board", "")]
    assert [(h["what"], h["batch_id"]) for h in find(app, "l-77")] == [("bottle", None)]


def test_what_was_undone_is_not_found(app: App) -> None:
    one, _, own, _ = two_batches(app)
    app.glue(one, own[:1], note="window was open")
    app.post(f"/batches/{one}/undo", {"stage": "glue"})
    assert find(app, "window") == []


def test_a_makers_mark_stands_for_its_code(app: App) -> None:
    one, _, own, _ = two_batches(app)
    app.glue(one, own)
    app.post(f"/batches/{one}/joint-records", {"codes": [own[1]], "kind": "mark", "value": {"mark": "Oak 3b"}})
    assert own[1] in codes(app, "oak 3b")
    app.clock.pass_(days=4)
    app.observe(one, "oak 3B", low="5000 N", failure_mode="in-glue")
    row = next(r for r in app.get(f"/batches/{one}/break")["rows"] if r["code"] == own[1])
    assert row["low_n"] == 5000


def test_a_mark_that_two_pieces_have_is_no_name(app: App) -> None:
    one, _, own, _ = two_batches(app)
    app.glue(one, own)
    app.post(f"/batches/{one}/joint-records", {"codes": own[:2], "kind": "mark", "value": {"mark": "3b!"}})
    app.clock.pass_(days=4)
    assert "code" in fields(app.observe(one, "3b!", 422, low="5000 N"))


def test_one_letter_is_refused(app: App) -> None:
    assert fields(app.get("/search?text=a", 422)) == {"text"}


def test_words_of_every_language_and_ends_of_claims_are_found(app: App) -> None:
    claims = [{"text": "Käsekleber hält", "treatments": ["glue=l2"]}]
    batch = app.locked("pva-damp", "casein", claims=claims)
    own = app.codes(batch, "joint")
    app.glue(batch, own)
    app.post(f"/batches/{batch}/joint-records", {"codes": [own[0]], "kind": "mark", "value": {"mark": "Fläche 3"}})
    app.post(f"/batches/{batch}/claim", {"claim": "c1", "state": "not tested", "note": "kein Käse da"}, 201)
    assert codes(app, "FLÄCHE") == {own[0]}
    assert [h["what"] for h in find(app, "käsekleber")] == ["claim"]


def test_a_fault_and_a_records_kind_are_found(app: App) -> None:
    one, _, own, _ = two_batches(app)
    app.glue(one, own)
    app.post(f"/batches/{one}/joint-records", {"codes": own[:1], "kind": "squeeze-out", "value": {"how": "chiselled"}})
    assert codes(app, "chiselled") == {own[0]}
    assert codes(app, "squeeze-out chiselled") == {own[0]}


@pytest.mark.parametrize("name", ["{", "{}", '{"a"', "{1}", "[x]"])
def test_a_name_that_begins_with_a_bracket_stops_no_search(app: App, name: str) -> None:
    app.batch(name)
    assert find(app, "laminations") == []
    assert [h["text"] for h in find(app, f"{name} batch")] == [name]
