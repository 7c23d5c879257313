"""Bring the data of a batch back from a table: all of a file or nothing."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from adhaero.core.breaking.instrument import Instrument, checked, instrument_from_json
from adhaero.core.cut.layout import Rect
from adhaero.core.glue.limits import check_label
from adhaero.core.observation import Observation
from adhaero.core.plan import design
from adhaero.core.plan.checks import problems
from adhaero.core.plan.document import Plan
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.plan.treatments import treatments
from adhaero.core.properties import BOARD, BOTTLE, read_value
from adhaero.core.refusal import Problems, Refusal, refuse
from adhaero.formats import specimen_csv
from adhaero.formats.specimen_csv import Row
from adhaero.store import (
    adherends,
    batches,
    boards,
    bottles,
    glueups,
    observations,
    own_values,
    parents,
    rigs,
    specimens,
)
from adhaero.store.adherends import Step
from adhaero.store.boards import StoredBoard
from adhaero.store.bottles import Bottle, StoredEvent
from adhaero.store.observations import Observed
from adhaero.workflow import joint_events
from adhaero.workflow.batch_record import MARKS_EVENT, BatchRecord
from adhaero.workflow.breaking.observing import plausible
from adhaero.workflow.context import Act, AppContext, iso, moment
from adhaero.workflow.imported_plan import plan_of_rows
from adhaero.workflow.imported_rows import SOURCES, check, observation, other_loadings
from adhaero.workflow.plan.levels import of_another_shop
from adhaero.workflow.record_loading import fresh


@dataclass(frozen=True)
class Imported:
    """What an import did."""

    batch_id: int
    name: str
    new_batch: bool
    pieces: int
    sizes: int
    readings: int


def import_csv(w: AppContext, text: str, person: str, key: str | None) -> Imported:
    """Read a file of one batch, all or nothing.

    If its codes are new, the batch is made from it. If they are those of the batch of that name that is here, sizes and
    readings that differ are written as corrections. Raises ``Refusal`` naming every wrong row.
    """
    rows, factors = specimen_csv.read(text)
    return import_rows(w, rows, factors, person, key, text, "from a file")


def import_rows(
    w: AppContext, rows: Sequence[Row], factors: Sequence[tuple[str, str, str]], person: str, key: str | None,
    request: str, told: str,
) -> Imported:  # fmt: skip
    """Take in the rows of one batch, all or nothing. ``request`` is what was sent under ``key``, ``told`` says in the
    history where they come from.
    """
    found = specimen_csv.names(rows)
    if len(found) > 1:
        second = next(r for r in rows if r.batch != found[0])
        raise refuse(f"row {second.number}: batch", "the file holds more than one batch", "Import one batch at a time.")
    check(rows, w.now())

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        home = _home(conn, rows)
        new = home is None
        batch_id = _make_batch(conn, w, rows, factors, told, action_id) if home is None else home
        if new:
            _take_shop(conn, rows, batch_id, action_id)
            _take_glueups(conn, batch_id, rows, action_id)
            _take_pieces(conn, w, batch_id, rows, action_id)
        _take_own(conn, w, fresh(conn, batch_id), rows, action_id)
        sizes, readings = _take_facts(conn, w, fresh(conn, batch_id), rows, action_id)
        _check_plausible(fresh(conn, batch_id), rows)
        return {
            "batch_id": batch_id, "name": found[0], "new_batch": new, "pieces": len(rows), "sizes": sizes,
            "readings": readings,
        }  # fmt: skip

    with w.db.read() as conn:
        home = _home(conn, rows)
    # What makes a batch belongs to the shop: undone there, the batch is gone, and can be brought back.
    act = Act(
        "shop" if home is None else "break", "import", f"Imported {len(rows)} pieces of {found[0]} {told}"[:400], home,
        person, key=key, request=request,
    )  # fmt: skip
    try:
        return Imported(**w.perform(act, body))
    except sqlite3.IntegrityError as error:
        raise refuse("file", "a cell holds a value that cannot be", "Compare it with docs/data-format.md.") from error


def _check_plausible(record: BatchRecord, rows: Sequence[Row]) -> None:
    """Raise ``Refusal`` naming every row whose load would be beyond all that a joint bears, as at the bench."""
    p, known = Problems(), record.by_code
    for r in rows:
        seen = record.observed.get(known[r.code].id) if r.kind and r.code in known else None
        if seen is not None:
            try:
                plausible(record, known[r.code], seen.observation)
            except Refusal as refusal:
                p.take(refusal, f"row {r.number}: load_")
    p.raise_if_any()


def _home(conn: sqlite3.Connection, rows: Sequence[Row]) -> int | None:
    """The batch that all codes belong to; ``None`` if all are new."""
    found = [(r, specimens.find_code(conn, r.code)) for r in rows]
    homes = {f[1] if f else None for _, f in found}
    p, first = Problems(), found[0][1]
    if len(homes) == 1:
        home = homes.pop()
        if home is not None and _name(conn, home) != rows[0].batch:
            text = f"{rows[0].code} belongs to {_name(conn, home)!r}, not to {rows[0].batch!r}"
            raise refuse(f"row {rows[0].number}: batch", text, "Write that name, or give new pieces new codes.")
        return home
    for r, f in found:
        if (f[1] if f else None) != (first[1] if first else None):
            where = f"belongs to {_name(conn, f[1])!r}" if f else "is not in this workshop"
            p.add(f"row {r.number}: code", f"{r.code} {where}, the rows above do not", "Import one batch at a time.")
    raise Refusal(p.found)


def _name(conn: sqlite3.Connection, batch_id: int) -> str:
    found = batches.batch(conn, batch_id)
    return found.name if found else ""


def _plan(rows: Sequence[Row], factors: Sequence[tuple[str, str, str]]) -> Plan:
    """The plan that the table brings, else the one that its rows bear out."""
    own = next((r for r in rows if r.plan), None)
    if own is None:
        return plan_of_rows(rows, factors)
    plan = plan_from_json(json.loads(own.plan))
    wrong = problems(plan)
    if wrong:
        raise Refusal(wrong)
    return of_another_shop(plan)


def _make_batch(
    conn: sqlite3.Connection, w: AppContext, rows: Sequence[Row], factors: Sequence[tuple[str, str, str]],
    told: str, action_id: int,
) -> int:  # fmt: skip
    plan, now = _plan(rows, factors), w.stamp()
    batch_id = batches.add_batch(conn, rows[0].batch[:120], now)
    batches.add_version(conn, batch_id, "locked", plan, w.new_seed(), f"imported {told}", action_id)
    planned = treatments(plan)
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
        part = r.part or design.COUNTS
        # A spare that was taken, or a trial, was made as something else; what it is now is told of it below.
        made = design.SPARE if r.instead_of else design.COUNTS if part == design.TRIAL else part
        pieces.append(design.NewSpecimen(r.code, place, r.replicate or i, r.break_order or i, r.glue_order or i, made,
                                         r.parent_number if r.parent else None,
                                         int(r.block) if r.block.isdigit() else None, r.piece_name))  # fmt: skip
    p.raise_if_any()
    codes = {r.parent_number: r.parent for r in rows if r.parent and r.parent_number}
    of = parents.add(conn, batch_id, plan.parents.kind, codes, action_id) if plan.parents and codes else {}
    specimens.add_specimens(conn, batch_id, planned, ids, pieces, action_id, of)
    return batch_id


def _take_shop(conn: sqlite3.Connection, rows: Sequence[Row], batch_id: int, action_id: int) -> None:
    """Bottles and boards that are not here yet, and the plan at the saw."""
    own = next((r for r in rows if r.shop), None)
    if own is None:
        return
    field = f"row {own.number}: shop"
    try:
        document = json.loads(own.shop)
        known = {b.label for b in bottles.bottles(conn)}
        for b in document["bottles"]:
            if b["label"] not in known:
                _take_bottle(conn, b, action_id)
        ids = {b.label: b.id for b in boards.boards(conn)}
        for b in document["boards"]:
            if b["label"] not in ids:
                defects = tuple(Rect(**d) for d in b["defects"])
                ids[b["label"]] = boards.add(conn, StoredBoard(0, **{**b, "defects": defects}), action_id)
        cut = document["cut"]
        if cut is not None:
            d = cut["document"]
            blanks = [{**b, "board_id": ids[b["board_id"]]} for b in d["blanks"]]
            there = {**d, "boards": [ids[b] for b in d["boards"]], "blanks": blanks}
            boards.add_cut_plan(conn, batch_id, there, int(cut["seed"]), str(cut["at"]), action_id)
    except (KeyError, TypeError, ValueError, AttributeError, sqlite3.IntegrityError) as error:
        if isinstance(error, Refusal):
            raise
        raise refuse(field, "is not written as it was exported", "Leave the cell as it was, or empty.") from error


def _take_bottle(conn: sqlite3.Connection, b: dict[str, Any], action_id: int) -> None:
    check_label(b["limits"])
    plain = {k: v for k, v in b.items() if k != "events"}
    bottle_id = bottles.add(conn, Bottle(0, **plain), action_id)
    for kind, at, note in b["events"]:
        bottles.add_event(conn, StoredEvent(bottle_id, str(kind), iso(moment(at)), str(note)), action_id)


def _take_own(
    conn: sqlite3.Connection, w: AppContext, record: BatchRecord, rows: Sequence[Row], action_id: int
) -> None:
    """What was judged of pieces, faces, boards and bottles; of the latter every row of theirs says the same."""
    known, have = {p.id: p for p in record.plan.properties}, own_values.standing(conn, record.batch.id)
    for r in rows:
        for head, cell in r.own.items():
            key = head.partition(":")[0].strip()
            name, _, side = key.partition("-")
            field = f"row {r.number}: property {head}"
            if name not in known:
                raise refuse(field, "is no property of the plan", "Leave the column out, or bring the plan with it.")
            p = known[name]
            subject = {BOARD: r.board, BOTTLE: r.bottle}.get(p.of, f"{r.code}-{side}" if side else r.code)
            value = read_value(p, cell, field)
            if subject and have.get((p.id, subject)) != value:
                have[p.id, subject] = value
                own_values.add(conn, record.batch.id, p.id, subject, value, w.stamp(), action_id)


def _take_facts(
    conn: sqlite3.Connection, w: AppContext, record: BatchRecord, rows: Sequence[Row], action_id: int
) -> tuple[int, int]:
    by_code, sizes, readings = record.by_code, 0, 0
    for r in rows:
        piece = by_code[r.code]
        for quantity, value in r.sizes.items():
            old = record.measured.get(piece.id, {}).get(quantity)
            if old is None or old.value != value:
                specimens.add_measurement(
                    conn, piece.id, quantity, value, _as_typed(quantity, value), w.stamp(), action_id
                )
                sizes += 1
        o, seen = observation(r), record.observed.get(piece.id)
        if o is not None and seen is not None:
            # A table without the shares of a mixed failure leaves them as they are, as long as the mode stays.
            same = o.failure_mode == seen.observation.failure_mode
            o = replace(o, shares=o.shares or (seen.observation.shares if same else ()))
        if o is not None and (seen is None or seen.observation != o):
            observations.add(conn, _observed(conn, w, piece.id, r, o, seen, action_id), action_id)
            readings += 1
            if seen is None and r.curve:
                told = {"pull": 0, **json.loads(r.curve)}
                glueups.add_events(conn, [piece.id], MARKS_EVENT, w.stamp(), "", action_id, told)
            if seen is None and r.loadings:
                _add_others(conn, piece.id, r, action_id)
    return sizes, readings


def _as_typed(quantity: str, value: float) -> str:
    return f"{value:g} mm" if specimen_csv.size_head(quantity).endswith("_mm") else f"{value:g}"


def _observed(
    conn: sqlite3.Connection, w: AppContext, specimen_id: int, r: Row, o: Observation, old: Observed | None,
    action_id: int,
) -> Observed:  # fmt: skip
    """A reading from a row; one that corrects another keeps what the row does not say."""
    if old is not None:
        at = iso(moment(r.observed_at)) if r.observed_at else old.at
        return replace(old, observation=o, source="file", at=at, person=r.observed_by or old.person,
                       first_crack_n=r.first_crack_n if r.first_crack_n is not None else old.first_crack_n)  # fmt: skip
    set_up = None
    if r.rig and r.fixture and r.rig_capacity_n and r.rig_resolution_n:
        i = instrument_from_json(json.loads(r.rig_instrument)) if r.rig_instrument else Instrument()
        share = r.rig_working_share or 0.8
        made = rigs.SetUp(0, r.rig, r.fixture, r.rig_capacity_n, r.rig_resolution_n, share, instrument=checked(i))
        set_up = rigs.set_up_id(conn, made, w.stamp(), action_id)
    confirmed = tuple(str(c) for c in json.loads(r.confirmed)) if r.confirmed else ()
    loadings = json.loads(r.loadings) if r.loadings else {"counts": 1}
    source = r.source if r.source in SOURCES else "file"
    return Observed(0, specimen_id, None, set_up, o, r.first_crack_n, source,
                    iso(moment(r.observed_at)) if r.observed_at else w.stamp(), r.observed_by, confirmed,
                    int(loadings["counts"]), loadings.get("beside"), loadings.get("arm_mm"))  # fmt: skip


def _add_others(conn: sqlite3.Connection, specimen_id: int, r: Row, action_id: int) -> None:
    """The readings of the loadings that do not count."""
    for x in other_loadings(json.loads(r.loadings)):
        stored = Observed(0, specimen_id, None, None, x.observation, None, x.source, x.at, x.person,
                          loading=x.number, beside=x.beside, arm_mm=x.arm_mm)  # fmt: skip
        observations.add(conn, stored, action_id)


def _take_pieces(conn: sqlite3.Connection, w: AppContext, batch_id: int, rows: Sequence[Row], action_id: int) -> None:
    """What stands about single pieces: what they are for, steps, faults, swaps, and whether they are run at all."""
    ids = {code: s.id for code, s in fresh(conn, batch_id).by_code.items()}
    now = w.stamp()
    for r in rows:
        piece, field = ids[r.code], f"row {r.number}"
        try:
            if r.part == design.TRIAL or r.instead_of:
                value = {"part": r.part, "place": r.break_order, "instead_of": r.instead_of}
                glueups.add_events(conn, [piece], "part", now, r.part_reason, action_id, value)
            if r.not_run:
                glueups.add_events(conn, [piece], "not run", now, r.not_run, action_id)
            if r.amended:
                glueups.add_events(conn, [piece], "amended", now, "imported", action_id, dict(json.loads(r.amended)))
            if r.swapped_with:
                glueups.add_events(conn, [piece], "swapped", r.glued_at or now, f"faces {r.swapped_with}", action_id,
                                   {"with": r.swapped_with, "pair": []})  # fmt: skip
            for side, found, at, note in json.loads(r.defects) if r.defects else ():
                glueups.add_events(conn, [piece], "defect", iso(moment(at)), str(note), action_id,
                                   {"side": str(side), "found": str(found)})  # fmt: skip
            steps = [Step(**x) for x in json.loads(r.steps)] if r.steps else []
            if steps:
                adherends.add_steps(conn, [piece], steps, action_id)
            joint_events.take_cell(conn, piece, r.events, action_id)
        except (KeyError, TypeError, ValueError, AttributeError) as error:
            raise refuse(field, "holds a cell that is not written as it was exported", "Leave it as it was.") from error


def _take_glueups(conn: sqlite3.Connection, batch_id: int, rows: Sequence[Row], action_id: int) -> None:
    ids = {code: s.id for code, s in fresh(conn, batch_id).by_code.items()}
    bottle_ids = {b.label: b.id for b in bottles.bottles(conn)}
    for number in sorted({r.glueup for r in rows if r.glueup is not None and r.glued_at}):
        own = [r for r in rows if r.glueup == number]
        first = own[0]
        values = {
            "started_at": iso(moment(first.glued_at)), "person": first.glued_by, "air_c": first.air_c,
            "humidity_pct": first.humidity_pct, "bottle": first.bottle, "bottle_id": bottle_ids.get(first.bottle),
            "force_n": first.clamp_force_n, "clamps": first.clamps or 1,
            "force_known": first.clamp_force_known or "unknown", "spread_g_m2": first.spread_g_m2,
            "faces": first.glueup_faces or "one", "note": first.glueup_note, "pressed_by": first.pressed_by,
            "ended_at": iso(moment(first.glueup_ended_at)) if first.glueup_ended_at else None,
        }  # fmt: skip
        glueup_id = glueups.add_glueup(conn, batch_id, values, action_id)
        if first.mix_deviation or first.mixed_at or first.mix_ratio:
            mixed = iso(moment(first.mixed_at or first.glued_at))
            glueups.add_mix(conn, glueups.Mix(glueup_id, mixed, first.mix_ratio, first.mix_deviation), action_id)
        glueups.add_members(conn, glueup_id, [ids[r.code] for r in own], action_id)
        members = {m.specimen_id: m for m in glueups.members(conn, batch_id)}
        for r in own:
            shared = (first.clamp_force_n, first.clamps, first.bottle, first.spread_g_m2)
            changed = {"force_n": r.clamp_force_n, "clamps": r.clamps, "bottle": r.bottle, "spread_g_m2": r.spread_g_m2}
            if tuple(changed.values()) != shared:
                glueups.except_member(conn, members[ids[r.code]], {**changed, "note": r.exception_note}, action_id)
            elif r.exception_note:
                glueups.except_member(conn, members[ids[r.code]], {"note": r.exception_note}, action_id)
            if r.unclamped_at:
                glueups.add_events(conn, [ids[r.code]], "unclamped", iso(moment(r.unclamped_at)), "", action_id)
