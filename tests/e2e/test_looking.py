"""Looking closer at a comparison in a real browser: a piece in full, doubts, pictures, rules, schools and weights."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import call
from tests.e2e.server import Server
from tests.e2e.test_answers import broken, grid

pytestmark = pytest.mark.browser


def broken_grid(page: Page, server: Server, name: str) -> int:
    """Two preps in two woods, locked and broken."""
    batch = grid(server, name)
    version = call(server, "GET", f"/batches/{batch}/plan")["version"]
    call(server, "POST", f"/batches/{batch}/lock", {"version": version})
    broken(server, batch)
    page.goto(f"{server.url}/batch/{batch}/compare")
    expect(page.get_by_test_id("headline")).to_contain_text("is weaker than Fresh planed")
    return batch


def test_a_piece_opens_in_full_and_is_doubted_by_key(page: Page, server: Server) -> None:
    batch = broken_grid(page, server, "A piece in full")
    page.get_by_text("Piece by piece, in MPa").click()
    code = call(server, "GET", f"/batches/{batch}/break")["rows"][0]["code"]
    page.get_by_role("button", name=re.compile(f"^{code}")).focus()
    page.keyboard.press("Enter")
    piece = page.get_by_role("dialog")
    expect(piece).to_contain_text("It counts as")
    expect(piece).to_contain_text("Figure of merit")
    assert f"piece={code}" in page.url
    piece.get_by_label("why").fill("the fixture tipped")
    if piece.get_by_label("who", exact=True).count():
        piece.get_by_label("who", exact=True).fill("Ada")
    piece.get_by_role("button", name="Mark as doubtful").click()
    expect(piece).to_contain_text("Doubted by")
    page.keyboard.press("Escape")
    expect(piece).to_be_hidden()
    beside = page.get_by_role("region", name="With and without doubtful pieces")
    expect(beside).to_contain_text("1 doubtful piece")
    expect(beside.get_by_role("definition")).to_have_count(2)
    page.get_by_label("marked as doubtful").uncheck()
    expect(page.get_by_text("Not as planned.")).to_be_visible()
    assert "without=doubtful" in page.url


def test_the_picture_fits_the_question_and_stays_in_the_link(page: Page, server: Server) -> None:
    broken_grid(page, server, "Pictures")
    for picture, seen in (("As lines", "Species; MPa"), ("How it gave way", "In the glue"),
                          ("Every piece", "together by")):  # fmt: skip
        page.get_by_label(picture).check()
        expect(page.get_by_role("region", name="Verdict", exact=True)).to_contain_text(seen)
    page.get_by_label("Together by").select_option(label="Species")
    page.get_by_label("the highest first").check()
    expect(page.get_by_role("img", name=re.compile("Strength plot"))).to_contain_text("Oak")
    assert "grouped=species" in page.url
    page.get_by_label("School of averaging").select_option(label="lowest piece")
    expect(page.get_by_text("Not as planned.")).to_be_visible()
    expect(page.get_by_text("Bar: lowest piece")).to_be_visible()
    page.get_by_text("Bond and wood, each on its own").click()
    expect(page.get_by_test_id("bonds").get_by_role("row")).to_have_count(5)
    page.get_by_text("Places by").click()
    expect(page.get_by_test_id("ranks").get_by_role("row")).to_have_count(3)
    figure = page.get_by_test_id("treatments").get_by_role("button", name=re.compile("^.*how the interval")).first
    figure.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("degrees of freedom at 95 %")).to_be_visible()


def test_what_is_kept_stands_under_what_it_went_through(page: Page, server: Server) -> None:
    """Two soaks and two preps: PVA's joints keep half of their strength wet, all of it dried again."""
    batch = grid(server, "What is kept")
    plan = call(server, "GET", f"/batches/{batch}/plan")
    ways = {"dry": 1.0, "soak-24h": 0.5, "soak-24h-dried": 1.0}
    levels = [{"value": v, "unit": "", "id": f"l{i}"} for i, v in enumerate(ways, 1)]
    factors = [plan["document"]["factors"][0], {"key": "conditioning", "name": "Conditioning", "levels": levels}]
    held = {k: v for k, v in plan["document"]["constants"].items() if k != "conditioning"}
    new = {**plan["document"], "factors": factors, "control": {"prep": "l1", "conditioning": "l1"},
           "constants": {**held, "species": {"value": "ash", "unit": ""}}}  # fmt: skip
    body = {"version": plan["version"], "name": "What is kept", "document": new}
    version = call(server, "PUT", f"/batches/{batch}/plan", body)["version"]
    call(server, "POST", f"/batches/{batch}/lock", {"version": version})
    kept = dict(zip("ABCDEF", [*ways.values()] * 2, strict=True))
    for n, r in enumerate(call(server, "GET", f"/batches/{batch}/break")["rows"]):
        seen = {"code": r["code"], "kind": "exact", "low": f"{4000 * kept[r['treatment']] + 40 * (n % 5)} N",
                "failure_mode": "in-glue", "confirmed": ["early", "no-rig"]}  # fmt: skip
        call(server, "POST", f"/batches/{batch}/observations", seen)
    page.goto(f"{server.url}/batch/{batch}/compare")
    page.get_by_role("radio", name="What is kept").check()
    own = "all => all.map(e => [...e.childNodes].filter(n => n.nodeType === 3).map(n => n.data).join(''))"
    said = page.get_by_role("img", name="What is kept, in percent").locator("text").evaluate_all(own)
    rows = [text for text in said if not text.endswith("%")]
    each = ["Fresh planed", "Sawn"]
    assert rows == ["Soaked 24 h, wet", *each, "Soaked 24 h, dried again", *each]
    shares = [int(text.removesuffix(" %")) for text in said if text.endswith(" %")][-4:]
    assert all(abs(s - 50) < 4 for s in shares[:2])
    assert all(abs(s - 100) < 4 for s in shares[2:])


