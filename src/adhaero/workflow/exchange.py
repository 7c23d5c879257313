"""Take the data away, and bring it back: all of a file or nothing."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import product
from typing import Any

from adhaero.core.method import nominal_sizes
from adhaero.core.method_catalogue import METHODS
from adhaero.core.observation import Kind, Observation, checked
from adhaero.core.plan import design
from adhaero.core.plan.checks import problems
from adhaero.core.plan.codes import read_code
from adhaero.core.plan.document import Extra, Factor, Level, Plan, first_plan, treatment_name
from adhaero.core.plan.fields import FIELDS
from adhaero.core.quantity import BASE, Dimension
from adhaero.core.refusal import Problems, Refusal, refuse
from adhaero.formats import specimen_csv
from adhaero.formats.specimen_csv import Row
from adhaero.store import actions, batches, breaks, glueups, specimens
from adhaero.workflow import happened
from adhaero.workflow.facts import Facts, fresh, load
from adhaero.workflow.workshop import Act, Workshop, iso, moment

MADE_TO_COUNT = ("", design.COUNTS, design.TRIAL)
PARTS = (*MADE_TO_COUNT, design.SPARE, design.DUMMY)


def export_csv(w: Workshop, batch_id: int) -> tuple[str, str]:
    """(file name, text) of all specimens of a locked batch with what stands about them."""
    with w.db.read() as conn:
        facts = load(w, conn, batch_id)
    factors = [(f.key, f.name, _unit(f)) for f in _columns(facts.plan)]
    rows = [facts.row("csv", s, _row) for s in facts.pieces]
    return f"{file_name(facts.batch.name)}.csv", specimen_csv.write(rows, factors)


def file_name(name: str) -> str:
    """A batch's name as the name of a file: ASCII letters, digits and dashes."""
    safe = "".join(c if c.isascii() and c.isalnum() else "-" for c in name.lower())[:60].strip("-")
    return safe or "batch"


def _columns(plan: Plan) -> list[Factor]:
    """The factors, and the fields in which single treatments differ where no other column shows them."""
    more = {k: v for e in plan.extras for k, v in e.changes.items()}
    shown = {f.key for f in plan.factors} | set(_CORE)
    return [
        *plan.factors,
        *(Factor(k, FIELDS[k].name if k in FIELDS else k, (v,)) for k, v in more.items() if k not in shown),
    ]


_CORE = ("species", "orientation", "glue", "prep", "pressure_mpa", "clamp_s", "cure_s")


def _unit(f: Factor) -> str:
    known = FIELDS.get(f.key)
    if known is not None:
        return BASE[known.dimension] if known.dimension else ""
    return next((level.unit for level in f.levels if level.unit), "")


def _row(facts: Facts, s: specimens.Specimen) -> Row:
    t, member, out, seen = (
        facts.treatments[s.treatment_id], facts.members.get(s.id), facts.unclamped.get(s.id), facts.observed.get(s.id)
    )  # fmt: skip
    g = facts.glueups[member.glueup_id] if member else None
    o = seen.observation if seen else None
    levels = {f.key: facts.level(s, f.key) for f in _columns(facts.plan)} if s.role == "joint" else {}
    values: dict[str, Any] = {
        "batch": facts.batch.name, "question": facts.plan.question, "code": s.code, "treatment": t.letter,
        "treatment_label": t.label, "role": s.role, "part": facts.part(s), "control": t.control or "",
        "method": facts.plan.method, "target": facts.plan.target, "replicate": s.replicate,
        "break_order": facts.place(s), "glue_order": s.glue_order,
        "species_a": s.species_a, "species_b": s.species_b, "orientation": s.orientation, "glue": s.glue,
        "prep": s.prep, "planned_pressure_mpa": s.pressure_mpa, "planned_clamp_s": s.clamp_s,
        "planned_cure_s": s.cure_s, "area_mm2": facts.area_mm2(s), "nominal": dict(facts.plan.sizes),
        "sizes": {k: m.value for k, m in facts.measured.get(s.id, {}).items() if k in facts.plan.sizes},
        "factors": {k: (v.value, v.unit) for k, v in levels.items() if v is not None},
    }  # fmt: skip
    if member and g:
        values |= {
            "glueup": g.number, "glued_at": g.started_at, "glued_by": g.person,
            "bottle": member.bottle if member.bottle is not None else g.bottle, "air_c": g.air_c,
            "humidity_pct": g.humidity_pct, "clamp_force_known": g.force_known,
            "clamp_force_n": member.force_n if member.force_n is not None else g.force_n,
            "clamps": member.clamps if member.clamps is not None else g.clamps, "unclamped_at": out.at if out else "",
            "mix_deviation": facts.mixes[g.id].deviation if g.id in facts.mixes else "",
            "events": happened.as_cell(facts, s),
        }  # fmt: skip
    if o and seen:
        scale, dimension = facts.per_newton(s.id), facts.method.figure_dimension
        low, high = (None if v is None else v * scale for v in (o.low_n, o.high_n))
        stress = dimension is Dimension.STRESS
        values |= {
            "kind": o.kind.value, "load_low_n": o.low_n, "load_high_n": o.high_n, "held_s": o.held_s,
            "first_crack_n": seen.first_crack_n, "strength_low_mpa": low if stress else None,
            "strength_high_mpa": high if stress else None, "figure_low": low, "figure_high": high,
            "figure_unit": BASE[dimension], "failure_mode": o.failure_mode or "",
            "wood_failure_pct": o.wood_failure_pct, "source": seen.source, "observed_at": seen.at,
            "observed_by": seen.person, "reason": o.reason, "note": o.note,
        }  # fmt: skip
    return Row(**values)


