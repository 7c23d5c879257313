"""Every remedy that the planner offers does what it says: pressed, its warning is gone and the plan can be locked."""

from __future__ import annotations

from typing import Any

import pytest

from tests.running import App

GLUE = {"key": "glue", "name": "Glue", "levels": [{"value": g, "unit": ""} for g in ("pva-damp", "epoxy-slow")]}
WET = {"key": "conditioning", "name": "Conditioning", "levels": [{"value": v, "unit": ""} for v in ("dry", "soak-24h")]}


def applied(document: dict[str, Any], change: dict[str, Any]) -> dict[str, Any]:
    """A change laid over a document as the screen does it: parts of a part leave the others as they are."""
    return {
        **document,
        **{k: {**document[k], **v} if isinstance(v, dict) else v for k, v in change.items()},
    }


def constants(app: App, **changes: dict[str, Any]) -> dict[str, Any]:
    base = app.get(f"/batches/{app.batch('Base')}/plan")["document"]["constants"]
    return {**{k: v for k, v in base.items() if k != "glue"}, "glue": {"value": "epoxy-slow", "unit": ""}, **changes}


def plan(app: App, **changes: Any) -> tuple[int, dict[str, Any]]:
    batch = app.batch("Flawed")
    first = changes.get("factors", [GLUE])[0]
    own = {
        "question": "Why?",
        "factors": [GLUE],
        "control": {first["key"]: "l1"},
        "replicates": 60,
        "solid_reference": 4,
        **changes,
    }
    return batch, app.draft(batch, **own)


CASES: list[tuple[str, dict[str, Any]]] = [
    ("not how often", {"replicates": 1}),
    ("hardly a scatter", {"replicates": 2}),
    ("matters to you and takes", {"replicates": 4, "assumptions": {
        "cv": 0.1, "alpha": 0.05, "power": 0.8, "matters": 0.1, "fallen_as_zero": True}}),
    ("matters to you and takes", {"replicates": 4}),
    ("No control", {"control": {}}),
    ("No solid reference", {"solid_reference": 0}),
    ("Fewer than three solid", {"solid_reference": 2}),
    ("change together in every treatment", {
        "factors": [GLUE, WET], "control": {"glue": "l1", "conditioning": "l1"},
        "dropped": [{"glue": "l1", "conditioning": "l2"}, {"glue": "l2", "conditioning": "l1"}],
    }),
    ("run along with the glue", {"policy": "by-label"}),
]  # fmt: skip


@pytest.mark.parametrize(("words", "changes"), CASES, ids=[f"{w} {i}" for i, (w, _) in enumerate(CASES)])
def test_a_remedy_takes_its_warning_away(app: App, words: str, changes: dict[str, Any]) -> None:
    batch, view = plan(app, **changes)
    caveat = next(c for c in view["forecast"]["caveats"] if words in c["text"])
    assert caveat["remedy"]
    after = app.draft(batch, **applied(view["document"], caveat["change"]))
    assert not [c for c in after["forecast"]["caveats"] if c["text"] == caveat["text"]]
    assert after["forecast"]["problems"] == []
    assert app.lock(batch)["pieces"] == after["forecast"]["pieces"]


@pytest.mark.parametrize(
    ("words", "key", "value", "unit"),
    [
        ("above the usual", "pressure_mpa", 2.0, "MPa"),
        ("below the usual", "pressure_mpa", 0.001, "MPa"),
        ("shorter than the usual", "clamp_s", 60.0, "min"),
    ],
)
def test_label_limits_of_a_glue_held_constant_are_set_right(
    app: App, words: str, key: str, value: float, unit: str
) -> None:
    held = constants(app, **{key: {"value": value, "unit": unit}})
    prep = {"key": "prep", "name": "Prep", "levels": [{"value": v, "unit": ""} for v in ("planed", "sawn")]}
    batch, view = plan(app, factors=[prep], constants={k: v for k, v in held.items() if k != "prep"})
    caveat = next(c for c in view["forecast"]["caveats"] if words in c["text"])
    after = app.draft(batch, **applied(view["document"], caveat["change"]))
    assert not [c for c in after["forecast"]["caveats"] if words in c["text"]]
    assert app.lock(batch)["pieces"] > 0


def test_too_strong_for_the_rig_is_cured_by_its_button(app: App) -> None:
    app.put("/rig", {"name": "Small", "port": "", "capacity": 3000, "step": 1, "fixture": "A"})
    batch, view = plan(app)
    caveat = view["forecast"]["caveats"][0]
    assert "Too strong" in caveat["text"]
    after = app.draft(batch, **applied(view["document"], caveat["change"]))
    assert not [c for c in after["forecast"]["caveats"] if "Too strong" in c["text"]]
    assert max(e["beyond"] for e in after["forecast"]["loads"]) <= 0.05
    assert after["forecast"]["limit_n"] == 2400


def test_dummies_for_shared_weights_are_worked_out(app: App) -> None:
    batch = app.planned("pva-damp", "casein", replicates=3, solid=0)

    def said() -> list[Any]:
        return [c for c in app.get(f"/batches/{batch}/plan")["forecast"]["caveats"] if c["field"] == "dummies"]

    assert said() == []
    # 400 N a joint; two of them under 800 N.
    body = {"label": "Slabs", "count": 6, "kind": "weight", "force_n": 800.0, "places": 2}
    app.post("/clamps", body)
    (caveat,) = said()
    assert caveat["change"] == {"dummies": 2}
    assert "2 dummies" in caveat["text"]
    app.draft(batch, **caveat["change"])
    assert said() == []
    app.lock(batch)
    assert len(app.codes(batch, "joint")) == 8
