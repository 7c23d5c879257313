"""Whole studies with a known truth: what Compare answers, by view and by switch."""

from __future__ import annotations

import csv
import random
from typing import Any

import pytest

from tests.api.test_parents import FOLDING, PANEL
from tests.api.test_planned_comparisons import H, broken, factor, family, headline, study
from tests.running import App


def by_label(view: dict[str, Any]) -> dict[str, Any]:
    return {t["label"]: t for t in view["treatments"]}


def test_glues_dry_and_outdoors_by_joint_and_by_bond(app: App) -> None:
    """Truth: outdoors keeps three quarters of dry for each of four glues; a third of the pieces break in the wood."""
    glues = ("pva-damp", "casein", "epoxy-slow", "hide-hot")
    batch = study(app, factor("glue", "Glue", *glues), factor("conditioning", "Conditioning", "dry", "outdoors"),
                  control={"conditioning": "l1"}, n=6)  # fmt: skip
    labels = {t["letter"]: t["label"] for t in app.compare(batch)["treatments"]}
    strength = {"Damp-proof PVA": 4000, "Casein": 3000, "Slow epoxy": 4200, "Hot hide glue": 3500}
    rng = random.Random(3)
    for n, row in enumerate(app.get(f"/batches/{batch}/break")["rows"]):
        glue, state = labels[row["treatment"]].split(" · ")
        load = strength[glue] * (1 if state.startswith("Dry") else 0.75) * rng.gauss(1, 0.06)
        mode = "wood-deep" if n % 3 == 0 else "in-glue"
        app.observe(batch, row["code"], low=f"{load:.0f} N", failure_mode=mode)
    as_broke = app.compare(batch, figure="load")
    kept = next(a for a in as_broke["answers"] if a["kind"] == "what_is_left")
    own = [r for r in kept["table"] if r["standing"] != "base"]
    assert len(own) == 4
    assert all(r["low"] < 0.75 < r["high"] for r in own)
    (over,) = family(as_broke, "conditioning")["pooled"]
    assert over["low"] < 0.75 < over["high"]
    assert [f["key"] for f in as_broke["factors"]] == ["glue", "conditioning"]
    assert len(as_broke["cells"]) == 8
    assert as_broke["bounded_by_wood"]
    assert {t["estimate"]["of"] for t in as_broke["treatments"]} == {"mean"}

    bond = app.compare(batch, figure="load", target="adhesive")
    assert {t["estimate"]["of"] for t in bond["treatments"]} == {"median"}
    assert {c["route"] for c in family(bond, "conditioning")["comparisons"]} == {"medians"}
    (over,) = family(bond, "conditioning")["pooled"]
    assert over["low"] < 0.75 < over["high"]
    for label, t in by_label(bond).items():
        assert t["estimate"]["value"] > by_label(as_broke)[label]["estimate"]["value"], "wood failures lift the bond"
    assert bond["changed"]
    assert (bond["planned_target"], bond["target"]) == ("joint", "adhesive")
    # What the plan says itself is no other way of looking.
    assert app.compare(batch, target="joint")["changed"] == []
    assert app.get(f"/batches/{batch}/compare?target=elsewhere", 422)["errors"][0]["field"] == "target"


def test_one_low_piece_carries_the_difference(app: App) -> None:
    """How hard to press: flat in truth, with one bad piece in one level."""
    pressures = (0.1, 0.4, 0.8, 1.6)
    batch = study(app, factor("pressure_mpa", "Clamp pressure", *pressures, unit="MPa"), control={}, n=6)
    rng = random.Random(6)
    low = ""
    labels = {t["letter"]: t["label"] for t in app.compare(batch)["treatments"]}
    for row in app.get(f"/batches/{batch}/break")["rows"]:
        load = 4000 * rng.gauss(1, 0.02)
        if labels[row["treatment"]].endswith("0.1 MPa") and not low:
            low, load = row["code"], 1500
        app.observe(batch, row["code"], low=f"{load:.0f} N", failure_mode="in-glue")
    view = app.compare(batch, figure="load")
    assert headline(view).startswith("0.4 MPa is enough: ")
    assert "0.1 MPa has 89 % (70–112 %), which is not clear yet" in headline(view)
    weak = " ".join(f["text"] for f in view["caveats"])
    assert f"{low} is an outlier" in weak
    (series,) = view["axes"][0]["series"]
    assert [p["level"] for p in series["points"]] == ["0.1 MPa", "0.4 MPa", "0.8 MPa", "1.6 MPa"]


