"""Take the data of a batch away as a table: everything that stands about its pieces, and what they draw on."""

from __future__ import annotations

import json
import math
import sqlite3
from dataclasses import asdict
from typing import Any

from adhaero.core.breaking.details import NOTHING
from adhaero.core.breaking.shares import as_cell
from adhaero.core.flags import gap_in_words
from adhaero.core.piece_record import Reading, datum
from adhaero.core.plan.document import Factor, Plan
from adhaero.core.plan.fields import FIELDS
from adhaero.core.properties import FACE
from adhaero.core.quantity import BASE, Dimension
from adhaero.formats import specimen_csv
from adhaero.formats.specimen_csv import Row
from adhaero.store import adherends, boards, glueups, own_values, specimens
from adhaero.store.adherends import Step
from adhaero.store.boards import StoredBoard
from adhaero.store.glueups import Event
from adhaero.store.observations import Observed
from adhaero.workflow import joint_events
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import AppContext
from adhaero.workflow.courses import course_of_reading
from adhaero.workflow.own_properties import of_piece
from adhaero.workflow.piece_records import GAP_MARK, flags, piece_record, place_on_backing
from adhaero.workflow.record_loading import load

_CORE = ("species", "orientation", "glue", "prep", "pressure_mpa", "clamp_s", "cure_s")


def export_csv(w: AppContext, batch_id: int) -> tuple[str, str]:
    """(file name, text) of all specimens of a locked batch with what stands about them."""
    with w.db.read() as conn:
        record = load(w, conn, batch_id)
        own = _Own(conn, record)
        factors = [(f.key, f.name, _unit(f)) for f in columns(record.plan)]
        rows = [_row(record, own, s) for s in record.pieces]
        if rows:
            # What the table as a whole draws on stands in its first row.
            plan = json.dumps(record.plan.to_json(), separators=(",", ":"), ensure_ascii=False)
            rows[0] = Row(**{**vars(rows[0]), "plan": plan, "shop": own.shop_as_cell()})
    return f"{file_name(record.batch.name)}.csv", specimen_csv.write(rows, factors)


def file_name(name: str) -> str:
    """A batch's name as the name of a file: ASCII letters, digits and dashes."""
    safe = "".join(c if c.isascii() and c.isalnum() else "-" for c in name.lower())[:60].strip("-")
    return safe or "batch"


def columns(plan: Plan) -> list[Factor]:
    """The factors, and the fields in which single treatments differ where no other column shows them."""
    more = {k: v for e in plan.extras for k, v in e.changes.items()}
    shown = {f.key for f in plan.factors} | set(_CORE)
    return [
        *plan.factors,
        *(Factor(k, FIELDS[k].name if k in FIELDS else k, (v,)) for k, v in more.items() if k not in shown),
    ]


def _unit(f: Factor) -> str:
    known = FIELDS.get(f.key)
    if known is not None:
        return BASE[known.dimension] if known.dimension else ""
    return next((level.unit for level in f.levels if level.unit), "")


