"""Kill -9, a cable pulled out, a server that is away, two windows: what the screen says and what is still there."""

from __future__ import annotations

import json
import socket
import sqlite3
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Browser, Page, expect

from adhaero.store.database import Database
from tests.e2e.conftest import call
from tests.e2e.server import Rig, Server
from tests.rig.harness import longest_stall, wait_for

pytestmark = pytest.mark.browser
RATE_HZ = 80


def locked_batch(server: Server) -> int:
    batch = int(call(server, "POST", "/batches", {"name": "Laminations"})["id"])
    plan = call(server, "GET", f"/batches/{batch}/plan")
    levels = [{"value": g, "unit": ""} for g in ("casein", "hide-hot")]
    document = {**plan["document"], "question": "?", "factors": [{"key": "glue", "name": "Glue", "levels": levels}]}
    saved = call(server, "PUT", f"/batches/{batch}/plan", {"version": 1, "name": "Laminations", "document": document})
    call(server, "POST", f"/batches/{batch}/lock", {"version": saved["version"]})
    return batch


def hand(rig: Rig, **order: Any) -> dict[str, Any]:
    with socket.create_connection(("127.0.0.1", rig.hand_port), timeout=3) as link, link.makefile("rw") as lines:
        lines.write(json.dumps(order) + "\n")
        lines.flush()
        return dict(json.loads(lines.readline()))


def begin(page: Page, server: Server, batch: int) -> None:
    page.goto(f"{server.url}/batch/{batch}/break")
    page.get_by_role("button", name="Begin to pull").click()
    expect(page.get_by_text("Recording.")).to_be_visible()


@pytest.mark.loses_server
def test_killed_in_the_middle_of_a_pull(page: Page, server: Server, rig: Rig) -> None:
    batch = locked_batch(server)
    before = call(server, "GET", f"/batches/{batch}/break")
    begin(page, server, batch)
    hand(rig, do="seat", piece={"solid_n": 6600.0})
    hand(rig, do="pump", seconds=8)
    with longest_stall(server.folder) as stall:
        seen = wait_for(
            lambda: (live := call(server, "GET", "/rig/live"))["pull"]["seconds"] > 3 and live["pull"], "three seconds"
        )
        server.kill()
    db = Database(server.folder / "adhaero.db")
    assert db.check() == []
    with sqlite3.connect(db.path) as conn:
        chunks = [r[0] for r in conn.execute("SELECT samples FROM curve_chunk ORDER BY sequence")]
    saved = np.concatenate([np.frombuffer(c, dtype="<f8").reshape(-1, 3) for c in chunks])
    assert seen["seconds"] - saved[-1, 0] <= 0.5 + stall(), "at most half a second of the raw curve is missing"
    assert np.all(np.diff(saved[:, 0]) < 0.2), "and there is no hole in it"
    expect(page.get_by_text("Adhaero does not answer")).to_be_visible()

    server.start()
    after = call(server, "GET", f"/batches/{batch}/break")
    assert after["rows"] == before["rows"], "the batch is whole"
    page.reload()
    expect(page.get_by_text("This pull was interrupted after")).to_be_visible()
    expect(page.get_by_label("Kind of observation")).to_have_value("at_least")
    page.get_by_role("button", name="Pull again").click()
    expect(page.get_by_role("button", name="Begin to pull")).to_be_visible()
    assert call(server, "GET", f"/batches/{batch}/break")["next"] == before["next"]


def test_a_cable_pulled_out(page: Page, server: Server, rig: Rig) -> None:
    batch = locked_batch(server)
    begin(page, server, batch)
    hand(rig, do="seat", piece={"solid_n": 6600.0})
    hand(rig, do="pump", seconds=5)
    wait_for(lambda: call(server, "GET", "/rig/live")["pull"]["peak_n"] > 500, "some load")
    hand(rig, do="fault", name="drop", seconds=1.5)
    expect(page.get_by_text("The rig is gone: check cable and power")).to_be_visible()
    expect(page.get_by_text("Reading the rig.")).to_be_visible()
    expect(page.get_by_role("button", name="Save and next")).to_be_visible(timeout=20_000)
    page.keyboard.press("1")
    page.keyboard.press("Enter")
    expect(page.get_by_text("to go")).to_contain_text("15 to go")


@pytest.mark.loses_server
def test_a_server_that_is_away_loses_nothing_typed(page: Page, server: Server) -> None:
    batch = locked_batch(server)
    page.goto(f"{server.url}/batch/{batch}/cut")
    cell = page.get_by_role("table", name="Cut sheet").get_by_role("textbox").first
    expect(cell).to_be_visible()
    server.kill()
    cell.fill("20.4")
    cell.press("Enter")
    expect(page.get_by_text("Adhaero does not answer").first).to_be_visible()
    expect(cell).to_have_value("20.4")
    server.start()
    cell.focus()
    cell.fill("20.40")
    cell.press("Enter")
    expect(page.get_by_text("mm²").first).to_be_visible()
    wait_for(lambda: call(server, "GET", f"/batches/{batch}/cut")["rows"][0]["sizes"].get("width"), "the size")


