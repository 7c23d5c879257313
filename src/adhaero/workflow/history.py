"""What the user's own pieces have shown so far, as a base for forecasts."""

from __future__ import annotations

import sqlite3
import statistics

from adhaero.core.piece_record import datum
from adhaero.core.plan.document import Level
from adhaero.core.plan.forecast import History, Key, kind_of
from adhaero.core.plan.records import SOLID_GRAIN
from adhaero.core.plan.shares import made_share
from adhaero.core.plan.treatments import SOLID
from adhaero.store import actions, batches
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.context import AppContext
from adhaero.workflow.piece_records import piece_record
from adhaero.workflow.record_loading import load

Figures = dict[Key, list[float]]
KEYS = ("species", "glue", "conditioning", "orientation", "cure_s", "gap_mm", "pressure_mpa", SOLID_GRAIN)
LEAST_SHARE = 0.05
"""Joints expected to bear less say nothing of what they would bear when cured."""


def of_own_pieces(w: AppContext, conn: sqlite3.Connection, besides: int | None = None) -> dict[Key, History]:
    """Mean, scatter and number of every kind of piece broken so far, in all batches ``besides`` one."""
    stands = actions.last_id(conn), besides
    parts = w.cached("history", stands, lambda old: _parts(w, conn, old[1] if old else {}, besides))
    joined: Figures = {}
    for batch_id, (_, figures) in parts.items():
        if batch_id != besides:
            for key, values in figures.items():
                joined.setdefault(key, []).extend(values)
    return {k: _history(v) for k, v in joined.items()}


def usual_cv(history: dict[Key, History], method: str) -> tuple[float, int] | None:
    """Scatter within a kind, pooled over all kinds of joints of a method, with the pieces behind it."""
    own = [h for k, h in history.items() if k[0] == method and h.n >= 2 and k[5] != "solid"]
    weight = sum(h.n - 1 for h in own)
    if weight < 5:
        return None
    return (sum(h.cv**2 * (h.n - 1) for h in own) / weight) ** 0.5, sum(h.n for h in own)


def _history(values: list[float]) -> History:
    mean = statistics.fmean(values)
    cv = statistics.stdev(values) / mean if len(values) > 1 and mean else 0.0
    return History(mean, cv, len(values))


def _parts(
    w: AppContext, conn: sqlite3.Connection, old: dict[int, tuple[int, Figures]], besides: int | None
) -> dict[int, tuple[int, Figures]]:
    parts = {}
    for batch_id, last in batches.last_actions(conn).items():
        kept = old.get(batch_id)
        if kept is not None and (kept[0] == last or batch_id == besides):
            parts[batch_id] = kept
        elif batch_id == besides:
            continue
        elif batches.standing(conn, batch_id).locked:
            parts[batch_id] = last, _figures(load(w, conn, batch_id))
    return parts


def _figures(record: BatchRecord) -> Figures:
    found: Figures = {}
    for s in record.counting:
        d = datum(piece_record(record, s), record.plan.target)
        if not d.is_exact:
            continue
        levels = {k: level for k in KEYS if (level := record.level(s, k))}
        key = kind_of(record.plan.method, record.form(s).key, levels, s.role)
        if s.role == SOLID and record.loaded(s):
            levels[SOLID_GRAIN] = Level("".join(record.loaded(s)))
        made = made_share(record.plan, levels).share if s.role != SOLID else 1.0
        if made > LEAST_SHARE:
            found.setdefault(key, []).append(d.low / made)
    return found
