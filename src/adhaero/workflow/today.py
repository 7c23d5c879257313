"""Today: what is due over all batches, and how far each batch is."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass
from datetime import timedelta
from typing import Any

from adhaero.core.glue.limits import SIZED_WAIT_S, limits
from adhaero.core.plan.design import DUMMY
from adhaero.store import batches, bottles, clamps, glueups, pulls
from adhaero.store.batches import Batch
from adhaero.store.specimens import Specimen
from adhaero.workflow import protocol
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.by_batch import ByBatch
from adhaero.workflow.context import AppContext, iso, moment
from adhaero.workflow.glue import tasks
from adhaero.workflow.record_loading import load

MIXED = "The mixed glue ends"
NAMED = 6


@dataclass(frozen=True)
class DueView:
    """Something that is due: ``stage`` is where to go. ``at`` may lie in the past; ``codes`` are the first of its
    pieces.
    """

    stage: str
    batch_id: int
    batch: str
    what: str
    at: str
    pieces: int
    codes: tuple[str, ...] = ()


@dataclass(frozen=True)
class Progress:
    """How far a batch is: counts of joints and of all pieces that stand."""

    batch: Batch
    question: str
    locked: bool
    joints: int
    pieces: int
    measured: int
    to_measure: bool
    glued: int
    in_clamps: int
    observed: int
    left_out: int
    last_at: str


@dataclass(frozen=True)
class TodayView:
    """Home: the clock the program goes by, what is due in order of time, and the batches."""

    now: str
    due: list[DueView]
    batches: list[Progress]
    interrupted: list[DueView]


@dataclass(frozen=True)
class _OfBatch:
    """What one batch contributes to home; it holds until something is done in the batch."""

    progress: Progress
    due: list[DueView]


def view(w: AppContext) -> TodayView:
    """What home shows."""
    with w.db.read() as conn:
        parts = _PARTS.of_all(w, conn)
        loose = {b: len(pulls.loose_pulls(conn, b)) for b, p in parts.items() if p.progress.locked}
    now, forgotten = iso(w.now()), iso(w.now() - tasks.FORGOTTEN)
    due = (d for p in parts.values() for d in p.due if d.what != MIXED or d.at > forgotten)
    found = sorted(due, key=lambda d: d.at)
    what = "A pull has no result yet: use it or pull again"
    interrupted = [
        DueView("break", b, parts[b].progress.batch.name, what, now, count) for b, count in loose.items() if count
    ]
    latest_first = sorted((p.progress for p in parts.values()), key=lambda p: (p.last_at, p.batch.id), reverse=True)
    return TodayView(now, found, latest_first, interrupted)


def _of_batch(w: AppContext, conn: sqlite3.Connection, batch_id: int, _last: int) -> _OfBatch:
    about = batches.standing(conn, batch_id)
    record = load(w, conn, batch_id) if about.locked else None
    pieces = record.to_break if record else []
    progress = Progress(
        batch=about.batch,
        question=about.question,
        locked=about.locked,
        joints=sum(_is_to_glue(record, s) for s in record.pieces) if record else 0,
        pieces=len(pieces),
        measured=sum(record.is_measured(s.id) for s in pieces) if record and record.to_measure else 0,
        to_measure=bool(record.to_measure) if record else False,
        glued=sum(_is_glued(record, s) for s in record.pieces if _is_to_glue(record, s)) if record else 0,
        in_clamps=sum(record.is_held(s) for s in record.pieces) if record else 0,
        observed=sum(record.finished(s) for s in pieces) if record else 0,
        left_out=len(record.left_out) if record else 0,
        last_at=about.last_at,
    )
    return _OfBatch(progress, _all_due(conn, record) if record else [])


def _is_to_glue(record: BatchRecord, s: Specimen) -> bool:
    """Whether a piece is a joint of the plan as it stands. A dummy only fills a place in a clamp."""
    return s.role == "joint" and s.id not in record.not_run and record.part(s) != DUMMY


def _is_glued(record: BatchRecord, s: Specimen) -> bool:
    """Whether a joint needs no gluing any more: it is glued, or it was broken without a glue-up on record."""
    return s.id in record.members or record.finished(s)


def _all_due(conn: sqlite3.Connection, record: BatchRecord) -> list[DueView]:
    return [*_runs(conn, record), *_mixes(conn, record), *_steps(record), *_coats(record), *_waiting(record)]


def _runs(conn: sqlite3.Connection, record: BatchRecord) -> Iterator[DueView]:
    """The runs of the schedule that are not glued yet: each begins at the bench."""
    kept = clamps.schedule(conn, record.batch.id)
    for s in kept.document["slots"] if kept else ():
        left = [c for c in s["codes"] if any(p.id not in record.members for p in record.of_code(c))]
        if kept and s["kind"] == "glue" and left:
            at = iso(moment(kept.document["start"]) + timedelta(seconds=s["start_s"]))
            yield DueView("bench", record.batch.id, record.batch.name, f"Glue run {s['run'] + 1}", at, len(left),
                          _first(left))  # fmt: skip


def _mixes(conn: sqlite3.Connection, record: BatchRecord) -> Iterator[DueView]:
    """Mixed glue that is not all spread yet: its pot life ends at a moment."""
    mix = glueups.open_mix(conn, record.batch.id, "")
    if mix is None:
        return
    family = record.of_code(mix.left[0])[0].glue
    bottle = next((b for b in bottles.bottles(conn) if b.label == mix.bottle), None)
    pot = limits(*record.glue_of(family, bottle), mix.air_c).pot_s
    if pot is not None:
        at = iso(moment(mix.at) + timedelta(seconds=pot))
        yield DueView("bench", record.batch.id, record.batch.name, MIXED, at, len(mix.left), _first(mix.left))


def _steps(record: BatchRecord) -> Iterator[DueView]:
    """Steps of the protocol whose wait ends: a coat that has cured, a primer that has dried."""
    for text, over, codes in protocol.waits(record):
        what = f"{text}: waited for, close the joint"
        yield DueView("bench", record.batch.id, record.batch.name, what, iso(over), len(codes), _first(codes))


def _coats(record: BatchRecord) -> Iterator[DueView]:
    """First thin coats that are on and want a second one."""
    found: dict[str, list[str]] = {}
    for own in record.as_units(s for s in record.pieces if s.role != "solid" and s.id not in record.members):
        coat = record.last(own[0].id, "coat")
        if coat is not None and record.last(own[0].id, "spread") is None and not record.finished(own[0]):
            over = iso(moment(coat.at) + timedelta(seconds=SIZED_WAIT_S))
            found.setdefault(over, []).append(record.unit_code(own[0]))
    for at, codes in found.items():
        yield DueView("bench", record.batch.id, record.batch.name, "First coat dry: spread the second", at, len(codes),
                      _first(codes))  # fmt: skip


def _first(codes: Sequence[str]) -> tuple[str, ...]:
    """As many codes as can be read out."""
    return tuple(codes[:NAMED])


def _waiting(record: BatchRecord) -> Iterator[DueView]:
    for t in tasks.tasks(record):
        stage = "break" if t.kind == tasks.BREAK else "glue"
        yield DueView(stage, record.batch.id, record.batch.name, t.what, t.at, len(t.codes), _first(t.codes))


def _read(body: dict[str, Any]) -> _OfBatch:
    progress = {**body["progress"], "batch": Batch(**body["progress"]["batch"])}
    return _OfBatch(Progress(**progress), [DueView(**{**d, "codes": tuple(d["codes"])}) for d in body["due"]])


_PARTS: ByBatch[_OfBatch] = ByBatch("today", _of_batch, asdict, _read)
