"""Pieces made as one: panels that are glued whole and sawn, and blocks on backing boards; from plan to comparison."""

from __future__ import annotations

from statistics import fmean, stdev
from typing import Any

import pytest

from tests.api.test_boards import add, lay_out
from tests.api.test_exchange import bring, export, rewrite, rows_of
from tests.api.test_schedule import at_the_bench
from tests.running import App, fields, open_app

PANEL = {"kind": "panel", "each": 3, "within": [], "length_mm": 400.0, "between_mm": 3.0}
FOLDING = {"width": 120.0, "depth": 19.0, "span": 180.0}


def panels(app: App, **changes: Any) -> int:
    """Two glues, two panels of three sections of each, folded over a table's edge."""
    batch = app.planned("pva-damp", "polyurethane", replicates=6, solid=0)
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(
        batch, method="edge-fold", sizes=FOLDING, parents=PANEL,
        constants={**held, "form": {"value": "edge", "unit": ""},
                   "orientation": {"value": "long-parallel", "unit": ""}}, **changes,
    )  # fmt: skip
    app.lock(batch)
    return batch


def parents(app: App, batch: int) -> list[dict[str, Any]]:
    return list(app.get(f"/batches/{batch}/cut")["parents"])


def test_sections_are_found_by_the_board_of_their_panel(app: App) -> None:
    add(app, "Old larch", density_kg_m3=555.0, length_mm=2600, width_mm=320)
    batch = panels(app)
    lay_out(app, batch)
    hits = {h["code"] for h in app.get("/search?text=555 kg/m³")["hits"]}
    assert set(app.codes(batch, "joint")) <= hits


def test_the_plan_says_what_it_makes(app: App) -> None:
    batch = app.planned("pva-damp", "polyurethane", replicates=6, solid=0)
    app.draft(batch, method="edge-fold", sizes=FOLDING, parents=PANEL)
    f = app.get(f"/batches/{batch}/plan")["forecast"]
    assert f["parents"]["count"] == 4
    assert "400 mm long" in f["parents"]["words"]
    # Two strips for each of four panels, and no blank of a section's own.
    assert f["blanks"] == 8
    # Two panels are two units: what six pieces could show is not said.
    assert f["reach"]["n"] == 2
    assert any("3 sections of one panel are one panel" in c["text"] for c in f["caveats"])
    # 0.8 MPa on 400 x 19 mm of glued edge.
    pressure = app.get(f"/batches/{batch}/plan")["document"]["constants"]["pressure_mpa"]["value"]
    assert f["treatments"][0]["clamp_force_n"] == pytest.approx(pressure * 400 * 19)


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"length_mm": 371.0}, "parents.length_mm"),
        ({"each": 0}, "parents.each"),
        ({"within": ["glue"]}, "parents.within"),
        ({"within": ["cure_s"]}, "parents.within"),
        ({"kind": "backing"}, "parents.kind"),
    ],
)
def test_what_cannot_be_made_is_named(app: App, changed: dict[str, Any], field: str) -> None:
    batch = app.planned("pva-damp", "polyurethane", replicates=6, solid=0)
    app.draft(batch, method="edge-fold", sizes=FOLDING, parents={**PANEL, **changed})
    found = app.get(f"/batches/{batch}/plan")["forecast"]["problems"]
    assert [p["field"] for p in found] == [field]
    assert fields(app.lock(batch, 422)) == {field}


def test_a_panel_of_372_mm_just_holds_three_sections(app: App) -> None:
    batch = app.planned("pva-damp", "polyurethane", replicates=6, solid=0)
    app.draft(batch, method="edge-fold", sizes=FOLDING, parents={**PANEL, "length_mm": 3 * 120.0 + 4 * 3.0})
    assert app.get(f"/batches/{batch}/plan")["forecast"]["problems"] == []


