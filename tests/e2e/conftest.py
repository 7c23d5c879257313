"""A headless browser from the system's packages, and servers for it to look at."""

from __future__ import annotations

import json
import tempfile
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, ConsoleMessage, Error, Page, expect, sync_playwright

from tests.e2e.server import Rig, Server

PATIENCE_MS = 30_000
"""How long a busy machine may take; waits end as soon as what they wait for is there."""
expect.set_options(timeout=PATIENCE_MS)
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
         "--disable-component-update", "--disable-sync"]  # fmt: skip


REFUSED = ("422", "409", "421", "Service Worker registration blocked")
"""What a browser writes into its console when the server, or this test, refuses something, as it should."""
GONE = (
    "ERR_CONNECTION",
    "ERR_INCOMPLETE_CHUNKED",
    "ERR_EMPTY",
    "ERR_SOCKET_NOT_CONNECTED",
    "ERR_CONTENT_LENGTH_MISMATCH",
    "507",
)
"""All the ways in which it says that a server went away, or was unable, while it was asked."""


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        launched = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
        yield launched
        launched.close()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item) -> Any:
    """Keep what the browser showed when a test failed."""
    report = yield
    shown = getattr(item, "funcargs", {}).get("page")
    if report.when == "call" and report.failed and shown is not None:
        folder = Path(tempfile.gettempdir()) / "adhaero-failed"
        folder.mkdir(exist_ok=True)
        shown.screenshot(path=folder / f"{item.name}.png")
    return report


class Window:
    """A page that the tests of a module share, one after the other: to begin a context anew takes longer than many of
    them. What one leaves behind is cleared away; where that can't be done, the next one begins anew.
    """

    def __init__(self, browser: Browser) -> None:
        self.browser = browser
        self._page: Page | None = None

    @property
    def page(self) -> Page:
        if self._page is None:
            # Its worker is tried across a network of its own (test_house_network): here it would fetch all files for
            # each test.
            context = self.browser.new_context(
                viewport={"width": 1280, "height": 800}, locale="en-GB", service_workers="block"
            )
            self._page = context.new_page()
            self._page.set_default_timeout(PATIENCE_MS)
        return self._page

    def clear(self) -> None:
        page, origin = self.page, self.page.url.split("/batch/")[0].rstrip("/")
        try:
            page.goto("about:blank")
            page.set_viewport_size({"width": 1280, "height": 800})
            page.emulate_media(media="null", color_scheme="null", contrast="null")
            session = page.context.new_cdp_session(page)
            if origin.startswith("http"):
                session.send("Storage.clearDataForOrigin", {"origin": origin, "storageTypes": "all"})
            session.detach()
        except Error:
            self.close()

    def close(self) -> None:
        if self._page is not None:
            self._page.context.close()
            self._page = None


@pytest.fixture(scope="module")
def window(browser: Browser) -> Iterator[Window]:
    opened = Window(browser)
    yield opened
    opened.close()


@pytest.fixture
def page(window: Window, request: pytest.FixtureRequest) -> Iterator[Page]:
    """A page that fails its test on any error or warning in the console; fresh, unless its module says ONE_WINDOW.

    Where a test is marked ``loses_server`` the browser may say that the server went away.
    """
    if "server" in request.fixturenames:
        # Begun first, so that the page is left before its server ends.
        request.getfixturevalue("server")
    if request.node.get_closest_marker("fresh_window"):
        window.close()
    opened = window.page
    heard: list[str] = []

    def failed(error: Error) -> None:
        heard.append(str(error))

    def said(m: ConsoleMessage) -> None:
        if m.type in ("error", "warning"):
            heard.append(m.text)

    opened.on("pageerror", failed)
    opened.on("console", said)
    yield opened
    opened.remove_listener("pageerror", failed)
    opened.remove_listener("console", said)
    if getattr(request.module, "ONE_WINDOW", False):
        window.clear()
    else:
        window.close()
    expected = REFUSED + (GONE if request.node.get_closest_marker("loses_server") else ())
    assert [text for text in heard if not any(e in text for e in expected)] == []


@pytest.fixture
def rig() -> Iterator[Rig]:
    started = Rig()
    yield started
    started.stop()


@pytest.fixture
def server(tmp_path: Path, rig: Rig) -> Iterator[Server]:
    """The user's own, empty workshop with a rig."""
    started = Server(tmp_path / "data", rig)
    started.start()
    set_up = {"name": "Bench press", "port": rig.url, "capacity": 20_000, "step": 1, "fixture": "Shear 1"}
    call(started, "PUT", "/rig", set_up)
    yield started
    started.stop()


def quiet_server(folder: Path) -> Iterator[Server]:
    """A workshop for the tests of a whole module, with a rig on paper only: each test begins batches of its own."""
    started = Server(folder)
    started.start()
    set_up = {"name": "Bench press", "port": "", "capacity": 20_000, "step": 1, "fixture": "Shear 1"}
    call(started, "PUT", "/rig", set_up)
    yield started
    started.stop()


def call(server: Server, method: str, path: str, body: Any = None) -> Any:
    """Ask the API directly, for what a test needs but does not test."""
    data = None if body is None else json.dumps(body).encode()
    headers = {"Content-Type": "application/json"}
    request = urllib.request.Request(f"{server.url}/api{path}", data, headers, method=method)
    with urllib.request.urlopen(request, timeout=60) as response:
        return json.loads(response.read())


def type_load(page: Page, load: str) -> str:
    """Type the load of the piece that is offered, and save; returns its code. Who typed one goes on typing."""
    piece = page.get_by_role("region", name="The piece")
    code = str(piece.locator(".font-mono").first.inner_text())
    box, type_it = (
        page.get_by_role("textbox", name="Load", exact=True),
        page.get_by_role("button", name="Type the load"),
    )
    expect(box.or_(type_it)).to_be_visible()
    if type_it.is_visible():
        type_it.click()
    box.fill(load)
    page.get_by_role("radio").first.check(force=True)
    page.get_by_role("button", name="Save and next").click()
    expect(piece.get_by_text(code)).to_have_count(0)
    return code
