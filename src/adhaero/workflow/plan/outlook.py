"""What a plan can find out, what it takes, and what to expect: worked out anew at every change of a draft."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from adhaero.core.glue.clamping import force_n
from adhaero.core.joint_forms import FORMS, GluedFace
from adhaero.core.materials.glue import NO_GLUE
from adhaero.core.plan import design
from adhaero.core.plan.caveats import Caveat, caveats, rig_caveats
from adhaero.core.plan.checks import problems
from adhaero.core.plan.cost import Cost, cost, costs
from adhaero.core.plan.document import Plan, cells, forms_of, method_of
from adhaero.core.plan.forecast import Expected, History, Key, Range, expected, fitting_size
from adhaero.core.quantity import BASE
from adhaero.core.refusal import Problem
from adhaero.store import clamps, shop
from adhaero.workflow import history
from adhaero.workflow.workshop import Workshop

COUNTS = [3, 4, 5, 6, 8, 10, 12, 15, 20, 30]


@dataclass(frozen=True)
class TreatmentView:
    """A treatment as planned: what it is, how many, and the clamp force that its nominal area needs.

    ``cell`` are its level indices in the grid, empty outside of it; ``dropped`` cells are not made.
    """

    letter: str
    label: str
    role: str
    is_control: bool
    control: str | None
    replicates: int
    clamp_force_n: float | None
    cell: list[int] | None
    form: str
    orientation: str
    dry: bool


@dataclass(frozen=True)
class ReachView:
    """What this number of pieces can show; differences in percent of the reference mean."""

    n: int
    one_pair_pct: float | None
    all_pairs_pct: float | None
    one_control_pct: float | None
    needed: int | None
    curve: list[tuple[int, float]]


@dataclass(frozen=True)
class SizeView:
    """A size to state for this method and these joint forms; ``unit`` is mm or empty for a plain number."""

    key: str
    name: str
    unit: str
    nominal: float


@dataclass(frozen=True)
class AreaView:
    """A joint form's glued faces with grain and area, mm2, and their sum."""

    form: str
    name: str
    faces: list[GluedFace]
    area_mm2: float


@dataclass(frozen=True)
class Outlook:
    """What follows from a plan. ``reach``, ``cost`` and ``forecast`` are empty while the plan has problems there."""

    problems: list[Problem]
    caveats: list[Caveat]
    treatments: list[TreatmentView]
    pieces: int
    blanks: int
    reach: ReachView | None
    sizes: list[SizeView]
    areas: list[AreaView]
    cost: Cost | None
    costs: list[Cost]
    forecast: list[Expected]
    figure_unit: str
    limit_n: float | None
    weights_n: float | None
    own_cv_pct: float | None
    own_cv_pieces: int


def outlook(w: Workshop, conn: sqlite3.Connection, plan: Plan, batch_id: int) -> Outlook:
    """Everything that follows from a plan, with the rig and the results that are in the workshop."""
    found = shop.rig(conn)
    rig = Range(found.capacity_n * found.working_share, found.resolution_n) if found else None
    known = history.of_own_pieces(w, conn, besides=batch_id)
    weights = sum(c.count * (c.force_n or 0.0) for c in clamps.clamps(conn) if c.kind == "weight")
    return work_out(plan, rig, known, weights or None)


def work_out(plan: Plan, rig: Range | None, known: dict[Key, History], weights_n: float | None = None) -> Outlook:
    """The outlook of a plan for a rig, all the weights on hand together, and what is known so far."""
    wrong = problems(plan)
    blocking = {p.field.split(".")[0] for p in wrong}
    shape_ok = not blocking & {"factors", "constants", "sizes", "method", "control", "dropped", "extras"}
    method_ok = "method" not in blocking
    sized = method_ok and not blocking & {"sizes", "factors", "constants"}
    areas = _areas(plan) if sized else []
    area_of = {a.form: a.area_mm2 for a in areas}
    made = design.treatments(plan) if shape_ok else []
    took = cost(plan, max(area_of.values())) if made else None
    loaded = method_ok and not method_of(plan).loadless
    forecast = [expected(plan, t, known, rig) for t in made] if loaded else []
    fit = fitting_size(plan, made, known, rig) if rig and forecast else None
    method = method_of(plan) if method_ok else None
    own = history.usual_cv(known, plan.method)
    return Outlook(
        problems=wrong,
        caveats=[*(rig_caveats(plan, forecast, rig, fit) if loaded else ()), *caveats(plan)] if not wrong else [],
        treatments=[_treatment(t, area_of) for t in made],
        pieces=took.pieces if took else 0,
        blanks=took.blanks if took else 0,
        reach=_reach(plan) if not blocking & {"factors", "replicates", "assumptions"} and cells(plan) else None,
        sizes=[SizeView(s.key, s.name, s.unit, s.nominal) for s in method.sizes_for(forms_of(plan))] if method else [],
        areas=areas,
        cost=took,
        costs=costs(plan, COUNTS, max(area_of.values())) if made else [],
        forecast=forecast,
        figure_unit=BASE[method.figure_dimension] if method else "",
        limit_n=rig.limit_n if rig else None,
        weights_n=weights_n,
        own_cv_pct=100 * own[0] if own else None,
        own_cv_pieces=own[1] if own else 0,
    )


def _areas(plan: Plan) -> list[AreaView]:
    forms = [FORMS[f] for f in forms_of(plan)]
    return [AreaView(f.key, f.name, list(f.faces(plan.sizes)), f.glued_area_mm2(plan.sizes)) for f in forms]


def _treatment(t: design.Treatment, area_of: dict[str, float]) -> TreatmentView:
    joint = t.role == design.JOINT
    pressure = t.record["pressure_mpa"].value if joint else None
    force = force_n(float(pressure), area_of[t.form]) if isinstance(pressure, float | int) else None
    return TreatmentView(
        letter=t.letter,
        label=t.label,
        role=t.role,
        is_control=t.is_control,
        control=t.control,
        replicates=t.replicates,
        clamp_force_n=force,
        cell=list(t.cell) if t.cell is not None else None,
        form=t.form if joint else "",
        orientation=str(t.record["orientation"].value) if joint else "",
        dry=joint and t.record["glue"].value in (None, NO_GLUE),
    )


def _pct(share: float | None) -> float | None:
    return None if share is None else 100 * share


def _reach(plan: Plan) -> ReachView:
    r = design.reach(plan)
    curve = [(n, 100 * d) for n, d in r.curve]
    return ReachView(r.n, _pct(r.one_pair), _pct(r.all_pairs), _pct(r.one_control), r.needed, curve)
