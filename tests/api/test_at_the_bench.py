"""At the bench: labels and air, taps from the first coat to the squeeze-out, and what is told of joints."""

from __future__ import annotations

import re
from datetime import timedelta
from typing import Any

import pytest

from tests.workshop import Bench, fields

LABEL = {"label": "Bottle 1", "family": "pva-damp", "limits": {
    "open_s": 300, "clamp_s": 2100, "pressure_low_mpa": 1.0, "pressure_high_mpa": 1.6, "least_c": 10,
}}  # fmt: skip


def tap(bench: Bench, batch: int, kind: str, status: int = 200, key: str = "", **more: Any) -> Any:
    body = {"kind": kind, "at": bench.clock.at.isoformat(), **more}
    headers = {"Idempotency-Key": key} if key else {}
    return bench.post(f"/batches/{batch}/taps", body, status, **headers)


def guide(bench: Bench, batch: int, query: str = "") -> Any:
    return bench.get(f"/batches/{batch}/guide{query}")


def piece(bench: Bench, batch: int, code: str) -> Any:
    return next(p for p in bench.get(f"/batches/{batch}/glue")["pieces"] if p["code"] == code)


def tell(bench: Bench, batch: int, kind: str, codes: list[str], status: int = 200, **value: Any) -> Any:
    return bench.post(f"/batches/{batch}/told", {"kind": kind, "codes": codes, "value": value}, status)


def glued(bench: Bench, **changes: Any) -> tuple[int, list[str]]:
    batch = bench.locked("pva-damp", "casein", solid=2, **changes)
    codes = bench.codes(batch, "joint")
    bench.glue(batch, codes)
    return batch, codes


