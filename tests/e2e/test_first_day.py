"""An empty shop on its first day: three steps, each of which can be left out."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import call, quiet_server
from tests.e2e.server import Server
from tests.e2e.test_screens import violations

pytestmark = pytest.mark.browser


@pytest.fixture
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    yield from quiet_server(tmp_path_factory.mktemp("first"))


def test_units_clamps_and_a_question(server: Server, page: Page) -> None:
    page.goto(server.url)
    first = page.get_by_role("region", name="The first day")
    expect(first.get_by_role("heading", level=3)).to_have_text(
        ["What do you want to find out?", "Which units, and what breaks your pieces?", "What presses them?"]
    )
    assert violations(page) == []
    with page.expect_response("**/api/settings"):
        first.get_by_label("Shop inch").check()
    expect(first.get_by_label("Shop inch")).to_be_checked()
    assert call(server, "GET", "/shop")["units"]["length"] == "in"
    first.get_by_role("link", name="in the shop").click()
    expect(page.get_by_role("heading", name="Clamps")).to_be_in_viewport()
    page.go_back()
    first.get_by_role("button", name="How long in the clamp?").click()
    expect(page.get_by_role("heading", name="How long in the clamp")).to_be_visible()
    expect(page.get_by_label("Question")).to_have_value("When can the clamps come off?")
    page.goto(server.url)
    expect(page.get_by_role("region", name="The first day")).to_have_count(0)


def test_each_step_can_be_left_out_and_comes_again(server: Server, page: Page) -> None:
    page.goto(server.url)
    for left in (2, 1, 0):
        page.get_by_role("button", name="Skip: ").first.click()
        expect(page.get_by_role("button", name="Skip: ")).to_have_count(left)
    expect(page.get_by_text("the rest follows in five steps")).to_be_visible()
    page.reload()
    expect(page.get_by_role("button", name="Skip: ")).to_have_count(0)
    page.get_by_role("button", name="show the steps again").click()
    expect(page.get_by_role("button", name="Skip: ")).to_have_count(3)
    page.set_viewport_size({"width": 360, "height": 800})
    assert page.evaluate("document.documentElement.scrollWidth") <= 360


def test_help_by_key_and_by_touch(server: Server, page: Page) -> None:
    page.goto(server.url)
    name = page.get_by_label("Name of a new batch")
    name.press("?")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(name).to_have_value("?")
    page.get_by_role("heading", name="Batches").click()
    page.keyboard.press("?")
    told = page.get_by_role("dialog")
    expect(told).to_contain_text("A batch goes through five stages")
    expect(told.get_by_role("region", name="Keys")).to_contain_text("Ctrl + Z")
    expect(told.get_by_role("region", name="Words")).to_contain_text("how long the glue may lie open")
    assert violations(page) == []
    page.keyboard.press("Escape")
    expect(told).to_have_count(0)
    page.goto(f"{server.url}/shop")
    page.set_viewport_size({"width": 360, "height": 800})
    page.get_by_role("button", name="Help: this stage, keys and words").click()
    expect(told.get_by_role("heading", name="Shop")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 360
    told.get_by_role("button", name="Close").click()
    expect(told).to_have_count(0)


def test_a_copy_is_taken_and_put_back(server: Server, page: Page) -> None:
    call(server, "POST", "/batches", {"name": "stays", "start": "own"})
    page.goto(f"{server.url}/shop")
    copies = page.get_by_role("region", name="Copies")
    copies.get_by_role("button", name="Take one now").click()
    expect(copies.get_by_text("taken by hand")).to_be_visible()
    call(server, "POST", "/batches", {"name": "goes", "start": "own"})
    page.get_by_role("link", name="Today").click()
    expect(page.get_by_text("goes")).to_be_visible()
    page.get_by_role("link", name="Shop", exact=True).click()
    taken = copies.get_by_role("listitem").filter(has_text="taken by hand")
    taken.get_by_role("button", name="put back").click()
    expect(taken).to_contain_text("goes out of sight")
    taken.get_by_role("button", name="Put it back").click()
    expect(copies.get_by_text("It is back.")).to_be_visible()
    expect(copies.get_by_text("before another was put back")).to_be_visible()
    page.get_by_role("link", name="Today").click()
    expect(page.get_by_text("stays")).to_be_visible()
    expect(page.get_by_text("goes")).to_have_count(0)
