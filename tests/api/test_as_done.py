"""What was done, not what was planned: levels that were left stand where they were made, in every part of Compare."""

from __future__ import annotations

import random
from typing import Any

import pytest

from tests.api.test_planned_comparisons import H, factor, headline, study
from tests.running import App

TIMES = (900.0, H, 4 * H, 24 * H)


def clamped(app: App, **minutes: float) -> int:
    """A study of clamp times whose joints left their clamps after these minutes (by letter), and were broken at loads
    that follow what was done.
    """
    batch = study(app, factor("clamp_s", "Clamp time", *TIMES, unit="h"), control={"clamp_s": "l4"}, n=5,
                  question="How long must I clamp?")  # fmt: skip
    letters = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch}/break")["rows"]}
    app.glue(batch)
    begun = app.clock.at
    for letter, after in sorted(minutes.items(), key=lambda x: x[1]):
        app.clock.at = begun
        app.clock.pass_(minutes=after)
        app.post(f"/batches/{batch}/unclamp", {"codes": [c for c, x in letters.items() if x == letter]})
    app.clock.pass_(days=2)
    rng = random.Random(3)
    for code, letter in letters.items():
        load = 4000 * (1 - 0.8 * 2.718 ** (-minutes[letter] / 60)) * rng.gauss(1, 0.04)
        app.observe(batch, code, low=f"{load:.0f} N", failure_mode="in-glue", confirmed=["early", "age"])
    return batch


def labels(view: dict[str, Any]) -> list[str]:
    return [t["label"] for t in view["treatments"]]


def test_a_level_that_was_not_made_stands_where_it_was_made(app: App) -> None:
    batch = clamped(app, A=15, B=60, C=240, D=3)
    view = app.compare(batch, figure="load")
    assert labels(view)[3] == "clamp time 24 h (really 3 min)"
    assert "really" not in "".join(labels(view)[:3])
    assert headline(view).startswith("Nothing but 4 h")
    assert "3 min instead of 24 h reaches only 2" in headline(view)
    rows = {r["name"]: r for r in view["answers"][0]["table"]}
    assert rows["3 min instead of 24 h"]["standing"] == "too_little"
    points = view["axes"][0]["series"][0]["points"]
    assert {p["letter"]: p["x"] for p in points}["D"] == pytest.approx(180)
    assert "of 4 h" in view["reached"][0]["text"]
    (left,) = [c for c in view["caveats"] if "was not made" in c["text"]]
    assert left["text"].startswith("Clamp time 24 h was not made: 5 of 5 joints came to about 3 min.")
    assert left["weight"] == 0
    # Nor is it what others are held against, where that was asked for.
    question = {"kind": "how_much_is_enough", "of": "clamp_s", "against": "l4"}
    app.post(f"/batches/{batch}/questions", {"questions": [question]})
    assert headline(app.compare(batch, figure="load")).startswith("Nothing but 4 h")
    assert {x["name"] for x in view["factors"][0]["levels"]} == {"0.25 h", "1 h", "4 h", "3 min instead of 24 h"}


def test_what_was_made_as_planned_is_told_as_planned(app: App) -> None:
    view = app.compare(clamped(app, A=15, B=61, C=235, D=24 * 60), figure="load")
    assert not [x for x in labels(view) if "really" in x]
    assert not [c for c in view["caveats"] if "was not made" in c["text"]]
    assert "instead of" not in headline(view)


def test_another_glue_than_planned_names_the_level(app: App) -> None:
    batch = app.locked("pva-damp", "epoxy-slow", "casein", solid=0, replicates=4)
    bottle = app.post("/bottles", {"label": "B9", "family": "pva-indoor"})
    assert bottle
    rows = app.get(f"/batches/{batch}/break")["rows"]
    own = [r["code"] for r in rows if r["treatment"] == "A"]
    app.glue(batch, own, bottle="B9")
    app.glue(batch, [r["code"] for r in rows if r["treatment"] != "A"])
    app.break_all(batch, {"A": [2000, 2100, 2050, 1990], "B": [4000, 4100, 4050, 3900], "C": [3000, 3100, 3050, 2900]})
    view = app.compare(batch, figure="load")
    assert labels(view)[0] == "Damp-proof PVA (really Indoor PVA)"
    assert "Indoor PVA instead of Damp-proof PVA" in headline(view)
