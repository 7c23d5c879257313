"""At the rig in a real browser: instruments of other kinds, weights, and sheets typed afterwards."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, Route, expect

from tests.core.test_curve_file import by_hand
from tests.e2e.conftest import call
from tests.e2e.server import Server
from tests.e2e.test_new_ways import joints, locked
from tests.rig.harness import wait_for


def row_of(server: Server, batch: int, code: str) -> dict[str, object]:
    return dict(next(r for r in call(server, "GET", f"/batches/{batch}/break")["rows"] if r["code"] == code))


def test_a_cylinder_with_a_gauge_is_set_up_and_read(page: Page, server: Server) -> None:
    """Pressure times piston; known weights; a check weight; and back to the rig of before."""
    batch = locked(server, "By a gauge")
    before = call(server, "GET", "/shop")["rig"]["set_up"]["id"]
    page.goto(f"{server.url}/shop")
    page.get_by_label("What it measures").select_option("pressure")
    page.get_by_label("Name of the rig").fill("Cylinder")
    for label, text in (("Capacity", "25 MPa"), ("Step", "0.1 MPa"), ("Area of the piston", "800 mm2")):
        page.get_by_label(label, exact=True).fill(text)
    page.get_by_label("Port").fill("")
    page.get_by_text("Calibration", exact=False).first.click()
    page.get_by_role("button", name="Another known weight").click()
    page.get_by_label("Known weight 1", exact=True).fill("5000 N")
    page.get_by_label("Shown for known weight 1").fill("6.25")
    page.get_by_role("button", name="Save and connect").click()
    expect(page.get_by_text("pressure on a piston of 800 mm²", exact=False)).to_be_visible()
    page.get_by_label("Check weight").fill("1000 N")
    page.get_by_label("What it shows").fill("1.2 MPa")
    page.get_by_role("button", name="Write down", exact=True).click()
    expect(page.get_by_text("−4.0 %", exact=False).first).to_be_visible()

    code = joints(server, batch)[0]
    page.goto(f"{server.url}/batch/{batch}/break")
    page.get_by_role("button", name=f"Take {code} next").click()
    page.get_by_role("button", name="Type the load").click()
    page.get_by_role("textbox", name="Load", exact=True).fill("6.5")
    page.get_by_text("In the glue", exact=True).first.click()
    page.get_by_role("button", name="Save and next").click()
    late: list[Route] = []
    page.route(re.compile(r"/break\?"), lambda route: late.append(route))
    page.get_by_role("button", name="Save it all the same").click()
    # What is corrected is what the gauge showed, however soon: no empty form before the reading is back.
    page.get_by_role("button", name=f"Correct {code}").click()
    assert row_of(server, batch, code)["low_n"] == pytest.approx(5200)
    expect(page.get_by_text(f"the reading of {code}")).to_be_visible()
    expect(page.get_by_role("textbox", name="Load", exact=True)).to_have_count(0)
    wait_for(lambda: page.wait_for_timeout(50) or late, "the queue to be read again")
    page.unroute(re.compile(r"/break\?"))
    expect(page.get_by_role("textbox", name="Load", exact=True)).to_have_value("6.5 MPa")

    page.goto(f"{server.url}/shop")
    page.get_by_text("Earlier set-ups", exact=False).click()
    page.get_by_role("button", name="Take it up again").first.click()
    expect(page.get_by_label("What it measures")).to_have_value("force")
    assert call(server, "GET", "/shop")["rig"]["set_up"]["id"] == before


def test_the_rack_runs_out_and_the_piece_is_hung_again(page: Page, server: Server) -> None:
    """Weights as buttons: total and both bounds in view; it holds all; hung again beside a larger rack it breaks."""
    batch = locked(server, "Hung")
    code = joints(server, batch)[0]
    page.goto(f"{server.url}/shop")
    page.get_by_role("button", name="Another weight").click()
    page.get_by_label("Mass of weight 1").fill("10 kg")
    page.get_by_label("How many of weight 1").fill("2")
    page.get_by_label("Hanger and platform").fill("1.4 kg")
    page.get_by_role("button", name="Save the weights").click()
    wait_for(lambda: call(server, "GET", "/shop")["rack"]["weights"], "the weights are saved")

    page.goto(f"{server.url}/batch/{batch}/break")
    page.get_by_role("button", name=f"Take {code} next").click()
    page.get_by_role("button", name="Hang weights").click()
    expect(page.get_by_text("less than this piece is expected to bear", exact=False)).to_be_visible()
    for total in ("11.4 kg", "21.4 kg"):
        page.get_by_role("button", name="+ 10 kg").click()
        expect(page.get_by_label("Total")).to_contain_text(total)
    expect(page.get_by_text("Borne for sure: 11.4 kg", exact=False)).to_be_visible()
    expect(page.get_by_text("Everything hangs", exact=False)).to_be_visible()
    # Reloaded in the middle, what hangs still hangs.
    page.reload()
    page.get_by_role("button", name=f"Take {code} next").click()
    expect(page.get_by_label("Total")).to_contain_text("21.4 kg")
    page.get_by_role("button", name="It holds all this").click()
    page.get_by_role("button", name="Save and next").click()
    page.get_by_role("button", name="Save it all the same").click()
    expect(page.get_by_role("button", name=f"Correct {code}")).to_be_visible()

    call(server, "PUT", "/rack", {"weights": [{"mass_g": 20000, "count": 4}], "hanger_g": 1400})
    page.reload()
    page.get_by_role("button", name=f"Correct {code}").click()
    page.get_by_role("button", name="It is loaded again").click()
    for total in ("21.4 kg", "41.4 kg"):
        page.get_by_role("button", name="+ 20 kg").click()
        expect(page.get_by_label("Total")).to_contain_text(total)
    page.get_by_role("button", name="slipped", exact=True).click()
    page.get_by_role("button", name="It broke as I hung the last one").click()
    expect(page.get_by_text("It broke between 21.4 kg", exact=False)).to_be_visible()
    page.get_by_text("In the glue", exact=True).first.click()
    page.get_by_role("button", name="Save and next").click()
    page.get_by_role("button", name="Save it all the same").click()
    page.get_by_role("button", name=f"Correct {code}").click()
    expect(page.get_by_label(f"Loadings of {code}").get_by_role("listitem")).to_have_count(2)
    row = row_of(server, batch, code)
    assert (row["kind"], row["tags"]) == ("between", ["slipped"])
    assert [row["low_n"], row["high_n"]] == pytest.approx([21.4 * 9.80665, 41.4 * 9.80665])
    call(server, "PUT", "/rack", {"weights": [], "hanger_g": 0})


def test_a_testing_sheet_is_typed_back(page: Page, server: Server) -> None:
    """In the printed order, by keyboard; doubts are asked once; what is wrong keeps everything that was typed."""
    batch = locked(server, "On paper")
    page.goto(f"{server.url}/batch/{batch}/break")
    page.get_by_role("link", name="Testing sheet", exact=False).click()
    rows = call(server, "GET", f"/batches/{batch}/testing-sheet")["rows"]
    first, second, third = (r["code"] for r in rows[:3])
    expect(page.get_by_role("region", name="Pieces to break")).to_contain_text(rows[0]["expected"].split(" ")[-1])
    page.get_by_label(f"load, N {first}").fill("3200")
    page.get_by_label(f"gave way {first}").fill("2")
    page.get_by_label(f"load, N {second}").fill("2000 - 2200")
    page.get_by_label(f"load, N {third}").fill("3 m")
    page.get_by_role("button", name="Write down what was broken").click()
    expect(page.get_by_role("alert").first).to_contain_text("not a unit of force")
    expect(page.get_by_label(f"load, N {first}")).to_have_value("3200")
    page.get_by_label(f"load, N {third}").fill("> 3000")
    page.get_by_role("button", name="Write down what was broken").click()
    page.get_by_role("button", name="Save them all the same").click()
    expect(page.get_by_text("Written down: 3 pieces.")).to_be_visible()
    kinds = [row_of(server, batch, code)["kind"] for code in (first, second, third)]
    assert kinds == ["exact", "between", "at_least"]
    expect(page.get_by_label(f"load, N {first}")).to_have_count(0)


def test_a_face_that_gave_way_in_several_places(page: Page, server: Server) -> None:
    batch = locked(server, "In shares")
    code = joints(server, batch)[0]
    page.goto(f"{server.url}/batch/{batch}/break")
    page.get_by_role("button", name=f"Take {code} next").click()
    page.get_by_role("button", name="Type the load").click()
    page.get_by_role("textbox", name="Load", exact=True).fill("3000 N")
    page.get_by_role("button", name="It gave way in several places").click()
    page.get_by_label("Share 1, %").fill("60")
    page.get_by_label("How share 1 gave way").select_option("wood-at-line")
    page.get_by_label("Member of share 1").select_option("B")
    expect(page.get_by_text("they must make 100 %", exact=False)).to_be_visible()
    page.get_by_role("button", name="Another share").click()
    page.get_by_label("How share 2 gave way").select_option("interface")
    expect(page.get_by_text("together 100 %", exact=False)).to_be_visible()
    page.get_by_role("button", name="Save and next").click()
    page.get_by_role("button", name="Save it all the same").click()
    expect(page.get_by_text("60 % in the wood at the line of B, 40 % at the interface")).to_be_visible()
    assert row_of(server, batch, code)["wood_failure_pct"] == 60


def test_fields_read_in_the_same_moment_are_all_kept(page: Page, server: Server) -> None:
    """Answers to six quantities are held back and come at once: none may write over another."""
    held: list[Route] = []
    page.route("**/api/quantities", lambda route: held.append(route))
    page.goto(f"{server.url}/shop")
    page.get_by_label("Label of the bottle").fill("Held back")
    page.get_by_label("Glue family").fill("Casein")
    page.get_by_role("option", name="Casein").click()
    typed = {"open for": "6 min", "usable once mixed for": "40 min", "in clamps for at least": "60 min",
             "pressed with": "0.5 MPa", "to": "1.2 MPa", "no colder than": "12 °C"}  # fmt: skip
    for name, text in typed.items():
        page.get_by_label(f"Label: {name}", exact=True).fill(text)
    page.get_by_label("Label of the bottle").focus()
    for _ in range(1500):
        if len(held) == 6:
            break
        page.wait_for_timeout(20)
    assert len(held) == 6
    for route in held:
        route.continue_()
    page.get_by_role("button", name="Add the bottle").click()
    bottle = page.get_by_role("listitem").filter(has_text="Held back")
    for text in ("open for 6 min", "for 40 min", "at least 60 min", "0.5 MPa to 1.2 MPa", "12 °C"):
        expect(bottle).to_contain_text(text)


def test_a_loggers_curve_is_taken_from_its_file(page: Page, server: Server, tmp_path: Path) -> None:
    """Columns and units are shown with what follows from them; then it is judged like a pull at the rig."""
    batch = locked(server, "From a logger")
    code = joints(server, batch)[0]
    (tmp_path / "pull.csv").write_text(by_hand(0.1).replace("load [N]", "load [kN]"))
    page.goto(f"{server.url}/batch/{batch}/break")
    page.get_by_role("button", name=f"Take {code} next").click()
    page.get_by_label(f"Curve of {code} from a file").set_input_files(tmp_path / "pull.csv")
    shown = page.get_by_role("region", name="What the file shows")
    expect(shown).to_contain_text("10 a second")
    page.get_by_label("Unit of the load").select_option("N")
    expect(shown).to_contain_text("first drop at 2900 N")
    page.get_by_role("button", name=f"Take it as the pull of {code}").click()
    page.get_by_text("In the glue", exact=True).first.click()
    page.get_by_role("button", name="Save and next").click()
    expect(page.get_by_role("button", name=f"Correct {code}")).to_be_visible()
    assert row_of(server, batch, code)["low_n"] == pytest.approx(3480)