def test_panels_are_cut_and_labelled_whole(app: App) -> None:
    batch = panels(app)
    cut = app.get(f"/batches/{batch}/cut")
    assert [(p["kind"], p["number"], len(p["pieces"]), p["sawn"]) for p in cut["parents"]] == [
        ("Panel", n, 3, True) for n in (1, 2, 3, 4)
    ]
    assert all(p["blanks"].startswith("2 of 400 mm") for p in cut["parents"])
    assert sum(cut["blanks"].values()) == 8
    labels = [x["text"] for x in app.get(f"/batches/{batch}/labels")]
    strips = [f"{p['code']}-{side}" for p in cut["parents"] for side in "ab"]
    assert labels == strips + [r["code"] for r in cut["rows"]]
    (species,) = cut["blanks"]
    for n in (1, 2):
        add(app, f"Board {n}", species=species, length_mm=2600.0, width_mm=260.0, thickness_mm=24.0)
    view = lay_out(app, batch)
    placed = [b["code"] for m in view["layout"]["maps"] for b in m["blanks"] if b["code"]]
    assert sorted(placed) == sorted(2 * [p["code"] for p in cut["parents"]])
    assert view["layout"]["placeless"] == []
    long = {round(b["rect"]["length"], 3) for m in view["layout"]["maps"] for b in m["blanks"]}
    assert long == {400.0}
    section = cut["parents"][0]["pieces"][0]
    assert "panel 1" in app.get(f"/batches/{batch}/pieces/{section}")["parent"]
    app.post(f"/batches/{batch}/recut", {"code": section})
    panel = cut["parents"][0]["code"]
    wrong = app.post(f"/batches/{batch}/pieces/{panel}/defects", {"side": "a", "text": "a knot"}, 422)
    assert wrong["errors"][0]["remedy"].startswith("Type the code of one of them")


def test_a_panel_is_glued_pressed_and_released_as_one(app: App) -> None:
    batch = panels(app)
    first, second = parents(app, batch)[:2]
    view = app.get(f"/batches/{batch}/glue")
    assert len(view["pieces"]) == 4
    row = next(p for p in view["pieces"] if p["code"] == first["code"])
    assert row["pieces"] == first["pieces"]
    assert row["pressed_mm2"] == pytest.approx(400 * 19)
    refused = app.glue(batch, [first["pieces"][0]], 422)
    assert fields(refused) == {"codes.0"}
    assert first["code"] in refused["errors"][0]["remedy"]
    # 3800 N from each of two clamps on 7600 mm2: 1 MPa on every section.
    app.glue(batch, [first["code"], second["code"]], force_n=3800.0, clamps=2, force_known="measured")
    held = app.get(f"/batches/{batch}/glue")["pieces"]
    assert [p["pressure_mpa"] for p in held if p["glueup"]] == [pytest.approx(1.0)] * 2
    app.clock.pass_(hours=5)
    today = app.get("/today")
    assert [d["pieces"] for d in today["due"] if "out of its clamps" in d["what"]] == [2]
    app.post(f"/batches/{batch}/unclamp", {"codes": [first["code"]]})
    rows = app.get(f"/batches/{batch}/glue")["pieces"]
    sawn = [p for p in rows if p["code"] in first["pieces"]]
    assert len(sawn) == 3
    assert all(p["unclamped_at"] and p["pressure_mpa"] == pytest.approx(1.0) for p in sawn)
    assert all("panel 1" in p["parent"] for p in sawn)
    app.post(f"/batches/{batch}/undo", {"stage": "glue"})
    assert len(app.get(f"/batches/{batch}/glue")["pieces"]) == 4


def test_weights_over_two_panels_share_by_their_areas(app: App) -> None:
    batch = panels(app)
    codes = [p["code"] for p in parents(app, batch)[:2]]
    app.glue(batch, codes, force_n=1520.0, over=2, force_known="measured")
    own = [p for p in app.get(f"/batches/{batch}/glue")["pieces"] if p["glueup"]]
    assert [p["pressure_mpa"] for p in own] == [pytest.approx(0.1)] * 2
    wrong = app.glue(batch, [p["code"] for p in parents(app, batch)[2:3]], 422, force_n=10.0, over=2)
    assert fields(wrong) == {"over"}


