"""What a plan can find out, what it takes, and what to expect: worked out anew at every change of a draft."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping, Sequence, Set
from dataclasses import dataclass, replace

from adhaero.core.glue.clamping import force_n
from adhaero.core.glue.pressing import PRESSED
from adhaero.core.glue.schedule.problem import Clamps, Joint
from adhaero.core.joint import ORIENTATIONS
from adhaero.core.joint_forms import FORMS, LINE, Form, GluedFace, Sizes
from adhaero.core.materials.glue import GLUES
from adhaero.core.method import Method
from adhaero.core.parents import KINDS
from adhaero.core.plan import comparisons
from adhaero.core.plan.bottle_caveats import bottle_caveats
from adhaero.core.plan.caveat import Caveat
from adhaero.core.plan.caveats import caveats, rig_caveats
from adhaero.core.plan.checks import problems
from adhaero.core.plan.cost import Cost, cost, costs
from adhaero.core.plan.document import Level, Plan, level_text, method_of, usual_level
from adhaero.core.plan.dummies import dummy_caveats
from adhaero.core.plan.fields import FIELDS, SIZE
from adhaero.core.plan.forecast import Expected, History, Key, Range, expected, fitting_sizes
from adhaero.core.plan.glues import family_of, in_words, is_glued, label_of
from adhaero.core.plan.impossible import Impossible, impossible
from adhaero.core.plan.parents import line_of, together
from adhaero.core.plan.parents import units_of as made_units
from adhaero.core.plan.reach import reach
from adhaero.core.plan.records import (
    SOLID_GRAIN,
    able_forms,
    as_set,
    cells,
    form_has_own,
    forms_of,
    is_fraction,
    records,
    said_in_shop,
    sizes_of,
)
from adhaero.core.plan.treatments import JOINT, Treatment, treatments
from adhaero.core.quantity import BASE
from adhaero.core.refusal import Problem
from adhaero.core.units import METRIC, Units
from adhaero.store import bottles, clamps, rigs, shop
from adhaero.workflow import history
from adhaero.workflow.context import AppContext
from adhaero.workflow.glue.demand import kind_of
from adhaero.workflow.glue.working_hours import day_in_shop
from adhaero.workflow.plan.levels import planned_bottles
from adhaero.workflow.plan.parents_view import ParentKind, ParentsView, parent_kinds, parents_view

PLAIN = ("lap", "butt", "edge", "butt-corner")
"""Forms with one flat line, whose grain is the orientation's."""
COUNTS = [3, 4, 5, 6, 8, 10, 12, 15, 20, 30]


@dataclass(frozen=True)
class TreatmentView:
    """A treatment as planned: what it is, how many, and the clamp force that its nominal area (or that of its whole
    panel) needs.

    ``grain`` is how a solid piece is loaded, ``press_by`` how a joint is pressed where that is no mere pressure.
    ``cell`` are its level indices in the grid, empty outside of it; ``dropped`` cells are not made.
    """

    id: str
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
    grain: str
    press_by: str
    dry: bool


@dataclass(frozen=True)
class ReachView:
    """What this number of pieces can show; differences in percent of the reference mean. ``n`` counts units: pieces, or
    parents with ``each`` pieces of a treatment.
    """

    n: int
    unit: str
    each: int
    at_once: int
    one_pair_pct: float | None
    planned_pct: float | None
    needed: int | None
    curve: list[tuple[int, float]]


@dataclass(frozen=True)
class WantedView:
    """What the plan compares, as a sentence, with how many comparisons that makes; whether the user struck it out or
    has every pair of levels compared.
    """

    id: str
    kind: str
    of: str
    sentence: str
    struck: bool
    every_pair: bool
    comparisons: int


@dataclass(frozen=True)
class SizeToState:
    """A size to state for this method and these joint forms; ``unit`` is mm, mm², ° or empty for a plain number.

    ``form`` is the joint form that has it for itself. One that is ``varied`` is stated for solid pieces only.
    """

    key: str
    name: str
    unit: str
    dimension: str
    nominal: float
    form: str = ""
    form_name: str = ""
    varied: bool = False


@dataclass(frozen=True)
class AreaView:
    """A joint form's glued faces with grain and area, mm2, and their sum."""

    form: str
    name: str
    faces: list[GluedFace]
    area_mm2: float


@dataclass(frozen=True)
class Forecast:
    """What follows from a plan. ``reach``, ``cost`` and ``loads`` are empty while the plan has problems there;
    ``usual`` is the level that each field begins with, as the shop says it.
    """

    problems: list[Problem]
    caveats: list[Caveat]
    treatments: list[TreatmentView]
    pieces: int
    blanks: int
    reach: ReachView | None
    families: list[WantedView]
    sizes: list[SizeToState]
    usual: dict[str, Level]
    areas: list[AreaView]
    cost: Cost | None
    costs: list[Cost]
    loads: list[Expected]
    figure_unit: str
    limit_n: float | None
    weights_n: float | None
    own_cv_pct: float | None
    own_cv_pieces: int
    impossible: list[Impossible]
    glues: list[GlueInPlan]
    parent_kinds: list[ParentKind]
    parents: ParentsView | None


