"""Every main view of the demo workshop: no accessibility violation, usable from 360 to 1920 px, long names."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from adhaero.cli import fill_demo
from tests.e2e.conftest import call
from tests.e2e.server import Rig, Server

pytestmark = pytest.mark.browser
ONE_WINDOW = True
AXE = (Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js").read_text()
VIEWS = {
    "today": ("/", "Batches"),
    "shop": ("/shop", "Bottles and kits"),
    "table": ("/table", "Nothing is pasted yet."),
    "draft": ("/batch/5/plan", "What differs is"),
    "plan": ("/batch/2/plan", "pieces have their codes"),
    "labels": ("/batch/2/labels", "Blind"),
    "cut": ("/batch/2/cut", "Write the code on both halves"),
    "glue": ("/batch/4/glue", "joints wait for glue"),
    "bench": ("/batch/4/bench", "Lay out"),
    "bench sheet": ("/batch/4/bench-sheet", "bench sheet"),
    "testing sheet": ("/batch/3/testing-sheet", "testing sheet"),
    "found": ("/find?text=ash", "Ash 11"),
    "cautions": ("/batch/4/cautions", "Gluing and clamping"),
    "break": ("/batch/3/break", "to go"),
    "compare": ("/batch/2/compare", "Evidence"),
    "compare how it gave way": ("/batch/2/compare?picture=failures", "In the wood"),
    "compare against price": ("/batch/2/compare?picture=against&beside=glue-cost", "Within treatments"),
    "compare beside another study": ("/batch/2/compare?bring=1:A&agreed=yes", "as if the testing were alike"),
    "compare with bounds": ("/batch/3/compare", "Caveats"),
}


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    rig = Rig()
    folder = tmp_path_factory.mktemp("demo")
    fill_demo(folder / "adhaero.db", rig.port)
    server = Server(folder, rig)
    server.start()
    yield server
    server.stop()
    rig.stop()


def show(page: Page, server: Server, view: str) -> None:
    path, text = VIEWS[view]
    page.goto(server.url + path)
    expect(page.get_by_text(text).first).to_be_visible()
    if view == "break":
        expect(page.get_by_role("button", name="Begin to pull")).to_be_enabled()
    page.wait_for_timeout(300)


STANDARDS = ("wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice")


def violations(page: Page, *rules: str, contrast: bool = True) -> list[str]:
    """What axe finds by these rules, by all that the standards name unless told."""
    page.evaluate(AXE)
    only = {"type": "rule" if rules else "tag", "values": list(rules or STANDARDS)}
    how = {"runOnly": only, "resultTypes": ["violations"], "rules": {"color-contrast": {"enabled": contrast}}}
    result: dict[str, Any] = page.evaluate("how => axe.run(document, how)", how)
    return [f"{v['id']}: {n['html'][:160]}" for v in result["violations"] for n in v["nodes"]]


LOOKED_AT = ("today", "break", "compare", "compare how it gave way")
"""Views whose contrast is tried in each look: the others are made of the same parts."""


NARROW = ("today", "plan", "bench", "break", "compare")
FOLDED = ("shop", "glue", "draft", "compare")
"""Views that are tried on a telephone too, and those whose folded parts are opened and tried."""


@pytest.mark.parametrize("view", VIEWS)
def test_no_accessibility_violation_and_no_view_wider_than_its_window(page: Page, demo: Server, view: str) -> None:
    """Nor does any request leave the machine; what the content policy refuses is heard in the console."""
    asked: list[str] = []
    page.on("request", lambda r: asked.append(r.url))
    show(page, demo, view)
    assert {url.split("/")[2] for url in asked if not url.startswith("data:")} == {demo.url.split("/")[2]}
    assert violations(page) == []
    if view in LOOKED_AT:
        for look in ("dark", "sun"):
            page.evaluate("look => { document.documentElement.dataset.look = look }", look)
            assert violations(page, "color-contrast") == [], look
        page.evaluate("() => { delete document.documentElement.dataset.look }")
    if view in NARROW:
        page.set_viewport_size({"width": 400, "height": 800})
        page.wait_for_timeout(150)
        assert violations(page, contrast=False) == [], "at 400 px"
    # What is folded away has a width too.
    page.evaluate("document.querySelectorAll('details').forEach((d) => (d.open = true))")
    for width in (360, 400, 768, 1920):
        page.set_viewport_size({"width": width, "height": 800})
        page.wait_for_timeout(150)
        assert page.evaluate("document.documentElement.scrollWidth") <= width, f"at {width} px"
    if view in FOLDED:
        page.set_viewport_size({"width": 1280, "height": 800})
        page.wait_for_timeout(150)
        assert violations(page) == [], "opened"


BENCH = {"break": ("Begin to pull", "Type the load", "Zero"), "bench": ("Glue is ready", "Clamps are off", "chiselled")}


@pytest.mark.parametrize(("view", "name"), [(v, n) for v, names in BENCH.items() for n in names])
def test_bench_targets_are_large(page: Page, demo: Server, view: str, name: str) -> None:
    show(page, demo, view)
    box = page.get_by_role("button", name=name).first.bounding_box()
    assert box is not None
    assert box["height"] >= 56


def test_a_long_name_breaks_nothing(page: Page, demo: Server) -> None:
    name = "Donaudampfschifffahrtsgesellschaftskapitänsmützenhalter " * 2
    batch = call(demo, "POST", "/batches", {"name": name.strip()[:118]})["id"]
    for path in ("/", f"/batch/{batch}/plan"):
        page.set_viewport_size({"width": 400, "height": 800})
        page.goto(demo.url + path)
        expect(page.get_by_text("Donaudampf").first).to_be_visible()
        assert page.evaluate("document.documentElement.scrollWidth") <= 400


def test_an_empty_workshop_says_how_to_begin(page: Page, server: Server) -> None:
    page.goto(server.url)
    expect(page.get_by_role("heading", name="The first day")).to_be_visible()
    assert violations(page) == []
    page.goto(f"{server.url}/batch/77/plan")
    expect(page.get_by_text("There is nothing here")).to_be_visible()


def test_units_change_everywhere_and_back(page: Page, demo: Server) -> None:
    show(page, demo, "shop")
    page.get_by_label("Unit of stress").select_option("psi")
    expect(page.get_by_label("Unit of stress")).to_have_value("psi")
    show(page, demo, "compare")
    expect(page.get_by_role("columnheader", name="mean, psi")).to_be_visible()
    call(demo, "PUT", "/settings", {"units": {"stress": "MPa"}})
    show(page, demo, "compare")
    expect(page.get_by_role("columnheader", name="mean, MPa")).to_be_visible()


def test_the_printed_cut_sheet_has_every_piece(page: Page, demo: Server) -> None:
    show(page, demo, "cut")
    sheet = page.get_by_role("table", name="Cut sheet")
    in_sight = sheet.get_by_role("row").count()
    page.evaluate("window.dispatchEvent(new Event('beforeprint'))")
    expect(sheet.get_by_role("row")).to_have_count(29)
    page.evaluate("window.dispatchEvent(new Event('afterprint'))")
    expect(sheet.get_by_role("row")).to_have_count(in_sight)


def test_load_and_strength_are_a_switch(page: Page, demo: Server) -> None:
    show(page, demo, "compare")
    page.get_by_role("radio", name="Load").check()
    expect(page.get_by_role("columnheader", name="mean, N")).to_be_visible()


@pytest.mark.fresh_window
def test_first_load_is_small(page: Page, demo: Server) -> None:
    """Under 300 kB of compressed script."""
    sizes: list[int] = []
    page.on("requestfinished", lambda r: sizes.append(r.sizes()["responseBodySize"]) if ".js" in r.url else None)
    show(page, demo, "today")
    assert 20_000 < sum(sizes) < 300_000


def test_a_look_is_chosen_for_this_device_and_stays(page: Page, demo: Server) -> None:
    page.goto(f"{demo.url}/shop")
    page.get_by_label("Colours").select_option("for a dark shop")
    background = "getComputedStyle(document.documentElement).backgroundColor"
    assert page.evaluate(background) == "rgb(22, 27, 27)"
    size = "parseFloat(getComputedStyle(document.documentElement).fontSize)"
    usual = page.evaluate(size)
    page.get_by_label("Size of the text").select_option("largest")
    assert page.evaluate(size) == pytest.approx(1.35 * usual)
    page.goto(f"{demo.url}/batch/2/compare")
    expect(page.get_by_test_id("headline")).to_be_visible()
    assert page.evaluate(background) == "rgb(22, 27, 27)"
    page.set_viewport_size({"width": 360, "height": 800})
    assert page.evaluate("document.documentElement.scrollWidth") <= 360, "nor is anything cut off in large letters"
    page.emulate_media(media="print")
    assert page.evaluate(background) == "rgb(255, 255, 255)", "paper is printed on as it is"


def test_the_system_s_wish_counts_where_nothing_was_chosen(page: Page, demo: Server) -> None:
    page.emulate_media(color_scheme="dark")
    page.goto(demo.url)
    expect(page.locator("html")).to_have_attribute("data-look", "dark")
    page.emulate_media(color_scheme="light", contrast="more")
    expect(page.locator("html")).to_have_attribute("data-look", "sun")
    page.emulate_media(contrast="no-preference")
    expect(page.locator("html")).to_have_attribute("data-look", "light")


@pytest.mark.parametrize("view", ["compare", "break", "bench"])
def test_large_letters_cut_nothing_off(page: Page, demo: Server, view: str) -> None:
    show(page, demo, view)
    page.evaluate("document.documentElement.dataset.text = 'largest'")
    for width in (360, 768, 1280):
        page.set_viewport_size({"width": width, "height": 800})
        page.wait_for_timeout(150)
        assert page.evaluate("document.documentElement.scrollWidth") <= width, f"at {width} px"