def test_the_bench_takes_a_panel_in_one_tap(app: App) -> None:
    batch = panels(app)
    guide = app.get(f"/batches/{batch}/guide")
    codes = [p["code"] for p in guide["pieces"]]
    assert set(codes) <= {p["code"] for p in parents(app, batch)}
    assert all(p["sections"] == 3 for p in guide["pieces"])
    at = app.clock.at

    def tap(kind: str, **more: Any) -> None:
        app.post(f"/batches/{batch}/taps", {"kind": kind, "at": app.clock.at.isoformat(), **more}, 200,
                 **({"Idempotency-Key": "mix-of-today"} if kind == "mixed" else {}))  # fmt: skip

    tap("mixed", codes=codes, force_known="estimated")
    app.clock.pass_(minutes=3)
    tap("spread", code=codes[0])
    app.clock.pass_(minutes=1)
    tap("clamped", code=codes[0], mix="mix-of-today")
    after = app.get(f"/batches/{batch}/guide")
    assert [p["code"] for p in after["pieces"] if p["closed_at"]] == codes[:1]
    glued = [p for p in app.get(f"/batches/{batch}/glue")["pieces"] if p["glueup"]]
    assert [(p["code"], p["open_s"]) for p in glued] == [(codes[0], 60.0)]
    rows = rows_of(export(app, batch))
    own = [r for r in rows if r["parent"] == codes[0]]
    assert len(own) == 3
    assert {r["glued_at"] for r in own} == {at.strftime("%Y-%m-%dT%H:%M:%S.000Z")}


def test_the_schedule_closes_a_panel_once_and_breaks_its_sections(app: App) -> None:
    at_the_bench(app)
    app.post("/clamps", {"label": "Screw", "kind": "screw", "count": 8, "force_n": 6000.0}, 200)
    batch = panels(app)
    made = app.post(f"/batches/{batch}/schedule", {"seek": False})["schedule"]
    codes = {p["code"] for p in parents(app, batch)}
    glued = [c for s in made["slots"] if s["kind"] == "glue" for c in s["codes"]]
    assert sorted(glued) == sorted(codes)
    assert made["unplaced"] == []
    for s in made["slots"]:
        if s["kind"] == "break":
            # Three cuts of a minute and three breaks of three for every panel.
            minutes = (_at(s["end"]) - _at(s["start"])) / 60
            assert minutes == len(s["codes"]) * 3 * (1 + 3)


def _at(text: str) -> float:
    from datetime import datetime

    return datetime.fromisoformat(text).timestamp()


def broken(app: App, batch: int) -> dict[str, list[list[float]]]:
    """Break every section; panels differ more than sections do. Returns loads by treatment and panel."""
    app.glue(batch, [p["code"] for p in parents(app, batch)])
    app.clock.pass_(hours=30)
    app.post(f"/batches/{batch}/unclamp", {"codes": [p["code"] for p in parents(app, batch)]})
    loads: dict[str, list[list[float]]] = {}
    for n, p in enumerate(parents(app, batch)):
        own = [1000.0 + 260 * n + d for d in (-15, 0, 15)]
        loads.setdefault(p["treatments"][0], []).append(own)
        for code, load in zip(p["pieces"], own, strict=True):
            app.observe(batch, code, low=f"{load} N", failure_mode="in-glue")
    return loads


def test_panels_are_the_units_unless_pieces_are_asked_for(app: App) -> None:
    batch = panels(app)
    loads = broken(app, batch)
    view = app.compare(batch, figure="load")
    assert view["counted"]["unit"] == "parents"
    for t in view["treatments"]:
        own = loads[t["letter"]]
        assert (t["n"], t["pieces"]) == (2, 6)
        assert t["mean"] == pytest.approx(fmean(map(fmean, own)))
        assert "2 panels are too few" in t["untested"]
    assert view["pairs"] == []
    assert any("2 panels, 6 sections. Panels are the units here" in text for text in view["units"])
    pieces = app.compare(batch, figure="load", unit="pieces")
    assert [(t["n"], t["pieces"]) for t in pieces["treatments"]] == [(6, 6)] * 2
    assert len(pieces["pairs"]) == 1
    flat = [x for panel in loads["A"] for x in panel]
    assert pieces["treatments"][0]["sd"] == pytest.approx(stdev(flat))
    assert any("takes sections of one panel for independent" in text for text in pieces["units"])
    assert fields(app.get(f"/batches/{batch}/compare?unit=boxes", 422)) == {"unit"}


