"""Tables of another shop: shown before they are taken in, refused by row and column, nothing lost without a word."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_exchange import export, rows_of
from tests.running import App, fields

WIDE = """Glue\t1\t2\t3\t4\t5\t6\t7\t8\t9\t10
Hide\t410\t395\t402\tF\t388\t420\t399\t405\tF\t391
Fish\t510\t495\t502\t515\t>400\t520\t499\tabc\t517\t491
Casein\t310\t295\t302\t315\t288\t320\t299\t305\tF\t291
Resin\t610\t595\t602\t615\t588\t>400\t599\t605\t617\t591
Starch\t110\t95\t102\t115\t88\t120\t99\t105\t117\t91
"""
KGF = 9.80665
SIZES = {"width": 20.0, "overlap": 25.0, "thickness": 10.0}
CONSTANTS: dict[str, Any] = {
    "species": {"value": "not told"},
    "orientation": {"value": "long-parallel"},
    "prep": {"value": "not told"},
    "pressure_mpa": {"value": None},
    "clamp_s": {"value": 7200.0, "unit": "h"},
    "cure_s": {"value": 259200.0, "unit": "d"},
}


def asked(text: str = WIDE, **more: Any) -> dict[str, Any]:
    return {"name": "Other shop", "text": text, "layout": "rows", "method": "lap-tension", "unit": "kgf",
            "sizes": SIZES, "constants": CONSTANTS, **more}  # fmt: skip


def preview(app: App, **more: Any) -> Any:
    return app.post("/batches/import-table/preview", asked(**more))


def loads(app: App, batch: int) -> dict[str, list[tuple[str, float | None]]]:
    """Kinds and lower loads by the letters of the treatments: names are not told while breaking."""
    found: dict[str, list[tuple[str, float | None]]] = {}
    for row in app.get(f"/batches/{batch}/break")["rows"]:
        found.setdefault(row["treatment"], []).append((row["kind"], row["low_n"]))
    return found


def test_a_wide_table_is_counted_and_its_one_wrong_cell_named(app: App) -> None:
    seen = preview(app)
    assert seen["counts"] == {"value": 44, "apart": 3, "at_least": 2, "refused": 1, "empty": 0}
    assert [(c["row"], c["column"], c["text"]) for c in seen["refused"]] == [(3, 9, "abc")]
    assert seen["sentence"].endswith("the other 49 can be taken in.")
    assert seen["varied"] == ["glue"], "the corner of the table names a field of the record"
    hide = seen["treatments"][0]
    assert (hide["name"], hide["values"], hide["apart"]) == ("Hide", 8, 2)
    assert hide["mean"] == pytest.approx(KGF * (410 + 395 + 402 + 388 + 420 + 399 + 405 + 391) / 8)
    assert app.get("/today")["batches"] == [], "a preview writes nothing"


def test_a_wrong_cell_refuses_the_table_until_it_is_to_be_left_out(app: App) -> None:
    refused = app.post("/batches/import-table", asked(), 422)
    assert fields(refused) == {"row 3, column 9"}
    made = app.post("/batches/import-table", asked(leave_out=True))
    assert (made["pieces"], made["readings"], made["new_batch"]) == (49, 49, True)
    told = app.compare(made["batch_id"])["question"]
    assert told.endswith("left out: row 3, column 9 'abc'"), "it stands wherever the answer does"


def test_what_was_written_is_what_is_compared(app: App) -> None:
    batch = app.post("/batches/import-table", asked(leave_out=True))["batch_id"]
    found = {t["label"]: t for t in app.compare(batch)["treatments"]}
    assert found["Hide"]["n"] == 10
    assert found["Fish"]["n"] == 9
    assert found["Hide"]["fell_apart"] == 2
    kinds = [kind for cells in loads(app, batch).values() for kind, _ in cells]
    assert (kinds.count("exact"), kinds.count("at_least"), kinds.count("fell_apart")) == (44, 2, 3)
    # Starch in MPa on 20 x 25 mm, from the kilograms in the table.
    starch = [110, 95, 102, 115, 88, 120, 99, 105, 117, 91]
    assert found["Starch"]["mean"] == pytest.approx(sum(starch) / 10 * KGF / 500, rel=1e-6)


def test_columns_as_treatments_give_the_same_pieces(app: App) -> None:
    rows = [line.split("\t") for line in WIDE.strip().splitlines()[1:]]
    turned = "\n".join("\t".join(row[i] for row in rows) for i in range(11))
    seen, other = preview(app), preview(app, text=turned, layout="columns", factor="Glue")
    assert other["treatments"] == seen["treatments"]
    assert [(c["row"], c["column"]) for c in other["refused"]] == [(9, 2)], "as the pasted table has it"


def test_bare_averages_take_part_in_nothing(app: App) -> None:
    text = "Glue;Mean\nHide;410,5\nFish;512\n"
    seen = preview(app, text=text, means=True)
    assert seen["sentence"].startswith("2 means")
    batch = app.post("/batches/import-table", asked(text, means=True))["batch_id"]
    view = app.compare(batch)
    assert [t["n"] for t in view["treatments"]] == [0, 0]
    assert view["pairs"] == []
    said = [f["text"] for f in view["caveats"]]
    assert view["answers"][0]["text"] == "Every reading is excluded: nothing can be compared."
    assert "2 readings void: mean only, pieces unknown." in said
    rows = app.get(f"/batches/{batch}/break")["rows"]
    assert {r["kind"] for r in rows} == {"void"}
    assert "mean only, pieces unknown" in str(view["treatments"])


LONG = """Glue,Clamp time (min),Peak load [lbf],Failure,Wood failure %,Overlap (in),Piece
Hide,30,900,in the glue,10,1,a1
Hide,60,>950,,,1,a2
Fish,30,F,at the interface,0,1,b1
Fish,60,"1100",in the wood at the line,80,1 1/8,b2
"""


def test_a_row_a_piece_with_its_own_sizes_and_failures(app: App) -> None:
    constants = {k: v for k, v in CONSTANTS.items() if k != "clamp_s"}
    seen = preview(app, text=LONG, layout="long", constants=constants)
    roles = [(c["role"], c["key"], c["unit"]) for c in seen["columns"]]
    assert roles[:5] == [("factor", "glue", ""), ("factor", "clamp_s", "min"), ("load", "", "lbf"),
                         ("failure_mode", "", ""), ("wood_failure_pct", "", "")]  # fmt: skip
    roles[5] = ("size", "overlap", "in")
    columns = [{"role": r, "key": k, "unit": u} for r, k, u in roles]
    more = {"layout": "long", "constants": constants, "columns": columns}
    made = app.post("/batches/import-table", asked(LONG, **more))
    batch = made["batch_id"]
    assert made["sizes"] == 4
    found = loads(app, batch)
    kinds = {k: kind for k, [(kind, _)] in found.items()}
    assert kinds == {"A": "exact", "B": "at_least", "C": "fell_apart", "D": "exact"}
    assert found["A"][0][1] == pytest.approx(900 * 4.4482216152605)
    by_label = {t["label"]: t for t in app.compare(batch)["treatments"]}
    last = by_label["Fish · clamp time 60 min"]
    # The piece's own overlap of 1 1/8 inch counts, not the one of all.
    assert last["mean"] == pytest.approx(1100 * 4.4482216152605 / (20 * 28.575), rel=1e-6)


def test_strengths_are_turned_back_into_loads(app: App) -> None:
    batch = app.post("/batches/import-table", asked("Glue;1;2\nHide;2,5;3\nFish;4;4,5", unit="MPa"))["batch_id"]
    assert loads(app, batch)["A"] == [("exact", pytest.approx(1250)), ("exact", pytest.approx(1500))]


def test_solid_wood_and_control_are_named(app: App) -> None:
    text = "Glue;1;2;3\nHide;400;410;390\nFish;500;520;510\nBeech itself;900;880;910\n"
    batch = app.post("/batches/import-table", asked(text, solid="Beech itself", control="Hide"))["batch_id"]
    found = {t["label"]: t for t in app.compare(batch)["treatments"]}
    assert found["Solid not told"]["role"] == "solid"
    assert found["Hide"]["is_control"]
    refused = app.post("/batches/import-table", asked(text, name="Again", control="Nobody"), 422)
    assert fields(refused) == {"control"}


@pytest.mark.parametrize(("more", "field"), [
    ({"method": "nothing"}, "method"),
    ({"unit": "kg/m³"}, "unit"),
    ({"name": "  "}, "name"),
    ({"constants": {k: v for k, v in CONSTANTS.items() if k != "cure_s"}}, "Cure time"),
    ({"sizes": {"width": 20.0, "thickness": 10.0}}, "sizes.overlap_mm"),
    ({"text": "Hide;;\n"}, "text"),
    ({"key": "orientation"}, "text"),
    ({"layout": "long", "columns": [{"role": "factor"}, {"role": "note"}]}, "columns"),
])  # fmt: skip
def test_what_is_missing_is_named_and_nothing_is_made_up(app: App, more: dict[str, Any], field: str) -> None:
    body = asked("Glue;1;2\nHide;400;410\nFish;500;520\n", leave_out=True)
    refused = app.post("/batches/import-table", {**body, **more}, 422)
    assert field in fields(refused)
    assert app.get("/today")["batches"] == []


def test_sent_twice_is_taken_once(app: App) -> None:
    key = {"Idempotency-Key": "table-0001"}
    first = app.post("/batches/import-table", asked(leave_out=True), **key)
    assert app.post("/batches/import-table", asked(leave_out=True), **key) == first
    assert len(app.get("/today")["batches"]) == 1


def test_a_plus_before_a_number_is_its_sign_and_behind_it_a_mark(app: App) -> None:
    batch = app.post("/batches/import-table", asked("Glue;1;2;3\nHide;+400;410+;>420\nFish;500;510;505\n"))["batch_id"]
    assert sorted(kind for kind, _ in loads(app, batch)["A"]) == ["at_least", "at_least", "exact"]


def test_figures_made_of_others_are_no_pieces(app: App) -> None:
    text = "Glue\t1\t2\t3\tMean\tSD\nHide\t400\t410\t390\t400\t10\nFish\t500\t510\t490\t500\t10\n"
    seen = preview(app, text=text)
    assert seen["counts"]["value"] == 6
    assert {(c["row"], c["column"]) for c in seen["refused"]} == {(2, 5), (2, 6), (3, 5), (3, 6)}
    assert "made of others" in seen["refused"][0]["why"]
    long = "Glue,Load (N),Mean\nHide,400,405\nHide,410,405\nFish,500,505\nFish,510,505\n"
    told = preview(app, text=long, layout="long")["columns"]
    assert [c["role"] for c in told] == ["factor", "load", "skip"]


def test_cells_beyond_the_headings_are_named_and_not_lost(app: App) -> None:
    text = "Glue,Load (N)\nHide,400\nHide,410,oops\nFish,500\nFish,510\n"
    seen = preview(app, text=text, layout="long")
    assert [(c["row"], c["column"], c["why"]) for c in seen["refused"]] == [(3, 3, "stands under no heading")]


def test_quotes_that_never_close_refuse_the_table(app: App) -> None:
    refused = app.post("/batches/import-table/preview", asked('Glue,1,2\n"Hide,400,410\nFish,500,510\n'), 422)
    assert fields(refused) == {"text"}, "else the rest of the table would be one cell"


def test_headings_in_other_letters_stay_factors_of_their_own(app: App) -> None:
    """Two headings without a Latin letter have no key to tell them apart but their place."""
    rows = "\n".join(f"{a},{b},{v}" for a, b, v in (("x", "p", 400), ("x", "q", 410), ("y", "p", 500), ("y", "q", 510)))
    text = f"\u043a\u043b\u0435\u0439,\u0432\u0438\u0434,Load (N)\n{rows}\n"
    constants = {**CONSTANTS, "glue": {"value": "not told"}}
    seen = preview(app, text=text, layout="long", constants=constants)
    assert len(set(seen["varied"])) == 2
    assert [t["name"] for t in seen["treatments"]] == ["x · p", "x · q", "y · p", "y · q"]
    made = app.post("/batches/import-table", asked(text, layout="long", constants=constants))
    assert len(app.compare(made["batch_id"])["factors"]) == 2


@pytest.mark.parametrize(("columns", "field"), [
    ([{"role": "factor", "key": "glue"}, {"role": "load"}, {"role": "size"}], "column 3"),
    ([{"role": "factor", "key": "glue"}, {"role": "load"}, {"role": "size", "key": "nothing"}], "column 3"),
    ([{"role": "factor", "key": "glue"}, {"role": "load"}, {"role": "factor", "key": "glue"}], "column 3"),
    ([{"role": "factor", "key": "glue"}, {"role": "load"}], "columns"),
])  # fmt: skip
def test_a_column_that_is_not_told_enough_of_is_refused(app: App, columns: list[Any], field: str) -> None:
    text = "Glue,Load (N),Width\nHide,400,20\nFish,500,20\n"
    refused = app.post("/batches/import-table", asked(text, layout="long", columns=columns), 422)
    assert fields(refused) == {field}
    assert app.get("/today")["batches"] == []


def test_what_the_record_cannot_hold_is_named_before_by_the_row_of_the_table(app: App) -> None:
    text = "Glue,Load (N),Wood failure %\nHide,400,20\n\nHide,410,30\nFish,500,120\nFish,510,40\n"
    seen = preview(app, text=text, layout="long")
    assert [p["field"] for p in seen["problems"]] == ["row 5: wood_failure_pct"]


def test_solid_wood_is_called_as_the_plan_calls_it(app: App) -> None:
    """End grain is held against wood loaded the same way: its name says so, whatever the table calls it."""
    text = "Glue;1;2;3\nHide;400;410;390\nFish;500;520;510\nplain wood;900;880;910\n"
    constants = {**CONSTANTS, "orientation": {"value": "long-end"}, "species": {"value": "ash"}}
    batch = app.post("/batches/import-table", asked(text, solid="plain wood", constants=constants))["batch_id"]
    solid = next(t for t in app.compare(batch)["treatments"] if t["role"] == "solid")
    assert solid["label"].startswith("Solid ash")
    assert solid["n"] == 3


OWN = """Glue,Condition,Which,Tested on,Load (lbf),How it ended,Remarks
Yellow,dry,a1,3 May 2025,900,broke,first
Yellow,dry,a2,3 May 2025,920,broke,
Yellow,soaked,a3,4 May 2025,,fell apart,in the bucket
Yellow,soaked,a4,4 May 2025,500,did not break,
Yellow,soaked,a5,4 May 2025,,not tested,
"""


def test_a_table_of_ones_own_keeps_names_days_and_how_each_piece_ended(app: App) -> None:
    """Outcomes in words beside the loads: what did not break is a bound, what fell apart stays, names and days too."""
    made = app.post("/batches/import-table", asked(OWN, layout="long"))
    assert (made["pieces"], made["readings"]) == (4, 4)
    batch = made["batch_id"]
    rows = {r["name"]: r for r in app.get(f"/batches/{batch}/break")["rows"]}
    assert {k: r["kind"] for k, r in rows.items()} == {
        "a1": "exact", "a2": "exact", "a3": "fell_apart", "a4": "at_least",
    }  # fmt: skip
    assert {r["at"][:10] for r in rows.values()} == {"2025-05-03", "2025-05-04"}
    assert rows["a3"]["note"] == "Remarks: in the bucket"
    found = {t["label"]: t for t in app.compare(batch)["treatments"]}
    assert set(found) == {"condition dry", "condition soaked"}, "one glue throughout is no part of a name"
    assert (found["condition soaked"]["fell_apart"], found["condition soaked"]["n"]) == (1, 2)
    (progress,) = app.get("/today")["batches"]
    assert progress["glued"] == progress["joints"] == 4, "nothing waits for glue"
    (hit, *_) = app.get("/search?text=a3")["hits"]
    assert hit["code"] == rows["a3"]["code"]
    names = {r["piece_name"] for r in rows_of(export(app, batch))}
    assert names == {"a1", "a2", "a3", "a4"}


@pytest.mark.parametrize(("cells", "why"), [
    ("500,purple", "is not understood"), ("500,fell apart", "a load stands beside it"),
    (",did not break", "how much did it hold"), ("500,not tested", "a load stands beside it"),
])  # fmt: skip
def test_an_outcome_that_is_not_understood_is_refused_by_its_cell(app: App, cells: str, why: str) -> None:
    text = f"Glue,Load (lbf),Result\nHide,900,broke\nHide,910,broke\nFish,920,broke\nFish,880,\nFish,{cells}\n"
    (cell,) = preview(app, text=text, layout="long")["refused"]
    assert cell["row"] == 6
    assert why in cell["why"]


def test_a_column_that_nobody_understands_is_asked_about_and_never_averaged(app: App) -> None:
    text = "Glue,Load (lbf),Hm\nHide,900,1.5\nHide,910,2.5\nFish,920,3.5\nFish,880,4.5\nFish,890,5.5\n"
    seen = preview(app, text=text, layout="long")
    assert seen["columns"][2]["role"] == "ask"
    assert [p["field"] for p in seen["problems"]] == ["column 3"]


def test_a_day_that_nobody_knows_is_flagged_and_a_stated_one_kept(app: App) -> None:
    text = "Glue,Load (lbf)\nHide,900\nHide,910\nFish,920\nFish,880\n"
    for told, expected in (("", "date of the break not known"), ("2025-05-03", "")):
        batch = app.post("/batches/import-table", asked(text, layout="long", name=f"of {told}", broken_on=told))[
            "batch_id"
        ]
        rows = app.get(f"/batches/{batch}/break")["rows"]
        assert all((expected in r["flags"]) == bool(expected) for r in rows)
        assert not told or {r["at"][:10] for r in rows} == {told}


def test_figures_that_no_joint_has_are_told_before_they_are_taken_in(app: App) -> None:
    text = "Glue,Load\nHide,0.05\nHide,910\nFish,920\nFish,880\n"
    (said,) = preview(app, text=text, layout="long")["doubts"]
    assert "far below what such joints carry (row 2:" in said
    batch = app.post("/batches/import-table", asked(text, layout="long"))["batch_id"]
    flagged = [
        r for r in app.get(f"/batches/{batch}/break")["rows"] if "far below what such joints carry" in r["flags"]
    ]
    assert len(flagged) == 1
