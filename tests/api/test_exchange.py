"""The data go out as CSV and come back the same; wrong files are refused by row, as a whole."""

from __future__ import annotations

import csv
import io
from pathlib import Path
from typing import Any

import pytest

from tests.api.test_flow import LOADS
from tests.running import App, fields, open_app


def export(app: App, batch: int) -> str:
    response = app.client.get(f"/api/batches/{batch}/specimens.csv")
    assert response.status_code == 200
    assert response.headers["content-type"].startswith("text/csv")
    assert "attachment" in response.headers["content-disposition"]
    return response.text


def bring(app: App, text: str, status: int = 200) -> Any:
    response = app.client.post("/api/batches/import", content=text.encode(), headers={"Content-Type": "text/csv"})
    assert response.status_code == status, response.text
    return response.json()


def finished(app: App) -> int:
    """A batch with an exception, a bound, a void piece and a note with commas, quotes and a line break."""
    batch = app.locked()
    codes = app.codes(batch)
    app.sizes(batch, [(c, q, t) for c in codes for q, t in (("width", "20.13"), ("overlap", "3/4 in"))])
    app.glue(batch, air_c=17.5, humidity_pct=51, bottle="Bottle 4")
    app.post(f"/batches/{batch}/exceptions", {"code": app.codes(batch, "joint")[2], "force_n": 700.0})
    app.clock.pass_(hours=5)
    app.post(f"/batches/{batch}/unclamp", {"codes": app.codes(batch, "joint")})
    app.break_all(batch, LOADS)
    rows = app.get(f"/batches/{batch}/break")["rows"]
    app.observe_anew(batch, rows[0]["code"], kind="void", reason='crooked, "badly"', note="line one\nline two; =1+1")
    app.observe_anew(batch, rows[1]["code"], kind="at_least", low="4000", wood_failure_pct=35)
    return batch


def rows_of(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text)))


def rewrite(rows: list[dict[str, str]]) -> str:
    out = io.StringIO()
    writer = csv.DictWriter(out, list(rows[0]))
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue()


def test_units_stand_in_the_headings(app: App) -> None:
    rows = rows_of(export(app, finished(app)))
    assert len(rows) == 15
    heads = set(rows[0])
    assert {"width_mm", "load_low_n", "strength_low_mpa", "clamp_force_n", "air_c", "planned_cure_s"} <= heads
    assert "factor glue: Glue" in heads
    broken = next(r for r in rows if r["kind"] == "exact")
    assert float(broken["strength_low_mpa"]) == pytest.approx(float(broken["load_low_n"]) / (20.13 * 19.05))


def test_there_and_back_into_an_empty_workshop(app: App, tmp_path: Path) -> None:
    batch = finished(app)
    text = export(app, batch)
    with open_app(tmp_path / "other") as other:
        done = bring(other, text)
        assert (done["new_batch"], done["pieces"], done["readings"], done["sizes"]) == (True, 15, 15, 30)
        again = export(other, done["batch_id"])
        ignored = {"observed_at", "observed_by", "source"}

        def record(t: str) -> list[dict[str, str]]:
            return [{k: v for k, v in r.items() if k not in ignored} for r in rows_of(t)]

        assert record(again) == record(text)
        here, there = app.compare(batch), other.compare(done["batch_id"])
        for a, b in zip(here["treatments"], there["treatments"], strict=True):
            assert b == a
        assert there["pairs"] == here["pairs"]
        pressures = [
            [p["pressure_mpa"] for p in x.get(f"/batches/{i}/glue")["pieces"]]
            for x, i in ((app, batch), (other, done["batch_id"]))
        ]
        assert pressures[0] == pressures[1]
        assert other.context.db.check() == []


def test_free_factors_with_units_come_back(app: App, tmp_path: Path) -> None:
    batch = app.batch("Gaps")
    levels = [{"value": v, "unit": "mm"} for v in (0.0, 0.3)] + [{"value": None, "unit": ""}]
    plan = app.get(f"/batches/{batch}/plan")["document"]
    constants = {**plan["constants"], "glue": {"value": "casein", "unit": ""}}
    app.draft(batch, question="Gap?", factors=[{"key": "own", "name": "Gap", "levels": levels}], constants=constants,
                control={"own": "l1"}, replicates=2, solid_reference=0)  # fmt: skip
    app.lock(batch)
    with open_app(tmp_path / "other") as other:
        done = bring(other, export(app, batch))
        got = other.get(f"/batches/{done['batch_id']}/plan")["document"]
        assert got["factors"][0]["name"] == "Gap"
        assert [v["value"] for v in got["factors"][0]["levels"]] == [0.0, 0.3, None]
        labels = [t["label"] for t in other.compare(done["batch_id"])["treatments"]]
        assert labels == [t["label"] for t in app.compare(batch)["treatments"]]