def test_more_pieces_of_a_treatment_come_from_panels_of_their_own(app: App) -> None:
    batch = panels(app)
    app.post(f"/batches/{batch}/more", {"treatment": "A", "count": 4, "reason": "one panel was warped"})
    made = parents(app, batch)
    assert [(p["number"], len(p["pieces"])) for p in made][4:] == [(5, 3), (6, 1)]
    # A panel with one section is as long as it was planned: its strips were cut so.
    assert made[5]["treatments"] == ["A"]


BOARD = {"kind": "backing", "each": 1, "within": ["glue"], "length_mm": 1200.0, "between_mm": 10.0}


def boards(app: App) -> int:
    """Four glues, dry and after a soak, one block of each glue on every one of six boards."""
    batch = app.planned(replicates=3, solid=0)
    plan = app.get(f"/batches/{batch}/plan")["document"]
    glue = plan["factors"][0]
    wet = {"key": "conditioning", "name": "Conditioning", "levels": [{"value": "dry", "unit": "", "id": "d"},
           {"value": "soak 6 h at 18 °C", "unit": "", "id": "w"}]}  # fmt: skip
    held = {k: v for k, v in plan["constants"].items() if k != "conditioning"}
    app.draft(batch, factors=[glue, wet], constants=held, parents=BOARD, control={"glue": "l1", "conditioning": "d"})
    app.lock(batch)
    return batch


def test_every_backing_board_carries_every_glue_of_one_condition(app: App) -> None:
    batch = boards(app)
    made = parents(app, batch)
    assert [len(p["pieces"]) for p in made] == [4] * 6
    rows = {r["code"]: r for r in app.get(f"/batches/{batch}/cut")["rows"]}
    for p in made:
        labels = [rows[c]["label"] for c in p["pieces"]]
        assert len({x.split(" · ")[0] for x in labels}) == 4
        assert len({x.split(" · ")[1] for x in labels}) == 1
    cut = app.get(f"/batches/{batch}/cut")
    # Six boards and a block of wood for every piece.
    assert sum(cut["blanks"].values()) == 6 + 24
    order = {p["code"]: p["break_order"] for p in app.get(f"/batches/{batch}/break")["rows"]}
    for p in made:
        places = sorted(order[c] for c in p["pieces"])
        assert places == list(range(places[0], places[0] + 4)), "a board stays on the rig until it is done"
    out = {r["code"]: (int(r["parent_place"]), r["treatment"]) for r in rows_of(export(app, batch))}
    on_boards = [[out[c] for c in p["pieces"]] for p in made]
    assert all(sorted(place for place, _ in own) == [1, 2, 3, 4] for own in on_boards)
    first = {treatment[0] for own in on_boards for place, treatment in own if place == 1}
    assert len(first) > 1, "places are random within each board"


def test_blocks_are_glued_one_by_one_and_go_outdoors_as_a_board(app: App) -> None:
    batch = boards(app)
    assert len(app.get(f"/batches/{batch}/glue")["pieces"]) == 24
    app.glue(batch)
    app.clock.pass_(hours=26)
    app.post(f"/batches/{batch}/unclamp", {"codes": [p["code"] for p in parents(app, batch)]})
    rows = app.get(f"/batches/{batch}/glue")["pieces"]
    board = next(p for p in parents(app, batch) if any(r["conditioning"] and r["code"] in p["pieces"] for r in rows))
    app.post(f"/batches/{batch}/condition", {"codes": [board["code"]], "way": "in"})
    inside = {r["code"] for r in app.get(f"/batches/{batch}/glue")["pieces"] if r["in_at"]}
    assert inside == set(board["pieces"])