def test_corners_by_every_school_with_ties_as_ties(app: App) -> None:
    """Middle three of five beside the plain mean; two corners with the same pieces share a place."""
    batch = app.locked("pva-damp", "casein", "epoxy-slow", solid=0, replicates=5)
    same = [3000, 3100, 3200, 3300, 3400]
    app.break_all(batch, {"A": same, "B": same, "C": [1000, 3500, 3550, 3600, 3650]})
    schools = {s["key"]: s for s in app.compare(batch, figure="load")["schools"]["schools"]}
    assert schools["mean"]["places"] == {"A": 1, "B": 1, "C": 3}
    assert schools["middle"]["values"]["C"] == pytest.approx(3550)
    assert schools["middle"]["places"] == {"A": 2, "B": 2, "C": 1}
    assert schools["middle"]["moved"] == ["A", "B", "C"]
    assert schools["minimum"]["places"]["C"] == 3
    text = app.compare(batch, figure="load")["schools"]["text"]
    assert text.startswith("The winner depends on how you average")


def test_tape_and_clamps_at_each_age(app: App) -> None:
    """A table of pressing by age: each way of pressing has its own line, tape is set against clamps at each age."""
    press = factor("pressure_mpa", "Clamp pressure", "tape", 0.6, unit="MPa")
    batch = study(app, press, factor("cure_s", "Cure time", 1 * H, 3 * H, 6 * H, 12 * H, unit="h"),
                  control={"pressure_mpa": "l2"}, n=4, constants={"clamp_s": {"value": H, "unit": "h"}})  # fmt: skip
    names = [t["label"] for t in app.compare(batch)["treatments"]]
    truth = {}
    for label in names:
        way, age = label.split(" · ")
        hours = float(age.removeprefix("cure time ").removesuffix(" h"))
        truth[label] = (3000 if "tape" in way else 4000) * (1 - 2.718 ** (-hours / 1.5))
    broken(app, batch, truth, cv=0.05)
    view = app.compare(batch, figure="load")
    tape = family(view, "pressure_mpa")
    assert len(tape["comparisons"]) == 4
    assert tape["pooled"][0]["low"] < 0.75 < tape["pooled"][0]["high"]
    assert len(view["axes"][0]["series"]) == 2
    assert headline(view).startswith("Nothing but 0.6 MPa")
    assert "tape reaches only 7" in headline(view).lower()


def test_evenings_are_taken_out_of_how_hard_to_press(app: App) -> None:
    """Twelve of each pressure over three evenings of which the second was a fifth weaker; flat from the second on."""
    pressures = (0.05, 0.4, 0.8, 1.6)
    batch = study(app, factor("pressure_mpa", "Clamp pressure", *pressures, unit="MPa"),
                  control={"pressure_mpa": "l4"}, n=12, blocks={"kind": "session", "count": 3})  # fmt: skip
    rng = random.Random(9)
    truth = dict(zip("ABCD", (3400, 4000, 4000, 4050), strict=True))
    evening = (1.15, 0.8, 1.05)
    lines = list(csv.DictReader(app.client.get(f"/api/batches/{batch}/specimens.csv").text.splitlines()))
    blocks = {r["code"]: int(r["block"]) for r in lines}
    joints = {r["code"]: r["treatment"] for r in app.get(f"/batches/{batch}/break")["rows"]}
    for evening_of in (1, 2, 3):
        for letter, pressure in zip("ABCD", pressures, strict=True):
            own = [c for c in app.codes(batch, "joint") if blocks[c] == evening_of and joints[c] == letter]
            app.glue(batch, own, force_n=pressure * 500.0)
        app.clock.pass_(days=1)
    for row in app.get(f"/batches/{batch}/break")["rows"]:
        load = truth[row["treatment"]] * evening[blocks[row["code"]] - 1] * rng.gauss(1, 0.05)
        app.observe(batch, row["code"], low=f"{load:.0f} N", failure_mode="in-glue")
    view = app.compare(batch, figure="load")
    found = family(view, "pressure_mpa")
    assert {c["route"] for c in found["comparisons"]} == {"blocks"}
    assert headline(view).startswith("0.4 MPa is enough: ")
    assert found["blocks"].startswith("Judged within 3 sessions")
    assert "would end otherwise" in found["blocks"]
    (within,) = [x for x in view["answers"][0]["evidence"] if x.startswith("Compared within 3 sessions")]
    assert int(within.split(" %")[0].split()[-1]) > 60
    assert {c["basis"] for c in view["answers"][0]["claims"]} == {"means within blocks"}


