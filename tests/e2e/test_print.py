"""What is printed, read back from the paper: every sheet, whole, and nothing beyond its edge."""

from __future__ import annotations

import re
import subprocess
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import call, quiet_server
from tests.e2e.server import Server

pytestmark = pytest.mark.browser
SCREEN_WORDS = ("Today", "Find on record", "Skip to", "Undo")


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """Two glues with long names at two presses, cut from two boards; half of the pieces broken."""
    for started in quiet_server(tmp_path_factory.mktemp("print")):
        for label in ("Ash 3", "Ash 4"):
            board = {"label": label, "species": "ash", "length_mm": 2400, "width_mm": 140, "thickness_mm": 40}
            call(started, "POST", "/boards", board)
        yield started


@pytest.fixture(scope="module")
def batch(server: Server) -> int:
    made = int(call(server, "POST", "/batches", {"name": "On paper"})["id"])
    plan = call(server, "GET", f"/batches/{made}/plan")
    glues = [{"value": g, "unit": ""} for g in ("polyurethane", "epoxy-slow")]
    presses = [{"value": p, "unit": "MPa"} for p in (0.4, 0.8)]
    document = {**plan["document"], "question": "Does it hold what the paper says?", "replicates": 12,
                "solid_reference": 4, "factors": [{"key": "glue", "name": "Glue", "levels": glues},
                {"key": "pressure", "name": "Clamp pressure", "levels": presses}]}  # fmt: skip
    document["constants"] = {k: v for k, v in document["constants"].items() if k not in ("glue", "pressure")}
    document["constants"]["species"] = {"value": "ash", "unit": ""}
    saved = call(server, "PUT", f"/batches/{made}/plan", {"version": 1, "name": "On paper", "document": document})
    call(server, "POST", f"/batches/{made}/lock", {"version": saved["version"]})
    call(server, "POST", f"/batches/{made}/layout", {})
    return made


def paper(page: Page, url: str, ready: str, folder: Path) -> Path:
    """The page as it is printed."""
    page.goto(url)
    expect(page.get_by_text(ready).first).to_be_visible()
    page.wait_for_timeout(300)
    path = folder / "page.pdf"
    page.pdf(path=path, format="A4")
    return path


def words(path: Path) -> str:
    return subprocess.run(["pdftotext", "-layout", str(path), "-"], check=True, capture_output=True, text=True).stdout


def beyond(path: Path) -> list[str]:
    """Words that begin or end beyond the edge of their page."""
    command = ["pdftotext", "-bbox", str(path), "-"]
    told = subprocess.run(command, check=True, capture_output=True, text=True).stdout
    space = "{http://www.w3.org/1999/xhtml}"
    root = ElementTree.fromstring(re.sub(r"<!DOCTYPE[^>]*>", "", told))
    found = []
    for page in root.iter(f"{space}page"):
        width = float(page.attrib["width"])
        for word in page.iter(f"{space}word"):
            if float(word.attrib["xMin"]) < 0 or float(word.attrib["xMax"]) > width:
                found.append(str(word.text))
    return found


def codes(server: Server, batch: int, role: str = "") -> list[str]:
    rows = call(server, "GET", f"/batches/{batch}/cut")["rows"]
    return [r["code"] for r in rows if role in ("", r["role"])]


def test_the_plan(page: Page, server: Server, batch: int, tmp_path: Path) -> None:
    path = paper(page, f"{server.url}/batch/{batch}/plan", "pieces have their codes", tmp_path)
    text = words(path)
    for said in ("Does it hold what the paper says?", "Foaming polyurethane", "Slow epoxy", "0.4 MPa", "0.8 MPa",
                 "Solid ash", "52 pieces have their codes"):  # fmt: skip
        assert said in " ".join(text.split()), said
    assert not [w for w in SCREEN_WORDS if w in text]
    assert beyond(path) == []


