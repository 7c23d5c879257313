"""Which way wood is loaded: forecasts, blanks and solid references, against values worked out by hand."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.cut.blanks import blanks
from adhaero.core.joint_forms import FORMS
from adhaero.core.materials.wood import WOODS
from adhaero.core.method import nominal_sizes
from adhaero.core.method_catalogue import METHODS
from adhaero.core.plan.checks import problems
from adhaero.core.plan.document import Factor, Level, Plan, Product, first_plan
from adhaero.core.plan.forecast import History, Key, expected, kind_of
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.plan.records import pieces_in_all
from adhaero.core.plan.shares import across_gap, conditioned, cured, pressed
from adhaero.core.plan.treatments import SOLID, Treatment, treatments

DAY = 86400.0
# Ash: shear 13.2 MPa, modulus of rupture 103 MPa (Wood Handbook, white ash).
SHEAR, MOR = 13.2, 103.0


def plan(method: str, *orientations: str, **constants: Level) -> Plan:
    """Joints of ash, fully cured and well pressed, in these grain orientations."""
    usual = first_plan()
    kept = {**usual.constants, "glue": Level("pva-indoor"), "cure_s": Level(30 * DAY), **constants}
    kept.pop("orientation")
    levels = tuple(Level(o) for o in orientations)
    return replace(
        usual, question="Which grain?", method=method, sizes=nominal_sizes(METHODS[method]), constants=kept,
        factors=(Factor("orientation", "Grain orientation", levels),),
    )  # fmt: skip


def forecast(p: Plan, t: Treatment, history: dict[Key, History] | None = None) -> float:
    found = expected(p, t, history or {}, None)
    assert found is not None
    return found.figure


@pytest.mark.parametrize(
    ("method", "parallel", "end_to_end", "along", "across"),
    [
        # The joint of long edges bears 0.9 of wood across the grain (0.85 of it along, in shear), that of ends 0.25.
        ("compression-shear", 0.85 * SHEAR, 0.25 * SHEAR, SHEAR, 0.23 * SHEAR),
        ("lap-tension", 0.85 * 0.7 * SHEAR, 0.25 * 0.7 * SHEAR, 0.7 * SHEAR, 0.23 * 0.7 * SHEAR),
        ("butt-pull", 0.9 * 0.45 * SHEAR, 0.25 * MOR, MOR, 0.45 * SHEAR),
        ("bend-three-point", 0.9 * 0.72 * SHEAR, 0.25 * MOR, MOR, 0.72 * SHEAR),
        ("bend-four-point", 0.9 * 0.72 * SHEAR, 0.25 * MOR, MOR, 0.72 * SHEAR),
        ("edge-fold", 0.9 * 0.72 * SHEAR, 0.25 * MOR, MOR, 0.72 * SHEAR),
    ],
)
def test_forecasts_along_and_across_the_grain(
    method: str, parallel: float, end_to_end: float, along: float, across: float
) -> None:
    p = plan(method, "long-parallel", "end-end")
    edge, end = treatments(p)[:2]
    # What 30 days lack of full cure is nothing that shows.
    assert forecast(p, edge) == pytest.approx(parallel, rel=1e-4)
    assert forecast(p, end) == pytest.approx(end_to_end, rel=1e-4)
    found = METHODS[method]
    assert found.solid_in(WOODS["ash"], p.sizes, "along") == pytest.approx(along)
    assert found.solid_in(WOODS["ash"], p.sizes, "across") == pytest.approx(across)


def test_a_bent_joint_of_edges_is_far_below_one_of_ends() -> None:
    p = plan("bend-three-point", "long-parallel", "long-end", "end-end")
    edge, mixed, end = (forecast(p, t) for t in treatments(p)[:3])
    assert edge == mixed < end / 2.5


@pytest.mark.parametrize("method", sorted(k for k, m in METHODS.items() if m.solid and m.solid_turned))
def test_each_direction_in_which_joints_are_loaded_has_its_solid_pieces(method: str) -> None:
    both = (
        plan(method, "long-crossed", "end-end") if method != "edge-fold" else plan(method, "long-parallel", "end-end")
    )
    solids = [t for t in treatments(both) if t.role == SOLID]
    assert {t.record["solid_grain"].value for t in solids} == {"along", "across"}
    assert {t.label for t in solids} == {"Solid ash along the grain", "Solid ash across the grain"}
    assert len({t.id for t in solids}) == 2
    assert pieces_in_all(both) == sum(t.replicates for t in treatments(both))


def test_one_direction_needs_no_word_where_it_is_the_usual_one() -> None:
    solids = [t for t in treatments(plan("compression-shear", "long-parallel", "end-end")) if t.role == SOLID]
    assert [(t.id, t.label) for t in solids] == [("solid:ash", "Solid ash")]


def test_a_plan_of_an_older_format_keeps_the_solid_pieces_that_it_was_locked_with() -> None:
    document = {**plan("bend-three-point", "long-parallel", "end-end").to_json(), "format": 4}
    del document["solid_as_loaded"]
    old = plan_from_json(document)
    assert [t.label for t in treatments(old) if t.role == SOLID] == ["Solid ash"]
    assert not problems(old)


def test_blanks_follow_their_grain() -> None:
    sizes = {"width": 20.0, "depth": 21.0, "span": 240.0}

    def made(*loaded: str) -> list[tuple[float, float]]:
        return [(b.length_mm, b.width_mm) for b in blanks("bend-three-point", "joint", sizes, "butt", loaded)]

    assert made("along", "along") == [(140, 20), (140, 20)]
    assert made("across", "across") == [(20, 140), (20, 140)]
    assert made("across", "along") == [(20, 140), (140, 20)]
    (solid,) = blanks("bend-three-point", "solid", sizes, "", ("across",))
    assert (solid.length_mm, solid.width_mm, solid.thickness_mm) == (20, 280, 21)


# How a joint is made --------------------------------------------------------------------------------


def test_a_joint_of_five_minutes_is_not_one_of_a_day() -> None:
    """Half at the label's hour, 97 % at its day: 0.693 (t / 1 h)^0.510 in the exponent; by hand at 5 min 17.7 %."""
    hour = 3600.0
    assert cured(hour, hour, 24 * hour) == pytest.approx(0.5)
    assert cured(24 * hour, hour, 24 * hour) == pytest.approx(0.97)
    k = math.log(math.log(1 / 0.03) / math.log(2)) / math.log(24)
    assert cured(300, hour, 24 * hour) == pytest.approx(1 - math.exp(-math.log(2) * (1 / 12) ** k))
    assert cured(300, hour, 24 * hour) == pytest.approx(0.177, abs=0.001)
    assert cured(0, hour, 24 * hour) == 0
    young, old = (plan("compression-shear", "long-parallel", "end-end", cure_s=Level(t)) for t in (300.0, 30 * DAY))
    assert forecast(young, treatments(young)[0]) < 0.2 * forecast(old, treatments(old)[0])


