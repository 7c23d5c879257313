"""Which cautions stand where, by what is at hand; those of high risk first."""

from __future__ import annotations

from dataclasses import replace

import pytest

from adhaero.core.cautions import AtHand, Caution, of_stage
from adhaero.core.materials.glue import GLUES
from adhaero.core.method_catalogue import METHODS

PLAIN = AtHand(METHODS["compression-shear"], families=frozenset({"pva-indoor"}), means=frozenset({""}))


def keys(stage: str, a: AtHand) -> set[str]:
    return {c.key for c in of_stage(stage, a)}


@pytest.mark.parametrize("family", sorted(GLUES))
def test_every_family_of_glue_has_its_caution_at_the_bench(family: str) -> None:
    said = {c.key: c for c in of_stage("glue", replace(PLAIN, families=frozenset({family})))}
    assert GLUES[family].caution in said[f"glue {family}"].text
    assert said[f"glue {family}"].high is (family == "cyanoacrylate")


@pytest.mark.parametrize("method", sorted(METHODS))
def test_every_method_has_its_own_at_the_rig_and_no_other(method: str) -> None:
    said = [c.text for c in of_stage("break", replace(PLAIN, method=METHODS[method]))]
    assert set(METHODS[method].cautions) <= set(said)


@pytest.mark.parametrize(
    ("stage", "more", "key"),
    [
        ("cut", {"materials": frozenset({"treated spruce"})}, "treated wood"),
        ("cut", {"materials": frozenset({"ash", "steel"})}, "metal edges"),
        ("cut", {"materials": frozenset({"steel"})}, "metal dust"),
        ("cut", {"preps": frozenset({"sanded-80"})}, "sanding dust"),
        ("glue", {"families": frozenset({"epoxy-slow"})}, "resin dust"),
        ("glue", {"families": frozenset({"cyanoacrylate"})}, "activator"),
        ("glue", {"preps": frozenset({"solvent-wiped"})}, "solvent"),
        ("glue", {"families": frozenset({"contact"})}, "solvent"),
        ("glue", {"additives": frozenset({"pigment"})}, "powder"),
        ("glue", {"families": frozenset({"urea-resin"})}, "powder"),
        ("glue", {"means": frozenset({"weight"})}, "weights"),
        ("glue", {"reinforcements": frozenset({"screws"})}, "left in"),
        ("glue", {"frozen_bottle": True}, "freezer"),
        ("glue", {"conditionings": frozenset({"freeze-thaw-5"})}, "freezer"),
        ("glue", {"conditionings": frozenset({"boil-6h"})}, "hot bath"),
        ("glue", {"conditionings": frozenset({"outdoors"})}, "outdoors"),
        ("break", {"by_weights": True}, "dead weights"),
        ("break", {"left_in": True}, "fastener"),
        ("break", {"held": True}, "long holds"),
        ("break", {"to_break": 30}, "pauses"),
    ],
)
def test_a_fact_brings_its_caution_and_without_it_there_is_none(stage: str, more: dict[str, object], key: str) -> None:
    assert key not in keys(stage, PLAIN)
    assert key in keys(stage, replace(PLAIN, **more))  # type: ignore[arg-type]


def test_what_no_clamp_presses_has_no_caution_about_clamps() -> None:
    assert "clamps" in keys("glue", PLAIN)
    assert "clamps" not in keys("glue", replace(PLAIN, means=frozenset({"tape", "nothing"})))


def test_the_saw_is_of_high_risk_below_the_shops_own_length() -> None:
    def high(a: AtHand) -> list[Caution]:
        return [c for c in of_stage("cut", a) if c.high]

    assert high(replace(PLAIN, shortest_mm=200.0)) == []
    assert [c.key for c in high(replace(PLAIN, shortest_mm=31.0))] == ["saw"]
    assert [c.key for c in high(replace(PLAIN, shortest_mm=200.0, safe_mm=250.0))] == ["saw"]


def test_high_risk_stands_first() -> None:
    said = of_stage("break", replace(PLAIN, by_weights=True, to_break=50))
    assert [c.high for c in said] == sorted((c.high for c in said), reverse=True)
    assert said[0].high


def test_the_rigs_own_share_is_the_one_that_is_spoken_of() -> None:
    said = {c.key: c for c in of_stage("break", replace(PLAIN, working_share=0.65))}
    assert said["working share"].text.startswith("At 65 % of the rig")
    assert said["working share"].high
    assert "working share" not in keys("break", PLAIN), "where no rig is read"


def test_what_is_pried_by_hand_has_nothing_to_confirm() -> None:
    said = of_stage("break", replace(PLAIN, method=METHODS["pry"]))
    assert said
    assert not any(c.high for c in said)


def test_keys_are_different_within_a_stage() -> None:
    everything = replace(
        PLAIN, families=frozenset(GLUES), means=frozenset({"weight", "screw"}), additives=frozenset({"pigment"}),
        conditionings=frozenset({"outdoors", "boil-6h", "freeze-thaw-5"}),
        materials=frozenset({"steel", "treated pine"}),
        preps=frozenset({"solvent-wiped", "sanded-80"}), left_in=True, by_weights=True, working_share=0.8, held=True,
        to_break=100,
    )  # fmt: skip
    for stage in ("cut", "glue", "break"):
        said = [c.key for c in of_stage(stage, everything)]
        assert len(said) == len(set(said)), stage
