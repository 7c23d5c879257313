"""Instruments of all kinds through the application: what they show is typed, the load on the piece follows."""

from __future__ import annotations

import socket
import threading
from pathlib import Path
from typing import Any

import pytest

from tests.api.test_exchange import bring, export, rows_of
from tests.rig.harness import wait_for
from tests.running import App, open_app

G = 9.80665
GAUGE: dict[str, Any] = {
    "name": "Cylinder", "fixture": "Shear 1", "capacity": 20.0, "step": 0.1,
    "instrument": {"measures": "pressure", "unit": "MPa", "piston_mm2": 800},
}  # fmt: skip
SCALE: dict[str, Any] = {
    "name": "Lever", "fixture": "Yoke", "capacity": 100 * G, "step": 0.1 * G,
    "instrument": {"measures": "mass", "unit": "kgf", "lever": 4, "tare_n": 12},
}  # fmt: skip


def read(app: App, batch: int, code: str) -> dict[str, Any]:
    return dict(next(r for r in app.get(f"/batches/{batch}/break")["rows"] if r["code"] == code))


@pytest.fixture
def batch(app: App) -> int:
    return app.locked("pva-damp", "casein")


def test_a_pressure_is_typed_and_gives_its_load(app: App, batch: int) -> None:
    app.put("/rig", GAUGE)
    a, b = app.codes(batch, "joint")[:2]
    app.observe(batch, a, low="6.5")
    app.observe(batch, b, low="65 bar")
    found = [read(app, batch, c) for c in (a, b)]
    assert [f["low_n"] for f in found] == pytest.approx([5200, 5200])
    assert [f["resolution_n"] for f in found] == pytest.approx([80, 80])
    assert found[0]["shown_low"] == "6.5 MPa"
    app.patch(f"/batches/{batch}/observations/{a}", {"low": "6.6 MPa"})
    assert read(app, batch, a)["low_n"] == pytest.approx(5280)
    refused = app.post(f"/batches/{batch}/observations", {"code": b, "kind": "exact", "low": "5200 N"}, 422)
    assert "shows a pressure" in str(refused["errors"])


def test_a_pressure_without_its_piston_is_no_load(app: App, batch: int) -> None:
    bare = {**GAUGE, "instrument": {"measures": "pressure", "unit": "MPa"}}
    assert "piston_mm2" in str(app.put("/rig", bare, 422)["errors"])
    code = app.codes(batch, "joint")[0]
    refused = app.post(f"/batches/{batch}/observations", {"code": code, "kind": "exact", "low": "6.5 MPa"}, 422)
    assert "area of its piston" in str(refused["errors"])
    app.observe(batch, code, kind="seen", low="", failure_mode="in-glue", note="6.5 MPa on the gauge")
    found = read(app, batch, code)
    assert (found["kind"], found["low_n"], found["figure_low"]) == ("seen", None, None)
    treated = app.compare(batch)["treatments"][0]
    assert treated["n"] == 0, "it is on record, and in no comparison of loads"


def test_lever_hanger_and_a_later_calibration(app: App, batch: int) -> None:
    app.put("/rig", SCALE)
    a, b, c = app.codes(batch, "joint")[:3]
    app.observe(batch, a, low="25 kg")
    assert read(app, batch, a)["low_n"] == pytest.approx(4 * 25 * G + 12)
    known = [{"known": "100 kg", "shown": "24.5"}]
    calibrated = app.put("/rig", {**SCALE, "calibration": known})
    assert calibrated["rig_state"]["line"]["factor"] == pytest.approx(100 / 98)
    app.observe(batch, b, low="24.5")
    assert read(app, batch, b)["low_n"] == pytest.approx(100 * G + 12)
    assert read(app, batch, a)["low_n"] == pytest.approx(100 * G + 12), "old results keep what they were made under"
    assert read(app, batch, a)["shown_low"] == "25 kgf"
    # Another fixture is another set-up: the calibration stays with the rig until it is taken off.
    moved = app.put("/rig", {**SCALE, "fixture": "Long yoke"})
    assert moved["rig"]["set_up"]["instrument"]["calibration"]["points"]
    assert app.put("/rig", {**SCALE, "calibration": []})["rig"]["set_up"]["instrument"]["calibration"] is None
    back = app.post(f"/rig/again/{moved['rig']['set_up']['id']}", {})
    assert back["rig"]["set_up"] == moved["rig"]["set_up"], "going back is going back"
    app.observe(batch, c, low="24.5")
    assert read(app, batch, c)["low_n"] == pytest.approx(100 * G + 12)


