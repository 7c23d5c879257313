"""At the bench in the browser: the shop, a schedule, and joint after joint, through a reload and a lost connection."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from playwright.sync_api import Error, Page, Route, expect

from tests.e2e.conftest import call, quiet_server
from tests.e2e.server import Server
from tests.rig.harness import wait_for

pytestmark = pytest.mark.browser
HOURS = [[d, 0, 1440] for d in range(7)]
PACE = {"mix_s": 180, "joint_s": 120, "unclamp_s": 30, "soak_s": 120, "break_s": 180}


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """One workshop for all of these tests: clamps, and hours around the clock."""
    for started in quiet_server(tmp_path_factory.mktemp("bench")):
        call(started, "PUT", "/bench", {"weekly": HOURS, "zone": "UTC", "pace": {**PACE, "joint_s": 30}})
        call(started, "POST", "/clamps", {"label": "Bar clamps", "kind": "bar", "count": 14, "force_n": 3000})
        yield started


def locked(server: Server, name: str, replicates: int = 6) -> int:
    batch = int(call(server, "POST", "/batches", {"name": name})["id"])
    plan = call(server, "GET", f"/batches/{batch}/plan")
    levels = [{"value": p, "unit": ""} for p in ("planed", "sawn")]
    document = {**plan["document"], "question": "?", "replicates": replicates, "solid_reference": 0,
                "factors": [{"key": "prep", "name": "Surface prep", "levels": levels}]}  # fmt: skip
    document["constants"] = {k: v for k, v in document["constants"].items() if k != "prep"}
    document["constants"]["glue"] = {"value": "pva-damp", "unit": ""}
    saved = call(server, "PUT", f"/batches/{batch}/plan", {"version": 1, "name": name, "document": document})
    call(server, "POST", f"/batches/{batch}/lock", {"version": saved["version"]})
    return batch


def glued(server: Server, batch: int) -> list[Any]:
    return [p for p in call(server, "GET", f"/batches/{batch}/glue")["pieces"] if p["glueup"]]


def test_twelve_joints_joint_after_joint_through_a_reload(page: Page, server: Server) -> None:
    batch = locked(server, "Twelve")
    call(server, "POST", f"/batches/{batch}/schedule", {"seek": False})
    page.clock.install(time=datetime.now(UTC) - timedelta(hours=4))
    page.goto(f"{server.url}/batch/{batch}/bench")
    expect(page.get_by_role("heading", name="Lay out 12 joints")).to_be_visible()
    page.get_by_role("button", name="Glue is ready").press("Enter")
    for n in range(12):
        expect(page.get_by_text(f"Joint {n + 1} of 12")).to_be_visible()
        page.clock.fast_forward(20_000)
        expect(page.get_by_role("button", name="Spread")).to_be_focused()
        page.keyboard.press("Enter")
        if n == 5:
            page.reload()
            expect(page.get_by_text("Joint 6 of 12")).to_be_visible()
        if n == 7:
            page.clock.fast_forward(9 * 60_000)
            expect(page.get_by_text("over by 1 min")).to_be_visible()
            page.get_by_role("button", name="starved").click()
            expect(page.get_by_text("Noted: starved.")).to_be_visible()
        page.clock.fast_forward(100_000)
        page.get_by_role("button", name="Closed and clamped").press("Enter")
    expect(page.get_by_text("Every joint is glued.")).to_be_visible()
    pieces = glued(server, batch)
    assert len(pieces) == 12
    assert {p["glueup"] for p in pieces} == {1}
    assert all(abs(p["pressure_mpa"] - p["wanted_mpa"]) < 1e-6 for p in pieces)
    until = sorted(datetime.fromisoformat(p["clamp_until"]) for p in pieces)
    assert until[-1] - until[0] >= timedelta(seconds=11 * 120 + 9 * 60), "each joint has a clamp time of its own"


def test_the_connection_is_cut_and_nothing_is_lost_or_counted_twice(page: Page, server: Server) -> None:
    batch = locked(server, "Cut off", replicates=2)
    page.goto(f"{server.url}/batch/{batch}/bench")
    page.get_by_role("button", name="Glue is ready").click()
    expect(page.get_by_text("Joint 1 of 4")).to_be_visible()
    wait_for(lambda: call(server, "GET", f"/batches/{batch}/guide")["mixed_at"], "the mix")

    lost: list[str] = []

    def arrives_but_is_not_answered(route: Route) -> None:
        """The tap reaches the server; the answer is lost on the way back."""
        # A page that is reloaded meanwhile takes its requests with it.
        with contextlib.suppress(Error):
            route.fetch()
            lost.append(route.request.headers["idempotency-key"])
            route.abort("connectionreset")

    page.route("**/taps", arrives_but_is_not_answered)
    for n in (1, 2):
        page.get_by_role("button", name="Spread").click()
        page.get_by_role("button", name="Closed and clamped").click()
        expect(page.get_by_text(f"Joint {n + 1} of 4")).to_be_visible()
    expect(page.get_by_text("No connection: every tap is kept here")).to_be_visible()
    page.reload()
    expect(page.get_by_text("Joint 3 of 4")).to_be_visible()
    page.unroute("**/taps")
    wait_for(lambda: len(glued(server, batch)) == 2, "both joints", 20)
    expect(page.get_by_text("No connection")).to_have_count(0)
    assert len(lost) > len(set(lost)), "the same tap was sent more than once"
    kinds = [a["kind"] for a in call(server, "GET", f"/batches/{batch}/history")]
    assert (kinds.count("spread"), kinds.count("clamped"), kinds.count("mix")) == (2, 2, 1)

    page.get_by_role("button", name="Undo the last tap").click()
    expect(page.get_by_text("Joint 2 of 4")).to_be_visible()
    assert len(glued(server, batch)) == 1


def test_the_shop_and_a_schedule(page: Page, server: Server) -> None:
    page.goto(f"{server.url}/shop")
    page.get_by_label("Name of the clamps").fill("Cast weights")
    page.get_by_label("Kind of clamp").select_option("weight")
    page.get_by_label("Force of one clamp").fill("12 kg")
    page.get_by_label("Force of one clamp").press("Tab")
    page.get_by_role("button", name="Add the clamps").click()
    expect(page.get_by_text("4 × Cast weights")).to_be_visible()
    expect(page.get_by_text("117.68 N each")).to_be_visible()
    page.get_by_label("Usual tolerance of times").fill("8 %")
    page.get_by_label("Usual tolerance of times").press("Tab")
    page.get_by_role("button", name="Save the hours").click()
    wait_for(lambda: call(server, "GET", "/bench")["tolerance"] == 0.08, "the tolerance")

    batch = locked(server, "Scheduled")
    page.goto(f"{server.url}/batch/{batch}/glue")
    page.get_by_text("When to glue").click()
    page.get_by_role("button", name="Make a schedule").click()
    expect(page.get_by_role("region", name="Time line")).to_be_visible()
    page.get_by_role("button", name="This one will do").click()
    expect(page.get_by_text("Looking for a better one")).to_have_count(0)
    slots = call(server, "GET", f"/batches/{batch}/schedule")["schedule"]["slots"]
    for code in slots[0]["codes"]:
        expect(page.get_by_role("table", name="What to do when").get_by_text(code).first).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Take it to a calendar").click()
    assert download.value.suggested_filename == "scheduled.ics"


def test_a_late_unclamping_leads_to_another_schedule(page: Page, server: Server) -> None:
    batch = locked(server, "Late", replicates=2)
    codes = [p["code"] for p in call(server, "GET", f"/batches/{batch}/glue")["pieces"]]
    early = (datetime.now(UTC) - timedelta(hours=9)).isoformat()
    call(server, "POST", f"/batches/{batch}/glueups", {"codes": codes[:2], "force_n": 400, "started_at": early})
    page.goto(f"{server.url}/batch/{batch}/glue")
    page.get_by_text("When to glue").click()
    page.get_by_role("button", name="Make a schedule").click()
    expect(page.get_by_text("2 joints of glue-up 1 are unclamped")).to_be_visible()
    slots = call(server, "GET", f"/batches/{batch}/schedule")["schedule"]["slots"]
    assert sorted(slots[0]["codes"]) == sorted(codes[:2])
    assert slots[0]["kind"] == "unclamp"
    glue = [c for s in slots if s["kind"] == "glue" for c in s["codes"]]
    assert sorted(glue) == sorted(codes[2:])


def test_what_if_and_a_bath(page: Page, server: Server) -> None:
    batch = int(call(server, "POST", "/batches", {"name": "Soaked", "start": "stands-it"})["id"])
    version = call(server, "GET", f"/batches/{batch}/plan")["version"]
    call(server, "POST", f"/batches/{batch}/lock", {"version": version})
    call(server, "POST", f"/batches/{batch}/schedule", {"seek": False})
    page.goto(f"{server.url}/batch/{batch}/glue")
    page.get_by_text("What if …").click()
    page.get_by_label("Which clamps").select_option(label="Bar clamps")
    page.get_by_label("How many more clamps").fill("30")
    page.get_by_role("button", name="Work it out").click()
    expect(page.get_by_text("instead of")).to_be_visible()

    wet = [p for p in call(server, "GET", f"/batches/{batch}/glue")["pieces"] if p["conditioning"]]
    codes = [p["code"] for p in wet if p["conditioning"] == wet[0]["conditioning"]]
    early = (datetime.now(UTC) - timedelta(days=9)).isoformat()
    later = (datetime.now(UTC) - timedelta(days=8)).isoformat()
    call(server, "POST", f"/batches/{batch}/glueups", {"codes": codes, "force_n": 400, "started_at": early})
    call(server, "POST", f"/batches/{batch}/unclamp", {"codes": codes, "at": later})
    page.goto(server.url)
    page.get_by_role("link", name="Into conditioning").first.click()
    bath = page.get_by_role("region", name="Conditioning")
    bath.get_by_role("button", name="In now").click()
    expect(bath.get_by_text("in since")).to_be_visible()
    bath.get_by_role("button", name="Out now").click()
    expect(bath.get_by_text("out since")).to_be_visible()
