"""One piece in full: members, faces, faults, and halves that were swapped."""

from __future__ import annotations

from typing import Any

from tests.running import App, fields, overturning


def piece(app: App, batch: int, code: str) -> Any:
    return app.get(f"/batches/{batch}/pieces/{code}")


def test_what_was_done_to_a_face_is_an_ordered_list(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    codes = app.codes(batch, "joint")[:2]
    steps = [
        {"side": "a", "step": "sanded", "grit": 150, "at": "2026-11-23T05:30:00Z"},
        {"side": "a", "step": "first coat", "dilution": "1 : 1", "wait_s": 600},
        {"side": "b", "step": "sanded", "grit": 50, "at": "2026-11-23T06:30:00Z"},
        {"side": "b", "step": "sanded", "grit": 80, "at": "2026-11-23T07:30:00Z"},
    ]
    assert app.post(f"/batches/{batch}/faces", {"codes": codes, "steps": steps}) == {"pieces": 2}
    app.glue(batch)
    for code in codes:
        view = piece(app, batch, code)
        assert [(s["side"], s["step"]) for s in view["steps"]] == [
            ("a", "sanded"), ("a", "first coat"), ("b", "sanded"), ("b", "sanded"),
        ]  # fmt: skip
        assert view["coarsest"] == 50
        assert view["since_machining_h"] == {"a": 3.0, "b": 1.0}, "from the last machining to gluing at 8:30"
    again = [{"side": "a", "step": "planed", "at": "2026-11-23T08:00:00Z"}]
    app.post(f"/batches/{batch}/faces", {"codes": codes[:1], "steps": again})
    assert [s["step"] for s in piece(app, batch, codes[0])["steps"]] == ["planed", "sanded", "sanded"]
    assert len(piece(app, batch, codes[1])["steps"]) == 4
    app.post(f"/batches/{batch}/undo", {"stage": "cut"})
    assert len(piece(app, batch, codes[0])["steps"]) == 4


def test_a_wrong_step_is_named_and_nothing_written(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    wrong = [{"side": "a", "step": "sanded"}, {"side": "c", "step": "", "grit": 3}]
    problem = app.post(f"/batches/{batch}/faces", {"codes": [code], "steps": wrong}, 422)
    assert fields(problem) == {"steps.1.side", "steps.1.step", "steps.1.grit"}
    assert piece(app, batch, code)["steps"] == []
    late = [{"side": "a", "step": "sanded", "at": "yesterday"}]
    assert fields(app.post(f"/batches/{batch}/faces", {"codes": [code], "steps": late}, 422)) == {"at"}


def test_a_fault_knows_whether_it_was_found_before_the_test(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    code = app.codes(batch, "joint")[0]
    app.post(f"/batches/{batch}/pieces/{code}/defects", {"side": "b", "text": "sapwood at the end"})
    app.observe(batch, code, low="4000 N", failure_mode="in-glue")
    view = app.post(f"/batches/{batch}/pieces/{code}/defects", {"side": "a", "text": "knot, 6 mm from line"})
    assert [(d["side"], d["text"], d["found"]) for d in view["defects"]] == [
        ("b", "sapwood at the end", "before the test"),
        ("a", "knot, 6 mm from line", "after the test"),
    ]
    assert fields(app.post(f"/batches/{batch}/pieces/{code}/defects", {"side": "z", "text": ""}, 422)) == {
        "side",
        "text",
    }


def test_halves_cannot_be_swapped_unnoticed(app: App) -> None:
    batch = app.locked("pva-damp", "casein")
    one, two = app.codes(batch, "joint")[:2]

    def check(first: str, second: str, status: int = 200) -> Any:
        return app.post(f"/batches/{batch}/pair", {"first": first, "second": second}, status)

    assert check(f"{one}-a", f"{one.lower()}-b")["right"]
    assert "belong to two pieces" in check(f"{one}-a", f"{two}-b")["text"]
    assert "Both are the half a" in check(f"{one}-a", f"{one}-a")["text"]
    assert fields(check(f"{one}-a", one, 422)) == {"second"}
    app.post(f"/batches/{batch}/swap", {"first": f"{one}-a", "second": f"{two}-b"})
    view = piece(app, batch, one)
    assert view["pair"] == [f"{one}-a", f"{two}-b"]
    assert view["swapped"] == f"{one}-a faces {two}-b"


def test_pieces_of_one_glueup_are_told_to_share_it(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=4, solid=3)
    rows = app.get(f"/batches/{batch}/glue")["pieces"]
    own = {t: [p["code"] for p in rows if p["treatment"] == t] for t in "AB"}
    for half in (0, 2):
        app.glue(batch, [*own["A"][half : half + 2], *own["B"][half : half + 2]])
    for code, load in zip(own["A"], (4000, 4100, 5000, 5100), strict=True):
        app.observe(batch, code, low=f"{load} N", failure_mode="in-glue")
    said = app.compare(batch, figure="load")["units"]
    # Means of the two glue-ups 4050 and 5050: their standard error is 500 N; that of four pieces sqrt(1010000/3/4).
    # Between them (1000000 - 5000)/2 = 497500, within 5000: 99 % between.
    assert said == [
        "Damp-proof PVA: 2 glue-ups, 4 pieces. Pieces are the units here (standard error 290 N); "
        "with glue-ups as units it is 500 N. 99 % of the variance lies between glue-ups."
    ]  # fmt: skip


def test_claims_end_with_the_figures_beside_them(app: App) -> None:
    claims = [{"text": "Casein beats PVA", "treatments": ["glue=l2", "glue=l1"]}]
    side = [{"text": "And epoxy?", "treatments": ["glue=l3"]}]
    batch = app.locked("pva-damp", "casein", "epoxy-slow", claims=claims, side_questions=side)
    app.break_all(batch, {"A": [5000, 5100, 5200], "B": [3000, 3100, 3200], "C": [6000, 6100, 6200], "D": [7e3] * 3})
    view = app.compare(batch, figure="load")
    assert [t["letter"] for t in view["treatments"]] == ["A", "B", "D"], "C answers the side question only"
    assert [(s["question"], [t["letter"] for t in s["treatments"]]) for s in view["sides"]] == [
        ("And epoxy?", ["A", "C", "D"])
    ]
    assert (view["claims"][0]["state"], view["claims"][0]["treatments"]) == ("", ["B", "A"])
    say = {"claim": "c1", "state": "not supported", "note": "3100 N against 5100 N"}
    app.post(f"/batches/{batch}/claim", say, 201)
    assert app.compare(batch)["claims"][0]["state"] == "not supported"
    assert fields(app.post(f"/batches/{batch}/claim", {**say, "state": "perhaps"}, 422)) == {"state"}
    assert fields(app.post(f"/batches/{batch}/claim", {**say, "claim": "c9"}, 422)) == {"claim"}


def test_a_claim_in_figures_ends_by_itself_and_objects_to_the_contrary(app: App) -> None:
    claims = [
        {"text": "PVA beats casein", "treatments": ["glue=l1"], "says": "stronger", "against": "glue=l2"},
        {"text": "Casein reaches 80 % of PVA", "treatments": ["glue=l2"], "says": "share", "against": "glue=l1",
         "share": 0.8},
        {"text": "PVA is as good as wood", "treatments": ["glue=l1"], "says": "same", "against": "solid:ash"},
        {"text": "Casein smells", "treatments": ["glue=l2"]},
    ]  # fmt: skip
    batch = app.locked("pva-damp", "casein", claims=claims)
    ends = [c["by_figures"] for c in app.compare(batch)["claims"]]
    assert ends == ["not tested"] * 4
    app.break_all(batch, {"A": [5000, 5100, 5200], "B": [3000, 3100, 3200], "C": [5000, 7000, 9000]})
    view = app.compare(batch)["claims"]
    assert [c["by_figures"] for c in view] == ["supported", "not supported", "can't tell yet", ""]
    assert "80 % was claimed" in view[1]["figures"][0]
    app.post(f"/batches/{batch}/claim", {"claim": "c2", "state": "supported", "note": "felt so"}, 201)
    assert "not supported" in app.compare(batch)["claims"][1]["objection"]
    # Without figures of its own a claim names those that decide it.
    bare = {"claim": "c4", "state": "supported", "note": " "}
    assert fields(app.post(f"/batches/{batch}/claim", bare, 422)) == {"note"}


def test_what_left_its_tolerance_and_what_runs_along(app: App) -> None:
    batch = app.locked("pva-damp", "casein", replicates=2, solid=2, tolerances={"clamp_s": 1800.0, "air_c": 2.0})
    rows = app.get(f"/batches/{batch}/glue")["pieces"]
    for letter in "AB":
        app.glue(batch, [p["code"] for p in rows if p["treatment"] == letter])
        app.clock.pass_(hours=4, minutes=20)
        late = [p["code"] for p in rows if p["treatment"] == letter]
        app.post(f"/batches/{batch}/unclamp", {"codes": late[:1]})
        app.clock.pass_(hours=1)
        app.post(f"/batches/{batch}/unclamp", {"codes": late[1:]})
        app.clock.pass_(hours=20)
    view = app.compare(batch)
    assert sorted((d["treatment"], d["text"]) for d in view["departed"]) == [
        (letter, "in clamps for another time than planned: 5.33 h instead of 4 h") for letter in "AB"
    ]
    assert "Treatment and the day of gluing cannot be told apart: no two treatments share one." in overturning(view)