def test_into_the_own_batch_only_differences_are_written(app: App) -> None:
    batch = finished(app)
    text = export(app, batch)
    assert bring(app, text)["readings"] == 0
    rows = rows_of(text)
    changed = next(r for r in rows if r["kind"] == "exact")
    changed |= {"load_low_n": "5555", "load_high_n": "5555", "width_mm": "21"}
    done = bring(app, rewrite(rows))
    assert (done["new_batch"], done["sizes"], done["readings"]) == (False, 1, 1)
    now = next(r for r in rows_of(export(app, batch)) if r["code"] == changed["code"])
    assert (now["load_low_n"], now["width_mm"]) == ("5555", "21")
    app.post(f"/batches/{batch}/undo", {"stage": "break"})
    assert export(app, batch) == text


WRONG: list[tuple[dict[str, str], str]] = [
    ({"code": "AAAA"}, "row 4: code"),
    ({"code": "00II"}, "row 4: code"),
    ({"load_low_n": "many"}, "row 4: load_low_n"),
    ({"load_low_n": "-5", "load_high_n": "-5"}, "row 4: low_n"),
    ({"load_low_n": "nan"}, "row 4: load_low_n"),
    ({"kind": "exploded"}, "row 4: kind"),
    ({"kind": "between"}, "row 4: high_n"),
    ({"width_mm": "9999"}, "row 4: width_mm"),
    ({"role": "chair"}, "row 4: role"),
    ({"wood_failure_pct": "300"}, "row 4: wood_failure_pct"),
    ({"failure_mode": "melted"}, "row 4: failure_mode"),
    ({"observed_at": "noon"}, "row 4: observed_at"),
    ({"replicate": "1.5"}, "row 4: replicate"),
    ({"batch": "Another"}, "row 4: batch"),
    ({"treatment_label": "Something else"}, "row 4: treatment_label"),
    ({"note": "x" * 3000}, "row 4: note"),
]


@pytest.mark.parametrize(("change", "field"), WRONG, ids=[f for _, f in WRONG])
def test_a_wrong_row_refuses_the_whole_file(app: App, tmp_path: Path, change: dict[str, str], field: str) -> None:
    batch = app.locked("pva-damp", "casein")
    app.break_all(batch, {k: [5000.0, 5100.0, 5200.0] for k in "ABC"})
    rows = rows_of(export(app, batch))
    rows[2] |= change
    with open_app(tmp_path / "other") as other:
        assert field in fields(bring(other, rewrite(rows), 422))
        assert other.get("/today")["batches"] == []
        with other.context.db.read() as conn:
            assert conn.execute("SELECT count(*) FROM specimen").fetchone()[0] == 0
            assert conn.execute("SELECT count(*) FROM action").fetchone()[0] == 0


def test_all_wrong_rows_are_named(app: App) -> None:
    rows = rows_of(export(app, app.locked("pva-damp", "casein")))
    rows[0]["width_mm"], rows[3]["kind"] = "wide", "odd"
    rows[5]["load_low_n"] = "x"
    assert fields(bring(app, rewrite(rows), 422)) >= {"row 2: width_mm", "row 7: load_low_n"}


@pytest.mark.parametrize(
    ("text", "field"),
    [
        ("", "file"),
        ("batch,code,treatment_label,role\n", "file"),
        ("batch,code\nx,AAAA\n", "row 1: treatment_label"),
        ("batch,code,treatment_label,role,shoe_size\n", "row 1: shoe_size"),
        ("batch,batch,code,treatment_label,role\n", "row 1: batch"),
        ('batch,code,treatment_label,role\n"x,AAAA,l,joint\n', "row"),
        ("batch,code,treatment_label,role\nx,AAAA,l\n", "row 2"),
        ("\x00\x01\x02", "row 1"),
    ],
)
def test_what_is_no_such_file(app: App, text: str, field: str) -> None:
    assert any(f.startswith(field) for f in fields(bring(app, text, 422)))


