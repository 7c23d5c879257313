"""Properties of a plan's own: numbers with a unit and grades, of pieces, faces and bottles; compared, exported."""

from __future__ import annotations

from statistics import fmean
from typing import Any

import pytest

from tests.api.test_exchange import bring, export, rows_of
from tests.running import App, fields, open_app

OWN = [
    {"name": "Foam", "of": "joint", "when": "before", "unit": "mm"},
    {"name": "Visible line", "of": "face", "when": "after", "grades": ["none", "faint", "clear"]},
    {"name": "Ease of spreading", "of": "bottle", "when": "before", "grades": ["hard", "fair", "easy"]},
    {"name": "Set", "of": "reading", "when": "at", "unit": "mm"},
]


def judged(app: App) -> int:
    batch = app.planned("pva-damp", "casein", replicates=4, solid=0)
    app.draft(batch, properties=OWN)
    app.lock(batch)
    return batch


def write(app: App, batch: int, *cells: tuple[str, str, str], status: int = 200) -> Any:
    body = {"cells": [{"prop": p, "subject": s, "text": t} for p, s, t in cells]}
    return app.post(f"/batches/{batch}/own", body, status)


def values(app: App, batch: int) -> dict[tuple[str, str], str]:
    sheets = app.get(f"/batches/{batch}/own")["sheets"]
    return {(p, r["subject"]): v for s in sheets for r in s["rows"] for p, v in r["values"].items()}


def test_each_is_asked_where_it_belongs(app: App) -> None:
    app.post("/bottles", {"label": "Blue", "family": "pva-damp"})
    batch = judged(app)
    sheets = {s["of"]: s for s in app.get(f"/batches/{batch}/own")["sheets"]}
    codes = app.codes(batch)
    assert [r["subject"] for r in sheets["joint"]["rows"]] == codes
    assert [r["subject"] for r in sheets["face"]["rows"]][:2] == [f"{codes[0]}-a", f"{codes[0]}-b"]
    assert [r["subject"] for r in sheets["bottle"]["rows"]] == ["Blue"]
    assert [p["id"] for s in ("joint", "face", "bottle", "reading") for p in sheets[s]["properties"]] == [
        "p1", "p2", "p3", "p4",
    ]  # fmt: skip


def test_values_are_read_kept_and_taken_back(app: App) -> None:
    batch = judged(app)
    first, second = app.codes(batch)[:2]
    write(app, batch, ("p1", first, "2,5 mm"), ("p2", f"{first}-a", "Faint"), ("p2", f"{first}-b", "3"))
    assert values(app, batch) == {
        ("p1", first): "2.5 mm", ("p2", f"{first}-a"): "faint", ("p2", f"{first}-b"): "clear",
    }  # fmt: skip
    wrong = write(app, batch, ("p1", second, "much"), ("p2", f"{second}-a", "grey"), ("p9", second, "1"),
                  ("p1", "XXXX", "1"), status=422)  # fmt: skip
    assert fields(wrong) == {f"{second} p1", f"{second}-a p2", f"{second} p9", "XXXX p1"}
    assert len(values(app, batch)) == 3, "nothing of a refused sheet is written"
    write(app, batch, ("p1", first, " "))
    assert ("p1", first) not in values(app, batch)
    app.post(f"/batches/{batch}/undo", {"stage": "cut"})
    assert values(app, batch)["p1", first] == "2.5 mm"


def test_they_are_compared_like_any_other_figure(app: App) -> None:
    batch = judged(app)
    letters = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch}/cut")["rows"]}
    foam = {"A": [1.0, 1.1, 0.9, 1.0], "B": [4.0, 4.2, 3.8, 4.1]}
    left = {k: list(v) for k, v in foam.items()}
    for code, letter in letters.items():
        value = left[letter].pop()
        write(app, batch, ("p1", code, f"{value}"), ("p2", f"{code}-a", "none" if letter == "A" else "clear"),
              ("p2", f"{code}-b", "none" if letter == "A" else "clear"))  # fmt: skip
        app.observe(batch, code, low=f"{5000 - 600 * value} N", failure_mode="in-glue")
    found = {p["name"]: p for p in app.compare(batch)["own"]}
    assert set(found) == {"Foam", "Visible line"}
    rows = {r["letter"]: r for r in found["Foam"]["rows"]}
    assert rows["B"]["mean"] == pytest.approx(fmean(foam["B"]))
    said = " ".join(found["Foam"]["sentences"])
    assert "Casein (4.03 mm, 4.0 times as much) is higher than Damp-proof PVA (1 mm)." in said
    assert "stronger" not in said
    assert "Pieces with more foam have lower figures (8 pieces" in said
    grades = {r["letter"]: r["grades"] for r in found["Visible line"]["rows"]}
    assert grades == {"A": {"none": 4}, "B": {"clear": 4}}
    assert "The grades differ between treatments" in found["Visible line"]["sentences"][0]


def test_they_travel_with_the_pieces(app: App, tmp_path: Any) -> None:
    app.post("/bottles", {"label": "Blue", "family": "pva-damp"})
    batch = judged(app)
    codes = app.codes(batch, "joint")
    app.glue(batch, bottle="Blue")
    write(app, batch, ("p1", codes[0], "2.5"), ("p2", f"{codes[0]}-b", "faint"), ("p3", "Blue", "easy"))
    text = export(app, batch)
    row = next(r for r in rows_of(text) if r["code"] == codes[0])
    assert row["property p1: Foam [mm]"] == "2.5"
    assert row["property p2-b: Visible line"] == "faint"
    assert row["property p3: Ease of spreading"] == "easy"
    with open_app(tmp_path) as other:
        home = bring(other, text)["batch_id"]
        assert values(other, home) == values(app, batch)


@pytest.mark.parametrize(
    ("own", "field"),
    [
        ({"name": ""}, "properties.0.name"),
        ({"name": "Foam", "grades": ["one"]}, "properties.0.grades"),
        ({"name": "Foam", "grades": ["a", "A"]}, "properties.0.grades"),
        ({"name": "Foam", "unit": "x" * 20}, "properties.0.unit"),
    ],
)
def test_what_is_no_property_is_named(app: App, own: dict[str, Any], field: str) -> None:
    batch = app.planned("pva-damp", "casein")
    app.draft(batch, properties=[own])
    assert [p["field"] for p in app.get(f"/batches/{batch}/plan")["forecast"]["problems"]] == [field]
