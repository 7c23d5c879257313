"""Bad input of every sort: a clear problem that names the field, and nothing half-written."""

from __future__ import annotations

import sqlite3
from typing import Any

import pytest

from tests.workshop import HOST, Bench, fields


def counts(bench: Bench) -> dict[str, int]:
    """Rows in every table that a user can fill."""
    with bench.workshop.db.read() as conn:
        tables = [r[0] for r in conn.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return {t: conn.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in tables}


@pytest.mark.parametrize("name", ["", "   ", "x" * 121])
def test_names_of_batches(bench: Bench, name: str) -> None:
    before = counts(bench)
    assert fields(bench.post("/batches", {"name": name}, 422)) == {"name"}
    assert counts(bench) == before


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
def test_sizes_are_refused_by_cell_and_all_or_none(bench: Bench, quantity: str, text: str, field: str) -> None:
    batch = bench.locked("pva-damp", "casein")
    good, bad = bench.codes(batch)[:2]
    before = counts(bench)
    problem = bench.sizes(batch, [(good, "width", "20"), (bad, quantity, text)], 422)
    assert fields(problem) == {f"{bad} {field}"}
    assert problem["errors"][0]["remedy"]
    assert counts(bench) == before


def test_all_wrong_cells_are_named_at_once(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    a, b = bench.codes(batch)[:2]
    problem = bench.sizes(batch, [(a, "width", "x"), (b, "overlap", "-1")], 422)
    assert fields(problem) == {f"{a} width", f"{b} overlap"}


def test_a_specimen_of_another_batch(bench: Bench) -> None:
    mine, other = bench.locked("pva-damp", "casein"), bench.locked("pva-damp", "casein", name="Bridles")
    foreign = bench.codes(other)[0]
    for problem in (
        bench.sizes(mine, [(foreign, "width", "20")], 422),
        bench.observe(mine, foreign, 422, low="5000"),
        bench.glue(mine, [foreign], 422),
    ):
        assert "belongs to the batch 'Bridles'" in problem["detail"]


def test_a_code_with_a_wrong_sign(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    code = bench.codes(batch)[0]
    wrong = code[:-1] + ("2" if code[-1] != "2" else "3")
    assert "wrong sign" in bench.observe(batch, wrong, 422, low="5000")["detail"]
    assert fields(bench.observe(batch, "????", 422, low="5000")) == {"code"}


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
def test_observations(bench: Bench, body: dict[str, Any], field: str) -> None:
    batch = bench.locked("pva-damp", "casein")
    before = counts(bench)
    assert field in fields(bench.observe(batch, bench.codes(batch)[0], 422, **body))
    assert counts(bench) == before


def test_an_absurd_stress_names_the_load_and_the_unit(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    detail = bench.observe(batch, bench.codes(batch)[0], 422, low="30 kN")["detail"]
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
def test_glueups(bench: Bench, body: dict[str, Any], field: str) -> None:
    batch = bench.locked("pva-damp", "casein")
    before = counts(bench)
    assert field in fields(bench.glue(batch, status=422, **body))
    assert counts(bench) == before


def test_gluing_twice_solid_wood_and_the_same_piece(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    joints, solid = bench.codes(batch, "joint"), bench.codes(batch, "solid")
    assert "solid wood" in bench.glue(batch, solid[:1], 422)["detail"]
    assert "stands twice" in bench.glue(batch, [joints[0], joints[0]], 422)["detail"]
    bench.glue(batch, joints[:2])
    assert "already glued" in bench.glue(batch, joints[1:3], 422)["detail"]
    assert len(bench.get(f"/batches/{batch}/glue")["glueups"]) == 1


def test_unclamping_what_is_in_no_clamp(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    codes = bench.codes(batch, "joint")
    path = f"/batches/{batch}/unclamp"
    assert "in no clamp" in bench.post(path, {"codes": codes}, 422)["detail"]
    bench.glue(batch)
    assert fields(bench.post(path, {"codes": codes, "at": "2026-11-20T08:00:00Z"}, 422)) == {"at"}
    bench.post(path, {"codes": codes})
    assert "already out" in bench.post(path, {"codes": codes}, 422)["detail"]


def test_a_locked_plan_cannot_be_changed(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein")
    before = counts(bench)
    assert fields(bench.draft(batch, 422, question="Another one?")) == {"plan"}
    assert fields(bench.lock(batch, 422)) == {"plan"}
    assert counts(bench) == before


def test_two_windows_do_not_overwrite_each_other(bench: Bench) -> None:
    batch = bench.planned()
    old = bench.get(f"/batches/{batch}/plan")
    bench.draft(batch, question="The first window's question?")
    body = {"version": old["version"], "name": "Second window", "document": old["document"]}
    problem = bench.put(f"/batches/{batch}/plan", body, 409)
    assert "another window" in problem["detail"]
    now = bench.get(f"/batches/{batch}/plan")
    assert now["document"]["question"] == "The first window's question?"
    assert now["name"] == "Laminations"
    bench.post(f"/batches/{batch}/lock", {"version": old["version"]}, 409)


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
def test_what_is_no_plan_is_refused(bench: Bench, change: dict[str, Any]) -> None:
    batch = bench.planned()
    plan = bench.get(f"/batches/{batch}/plan")
    import json

    text = json.dumps({"version": plan["version"], "name": "x", "document": {**plan["document"], **change}})
    response = bench.client.put(
        f"/api/batches/{batch}/plan", content=text, headers={"Content-Type": "application/json"}
    )
    assert response.status_code == 422
    assert response.headers["content-type"] == "application/problem+json"
    assert bench.get(f"/batches/{batch}/plan")["version"] == plan["version"]


def test_stages_wait_for_the_lock(bench: Bench) -> None:
    batch = bench.planned()
    for stage in ("cut", "glue", "break", "compare"):
        assert "not locked" in bench.get(f"/batches/{batch}/{stage}", 422)["detail"]


def test_what_is_not_there(bench: Bench) -> None:
    assert bench.get("/batches/99/plan", 404)["title"] == "Not found"
    assert bench.get("/pulls/99", 404)["status"] == 404
    assert bench.get("/nowhere", 404)["status"] == 404


def test_ten_megabytes_are_too_much(bench: Bench) -> None:
    huge = "x" * 10_000_000
    problem = bench.post("/batches", {"name": huge}, 413)
    assert "512 kB" in problem["detail"]
    response = bench.client.post("/api/batches/import", content=huge, headers={"Content-Type": "text/csv"})
    assert response.status_code == 413


def test_a_body_that_hides_its_length_is_stopped_too(bench: Bench) -> None:
    def chunks() -> Any:
        for _ in range(100):
            yield b"x" * 100_000

    response = bench.client.post("/api/batches", content=chunks())
    assert response.status_code == 413


def test_broken_json_is_refused(bench: Bench) -> None:
    response = bench.client.post("/api/batches", content=b'{"name": ', headers={"Content-Type": "application/json"})
    assert response.status_code == 422
    assert response.json()["errors"]


# Who may call --------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "host", ["evil.example", "adhaero.evil.example:80", "192.168.1.5", "127.0.0.1.evil.example", ""]
)
def test_other_hosts_are_refused(bench: Bench, host: str) -> None:
    assert bench.client.get("/api/today", headers={"Host": host}).status_code == 403


def test_own_hosts_are_served(bench: Bench) -> None:
    for host in ("127.0.0.1:8137", "localhost:8137", "[::1]:8137"):
        assert bench.client.get("/api/today", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize(
    "headers",
    [
        {"Origin": "http://evil.example"},
        {"Origin": "null"},
        {"Sec-Fetch-Site": "cross-site"},
        {"Origin": "http://127.0.0.1:9"},
    ],
)
def test_writes_from_other_pages_are_refused(bench: Bench, headers: dict[str, str]) -> None:
    before = counts(bench)
    response = bench.client.post("/api/batches", json={"name": "x"}, headers=headers)
    assert response.status_code == 403
    assert counts(bench) == before


def test_writes_from_the_own_page_are_taken(bench: Bench) -> None:
    headers = {"Origin": HOST, "Sec-Fetch-Site": "same-origin"}
    assert bench.client.post("/api/batches", json={"name": "x"}, headers=headers).status_code == 201


def test_answers_carry_a_strict_policy(bench: Bench) -> None:
    headers = bench.client.get("/api/today").headers
    policy = headers["content-security-policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    assert headers["x-content-type-options"] == "nosniff"


# When the machine fails ----------------------------------------------------------------------


def test_a_full_disk_is_said_so(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*_: object) -> None:
        raise sqlite3.OperationalError("database or disk is full")

    batch = bench.locked("pva-damp", "casein")
    code = bench.codes(batch)[0]
    before = counts(bench)
    monkeypatch.setattr("adhaero.store.breaks.add_observation", lambda *_, **__: full())
    problem = bench.observe(batch, code, 507, low="5000")
    assert "disk is full" in problem["detail"]
    assert counts(bench) == before, "the action row is rolled back with the rest"


def test_an_unexpected_error_tells_nothing_private(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object) -> None:
        raise RuntimeError("secret path")

    monkeypatch.setattr("adhaero.store.batches.last_actions", broken)
    problem = bench.get("/today", 500)
    assert "secret" not in str(problem)