def test_what_is_good_enough_is_stated_and_changed_with_a_reason(page: Page, server: Server) -> None:
    batch = grid(server, "Good enough?")
    page.goto(f"{server.url}/batch/{batch}/plan")
    page.get_by_role("heading", name="What counts as good enough").click()
    page.get_by_label("Least a piece must reach").fill("5 MPa")
    page.get_by_label("Least a piece must reach").press("Tab")
    page.get_by_role("button", name="A line in the picture").click()
    page.get_by_label("Name of limit 1").fill("promised")
    page.get_by_label("Limit 1", exact=True).fill("6 MPa")
    page.get_by_label("Limit 1", exact=True).press("Tab")
    page.get_by_role("button", name="Lock the plan and make 16 codes").click()
    expect(page.get_by_text("pieces have their codes")).to_be_visible()
    broken(server, batch)
    page.goto(f"{server.url}/batch/{batch}/compare")
    rule = page.get_by_role("region", name="Good enough, in figures")
    expect(rule.get_by_role("row").nth(1)).to_contain_text("100 %")
    expect(page.get_by_role("region", name="Limit promised, in figures")).to_be_visible()
    expect(page.get_by_role("img", name=re.compile("Strength plot|Table"))).to_have_count(0)
    page.get_by_label("Every piece").check()
    expect(page.get_by_role("img", name=re.compile("Strength plot"))).to_contain_text("promised")
    page.goto(f"{server.url}/batch/{batch}/plan")
    page.get_by_label("Least wood failure in percent").fill("50")
    page.get_by_label("Least wood failure in percent").press("Tab")
    page.get_by_label("Reason for judging otherwise").fill("the customer asks for wood")
    page.get_by_role("button", name="Judge by this from now on").click()
    expect(page.get_by_text("because the customer asks for wood")).to_be_visible()
    page.goto(f"{server.url}/batch/{batch}/compare")
    expect(page.get_by_text("Good enough: at least 5 MPa, at least 50 % wood failure")).to_be_visible()


