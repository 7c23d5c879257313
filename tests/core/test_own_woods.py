"""Woods of the user's own: forecast, crushing and solid references by the figures that were stated."""

from __future__ import annotations

from dataclasses import replace

import pytest

from adhaero.core.materials.wood import WOODS
from adhaero.core.plan.caveats import caveats
from adhaero.core.plan.checks import problems
from adhaero.core.plan.document import Level, OwnWood, Plan
from adhaero.core.plan.forecast import expected
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.plan.records import completed
from adhaero.core.plan.treatments import Treatment, treatments
from adhaero.core.plan.woods import wood_of
from adhaero.core.units import METRIC
from tests.core.test_sizes_of_treatments import bars

ASH = WOODS["ash"]
AS_ASH = OwnWood(ASH.shear_mpa, ASH.bending_mpa, ASH.crush_across_mpa, source="own tests")


def plan_in(species: str, **woods: OwnWood) -> Plan:
    plan = bars()
    return replace(plan, constants={**plan.constants, "species": Level(species)}, woods=woods)


def loads(plan: Plan) -> list[float | None]:
    def load(t: Treatment) -> float | None:
        found = expected(plan, t, {}, None)
        return found.load_n if found else None

    return [load(t) for t in treatments(plan)]


def test_a_wood_with_the_figures_of_ash_is_forecast_like_ash() -> None:
    assert loads(plan_in("alder", alder=AS_ASH)) == pytest.approx(loads(plan_in("ash")))
    plan = plan_in("alder", alder=AS_ASH)
    sources = [e.source for t in treatments(plan) if (e := expected(plan, t, {}, None))]
    assert all(x.startswith("own tests") for x in sources)


def test_bending_follows_its_own_strength() -> None:
    twice = replace(AS_ASH, bending_mpa=2 * ASH.bending_mpa)
    pairs = zip(loads(plan_in("alder", alder=twice)), loads(plan_in("ash")), strict=True)
    assert all(a == pytest.approx(2 * b) for a, b in pairs if a is not None and b is not None)


def test_half_of_the_figures_are_none() -> None:
    """Shear without bending: nothing is guessed for the other."""
    plan = plan_in("alder", alder=OwnWood(shear_mpa=10.0))
    assert wood_of(plan, "alder") is None
    assert loads(plan) == [None] * len(treatments(plan))
    assert any("State what it bears" in c.text for c in caveats(plan, METRIC))


def test_crushing_is_watched_where_it_is_stated_and_else_not() -> None:
    soft = replace(AS_ASH, crush_across_mpa=0.5)
    unknown = replace(AS_ASH, crush_across_mpa=None)
    assert any("crushing alder" in c.text for c in caveats(plan_in("alder", alder=soft), METRIC))
    assert not any("crushing alder" in c.text for c in caveats(plan_in("alder", alder=unknown), METRIC))


def test_a_listed_wood_stays_what_the_handbook_says() -> None:
    plan = plan_in("ash", ash=replace(AS_ASH, bending_mpa=500.0))
    assert wood_of(plan, "ash") is ASH


def test_figures_that_no_wood_has_are_refused_and_those_of_no_level_forgotten() -> None:
    wrong = problems(plan_in("alder", alder=OwnWood(shear_mpa=900.0, bending_mpa=80.0)))
    assert [p.field for p in wrong] == ["woods.alder.shear_mpa"]
    assert completed(plan_in("ash", alder=AS_ASH)).woods == {}


def test_own_woods_travel_with_the_plan() -> None:
    plan = plan_in("alder", alder=AS_ASH)
    assert plan_from_json(plan.to_json()).woods == {"alder": AS_ASH}