def test_the_cut_sheet_has_every_piece_on_its_board(page: Page, server: Server, batch: int, tmp_path: Path) -> None:
    path = paper(page, f"{server.url}/batch/{batch}/cut", "Write the code on both halves", tmp_path)
    text = words(path)
    assert [c for c in codes(server, batch) if text.count(c) < 2] == [], "on the board, and in the list"
    assert "…" not in text, "nothing is shortened on paper"
    assert {"Ash 3", "Ash 4"} & set(re.findall(r"Ash \d", text))
    assert beyond(path) == []


def test_the_labels_of_both_halves(page: Page, server: Server, batch: int, tmp_path: Path) -> None:
    path = paper(page, f"{server.url}/batch/{batch}/labels", "Blind", tmp_path)
    text = words(path)
    joints = codes(server, batch, "joint")
    assert sorted(re.findall(r"\b(\w{4})-[ab]\b", text)) == sorted(joints * 2)
    assert beyond(path) == []


def test_the_bench_sheet(page: Page, server: Server, batch: int, tmp_path: Path) -> None:
    path = paper(page, f"{server.url}/batch/{batch}/bench-sheet", "bench sheet", tmp_path)
    text = words(path)
    assert [c for c in codes(server, batch, "joint") if c not in text] == []
    assert beyond(path) == []


def test_the_testing_sheet_in_the_order_to_break_them(page: Page, server: Server, batch: int, tmp_path: Path) -> None:
    url = f"{server.url}/batch/{batch}/testing-sheet"
    path = paper(page, url, "testing sheet", tmp_path)
    known = set(codes(server, batch))
    printed = [w for w in re.findall(r"\b\w{4}\b", words(path)) if w in known]
    assert printed == [r["code"] for r in call(server, "GET", f"/batches/{batch}/testing-sheet")["rows"]]
    assert len(printed) == 52
    assert "Slow epoxy" in words(path)
    assert beyond(path) == []
    page.get_by_label("blind").check()
    page.pdf(path=path, format="A4")
    assert "Slow epoxy" not in words(path)


def test_the_cautions_on_one_page(page: Page, server: Server, batch: int, tmp_path: Path) -> None:
    path = paper(page, f"{server.url}/batch/{batch}/cautions", "Gluing and clamping", tmp_path)
    text = " ".join(words(path).split())
    for stage in ("cut", "glue", "break"):
        told: list[Any] = call(server, "GET", f"/batches/{batch}/cautions/{stage}")
        assert told
        assert [c["text"] for c in told if c["text"] not in text] == []
    assert "local codes" in text
    assert len(words(path).rstrip("\f").split("\f")) == 1


def test_the_result_says_on_paper_what_it_says_on_the_screen(
    page: Page, server: Server, batch: int, tmp_path: Path
) -> None:
    rows = call(server, "GET", f"/batches/{batch}/break")["rows"]
    for n, row in enumerate(rows[:40]):
        load = (3000 if "0.8" in row["label"] else 2400) + 37 * n % 500
        seen = {"code": row["code"], "kind": "exact", "low": f"{load} N", "failure_mode": "in-glue",
                "confirmed": ["early", "no-rig"]}  # fmt: skip
        call(server, "POST", f"/batches/{batch}/observations", seen)
    path = paper(page, f"{server.url}/batch/{batch}/compare", "Evidence", tmp_path)
    text = " ".join(words(path).split())
    seen = call(server, "GET", f"/batches/{batch}/compare")
    headline = seen["answers"][0]["text"]
    assert headline.replace("’", "'") in text.replace("’", "'").replace("\u00a0", " ")
    assert seen["scope"] in text
    weak = [f["text"] for f in seen["caveats"]]
    assert [w for w in weak if w not in text] == [], "what weakens it is never folded away on paper"
    for t in seen["treatments"]:
        if t["mean"] is not None:
            assert f"{t['mean']:.2f}" in text, t["label"]
    assert "The planned comparisons" in text
    assert beyond(path) == []