def test_two_windows_on_one_plan(browser: Browser, page: Page, server: Server) -> None:
    batch = int(call(server, "POST", "/batches", {"name": "Shared"})["id"])
    other = browser.new_page()
    for window in (page, other):
        window.goto(f"{server.url}/batch/{batch}/plan")
        expect(window.get_by_label("Question")).to_be_visible()
    page.get_by_label("Question").fill("The first window's question")
    expect(page.get_by_text("Saved as a draft")).to_be_visible()
    other.get_by_label("Question").fill("The second window's question")
    expect(other.get_by_text("the plan was changed in another window")).to_be_visible()
    plan = call(server, "GET", f"/batches/{batch}/plan")
    assert plan["document"]["question"] == "The first window's question"
    other.get_by_role("button", name="Reload the plan").click()
    expect(other.get_by_label("Question")).to_have_value("The first window's question")
    other.close()


def test_a_wrong_size_stays_in_its_cell_with_the_reason(page: Page, server: Server) -> None:
    batch = locked_batch(server)
    page.goto(f"{server.url}/batch/{batch}/cut")
    cells = page.get_by_role("table", name="Cut sheet").get_by_role("textbox")
    cells.first.fill("20 kg")
    cells.first.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("'kg' is not a unit of length")
    expect(cells.first).to_have_value("20 kg")
    expect(cells.first).to_have_attribute("aria-invalid", "true")
    cells.first.fill("20")
    cells.first.press("Enter")
    expect(page.get_by_role("alert")).to_have_count(0)


def test_a_wrong_load_names_the_field(page: Page, server: Server) -> None:
    batch = locked_batch(server)
    page.goto(f"{server.url}/batch/{batch}/break")
    page.get_by_role("button", name="Type the load").click()
    load = page.get_by_role("textbox", name="Load", exact=True)
    load.fill("9000 psi")
    page.get_by_role("radio", name="Mixed").check(force=True)
    page.get_by_role("button", name="Save and next").click()
    expect(page.get_by_role("alert")).to_contain_text("'psi' is not a unit of force")
    expect(load).to_have_value("9000 psi")
    assert call(server, "GET", f"/batches/{batch}/break")["done"] == 0


def test_a_csv_with_a_wrong_row(page: Page, server: Server) -> None:
    page.goto(server.url)
    text = "batch,code,treatment_label,role,width_mm\nMine,AAAA,x,joint,20\nMine,2222,x,joint,wide\n"
    page.get_by_label("Read a file").set_input_files(
        {"name": "mine.csv", "mimeType": "text/csv", "buffer": text.encode()}
    )
    expect(page.get_by_role("alert")).to_contain_text("row 3: width_mm")
    expect(page.get_by_role("alert")).to_contain_text("'wide' is not a number")
    assert call(server, "GET", "/today")["batches"] == []


def test_a_signal_late_with_its_news_does_not_bring_back_a_judged_piece(page: Page, server: Server) -> None:
    batch = locked_batch(server)
    first = call(server, "GET", f"/batches/{batch}/break")["next"]
    observed = {"code": first, "kind": "exact", "low": "6500 N", "failure_mode": "mixed"}
    call(server, "POST", f"/batches/{batch}/observations", observed)
    ended = {"pull_id": 1, "code": first, "state": "ended", "peak_n": 6500, "seconds": 4, "saved_samples": 320}
    live = {**call(server, "GET", "/rig/live"), "status": "live", "pull": ended}
    sent = f"data: {json.dumps(live)}\n\n"
    page.route("**/api/rig/stream", lambda r: r.fulfill(body=sent, content_type="text/event-stream"))
    page.goto(f"{server.url}/batch/{batch}/break")
    expect(page.get_by_text("15 to go")).to_be_visible()
    second = call(server, "GET", f"/batches/{batch}/break")["next"]
    piece = page.get_by_role("region", name="The piece")
    expect(piece.get_by_text(second, exact=True)).to_be_visible()
    expect(piece.get_by_text(first, exact=True)).to_have_count(0)


def test_a_seventh_tab_is_served_like_the_first(page: Page, server: Server) -> None:
    """Any number of tabs with the live signal share the few connections of a browser."""
    batch = call(server, "POST", "/batches", {"name": "Many tabs"})["id"]
    plan = call(server, "GET", f"/batches/{batch}/plan")
    levels = [{"value": g, "unit": ""} for g in ("casein", "hide-hot")]
    document = {**plan["document"], "question": "?", "factors": [{"key": "glue", "name": "Glue", "levels": levels}]}
    saved = call(server, "PUT", f"/batches/{batch}/plan", {"version": 1, "name": "Many tabs", "document": document})
    call(server, "POST", f"/batches/{batch}/lock", {"version": saved["version"]})
    tabs = [page, *(page.context.new_page() for _ in range(6))]
    for tab in tabs:
        tab.goto(f"{server.url}/batch/{batch}/break")
    for tab in tabs:
        expect(tab.get_by_label("Load now")).not_to_have_text("—")
