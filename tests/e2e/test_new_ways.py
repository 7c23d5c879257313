"""Panels, protocols, judged properties, the bench sheet, further crossings, stores and photos, by hand in a browser."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import call, quiet_server
from tests.e2e.server import Server
from tests.e2e.test_scenes import begin, plan

pytestmark = pytest.mark.browser

PIXEL = bytes.fromhex(
    "89504e470d0a1a0a0000000d49484452000000010000000108060000001f15c4890000000d4944415478da63fccfc0500f0004850180"
    "84a98c210000000049454e44ae426082"
)


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    yield from quiet_server(tmp_path_factory.mktemp("new-ways"))


def locked(server: Server, name: str, **changes: Any) -> int:
    """A locked batch of two glues, three of each."""
    batch = int(call(server, "POST", "/batches", {"name": name})["id"])
    now = plan(server, batch)
    levels = [{"value": g, "unit": "", "id": f"l{i}"} for i, g in enumerate(("pva-damp", "casein"), 1)]
    document = {
        **now["document"], "question": "Which?", "factors": [{"key": "glue", "name": "Glue", "levels": levels}],
        "control": {"glue": "l1"}, "replicates": 3, "solid_reference": 0, **changes,
    }  # fmt: skip
    call(server, "PUT", f"/batches/{batch}/plan", {"version": now["version"], "name": name, "document": document})
    call(server, "POST", f"/batches/{batch}/lock", {"version": plan(server, batch)["version"]})
    return batch


def joints(server: Server, batch: int) -> list[str]:
    return [r["code"] for r in call(server, "GET", f"/batches/{batch}/cut")["rows"] if r["role"] == "joint"]


def test_panels_are_planned_glued_as_one_and_counted_as_one(page: Page, server: Server) -> None:
    batch, hands = begin(page, server, "Tape or clamps", "Does tape do?")
    hands.choose("Test method", "Edge-joint folding")
    hands.choose("Factor", "Clamp pressure")
    hands.press("tape", exact=True)
    hands.select("Made together", "as sections of a panel, sawn after gluing")
    hands.fill("Pieces of each treatment", "6")
    hands.fill("Solid pieces", "0")
    expect(page.get_by_text("3 sections of one panel are one panel")).to_be_visible()
    hands.saved()
    hands.press("Lock the plan and make 12 codes")
    expect(page.get_by_text("12 pieces have their codes")).to_be_visible()
    page.goto(f"{server.url}/batch/{batch}/cut")
    expect(page.get_by_text("Panel 1").first).to_be_visible()
    page.goto(f"{server.url}/batch/{batch}/glue")
    taped = page.get_by_label("pressed by tape (2)")
    taped.check()
    hands.select("Pressed by", "tape")
    hands.press("Write down this glue-up")
    expect(taped).to_have_count(0)
    glued = [p for p in call(server, "GET", f"/batches/{batch}/glue")["pieces"] if p["glueup"]]
    assert {p["wanted_by"] for p in glued} == {"tape"}
    for n, row in enumerate(call(server, "GET", f"/batches/{batch}/break")["rows"]):
        body = {"code": row["code"], "kind": "exact", "low": f"{300 + 7 * n} N", "failure_mode": "in-glue",
                "confirmed": ["early", "late", "no-rig"]}  # fmt: skip
        call(server, "POST", f"/batches/{batch}/observations", body)
    page.goto(f"{server.url}/batch/{batch}/compare")
    expect(page.get_by_label("Panels", exact=True)).to_be_checked()
    expect(page.get_by_text("2 panels, 6 sections").first).to_be_visible()
    page.get_by_label("Sections", exact=True).check()
    expect(page.get_by_label("Panels", exact=True)).not_to_be_checked()


def test_blocks_of_many_glues_on_backing_boards(page: Page, server: Server) -> None:
    """The thirty-two glues again, one block of each on every board: planned with no more than forty actions."""
    batch, hands = begin(page, server, "On boards", "Which of 32 glues holds, dry and outdoors?")
    hands.paste("glue", [f"White {n}: Indoor PVA" for n in range(1, 33)])
    hands.choose("Another factor", "Conditioning")
    hands.paste("conditioning", ["Dry, indoors", "3 weeks outdoors", "5 times frozen and thawed", "Soaked 24 h, wet"])
    hands.select("Policy", "as the label of its glue says")
    hands.fill("Pieces of each treatment", "10")
    hands.select("Made together", "as blocks side by side on a backing board")
    hands.fill("Solid pieces", "0")
    expect(page.get_by_text("40 backing boards")).to_be_visible()
    hands.saved()
    hands.press("Lock the plan and make 1280 codes")
    expect(page.get_by_text("1280 pieces have their codes")).to_be_visible()
    assert hands.actions <= 40
    parents = call(server, "GET", f"/batches/{batch}/cut")["parents"]
    assert len(parents) == 40
    assert all(len(p["pieces"]) == 32 and len(p["treatments"]) == 32 for p in parents)


def test_steps_and_judgements_are_asked_where_they_belong(page: Page, server: Server) -> None:
    batch, hands = begin(page, server, "Primed", "Does a primer help?")
    hands.choose("Factor", "Glue")
    hands.fill("Add a level of glue", "Casein", enter=True)
    page.get_by_text("Side questions, claims, protocol").click()
    hands.press("A step", exact=True)
    hands.fill("Step 1", "wipe with solvent")
    hands.fill("Wait after step 1", "5 min", enter=True)
    hands.press("Something else to judge")
    hands.fill("Property 1", "Visible line")
    hands.fill("Grades of property 1", "none, faint, clear")
    hands.saved()
    hands.press("Lock the plan and make")
    expect(page.get_by_text("pieces have their codes")).to_be_visible()
    page.goto(f"{server.url}/batch/{batch}/glue")
    page.get_by_role("button", name="wipe with solvent: done now").click()
    expect(page.get_by_label("Protocol", exact=True)).to_contain_text(re.compile(r"\d+ done"))
    codes = joints(server, batch)
    done = call(server, "GET", f"/batches/{batch}/protocol")["steps"][0]["done"]
    assert sorted(done) == sorted(codes)
    page.goto(f"{server.url}/batch/{batch}/cut")
    sheet = page.get_by_label("Visible line of", exact=False).first
    expect(sheet).to_be_visible()
    first = str(sheet.get_attribute("aria-label")).rsplit(" ", 1)[1]
    sheet.fill("faint")
    sheet.press("Enter")
    expect(page.get_by_text("Undo:", exact=False).first).to_be_visible()
    rows = call(server, "GET", f"/batches/{batch}/own")["sheets"][0]["rows"]
    assert next(r for r in rows if r["subject"] == first)["values"] == {"p1": "faint"}


def test_a_bench_sheet_is_typed_back_in_its_order(page: Page, server: Server) -> None:
    batch = locked(server, "By sheet")
    page.goto(f"{server.url}/batch/{batch}/bench-sheet")
    rows = call(server, "GET", f"/batches/{batch}/bench-sheet")["rows"]
    day = (datetime.now(UTC) - timedelta(days=1)).strftime("%Y-%m-%d")
    page.get_by_label("Day").fill(day)
    labels = page.get_by_role("region", name="Joints to glue").get_by_role("textbox")
    closed = [labels.nth(i) for i in range(labels.count())
              if str(labels.nth(i).get_attribute("aria-label")).lower().startswith("closed")]  # fmt: skip
    assert len(closed) == len(rows)
    closed[0].fill("17:42")
    closed[1].fill("25:00")
    page.get_by_role("button", name="Write down what was glued").click()
    expect(closed[1]).to_have_attribute("aria-invalid", "true")
    assert call(server, "GET", f"/batches/{batch}/glue")["glueups"] == []
    closed[1].fill("17:46")
    page.get_by_role("button", name="Write down what was glued").click()
    expect(page.get_by_label(f"closed at {rows[0]['code']}")).to_have_count(0)
    glued = {p["code"] for p in call(server, "GET", f"/batches/{batch}/glue")["pieces"] if p["glueup"]}
    assert glued == {rows[0]["code"], rows[1]["code"]}


def test_a_further_crossing_has_its_own_answer(page: Page, server: Server) -> None:
    batch, hands = begin(page, server, "Two crossings", "Which glue?")
    hands.choose("Factor", "Glue")
    hands.fill("Add a level of glue", "Foaming polyurethane", enter=True)
    hands.press("A further crossing")
    hands.fill("Question of the crossing", "does longer help the weak ones?")
    hands.choose("Field 1 of the crossing", "Glue")
    hands.fill("Levels 1 of the crossing", "casein, hide-hot")
    hands.choose("Field 2 of the crossing", "Clamp time")
    hands.fill("Levels 2 of the crossing", "30 min, soon")
    hands.press("Cross them")
    expect(page.get_by_role("alert").first).to_contain_text("soon")
    hands.fill("Levels 2 of the crossing", "30 min, 2 h")
    hands.press("Cross them")
    expect(page.get_by_text("4 treatments added")).to_be_visible()
    hands.saved()
    hands.press("Lock the plan and make")
    expect(page.get_by_text("pieces have their codes")).to_be_visible()
    asked = plan(server, batch)["document"]["side_questions"][0]
    assert len(asked["treatments"]) == 4
    assert asked["against"] == asked["treatments"][0]


def test_a_store_says_what_is_due_and_what_is_left(page: Page, server: Server) -> None:
    levels = call(server, "POST", "/batches/levels", {"field": "cure_s", "text": "1 h, half-yearly for 1 year",
                                                     "unit": "h", "method": "shear-block"})["levels"]  # fmt: skip
    assert [x["unit"] for x in levels] == ["h", "mo", "mo"]
    batch = int(call(server, "POST", "/batches", {"name": "In store"})["id"])
    now = plan(server, batch)
    held = {k: v for k, v in now["document"]["constants"].items() if k != "cure_s"}
    held["glue"] = {"value": "pva-damp", "unit": ""}
    held["clamp_s"] = {"value": 1800.0, "unit": "min"}
    document = {
        **now["document"], "question": "Does it last?", "constants": held,
        "factors": [{"key": "cure_s", "name": "Age", "levels": levels}], "control": {}, "replicates": 2,
        "solid_reference": 0,
    }  # fmt: skip
    call(server, "PUT", f"/batches/{batch}/plan", {"version": now["version"], "name": "In store", "document": document})
    call(server, "POST", f"/batches/{batch}/lock", {"version": plan(server, batch)["version"]})
    begun = (datetime.now(UTC) - timedelta(hours=1, minutes=1)).isoformat()
    codes = joints(server, batch)
    call(server, "POST", f"/batches/{batch}/glueups", {"codes": codes, "started_at": begun, "force_n": 400.0,
                                                      "force_known": "measured", "bottle": ""})  # fmt: skip
    page.goto(f"{server.url}/batch/{batch}/break")
    store = page.get_by_test_id("withdrawals")
    expect(page.get_by_text("6 pieces in store; 3 dates to come; 1 h due now")).to_be_visible()
    expect(store.get_by_role("row")).to_have_count(4)
    page.get_by_role("button", name="Fresh reference beside 6 mo").click()
    expect(store.get_by_text("fresh one made")).to_be_visible()
    assert len(joints(server, batch)) == 8


def test_a_photo_is_taken_at_the_rig_and_taken_away(page: Page, server: Server, tmp_path: Path) -> None:
    batch = locked(server, "Photos")
    (tmp_path / "knot.png").write_bytes(PIXEL)
    (tmp_path / "notes.txt").write_text("no picture")
    page.goto(f"{server.url}/batch/{batch}/break")
    page.get_by_label("offer pieces that are not due").check()
    code = call(server, "GET", f"/batches/{batch}/break?early=true")["next"]
    page.get_by_label(f"What the next photo of {code} shows").fill("knot at the line")
    page.get_by_label(f"Photo of {code}", exact=True).set_input_files(tmp_path / "notes.txt")
    expect(page.get_by_role("alert").first).to_contain_text("JPEG, PNG or WebP")
    page.get_by_label(f"Photo of {code}", exact=True).set_input_files(tmp_path / "knot.png")
    page.get_by_role("button", name="knot at the line").click()
    with page.expect_response(lambda r: r.url.endswith("/away")):
        page.get_by_role("button", name="take it away").click()
    expect(page.get_by_role("button", name="knot at the line")).to_have_count(0)
    assert call(server, "GET", f"/photos?kind=piece&name={code}") == []


def test_clamps_that_come_off_ring_on_every_screen(page: Page, server: Server) -> None:
    constants = call(server, "GET", f"/batches/{locked(server, 'Before')}/plan")["document"]["constants"]
    batch = locked(server, "Rings", constants={**constants, "clamp_s": {"value": 1800.0, "unit": "min"}})
    codes = joints(server, batch)
    begun = (datetime.now(UTC) - timedelta(minutes=30) + timedelta(seconds=8)).isoformat()
    call(server, "POST", f"/batches/{batch}/glueups", {"codes": codes, "started_at": begun, "force_n": 400.0,
                                                      "force_known": "measured", "bottle": ""})  # fmt: skip
    page.goto(f"{server.url}/shop")
    bar = page.get_by_role("alert").filter(has_text="out of its clamps")
    expect(bar).to_be_visible()
    expect(bar).to_contain_text(codes[0])
    expect(bar).to_contain_text("Rings")
    bar.get_by_role("button", name="no", exact=True).click()
    expect(bar).not_to_contain_text("Ring at such times?")
    bar.get_by_role("button", name="Heard").click()
    expect(bar).to_have_count(0)