@dataclass(frozen=True)
class Imported:
    """What an import did."""

    batch_id: int
    name: str
    new_batch: bool
    pieces: int
    sizes: int
    readings: int


def import_csv(w: Workshop, text: str, person: str, key: str | None) -> Imported:
    """Read a file of one batch, all or nothing.

    If its codes are new, the batch is made from it. If they are those of a batch that is here, sizes and readings
    that differ are written as corrections. Raises ``Refusal`` naming every wrong row.
    """
    rows, factors = specimen_csv.read(text)
    found = specimen_csv.names(rows)
    if len(found) > 1:
        second = next(r for r in rows if r.batch != found[0])
        raise refuse(f"row {second.number}: batch", "the file holds more than one batch", "Import one batch at a time.")
    _check(rows)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        home = _home(conn, rows)
        new = home is None
        batch_id = _make_batch(conn, w, rows, factors, action_id) if home is None else home
        sizes, readings = _take_facts(conn, w, fresh(conn, batch_id), rows, action_id)
        if new:
            _take_glueups(conn, batch_id, rows, action_id)
        return {
            "batch_id": batch_id, "name": found[0], "new_batch": new, "pieces": len(rows), "sizes": sizes,
            "readings": readings,
        }  # fmt: skip

    with w.db.read() as conn:
        home = _home(conn, rows)
    act = Act(
        "plan" if home is None else "break", "import", f"Imported {len(rows)} pieces of {found[0]}", home, person,
        key=key, request=text, undoable=home is not None,
    )  # fmt: skip
    return Imported(**w.perform(act, body))


def _observation(r: Row) -> Observation | None:
    if not r.kind:
        return None
    return Observation(
        kind=Kind(r.kind),
        low_n=r.load_low_n,
        high_n=r.load_high_n,
        held_s=r.held_s,
        failure_mode=r.failure_mode or None,
        wood_failure_pct=r.wood_failure_pct,
        reason=r.reason,
        note=r.note,
    )


def _check(rows: Sequence[Row]) -> None:
    p, seen = Problems(), set()
    for r in rows:
        at = f"row {r.number}: "
        try:
            if read_code(r.code) != r.code:
                p.add(f"{at}code", f"{r.code!r} is not written as a code", "Write it in capitals, without the half.")
        except Refusal as refusal:
            p.take(refusal, at)
        p.check(r.code not in seen, f"{at}code", f"{r.code} stands twice", "One row for each specimen.")
        seen.add(r.code)
        p.check(r.role in ("joint", "solid"), f"{at}role", f"{r.role!r} is not joint or solid", "Write one of the two.")
        p.check(r.part in PARTS, f"{at}part", f"{r.part!r} is no part", "Use one of: " + ", ".join(PARTS[1:]) + ".")
        kinds = {k.value for k in Kind}
        if p.check(not r.kind or r.kind in kinds, f"{at}kind", f"{r.kind!r} is no kind of observation",
                   "Use one of: " + ", ".join(sorted(kinds)) + "."):  # fmt: skip
            try:
                o = _observation(r)
                if o is not None:
                    checked(o)
            except Refusal as refusal:
                p.take(refusal, at)
        for name, value in r.sizes.items():
            field = f"{at}{specimen_csv.size_head(name)}"
            p.check(0 < value <= 3000, field, f"{value:g} is not possible", "Check its unit.")
        happened.check_cell(r.events, f"{at}events", p)
        for name in ("glued_at", "unclamped_at", "observed_at"):
            try:
                if getattr(r, name):
                    moment(getattr(r, name))
            except ValueError:
                p.add(f"{at}{name}", "is not a time", "Write it as 2026-11-23T16:50:00Z.")
    p.raise_if_any()