def test_the_limits_are_those_of_the_label_and_the_air(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein", solid=2)
    first = guide(bench, batch)
    family = first["open_s"]
    assert guide(bench, batch, "?air_c=30")["open_s"] == pytest.approx(family / 2)
    bench.post("/bottles", {**LABEL, "family": first["glue"]})
    cold = guide(bench, batch, "?bottle=Bottle%201&air_c=5")
    # By hand: 300 s at 20 degrees are 300 * 2^1.5 at 5.
    assert cold["open_s"] == pytest.approx(848.5, abs=0.1)
    assert "wants 10 °C" in cold["limits_text"]
    # The bottle that is offered first is the one that the limits are for; without one it is the family's figure.
    assert (guide(bench, batch)["bottles"], guide(bench, batch)["open_s"]) == (["Bottle 1"], 300)
    assert guide(bench, batch, "?bottle=")["open_s"] == family


def test_outside_of_its_label_a_joint_is_marked(bench: Bench) -> None:
    bench.post("/bottles", LABEL)
    batch = bench.locked("pva-damp", "polyurethane", solid=2)
    own = [p["code"] for p in bench.get(f"/batches/{batch}/glue")["pieces"] if p["glue"] == "pva-damp"]
    # 300 N on 20 x 25 mm: 0.6 MPa, and only half an hour in the clamp.
    bench.glue(batch, own, force_n=300.0, bottle="Bottle 1", air_c=8)
    bench.clock.pass_(minutes=30)
    bench.post(f"/batches/{batch}/unclamp", {"codes": own})
    flags = piece(bench, batch, own[0])["flags"]
    assert "below its label's 1 MPa" in flags
    assert "clamped 5:00 shorter than its label says" in flags
    assert "colder than its label's 10 °C" in flags


def test_a_label_with_a_wrong_figure_is_refused_by_its_field(bench: Bench) -> None:
    wrong = {**LABEL, "limits": {"open_s": 300, "clamp_s": -1}}
    assert fields(bench.post("/bottles", wrong, 422)) == {"limits.clamp_s"}
    assert bench.get("/shop")["bottles"] == []


def test_what_a_bottle_went_through_shows_on_what_is_glued_later(bench: Bench) -> None:
    shop = bench.post("/bottles", {**LABEL, "limits": {}})
    number = shop["bottles"][0]["bottle"]["id"]
    batch = bench.locked("pva-damp", "polyurethane", solid=2)
    own = [p["code"] for p in bench.get(f"/batches/{batch}/glue")["pieces"] if p["glue"] == "pva-damp"]
    bench.glue(batch, own[:1], bottle="Bottle 1")
    bench.clock.pass_(hours=1)
    for kind, note, hours in (("frozen", "", 48), ("thawed", "", 1), ("looks", "thick paste", 21)):
        bench.post(f"/bottles/{number}/events", {"kind": kind, "note": note})
        bench.clock.pass_(hours=hours)
    bench.glue(batch, own[1:2], bottle="Bottle 1")
    assert "bottle: frozen once, thawed 22 h, thick paste" in piece(bench, batch, own[1])["flags"]
    assert not [f for f in piece(bench, batch, own[0])["flags"] if "bottle" in f]
    view = bench.get("/shop")["bottles"][0]
    assert view["state"] == "frozen once, thawed 22 h, thick paste"
    assert [e["kind"] for e in view["events"]] == ["frozen", "thawed", "looks"]


@pytest.mark.parametrize(
    ("body", "status", "field"),
    [({"kind": "dropped"}, 422, "kind"), ({"kind": "looks"}, 422, "note"),
     ({"kind": "frozen", "at": "2030-01-01T00:00:00Z"}, 422, "at")],
)  # fmt: skip
def test_what_cannot_happen_to_a_bottle(bench: Bench, body: Any, status: int, field: str) -> None:
    number = bench.post("/bottles", LABEL)["bottles"][0]["bottle"]["id"]
    assert fields(bench.post(f"/bottles/{number}/events", body, status)) == {field}
    bench.post("/bottles/99/events", {"kind": "frozen"}, 404)
    assert bench.get("/shop")["bottles"][0]["events"] == []


def test_open_time_and_pot_life_exceeded_are_told_by_how_much(bench: Bench) -> None:
    batch = bench.locked("epoxy-fast", "pva-damp", solid=2)
    codes = [p["code"] for p in bench.get(f"/batches/{batch}/glue")["pieces"] if p["glue"] == "epoxy-fast"]
    tap(bench, batch, "mixed", key="mix-of-today", codes=codes, text="left warm for 2 days", ratio="2 : 1", air_c=20)
    limit = guide(bench, batch)["open_s"]
    assert limit == 240
    bench.clock.pass_(seconds=20)
    tap(bench, batch, "spread", code=codes[0])
    bench.clock.pass_(seconds=limit + 70)
    tap(bench, batch, "clamped", code=codes[0], mix="mix-of-today")
    told = piece(bench, batch, codes[0])
    assert told["open_s"] == limit + 70
    assert "open time exceeded by 1:10" in told["flags"]
    assert "mix: left warm for 2 days" in told["flags"]
    # Spread 20 s after mixing, closed 310 s later: 330 s of the five minutes that the mix lasts.
    assert "pot life exceeded by 0:30" in told["flags"]
    assert any("left warm for 2 days" in text for text in bench.compare(batch)["along"])


def test_mixed_glue_that_is_not_spread_stands_under_today(bench: Bench) -> None:
    batch = bench.locked("epoxy-slow", "epoxy-fast", solid=2)
    view = guide(bench, batch)
    codes = [p["code"] for p in view["pieces"]]
    tap(bench, batch, "mixed", key="mix-of-today", codes=codes, air_c=20)
    due = next(d for d in bench.get("/today")["due"] if d["what"] == "The mixed glue ends")
    assert (due["stage"], due["pieces"]) == ("bench", len(codes))
    mixed = guide(bench, batch)
    assert due["at"] == (bench.clock.at + timedelta(seconds=mixed["pot_s"])).strftime("%Y-%m-%dT%H:%M:%S.000Z")
    for code in codes:
        bench.clock.pass_(seconds=30)
        tap(bench, batch, "clamped", code=code, mix="mix-of-today")
    assert not [d for d in bench.get("/today")["due"] if d["what"] == "The mixed glue ends"]


def test_a_mix_that_was_forgotten_does_not_hold_up_the_bench(bench: Bench) -> None:
    batch = bench.locked("epoxy-slow", "epoxy-fast", solid=2)
    codes = [p["code"] for p in guide(bench, batch)["pieces"]]
    tap(bench, batch, "mixed", key="mix-of-today", codes=codes)
    tap(bench, batch, "clamped", code=codes[0], mix="mix-of-today")
    bench.clock.pass_(hours=11)
    assert guide(bench, batch)["mixed_at"] is not None
    bench.clock.pass_(days=2)
    again = guide(bench, batch)
    assert again["mixed_at"] is None
    assert codes[0] not in [p["code"] for p in again["pieces"]]
    assert not [d for d in bench.get("/today")["due"] if d["what"] == "The mixed glue ends"]


def test_a_sized_face_gets_its_first_coat_first(bench: Bench) -> None:
    batch = bench.planned("pva-damp", "casein", solid=2)
    constants = bench.get(f"/batches/{batch}/plan")["document"]["constants"]
    bench.draft(batch, constants={**constants, "prep": {"value": "sized", "unit": ""}})
    bench.lock(batch)
    first = guide(bench, batch)["pieces"][0]
    assert (first["coat"], first["coat_at"]) == (True, None)
    tap(bench, batch, "mixed", key="mix-of-today", codes=[p["code"] for p in guide(bench, batch)["pieces"]])
    tap(bench, batch, "coat", code=first["code"])
    assert guide(bench, batch)["pieces"][0]["coat_at"] is not None
    bench.post(f"/batches/{batch}/undo", {"stage": "glue"})
    assert guide(bench, batch)["pieces"][0]["coat_at"] is None


def test_from_clamps_off_to_the_squeeze_out_by_taps_each_counted_once(bench: Bench) -> None:
    batch, codes = glued(bench)
    waiting = [t for t in guide(bench, batch)["tasks"] if t["kind"] == "unclamp"]
    assert sorted(c for t in waiting for c in t["codes"]) == sorted(codes)
    bench.clock.pass_(hours=5)
    for _ in range(2):
        tap(bench, batch, "unclamped", key="all-clamps-off", codes=codes)
    clean = [t for t in guide(bench, batch)["tasks"] if t["kind"] == "clean"]
    assert sorted(clean[0]["codes"]) == sorted(codes)
    tap(bench, batch, "cleaned", codes=codes[2:], text="chiselled")
    tap(bench, batch, "cleaned", codes=codes[:2], text="left")
    assert not [t for t in guide(bench, batch)["tasks"] if t["kind"] in ("clean", "unclamp")]
    words = [dict(p["told"])["squeeze-out"] for p in bench.get(f"/batches/{batch}/glue")["pieces"]]
    assert (words.count("left"), words.count("chiselled")) == (2, len(codes) - 2)
    assert fields(tap(bench, batch, "unclamped", 422, codes=codes[:1])) == {"codes.0"}
    assert fields(tap(bench, batch, "cleaned", 422, codes=codes[:1], text="licked")) == {"value.how"}


def test_a_bath_is_tapped_in_and_out_at_the_bench(bench: Bench) -> None:
    batch = bench.planned("pva-damp", "casein", solid=2)
    constants = bench.get(f"/batches/{batch}/plan")["document"]["constants"]
    bench.draft(batch, constants={**constants, "conditioning": {"value": "soak-24h-dried", "unit": ""}})
    bench.lock(batch)
    codes = bench.codes(batch, "joint")
    bench.glue(batch, codes)
    bench.clock.pass_(hours=5)
    tap(bench, batch, "unclamped", codes=codes)
    bench.clock.pass_(hours=70)
    assert [t["kind"] for t in guide(bench, batch)["tasks"]] == ["in"]
    tap(bench, batch, "in", codes=codes)
    bench.clock.pass_(hours=24)
    out = guide(bench, batch)["tasks"]
    assert [(t["kind"], t["at"]) for t in out] == [("out", bench.clock.at.strftime("%Y-%m-%dT%H:%M:%S.000Z"))]
    tap(bench, batch, "out", codes=codes)
    assert [t["kind"] for t in guide(bench, batch)["tasks"]] == ["break"]


def test_a_slipped_joint_has_less_area_and_more_stress(bench: Bench) -> None:
    batch, codes = glued(bench, sizes={"width": 25.0, "overlap": 30.0, "thickness": 20.0})
    before = piece(bench, batch, codes[0])
    assert before["area_mm2"] == 750
    tell(bench, batch, "shift", codes[:1], along_mm=1.5)
    after = piece(bench, batch, codes[0])
    assert after["area_mm2"] == pytest.approx(712.5)
    assert after["pressure_mpa"] == pytest.approx(before["pressure_mpa"] * 750 / 712.5)
    assert dict(after["told"])["shift"] == "along the overlap 1.5 mm"
    bench.observe(batch, codes[0], low="3600 N", failure_mode="in-glue")
    marks = {m["code"]: m for t in bench.compare(batch)["treatments"] for m in t["marks"]}
    assert marks[codes[0]]["low"] == pytest.approx(3600 / 712.5, rel=1e-3)
    assert fields(tell(bench, batch, "shift", codes[:1], 422, along_mm=1)) == {"codes.0"}


def test_one_weight_over_several_joints_is_shared_by_area(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein", solid=2)
    codes = bench.codes(batch, "joint")
    bench.sizes(batch, [(codes[2], "overlap", "10")])
    # 60 N over 20 x 25, 20 x 25 and 20 x 10 mm: 0.05 MPa on each of them; the fourth lies alone under its own.
    bench.glue(batch, codes[:4], force_n=60.0, over=3)
    pressures = [piece(bench, batch, c)["pressure_mpa"] for c in codes[:4]]
    assert pressures == pytest.approx([0.05, 0.05, 0.05, 60 / 500])
    wrong = bench.glue(batch, codes[4:], 422, over=2, clamps=2)
    assert fields(wrong) == {"clamps"}
    assert fields(bench.glue(batch, codes[4:], 422, over=0)) == {"over"}


def test_forces_read_at_the_clamp_stand_side_by_side(bench: Bench) -> None:
    batch, codes = glued(bench)
    tell(bench, batch, "force", codes[:1], force_n=900)
    bench.clock.pass_(hours=1)
    tell(bench, batch, "force", codes[:1], force_n=610)
    told = piece(bench, batch, codes[0])
    assert ("force", "fell by 32 % since the first reading") in [tuple(t) for t in told["told"]]
    # What pressed at closing counts: 900 N on 20 x 25 mm.
    assert told["pressure_mpa"] == pytest.approx(900 / 500)


def test_fasteners_left_in_are_minded_in_the_comparison(bench: Bench) -> None:
    batch, codes = glued(bench)
    tell(bench, batch, "fastener", codes[:3], count=2, diameter_mm=1.2, left="left in")
    assert piece(bench, batch, codes[0])["area_mm2"] == pytest.approx(500 - 2.262, abs=0.01)
    text = next(t for t in bench.compare(batch)["along"] if "Fasteners" in t)
    assert "not held by the glue alone" in text
    told = sum(int(n) for n in re.findall(r"\((\d+) joints?\)", text))
    assert told == 3


def test_ages_that_came_apart_are_minded_in_the_comparison(bench: Bench) -> None:
    batch, _ = glued(bench)
    rows = bench.get(f"/batches/{batch}/break")["rows"]
    bench.clock.pass_(hours=24)
    for letter, hours in (("A", 23), ("B", 0)):
        for row in rows:
            if row["treatment"] == letter:
                bench.observe(batch, row["code"], low="3000 N", failure_mode="in-glue")
        bench.clock.pass_(hours=hours)
    text = next(t for t in bench.compare(batch)["along"] if t.startswith("Age differs"))
    assert "24 h" in text
    assert "47 h" in text


@pytest.mark.parametrize(
    ("kind", "value", "field"),
    [("colour", {"how": "red"}, "kind"), ("shift", {"along_mm": -1}, "value.along_mm"), ("amount", {}, "value")],
)
def test_what_cannot_be_told_leaves_nothing_behind(bench: Bench, kind: str, value: Any, field: str) -> None:
    batch, codes = glued(bench)
    assert fields(tell(bench, batch, kind, codes, 422, **value)) == {field}
    assert all(p["told"] == [] for p in bench.get(f"/batches/{batch}/glue")["pieces"])


def test_nothing_is_told_of_a_joint_that_is_not_glued(bench: Bench) -> None:
    batch = bench.locked("pva-damp", "casein", solid=2)
    codes = bench.codes(batch, "joint")
    assert fields(tell(bench, batch, "squeeze-out", codes[:1], 422, how="left")) == {"codes.0"}


def test_undo_takes_back_what_was_told(bench: Bench) -> None:
    batch, codes = glued(bench)
    tell(bench, batch, "shift", codes[:1], along_mm=5)
    bench.post(f"/batches/{batch}/undo", {"stage": "glue"})
    assert (piece(bench, batch, codes[0])["area_mm2"], piece(bench, batch, codes[0])["told"]) == (500, [])
