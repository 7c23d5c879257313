"""Treatments of another study beside this one: shown, never tested unbidden, refused where the figures are of
another kind, and tied by what both broke.
"""

from __future__ import annotations

from typing import Any

import pytest

from tests.running import App, fields

HERE = {"hide": [8.0, 8.4, 7.6, 8.2], "pva-damp": [10.0, 10.5, 9.5, 10.2]}
THERE = {"casein": [6.0, 6.3, 5.8, 6.1], "pva-damp": [12.0, 12.5, 11.4, 12.3]}
"""The other study's rig reads a fifth more: its PVA shows it."""


def study(app: App, loads: dict[str, list[float]], **changes: Any) -> int:
    """A batch with these strengths of each glue, on 500 mm2."""
    batch = app.locked(*loads, replicates=4, solid=0, **changes)
    view = app.get(f"/batches/{batch}/plan")
    sizes = view["document"]["sizes"]
    area = sizes["width"] * sizes["overlap"]
    letters = "ABCDEFGH"
    app.break_all(batch, {letters[i]: [v * area for v in own] for i, own in enumerate(loads.values())})
    return batch


BAR = {"span": 240.0, "width": 20.0, "depth": 20.0}


@pytest.fixture
def both(app: App) -> tuple[App, int, int]:
    here = study(app, HERE)
    there = study(app, THERE)
    return app, here, there


def brought(app: App, batch: int, *bring: str, status: int = 200, **query: Any) -> Any:
    asked = "&".join([f"bring={b}" for b in bring] + [f"{k}={v}" for k, v in query.items()])
    return app.get(f"/batches/{batch}/brought?{asked}", status)


def test_a_group_is_shown_with_the_differences_and_takes_part_in_nothing(both: tuple[App, int, int]) -> None:
    app, here, there = both
    before = app.compare(here)
    seen = brought(app, here, f"{there}:A")
    (group,) = seen["groups"]
    assert (group["label"], group["result"]["n"]) == ("Casein", 4)
    assert group["result"]["letter"] == "a", "a letter that no treatment here has"
    assert group["result"]["mean"] == pytest.approx(6.05)
    (study_,) = seen["differences"]
    assert "Glue" in {d["what"] for d in study_["differences"]}
    assert seen["comparisons"] == []
    assert app.compare(here) == before, "the study's own answer is as it was"


def test_once_agreed_it_is_compared_with_every_treatment_in_one_family(both: tuple[App, int, int]) -> None:
    app, here, there = both
    seen = brought(app, here, f"{there}:A", agreed="true")
    told = {c["second"]: c for c in seen["comparisons"]}
    assert set(told) == {"A", "B"}
    assert told["B"]["ratio"] == pytest.approx(6.05 / 10.05)
    assert told["B"]["text"].startswith("Casein (")
    assert told["B"]["outcome"] == "worse"


def test_what_both_studies_broke_ties_them(both: tuple[App, int, int]) -> None:
    app, here, there = both
    (tie,) = brought(app, here, f"{there}:A")["ties"]
    assert "Damp-proof PVA" in tie["text"]
    seen = brought(app, here, f"{there}:A", agreed="true", through=tie["key"])
    (only,) = seen["tied"]
    assert only["second"] == "A", "the reference is set against nothing"
    pva_here, pva_there, hide = 10.05, 12.05, 8.05
    assert only["ratio"] == pytest.approx((6.05 / pva_there) / (hide / pva_here))
    assert "Each as a share of Damp-proof PVA" in only["text"]
    unbidden = brought(app, here, f"{there}:A", through=tie["key"])
    assert unbidden["tied"] == [], "not before somebody agreed"


def test_figures_of_another_kind_are_refused(both: tuple[App, int, int]) -> None:
    app, here, _ = both
    bent = app.locked("hide", "casein", method="bend-three-point", sizes=BAR, replicates=4, solid=0)
    codes = app.codes(bent)
    app.observe(bent, codes[0], low="300 N", failure_mode="in-glue")
    listed = {s["batch_id"]: s["why"] for s in brought(app, here)["studies"]}
    assert "another kind of figure" in listed[bent]
    refused = brought(app, here, f"{bent}:A", status=422)
    assert fields(refused) == {"bring"}


@pytest.mark.parametrize("what", ["99:A", "x:A", "A", "1:Z"])
def test_what_is_not_there_is_refused_by_name(both: tuple[App, int, int], what: str) -> None:
    app, _, there = both
    assert fields(brought(app, there, what, status=422)) == {"bring"}
    assert fields(brought(app, there, f"{there}:A", status=422)) == {"bring"}, "nor the study itself"


def test_it_is_looked_at_as_this_study_is(both: tuple[App, int, int]) -> None:
    """What fell apart, and pieces with a flag that are left out, count the same on both sides of the page."""
    app, here, there = both
    rows = [r for r in app.get(f"/batches/{there}/break")["rows"] if r["treatment"] == "A"]
    app.observe_anew(there, rows[0]["code"], kind="fell_apart", low="")
    app.post(f"/batches/{there}/doubts", {"code": rows[1]["code"], "by": "Ada", "reason": "slipped", "doubtful": True})

    def mean(**query: Any) -> tuple[int, float]:
        found = brought(app, here, f"{there}:A", **query)["groups"][0]["result"]
        return found["n"], found["mean"]

    usual = mean(fallen_as_zero="true")
    assert usual[0] == 4
    assert mean(fallen_as_zero="false")[1] > usual[1], "beside the mean it does not pull it down"
    assert mean(without="doubtful")[0] == 3
    assert app.compare(there, without="doubtful")["treatments"][0]["mean"] == pytest.approx(mean(without="doubtful")[1])
