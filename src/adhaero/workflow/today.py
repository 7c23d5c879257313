"""Today: what is due over all batches, and how far each batch is."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from adhaero.store import actions, batches, breaks, due
from adhaero.store.batches import Progress
from adhaero.workflow.workshop import Workshop, iso, moment


@dataclass(frozen=True)
class DueView:
    """Something that is due: ``stage`` is where to go. ``at`` may lie in the past."""

    stage: str
    batch_id: int
    batch: str
    what: str
    at: str
    pieces: int


@dataclass(frozen=True)
class TodayView:
    """Home: the clock the program goes by, what is due in order of time, and the batches."""

    now: str
    due: list[DueView]
    batches: list[Progress]
    interrupted: list[DueView]


def view(w: Workshop) -> TodayView:
    """What home shows."""
    with w.db.read() as conn:
        clamps, cured, progress = w.kept(
            "today",
            actions.last_id(conn),
            lambda: (due.clamps_to_take_off(conn), due.pieces_to_break(conn), batches.progress(conn)),
        )
        loose = {p.batch.id: len(breaks.loose_pulls(conn, p.batch.id)) for p in progress if p.locked}
    found = [_due("glue", d, f"Take glue-up {d.glueup} out of its clamps") for d in clamps]
    found += [_due("break", d, f"Break: cure time reached ({d.label})") for d in cured]
    names = {p.batch.id: p.batch.name for p in progress}
    interrupted = [
        DueView("break", b, names[b], "A pull has no result yet: use it or pull again", iso(w.now()), n)
        for b, n in loose.items()
        if n
    ]
    return TodayView(iso(w.now()), sorted(found, key=lambda d: d.at), progress, interrupted)


def _due(stage: str, d: due.Due, what: str) -> DueView:
    at = iso(moment(d.started_at) + timedelta(seconds=d.after_s))
    return DueView(stage, d.batch_id, d.batch, what, at, d.pieces)
