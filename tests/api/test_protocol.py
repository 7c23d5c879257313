"""Steps of the protocol: planned, marked for many at once, watched at the bench, flagged where they were skipped."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_exchange import bring, export
from tests.running import App, fields, open_app

STEPS = [
    {"text": "Primer on both faces", "wait_s": 600.0, "within_s": 3600.0},
    {"text": "Wiped with solvent", "within_s": 900.0},
]


def stepped(app: App, **changes: Any) -> int:
    batch = app.planned("pva-damp", "casein", replicates=3, solid=0)
    app.draft(batch, protocol=STEPS, **changes)
    app.lock(batch)
    return batch


def mark(app: App, batch: int, step: int, codes: list[str], state: str = "done", status: int = 200, **more: Any) -> Any:
    ids = [s["step"]["id"] for s in app.get(f"/batches/{batch}/protocol")["steps"]]
    body = {"step": ids[step] if step < len(ids) else "s9", "codes": codes, "state": state, **more}
    return app.post(f"/batches/{batch}/protocol", body, status)


def flags(app: App, batch: int) -> dict[str, list[str]]:
    return {p["code"]: p["flags"] for p in app.get(f"/batches/{batch}/glue")["pieces"]}


def test_steps_are_marked_for_many_and_what_was_skipped_is_a_flag(app: App) -> None:
    batch = stepped(app)
    codes = app.codes(batch, "joint")
    early, late, left_out, silent, fine, old = codes
    mark(app, batch, 0, [early, late, left_out, fine])
    mark(app, batch, 0, [left_out], "not done")
    mark(app, batch, 0, [late], "late")
    # The primer of the last is put on an hour and a quarter before it is closed.
    mark(app, batch, 0, [old])
    app.clock.pass_(minutes=4)
    app.glue(batch, [early])
    app.clock.pass_(minutes=11)
    mark(app, batch, 1, [late, left_out, fine, old])
    app.glue(batch, [late, left_out, fine])
    app.clock.pass_(minutes=60)
    app.glue(batch, [old, silent])
    said = flags(app, batch)
    assert "closed before a step had its time: Primer on both faces: 4 min instead of 10 min" in said[early]
    assert "a step of the protocol done late: Primer on both faces" in said[late]
    assert "a step of the protocol left out: Primer on both faces" in said[left_out]
    assert [f for f in said[fine] if "step" in f] == []
    assert [f for f in said[silent] if "step" in f] == []
    assert "closed after a step held no more: Primer on both faces: 1.25 h, holds for 1 h" in said[old]
    assert "closed after a step held no more: Wiped with solvent: 1 h, holds for 15 min" in said[old]
    view = app.compare(batch)
    assert "Primer on both faces: of 1 joint nobody said whether it was done" in view["not_noted"]
    assert "Wiped with solvent: of 2 joints nobody said whether it was done" in view["not_noted"]
    kinds = {f["kind"]: f["codes"] for f in view["flags"]}
    assert kinds["step left out"] == [left_out]
    assert kinds["not waited for"] == [early]


def test_steps_of_joints_that_are_not_glued_yet_travel(app: App, tmp_path: Any) -> None:
    batch = stepped(app)
    codes = app.codes(batch, "joint")
    mark(app, batch, 0, codes[:2], note="Primer 7")
    with open_app(tmp_path) as elsewhere:
        home = bring(elsewhere, export(app, batch))["batch_id"]
        own, theirs = (a.get(f"/batches/{b}/protocol")["steps"][0] for a, b in ((app, batch), (elsewhere, home)))
        assert sorted(theirs["done"]) == sorted(own["done"]) == sorted(codes[:2])
        assert export(elsewhere, home).count("Primer 7") == 2


def test_a_step_is_for_the_treatments_it_names(app: App) -> None:
    batch = app.planned("pva-damp", "casein", replicates=3, solid=0)
    own = next(t["id"] for t in app.get(f"/batches/{batch}/plan")["forecast"]["treatments"] if t["letter"] == "B")
    app.draft(batch, protocol=[{**STEPS[0], "treatments": [own]}])
    app.lock(batch)
    view = app.get(f"/batches/{batch}/protocol")
    assert {view["treatments"][c] for c in view["steps"][0]["open"]} == {"B"}
    other = next(c for c, letter in view["treatments"].items() if letter == "A")
    assert fields(mark(app, batch, 0, [other], status=422)) == {"codes.0"}


def test_the_bench_watches_the_wait(app: App) -> None:
    batch = stepped(app)
    first = app.get(f"/batches/{batch}/guide")["pieces"][0]
    assert [(s["text"], s["state"], s["at"]) for s in first["steps"]] == [
        ("Primer on both faces", "", None), ("Wiped with solvent", "", None),
    ]  # fmt: skip
    mark(app, batch, 0, [first["code"]])
    step = app.get(f"/batches/{batch}/guide")["pieces"][0]["steps"][0]
    assert (step["state"], step["wait_s"], step["within_s"]) == ("done", 600.0, 3600.0)
    assert step["at"] is not None


@pytest.mark.parametrize(
    ("step", "field"),
    [
        ({"text": " "}, "protocol.0.text"),
        ({"text": "Wipe", "wait_s": -1}, "protocol.0.wait_s"),
        ({"text": "Wipe", "wait_s": 900.0, "within_s": 600.0}, "protocol.0.within_s"),
    ],
)
def test_what_is_no_step_is_named(app: App, step: dict[str, Any], field: str) -> None:
    batch = app.planned("pva-damp", "casein")
    app.draft(batch, protocol=[step])
    assert [p["field"] for p in app.get(f"/batches/{batch}/plan")["forecast"]["problems"]] == [field]


def test_wrong_marks_are_refused(app: App) -> None:
    batch = stepped(app)
    code = app.codes(batch, "joint")[0]
    assert fields(mark(app, batch, 9, [code], status=422)) == {"codes.0"}
    assert fields(mark(app, batch, 0, [], status=422)) == {"codes"}
    assert fields(mark(app, batch, 0, [code], status=422, at="2027-01-01T00:00:00Z")) == {"at"}


def test_steps_are_kept_by_name_and_go_with_a_copy(app: App) -> None:
    app.post("/protocols", {"name": "Primed", "steps": STEPS})
    assert [s["text"] for s in app.get("/protocols")["Primed"]] == [s["text"] for s in STEPS]
    assert fields(app.post("/protocols", {"name": " ", "steps": STEPS}, 422)) == {"name"}
    batch = stepped(app)
    copy = app.post(f"/batches/{batch}/copy", {"name": "Again"}, 201)["id"]
    steps = app.get(f"/batches/{copy}/plan")["document"]["protocol"]
    assert [(s["text"], s["wait_s"]) for s in steps] == [("Primer on both faces", 600.0), ("Wiped with solvent", None)]


def test_what_was_said_of_steps_travels(app: App, tmp_path: Any) -> None:
    batch = stepped(app)
    codes = app.codes(batch, "joint")
    mark(app, batch, 0, codes[:1], "not done")
    app.glue(batch)
    with open_app(tmp_path) as other:
        home = bring(other, export(app, batch))["batch_id"]
        assert flags(other, home) == flags(app, batch)
        assert any("left out" in f for f in flags(other, home)[codes[0]])


def test_a_coat_says_on_today_when_the_joint_may_be_closed(app: App) -> None:
    batch = app.planned("pva-damp", "casein", replicates=3, solid=0)
    app.draft(batch, protocol=[{"text": "Epoxy coat", "wait_s": 12 * 3600.0}])
    app.lock(batch)
    codes = app.codes(batch, "joint")
    mark(app, batch, 0, codes[:4], note="slow epoxy, 2 : 1")
    (due,) = [d for d in app.get("/today")["due"] if "Epoxy coat" in d["what"]]
    assert (due["at"], due["pieces"], due["stage"]) == ("2026-11-23T20:30:00.000Z", 4, "bench")
    app.clock.pass_(hours=13)
    app.glue(batch, codes[:3])
    (due,) = [d for d in app.get("/today")["due"] if "Epoxy coat" in d["what"]]
    assert due["pieces"] == 1
    assert "slow epoxy, 2 : 1" in export(app, batch)
    assert fields(mark(app, batch, 0, codes[4:], status=422, note="x" * 300)) == {"note"}


def test_a_step_on_one_that_had_no_time_to_dry_was_not_waited_for(app: App) -> None:
    """The wait of a step ends with the next step, not only with the closing of the joint."""
    batch = stepped(app)
    soon, waited, *_ = app.codes(batch, "joint")
    mark(app, batch, 0, [soon, waited])
    app.clock.pass_(minutes=2)
    mark(app, batch, 1, [soon])
    app.clock.pass_(minutes=10)
    mark(app, batch, 1, [waited])
    app.glue(batch, [soon, waited])
    said = flags(app, batch)
    assert "closed before a step had its time: Primer on both faces: 2 min instead of 10 min" in said[soon]
    assert [f for f in said[waited] if "had its time" in f] == []