class _Own:
    """What the pieces of a batch draw on: steps, faults, boards, bottles, set-ups."""

    def __init__(self, conn: sqlite3.Connection, record: BatchRecord) -> None:
        self.record = record
        self.steps: dict[int, list[Step]] = adherends.steps_of_batch(conn, record.batch.id)
        self.events: dict[int, list[Event]] = {}
        for e in glueups.events(conn, record.batch.id):
            self.events.setdefault(e.specimen_id, []).append(e)
        self.boards: dict[int, StoredBoard] = {b.id: b for b in boards.every(conn)}
        self.cut = boards.cut_plan(conn, record.batch.id)
        self.judged = own_values.standing(conn, record.batch.id)
        self.places: dict[str, list[dict[str, Any]]] = {}
        for b in self.cut.document["blanks"] if self.cut else ():
            self.places.setdefault(b["code"], []).append(b)

    def places_of(self, s: specimens.Specimen) -> list[dict[str, Any]]:
        """Where a piece lies on a board, or what it is sawn from."""
        return self.places.get(s.code) or self.places.get(self.record.unit_code(s), [])

    def board(self, s: specimens.Specimen) -> StoredBoard | None:
        """The board that a piece comes from."""
        own = self.places_of(s)
        return self.boards.get(own[0]["board_id"]) if own else None

    def own_cells(self, s: specimens.Specimen, board: str) -> dict[str, str]:
        """What was judged of a piece (or of its faces, board and bottle), by the heading of its column."""
        found = {}
        for p in self.record.plan.properties:
            sides = [(side, f"{s.code}-{side}") for side in "ab"] if p.of == FACE else [("", "")]
            for side, subject in sides:
                v = self.judged.get((p.id, subject)) if side else of_piece(p, self.judged, self.record, s, board)
                if v is not None:
                    unit = f" [{p.unit}]" if p.unit else ""
                    found[f"{p.id}{side and '-' + side}: {p.name}{unit}"] = v.grade or f"{v.number:g}"
        return found

    def shop_as_cell(self) -> str:
        """Bottles, boards, set-ups and the plan at the saw, by their labels."""
        record = self.record
        used = {record.bottle(s) for s in record.pieces if s.id in record.members}
        bottles = [
            {**{k: v for k, v in vars(b).items() if k != "id"},
             "events": [[e.kind, e.at, e.note] for e in events]}
            for label, (b, events) in record.bottles.items() if label in used
        ]  # fmt: skip
        at = set(self.cut.document["boards"]) if self.cut else set()
        planks = [{k: v for k, v in asdict(b).items() if k != "id"} for i, b in self.boards.items() if i in at]
        document = {"bottles": bottles, "boards": planks, "cut": self._cut_as_labels()}
        return json.dumps(document, separators=(",", ":"), ensure_ascii=False)

    def _cut_as_labels(self) -> dict[str, Any] | None:
        if self.cut is None:
            return None
        label = {i: b.label for i, b in self.boards.items()}
        d = self.cut.document
        blanks = [{**b, "board_id": label.get(b["board_id"], "")} for b in d["blanks"]]
        return {"document": {**d, "boards": [label.get(i, "") for i in d["boards"]], "blanks": blanks},
                "seed": self.cut.seed, "at": self.cut.at}  # fmt: skip


def _json(value: Any) -> str:
    return json.dumps(value, separators=(",", ":"), ensure_ascii=False) if value else ""


def _row(record: BatchRecord, own: _Own, s: specimens.Specimen) -> Row:
    p, t = piece_record(record, s), record.treatments[s.treatment_id]
    levels = {f.key: record.level(s, f.key) for f in columns(record.plan)} if s.role == "joint" else {}
    part, board = record.parts.get(s.id), own.board(s)
    parent = record.parent(s)
    values: dict[str, Any] = {
        "batch": record.batch.name, "question": record.plan.question, "code": s.code, "piece_name": s.alias,
        "treatment": t.letter,
        "treatment_label": t.label, "role": s.role, "part": p.part, "control": t.control or "",
        "method": record.plan.method, "target": record.plan.target, "policy": record.plan.policy,
        "replicate": s.replicate,
        "break_order": record.place(s), "glue_order": s.glue_order,
        "species_a": s.species_a, "species_b": s.species_b, "orientation": s.orientation, "glue": s.glue,
        "prep": s.prep, "planned_pressure_mpa": s.pressure_mpa, "planned_clamp_s": s.clamp_s,
        "planned_cure_s": s.cure_s, "area_mm2": p.area_mm2, "nominal": record.nominal(s.id),
        "sizes": {k: m.value for k, m in record.measured.get(s.id, {}).items()},
        "factors": {k: (v.value, v.unit) for k, v in levels.items() if v is not None},
        "own": own.own_cells(s, board.label if board else ""),
        "steps": _json([{k: v for k, v in vars(x).items() if v not in (None, "")} for x in own.steps.get(s.id, ())]),
        "defects": _json([[e.value["side"], e.value["found"], e.at, e.note] for e in own.events.get(s.id, ())
                          if e.kind == "defect"]),
        "events": joint_events.as_cell(record, s), "swapped_with": p.swapped_with, "not_run": p.not_run,
        "instead_of": part.instead_of if part else "", "part_reason": part.reason if part else "",
        "amended": _json({k: asdict(v) for k, v in record.amended.get(s.id, {}).items()}),
        "parent": parent.code if parent else "", "parent_kind": parent.kind if parent else "",
        "parent_number": parent.number if parent else None, "parent_place": place_on_backing(record, s),
        "block": s.block,
        "board": board.label if board else "",
        "board_places": _json([{k: b[k] for k in ("side", "rect")} for b in own.places_of(s)]),
        "board_density_kg_m3": board.density_kg_m3 if board else None,
        "board_moisture_pct": board.moisture_pct if board else None,
        "age_s": p.age_s, "flags": "; ".join(f.text for f in flags(record, s)),
    }  # fmt: skip
    return Row(**values, **_gluing(record, s), **_reading(record, s))


