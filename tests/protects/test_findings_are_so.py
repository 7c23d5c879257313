"""Sentences that were false: what Compare says holds for the pieces that it is said of."""

from __future__ import annotations

import re
from typing import Any

import pytest

from adhaero.core.cut.blanks import Blank
from adhaero.core.cut.cutlist import Short, Wanted, balance_on, still_short
from adhaero.core.cut.layout import Need, Saw
from tests.running import App


def said(app: App, batch: int, **query: Any) -> str:
    """Everything that is said of a batch: answers, what bears and weakens them, what to do next, and comparisons."""
    view = app.compare(batch, **query)
    found = [c["text"] for c in view["caveats"]]
    found += [c["text"] for f in view["families"] for c in f["comparisons"]]
    for a in view["answers"]:
        found += [a["text"], *a["evidence"], *a["caveats"], *a["next"]]
    return " ".join(found)


def broken(app: App, batch: int, treatment: str, loads: list[float], **more: Any) -> None:
    """Break pieces of a treatment, as many as there are loads."""
    rows = [r["code"] for r in app.get(f"/batches/{batch}/break")["rows"] if r["treatment"] == treatment]
    for code, load in zip(rows, loads, strict=False):
        app.observe(batch, code, low=f"{load} N", **{"failure_mode": "in-glue", **more})


def test_no_highest_mean_while_a_bound_reaches_over_it(app: App) -> None:
    batch = app.locked("pva-damp", "casein", "epoxy-slow", solid=0)
    broken(app, batch, "A", [4000, 4100, 4200])
    broken(app, batch, "B", [6000, 6100, 6200])
    broken(app, batch, "C", [5900, 6050, 6150], kind="at_least", failure_mode=None)
    assert "Casein has the highest mean" not in said(app, batch)


def test_nothing_is_settled_while_pieces_are_left(app: App) -> None:
    batch = app.locked("pva-damp", "casein", solid=0, replicates=4)
    broken(app, batch, "A", [4000, 4010, 4020])
    broken(app, batch, "B", [8000, 8010, 8020])
    assert "settled" not in said(app, batch)


@pytest.mark.parametrize("how", ["between", "elsewhere", "wood-deep"])
def test_held_to_the_end_is_said_of_what_held_alone(app: App, how: str) -> None:
    batch = app.locked("pva-damp", "casein", solid=0, target="adhesive")
    broken(app, batch, "A", [4000, 4100, 4200])
    more = {"kind": "between", "high": "7000 N"} if how == "between" else {"failure_mode": how}
    broken(app, batch, "B", [6000, 6100, 6200], **more)
    assert "held to the end" not in said(app, batch)
    marks = app.compare(batch)["treatments"][1]["marks"]
    assert {m["high"] is None for m in marks} == {how != "between"}, "an arrow only where the upper end is open"


def test_intervals_in_percent_end_at_nothing(app: App) -> None:
    batch = app.locked("pva-damp", "casein", solid=0)
    broken(app, batch, "A", [200, 900, 4200])
    broken(app, batch, "B", [100, 3000, 9000])
    text = said(app, batch)
    assert all(float(x.replace("−", "-")) >= -100 for x in re.findall(r"([-−]\d+(?:\.\d+)?) %", text)), text


def test_no_percentages_against_next_to_nothing(app: App) -> None:
    batch = app.locked("pva-damp", "casein", solid=0)
    rows = app.get(f"/batches/{batch}/break")["rows"]
    for r in rows:
        if r["treatment"] == "A":
            app.observe(batch, r["code"], kind="fell_apart")
    broken(app, batch, "B", [5000, 5100, 5200])
    assert not re.search(r"\d{4,} %", said(app, batch))
    assert "inf" not in said(app, batch)


