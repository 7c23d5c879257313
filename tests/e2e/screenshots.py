"""Make the README's pictures from the demo data: ``make screenshots``."""

from __future__ import annotations

import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from adhaero.cli import fill_demo
from tests.e2e.conftest import FLAGS
from tests.e2e.server import Rig, Server

FOLDER = Path(__file__).parents[2] / "docs" / "screenshots"
SHOTS = {
    "today": ("/", 1280, 800),
    "plan": ("/batch/5/plan", 1280, 1600),
    "cut": ("/batch/2/cut", 1280, 1000),
    "labels": ("/batch/2/labels", 1280, 500),
    "glue": ("/batch/4/glue", 1280, 1000),
    # The one before the other: the picture of the bench begins a glue-up.
    "clamps": ("/batch/4/bench", 1280, 800),
    "bench": ("/batch/4/bench", 800, 1280),
    "break": ("/batch/3/break", 1280, 800),
    "faces": ("/batch/1/break", 1280, 1700),
    "compare": ("/batch/2/compare", 1280, 1500),
    "compare-axis": ("/batch/3/compare", 1280, 800),
    "compare-failures": ("/batch/2/compare?picture=failures", 1280, 1000),
    "compare-narrow": ("/batch/3/compare", 400, 800),
    "compare-beside": ("/batch/2/compare?bring=1:A&agreed=yes", 1280, 900),
    "compare-dark": ("/batch/2/compare", 1280, 800),
    "table": ("/table", 1280, 800),
    "shop": ("/shop", 1280, 800),
}
TABLE = "Glue\t1\t2\t3\t4\nHide\t410\t395\t402\tF\nFish\t510\t>495\tabc\t515\nSolid ash\t900\t910\t920\t905\n"


def pull(page: Page) -> None:
    """Break a piece, so that the picture shows a curve and its judgement."""
    page.get_by_role("button", name="Begin to pull").click()
    page.get_by_role("button", name="Pull the simulated lever").click()
    page.get_by_role("button", name="Look at the simulated faces").click(timeout=20_000)
    page.get_by_text("judged for you").wait_for()


def faces(page: Page) -> None:
    """A broken piece with the marks of its curve, and its faces laid open."""
    page.get_by_role("button", name="Correct").nth(4).click()
    page.get_by_text("The broken faces of").click()
    page.get_by_role("grid").first.wait_for()
    page.get_by_text("What is left open is flagged").wait_for()


def table(page: Page) -> None:
    """Cells of another shop pasted, one of which cannot be read."""
    page.get_by_label("The table", exact=True).fill(TABLE)
    page.get_by_label("Name of the batch").fill("Glues of the neighbour")
    page.get_by_label("Method", exact=True).fill("Lap shear in tension, single")
    page.get_by_role("option", name="Lap shear in tension, single").click()
    for what, typed in (("Clamp time", "6 h"), ("Cure time", "4 d")):
        page.get_by_label(what).fill(typed)
        page.get_by_label(what).press("Tab")
    page.get_by_label("What Solid ash is").select_option("solid wood")
    page.wait_for_timeout(800)


def main() -> None:
    """Take every picture."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        rig = Rig(pump=3.0)
        fill_demo(Path(folder) / "adhaero.db", rig.port)
        server = Server(Path(folder), rig)
        server.start()
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
        try:
            for name, (path, width, height) in SHOTS.items():
                page = browser.new_page(viewport={"width": width, "height": height}, locale="en-GB")
                if name.endswith("-dark"):
                    page.add_init_script("localStorage.setItem('adhaero.look', 'dark')")
                page.goto(server.url + path)
                page.wait_for_timeout(1500)
                page.get_by_text("Fetching").wait_for(state="hidden", timeout=30_000)
                if name == "break":
                    pull(page)
                if name == "table":
                    table(page)
                if name == "faces":
                    faces(page)
                    page.wait_for_timeout(800)
                if name == "clamps":
                    page.mouse.wheel(0, 420)
                if name == "bench":
                    page.get_by_label("Bottle", exact=True).select_option(index=1)
                    page.get_by_role("button", name="Glue is ready").click()
                    page.get_by_role("button", name="Spread").click()
                    page.wait_for_timeout(1200)
                page.screenshot(path=FOLDER / f"{name}.png")
                page.close()
                print(f"docs/screenshots/{name}.png")
        finally:
            browser.close()
            server.stop()
            rig.stop()


if __name__ == "__main__":
    main()
