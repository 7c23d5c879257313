"""From no factor at all to eight: a survey of what one has, and fractions of a grid read to their answer."""

from __future__ import annotations

import random
import re
from typing import Any

import pytest

from tests.api.test_planned_comparisons import factor, headline
from tests.running import App, fields


def survey(app: App, *names: str, control: str = "") -> int:
    batch = app.planned("pva-damp", "casein", solid=0)
    document = app.get(f"/batches/{batch}/plan")["document"]
    extras = [{"label": n, "changes": {}, "replicates": 4, "control": "standard" if n == control else None}
              for n in names]  # fmt: skip
    constants = {**document["constants"], "glue": {"value": "pva-damp", "unit": ""}}
    app.draft(batch, factors=[], control={}, extras=extras, constants=constants, question="Which of these holds most?")
    return batch


def broken(app: App, batch: int, truth: dict[str, float], seed: int = 5) -> Any:
    rng = random.Random(seed)
    view = app.compare(batch, figure="load")
    labels = {t["letter"]: t["label"] for t in view["treatments"]}
    for row in app.get(f"/batches/{batch}/break")["rows"]:
        load = truth[labels[row["treatment"]]] * rng.gauss(1, 0.06)
        app.observe(batch, row["code"], low=f"{load:.0f} N", failure_mode="in-glue")
    return app.compare(batch, figure="load")


def test_a_survey_needs_no_factor(app: App) -> None:
    batch = survey(app, "Old stool", "Drawer side", "Box lid")
    plan = app.get(f"/batches/{batch}/plan")
    assert plan["forecast"]["problems"] == []
    assert plan["questions"][0]["of"] == "treatment"
    assert {k["kind"] for k in plan["kinds"] if k["fits"]} >= {"which_is_best", "how_strong", "how_does_it_fail"}
    app.lock(batch)
    view = broken(app, batch, {"Old stool": 2000.0, "Drawer side": 4000.0, "Box lid": 3000.0})
    assert headline(view).startswith("Drawer side")
    assert "Old stool" in headline(view)
    rows = {r["name"]: r["standing"] for r in view["answers"][0]["table"]}
    assert rows["Old stool"] == "weaker"
    (found,) = [f for f in view["families"] if f["of"] == "treatment"]
    assert len(found["comparisons"]) == 3
    app.post(f"/batches/{batch}/questions", {"questions": [{"kind": "how_strong", "of": "treatment"}]})
    assert app.compare(batch)["answers"][0]["text"].startswith("On average Drawer side holds")


def test_a_survey_may_have_something_that_others_are_held_against(app: App) -> None:
    batch = survey(app, "Mine", "New", control="Mine")
    app.lock(batch)
    view = broken(app, batch, {"Mine": 2000.0, "New": 4000.0})
    assert re.match(r"New \(\d+ N\) holds most\. Mine \(\d+ N, \d+ % less than New\) is weaker", headline(view))
    assert len(view["families"][0]["comparisons"]) == 1


def test_one_treatment_alone_is_no_survey(app: App) -> None:
    batch = survey(app, "Only one")
    problems = app.get(f"/batches/{batch}/plan")["forecast"]["problems"]
    assert {p["field"] for p in problems} == {"extras"}


def grid(app: App, n: int, replicates: int) -> int:
    """Factors of the user's own, two levels each."""
    batch = app.planned("pva-damp", "casein", solid=0)
    document = app.get(f"/batches/{batch}/plan")["document"]
    own = [factor(f"own-{i}" if i else "own", name, "no", "yes") for i, name in enumerate("PQRSTUVW"[:n])]
    constants = {**document["constants"], "glue": {"value": "pva-damp", "unit": ""}}
    control = {f["key"]: "l1" for f in own}
    app.draft(batch, factors=own, control=control, constants=constants, replicates=replicates,
              questions=[{"kind": "does_it_matter", "of": f["key"], "against": "l1"} for f in own])  # fmt: skip
    return batch


