"""Boards in the shop and a batch laid out on them, through the running application."""

from __future__ import annotations

from typing import Any

import pytest

from tests.running import App, fields


def add(app: App, label: str = "Ash 1", status: int = 200, **more: Any) -> Any:
    body = {"label": label, "species": "ash", "length_mm": 900, "width_mm": 110, "thickness_mm": 27, **more}
    return app.post("/boards", body, status)


def lay_out(app: App, batch: int, status: int = 200, **more: Any) -> Any:
    return app.post(f"/batches/{batch}/layout", more, status)


def places(view: Any) -> dict[str, list[tuple[int, float, float]]]:
    """Code -> (board, x, y) of its blanks."""
    found: dict[str, list[tuple[int, float, float]]] = {}
    for m in view["layout"]["maps"]:
        for b in m["blanks"]:
            found.setdefault(b["code"], []).append((b["board_id"], b["rect"]["x"], b["rect"]["y"]))
    return found


def test_a_batch_is_laid_out_and_every_half_has_its_place(app: App) -> None:
    for i in (1, 2):
        add(app, f"Ash {i}", length_mm=500)
    batch = app.locked(replicates=4, solid=3)
    assert app.get(f"/batches/{batch}/cut")["layout"] is None
    view = lay_out(app, batch)
    found = places(view)
    for row in view["rows"]:
        assert len(found[row["code"]]) == len(row["halves"])
        assert len({board for board, *_ in found[row["code"]]}) == 1
    joints = [s["counts"] for s in view["layout"]["shares"]]
    for share in joints:
        own = [share.get(t, 0) for t in "ABCD"]
        assert max(own) - min(own) <= 1
    assert view["layout"]["worst"] == 0
    assert view["layout"]["stops_mm"] == [31, 37]
    assert "31 mm" in " ".join(view["layout"]["sentences"])


def test_only_the_chosen_boards_are_used_and_undo_takes_the_layout_back(app: App) -> None:
    add(app, "Ash 1")
    ids = [b["id"] for b in add(app, "Ash 2")["boards"]]
    batch = app.locked("pva-damp", "casein", replicates=3, solid=2)
    view = lay_out(app, batch, boards=ids[:1])
    assert [m["board"]["id"] for m in view["layout"]["maps"]] == ids[:1]
    again = lay_out(app, batch, boards=ids[1:])
    assert [m["board"]["id"] for m in again["layout"]["maps"]] == ids[1:]
    app.post(f"/batches/{batch}/undo", {"stage": "cut"})
    assert app.get(f"/batches/{batch}/cut")["layout"]["maps"][0]["board"]["id"] == ids[0]
    app.post(f"/batches/{batch}/undo", {"stage": "cut"})
    assert app.get(f"/batches/{batch}/cut")["layout"] is None


def test_short_of_wood_is_said_in_metres(app: App) -> None:
    add(app, length_mm=300, width_mm=40)
    batch = app.locked("pva-damp", "casein", replicates=6, solid=0)
    view = lay_out(app, batch)
    short = view["layout"]["short"][0]
    assert short["pieces"] == 12 - 3
    assert short["length_mm"] == 9 * 68
    assert f"short by {9 * 68 / 1000:.1f} m of ash" in view["layout"]["sentences"][0]


def test_one_board_for_each_treatment_is_named(app: App) -> None:
    for i in range(3):
        add(app, f"Ash {i}", length_mm=2 * 25 + 3 * 68 - 3, width_mm=2 * 5 + 21)
    batch = app.locked("pva-damp", "casein", "hide-hot", replicates=3, solid=0)
    view = lay_out(app, batch, share="treatment")
    assert view["layout"]["confounded"]
    assert any("cannot be told apart" in s for s in view["layout"]["sentences"])
    assert not lay_out(app, batch)["layout"]["confounded"]


def test_a_spoiled_piece_gets_a_place_that_was_left_over(app: App) -> None:
    add(app)
    batch = app.locked("pva-damp", "casein", replicates=3, solid=0)
    before = places(lay_out(app, batch))
    code = app.codes(batch)[0]
    after = places(app.post(f"/batches/{batch}/recut", {"code": code}))
    assert after[code] != before[code]
    assert after[code][0] in before[""]
    assert after["spoiled"] == before[code]
    others = {k: v for k, v in after.items() if k not in ("", "spoiled", code)}
    assert others == {k: v for k, v in before.items() if k in others}