def nothing(wrong: list[Problem]) -> Forecast:
    """A forecast that says only what is wrong."""
    return Forecast(
        problems=wrong, caveats=[], treatments=[], pieces=0, blanks=0, reach=None, families=[], sizes=[], usual={},
        areas=[], cost=None, costs=[], loads=[], figure_unit="", limit_n=None, weights_n=None, own_cv_pct=None,
        own_cv_pieces=0, impossible=[], glues=[], parent_kinds=[], parents=None,
    )  # fmt: skip


@dataclass(frozen=True)
class GlueInPlan:
    """A glue of the plan: its family, what holds for it in words, and whether the label or usual figures say so."""

    value: str
    family: str
    words: str
    by_label: bool


def forecast(w: AppContext, conn: sqlite3.Connection, plan: Plan, batch_id: int) -> Forecast:
    """Everything that follows from a plan, with the rig and the results that are in the workshop."""
    used = rigs.in_use(conn)
    rig = Range(used.set_up.limit_n, used.set_up.resolution_n) if used else None
    units = shop.units(conn)
    known = history.of_own_pieces(w, conn, besides=batch_id)
    stored = clamps.clamps(conn)
    weights = sum(c.count * (c.force_n or 0.0) for c in stored if c.kind == "weight")
    families = {b.label: b.family for b in bottles.bottles(conn)}
    found = work_out(plan, rig, known, weights or None, units, families)
    if found.problems:
        return found
    ages = bottle_caveats(planned_bottles(conn, plan, w.now()), day_in_shop(conn, w.now()))
    filling = _dummies(plan, found, [kind_of(c) for c in stored])
    return replace(found, caveats=[*found.caveats, *ages, *filling])


def _dummies(plan: Plan, f: Forecast, kinds: list[Clamps]) -> Iterable[Caveat]:
    """Whether dummies are short: of a joint of every treatment as it is to be pressed, with how many are made."""
    if all(k.places == 1 for k in kinds):
        return ()
    means = {t.id: level_text(t.record.get("press_by")) or "" for t in treatments(plan)}
    joints = [
        (Joint("", t.letter, "", t.clamp_force_n or 0.0, 0, 0, 0, 0, means=means[t.id]),
         made_units(plan, t.replicates + plan.spares))
        for t in f.treatments
        if t.role == JOINT and not t.dry
    ]  # fmt: skip
    return dummy_caveats(plan, joints, kinds)


def work_out(
    plan: Plan, rig: Range | None, known: dict[Key, History], weights_n: float | None = None, units: Units = METRIC,
    families: Mapping[str, str] | None = None,
) -> Forecast:  # fmt: skip
    """The outlook of a plan for a rig, all the weights on hand together, and what is known so far."""
    wrong = problems(plan, units)
    blocking = {p.field.split(".")[0] for p in wrong}
    if "parents" in blocking:
        plan = replace(plan, parents=None)
    shape_ok = not blocking & {"factors", "constants", "sizes", "method", "control", "dropped", "extras"}
    method_ok = "method" not in blocking
    sized = method_ok and not blocking & {"sizes", "factors", "constants"}
    made = treatments(plan) if shape_ok else []
    areas, of_one = _areas(plan, made) if sized else [], together(plan, made)
    took = cost(plan, made) if made else None
    loaded = method_ok and not method_of(plan).loadless
    loads = [e for t in made if (e := expected(plan, t, known, rig)) is not None] if loaded else []
    fits = fitting_sizes(plan, made, known, rig) if rig and loads else []
    method = method_of(plan) if method_ok else None
    own = history.usual_cv(known, plan.method)
    return Forecast(
        problems=wrong,
        caveats=[*(rig_caveats(plan, loads, rig, fits, units) if loaded else ()), *caveats(plan, units)]
        if not wrong
        else [],
        treatments=[_treatment(t, line_of(plan, t.sizes, of_one.get(t.id, 1))) for t in made],
        pieces=took.pieces if took else 0,
        blanks=took.blanks if took else 0,
        families=[
            WantedView(f.id, f.kind, f.of, f.sentence, f.struck, f.every_pair, len(f.pairs))
            for f in comparisons.families(plan, made)
        ],
        reach=_reach(plan) if not blocking & {"factors", "replicates", "assumptions"} and _has_reach(plan) else None,
        sizes=_sizes(plan, method, units),
        usual={k: said_in_shop(usual_level(k), k, units) for k, f in FIELDS.items() if f.usual is not None},
        areas=areas,
        cost=took,
        costs=costs(plan, made, [n * (plan.parents.each if plan.parents else 1) for n in COUNTS]) if made else [],
        loads=loads,
        figure_unit=BASE[method.figure_dimension] if method else "",
        limit_n=rig.limit_n if rig else None,
        weights_n=weights_n,
        own_cv_pct=100 * own[0] if own else None,
        own_cv_pieces=own[1] if own else 0,
        impossible=impossible(plan) if shape_ok or blocking == {"constants"} else [],
        glues=_glues(plan, units),
        parent_kinds=parent_kinds(plan.method),
        parents=parents_view(plan, made, units) if not wrong else None,
    )