def test_what_else_counts_is_weighed_and_narrowed_by_choice(page: Page, server: Server) -> None:
    batch = grid(server, "What else counts?")
    plan = call(server, "GET", f"/batches/{batch}/plan")
    foam = {"name": "Foam", "of": "joint", "when": "before", "unit": "mm", "grades": [], "id": ""}
    document = {**plan["document"], "properties": [foam]}
    saved = call(server, "PUT", f"/batches/{batch}/plan",
                 {"version": plan["version"], "name": "What else counts?", "document": document})  # fmt: skip
    call(server, "POST", f"/batches/{batch}/lock", {"version": saved["version"]})
    broken(server, batch)
    rows = call(server, "GET", f"/batches/{batch}/break")["rows"]
    cells = [{"prop": "p1", "subject": r["code"], "text": str(1 + n % 4 + ord(r["treatment"]) % 2)}
             for n, r in enumerate(rows)]  # fmt: skip
    call(server, "POST", f"/batches/{batch}/own", {"cells": cells})
    page.goto(f"{server.url}/batch/{batch}/compare")
    page.get_by_label("Against something else").check()
    page.get_by_label("Quantity beside strength").select_option(label="Foam, mm")
    expect(page.get_by_role("img", name="Shear strength against Foam")).to_be_visible()
    page.get_by_text("Weighed with what else counts").click()
    table = page.get_by_test_id("weighed")
    first = table.get_by_role("row").nth(1).get_by_role("rowheader")
    expect(first).to_have_text("Fresh planed · Ash")
    # Strength alone orders them until weights say otherwise; then it is the least foam.
    table.get_by_label("Weight of Shear strength").fill("0")
    table.get_by_label("Less Foam, mm is better").check()
    expect(table.get_by_role("row").nth(1)).to_contain_text("1.00")
    assert "weight=p1" in page.url
    page.get_by_label("Only pieces by").select_option(label="Foam, mm")
    page.get_by_label("Most Foam, mm").fill("3")
    page.get_by_label("Most Foam, mm").press("Tab")
    expect(page.get_by_text("Not as planned.")).to_be_visible()
    assert "only=p1" in page.url
    page.get_by_role("button", name="all again").click()
    expect(page.get_by_text("Not as planned.")).to_be_hidden()


def test_a_conclusion_is_held_against_the_figures_and_a_weak_point_commented_on(page: Page, server: Server) -> None:
    broken_grid(page, server, "Concluded")
    page.get_by_text("What you conclude").click()
    about = page.get_by_label("What the conclusion is about")
    about.select_option(index=1)
    page.get_by_label("What it says").select_option("has no piece that differs in how it gave way")
    page.get_by_label("In your own words").fill("all let go alike")
    page.get_by_role("button", name="Hold it against the figures").click()
    expect(page.get_by_text("borne out")).to_be_visible()
    first = about.locator("option").nth(1).inner_text()
    about.select_option(index=1)
    page.get_by_label("What it says").select_option("nearly equals")
    page.get_by_label("Set against").select_option(index=2)
    page.get_by_role("button", name="Hold it against the figures").click()
    stands = page.get_by_role("listitem").filter(has_text=f"{first} nearly equals")
    expect(stands).to_be_visible()
    stands.get_by_role("button", name="take back").click()
    expect(stands).to_have_count(0)
    page.get_by_label("Sentence to comment on").select_option(index=1)
    page.get_by_label("Your comment").fill("known, and alike for all")
    page.get_by_role("button", name="Comment", exact=True).click()
    grounds = page.get_by_role("region", name="Grounds of the answer")
    expect(grounds).to_contain_text("known, and alike for all")
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.get_by_role("button", name="Copy with what it holds for").first.click()
    expect(page.get_by_text("copied, with what it holds for")).to_be_visible()
    assert "Holds for: " in page.evaluate("navigator.clipboard.readText()")