def test_under_a_standing_load_it_is_asked_how_long_they_last(app: App) -> None:
    """At half of what both bear at once casein gives way within minutes, PVA within days or not at all."""
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=8)
    place = {"A": 0, "B": 0}
    for row in app.get(f"/batches/{batch}/break")["rows"]:
        letter = row["treatment"]
        n = place[letter] = place[letter] + 1
        if n <= 2:
            app.observe(batch, row["code"], low="4000 N", failure_mode="in-glue")
        elif letter == "A" and n > 5:
            app.observe(batch, row["code"], kind="at_least", low="2000 N", held="100 h")
        else:
            time = f"{n * (20 if letter == 'A' else 0.1)} h"
            app.observe(batch, row["code"], kind="held", low="2000 N", held=time, failure_mode="in-glue")
    view = app.compare(batch)
    assert view["answers"][0]["kind"] == "how_long_does_it_hold", "nobody asked, and loads stood on most pieces"
    assert headline(view).startswith("Damp-proof PVA")
    standing = {r["name"]: r["standing"] for r in view["answers"][0]["table"]}
    assert standing == {"Damp-proof PVA": "top", "Casein": "weaker"}
    (under,) = view["lasting"]
    assert {p["share"] for p in under["pieces"]} == {0.5}
    assert [p["failed"] for p in under["pieces"] if p["letter"] == "A"].count(False) == 3


def test_a_school_of_averaging_is_a_switch_and_says_what_it_turns(app: App) -> None:
    """X 400, 900, 950 and Y 700, 710, 720: by the mean X comes first, by the lowest piece Y."""
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={}, n=3)
    loads = {"A": iter((400, 900, 950)), "B": iter((700, 710, 720))}
    for row in app.get(f"/batches/{batch}/break")["rows"]:
        app.observe(batch, row["code"], low=f"{next(loads[row['treatment']])} N", failure_mode="in-glue")
    usual = app.compare(batch, figure="load")
    assert [t["estimate"]["value"] for t in usual["treatments"]] == [750, 710]
    lowest = app.compare(batch, figure="load", school="minimum")
    assert [t["estimate"] for t in lowest["treatments"]] == [
        {"of": "lowest piece", "value": 400, "low": None, "high": None},
        {"of": "lowest piece", "value": 700, "low": None, "high": None},
    ]
    assert lowest["changed"][0] == "The order of Damp-proof PVA and Casein turns."
    assert app.compare(batch, figure="load", school="mean")["changed"] == usual["changed"]
    assert app.get(f"/batches/{batch}/compare?school=best", 422)["errors"][0]["field"] == "school"