@given(st.floats(1, 1e9), st.floats(1, 1e9), st.floats(60, 1e6), st.floats(1.1, 100))
def test_cure_only_grows(a: float, b: float, clamp: float, times: float) -> None:
    low, high = sorted((a, b))
    assert 0 <= cured(low, clamp, times * clamp) <= cured(high, clamp, times * clamp) <= 1


def test_gap_and_pressure_cost_what_their_glue_makes_of_them() -> None:
    assert across_gap("pva-indoor", 0.15) == 0.5
    assert across_gap("epoxy-slow", 2.0) == 0.5
    assert pressed(0, 0.5) == 0.6
    assert pressed(0.25, 0.5) == pytest.approx(0.8)
    assert pressed(3, 0.5) == 1
    p = plan("compression-shear", "long-parallel", "end-end")
    gap = plan("compression-shear", "long-parallel", "end-end", gap_mm=Level(0.15), pressure_mpa=Level(0.0))
    shares = forecast(gap, treatments(gap)[0]) / forecast(p, treatments(p)[0])
    assert shares == pytest.approx(0.5 * 0.6)


@pytest.mark.parametrize(
    ("level", "share"),
    [
        ("dry", 1.0), ("soak-24h", 0.55), ("soak 24 h", 0.55), ("soak-24h-dried", 0.8), ("soak-7d", 0.4),
        ("weather 3 weeks", 0.4), ("3 weeks outdoors", 0.4), ("2 months outside, dried 7 d", 0.8),
        ("5 x (freeze 12 h, thaw 12 h)", 0.97**5), ("heat 24 h at 60 °C", 0.6), ("boil 6 h", 0.55 * 0.6),
        ("three weeks in the compost", None),
    ],
)  # fmt: skip
def test_what_a_conditioning_leaves_is_read_from_its_path(level: str, share: float | None) -> None:
    found = conditioned(level)
    assert found == (None if share is None else pytest.approx(share))


