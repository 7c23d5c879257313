"""A device at the door, by keyboard; and what the desk does not take of what was typed while it was away."""

from __future__ import annotations

import urllib.request
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any, cast

import pytest
from playwright.sync_api import Browser, Error, Page, Route, expect

from tests.e2e.conftest import call, quiet_server, type_load
from tests.e2e.server import Server
from tests.e2e.test_bench import locked
from tests.e2e.test_screens import violations
from tests.rig.harness import wait_for

pytestmark = pytest.mark.browser
ELSEWHERE = {"X-Forwarded-For": "192.0.2.7"}
"""What comes through another program is not taken for the desk."""


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    for started in quiet_server(tmp_path_factory.mktemp("reached")):
        call(started, "PUT", "/rig", {"name": "Small press", "port": "", "capacity": 5000, "step": 1, "fixture": "S"})
        yield started


def test_a_stranger_is_let_in_by_keyboard_and_turned_away_again(browser: Browser, server: Server) -> None:
    context = browser.new_context(extra_http_headers=ELSEWHERE, service_workers="block", locale="en-GB")
    page = context.new_page()
    page.goto(f"{server.url}/shop")
    expect(page.get_by_label("Code")).to_be_focused()
    assert violations(page) == []
    for look in ("dark", "sun"):
        page.evaluate("look => { document.documentElement.dataset.look = look }", look)
        assert violations(page, "color-contrast") == [], look
    page.keyboard.type("WRONG234")
    page.keyboard.press("Enter")
    expect(page.get_by_text("this is not the code that the desk shows")).to_be_visible()
    code = call(server, "POST", "/network/code")["code"]["text"]
    page.keyboard.press("Control+A")
    page.keyboard.type(code.lower())
    page.keyboard.press("Tab")
    page.keyboard.press("Control+A")
    page.keyboard.type("Old laptop")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="The first day")).to_be_visible()
    page.goto(f"{server.url}/shop")
    own = page.get_by_text("Old laptop, this one")
    expect(own).to_be_visible()
    page.get_by_role("button", name="turn away").press("Enter")
    page.get_by_role("button", name="Turn it away").press("Enter")
    expect(page.get_by_text("This device is not paired")).to_be_visible()
    context.close()


def of_age(server: Server, name: str, days: int) -> tuple[int, list[Any]]:
    call(server, "POST", "/rig/inspected", {})  # another test broke a piece beyond its range
    batch = locked(server, name, replicates=2)
    codes = [p["code"] for p in call(server, "GET", f"/batches/{batch}/glue")["pieces"]]
    begun, ended = ((datetime.now(UTC) - timedelta(days=d)).isoformat() for d in (days, days - 1))
    call(server, "POST", f"/batches/{batch}/glueups", {"codes": codes, "force_n": 400, "started_at": begun})
    call(server, "POST", f"/batches/{batch}/unclamp", {"codes": codes, "at": ended})
    return batch, codes


@pytest.mark.loses_server
def test_what_the_desk_does_not_take_is_asked_and_never_dropped(page: Page, server: Server) -> None:
    batch, _ = of_age(server, "Away", 9)
    page.goto(f"{server.url}/batch/{batch}/break")
    expect(page.get_by_role("button", name="Type the load")).to_be_visible()
    page.route("**/observations", lambda route: route.abort("connectionreset"))
    first = type_load(page, "1500 N")
    second = type_load(page, "6000 N")
    third = type_load(page, "1700 N")
    expect(page.get_by_text("3 entries are stored on this device")).to_be_visible()
    expect(page.get_by_text("typed 6000 N, stored on this device")).to_be_visible()
    # Meanwhile somebody else breaks the third piece at the desk.
    seen = {"code": third, "kind": "exact", "low": "1650 N", "failure_mode": "in-glue"}
    call(server, "POST", f"/batches/{batch}/observations", seen)
    page.unroute("**/observations")

    asked = page.get_by_role("region", name="Not taken by the desk")
    expect(asked).to_contain_text(second)
    expect(asked).to_contain_text("6000 N")
    asked.get_by_role("button", name="Save it all the same").click()
    expect(asked).to_contain_text(third)
    asked.get_by_role("button", name="Leave it out").click()
    expect(asked).to_have_count(0)
    expect(page.get_by_text("stored on this device")).to_have_count(0)
    rows = {r["code"]: r["low_n"] for r in call(server, "GET", f"/batches/{batch}/break")["rows"]}
    assert (rows[first], rows[second], rows[third]) == (1500.0, 6000.0, 1650.0)


