"""What is sent twice, at once, odd or enormous is counted once, refused by its field, and breaks nothing."""

from __future__ import annotations

import csv
import io
import threading
from pathlib import Path
from typing import Any

import pytest

from adhaero.core.glue.exposure import parse
from adhaero.core.refusal import Refusal
from adhaero.rig.protocol import TooSlow, line_reader
from adhaero.rig.reader import Reader
from adhaero.workflow.glue import scheduling
from adhaero.workflow.imported_rows import depth
from adhaero.workflow.plan import forecast
from tests.api.test_exchange import bring, export, finished, rewrite, rows_of
from tests.running import App, open_app

HUGE = 2**63


class Ears:
    """Who listens to a rig here."""

    def samples(self, new: object, connection: int) -> None: ...

    def lost(self) -> None: ...


BARS = {"kind": "bar", "count": 6, "force_n": 4000, "force_known": "estimated", "places": 1}


def test_an_undo_sent_twice_undoes_once(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    one, two = app.codes(batch)[:2]
    app.observe(batch, one, low="4000 N")
    app.observe(batch, two, low="4100 N")
    key = {"Idempotency-Key": "undo-000001"}
    for _ in range(2):
        app.post(f"/batches/{batch}/undo", {"stage": "break"}, **key)
    assert app.get(f"/batches/{batch}/break")["done"] == 1
    for _ in range(2):
        app.post(f"/batches/{batch}/redo", {"stage": "break"}, **{"Idempotency-Key": "redo-000001"})
    assert app.get(f"/batches/{batch}/break")["done"] == 2


@pytest.mark.parametrize("at", ["9999-12-31T23:00:00-14:00", "2026-11-20T10:00:00", "0001-01-01T00:00:00+14:00"])
def test_a_file_with_a_time_that_cannot_be_leaves_everything_readable(app: App, tmp_path: Path, at: str) -> None:
    rows = rows_of(export(app, finished(app)))
    rows[0]["glued_at"] = at
    with open_app(tmp_path / "other") as other:
        assert "glued_at" in bring(other, rewrite(rows), 422)["errors"][0]["field"]
        other.get("/today")
        assert other.get("/today")["batches"] == []


def test_an_import_that_makes_a_batch_is_undone(app: App, tmp_path: Path) -> None:
    text = export(app, finished(app))
    with open_app(tmp_path / "other") as other:
        bring(other, text)
        assert len(other.get("/today")["batches"]) == 1
        other.post("/shop/undo?of=imports")
        assert other.get("/today")["batches"] == []
        other.post("/shop/redo?of=imports")
        assert other.get("/today")["batches"][0]["observed"] > 0


def test_a_row_under_another_batch_name_changes_nothing(app: App) -> None:
    batch = finished(app)
    rows = rows_of(export(app, batch))
    for r in rows:
        r["batch"] = "Quite another"
        r["note"] = "changed"
    assert "batch" in bring(app, rewrite(rows), 422)["errors"][0]["field"]
    assert all("changed" not in r["note"] for r in rows_of(export(app, batch)))


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("GET", f"/batches/{HUGE}/plan", None),
        ("GET", f"/pulls/{HUGE}", None),
        ("POST", f"/batches/{HUGE}/glueups", {"codes": ["AAAA"]}),
        ("POST", "/batches/777/sizes", {"cells": []}),
        ("POST", "/batches/777/leave-out", {"treatments": ["A"], "reason": "none"}),
        ("POST", "/batches/777/undo", {"stage": "break"}),
        ("POST", f"/boards/{HUGE}/retire", None),
        ("POST", f"/clamps/{HUGE}/retire", None),
    ],
)
def test_what_is_not_there_is_said_to_be_not_there(app: App, method: str, path: str, body: Any) -> None:
    response = app.client.request(method, f"/api{path}", json=body)
    assert response.status_code in (404, 422), response.text
    assert response.json()["detail"]


@pytest.mark.parametrize("header", [{"Host": "["}, {"Host": "127.0.0.1:8000:9"}, {"Origin": "http://["}])
def test_headers_that_are_no_address_are_refused_with_all_cautions(app: App, header: dict[str, str]) -> None:
    response = app.client.post("/api/batches", json={"name": "x"}, headers=header)
    assert 400 <= response.status_code < 500
    assert "default-src" in response.headers["content-security-policy"]
    assert response.headers["x-content-type-options"] == "nosniff"


