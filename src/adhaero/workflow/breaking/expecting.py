"""What the pieces of a batch are expected to bear, for sheets and for a look at the rig before the first pull."""

from __future__ import annotations

import sqlite3

from adhaero.core.plan.forecast import expected
from adhaero.workflow import history
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import AppContext
from adhaero.workflow.record_loading import version


def expected_loads(w: AppContext, conn: sqlite3.Connection, record: BatchRecord) -> dict[str, tuple[float, float]]:
    """Loads (low, high) in N by the letter of a treatment; those are missing of which nothing is known."""
    if record.method.loadless:
        return {}

    def make(_: object) -> dict[str, tuple[float, float]]:
        known = history.of_own_pieces(w, conn, besides=record.batch.id)
        found = {letter: expected(record.plan, t, known, None) for letter, t in record.planned.items()}
        return {letter: (e.low_n, e.high_n) for letter, e in found.items() if e is not None}

    return w.cached(("expected", record.batch.id), version(conn), make)