def test_what_was_entered_for_another_shop_is_neither_sent_nor_lost(page: Page, server: Server) -> None:
    """The demo and one's own shop may have had the same address, one after the other."""
    batch = locked(server, "Not the demo's", replicates=2)
    code = call(server, "GET", f"/batches/{batch}/glue")["pieces"][0]["code"]
    page.goto(f"{server.url}/batch/{batch}/glue")
    expect(page.get_by_role("link", name="Today")).to_be_visible()
    own = page.evaluate("localStorage.getItem('adhaero.shop')")
    assert own == call(server, "GET", "/door")["shop"]
    tap = {"kind": "note", "at": datetime.now(UTC).isoformat(), "codes": [], "code": code, "mix": "", "text": "slipped",
           "ratio": "", "air_c": None, "humidity_pct": None, "bottle": "", "force_known": "unknown",
           "force_n": None}  # fmt: skip
    entries = [{"key": f"key of {shop}", "shop": shop, "what": "tap", "batch": batch, "body": {**tap, "text": text}}
               for shop, text in (("the demo", "starved"), (own, "slipped"))]  # fmt: skip
    page.evaluate("e => localStorage.setItem('adhaero waiting', JSON.stringify(e))", entries)
    page.reload()
    # Asked from here, again and again: the page's own policy lets nothing wait by a text inside it.
    wait_for(
        lambda: page.evaluate("JSON.parse(localStorage.getItem('adhaero waiting')).length") == 1, "the sending", 30
    )
    assert page.evaluate("JSON.parse(localStorage.getItem('adhaero waiting'))[0].shop") == "the demo"
    expect(page.get_by_text("stored on this device")).to_have_count(0)
    told = [a["summary"] for a in call(server, "GET", f"/batches/{batch}/history")]
    assert f"Noted of {code}: slipped" in told
    assert not [s for s in told if "starved" in s]


def shop_of(page: Page) -> str | None:
    try:
        return cast("str | None", page.evaluate("localStorage.getItem('adhaero.shop')"))
    except Error:
        return None  # asked while the page was beginning anew


def opens(page: Page, address: str) -> bool:
    try:
        return page.goto(address) is not None
    except Error:
        return False


def test_a_page_that_was_open_when_another_shop_came_belongs_to_that_one(page: Page, server: Server) -> None:
    page.goto(server.url)
    expect(page.get_by_role("link", name="Today")).to_be_visible()
    page.evaluate("localStorage.setItem('adhaero.shop', '0000aaaa')")
    page.reload()
    own = call(server, "GET", "/door")["shop"]
    wait_for(lambda: shop_of(page) == own, "its own shop", 30)
    wait_for(lambda: opens(page, f"{server.url}/shop"), "its page", 30)
    expect(page.get_by_role("heading", name="The shop’s network")).to_be_visible()


def test_who_was_turned_away_may_mistype_the_code(browser: Browser, server: Server) -> None:
    context = browser.new_context(extra_http_headers=ELSEWHERE, service_workers="block", locale="en-GB")
    page = context.new_page()
    code = call(server, "POST", "/network/code")["code"]["text"]
    page.goto(f"{server.url}/pair#{code}")
    page.get_by_label("Name of this device").fill("Turned away")
    page.get_by_role("button", name="Pair this device").click()
    expect(page.get_by_role("link", name="Today")).to_be_visible()
    own = next(d["id"] for d in call(server, "GET", "/network")["devices"] if d["name"] == "Turned away")
    call(server, "POST", f"/network/devices/{own}/forget")
    # The page may have noticed by itself: then there is nothing left to press.
    page.evaluate("""() => document.querySelector('a[href="/shop"]')?.click()""")
    page.get_by_label("Code").fill("WRONG234")
    page.get_by_role("button", name="Pair this device").click()
    expect(page.get_by_text("this is not the code that the desk shows")).to_be_visible()
    page.wait_for_timeout(1_000)
    expect(page.get_by_label("Code")).to_have_value("WRONG234")
    context.close()


