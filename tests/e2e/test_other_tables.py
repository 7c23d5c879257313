"""A table from elsewhere, pasted in the browser, read, mended and taken in."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.api.test_foreign_table import asked
from tests.e2e.conftest import call, quiet_server
from tests.e2e.server import Server

pytestmark = pytest.mark.browser

BY_API = asked()
TABLE = "Glue\t1\t2\t3\t4\nHide\t410\t395\t402\tF\nFish\t510\t>495\tabc\t515\nSolid ash\t900\t910\t920\t905\n"


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    yield from quiet_server(tmp_path_factory.mktemp("tables"))


def test_a_table_of_another_shop_is_pasted_seen_and_taken_in(server: Server, page: Page) -> None:
    page.goto(server.url)
    page.get_by_role("link", name="Take in a table of another shop").click()
    expect(page.get_by_text("Nothing is pasted yet.")).to_be_visible()
    page.get_by_label("The table", exact=True).fill(TABLE)
    page.get_by_label("Name of the batch").fill("Glues of the neighbour")
    page.get_by_label("Method", exact=True).fill("Lap shear in tension, single")
    page.get_by_role("option", name="Lap shear in tension, single").click()
    page.get_by_label("Unit of the readings").select_option("kgf")
    seen = page.get_by_role("region", name="values")
    expect(seen.get_by_role("heading")).to_have_text(
        "9 values, 1 apart, 1 at least, 1 refused, 0 empty; the other 11 can be taken in."
    )
    expect(seen.get_by_text("Row 3, column 4")).to_be_visible()
    expect(seen.get_by_role("alert")).to_contain_text("Clamp time is not stated for all pieces")
    take = seen.get_by_role("button", name="Take in the other 11")
    expect(take).to_be_disabled()
    for what, typed in (("Clamp time", "6 h"), ("Cure time", "4 d")):
        page.get_by_label(what).fill(typed)
        page.get_by_label(what).press("Tab")
    seen.get_by_label("What Solid ash is").select_option("solid wood")
    seen.get_by_label("What Hide is").select_option("the control")
    page.get_by_label("The table", exact=True).fill(TABLE.replace("abc", "505"))
    take = seen.get_by_role("button", name="Take in 12 pieces")
    take.click()
    expect(page.get_by_role("heading", name="Glues of the neighbour")).to_be_visible()
    expect(page.get_by_text("From a table of another shop: Glues of the neighbour")).to_be_visible()
    expect(page.get_by_text("Fish").first).to_be_visible()


def test_a_treatment_of_another_study_is_drawn_dashed_and_compared_once_agreed(server: Server, page: Page) -> None:
    for name, text in (
        ("Our own", "Glue\t1\t2\t3\t4\nHide\t800\t840\t760\t820\nFish\t1000\t1050\t950\t1020\n"),
        ("There", "Glue\t1\t2\t3\t4\nBone\t600\t630\t580\t610\nFish\t1200\t1250\t1140\t1230\n"),
    ):
        call(server, "POST", "/batches/import-table", {**BY_API, "name": name, "text": text})
    page.goto(server.url)
    page.get_by_role("link", name="Our own").click()
    headline = page.get_by_test_id("headline").inner_text()
    page.get_by_text("Beside another study").click()
    page.get_by_label("Study to bring in from").select_option("There")
    page.get_by_label("Bone").check()
    expect(page.get_by_text("From There")).to_be_visible()
    expect(page.get_by_text("Dashed bar: of another study")).to_be_visible()
    beside = page.get_by_role("region", name="Differences of Our own and There")
    expect(beside).to_be_visible()
    expect(page.get_by_text("Bone (There) is weaker")).to_have_count(0)
    page.get_by_label("I know of these differences").check()
    expect(page.get_by_text("Bone (There) is weaker than Hide by 25 %")).to_be_visible()
    page.get_by_label("What ties the studies").select_option("Fish, broken here and in There")
    tied = page.get_by_role("region", name="Each as a share of what both studies broke")
    # 605 of 1205 there, 805 of 1005 here.
    expect(tied).to_contain_text("Bone (There) is weaker than Hide by 37 %")
    expect(page.get_by_test_id("headline")).to_have_text(headline)
    page.reload()
    expect(tied).to_be_visible()


def test_a_row_a_piece_says_what_each_column_holds(server: Server, page: Page) -> None:
    page.goto(f"{server.url}/table")
    page.get_by_label("The table", exact=True).fill(
        "Prep,Force (lbf),Overlap\nplaned,900,1\nplaned,>950,1\nsanded,700,1 1/8\nsanded,720,1\n"
    )
    page.get_by_label("Name of the batch").fill("Preps")
    page.get_by_label("Method", exact=True).fill("Lap shear in tension, single")
    page.get_by_role("option", name="Lap shear in tension, single").click()
    page.get_by_label("Layout").select_option("each row is a piece")
    expect(page.get_by_label("Unit of column 2")).to_have_value("lbf")
    page.get_by_label("Column 3 holds").select_option("a size of the piece")
    page.get_by_label("Column 3 is the size").select_option("Overlap")
    page.get_by_label("Unit of column 3").fill("in")
    expect(page.get_by_role("heading", name="3 values, 0 apart, 1 at least, 0 refused, 0 empty.")).to_be_visible()
    # Until its unit is read, each size stands for a treatment of its own.
    expect(page.get_by_role("row", name="sanded")).to_have_count(1)
    expect(page.get_by_role("row", name="sanded")).to_contain_text("2")