def _gluing(record: BatchRecord, s: specimens.Specimen) -> dict[str, Any]:
    p, member = piece_record(record, s), record.members.get(s.id)
    if member is None or p.gluing is None:
        return {}
    g, out, mix = record.glueups[member.glueup_id], record.unclamped.get(s.id), record.mixes.get(member.glueup_id)
    return {
        "glueup": g.number, "glued_at": g.started_at, "glued_by": g.person, "bottle": p.gluing.bottle,
        "bottle_state": p.gluing.bottle_state, "air_c": g.air_c, "humidity_pct": g.humidity_pct,
        "clamp_force_known": g.force_known, "pressed_by": g.pressed_by,
        "glueup_ended_at": g.ended_at or "",
        "clamp_force_n": member.force_n if member.force_n is not None else g.force_n,
        "clamps": member.clamps if member.clamps is not None else g.clamps, "spread_g_m2": p.gluing.spread_g_m2,
        "pressure_mpa": p.gluing.pressure_mpa, "unclamped_at": out.at if out else "",
        "mixed_at": mix.mixed_at if mix else "", "mix_ratio": mix.ratio if mix else "",
        "mix_deviation": mix.deviation if mix else "", "glueup_faces": g.faces, "glueup_note": g.note,
        "exception_note": member.note,
    }  # fmt: skip


def _confirmed(seen: Observed, r: Reading) -> list[str]:
    return [*seen.confirmed, *([f"{GAP_MARK}{gap_in_words(r.gaps[0])}"] if r.gaps else [])]


def _others(record: BatchRecord, s: specimens.Specimen, seen: Observed) -> dict[str, Any]:
    """The number of the loading that counts, and the readings of the others."""
    others = [
        {
            **asdict(o.observation),
            "loading": o.loading,
            "at": o.at,
            "person": o.person,
            "source": o.source,
            "beside": o.beside,
            "arm_mm": o.arm_mm,
        }
        for o in record.loadings[s.id]
        if o.loading != seen.loading
    ]
    own = {k: v for k, v in (("beside", seen.beside), ("arm_mm", seen.arm_mm)) if v is not None}
    return {"counts": seen.loading, **own, "others": others}


def _curve(record: BatchRecord, s: specimens.Specimen, r: Reading) -> str:
    """Curves stay here; what one showed, marks and figures, and what its signal leaves open go with their piece."""
    found = course_of_reading(record, record.observed[s.id])
    open_n = {} if r.signal_error_n is None else {"signal_error_n": r.signal_error_n}
    return "" if found is None else _json({"course": found.to_json(), "by_hand": list(r.by_hand), **open_n})


def _reading(record: BatchRecord, s: specimens.Specimen) -> dict[str, Any]:
    p, seen = piece_record(record, s), record.observed.get(s.id)
    d = datum(p, record.plan.target)

    def finite(value: float) -> float | None:
        return value if math.isfinite(value) else None

    if seen is None or p.reading is None:
        return {"known": d.known.value if d.counts else ""}
    o, dimension = seen.observation, record.method.figure_dimension
    stress = dimension is Dimension.STRESS
    low, high = finite(d.low), finite(d.high)
    used = record.set_ups.get(seen.setup_id) if seen.setup_id is not None else None
    return {
        "kind": o.kind.value, "load_low_n": o.low_n, "load_high_n": o.high_n, "held_s": o.held_s,
        "first_crack_n": seen.first_crack_n, "strength_low_mpa": low if stress else None,
        "strength_high_mpa": high if stress else None, "known": d.known.value, "figure_low": low,
        "figure_high": high, "figure_unit": BASE[dimension],
        "uncertainty": p.uncertainty(o.low_n) if o.low_n else None, "failure_mode": o.failure_mode or "",
        "wood_failure_pct": o.wood_failure_pct, "wood_counted_pct": p.wood_failure_pct, 
        "source": seen.source, "observed_at": seen.at,
        "observed_by": seen.person, "reason": o.reason, "note": o.note, "confirmed": _json(_confirmed(seen, p.reading)),
        "rig": used.rig if used else "", "fixture": used.fixture if used else "",
        "rig_capacity_n": used.capacity_n if used else None, "rig_resolution_n": used.resolution_n if used else None,
        "rig_working_share": used.working_share if used else None,
        "curve": _curve(record, s, p.reading),
        "shares": as_cell(o.shares), "details": _json(o.details.to_json()) if o.details != NOTHING else "",
        "loadings": _json(_others(record, s, seen)) if s.id in record.loadings else "",
        "rig_instrument": _json(used.instrument.to_json()) if used and not used.instrument.is_plain else "",
    }  # fmt: skip