@pytest.mark.loses_server
def test_why_an_entry_stays_is_told_on_every_screen(page: Page, server: Server) -> None:
    batch, codes = of_age(server, "Stays", 9)
    page.goto(f"{server.url}/batch/{batch}/break")
    expect(page.get_by_role("button", name="Type the load")).to_be_visible()
    full = {"type": "/problems/disk-full", "detail": "The disk is full. Nothing was changed.", "errors": []}
    away, tries = [True], []

    def unable(route: Route) -> None:
        tries.append(route.request.url)
        _ = route.abort("connectionreset") if away[0] else route.fulfill(status=507, json=full)

    page.route("**/observations", unable)
    broken = [type_load(page, f"{1500 + n} N") for n in range(len(codes))]
    expect(page.get_by_text("All that was to be broken now is typed")).to_be_visible()
    away[0] = False
    page.get_by_role("link", name="Shop", exact=True).click()
    expect(page.get_by_role("status").get_by_text("The disk is full.")).to_be_visible()
    tries.clear()
    page.wait_for_timeout(3_000)
    assert len(tries) < 5, "a desk that can't is not asked without pause"
    seen = {"code": broken[0], "kind": "exact", "low": "1650 N", "failure_mode": "in-glue"}
    call(server, "POST", f"/batches/{batch}/observations", seen)
    page.unroute("**/observations")
    page.get_by_role("link", name="The desk did not take one of them").click()
    asked = page.get_by_role("region", name="Not taken by the desk")
    expect(asked).to_contain_text(broken[0])
    asked.get_by_role("button", name="Leave it out").click()
    expect(page.get_by_text("stored on this device")).to_have_count(0)


@pytest.mark.loses_server
def test_a_reading_whose_answer_got_lost_is_there_once_and_not_asked_about(page: Page, server: Server) -> None:
    batch, _ = of_age(server, "Lost answer", 9)
    page.goto(f"{server.url}/batch/{batch}/break")
    expect(page.get_by_role("button", name="Type the load")).to_be_visible()

    def arrives(route: Route) -> None:
        # Asked by other means than the browser's: a handler that itself waits for the browser may outlive its page.
        asked = route.request
        urllib.request.urlopen(urllib.request.Request(asked.url, asked.post_data_buffer, asked.headers), timeout=20)
        route.abort("connectionreset")

    page.route("**/observations", arrives)
    code = type_load(page, "1500 N")
    page.unroute("**/observations")
    expect(page.get_by_text("stored on this device")).to_have_count(0)
    expect(page.get_by_role("region", name="Not taken by the desk")).to_have_count(0)
    rows = {r["code"]: r["low_n"] for r in call(server, "GET", f"/batches/{batch}/break")["rows"]}
    assert rows[code] == 1500.0
    assert [a["summary"] for a in call(server, "GET", f"/batches/{batch}/history")].count(f"Broke {code}") == 1


def test_a_device_whose_clock_is_wrong_goes_by_that_of_the_desk(page: Page, server: Server) -> None:
    """Ages and open times are differences between the times of several devices."""
    batch, _ = of_age(server, "Other clocks", 9)
    page.clock.set_system_time(datetime.now(UTC) + timedelta(minutes=20))
    page.goto(f"{server.url}/batch/{batch}/break")
    expect(page.get_by_role("button", name="Type the load")).to_be_visible()
    code = type_load(page, "1500 N")
    (row,) = (r for r in call(server, "GET", f"/batches/{batch}/break")["rows"] if r["code"] == code)
    assert abs(datetime.now(UTC) - datetime.fromisoformat(row["at"])) < timedelta(minutes=2)
    page.goto(f"{server.url}/shop")
    page.get_by_text("What this device can do here").click()
    expect(page.get_by_text("ahead of the desk’s: times are taken by the desk’s.")).to_be_visible()
    page.goto(f"{server.url}/batch/{locked(server, 'Tapped elsewhere', replicates=2)}/bench")
    page.get_by_role("button", name="Glue is ready").click()
    expect(page.get_by_text("Open for")).to_be_visible()