def _glues(plan: Plan, units: Units) -> list[GlueInPlan]:
    levels = [level for f in plan.factors if f.key == "glue" for level in f.levels]
    levels += [r["glue"] for r in (plan.constants, *(e.changes for e in plan.extras)) if "glue" in r]
    found = {}
    for level in levels:
        label = label_of(plan, level.value)
        if is_glued(level.value) and label is not None:
            product, family = plan.products.get(str(level.value)), GLUES.get(family_of(plan, level.value))
            words, own = in_words(label, units), bool(product and product.label)
            found[str(level.value)] = GlueInPlan(str(level.value), family.name if family else "", words, own)
    return list(found.values())


def _sizes(plan: Plan, method: Method | None, units: Units) -> list[SizeToState]:
    if method is None:
        return []
    forms = able_forms(plan)
    own = form_has_own(plan, forms)
    varied = {f.key.removeprefix(SIZE) for f in plan.factors if f.key.startswith(SIZE)}
    apart = {s.key for sizes in own.values() for s in sizes}
    shared = [SizeToState(s.key, s.name, s.unit, s.dimension, as_set(s, s.nominal, units), varied=s.key in varied)
              for s in method.sizes_for(forms) if s.key not in apart]  # fmt: skip
    return shared + [
        SizeToState(s.key, s.name, s.unit, s.dimension, as_set(s, s.nominal, units), f, FORMS[f].name)
        for f, sizes in own.items() for s in sizes if s.key not in varied
    ]  # fmt: skip


def _areas(plan: Plan, made: Sequence[Treatment]) -> list[AreaView]:
    """The glued area of every joint form, once for every size that it is made in."""
    sized = [(FORMS[t.form], t.sizes) for t in made if t.role == JOINT]
    ways = {r["orientation"].value for r in records(plan) if "orientation" in r}
    found: dict[tuple[str, float], AreaView] = {}
    for form, sizes in sized or [(FORMS[f], sizes_of(plan, f, {})) for f in forms_of(plan)]:
        area = form.glued_area_mm2(sizes)
        if (form.key, area) not in found:
            found[form.key, area] = AreaView(form.key, form.name, _faces(ways, form, sizes), area)
    return list(found.values())


def _faces(ways: Set[object], form: Form, sizes: Sizes) -> list[GluedFace]:
    """The glued faces; the grain of a plain line is that of the plan's orientations, both halves' if they differ."""
    faces = form.faces(sizes)
    if not ways <= set(ORIENTATIONS):
        return list(faces)
    met = [ORIENTATIONS[str(w)] for w in sorted(ways, key=str)]
    words = " or ".join(dict.fromkeys(" on ".join(dict.fromkeys((o.face_a.value, o.face_b.value))) for o in met))
    return [replace(f, grain=words) if form.key in PLAIN or f.grain == LINE else f for f in faces]


def _treatment(t: Treatment, line: Sizes) -> TreatmentView:
    joint = t.role == JOINT
    pressure = t.record["pressure_mpa"].value if joint else None
    area = FORMS[t.form].pressed_area_mm2(line) if joint else 0.0
    force = force_n(float(pressure), area) if isinstance(pressure, float | int) else None
    return TreatmentView(
        id=t.id,
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
        grain=level_text(t.record.get(SOLID_GRAIN)) or "",
        press_by=PRESSED.get(level_text(t.record.get("press_by")) or "", ""),
        dry=joint and not is_glued(t.record["glue"].value),
    )


def _pct(share: float | None) -> float | None:
    return None if share is None else 100 * share


def _has_reach(plan: Plan) -> bool:
    """Whether its cells are compared one by one: a fraction is judged over all of them, and says so by itself."""
    return bool(cells(plan)) and not is_fraction(plan)


def _reach(plan: Plan) -> ReachView:
    r = reach(plan)
    curve = [(n, 100 * d) for n, d in r.curve]
    p = plan.parents
    each, unit = (p.each, KINDS[p.kind].name.lower()) if p is not None and p.each > 1 else (1, "piece")
    return ReachView(r.n, unit, each, r.at_once, _pct(r.one_pair), _pct(r.planned), r.needed, curve)