@pytest.mark.parametrize(("factors", "part", "made", "replicates"), [(6, "half", 32, 1), (4, "half", 8, 2)])
def test_a_fraction_is_read_to_its_answers(app: App, factors: int, part: str, made: int, replicates: int) -> None:
    """Of several factors one takes a third away, one a fifth; a fraction of the combinations is enough to tell."""
    batch = grid(app, factors, replicates)
    found = app.get(f"/batches/{batch}/fraction?part={part}")
    assert (found["made"], found["of"]) == (made, 2**factors)
    app.draft(batch, dropped=found["dropped"])
    plan = app.get(f"/batches/{batch}/plan")
    assert len(plan["forecast"]["treatments"]) == made
    assert any(f"{made} of {2**factors} combinations are made" in c["text"] for c in plan["forecast"]["caveats"])
    assert plan["forecast"]["reach"] is None, "what n of each cell can show says nothing of a fraction"
    at_a_level = made * replicates // 2
    assert any(f"Every level has {at_a_level} pieces" in c["text"] for c in plan["forecast"]["caveats"])
    app.lock(batch)
    view = app.compare(batch, figure="load")
    truth = {t["label"]: 4000 * (2 / 3 if "p yes" in t["label"] else 1) * (0.8 if "q yes" in t["label"] else 1)
             for t in view["treatments"]}  # fmt: skip
    view = broken(app, batch, truth)
    texts = [a["text"] for a in view["answers"]]
    assert texts[0].startswith("Yes")
    assert texts[1].startswith("Yes")
    assert not any(t.startswith("Yes") for t in texts[2:])
    claim = view["answers"][0]["claims"][0]
    assert claim["ratio"] == pytest.approx(2 / 3, rel=0.12)
    assert claim["low"] < 2 / 3 < claim["high"]
    assert "over all combinations" in " ".join(view["answers"][0]["evidence"])


def test_a_fraction_that_mixes_effects_says_which(app: App) -> None:
    batch = grid(app, 5, 2)
    found = app.get(f"/batches/{batch}/fraction?part=quarter")
    app.draft(batch, dropped=found["dropped"])
    caveats = " ".join(c["text"] for c in app.get(f"/batches/{batch}/plan")["forecast"]["caveats"])
    assert "can't tell the effect of one factor from what two others do together" in caveats


@pytest.mark.parametrize(("part", "enough"), [("half", True), ("quarter", False)])
def test_single_pieces_are_enough_where_some_are_left_over_for_the_scatter(app: App, part: str, enough: bool) -> None:
    """Half of 2^5 leaves ten pieces for the scatter; a quarter has eight pieces for six effects, and says so."""
    batch = grid(app, 5, 1)
    app.draft(batch, dropped=app.get(f"/batches/{batch}/fraction?part={part}")["dropped"])
    plan = app.get(f"/batches/{batch}/plan")
    assert any("One or two pieces" in x or "one or two pieces" in x for x in plan["questions"][0]["lacks"]) != enough
    assert any(c["field"] == "replicates" for c in plan["forecast"]["caveats"]) != enough


def test_what_is_no_fraction_is_refused(app: App) -> None:
    batch = grid(app, 3, 2)
    assert fields(app.get(f"/batches/{batch}/fraction?part=tenth", 422)) == {"part"}
    assert fields(app.get(f"/batches/{batch}/fraction?part=third", 422)) == {"part"}
    nine = [factor(f"own-{i}", f"F{i}", "no", "yes") for i in range(9)]
    assert fields(app.draft(batch, 422, factors=nine, control={}, questions=[])) == {"document.factors"}


def test_eight_factors_are_planned(app: App) -> None:
    batch = grid(app, 8, 1)
    found = app.get(f"/batches/{batch}/fraction?part=quarter")
    app.draft(batch, dropped=found["dropped"])
    app.lock(batch)
    assert len(app.codes(batch, "joint")) == 64
