"""What was not alike between treatments though nobody planned it: covariates that run along, ages; and what was seen
of the pieces on their way.
"""

from __future__ import annotations

import sqlite3
from datetime import datetime

from adhaero.core.compare import runs_along
from adhaero.core.compare.ages import age_gap
from adhaero.core.compare.survival import survival
from adhaero.store import boards
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import moment
from adhaero.workflow.glue import air
from adhaero.workflow.piece_records import piece_record

TOGETHER_SHARE = 0.05
"""Starts that differ by less than this share of the age at the first look count as one."""


def along(conn: sqlite3.Connection, record: BatchRecord) -> list[str]:
    """What runs along with the treatments among the joints that were made."""
    joints = [s for s in record.counting if s.role != "solid" and s.id in record.members]
    if not joints:
        return []
    plan = boards.cut_plan(conn, record.batch.id)
    board = {b["code"]: str(b["board_id"]) for b in plan.document["blanks"]} if plan else {}
    rows = [record.row("along", s, _covariates, board.get(s.code) or board.get(record.unit_code(s))) for s in joints]
    letters = [record.treatments[s.treatment_id].letter for s in joints]
    keys = [k for k in runs_along.NAMES if k != "bottle"]
    found = runs_along.sentences(letters, {k: [r[k] for r in rows] for k in keys})
    # Another glue comes from another bottle: only among treatments of the same glue does the bottle say something.
    for glue in sorted({s.glue for s in joints}):
        own = [i for i, s in enumerate(joints) if s.glue == glue]
        found += runs_along.sentences([letters[i] for i in own], {"bottle": [rows[i]["bottle"] for i in own]})
    return list(dict.fromkeys(found))


def _covariates(record: BatchRecord, s: Specimen, board: str | None) -> dict[str, str | None]:
    member, seen = record.members[s.id], record.observed.get(s.id)
    g = record.glueups[member.glueup_id]
    return {
        "day": g.started_at[:10],
        "glueup": str(g.number),
        "person": g.person or None,
        "bottle": (member.bottle if member.bottle is not None else g.bottle) or None,
        "board": board,
        "break-day": seen.at[:10] if seen else None,
        "tester": (seen.person or None) if seen else None,
        "setup": str(seen.setup_id) if seen and seen.setup_id is not None else None,
    }


def looks_of(record: BatchRecord) -> dict[int, dict[str, list[tuple[float, bool]]]]:
    """What looks at the pieces on their way to the break said: by treatment and code (days, whole).

    Days count from where the conditioning began, else from the gluing. Pieces that began together and are seen at one
    look have the age of that look to the same instant, though they were closed minutes apart.
    """
    began = _began_together(record)
    own: dict[int, dict[str, list[tuple[float, bool]]]] = {}
    for s in record.counting:
        looks = [e for e in record.joint_records.get(s.id, ()) if e.kind == "inspected" and "whole" in e.value]
        if looks:
            days = [((moment(e.at) - began[s.id]).total_seconds() / 86400, e) for e in looks]
            own.setdefault(s.treatment_id, {})[s.code] = [
                (round(day, 2), e.value["whole"] != "apart") for day, e in days
            ]
    return dict(sorted(own.items()))


def _began_together(record: BatchRecord) -> dict[int, datetime]:
    """Return when each inspected piece went out, or was glued. Pieces that started close together share one start."""
    starts: list[tuple[datetime, float, int]] = []
    for s in record.counting:
        looks = [e for e in record.joint_records.get(s.id, ()) if e.kind == "inspected" and "whole" in e.value]
        if looks:
            went = record.conditioned.get((s.id, "in"))
            start = moment(went.at) if went else record.pressed_at(s)
            starts.append((start, min((moment(e.at) - start).total_seconds() for e in looks), s.id))
    found: dict[int, datetime] = {}
    first: datetime | None = None
    for start, age_s, piece in sorted(starts):
        if first is None or (start - first).total_seconds() > TOGETHER_SHARE * max(0.0, age_s):
            first = start
        found[piece] = first
    return found


def inspected(record: BatchRecord) -> list[str]:
    """The same in words, a treatment a line."""
    return [f"{record.treatments[t].label}: {survival(pieces).in_words()}" for t, pieces in looks_of(record).items()]


def wetness(record: BatchRecord) -> list[str]:
    """How wet the pieces were that came from outdoors, a treatment a line; and of how many nobody said."""
    own: dict[int, list[str]] = {}
    for s in record.counting:
        path = record.exposure(s)
        if path is not None and path.outdoors and s.id in record.observed and s.role != "solid":
            told = record.last(s.id, "wetness")
            own.setdefault(s.treatment_id, []).append(str(told.value["state"]) if told else "not noted")
    found = []
    for t, states in sorted(own.items()):
        said = ", ".join(f"{states.count(x)} {x}" for x in ("wet", "damp", "dry", "not noted") if x in states)
        mixed = " Wet and dry ones do not compare." if len(set(states) - {"not noted"}) > 1 else ""
        found.append(f"{record.treatments[t].label}: at the break {said}.{mixed}".removesuffix("."))
    return found


def stays(conn: sqlite3.Connection, record: BatchRecord, now: datetime) -> list[str]:
    """The air that the pieces of each treatment stood in before their break, place by place: from the first that came
    to the last that left.
    """
    spans: dict[tuple[int, str], list[tuple[datetime, datetime]]] = {}
    for s in record.counting:
        for place, begin, end in air.places_of(record, s, now):
            spans.setdefault((s.treatment_id, place), []).append((begin, end))
    found = []
    for (treatment, place), own in sorted(spans.items()):
        told = air.during(conn, place, min(b for b, _ in own), max(e for _, e in own)).in_words()
        if told:
            pieces = f"{len(own)} piece{'s' * (len(own) != 1)}"
            found.append(f"{record.treatments[treatment].label}: {pieces} kept at {place}, {told}")
    return found


def ages(record: BatchRecord) -> list[str]:
    """Treatments with the same planned age and conditioning are held against each other."""
    alike: dict[tuple[object, ...], dict[str, list[float]]] = {}
    for s in record.counting:
        p = piece_record(record, s)
        if p.gluing is not None and p.reading is not None and p.age_s is not None:
            alike.setdefault((p.cure_s, record.conditioning(s)), {}).setdefault(p.label, []).append(p.age_s)
    gaps = [gap for own in alike.values() if (gap := age_gap(own)) is not None]
    return [f"{gap.in_words()}. Part of a difference may be the age." for gap in gaps]