def test_breaks_in_the_wood_alone_tell_nothing_of_the_glues(app: App) -> None:
    batch = app.locked("pva-damp", "casein", solid=0, target="adhesive")
    broken(app, batch, "A", [4000, 4050, 4100], failure_mode="wood-deep", wood_failure_pct=100)
    broken(app, batch, "B", [8000, 8050, 8100], failure_mode="wood-deep", wood_failure_pct=100)
    assert "stronger" not in said(app, batch)
    assert "6 of 6 pieces failed in the wood, so this mostly compares wood." in said(app, batch)


@pytest.mark.parametrize(("form", "along"), [("edge", False), ("butt", True)])
def test_a_joint_is_held_against_solid_wood_loaded_as_it_is(app: App, form: str, along: bool) -> None:
    """'Keeps 7 % of solid wood' came from across against along the grain."""
    batch = app.planned("pva-damp", "casein")
    held = app.get(f"/batches/{batch}/plan")["document"]["constants"]
    ways = [k for k, *_ in next(f for f in app.get("/catalogue")["fields"] if f["key"] == "orientation")["choices"]]
    way = next(k for k in ways if k.startswith("end")) if along else held["orientation"]["value"]
    own = {"form": {"value": form, "unit": ""}, "orientation": {"value": way, "unit": ""}}
    app.draft(batch, method="butt-pull", sizes={}, constants={**held, **own})
    app.lock(batch)
    app.break_all(batch, {"A": [400, 410, 420], "B": [500, 510, 520], "C": [6000, 6100, 6200]})
    *joints, solid = app.compare(batch)["treatments"]
    assert solid["label"] == ("Solid ash" if along else "Solid ash across the grain")
    assert "solid wood" in said(app, batch)
    assert [t["efficiency_pct"] for t in joints] == pytest.approx([100 * 410 / 6100, 100 * 510 / 6100])


def test_solid_wood_loaded_the_other_way_is_no_base(app: App) -> None:
    """A plan of an older format has solid bars along the grain only: they say nothing of joints pulled across it."""
    batch = app.planned("pva-damp", "casein")
    plan = app.get(f"/batches/{batch}/plan")["document"]
    held = {**plan["constants"], "form": {"value": "edge", "unit": ""}}
    sizes = {"width": 20.0, "depth": 20.0}
    old = {**plan, "format": 4, "method": "butt-pull", "sizes": sizes, "constants": held}
    del old["solid_as_loaded"]
    made = app.post("/batches/from-plan", {"name": "Old", "document": old}, 201)["id"]
    app.post(f"/batches/{made}/lock", {"version": app.get(f"/batches/{made}/plan")["version"]})
    app.break_all(made, {"A": [400, 410, 420], "B": [500, 510, 520], "C": [6000, 6100, 6200]})
    joints = [t for t in app.compare(made)["treatments"] if t["role"] == "joint"]
    assert all(t["efficiency_pct"] is None for t in joints)
    assert all("loaded across the grain" in t["efficiency_missing"] for t in joints)


def test_measured_is_said_of_what_was_measured(app: App) -> None:
    app.locked("pva-damp", "casein")
    progress = app.get("/today")["batches"][0]
    assert progress["measured"] == 0
    assert progress["to_measure"] is True


def test_ages_differ_by_what_somebody_could_notice(app: App) -> None:
    """'Age differs: 3.61e-06 h' came from pieces that were broken one after the other."""
    batch = app.locked("pva-damp", "casein", solid=0)
    app.glue(batch)
    app.clock.pass_(hours=72)
    for n, r in enumerate(app.get(f"/batches/{batch}/break")["rows"]):
        app.clock.pass_(microseconds=13_000)
        app.observe(batch, r["code"], low=f"{4000 + n} N", failure_mode="in-glue")
    view = app.compare(batch)
    everything = " ".join([said(app, batch), *(d["text"] for d in view["departed"])])
    assert "e-0" not in everything
    assert "Age differs" not in everything


def test_one_is_no_plural(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=3, solid=0)
    codes = app.codes(batch, "joint")
    app.glue(batch, codes[:1])
    app.clock.pass_(hours=30)
    texts = [str(app.get(f"/batches/{batch}/{view}")) for view in ("glue", "break", "cut", "compare", "guide")]
    texts.append(str(app.get("/today")))
    assert not re.search(r"\b1 (joints|pieces|treatments|clamps|levels)\b", " ".join(texts))


