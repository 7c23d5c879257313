"""What is settled beforehand and said at the end, in the browser: own woods, claims in figures, cautions, bottles."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import call, quiet_server
from tests.e2e.server import Server
from tests.e2e.test_planner import begin, document, lock
from tests.rig.harness import wait_for

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """One workshop for all of these tests."""
    yield from quiet_server(tmp_path_factory.mktemp("settled"))


def test_an_unlisted_wood_is_forecast_once_its_figures_are_there(page: Page, server: Server) -> None:
    batch = begin(page, server, "Alder", "Which glue?")
    species = page.get_by_label("Species", exact=True)
    species.fill("alder")
    species.press("Enter")
    expect(page.get_by_text("Alder is no wood of the list")).to_be_visible()
    expect(page.get_by_role("img", name="Expected loads")).to_have_count(0)
    for label, text in (("alder in shear along its grain", "8 MPa"), ("alder in bending", "70 MPa")):
        field = page.get_by_label(label)
        field.fill(text)
        field.press("Enter")
    expect(page.get_by_role("img", name="Expected loads")).to_be_visible()
    expect(page.get_by_text("Alder is no wood of the list")).to_be_hidden()
    assert document(server, batch)["woods"]["alder"]["bending_mpa"] == 70


def test_a_claim_in_figures_goes_from_the_plan_to_its_end(page: Page, server: Server) -> None:
    batch = begin(page, server, "Claims", "Which glue?")
    page.get_by_text("Side questions, claims, protocol").click()
    page.get_by_role("button", name="A claim to test").click()
    page.get_by_label("A claim to test 1").fill("The first is stronger")
    page.get_by_role("group", name="Treatments that answer it").get_by_role("checkbox").first.check()
    page.get_by_label("In figures: The first is stronger").select_option("stronger")
    page.get_by_label("Against: The first is stronger").select_option(index=1)
    wait_for(lambda: any(c["against"] for c in document(server, batch)["claims"]), "the other side of the claim")
    lock(page, 28)
    rows = call(server, "GET", f"/batches/{batch}/break")["rows"]
    for i, r in enumerate(rows):
        load = (9000 if r["treatment"] == "A" else 3000) + 20 * i
        reading = {"code": r["code"], "kind": "exact", "low": f"{load} N", "confirmed": ["early"]}
        call(server, "POST", f"/batches/{batch}/observations", {**reading, "failure_mode": "in-glue"})
    page.get_by_role("link", name="Compare").click()
    claims = page.get_by_role("region", name="Claims")
    expect(claims.get_by_text("By its figures: supported.")).to_be_visible()
    claims.get_by_label("How it ended: The first is stronger").select_option("not supported")
    expect(claims.get_by_text("This says not supported; its figures say supported.")).to_be_visible()


def test_cautions_of_high_risk_are_confirmed_and_stay_so_over_a_reload(page: Page, server: Server) -> None:
    batch = begin(page, server, "Cautions", "Which glue?")
    lock(page, 28)
    page.goto(f"{server.url}/batch/{batch}/break")
    cautions = page.get_by_role("complementary", name="Cautions")
    expect(cautions.get_by_text("Hung weights and filled vessels")).to_be_visible()
    confirm = cautions.get_by_role("button", name="Read, and kept to today")
    confirm.click()
    expect(confirm).to_have_count(0)
    page.reload()
    expect(cautions.get_by_text("Hung weights and filled vessels")).to_be_visible()
    expect(confirm).to_have_count(0)
    page.goto(f"{server.url}/batch/{batch}/cut")
    expect(confirm).to_be_visible()


def test_a_bottle_says_what_is_left_of_it(page: Page, server: Server) -> None:
    page.goto(f"{server.url}/shop")
    page.get_by_label("Label of the bottle").fill("Blue jug")
    page.get_by_label("Glue family").fill("Damp-proof PVA")
    page.get_by_role("option", name="Damp-proof PVA").click()
    page.get_by_label("Glue in a pack").fill("500 g")
    page.get_by_label("Price of a pack").fill("12")
    page.get_by_role("button", name="Add the bottle").click()
    bottle = page.get_by_role("listitem").filter(has_text="Blue jug")
    expect(bottle.get_by_text("500 g left")).to_be_visible()
    bottle.get_by_text("what it went through").click()
    bottle.get_by_label("What happened to Blue jug").select_option("holds")
    bottle.get_by_label("How Blue jug was").fill("180 g")
    bottle.get_by_role("button", name="Write it down").click()
    expect(bottle.get_by_text("180 g left")).to_be_visible()


def test_an_empty_count_waits_and_comes_back(page: Page, server: Server) -> None:
    """A count that was cleared is no zero: the plan keeps the last number until another one stands there."""
    batch = begin(page, server, "Counts", "Which glue?")
    count = page.get_by_label("Pieces of each treatment")
    count.fill("8")
    wait_for(lambda: document(server, batch)["replicates"] == 8, "eight of each")
    count.fill("")
    count.blur()
    expect(count).to_have_value("8")
    assert document(server, batch)["replicates"] == 8
