"""Bad input of every sort: a clear problem that names the field, and nothing half-written."""

from __future__ import annotations

import sqlite3
from typing import Any

import pytest

from tests.running import HOST, App, fields


def counts(app: App) -> dict[str, int]:
    """Rows in every table that a user can fill."""
    with app.context.db.read() as conn:
        tables = [r[0] for r in conn.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return {t: conn.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in tables}


@pytest.mark.parametrize("name", ["", "   ", "x" * 121])
def test_names_of_batches(app: App, name: str) -> None:
    before = counts(app)
    assert fields(app.post("/batches", {"name": name}, 422)) == {"name"}
    assert counts(app) == before


@pytest.mark.parametrize(
    ("quantity", "text", "field"),
    [
        ("width", "-3", "width"),
        ("width", "", "width"),
        ("width", "0", "width"),
        ("width", "5000", "width"),
        ("width", "20 kg", "width"),
        ("width", "twenty", "width"),
        ("overlap", "1,250", "overlap"),
        ("colour", "20", "colour"),
        ("width", "9" * 5000, "width"),
    ],
)
def test_sizes_are_refused_by_cell_and_all_or_none(app: App, quantity: str, text: str, field: str) -> None:
    batch = app.locked("pva-damp", "casein")
    good, bad = app.codes(batch)[:2]
    before = counts(app)
    problem = app.sizes(batch, [(good, "width", "20"), (bad, quantity, text)], 422)
    assert fields(problem) == {f"{bad} {field}"}
    assert problem["errors"][0]["remedy"]
    assert counts(app) == before


def test_all_wrong_cells_are_named_at_once(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    a, b = app.codes(batch)[:2]
    problem = app.sizes(batch, [(a, "width", "x"), (b, "overlap", "-1")], 422)
    assert fields(problem) == {f"{a} width", f"{b} overlap"}


def test_a_specimen_of_another_batch(app: App) -> None:
    mine, other = app.locked("pva-damp", "casein"), app.locked("pva-damp", "casein", name="Bridles")
    foreign = app.codes(other)[0]
    for problem in (
        app.sizes(mine, [(foreign, "width", "20")], 422),
        app.observe(mine, foreign, 422, low="5000"),
        app.glue(mine, [foreign], 422),
    ):
        assert "belongs to the batch 'Bridles'" in problem["detail"]


def test_a_code_with_a_wrong_sign(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    wrong = code[:-1] + ("2" if code[-1] != "2" else "3")
    assert "wrong sign" in app.observe(batch, wrong, 422, low="5000")["detail"]
    assert fields(app.observe(batch, "????", 422, low="5000")) == {"code"}


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"low": "-5"}, "low"),
        ({"low": ""}, "low_n"),
        ({"low": "0"}, "low_n"),
        ({"low": "5 MPa"}, "low"),
        ({"low": "abc"}, "low"),
        ({"low": "60 kN"}, "low_n"),
        ({"low": "2000 kN"}, "low_n"),
        ({"low": "5000", "failure_mode": "melted"}, "failure_mode"),
        ({"low": "5000", "wood_failure_pct": 140}, "wood_failure_pct"),
        ({"kind": "between", "low": "300", "high": "200"}, "high_n"),
        ({"kind": "held", "low": "300"}, "held_s"),
        ({"kind": "void"}, "reason"),
        ({"kind": "sort of", "low": "5"}, "kind"),
        ({"low": "5000", "note": "x" * 3000}, "note"),
        ({"low": "5000", "pull_id": 77}, "pull_id"),
        ({"low": "5000", "colour": "red"}, "colour"),
    ],
)
def test_observations(app: App, body: dict[str, Any], field: str) -> None:
    batch = app.locked("pva-damp", "casein")
    before = counts(app)
    assert field in fields(app.observe(batch, app.codes(batch)[0], 422, **body))
    assert counts(app) == before


def test_an_absurd_stress_names_the_load_and_the_unit(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    detail = app.observe(batch, app.codes(batch)[0], 422, low="30 kN")["detail"]
    assert "60 MPa" in detail
    assert "unit" in detail


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"codes": []}, "codes"),
        ({"force_n": -5.0}, "force_n"),
        ({"force_n": 1e9}, "force_n"),
        ({"clamps": 0}, "clamps"),
        ({"air_c": 400.0}, "air_c"),
        ({"humidity_pct": 140.0}, "humidity_pct"),
        ({"started_at": "2030-01-01T00:00:00Z"}, "started_at"),
        ({"started_at": "yesterday"}, "started_at"),
        ({"faces": "three"}, "faces"),
    ],
)
def test_glueups(app: App, body: dict[str, Any], field: str) -> None:
    batch = app.locked("pva-damp", "casein")
    before = counts(app)
    assert field in fields(app.glue(batch, status=422, **body))
    assert counts(app) == before