def _home(conn: sqlite3.Connection, rows: Sequence[Row]) -> int | None:
    """The batch that all codes belong to; ``None`` if all are new."""
    found = [(r, specimens.find_code(conn, r.code)) for r in rows]
    homes = {f[1] if f else None for _, f in found}
    if len(homes) == 1:
        return homes.pop()
    p, first = Problems(), found[0][1]
    for r, f in found:
        if (f[1] if f else None) != (first[1] if first else None):
            where = f"belongs to {_name(conn, f[1])!r}" if f else "is not in this workshop"
            p.add(f"row {r.number}: code", f"{r.code} {where}, the rows above do not", "Import one batch at a time.")
    raise Refusal(p.found)


def _name(conn: sqlite3.Connection, batch_id: int) -> str:
    found = batches.batch(conn, batch_id)
    return found.name if found else ""


def _level(key: str, value: str | float | None, unit: str) -> Level:
    known = FIELDS.get(key)
    if known is not None and known.dimension is not None:
        return Level(value, BASE[known.dimension])
    return Level(value, unit)


def _stated(r: Row) -> dict[str, Level]:
    """What the columns of a row say about the fields of the record; empty cells say nothing."""
    cells: dict[str, str | float | None] = {
        "species": r.species_a, "orientation": r.orientation, "glue": r.glue, "prep": r.prep,
        "pressure_mpa": r.planned_pressure_mpa, "clamp_s": r.planned_clamp_s, "cure_s": r.planned_cure_s,
    }  # fmt: skip
    return {k: _level(k, None if v == "none" else v, "") for k, v in cells.items() if v not in (None, "")}


def _plan(rows: Sequence[Row], factors: Sequence[tuple[str, str, str]]) -> Plan:
    """The plan that the rows bear out. ``Refusal`` if they make none.

    Rows whose label follows from their factor columns make the grid, of which cells without a row were dropped; other
    joints are single treatments.
    """
    joints = [r for r in rows if r.role == "joint"]
    if not joints:
        raise refuse("file", "there is no joint in it, only solid pieces", "Add the joints.")
    of = {r.code: {k: _level(k, *v) for k, v in r.factors.items()} for r in joints}

    def label(r: Row, keys: Sequence[tuple[str, str, str]]) -> str:
        return " · ".join(treatment_name(Factor(k, n, ()), of[r.code][k]) for k, n, _ in keys)

    varied = [f for f in factors if len({of[r.code][f[0]] for r in joints if f[0] in of[r.code]}) > 1] or list(factors)
    grid = [r for r in joints if r.treatment_label == label(r, varied)] or joints
    varied = [f for f in varied if len({of[r.code][f[0]] for r in grid}) > 1] or varied
    grid = [r for r in joints if r.treatment_label == label(r, varied)] or joints
    levels = {k: list(dict.fromkeys(of[r.code][k] for r in grid)) for k, _, _ in varied}
    first, base = grid[0], first_plan()
    constants = {k: v for k, v in _stated(first).items() if k not in levels}
    constants |= {k: v for k, v in of[first.code].items() if k not in levels}
    constants = {**{k: v for k, v in base.constants.items() if k not in levels}, **constants}
    counts = Counter(r.treatment_label for r in rows if r.part in MADE_TO_COUNT)
    cells = {tuple(levels[k].index(of[r.code][k]) for k, _, _ in varied): counts[r.treatment_label] for r in grid}
    every = list(product(*(range(len(v)) for v in levels.values())))
    usual = Counter(cells.values()).most_common(1)[0][0]
    chosen = next((of[r.code] for r in grid if r.control), None)
    control = tuple(levels[k].index(chosen[k]) for k, _, _ in varied) if chosen is not None else None
    singles = {r.treatment_label: r for r in joints if r.treatment_label not in {g.treatment_label for g in grid}}
    p = Problems()
    for r in singles.values():
        same = all(any(of[r.code].get(k) == level for level in levels[k]) for k in levels)
        p.check(
            not same or set(_changes(r, of[r.code], constants, levels)) - set(levels) != set(),
            f"row {r.number}: treatment_label", f"{r.treatment_label!r} does not follow from the factor columns",
            "Make label and factor columns agree.",
        )  # fmt: skip
    p.raise_if_any()
    method = METHODS.get(first.method, METHODS[base.method])
    plan = replace(
        base,
        question=first.question or f"Imported: {first.batch}",
        target=first.target or "joint",
        method=method.key,
        sizes=nominal_sizes(method, method.forms, first.nominal),
        factors=tuple(Factor(k, n, tuple(levels[k])) for k, n, _ in varied),
        constants=constants,
        replicates=usual,
        control=control,
        dropped=tuple(c for c in every if c not in cells),
        extra_replicates=tuple((c, n) for c, n in cells.items() if n != usual),
        extras=tuple(
            Extra(name, _changes(r, of[r.code], constants, levels), counts[name], r.control or None)
            for name, r in singles.items()
        ),
        solid_reference=max((counts[r.treatment_label] for r in rows if r.role == "solid"), default=0),
    )
    wrong = problems(plan)
    if wrong:
        raise Refusal(wrong)
    return plan