def test_the_forecast_says_what_it_cannot_know() -> None:
    p = plan("compression-shear", "long-parallel", "end-end", pressure_mpa=Level(None))
    own = replace(p, factors=(*p.factors, Factor("own", "Finish", (Level("oil"), Level("wax")))))
    found = expected(own, treatments(own)[0], {}, None)
    assert found is not None
    assert found.unknown == ("finish", "the pressure")


def test_a_glue_of_no_known_family_has_no_forecast() -> None:
    p = plan("compression-shear", "long-parallel", "end-end", glue=Level("Granny's paste"))
    assert expected(p, treatments(p)[0], {}, None) is None
    told = replace(p, products={"Granny's paste": Product("hide-hot")})
    assert expected(told, treatments(told)[0], {}, None) is not None


def test_own_pieces_are_scaled_to_the_age_and_the_conditioning_that_are_asked() -> None:
    p = plan("compression-shear", "long-parallel", "end-end", cure_s=Level(3600.0))
    t = treatments(p)[0]
    own = {kind_of(p.method, t.form, t.record, t.role): History(10.0, 0.1, 8)}
    assert forecast(p, t, own) == pytest.approx(10 * 0.5)
    wet = plan("compression-shear", "long-parallel", "end-end", conditioning=Level("soak-24h"))
    found = expected(wet, treatments(wet)[0], own, None)
    assert found is not None
    assert found.figure == pytest.approx(10 * 0.55, rel=1e-4)
    assert "8 dry pieces" in found.source


def racked(form: str, **sizes: float) -> float:
    """What is forecast of a frame joint of ash, N·m."""
    usual = plan("racking", "long-parallel", form=Level(form))
    own = {**{s.key: s.nominal for s in FORMS[form].sizes}, **sizes}
    p = replace(usual, sizes={**usual.sizes, **own}, form_sizes={form: own})
    return forecast(p, treatments(p)[0])


def test_a_racked_corner_bears_no_more_than_its_tenon() -> None:
    """Ash, tenon 24 x 8 mm: 103 MPa x 8 x 24^2 / 6 = 79 N·m; a wider tenon bears more until the cheeks let go."""
    usual = racked("mortise-tenon", tenon_width=24, tenon_thickness=8, tenon_length=30)
    assert usual == pytest.approx(MOR * 8 * 24**2 / 6 / 1000, rel=0.01)
    assert racked("mortise-tenon", tenon_width=30, tenon_thickness=8, tenon_length=30) > usual
    short = racked("mortise-tenon", tenon_width=40, tenon_thickness=12, tenon_length=10)
    assert short < SHEAR * 2 * 10 * 40 * 50 / 5 / 1000 * 1.01


def test_a_loose_tenon_is_weaker_with_its_grain_across() -> None:
    along, across = racked("loose-tenon-along"), racked("loose-tenon-across")
    assert across < along / 3
    assert racked("dowelled", insert_depth=40) > racked("dowelled", insert_depth=20)