def test_no_place_left_is_said(app: App) -> None:
    add(app, length_mm=2 * 25 + 3 * 68 - 3, width_mm=2 * 5 + 2 * 24 - 3)
    batch = app.locked("pva-damp", "casein", replicates=3, solid=0)
    lay_out(app, batch)
    code = app.codes(batch)[0]
    assert fields(app.post(f"/batches/{batch}/recut", {"code": code}, 422)) == {"code"}


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"label": " "}, "label"),
        ({"label": "Ash 1"}, "label"),
        ({"length_mm": 20_000}, "length_mm"),
        ({"width_mm": -5}, "width_mm"),
        ({"thickness_mm": 0}, "thickness_mm"),
        ({"moisture_pct": 400}, "moisture_pct"),
        ({"density_kg_m3": 5}, "density_kg_m3"),
        ({"defects": [{"x": 890, "y": 0, "length": 20, "width": 5}]}, "defects.0"),
        ({"species": " "}, "species"),
    ],
)
def test_what_is_no_board_is_refused(app: App, change: dict[str, Any], field: str) -> None:
    add(app)
    assert fields(add(app, **{"label": "Other", **change}, status=422)) == {field}
    assert len(app.get("/shop")["boards"]) == 1


def test_a_board_taken_out_of_use_frees_its_label_and_marks_layouts(app: App) -> None:
    made = add(app)["boards"][0]["id"]
    batch = app.locked("pva-damp", "casein", replicates=2, solid=0)
    assert not lay_out(app, batch)["layout"]["stale"]
    assert app.post(f"/boards/{made}/retire")["boards"] == []
    assert app.get(f"/batches/{batch}/cut")["layout"]["stale"]
    assert len(add(app)["boards"]) == 1
    app.post("/boards/999/retire", status=404)


