"""A study with a known truth asked every kind of question over HTTP, in an inch shop, its factors in either order."""

from __future__ import annotations

import random
import re
from collections.abc import Iterator
from typing import Any

import pytest

from tests.api.test_planned_comparisons import factor, study
from tests.running import App, open_app

DRY = {"Damp-proof PVA": 4000, "Casein": 3000, "Slow epoxy": 4800}
KEPT = {"Damp-proof PVA": 0.45, "Casein": 0.2, "Slow epoxy": 0.95}
SOLID = 5000
ASKED: tuple[dict[str, Any], ...] = (
    {"kind": "which_is_best", "of": "glue"},
    {"kind": "which_is_best", "of": "glue", "within": "conditioning"},
    {"kind": "better_than", "of": "glue", "against": "l1"},
    {"kind": "is_it_true", "of": "glue", "against": "l1", "share": 0.9},
    {"kind": "does_it_matter", "of": "glue"},
    {"kind": "what_is_left", "of": "glue", "along": "conditioning", "against": "own", "share": 0.8},
    {"kind": "does_it_depend", "of": "glue", "against": "l1", "within": "conditioning"},
    {"kind": "does_it_pass", "of": "glue", "within": "conditioning"},
    {"kind": "close_to_solid", "of": "glue", "against": "solid"},
    {"kind": "how_strong", "of": "glue", "within": "conditioning"},
    {"kind": "how_does_it_fail", "of": "glue"},
    {"kind": "which_for_what", "of": "glue", "within": "conditioning"},
)


@pytest.fixture(scope="module", params=["glue first", "water first"])
def answers(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Iterator[list[dict[str, Any]]]:
    factors = [
        factor("glue", "Glue", "pva-damp", "casein", "epoxy-slow"),
        factor("conditioning", "Conditioning", "dry", "soak-24h"),
    ]
    with open_app(tmp_path_factory.mktemp("asked")) as app:
        app.put("/settings", {"units": {"force": "lbf", "length": "in", "stress": "psi"}})
        batch = study(app, *(factors if request.param == "glue first" else factors[::-1]), n=6, solid_reference=4,
                      control={"glue": "l1", "conditioning": "l1"}, questions=list(ASKED),
                      judging={"limits": [], "rule": {"least": 5.0, "figure": "strength"}})  # fmt: skip
        broken(app, batch)
        yield app.compare(batch)["answers"]


def broken(app: App, batch: int) -> None:
    labels = {t["letter"]: t["label"] for t in app.compare(batch)["treatments"]}
    rng = random.Random(4)
    for r in app.get(f"/batches/{batch}/break")["rows"]:
        if r["role"] == "solid":
            app.observe(batch, r["code"], low=f"{SOLID * rng.gauss(1, 0.04):.0f} N", failure_mode="wood-deep")
            continue
        glue = next(g for g in DRY if g in labels[r["treatment"]])
        wet = "Soaked" in labels[r["treatment"]]
        mode = "in-glue" if glue == "Casein" else "wood-deep"
        load = DRY[glue] * (KEPT[glue] if wet else 1) * rng.gauss(1, 0.05)
        app.observe(batch, r["code"], low=f"{load:.0f} N", failure_mode=mode)


def standings(a: dict[str, Any]) -> dict[tuple[str, str], str]:
    return {(r["name"], r["within"]): r["standing"] for r in a["table"]}


PVA, CASEIN, EPOXY, D, W = "Damp-proof PVA", "Casein", "Slow epoxy", "Dry, indoors", "Soaked 24 h, wet"
TRUE: dict[int, dict[tuple[str, str], str]] = {
    0: {(EPOXY, ""): "top", (PVA, ""): "weaker", (CASEIN, ""): "weaker"},
    1: {(EPOXY, D): "top", (PVA, D): "weaker", (CASEIN, D): "weaker",
        (EPOXY, W): "top", (PVA, W): "weaker", (CASEIN, W): "weaker"},
    2: {(PVA, ""): "base", (EPOXY, ""): "stronger", (CASEIN, ""): "weaker"},
    3: {(PVA, ""): "base", (EPOXY, ""): "enough", (CASEIN, ""): "too_little"},
    5: {(EPOXY, W): "lasts", (PVA, W): "loses", (CASEIN, W): "loses"},
    6: {(EPOXY, D): "stronger", (EPOXY, W): "stronger", (CASEIN, D): "weaker", (CASEIN, W): "weaker"},
    11: {(EPOXY, D): "top", (EPOXY, W): "top", (PVA, D): "passes", (CASEIN, D): "passes", (PVA, W): "fails",
         (CASEIN, W): "fails"},
}  # fmt: skip


@pytest.mark.parametrize("place", range(len(ASKED)))
def test_every_kind_tells_the_truth(answers: list[dict[str, Any]], place: int) -> None:
    a = answers[place]
    assert a["kind"] == ASKED[place]["kind"]
    assert a["lacks"] == []
    assert a["text"]
    assert a["unit"] == "MPa"
    found = standings(a)
    for row, standing in TRUE.get(place, {}).items():
        assert found[row] == standing, (row, a["text"])
    assert not re.search(r"\d (MPa|N)\b", a["text"]), "an inch shop"


def test_their_sentences_name_what_is_so(answers: list[dict[str, Any]]) -> None:
    text = [a["text"] for a in answers]
    assert text[0].startswith("Slow epoxy (")
    assert text[3].startswith("Not true: Casein (")
    assert text[4].startswith("Yes: ")
    assert "Slow epoxy keeps 9" in text[5]
    assert text[6].startswith("Yes: ")
    assert text[11].startswith("Use Slow epoxy for ")
    assert "in the glue" in text[10]
    shares = {r["name"]: r["share"] for r in answers[8]["table"]}
    # Over both states: the geometric mean of the shares dry and soaked.
    for glue, share in shares.items():
        assert share == pytest.approx(DRY[glue] / SOLID * KEPT[glue] ** 0.5, rel=0.08)
    assert [a["picture"] for a in (answers[5], answers[6], answers[10])] == ["kept", "lines", "failures"]
    assert any(x.startswith("It is not the same in each conditioning") for x in answers[0]["caveats"])