def test_bond_and_wood_are_told_on_their_own(app: App) -> None:
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=6)
    rng = random.Random(8)
    for n, row in enumerate(app.get(f"/batches/{batch}/break")["rows"]):
        mode, wood = (("in-glue", 0), ("mixed", 60), ("wood-deep", 100))[n % 3]
        app.observe(batch, row["code"], low=f"{4000 * rng.gauss(1, 0.08):.0f} N", failure_mode=mode,
                    wood_failure_pct=wood)  # fmt: skip
    view = app.get(f"/batches/{batch}/bonds")
    assert (view["mixed_at_pct"], view["dimension"]) == (50, "stress")
    assert [r["n"] for r in view["rows"]] == [6, 6]
    for r in view["rows"]:
        assert r["bond"]["failures"] + r["wood"]["failures"] == 6
        assert r["mixed"] > 0
    # In the view of the bond those with most of their face in the wood are bounds.
    bond = app.compare(batch, target="adhesive")
    marks = [m for t in bond["treatments"] for m in t["marks"]]
    assert {m["failure_mode"] for m in marks if m["high"] is None} == {"mixed", "wood-deep"}


def test_along_an_axis_the_slope_and_where_a_share_is_reached(app: App) -> None:
    """Straight from 2,000 N at 1 h to 4,000 N at 5 h, without a bend: 500 N an hour; 80 % of 5 h at 3.4 h."""
    batch = study(app, factor("clamp_s", "Clamp time", H, 3 * H, 5 * H, unit="h"), control={"clamp_s": "l3"}, n=6)
    rng = random.Random(12)
    truth = dict(zip("ABC", (2000, 3000, 4000), strict=True))
    for row in app.get(f"/batches/{batch}/break")["rows"]:
        load = truth[row["treatment"]] + rng.gauss(0, 60)
        app.observe(batch, row["code"], low=f"{load:.0f} N", failure_mode="in-glue")
    view = app.compare(batch, figure="load", reach=0.8)
    (axis,) = view["axes"]
    slope = axis["series"][0]["slope"]
    assert axis["unit"] == "h"
    assert slope["low"] < 500 < slope["high"]
    assert slope["by"] == pytest.approx(500, rel=0.05)
    assert slope["lack_p"] > 0.05
    (found,) = view["reached"]
    assert found["straight"] == pytest.approx(3.4 * H, rel=0.04)
    assert found["earliest"] < found["straight"] < found["latest"]
    assert found["text"].startswith("It reaches 80 % of 5 h at 3.")
    assert view["changed"] == app.compare(batch, figure="load")["changed"], "looking for it changes nothing"
    assert view["scope"].startswith("Holds for: Compression shear block; lap; Ash;")
    assert app.get(f"/batches/{batch}/compare?reach=5", 422)


def test_load_and_strength_may_tell_different_orders(app: App) -> None:
    """1,800 N on 600 mm2 and 2,400 N on 900 mm2: per joint the second holds more, per area the first (3.00 to 2.67)."""
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=3)
    wide = {"A": "24", "B": "36"}
    cells = [(r["code"], "width", wide[r["treatment"]]) for r in app.get(f"/batches/{batch}/break")["rows"]]
    app.sizes(batch, cells)
    for row in app.get(f"/batches/{batch}/break")["rows"]:
        load = 1800 if row["treatment"] == "A" else 2400
        app.observe(batch, row["code"], low=f"{load + row['break_order']} N", failure_mode="in-glue")
    weak = [c["text"] for c in app.compare(batch)["caveats"] if c["weight"] == 0]
    assert any(x.startswith("By load Casein holds most, by strength Damp-proof PVA") for x in weak)


def test_a_joint_that_broke_in_the_wood_keeps_its_share_of_solid(app: App) -> None:
    """Bonds of 4,000 N against solid wood of 5,000: four fifths, though every third joint is only a bound."""
    batch = study(app, factor("glue", "Glue", "pva-damp", "casein"), control={"glue": "l1"}, n=9, solid_reference=6)
    rng = random.Random(5)
    for n, row in enumerate(app.get(f"/batches/{batch}/break")["rows"]):
        if row["role"] == "solid":
            app.observe(batch, row["code"], low=f"{5000 * rng.gauss(1, 0.05):.0f} N", failure_mode="wood-deep")
            continue
        bond = 4000 * rng.gauss(1, 0.05)
        held = n % 3 == 0
        app.observe(batch, row["code"], low=f"{bond * (0.97 if held else 1):.0f} N",
                    failure_mode="wood-deep" if held else "in-glue")  # fmt: skip
    view = app.compare(batch, target="adhesive")
    for t in view["treatments"]:
        if t["role"] != "solid":
            assert t["bounded"]
            assert t["efficiency_missing"] is None
            assert t["efficiency_pct"] == pytest.approx(80, abs=5)
            assert t["efficiency_low_pct"] < 80 < t["efficiency_high_pct"]
    solid = next(a for a in view["answers"] if a["kind"] == "close_to_solid")
    assert [r["share"] for r in solid["table"]] == [pytest.approx(0.8, abs=0.05)] * 2