def test_a_held_reading_counts_its_load_and_empties_no_study(app: App) -> None:
    batch = app.locked("pva-damp", "casein", solid=0)
    broken(app, batch, "A", [4000, 4100, 4200], kind="held", held="60 s")
    broken(app, batch, "B", [6000, 6100, 6200])
    view = app.compare(batch)
    assert [t["n"] for t in view["treatments"]] == [3, 3]
    assert view["treatments"][0]["mean"] == pytest.approx(4100 / 500)


def test_the_layout_speaks_of_the_picture_beside_it(app: App) -> None:
    """Shortage and balance: nothing is short while every place is there, and a treatment on all boards is balanced."""
    for label in ("One", "Two"):
        app.post("/boards", {"label": label, "species": "ash", "length_mm": 900, "width_mm": 160, "thickness_mm": 44})
    batch = app.locked("pva-damp", "casein")
    app.post(f"/batches/{batch}/layout", {"share": "all"})
    layout = app.get(f"/batches/{batch}/cut")["layout"]
    placed = {b["code"] for m in layout["maps"] for b in m["blanks"]} & set(app.codes(batch))
    text = " ".join(layout["sentences"])
    assert ("short by" in text) == (len(placed) < len(app.codes(batch)))
    shared = [s for s in layout["shares"] if len({"A", "B"} & set(s["counts"])) == 2]
    assert ("cannot be told apart" in text) == (not shared)


def test_a_shortage_that_was_mended_is_not_told_any_more() -> None:
    """What was short when the wood was laid out, and where it stands after places were found."""
    saw = Saw()
    need = Need((Blank("a", 31, 20, 20), Blank("b", 31, 20, 20)), saw)
    wanted = [Wanted(str(i), i % 2, "ash", need) for i in range(6)]
    was = [Short("ash", 2, 21, 2 * need.length_mm)]
    four = {str(i): 1 for i in range(4)}
    assert still_short(was, four, wanted) == was
    assert [s.pieces for s in still_short(was, {**four, "4": 2}, wanted)] == [1]
    assert still_short(was, {**four, "4": 2, "5": 2}, wanted) == []
    # One board each: which of the two makes the difference cannot be told.
    assert balance_on({"0": 1, "2": 1, "4": 1, "1": 2, "3": 2, "5": 2}, wanted).confounded
    assert not balance_on({"0": 1, "1": 1, "2": 2, "3": 2}, wanted).confounded


def test_a_mean_far_from_nothing_is_not_called_so(app: App) -> None:
    """'Mean strength next to nothing, 399 psi' was said of three scattered pieces."""
    batch = app.locked("pva-damp", "casein", solid=0)
    app.break_all(batch, {"A": [600, 5000, 9000], "B": [700, 4000, 8000]})
    assert "next to nothing" not in said(app, batch)
    assert "Casein (8.47 MPa) can't be placed yet" in said(app, batch)


def test_own_solid_pieces_of_an_older_plan_are_known_to_the_forecast(app: App) -> None:
    """Their direction was not written then: it is the method's usual one."""
    plan = app.get(f"/batches/{app.planned('pva-damp', 'casein', solid=3)}/plan")["document"]
    old = {**plan, "format": 4}
    del old["solid_as_loaded"]
    made = app.post("/batches/from-plan", {"name": "Old", "document": old}, 201)["id"]
    app.lock(made)
    app.break_all(made, {"A": [4000] * 3, "B": [4100] * 3, "C": [6000, 6100, 6200]})
    new = app.planned("pva-damp", "casein", solid=3)
    (solid,) = [e for e in app.get(f"/batches/{new}/plan")["forecast"]["loads"] if e["letter"] == "C"]
    assert "your own 3 pieces" in solid["source"]
    assert solid["load_n"] == pytest.approx(6100)