def test_gluing_twice_solid_wood_and_the_same_piece(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    joints, solid = app.codes(batch, "joint"), app.codes(batch, "solid")
    assert "solid wood" in app.glue(batch, solid[:1], 422)["detail"]
    assert "stands twice" in app.glue(batch, [joints[0], joints[0]], 422)["detail"]
    app.glue(batch, joints[:2])
    assert "already glued" in app.glue(batch, joints[1:3], 422)["detail"]
    assert len(app.get(f"/batches/{batch}/glue")["glueups"]) == 1


def test_unclamping_what_is_in_no_clamp(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    codes = app.codes(batch, "joint")
    path = f"/batches/{batch}/unclamp"
    assert "in no clamp" in app.post(path, {"codes": codes}, 422)["detail"]
    app.glue(batch)
    assert fields(app.post(path, {"codes": codes, "at": "2026-11-20T08:00:00Z"}, 422)) == {"at"}
    app.post(path, {"codes": codes})
    assert "already out" in app.post(path, {"codes": codes}, 422)["detail"]


def test_a_locked_plan_cannot_be_changed(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    before = counts(app)
    assert fields(app.draft(batch, 422, question="Another one?")) == {"plan"}
    assert fields(app.lock(batch, 422)) == {"plan"}
    assert counts(app) == before


def test_two_windows_do_not_overwrite_each_other(app: App) -> None:
    batch = app.planned()
    old = app.get(f"/batches/{batch}/plan")
    app.draft(batch, question="The first window's question?")
    body = {"version": old["version"], "name": "Second window", "document": old["document"]}
    problem = app.put(f"/batches/{batch}/plan", body, 409)
    assert "another window" in problem["detail"]
    now = app.get(f"/batches/{batch}/plan")
    assert now["document"]["question"] == "The first window's question?"
    assert now["name"] == "Laminations"
    app.post(f"/batches/{batch}/lock", {"version": old["version"]}, 409)


@pytest.mark.parametrize(
    "change",
    [
        {"sizes": {"width": "wide"}},
        {"sizes": {"width": 1e400}},
        {"factors": "glue"},
        {"format": 99},
        {"factors": [{"key": "glue", "name": "Glue", "levels": [{"value": "x"}] * 100}]},
        {"question": "x" * 6000},
        {"surprise": 1},
    ],
)
def test_what_is_no_plan_is_refused(app: App, change: dict[str, Any]) -> None:
    batch = app.planned()
    plan = app.get(f"/batches/{batch}/plan")
    import json

    text = json.dumps({"version": plan["version"], "name": "x", "document": {**plan["document"], **change}})
    response = app.client.put(f"/api/batches/{batch}/plan", content=text, headers={"Content-Type": "application/json"})
    assert response.status_code == 422
    assert response.headers["content-type"] == "application/problem+json"
    assert app.get(f"/batches/{batch}/plan")["version"] == plan["version"]


def test_stages_wait_for_the_lock(app: App) -> None:
    batch = app.planned()
    for stage in ("cut", "glue", "break", "compare"):
        assert "not locked" in app.get(f"/batches/{batch}/{stage}", 422)["detail"]


def test_what_is_not_there(app: App) -> None:
    assert app.get("/batches/99/plan", 404)["title"] == "Not found"
    assert app.get("/pulls/99", 404)["status"] == 404
    assert app.get("/nowhere", 404)["status"] == 404


def test_ten_megabytes_are_too_much(app: App) -> None:
    huge = "x" * 10_000_000
    problem = app.post("/batches", {"name": huge}, 413)
    assert "512 kB" in problem["detail"]
    response = app.client.post("/api/batches/import", content=4 * huge, headers={"Content-Type": "text/csv"})
    assert response.status_code == 413


def test_a_body_that_hides_its_length_is_stopped_too(app: App) -> None:
    def chunks() -> Any:
        for _ in range(100):
            yield b"x" * 100_000

    response = app.client.post("/api/batches", content=chunks())
    assert response.status_code == 413


def test_broken_json_is_refused(app: App) -> None:
    response = app.client.post("/api/batches", content=b'{"name": ', headers={"Content-Type": "application/json"})
    assert response.status_code == 422
    assert response.json()["errors"]


# Who may call --------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "host", ["evil.example", "adhaero.evil.example:80", "192.168.1.5", "127.0.0.1.evil.example", ""]
)
def test_other_hosts_are_refused(app: App, host: str) -> None:
    assert app.client.get("/api/today", headers={"Host": host}).status_code == 403


def test_own_hosts_are_served(app: App) -> None:
    for host in ("127.0.0.1:8137", "localhost:8137", "[::1]:8137"):
        assert app.client.get("/api/today", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize(
    "headers",
    [
        {"Origin": "http://evil.example"},
        {"Origin": "null"},
        {"Sec-Fetch-Site": "cross-site"},
        {"Origin": "http://127.0.0.1:9"},
    ],
)
def test_writes_from_other_pages_are_refused(app: App, headers: dict[str, str]) -> None:
    before = counts(app)
    response = app.client.post("/api/batches", json={"name": "x"}, headers=headers)
    assert response.status_code == 403
    assert counts(app) == before


def test_writes_from_the_own_page_are_taken(app: App) -> None:
    headers = {"Origin": HOST, "Sec-Fetch-Site": "same-origin"}
    assert app.client.post("/api/batches", json={"name": "x"}, headers=headers).status_code == 201


def test_answers_carry_a_strict_policy(app: App) -> None:
    headers = app.client.get("/api/today").headers
    policy = headers["content-security-policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    assert headers["x-content-type-options"] == "nosniff"


# When the machine fails ----------------------------------------------------------------------


def test_a_full_disk_is_said_so(app: App, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*_: object) -> None:
        raise sqlite3.OperationalError("database or disk is full")

    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch)[0]
    before = counts(app)
    monkeypatch.setattr("adhaero.store.observations.add", lambda *_, **__: full())
    problem = app.observe(batch, code, 507, low="5000")
    assert "disk is full" in problem["detail"]
    assert counts(app) == before, "the action row is rolled back with the rest"


def test_an_unexpected_error_tells_nothing_private(app: App, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object) -> None:
        raise RuntimeError("secret path")

    monkeypatch.setattr("adhaero.store.batches.last_actions", broken)
    problem = app.get("/today", 500)
    assert "secret" not in str(problem)
