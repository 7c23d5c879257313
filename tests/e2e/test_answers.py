"""The answer first, in a real browser: what is compared is chosen in the plan; ways of looking stay in the link."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import call
from tests.e2e.server import Server

pytestmark = pytest.mark.browser
LOADS = {"Ash": 4000, "Oak": 3000}


def grid(server: Server, name: str) -> int:
    """Two preps in two woods, as a draft."""
    batch = int(call(server, "POST", "/batches", {"name": name})["id"])
    plan = call(server, "GET", f"/batches/{batch}/plan")
    document: dict[str, Any] = plan["document"]
    held = {k: v for k, v in document["constants"].items() if k not in ("prep", "species")}
    factors = [
        {"key": key, "name": title, "levels": [{"value": v, "unit": "", "id": f"l{i}"} for i, v in enumerate(own, 1)]}
        for key, title, own in (("prep", "Surface prep", ("planed", "sawn")), ("species", "Species", ("ash", "oak")))
    ]
    glue = {"value": "pva-damp", "unit": ""}
    new = {**document, "question": name, "factors": factors, "control": {"prep": "l1"}, "replicates": 4,
           "solid_reference": 0, "constants": {**held, "glue": glue}}  # fmt: skip
    call(server, "PUT", f"/batches/{batch}/plan", {"version": plan["version"], "name": name, "document": new})
    return batch


def broken(server: Server, batch: int) -> None:
    """Sawn holds half; every other oak piece breaks in its wood."""
    label = {t["letter"]: t["label"] for t in call(server, "GET", f"/batches/{batch}/compare")["treatments"]}
    for n, r in enumerate(call(server, "GET", f"/batches/{batch}/break")["rows"]):
        prep, wood = label[r["treatment"]].split(" · ")
        load = LOADS[wood] * (0.5 if prep == "Sawn" else 1) + 30 * (n % 5)
        mode = "wood-deep" if wood == "Oak" and n % 2 else "in-glue"
        body = {"code": r["code"], "kind": "exact", "low": f"{load} N", "failure_mode": mode,
                "confirmed": ["early", "no-rig"]}  # fmt: skip
        call(server, "POST", f"/batches/{batch}/observations", body)


def test_from_what_is_compared_to_the_answer_and_its_link(page: Page, server: Server) -> None:
    batch = grid(server, "What does sawing cost?")
    page.goto(f"{server.url}/batch/{batch}/plan")
    chosen = page.get_by_role("region", name="What is compared")
    expect(chosen).to_contain_text("Compare Sawn with Fresh planed within each species")
    woods = chosen.get_by_label("Compare all levels of species with each other within each surface prep")
    woods.uncheck()
    expect(chosen.get_by_text("every pair")).to_have_count(1)
    chosen.get_by_label("Compare also").select_option(label="D Sawn · Oak")
    chosen.get_by_label("Compare it with").select_option(label="A Fresh planed · Ash")
    chosen.get_by_role("button", name="Add it").click()
    expect(chosen).to_contain_text("Compare Sawn · Oak with Fresh planed · Ash")
    page.get_by_role("button", name="Lock the plan and make 16 codes").click()
    expect(page.get_by_text("pieces have their codes")).to_be_visible()
    broken(server, batch)

    page.goto(f"{server.url}/batch/{batch}/compare")
    expect(page.get_by_test_id("headline")).to_contain_text("is weaker than Fresh planed")
    expect(page.get_by_role("region", name="Answer 1 in figures").get_by_role("row")).to_have_count(3)
    table = page.get_by_test_id("factor-table")
    expect(table.get_by_role("row")).to_have_count(3)
    expect(table).to_contain_text("n 4")
    page.get_by_text("The planned comparisons").click()
    sawn = page.get_by_role("region", name="Compare Sawn with Fresh planed within each species, in figures")
    expect(sawn.get_by_role("row")).to_have_count(3)
    page.get_by_label("Comparisons that name").fill("oak")
    expect(page).to_have_url(re.compile("compared=oak"))
    expect(sawn.get_by_role("row")).to_have_count(2)

    page.get_by_label("The bond: wood failures are at least").check()
    expect(page.get_by_text("Not as planned.")).to_be_visible()
    page.get_by_label("Ranked").check()
    expect(page.get_by_test_id("ranked")).to_contain_text("median")
    link = page.url
    assert "target=adhesive" in link
    assert "picture=ranked" in link
    page.goto(server.url)
    page.goto(link)
    expect(page.get_by_label("The bond: wood failures are at least")).to_be_checked()
    expect(page.get_by_test_id("ranked")).to_contain_text("median")
    page.get_by_role("button", name="As the plan has it").click()
    expect(page.get_by_label("The joint, as it broke")).to_be_checked()
    assert "target" not in page.url
    page.get_by_text("By every school of averaging").click()
    expect(page.get_by_test_id("schools").get_by_role("row")).to_have_count(5)
