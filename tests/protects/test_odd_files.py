"""A table changed by hand is taken as it was meant or refused by row: never half of it, and never by a crash."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from tests.api.test_exchange import bring, export, finished, rewrite, rows_of
from tests.running import App, open_app

JSON_CELLS = ("events", "steps", "defects", "board_places", "amended", "confirmed", "plan", "shop")
ODD = ["5", "null", "[1]", '{"a": 1}', '"text"', "[[]]", "[null]", "{", "[[1, 2, 3, 4]]"]
PYTHON = ("Traceback", "KeyError", "NoneType", "object is not", "unpack", "dict_", "__init__", "positional")


@pytest.fixture(scope="module")
def exported(tmp_path_factory: pytest.TempPathFactory) -> str:
    with open_app(tmp_path_factory.mktemp("exported")) as app:
        return export(app, finished(app))


@pytest.fixture
def rows(exported: str) -> list[dict[str, str]]:
    return rows_of(exported)


@pytest.mark.parametrize("column", JSON_CELLS)
@pytest.mark.parametrize("cell", ODD)
def test_an_odd_document_in_a_cell_is_refused_or_harmless(
    rows: list[dict[str, str]], tmp_path: Path, column: str, cell: str
) -> None:
    rows[0][column] = cell
    with open_app(tmp_path / "other") as other:
        answer = other.client.post(
            "/api/batches/import", content=rewrite(rows).encode(), headers={"Content-Type": "text/csv"}
        )
        assert answer.status_code in (200, 422), (column, cell, answer.text)
        assert not [word for word in PYTHON if word in answer.text], answer.text
        batches = other.get("/today")["batches"]
        assert len(batches) == (answer.status_code == 200)
        for view in ("glue", "break", "compare", "cut") if batches else ():
            other.get(f"/batches/{batches[0]['batch']['id']}/{view}")


@pytest.mark.parametrize(
    ("column", "cell"),
    [
        ("kind", "snapped"), ("load_low_n", "much"), ("load_low_n", "-5"), ("load_low_n", "1e300"),
        ("wood_failure_pct", "140"), ("failure_mode", "the glue"), ("clamps", "0"), ("clamp_force_known", "felt"),
        ("air_c", "451"), ("humidity_pct", "-1"), ("replicate", "0"), ("role", "spare"), ("part", "half"),
        ("code", "abc"), ("unclamped_at", "yesterday"), ("observed_at", "2026-11-23 10:00"), ("width_mm", "0"),
        ("first_crack_n", "-3"), ("glueup_faces", "three"),
    ],
)  # fmt: skip
def test_a_wrong_cell_is_named_by_row_and_column(
    rows: list[dict[str, str]], tmp_path: Path, column: str, cell: str
) -> None:
    place = next(i for i, r in enumerate(rows) if r["role"] == "joint" and r["kind"] == "exact")
    rows[place][column] = cell
    with open_app(tmp_path / "other") as other:
        problem = bring(other, rewrite(rows), 422)
        named = {e["field"] for e in problem["errors"]}
        last = column.split("_")[-1]
        assert any(f.startswith(f"row {place + 2}") and (column in f or last in f) for f in named), named
        assert other.get("/today")["batches"] == []


def test_sizes_of_every_kind_keep_their_unit(app: App, tmp_path: Path) -> None:
    """Moisture is no millimetre."""
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    app.sizes(batch, [(code, "width", "20.1"), (code, "moisture", "11")])
    with open_app(tmp_path / "other") as other:
        made = bring(other, export(app, batch))["batch_id"]
        sizes = next(r["sizes"] for r in other.get(f"/batches/{made}/cut")["rows"] if r["code"] == code)
    assert {k: (s["value"], s["typed"]) for k, s in sizes.items()} == {
        "width": (20.1, "20.1 mm"), "moisture": (11.0, "11"),
    }  # fmt: skip


def test_a_file_read_in_twice_changes_nothing(app: App) -> None:
    batch = finished(app)
    text = export(app, batch)
    assert (bring(app, text)["sizes"], bring(app, text)["readings"]) == (0, 0)
    assert export(app, batch) == text


def test_a_reading_corrected_in_the_table_keeps_what_the_table_does_not_say(app: App) -> None:
    batch = finished(app)
    rows = rows_of(export(app, batch))
    place = next(i for i, r in enumerate(rows) if r["kind"] == "exact")
    before = dict(rows[place])
    rows[place]["load_low_n"] = rows[place]["load_high_n"] = "4321"
    assert bring(app, rewrite(rows))["readings"] == 1
    after = next(r for r in rows_of(export(app, batch)) if r["code"] == before["code"])
    changed = {k for k in after if after[k] != before[k]}
    assert {"load_low_n", "load_high_n"} <= changed
    assert changed <= {"load_low_n", "load_high_n", "figure_low", "figure_high", "strength_low_mpa",
                       "strength_high_mpa", "source", "uncertainty"}  # fmt: skip


@pytest.mark.parametrize(
    "damage",
    [
        lambda d: d.pop("bottles"),
        lambda d: d["bottles"].append({"label": "No family"}),
        lambda d: d["bottles"].append({"label": "X", "family": "casein", "limits": {"open_s": -1}, "events": []}),
        lambda d: d.update(boards="ash"),
        lambda d: d.update(cut={"document": {}}),
    ],
)
def test_a_shop_that_is_not_as_it_was_written_is_refused_whole(app: App, tmp_path: Path, damage: Any) -> None:
    app.post("/bottles", {"label": "Bottle 4", "family": "pva-damp", "opened_on": "2026-11-01"})
    rows = rows_of(export(app, finished(app)))
    document = json.loads(rows[0]["shop"])
    damage(document)
    rows[0]["shop"] = json.dumps(document)
    with open_app(tmp_path / "other") as other:
        bring(other, rewrite(rows), 422)
        shop = other.get("/shop")
        assert (shop["bottles"], shop["boards"], other.get("/today")["batches"]) == ([], [], [])