def test_the_doubt_of_a_calibration_is_in_the_figure(app: App, batch: int) -> None:
    """By hand: half a step of 0.5 N and the scatter of the line, added in squares, over the nominal area."""
    rig = {"name": "Press", "fixture": "A", "capacity": 5000, "step": 1}
    known = [{"known": f"{k} N", "shown": f"{s} N"} for k, s in ((1000, 990), (2000, 2010), (3000, 2995))]
    line = app.put("/rig", {**rig, "calibration": known})["rig_state"]["line"]
    code = app.codes(batch, "joint")[0]
    app.observe(batch, code, low="2000 N")
    load = 2000 * line["factor"]
    error = ((line["factor_error"] * load) ** 2 + line["scatter_n"] ** 2 + 0.5**2) ** 0.5
    plain = app.codes(batch, "joint")[1]
    app.put("/rig", {**rig, "calibration": []})
    app.observe(batch, plain, low=f"{load} N")
    # What the sizes leave open is the same for both, and taken out in squares.
    both = [read(app, batch, c)["uncertainty"] for c in (code, plain)]
    assert (both[0] ** 2 - both[1] ** 2) ** 0.5 * 500 == pytest.approx((error**2 - 0.5**2) ** 0.5)


def test_a_check_weight_that_is_off_flags_what_follows(app: App, batch: int) -> None:
    app.put("/rig", SCALE)
    a, b, c = app.codes(batch, "joint")[:3]
    app.post("/rig/check", {"known": "100 kg", "shown": "24.9 kg"}, 201)
    assert app.get(f"/batches/{batch}/break")["rig_state"]["drifted"] is False
    app.observe(batch, a, low="25 kg")
    app.post("/rig/check", {"known": "100 kg", "shown": "24.2 kg"}, 201)
    state = app.get(f"/batches/{batch}/break")["rig_state"]
    assert (state["drifted"], state["drift"]) == (True, pytest.approx(-0.032))
    app.observe(batch, b, low="25 kg")
    app.post("/rig/check", {"known": "100 kg", "shown": "25 kg"}, 201)
    app.observe(batch, c, low="25 kg")
    flagged = ["check weight of the rig" in str(read(app, batch, x)["flags"]) for x in (a, b, c)]
    assert flagged == [False, True, False]
    assert [f["kind"] for f in app.compare(batch)["flags"] if f["kind"] == "rig drifted"] == ["rig drifted"]


def test_after_an_overload_it_is_looked_over_or_flagged(app: App, batch: int) -> None:
    app.put("/rig", GAUGE)
    a, b, c = app.codes(batch, "joint")[:3]
    app.observe(batch, a, low="21 MPa", confirmed=["early", "over capacity"])
    assert app.get(f"/batches/{batch}/break")["rig_state"]["overload_code"] == a
    body = {"code": b, "kind": "exact", "low": "6 MPa"}
    asked = app.post(f"/batches/{batch}/observations", {**body, "confirmed": ["early"]}, 422)
    assert [e["field"] for e in asked["errors"]] == ["not looked over"]
    app.post(f"/batches/{batch}/observations", {**body, "confirmed": ["early", "not looked over"]})
    assert "not looked over" in str(read(app, batch, b)["flags"])
    app.post("/rig/inspected", {"note": "yoke straight"}, 201)
    assert app.get(f"/batches/{batch}/break")["rig_state"]["overload_at"] is None
    app.observe(batch, c, low="6 MPa")
    assert "not looked over" not in str(read(app, batch, c)["flags"])
    app.post("/shop/undo", {})
    assert app.get(f"/batches/{batch}/break")["rig_state"]["overload_code"] == a, (
        "undone, it is to be looked over again"
    )