def test_without_boards_or_with_an_odd_saw_nothing_is_laid_out(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    assert fields(lay_out(app, batch, 422)) == {"boards"}
    add(app)
    assert fields(lay_out(app, batch, 422, kerf=50, end_trim=-1)) == {"kerf", "end_trim"}
    assert app.get(f"/batches/{batch}/cut")["layout"] is None


def test_defects_are_left_out(app: App) -> None:
    knot = {"x": 300, "y": 0, "length": 100, "width": 110}
    add(app, defects=[knot])
    batch = app.locked("pva-damp", "casein", replicates=8, solid=0)
    for found in places(lay_out(app, batch)).values():
        for _, x, _ in found:
            assert x + 31 <= 300 - 3 or x >= 400 + 3


def test_two_batches_never_share_a_place(app: App) -> None:
    add(app, "Ash 1", length_mm=700)
    one = app.locked("pva-damp", "casein", replicates=2, solid=2)
    two = app.locked("epoxy-slow", "casein", replicates=2, solid=2, name="Second")
    lay_out(app, one)
    second = lay_out(app, two)
    taken = second["layout"]["maps"][0]["taken"]
    assert taken, "the strips of the first batch are drawn on the second one's board"
    bands = [(t["y"], t["y"] + t["width"]) for t in taken]
    for blank in second["layout"]["maps"][0]["blanks"]:
        low, high = blank["rect"]["y"], blank["rect"]["y"] + blank["rect"]["width"]
        assert all(high <= a - 3 or b + 3 <= low for a, b in bands), "a kerf lies between them"
    assert not any("another batch" in s for s in second["layout"]["sentences"])


def test_a_layout_brought_back_over_another_one_says_so(app: App) -> None:
    add(app, "Ash 1", length_mm=700)
    one = app.locked("pva-damp", "casein", replicates=2, solid=2)
    two = app.locked("epoxy-slow", "casein", replicates=2, solid=2, name="Second")
    lay_out(app, one)
    app.post(f"/batches/{one}/undo", {"stage": "cut"})
    lay_out(app, two)
    app.post(f"/batches/{one}/redo", {"stage": "cut"})
    said = app.get(f"/batches/{one}/cut")["layout"]["sentences"]
    assert "Ash 1 is laid out for another batch too: lay out again." in said


def test_new_pieces_find_places_and_the_others_keep_theirs(app: App) -> None:
    add(app, "Ash 1", length_mm=700)
    batch = app.locked("pva-damp", "casein", replicates=3, solid=2)
    before = lay_out(app, batch)
    app.post(f"/batches/{batch}/more", {"treatment": "A", "count": 3, "reason": "more are wanted"})
    view = app.get(f"/batches/{batch}/cut")
    assert len(view["layout"]["placeless"]) == 3
    after = app.post(f"/batches/{batch}/places")
    assert after["layout"]["placeless"] == []
    old, new = places(before), places(after)
    assert {c: p for c, p in new.items() if c in old and c} == {c: p for c, p in old.items() if c}
    rects = [(b["board_id"], b["rect"]) for m in after["layout"]["maps"] for b in m["blanks"]]
    for i, (board, a) in enumerate(rects):
        for other, b in rects[:i]:
            apart = (a["x"] + a["length"] <= b["x"] or b["x"] + b["length"] <= a["x"]
                     or a["y"] + a["width"] <= b["y"] or b["y"] + b["width"] <= a["y"])  # fmt: skip
            assert board != other or apart


def test_a_recut_piece_takes_one_of_the_places_left_over(app: App) -> None:
    add(app, "Ash 1", length_mm=700)
    batch = app.locked("pva-damp", "casein", replicates=2, solid=2)
    before = lay_out(app, batch)["layout"]
    code = app.codes(batch, "joint")[0]
    after = app.post(f"/batches/{batch}/recut", {"code": code})["layout"]
    assert after["spare"] == before["spare"] - 1


def test_why_no_board_will_do_is_said_with_what_a_piece_takes(app: App) -> None:
    add(app, "Thin", thickness_mm=12)
    batch = app.locked("pva-damp", "casein")
    app.post(f"/batches/{batch}/layout", {"share": "fewest"})
    laid = app.get(f"/batches/{batch}/cut")["layout"]
    said = " ".join(laid["sentences"])
    assert "1 board is too thin" in said
    assert "finished thickness" in said
    assert laid["maps"] == []


def test_what_is_still_free_on_a_board_is_shown_and_the_safe_length_is_the_shops(app: App) -> None:
    add(app, "A", width_mm=180)
    batch = app.locked("pva-damp", "casein")
    app.post(f"/batches/{batch}/layout", {"share": "fewest"})
    laid = app.get(f"/batches/{batch}/cut")["layout"]
    last = max(b["rect"]["y"] + b["rect"]["width"] for b in laid["maps"][0]["blanks"])
    assert laid["maps"][0]["free_mm"] == pytest.approx(180 - 5 - 3 - last)
    assert any("too short to hold" in s for s in laid["sentences"])
    refused = app.put("/settings", {"safe_length_mm": 5}, 422)
    assert "150 mm is the usual rule" in refused["errors"][0]["remedy"]
    assert app.put("/settings", {"safe_length_mm": 250})["safe_length_mm"] == 250
    assert any("under 500 mm" in s or "too short to hold" in s for s in
               app.get(f"/batches/{batch}/cut")["layout"]["sentences"])  # fmt: skip


def test_a_board_that_is_damper_than_the_plan_holds_its_wood_is_told(app: App) -> None:
    add(app, "Ash 1", length_mm=3000, moisture_pct=14)
    add(app, "Ash 2", length_mm=3000, moisture_pct=10.5)
    batch = app.planned("pva-damp", "casein", replicates=4, solid=3)
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, constants={**held, "moisture_pct": {"value": 10, "unit": "%"}})
    app.lock(batch)
    said = [x for x in lay_out(app, batch)["layout"]["sentences"] if "moisture" in x]
    assert said == [
        "Ash 1 is at 14 % moisture; the plan holds the wood at 10 % (within 2). "
        "Let the board dry or take up moisture first, or choose another one."
    ]