def test_codes_of_two_batches_in_one_file(app: App) -> None:
    first, second = app.locked("pva-damp", "casein"), app.locked("pva-damp", "casein", name="Bridles")
    rows = rows_of(export(app, first))
    rows[3]["code"] = app.codes(second)[0]
    problem = bring(app, rewrite(rows), 422)
    assert fields(problem) == {"row 5: code"}
    assert "'Bridles'" in problem["errors"][0]["message"]


def test_a_file_from_a_spreadsheet_is_read(app: App, tmp_path: Path) -> None:
    """With a byte order mark, columns in another order, unused ones left out, empty lines at the end."""
    rows = rows_of(export(app, finished(app)))
    keep = ["code", "role", "batch", "factor glue: Glue", "treatment_label", "species_a", "kind", "load_low_n",
            "load_high_n", "reason"]  # fmt: skip
    text = "\ufeff" + rewrite([{k: r[k] for k in keep} for r in rows]) + ",,,,,,,,,\r\n\r\n"
    with open_app(tmp_path / "other") as other:
        done = bring(other, text)
        assert (done["pieces"], done["readings"]) == (15, 15)


def test_what_happened_to_a_joint_comes_back_with_it(app: App, tmp_path: Path) -> None:
    batch = app.planned("pva-damp", "casein", solid=2)
    constants = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    app.draft(batch, constants={**constants, "conditioning": {"value": "soak 24 h, dry 12 h", "unit": ""}})
    app.lock(batch)
    codes = app.codes(batch, "joint")
    at, key = app.clock.at, {"Idempotency-Key": "the-mix-key"}
    laid_out = [p["code"] for p in app.get(f"/batches/{batch}/guide")["pieces"]]
    mixed = {"kind": "mixed", "at": at.isoformat(), "codes": laid_out, "text": "stirred by hand"}
    app.post(f"/batches/{batch}/taps", mixed, **key)
    for kind in ("spread", "clamped"):
        app.clock.pass_(minutes=4)
        body = {"kind": kind, "at": app.clock.at.isoformat(), "code": laid_out[0], "mix": "the-mix-key"}
        app.post(f"/batches/{batch}/taps", body)
    app.glue(batch, [c for c in codes if c != laid_out[0]])
    app.clock.pass_(hours=5)
    app.post(f"/batches/{batch}/unclamp", {"codes": codes})
    joint_records = {"kind": "shift", "codes": laid_out[:1], "value": {"along_mm": 1.5}, "note": 'slid, "a bit"'}
    app.post(f"/batches/{batch}/joint-records", joint_records)
    app.clock.pass_(hours=67)
    app.post(f"/batches/{batch}/condition", {"codes": codes, "way": "in"})
    app.clock.pass_(hours=24)
    app.post(f"/batches/{batch}/condition", {"codes": codes, "way": "out"})
    text = export(app, batch)
    with open_app(tmp_path / "other") as other:
        other.clock.at = app.clock.at
        home = int(bring(other, text)["batch_id"])
        theirs, ours = (b.get(f"/batches/{i}/glue")["pieces"] for b, i in ((other, home), (app, batch)))
        same = (
            "code",
            "area_mm2",
            "open_s",
            "joint_records",
            "flags",
            "pressure_mpa",
            "in_at",
            "out_at",
            "clamp_until",
            "clamp_s",
        )
        assert [[p[k] for k in same] for p in theirs] == [[p[k] for k in same] for p in ours]
        assert export(other, home) == text


@pytest.mark.parametrize(
    ("cell", "word"),
    [("no list", "list of events"), ('[["shift","2026-11-23T10:00:00Z",{"along_mm":-1},""]]', "must be 0 to 100"),
     ('[["sung","2026-11-23T10:00:00Z",{},""]]', "nothing that happens"),
     ('[["conditioned","2026-11-23T10:00:00Z",{"way":"up"},""]]', "neither in nor out"),
     ('[["closed","yesterday",{},""]]', "list of events")],
)  # fmt: skip
def test_a_wrong_event_is_refused_by_its_row(app: App, tmp_path: Path, cell: str, word: str) -> None:
    rows = rows_of(export(app, finished(app)))
    rows[1]["events"] = cell
    with open_app(tmp_path / "other") as other:
        refused = bring(other, rewrite(rows), 422)
        assert word in refused["detail"]
        assert all(f.startswith("row 3") for f in fields(refused))
        assert other.get("/today")["batches"] == []