def test_nothing_tape_and_clamps_by_age_with_panels_as_units(app: App) -> None:
    """Panels sawn into three sections, by a bucket filled on an arm; some break half a minute after the last pour."""
    batch = app.planned("pva-damp", "casein", replicates=9, solid=0)
    document = app.get(f"/batches/{batch}/plan")["document"]
    held = {k: v for k, v in document["constants"].items() if k != "cure_s"}
    ages, means = (1.0, 3.0, 12.0), ("nothing", "tape", "screw")
    app.draft(
        batch, method="edge-fold", sizes=FOLDING, parents=PANEL, control={"press_by": "l3"},
        factors=[factor("press_by", "Means of pressing", *means),
                 factor("cure_s", "Cure time", *(a * H for a in ages), unit="h")],
        constants={**held, "glue": {"value": "pva-damp", "unit": ""}, "form": {"value": "edge", "unit": ""},
                   "clamp_s": {"value": 0.75 * H, "unit": "h"},
                   "orientation": {"value": "long-parallel", "unit": ""}},
    )  # fmt: skip
    app.lock(batch)
    labels = {t["letter"]: t["label"] for t in app.compare(batch, figure="load")["treatments"]}
    lines = {
        r["code"]: r for r in csv.DictReader(app.client.get(f"/api/batches/{batch}/specimens.csv").text.splitlines())
    }
    rng, panel = random.Random(21), {}
    for n, row in enumerate(app.get(f"/batches/{batch}/break")["rows"]):
        label, own = labels[row["treatment"]], (row["treatment"], lines[row["code"]]["parent_number"])
        pressed = {"Nothing on it": 0.5, "Tape": 0.8, "Bar or screw clamp": 1.0}[label.split(" · ")[0]]
        grown = {"1 h": 0.4, "3 h": 0.8, "12 h": 1.0}[next(a for a in ("12 h", "1 h", "3 h") if a in label)]
        scatter = panel.setdefault(own, rng.gauss(1, 0.04)) * rng.gauss(1, 0.02)
        load = {"low": f"{1000 * pressed * grown * scatter:.1f} N", "failure_mode": "in-glue"}
        app.observe(batch, row["code"], **(load | ({"kind": "held", "held": "30 s"} if n % 5 == 0 else {})))
    view = app.compare(batch)
    assert view["counted"]["unit"] == "parents"
    assert {t["n"] for t in view["treatments"]} == {3}
    assert {t["pieces"] for t in view["treatments"]} == {9}, "a hold time does not make the load disappear"
    found = family(view, "press_by")
    assert len(found["comparisons"]) == 6, "tape and nothing against clamps at each age"
    over = {o["name"].split(" against ")[0].lower(): o["ratio"] for o in found["pooled"]}
    assert sorted(over.values()) == pytest.approx([0.5, 0.8], rel=0.05)
    (axis,) = view["axes"]
    assert len(axis["series"]) == 3, "the gain with age for each pressing"
    assert not any("not the same in each" in c for c in view["answers"][0]["caveats"]), "the same share at every age"
    # Pieces as units are a choice; then three sections of one panel pass for independent, and it is said.
    pieces = app.compare(batch, unit="pieces")
    assert {t["n"] for t in pieces["treatments"]} == {9}
    assert any("of the variance lies between panels" in text for text in pieces["units"])