def _changes(
    r: Row, own: dict[str, Level], constants: dict[str, Level], levels: dict[str, list[Level]]
) -> dict[str, Level]:
    """In what a single treatment differs from the constants of the plan."""
    stated = {k: v for k, v in _stated(r).items() if k not in levels}
    return {k: v for k, v in {**stated, **own}.items() if constants.get(k) != v}


def _make_batch(
    conn: sqlite3.Connection, w: Workshop, rows: Sequence[Row], factors: Sequence[tuple[str, str, str]], action_id: int
) -> int:
    plan, now = _plan(rows, factors), w.stamp()
    batch_id = batches.add_batch(conn, rows[0].batch[:120], now)
    actions.assign(conn, action_id, batch_id)
    batches.add_version(conn, batch_id, "locked", plan, w.new_seed(), "imported from a file", action_id)
    planned = design.treatments(plan)
    ids = specimens.add_treatments(conn, batch_id, planned, {f.key: f.name for f in plan.factors}, action_id)
    places = {t.label: i for i, t in enumerate(planned)}
    p = Problems()
    pieces = []
    for i, r in enumerate(rows, 1):
        place = places.get(r.treatment_label)
        if place is None:
            p.add(f"row {r.number}: treatment_label", f"{r.treatment_label!r} does not follow from the factor columns",
                  "Make label and factor columns agree.")  # fmt: skip
            continue
        pieces.append(design.NewSpecimen(r.code, place, r.replicate or i, r.break_order or i, r.glue_order or i,
                                         r.part or design.COUNTS))  # fmt: skip
    p.raise_if_any()
    specimens.add_specimens(conn, batch_id, planned, ids, pieces, action_id)
    return batch_id


def _take_facts(
    conn: sqlite3.Connection, w: Workshop, facts: Facts, rows: Sequence[Row], action_id: int
) -> tuple[int, int]:
    by_code, sizes, readings = facts.by_code(), 0, 0
    for r in rows:
        piece = by_code[r.code]
        for quantity, value in r.sizes.items():
            old = facts.measured.get(piece.id, {}).get(quantity)
            if old is None or old.value != value:
                specimens.add_measurement(conn, piece.id, quantity, value, f"{value:g} mm", w.stamp(), action_id)
                sizes += 1
        o, seen = _observation(r), facts.observed.get(piece.id)
        if o is not None and (seen is None or replace(seen.observation, shares=()) != o):
            breaks.add_observation(
                conn, piece.id, o, source="file", now=r.observed_at or w.stamp(), person=r.observed_by, pull_id=None,
                setup_id=None, first_crack_n=r.first_crack_n, action_id=action_id,
            )  # fmt: skip
            readings += 1
    return sizes, readings


def _take_glueups(conn: sqlite3.Connection, batch_id: int, rows: Sequence[Row], action_id: int) -> None:
    ids = {code: s.id for code, s in fresh(conn, batch_id).by_code().items()}
    for number in sorted({r.glueup for r in rows if r.glueup is not None and r.glued_at}):
        own = [r for r in rows if r.glueup == number]
        first = own[0]
        values = {
            "started_at": iso(moment(first.glued_at)), "person": first.glued_by, "air_c": first.air_c,
            "humidity_pct": first.humidity_pct, "bottle": first.bottle, "bottle_id": None,
            "force_n": first.clamp_force_n, "clamps": first.clamps or 1,
            "force_known": first.clamp_force_known or "unknown", "spread_g_m2": None, "faces": "one", "note": "",
        }  # fmt: skip
        glueup_id = glueups.add_glueup(conn, batch_id, values, action_id)
        if first.mix_deviation:
            mix = glueups.Mix(glueup_id, iso(moment(first.glued_at)), "", first.mix_deviation)
            glueups.add_mix(conn, mix, action_id)
        glueups.add_members(conn, glueup_id, [ids[r.code] for r in own], action_id)
        members = {m.specimen_id: m for m in glueups.members(conn, batch_id)}
        for r in own:
            shared = (first.clamp_force_n, first.clamps, first.bottle)
            if (r.clamp_force_n, r.clamps, r.bottle) != shared:
                changed = {"force_n": r.clamp_force_n, "clamps": r.clamps, "bottle": r.bottle}
                glueups.except_member(conn, members[ids[r.code]], changed, action_id)
            happened.take_cell(conn, ids[r.code], r.events, action_id)
            if r.unclamped_at:
                glueups.add_events(conn, [ids[r.code]], "unclamped", iso(moment(r.unclamped_at)), "", action_id)