def test_the_instrument_travels_with_its_readings(app: App, batch: int, tmp_path: Path) -> None:
    app.put("/rig", {**SCALE, "calibration": [{"known": "100 kg", "shown": "24.5"}]})
    code = app.codes(batch, "joint")[0]
    app.observe(batch, code, low="24.5")
    text = export(app, batch)
    with open_app(tmp_path / "elsewhere") as other:
        taken = bring(other, text)["batch_id"]
        instrument = {r["rig_instrument"] for r in rows_of(text)} - {""}
        assert len(instrument) == 1
        assert {r["rig_instrument"] for r in rows_of(export(other, taken))} - {""} == instrument
        assert read(other, taken, code)["shown_low"] == "24.5 kgf"


def test_another_make_of_indicator_is_read_by_its_pattern(tmp_path: Path) -> None:
    """Lines such as ``ST,GS,+ 12.50 kg``: the load on the piece is live, and the preview says what is understood."""
    stop = threading.Event()
    with socket.create_server(("127.0.0.1", 0)) as listening, open_app(tmp_path) as app:

        def serve() -> None:
            link, _ = listening.accept()
            with link:
                while not stop.is_set():
                    link.sendall(b"ST,GS,+ 12.50 kg\r\nnoise\r\n")
                    stop.wait(0.02)

        thread = threading.Thread(target=serve, daemon=True)
        thread.start()
        port = f"socket://127.0.0.1:{listening.getsockname()[1]}"
        app.put("/rig", {**SCALE, "port": port, "pattern": r"([\d.]+) kg"})
        wait_for(lambda: app.get("/rig/live")["force_n"] is not None, "the indicator")
        assert app.get("/rig/live")["force_n"] == pytest.approx(4 * 12.5 * G)
        preview = {"pattern": r"([\d.]+) kg", "instrument": {"measures": "mass", "unit": "kgf", "lever": 2}}
        lines = app.post("/rig/preview", preview)["lines"]
        assert {x["text"]: x["load_n"] for x in lines} == {
            "ST,GS,+ 12.50 kg": pytest.approx(2 * 12.5 * G), "noise": None,
        }  # fmt: skip
        assert "pattern" in str(app.post("/rig/preview", {**preview, "pattern": "("}, 422)["errors"])
        stop.set()
        thread.join(2)


def test_travel_gives_no_load(app: App, batch: int) -> None:
    travel = {"measures": "travel", "unit": "mm"}
    dial = {"name": "Dial", "fixture": "A", "capacity": 50, "step": 0.01, "instrument": travel}
    app.put("/rig", {**dial, "port": "socket://127.0.0.1:9"})
    assert app.get("/rig/live")["status"] == "off", "there is no load to read"
    code = app.codes(batch, "joint")[0]
    refused = app.post(f"/batches/{batch}/observations", {"code": code, "kind": "exact", "low": "5 N"}, 422)
    assert "gives no load" in str(refused["errors"])


def test_a_script_sends_a_load_with_its_unit_and_twice_does_no_harm(app: App, batch: int) -> None:
    app.put("/rig", SCALE)
    code = app.codes(batch, "joint")[0]

    def send(body: dict[str, Any], key: str | None = "pull-0017") -> Any:
        head = {"Idempotency-Key": key} if key else {}
        return app.client.post("/api/loads", json={"code": code, "confirmed": ["early"], **body}, headers=head)

    assert "has no unit" in send({"load": "25"}).text
    assert "Idempotency-Key" in send({"load": "25 kg"}, None).text
    assert "not a unit of force" in send({"load": "25 m"}).text
    first = send({"load": "25 kg", "failure_mode": "in-glue"})
    again = send({"load": "25 kg", "failure_mode": "in-glue"})
    assert (first.status_code, again.status_code, first.json()) == (200, 200, again.json())
    assert send({"load": "26 kg"}).status_code == 422, "the key belongs to another reading"
    found = read(app, batch, code)
    assert (found["low_n"], found["failure_mode"]) == (pytest.approx(100 * G + 12), "in-glue")
    assert app.get(f"/batches/{batch}/break")["done"] == 1