@pytest.mark.parametrize(
    "text",
    ["time,temperature_c,humidity_pct\r2026-11-20T10:00,20,50\r", 'time,temperature_c,humidity_pct\n"2026-11-20,20',
     'time,temperature_c,humidity_pct\n"2026\r-11",20,50\n', "\x00\x01"],
)  # fmt: skip
def test_an_odd_climate_file_is_a_problem_not_a_crash(app: App, text: str) -> None:
    response = app.client.post("/api/climate", json={"place": "shop", "text": text})
    assert response.status_code in (200, 422), response.text


def test_two_weeks_of_a_logger_are_no_large_body(app: App) -> None:
    lines = [f"2026-11-{1 + m // 1440:02d}T{m // 60 % 24:02d}:{m % 60:02d}:00+01:00,20.{m % 10},5{m % 10}"
             for m in range(14 * 1440)]  # fmt: skip
    text = "time,temperature_c,humidity_pct\n" + "\n".join(lines)
    assert len(text) > 600_000
    app.post("/climate", {"place": "shop", "text": text})


def test_the_hand_without_a_stand_in_is_refused(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    app.post(f"/batches/{batch}/hand", {"do": "pull", "code": app.codes(batch)[0]}, 422)


def test_a_file_with_semicolons_is_read(app: App, tmp_path: Path) -> None:
    rows = rows_of(export(app, finished(app)))
    out = io.StringIO()
    writer = csv.DictWriter(out, list(rows[0]), delimiter=";")
    writer.writeheader()
    writer.writerows(rows)
    with open_app(tmp_path / "other") as other:
        assert bring(other, out.getvalue())["pieces"] == len(rows)


@pytest.mark.parametrize(
    "document", [[], {"format": 4}, {"format": "x"}, {"factors": 7}, {"constants": []}, {"sizes": 1}]
)
def test_a_wrong_plan_file_is_refused_in_the_words_of_the_trade(app: App, document: Any) -> None:
    response = app.client.post("/api/batches/from-plan", json={"name": "x", "document": document})
    assert response.status_code == 422, response.text
    for word in ("dict", "NoneType", "KeyError", "object has no", "subscript", "iterable"):
        assert word not in response.text


@pytest.mark.parametrize("text", ["=1+1", "@sum", "+49", "-2 mm off", "\tx", "\rx"])
def test_cells_are_harmless_to_a_spreadsheet_and_come_back_unchanged(app: App, tmp_path: Path, text: str) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    app.observe(batch, code, low="4000 N", note=text)
    written = export(app, batch)
    cell = next(r["note"] for r in rows_of(written) if r["code"] == code)
    assert cell[:1] not in "=@+-\t\r"
    with open_app(tmp_path / "other") as other:
        bring(other, written)
        back = other.get("/batches/1/break")["rows"]
    assert next(r["note"] for r in back if r["code"] == code) == text.strip() or text in cell


def test_the_data_are_for_their_owner_alone(app: App, tmp_path: Path) -> None:
    with open_app(tmp_path / "own") as own:
        own.batch()
        folder = tmp_path / "own"
        assert folder.stat().st_mode & 0o777 == 0o700
        assert (folder / "adhaero.db").stat().st_mode & 0o777 == 0o600


def test_a_retired_clamp_in_another_schedule_does_not_stop_this_one(app: App) -> None:
    clamp = app.post("/clamps", {**BARS, "label": "Bars"})["clamps"][0]["id"]
    other, own = app.locked("pva-damp", "casein", name="Other"), app.locked("pva-damp", "casein", name="Own")
    app.post(f"/batches/{other}/schedule", {"seek": False})
    app.post("/clamps", {**BARS, "label": "Screws", "kind": "screw"})
    app.post(f"/clamps/{clamp}/retire")
    app.post(f"/batches/{own}/schedule", {"seek": False})


def test_a_write_goes_through_while_a_schedule_is_made(app: App, monkeypatch: pytest.MonkeyPatch) -> None:
    """The schedule is computed outside of the write transaction."""
    app.post("/clamps", {**BARS, "label": "Bars"})
    batch = app.locked("pva-damp", "casein")
    computing, go_on = threading.Event(), threading.Event()
    real = scheduling._first

    def slow(*args: Any, **more: Any) -> Any:
        computing.set()
        assert go_on.wait(20)
        return real(*args, **more)

    monkeypatch.setattr(scheduling, "_first", slow)
    answer: list[int] = []
    thread = threading.Thread(
        target=lambda: answer.append(
            app.client.post(f"/api/batches/{batch}/schedule", json={"seek": False}).status_code
        )
    )
    thread.start()
    assert computing.wait(20)
    app.put("/settings", {"person": "in between"})
    go_on.set()
    thread.join(timeout=30)
    assert answer == [200]


@pytest.mark.parametrize(
    "text", ["1 d" + " " * 19_000, "(" * 5_000, "5 x (" * 100, "1" * 5_000 + " d", "soak 1 d, " * 3_000]
)
def test_no_text_of_a_conditioning_takes_long(text: str) -> None:
    """Linear in its length: what took a quarter of an hour is refused, or read, at once."""
    with pytest.raises(Refusal):
        parse(text)


@pytest.mark.parametrize("pattern", [r"(\d+)+ N", r"((a+)+)b", r"(.*)*x", r"(?:(\d+)\s*)+kg"])
def test_a_pattern_that_backtracks_is_refused_or_dropped(pattern: str) -> None:
    """One odd line must not end the reading: a slow pattern is refused when it is typed, or given up by the reader."""
    try:
        line_reader(pattern)
    except Refusal:
        return
    reader = Reader("", Ears(), pattern=pattern)
    for line in ("1" * 190 + " x", "1" * 100 + "\t" + "2" * 80, "12 kg"):
        reader.take(line.encode() + b"\n")


def test_a_pattern_that_turns_out_slow_is_given_up_and_that_is_said() -> None:
    reader = Reader("", Ears(), pattern=r"load=([-0-9.]+)")

    def slow(_: str) -> None:
        raise TooSlow

    reader._parse, reader._status = slow, "live"
    reader.take(b"load=12\nload=13\n")
    assert reader.state().status == "garbled"
    assert "was switched off" in reader.state().message


@pytest.mark.parametrize("text", ["raw/0", "2^6^6", "((((9^6)^6)^6)^6)^6", "raw + (1 kg"])
def test_a_formula_that_cannot_be_worked_out_leaves_the_plan_open(app: App, text: str) -> None:
    batch = app.planned("pva-damp", "casein")
    judging = app.get(f"/batches/{batch}/plan")["document"]["judging"]
    app.draft(batch, judging={**judging, "formula": {"name": "Mine", "text": text}})
    view = app.get(f"/batches/{batch}/plan")
    assert any("formula" in p["field"] for p in view["forecast"]["problems"])


def test_a_plan_that_cannot_be_worked_out_opens_and_says_how_to_get_on(
    app: App, monkeypatch: pytest.MonkeyPatch
) -> None:
    batch = app.planned("pva-damp", "casein")

    def breaks(*_: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(forecast, "forecast", breaks)
    (wrong,) = app.get(f"/batches/{batch}/plan")["forecast"]["problems"]
    assert "Undo the last change" in wrong["remedy"]


@pytest.mark.parametrize("name", ["a\x00b", "a\u202eb", "\ufeffa", "a\x1b[31m"])
def test_signs_that_nobody_sees_are_refused(app: App, name: str) -> None:
    refused = app.post("/batches", {"name": name}, 422)
    assert "cannot be seen" in refused["detail"]


def test_an_unknown_strength_and_a_deep_cell_are_refused(app: App) -> None:
    batch = app.planned("pva-damp", "casein")
    app.draft(batch, 422, strength="best of all")
    assert depth("[" * 5000) == 5000


def test_eight_clients_at_once_get_answers(app: App) -> None:
    """Reading while others write: the kept record is shared by all threads."""
    batch = app.locked("pva-damp", "casein")
    codes = app.codes(batch, "joint")
    wrong: list[BaseException] = []

    def reads() -> None:
        try:
            for _ in range(6):
                for path in ("compare", "break", "glue", "plan"):
                    app.get(f"/batches/{batch}/{path}")
        except BaseException as error:
            wrong.append(error)

    threads = [threading.Thread(target=reads) for _ in range(7)]
    for t in threads:
        t.start()
    for code in codes:
        app.observe(batch, code, low="3000 N", failure_mode="in-glue")
    for t in threads:
        t.join()
    assert wrong == []