def test_boards_are_taken_out_of_the_comparison(app: App) -> None:
    batch = boards(app)
    app.glue(batch)
    app.clock.pass_(hours=40)
    app.post(f"/batches/{batch}/unclamp", {"codes": [p["code"] for p in parents(app, batch)]})
    base = {"A": 5000, "B": 5200, "C": 5400, "D": 5600, "E": 4100, "F": 4250, "G": 4500, "H": 4700}
    letters = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch}/cut")["rows"]}
    for n, p in enumerate(parents(app, batch)):
        for k, code in enumerate(p["pieces"]):
            # Boards are 800 N apart; what is left is a few newtons.
            load = base[letters[code]] + 400 * (n % 3) + 7 * ((n + k) % 3)
            app.observe(batch, code, low=f"{load} N", failure_mode="in-glue", confirmed=["early", "not conditioned"])
    view = app.compare(batch, figure="load", unit="pieces")
    # Dry boards and wet boards share no treatment: each set is held together for itself.
    dry, wet = view["within"]
    assert (dry["blocks"], wet["blocks"], len(dry["rows"]), len(wet["rows"])) == (3, 3, 4, 4)
    for found in (dry, wet):
        means = {r["letter"]: r["mean"] for r in found["rows"]}
        assert found["taken_out_pct"] > 95
        assert all(abs(r["diff"] - (base[r["letter"]] - base[min(means)])) < 15 for r in found["rows"] if r["diff"])
    assert view["counted"]["choices"] == []


def test_glues_on_the_same_boards_are_held_against_each_other_there(app: App) -> None:
    batch = app.planned(replicates=4, solid=0)
    app.draft(batch, parents=BOARD)
    app.lock(batch)
    letters = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch}/cut")["rows"]}
    off = {"A": 0, "B": 150, "C": -200, "D": 40}
    for n, p in enumerate(parents(app, batch)):
        for k, code in enumerate(sorted(p["pieces"], key=letters.__getitem__)):
            load = 5000 + off[letters[code]] + 500 * n + (10 if (n + k) % 2 else -10)
            app.observe(batch, code, low=f"{load} N", failure_mode="in-glue")
    (found,) = app.compare(batch, figure="load")["within"]
    assert (found["name"], found["blocks"]) == ("backing board", 4)
    assert found["taken_out_pct"] > 95
    assert [r["letter"] for r in found["rows"]] == ["B", "D", "A", "C"]
    against = {r["letter"]: r for r in found["rows"]}
    assert against["B"]["diff"] == pytest.approx(150)
    assert against["C"]["diff"] == pytest.approx(-200)
    assert against["C"]["ci_high"] < 0 < against["B"]["ci_low"]
    assert against["A"]["diff"] is None


def test_parents_go_out_in_the_file_and_come_back(app: App, tmp_path: Any) -> None:
    batch = panels(app)
    broken(app, batch)
    text = export(app, batch)
    made = parents(app, batch)
    with open_app(tmp_path) as other:
        other.clock.pass_(days=3)
        home = bring(other, text)["batch_id"]
        assert parents(other, home) == made
        assert other.compare(home, figure="load")["counted"]["unit"] == "parents"
    rows = rows_of(text)
    for r in rows:
        r["plan"] = r["shop"] = ""
    with open_app(tmp_path / "without") as other:
        other.clock.pass_(days=3)
        home = bring(other, rewrite(rows))["batch_id"]
        assert [p["pieces"] for p in parents(other, home)] == [p["pieces"] for p in made]
        document = other.get(f"/batches/{home}/plan")["document"]
        assert (document["parents"]["kind"], document["parents"]["each"], document["parents"]["within"]) == (
            "panel", 3, [],
        )  # fmt: skip
    rows[1]["parent_number"] = "9"
    assert fields(bring(app, rewrite(rows), 422)) >= {"row 3: parent_number"}


def test_a_parent_is_found_by_its_code(app: App) -> None:
    batch = panels(app)
    first = parents(app, batch)[0]
    hits = app.get(f"/search?text={first['code']}")["hits"]
    assert {h["code"] for h in hits if h["what"] == "made as one"} == set(first["pieces"])