def test_two_screens_at_one_queue_are_offered_different_pieces(page: Page, browser: Browser, server: Server) -> None:
    batch, codes = of_age(server, "Two screens", 9)
    context = browser.new_context(service_workers="block", locale="en-GB")
    other = context.new_page()
    for screen in (page, other):
        screen.goto(f"{server.url}/batch/{batch}/break")
        expect(screen.get_by_role("button", name="Type the load")).to_be_visible()
    expect(page.get_by_text("On other screens: ")).to_be_visible()
    broken = [type_load(screen, "1500 N") for _ in range(len(codes) // 2) for screen in (page, other)]
    assert sorted(broken) == sorted(codes)
    wait_for(lambda: call(server, "GET", f"/batches/{batch}/break")["done"] == len(codes), "all to be on record")
    history = [a["summary"] for a in call(server, "GET", f"/batches/{batch}/history")]
    assert sorted(a for a in history if a.startswith("Broke")) == sorted(f"Broke {code}" for code in codes)
    context.close()


def test_what_is_pressed_right_after_saving_is_meant_for_the_next_piece(page: Page, server: Server) -> None:
    batch, _ = of_age(server, "Quick hands", 9)
    page.goto(f"{server.url}/batch/{batch}/break")
    expect(page.get_by_role("button", name="Type the load")).to_be_visible()
    late: list[Route] = []
    page.route(f"**/api/batches/{batch}/break?*", lambda route: late.append(route))
    first = type_load(page, "1500 N")
    # The queue was not read again yet: it went on all the same.
    assert call(server, "GET", f"/batches/{batch}/break")["done"] == 1
    page.get_by_role("textbox", name="Load", exact=True).fill("1600 N")
    wait_for(lambda: page.wait_for_timeout(20) or late, "the queue to be read again")
    with page.expect_response(lambda answer: "/break?" in answer.url):
        page.unroute(f"**/api/batches/{batch}/break?*")
    expect(page.get_by_text("3 to go")).to_be_visible()
    expect(page.get_by_role("textbox", name="Load", exact=True)).to_have_value("1600 N")
    expect(page.get_by_text(f"wrote a result of {first}")).to_have_count(0)


def test_a_piece_that_is_being_typed_stays_when_another_device_breaks_it(page: Page, server: Server) -> None:
    batch, _ = of_age(server, "Two at once", 9)
    later = call(server, "GET", f"/batches/{batch}/break")["rows"][-1]["code"]
    page.goto(f"{server.url}/batch/{batch}/break")
    page.get_by_role("button", name="Type the load").click()
    piece = page.get_by_role("region", name="The piece")
    box = page.get_by_role("textbox", name="Load", exact=True)
    for typed, answer, stays in (("1500 N", "leave it and go on", 1650.0), ("1510 N", "Save it all the same", 1510.0)):
        code = str(piece.locator(".font-mono").first.inner_text())
        box.fill(typed)
        seen = {"code": code, "kind": "exact", "low": "1650 N", "failure_mode": "in-glue"}
        call(server, "POST", f"/batches/{batch}/observations", seen)
        expect(piece.get_by_text(f"Meanwhile another device wrote a result of {code}")).to_be_visible()
        expect(box).to_have_value(typed)
        if answer == "Save it all the same":
            heavy = {**seen, "code": later, "low": "6000 N", "confirmed": ["over capacity"]}
            page.get_by_role("radio").first.check(force=True)
            page.get_by_role("button", name="Save and next").click()
            expect(page.get_by_role("alert")).to_contain_text("1650 N already")
            # One more doubt after the first was answered: the answer to that is not forgotten.
            call(server, "POST", f"/batches/{batch}/observations", heavy)
            page.get_by_role("button", name=answer).click()
            expect(page.get_by_role("alert")).to_contain_text("nobody has looked it over")
        page.get_by_role("button", name=answer).click()
        expect(piece.get_by_text(code)).to_have_count(0)
        rows = {r["code"]: r["low_n"] for r in call(server, "GET", f"/batches/{batch}/break")["rows"]}
        assert rows[code] == stays
