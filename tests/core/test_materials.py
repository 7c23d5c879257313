"""The tables of woods, glues and fields: sane, sourced, and usable in a plan as they stand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from adhaero.core.joint import ORIENTATIONS, adherends
from adhaero.core.materials.glue import GLUES
from adhaero.core.materials.wood import WOODS
from adhaero.core.plan.caveats import caveats
from adhaero.core.plan.checks import problems
from adhaero.core.plan.document import Factor, Level, first_plan, level_name
from adhaero.core.plan.fields import FIELDS, value_name
from adhaero.core.units import Units

UNITS = Units()


@pytest.mark.parametrize("wood", WOODS.values(), ids=lambda w: w.key)
def test_woods_are_of_this_world(wood: object) -> None:
    w = WOODS[wood.key]  # type: ignore[attr-defined]
    assert 300 < w.density_kg_m3 < 900
    assert 5 < w.shear_mpa < 20
    assert 2 < w.crush_across_mpa < 15
    assert w.crush_across_mpa < w.shear_mpa < w.bending_mpa
    assert w.shrink_radial_pct < w.shrink_tangential_pct
    assert "Wood Handbook" in w.source


def test_denser_wood_is_stronger_on_the_whole() -> None:
    ordered = sorted(WOODS.values(), key=lambda w: w.density_kg_m3)
    light, heavy = ordered[: len(ordered) // 2], ordered[len(ordered) // 2 :]
    assert sum(w.shear_mpa for w in heavy) / len(heavy) > sum(w.shear_mpa for w in light) / len(light)


@pytest.mark.parametrize("glue", GLUES.values(), ids=lambda g: g.key)
def test_glues_are_of_this_world(glue: object) -> None:
    g = GLUES[glue.key]  # type: ignore[attr-defined]
    assert 0 < g.open_s <= g.clamp_s or g.clamp_s <= 1200
    assert g.clamp_s <= g.cure_s
    assert 0 < g.pressure_low_mpa < g.pressure_high_mpa < 3
    assert g.pot_life_s is None or g.pot_life_s > 0
    assert g.caution.endswith(".")
    assert len(g.caution) < 120, "a caution must be short"


@pytest.mark.parametrize("key", GLUES)
def test_every_glue_can_be_planned(key: str) -> None:
    other = "casein" if key != "casein" else "contact"
    factor = Factor("glue", "Glue", (Level(key), Level(other)))
    g = GLUES[key]
    constants = {
        **first_plan().constants,
        "pressure_mpa": Level((g.pressure_low_mpa + g.pressure_high_mpa) / 2, "MPa"),
        "clamp_s": Level(max(g.clamp_s, 60.0), "h"),
        "cure_s": Level(max(g.cure_s, g.clamp_s), "h"),
    }
    plan = replace(first_plan(), question="?", factors=(factor,), constants=constants, control={factor.key: "l1"})
    assert problems(plan) == []
    assert not any(w.text.startswith(f"{g.name}:") for w in caveats(plan, UNITS)), (
        "its own usual values are no reason to warn"
    )


@pytest.mark.parametrize("key", WOODS)
def test_every_wood_can_be_planned(key: str) -> None:
    factor = Factor("glue", "Glue", (Level("casein"), Level("hide-hot")))
    constants = {**first_plan().constants, "species": Level(key)}
    assert problems(replace(first_plan(), question="?", factors=(factor,), constants=constants)) == []


@pytest.mark.parametrize("key", ORIENTATIONS)
def test_every_orientation_has_two_adherends(key: str) -> None:
    a, b = adherends(key, "ash", "elm")
    assert (a.material, b.material) == ("ash", "elm")
    assert value_name("orientation", key) == ORIENTATIONS[key].name


@pytest.mark.parametrize("field", FIELDS.values(), ids=lambda f: f.key)
def test_fields_start_from_a_value_of_their_own(field: object) -> None:
    f = FIELDS[field.key]  # type: ignore[attr-defined]
    if f.usual is None:
        assert not f.needed
    elif f.choices is not None:
        assert f.usual in f.choices
    else:
        assert f.dimension is not None
        assert f.low <= float(f.usual) <= f.high


@pytest.mark.parametrize(
    ("key", "level", "expected"),
    [
        ("glue", Level("pva-damp"), "Damp-proof PVA"),
        ("glue", Level("my own mix"), "my own mix"),
        ("glue", Level(None), "none"),
        ("clamp_s", Level(7200.0, "h"), "2 h"),
        ("clamp_s", Level(5400.0, "min"), "90 min"),
        ("pressure_mpa", Level(0.0172369, "psi"), "2.5 psi"),
        ("own", Level(0.3, "mm"), "0.3 mm"),
        ("own", Level(12.0), "12"),
    ],
)
def test_levels_in_words(key: str, level: Level, expected: str) -> None:
    assert level_name(key, level) == expected


def test_warns_of_a_clamp_time_below_the_usual() -> None:
    factor = Factor("prep", "Surface prep", (Level("planed"), Level("sawn")))
    constants = {k: v for k, v in first_plan().constants.items() if k != "prep"}
    constants |= {"clamp_s": Level(600.0, "min"), "glue": Level("urea-resin")}
    plan = replace(first_plan(), question="?", factors=(factor,), constants=constants, control={factor.key: "l2"})
    texts = [w.text for w in caveats(plan, UNITS)]
    assert any("10 min in the clamp is shorter than the usual 6 h" in t for t in texts)
    assert not any("8 h" in t for t in texts)
