"""What changes after the lock, in the browser: a spare, a trial, an amended plan, a fault, a swap, a claim's end."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import call, quiet_server
from tests.e2e.server import Server
from tests.e2e.test_planner import begin, lock

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """One workshop for all of these tests."""
    yield from quiet_server(tmp_path_factory.mktemp("amended"))


def test_a_spare_stands_in_for_a_twisted_piece(page: Page, server: Server) -> None:
    batch = begin(page, server, "Spares", "Which glue?")
    page.get_by_label("Spares of each").fill("1")
    page.get_by_label("Dummies").fill("1")
    lock(page, 33)
    rows = call(server, "GET", f"/batches/{batch}/break")["rows"]
    # Of the first treatment: the sheet draws only the rows in sight.
    twisted = next(r["code"] for r in rows if r["treatment"] == "A")
    void = {"code": twisted, "kind": "void", "reason": "twisted"}
    call(server, "POST", f"/batches/{batch}/observations", void)
    page.get_by_role("link", name="Cut", exact=False).first.click()
    page.get_by_role("button", name="Take a spare").click()
    expect(page.get_by_text(f", for {twisted}")).to_be_visible()
    expect(page.get_by_role("button", name="Take a spare")).to_have_count(0)
    expect(page.get_by_role("cell", name="Dummy")).to_have_count(1)
    page.get_by_role("link", name="Compare").click()
    expect(page.get_by_text(f"{twisted} was put aside (twisted); the spare")).to_be_visible()


def test_a_face_a_fault_and_two_halves(page: Page, server: Server) -> None:
    batch = begin(page, server, "Faces", "Which glue?")
    lock(page, 28)
    rows = [r for r in call(server, "GET", f"/batches/{batch}/cut")["rows"] if r["role"] == "joint"]
    one, two = rows[0]["code"], rows[1]["code"]
    page.goto(f"{server.url}/batch/{batch}/cut")
    # What stands above the table comes last, and moves it.
    expect(page.get_by_role("link", name="Add boards")).to_be_visible()
    expect(page.get_by_text("At the saw:")).to_be_visible()
    page.get_by_role("button", name=f"{one} in full").click()
    piece = page.get_by_role("region", name=f"Piece {one}")
    piece.get_by_label("The fault", exact=True).fill("knot, 6 mm from the line")
    piece.get_by_role("button", name="Note it").click()
    expect(piece.get_by_text("found before the test")).to_be_visible()
    piece.get_by_text("Write down what was done").click()
    piece.get_by_label("Step 1", exact=True).fill("sanded")
    piece.get_by_label("Grit of step 1").fill("120")
    piece.get_by_label("For which pieces").select_option("all")
    piece.get_by_role("button", name="Write it down").click()
    expect(piece.get_by_text("Written for 24.")).to_be_visible()
    expect(piece.get_by_text("sanded, grit 120").first).to_be_visible()

    page.goto(f"{server.url}/batch/{batch}/glue")
    page.get_by_text("Check that two halves belong together").click()
    page.get_by_label("First half").fill(f"{one}-a")
    page.get_by_label("Second half").fill(f"{two}-b")
    page.get_by_role("button", name="Check", exact=True).click()
    expect(page.get_by_text("belong to two pieces")).to_be_visible()
    page.get_by_role("button", name="write the swap down").click()
    expect(page.get_by_text("belong to two pieces")).to_have_count(0)
    swapped = call(server, "GET", f"/batches/{batch}/pieces/{one}")["swapped"]
    assert swapped == f"{one}-a faces {two}-b"


def test_an_amended_constant_a_trial_and_a_claim(page: Page, server: Server) -> None:
    batch = begin(page, server, "Amended", "Which glue?")
    page.get_by_text("Side questions, claims, protocol").click()
    page.get_by_role("button", name="A claim to test").click()
    page.get_by_label("A claim to test 1").fill("Any glue beats the wood")
    expect(page.get_by_text("Saved as a draft")).to_be_visible()
    lock(page, 28)
    page.get_by_text("Amend the plan").click()
    page.get_by_label("Reason of the amendment").fill("the clamps are too weak")
    page.get_by_label("New value of the constant").fill("0.5 MPa")
    page.get_by_label("New value of the constant").press("Tab")
    page.get_by_role("button", name="change it").click()
    expect(page.get_by_text("Changed clamp pressure to 0.5 MPa, because the clamps are too weak")).to_be_visible()
    wanted = {p["wanted_mpa"] for p in call(server, "GET", f"/batches/{batch}/glue")["pieces"]}
    assert wanted == {0.5}

    first = call(server, "GET", f"/batches/{batch}/break")["next"]
    seen = {"code": first, "kind": "exact", "low": "5000 N", "failure_mode": "mixed", "confirmed": ["early"]}
    call(server, "POST", f"/batches/{batch}/observations", seen)
    page.get_by_role("link", name="Break").click()
    page.get_by_role("button", name=f"Correct {first}").click()
    page.get_by_label("Reason of the trial").fill("learning to seat it")
    page.get_by_role("button", name="Take it out of the results").click()
    expect(page.get_by_text(", trial")).to_be_visible()

    page.get_by_role("link", name="Compare").click()
    expect(page.get_by_text(f"Trials, on record but outside of all figures: {first}.")).to_be_visible()
    end = page.get_by_label("How it ended: Any glue beats the wood")
    end.select_option("not tested")
    expect(end).to_have_value("not tested")
    assert call(server, "GET", f"/batches/{batch}/compare")["claims"][0]["state"] == "not tested"


def test_a_template_and_what_differs_from_another_plan(page: Page, server: Server) -> None:
    begin(page, server, "The pattern", "How hard to clamp?")
    page.get_by_role("button", name="Keep as a template").click()
    expect(page.get_by_text("Kept: the next draft can start from it.")).to_be_visible()
    begin(page, server, "From the pattern")
    page.get_by_role("button", name="The pattern").click()
    expect(page.get_by_text("Start from another question")).to_be_visible()
    page.get_by_label("Plan to hold against").select_option(label="The pattern")
    expect(page.get_by_text("The two plans are the same in everything.")).to_be_visible()
    page.get_by_label("Pieces of each treatment").fill("9")
    expect(page.get_by_text("Saved as a draft")).to_be_visible()
    page.reload()
    page.get_by_label("Plan to hold against").select_option(label="The pattern")
    expect(page.get_by_role("row", name="Pieces of each 9 6")).to_be_visible()


def test_joints_are_pried_open_without_a_rig(page: Page, server: Server) -> None:
    batch = begin(page, server, "Pried", "Which glue?")
    method = page.get_by_label("Test method")
    method.click()
    method.fill("Pried")
    page.get_by_role("option", name="Pried open by hand").click()
    lock(page, 24)
    page.goto(f"{server.url}/batch/{batch}/break")
    expect(page.get_by_role("button", name="Begin to pull")).to_have_count(0)
    page.get_by_role("button", name="Offer them before they are due").click()
    for left in range(24, 22, -1):
        expect(page.get_by_text(f"{left} to go")).to_be_visible()
        page.keyboard.press("3")
        page.keyboard.press("Enter")
        # Nothing is glued: it asks, and takes it for an answer.
        expect(page.get_by_role("button", name="Save it all the same")).to_be_focused()
        page.keyboard.press("Enter")
    expect(page.get_by_text("22 to go")).to_be_visible()
    kinds = [r["kind"] for r in call(server, "GET", f"/batches/{batch}/break")["rows"] if r["kind"]]
    assert kinds == ["seen", "seen"]


def test_a_word_on_record_leads_to_its_piece(page: Page, server: Server) -> None:
    batch = begin(page, server, "On record", "Which glue?")
    lock(page, 28)
    codes = [r["code"] for r in call(server, "GET", f"/batches/{batch}/break")["rows"] if r["role"] == "joint"]
    call(server, "POST", f"/batches/{batch}/glueups", {"codes": codes[:1], "force_n": 400, "note": "window was open"})
    page.goto(server.url)
    find = page.get_by_label("Find on record")
    find.fill("window open")
    find.press("Enter")
    page.get_by_role("link", name=codes[0]).click()
    expect(page.get_by_role("region", name=f"Piece {codes[0]}")).to_be_visible()
    find.fill("nowhere to be found")
    find.press("Enter")
    expect(page.get_by_text("Nothing on record has these words")).to_be_visible()
