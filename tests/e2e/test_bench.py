"""At the bench in the browser: the shop, a schedule, and joint after joint, through a reload and a lost connection."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from icalendar import Calendar
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
        call(started, "PUT", "/working-hours", {"weekly": HOURS, "zone": "UTC", "pace": {**PACE, "joint_s": 30}})
        call(started, "POST", "/clamps", {"label": "Bar clamps", "kind": "bar", "count": 14, "force_n": 3000})
        yield started


def drafted(server: Server, name: str, replicates: int = 6, **constants: Any) -> tuple[int, int]:
    """A plan that is ready to be locked, and its version."""
    batch = int(call(server, "POST", "/batches", {"name": name})["id"])
    plan = call(server, "GET", f"/batches/{batch}/plan")
    levels = [{"value": p, "unit": ""} for p in ("planed", "sawn")]
    document = {**plan["document"], "question": "?", "replicates": replicates, "solid_reference": 0,
                "factors": [{"key": "prep", "name": "Surface prep", "levels": levels}]}  # fmt: skip
    document["constants"] = {k: v for k, v in document["constants"].items() if k != "prep"}
    document["constants"] |= {"glue": {"value": "pva-damp", "unit": ""}, **constants}
    saved = call(server, "PUT", f"/batches/{batch}/plan", {"version": 1, "name": name, "document": document})
    return batch, int(saved["version"])


def locked(server: Server, name: str, replicates: int = 6, **constants: Any) -> int:
    batch, version = drafted(server, name, replicates, **constants)
    call(server, "POST", f"/batches/{batch}/lock", {"version": version})
    return batch


def glued(server: Server, batch: int) -> list[Any]:
    return [p for p in call(server, "GET", f"/batches/{batch}/glue")["pieces"] if p["glueup"]]


@pytest.mark.slow
def test_twelve_joints_joint_after_joint_through_a_reload(page: Page, server: Server) -> None:
    batch = locked(server, "Twelve")
    call(server, "POST", f"/batches/{batch}/schedule", {"seek": False})
    # Hours go by in the page alone: it is told nothing of the clock of the desk, which stands.
    page.add_init_script("""const get = Headers.prototype.get;
        Headers.prototype.get = function (name) { return name === "Adhaero-Now" ? null : get.call(this, name); };""")
    page.clock.install(time=datetime.now(UTC) - timedelta(hours=4))
    page.goto(f"{server.url}/batch/{batch}/bench")
    expect(page.get_by_role("heading", name="Lay out 12 joints")).to_be_visible()
    ready = page.get_by_role("button", name="Glue is ready")
    ready.press("Enter")
    expect(page.get_by_text("Which bottle?")).to_be_visible()
    page.get_by_label("Bottle").select_option(label="no bottle named")
    ready.press("Enter")
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
    known = {g["glueup"]["force_known"] for g in call(server, "GET", f"/batches/{batch}/glue")["glueups"]}
    assert known == {"estimated"}, "set as planned, not read"
    until = sorted(datetime.fromisoformat(p["clamp_until"]) for p in pieces)
    assert until[-1] - until[0] >= timedelta(seconds=11 * 120 + 9 * 60), "each joint has a clamp time of its own"


@pytest.mark.loses_server
def test_the_connection_is_cut_and_nothing_is_lost_or_counted_twice(page: Page, server: Server) -> None:
    batch = locked(server, "Cut off", replicates=2)
    page.goto(f"{server.url}/batch/{batch}/bench")
    page.get_by_label("Bottle").select_option(label="no bottle named")
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
    expect(page.get_by_text("stored on this device")).to_be_visible()
    page.reload()
    expect(page.get_by_text("Joint 3 of 4")).to_be_visible()
    page.unroute("**/taps")
    wait_for(lambda: len(glued(server, batch)) == 2, "both joints", 20)
    expect(page.get_by_text("stored on this device")).to_have_count(0)
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
    wait_for(lambda: call(server, "GET", "/working-hours")["tolerance"] == 0.08, "the tolerance")

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
    show_all = page.get_by_role("button", name="Show all")
    if show_all.count():
        show_all.click()
    rows = page.get_by_role("table", name="What to do when").get_by_role("row").all_inner_texts()[1:]
    events = Calendar.from_ical(download.value.path().read_bytes()).walk("VEVENT")
    # The test's browser and the workshop are both in UTC.
    joint_records = sorted((f"{e['dtstart'].dt:%H:%M}", str(e["description"]).replace(", ", " ")) for e in events)
    seen = sorted((re.findall(r"\d\d:\d\d", row)[0], row.split("\t")[-1].strip()) for row in rows)
    assert joint_records == seen


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


def test_a_form_waits_for_a_quantity_that_is_still_being_read(page: Page, server: Server) -> None:
    page.goto(f"{server.url}/shop")

    def slow(route: Route) -> None:
        page.wait_for_timeout(700)
        route.continue_()

    page.route("**/api/quantities", slow)
    page.get_by_label("Name of the clamps").fill("Slow weights")
    page.get_by_label("Force of one clamp").fill("10 kg")
    # The kind is chosen, and the button pressed, twice, while the mass is on its way.
    page.get_by_label("Kind of clamp").select_option("weight")
    page.get_by_role("button", name="Add the clamps").dblclick()
    expect(page.get_by_text("4 × Slow weights")).to_be_visible()
    (kept,) = (c for c in call(server, "GET", "/working-hours")["clamps"] if c["label"] == "Slow weights")
    assert kept["kind"] == "weight"
    assert kept["force_n"] == pytest.approx(98.0665, abs=1e-3)


def test_the_lock_pressed_right_after_a_field_waits_for_what_was_typed_in_it(page: Page, server: Server) -> None:
    """The field is still being read, and then saved, when the lock is pressed: it locks what was typed, once."""
    batch, _ = drafted(server, "Quick lock")
    page.goto(f"{server.url}/batch/{batch}/plan")

    def slow(route: Route) -> None:
        page.wait_for_timeout(700)
        route.continue_()

    page.route("**/api/quantities", slow)
    page.route(f"**/api/batches/{batch}/plan", slow)
    page.get_by_label("Clamp time", exact=True).first.fill("6 h")
    page.get_by_role("button", name="Lock the plan").click()
    expect(page.get_by_text("have their codes")).to_be_visible()
    plan = call(server, "GET", f"/batches/{batch}/plan")
    assert (plan["kind"], plan["document"]["constants"]["clamp_s"]["value"]) == ("locked", 6 * 3600.0)


def test_a_button_that_moves_under_the_finger_is_still_pressed(page: Page, server: Server) -> None:
    page.goto(server.url)
    page.get_by_label("Name of a new batch").fill("Moving target")
    box = page.get_by_role("button", name="Begin").bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 5, box["y"] + 5)
    page.mouse.down()
    page.evaluate("document.body.style.paddingTop = '200px'")
    page.mouse.up()
    page.wait_for_url("**/plan")
    # Drawn off the button, the press is taken back.
    page.goto(server.url)
    page.get_by_label("Name of a new batch").fill("Taken back")
    box = page.get_by_role("button", name="Begin").bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 5, box["y"] + 5)
    page.mouse.down()
    page.mouse.move(box["x"] + 300, box["y"] + 200)
    page.mouse.up()
    names = [b["batch"]["name"] for b in call(server, "GET", "/today")["batches"]]
    assert "Moving target" in names
    assert "Taken back" not in names


def test_undo_pressed_at_once_takes_back_the_last_act_and_not_the_one_before(page: Page, server: Server) -> None:
    batch = locked(server, "Quick hands", replicates=8)
    call(server, "POST", f"/batches/{batch}/schedule", {"seek": False})
    was = glue_start(server, batch, 1)
    page.goto(f"{server.url}/batch/{batch}/glue")
    undo = page.get_by_role("button", name="Undo").first
    expect(undo).to_have_text(re.compile("schedule", re.IGNORECASE))
    # What is done last is not read again yet when the button is pressed.
    late: list[Route] = []
    page.route(f"**/api/batches/{batch}/undo/glue", lambda route: late.append(route), times=1)
    page.get_by_role("button", name="Move run 1", exact=True).press("Enter")
    later = datetime.fromisoformat(was).astimezone() + timedelta(hours=12)
    page.get_by_label("Start of run 1", exact=True).fill(f"{later:%Y-%m-%dT%H:%M}")
    page.get_by_role("button", name="Move it").first.click()
    wait_for(lambda: page.wait_for_timeout(20) or late, "what can be undone to be asked for")
    assert glue_start(server, batch, 1) > was
    undo.click()
    page.wait_for_timeout(300)
    late[0].continue_()
    expect(page.get_by_role("button", name="Redo").first).to_be_visible()
    assert glue_start(server, batch, 1) == was


def glue_start(server: Server, batch: int, run: int) -> str:
    slots = call(server, "GET", f"/batches/{batch}/schedule")["schedule"]["slots"]
    return str(next(s["start"] for s in slots if s["kind"] == "glue" and s["run"] == run))


def test_a_run_is_dragged_and_an_impossible_age_allowed(page: Page, server: Server) -> None:
    batch = locked(server, "Dragged", replicates=8)
    call(server, "POST", f"/batches/{batch}/schedule", {"seek": False})
    page.goto(f"{server.url}/batch/{batch}/glue")
    glue = page.locator("[data-task^='glue']").first
    glue.scroll_into_view_if_needed()
    box = glue.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 2, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 300, box["y"] + 8, steps=6)
    number = int((glue.get_attribute("data-task") or "").split()[1])
    was = glue_start(server, batch, number)
    expect(page.get_by_text(f"Begin run {number} at").first).to_be_visible()
    page.mouse.up()

    def start() -> str:
        return glue_start(server, batch, number)

    wait_for(lambda: start() > was, "the run to be moved")
    page.get_by_role("button", name="Undo").first.click()
    wait_for(lambda: start() == was, "the run to be back")
    # The same without a mouse: from the sheet to the field, and on to the button.
    field = page.get_by_label(f"Start of run {number}", exact=True)
    expect(field).to_have_value(f"{datetime.fromisoformat(was).astimezone():%Y-%m-%dT%H:%M}")
    page.get_by_role("button", name=f"Move run {number}", exact=True).press("Enter")
    expect(field).to_be_focused()
    later = datetime.fromisoformat(was) + timedelta(hours=12)
    field.fill(f"{later:%Y-%m-%dT%H:%M}")
    page.get_by_role("button", name="Move it").press("Enter")
    wait_for(lambda: datetime.fromisoformat(start()) >= later.replace(second=0), "the run to be moved by keyboard")


def test_an_impossible_age_is_allowed_by_a_press(page: Page, server: Server) -> None:
    evenings = [[d, 17 * 60, 22 * 60] for d in range(5)]
    kept = call(server, "GET", "/working-hours")
    same = {k: kept[k] for k in ("zone", "pace", "tolerance")}
    call(server, "PUT", "/working-hours", {**same, "weekly": evenings})
    try:
        hours = {"cure_s": {"value": 43200, "unit": "h"}, "clamp_s": {"value": 3600, "unit": "h"}}
        batch = locked(server, "Twelve hours", 3, **hours)
        page.goto(f"{server.url}/batch/{batch}/glue")
        page.get_by_text("When to glue").click()
        page.get_by_role("button", name="Make a schedule").click()
        expect(page.get_by_text("impossible as it stands").first).to_be_visible()
        page.get_by_role("button", name="Allow the age").first.click()
        expect(page.get_by_text("Allowed: Allow the age")).to_be_visible()
        expect(page.get_by_text("impossible as it stands")).to_have_count(0)
        assert call(server, "GET", f"/batches/{batch}/schedule")["schedule"]["unplaced"] == []
        page.get_by_role("button", name="take back").click()
        expect(page.get_by_text("impossible as it stands").first).to_be_visible()
    finally:
        call(server, "PUT", "/working-hours", {**same, "weekly": kept["weekly"]})


def test_clamps_come_off_at_the_bench_and_the_squeeze_out_is_told(page: Page, server: Server) -> None:
    batch = locked(server, "Off the clamps", replicates=2)
    codes = [p["code"] for p in call(server, "GET", f"/batches/{batch}/glue")["pieces"]]
    early = (datetime.now(UTC) - timedelta(hours=5)).isoformat()
    call(server, "POST", f"/batches/{batch}/glueups", {"codes": codes, "force_n": 400, "started_at": early})
    page.set_viewport_size({"width": 800, "height": 1280})
    page.goto(f"{server.url}/batch/{batch}/bench")
    expect(page.get_by_role("timer")).to_contain_text("over")
    off = page.get_by_role("button", name="Clamps are off 4 joints")
    box = off.bounding_box()
    assert box is not None
    assert box["height"] >= 56, "to be hit with a glove"
    off.click()
    page.get_by_role("button", name="chiselled").click()
    expect(page.get_by_role("button", name="chiselled")).to_have_count(0)
    wait_for(
        lambda: all(p["joint_records"] for p in call(server, "GET", f"/batches/{batch}/glue")["pieces"]),
        "what was told",
    )

    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(f"{server.url}/batch/{batch}/glue")
    page.get_by_text("Add a note on joints").click()
    page.get_by_label("Which joints").select_option(codes[0])
    page.get_by_label("What is noted").select_option("shift")
    page.get_by_label("along the overlap").fill("200")
    page.get_by_role("button", name="Note it").click()
    expect(page.get_by_text("must be 0 to 100 mm").first).to_be_visible()
    page.get_by_label("along the overlap").fill("1,5")
    page.get_by_role("button", name="Note it").click()
    expect(page.get_by_text("Noted of 1.")).to_be_visible()
    page.get_by_label("Show only joints with").fill("overlap 1.5")
    expect(page.get_by_text("1 of 4 joints")).to_be_visible()


def test_a_bottle_with_its_label_and_its_frost(page: Page, server: Server) -> None:
    page.goto(f"{server.url}/shop")
    page.get_by_label("Label of the bottle").fill("Can 3")
    page.get_by_label("Glue family").fill("Casein")
    page.get_by_role("option", name="Casein").click()
    page.get_by_label("Label: open for").fill("6 min")
    page.get_by_label("Label: no colder than").fill("12")
    page.get_by_role("button", name="Add the bottle").click()
    bottle = page.get_by_role("listitem").filter(has_text="Can 3")
    expect(bottle.get_by_text("open for 6 min, no colder than 12 °C")).to_be_visible()
    bottle.get_by_text("what it went through").click()
    bottle.get_by_role("button", name="Write it down").click()
    expect(bottle.get_by_text("frozen once, still frozen")).to_be_visible()
