"""What the user's own pieces have shown so far, as a base for forecasts."""

from __future__ import annotations

import sqlite3
import statistics
from typing import Any, cast

from adhaero.core.observation import Kind
from adhaero.core.piece_record import datum
from adhaero.core.plan.document import Level
from adhaero.core.plan.forecast import History, Key, kind_of
from adhaero.core.plan.records import SOLID_GRAIN
from adhaero.core.plan.shares import made_share
from adhaero.core.plan.treatments import SOLID
from adhaero.store import actions, batches
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.by_batch import ByBatch
from adhaero.workflow.context import AppContext
from adhaero.workflow.piece_records import piece_record
from adhaero.workflow.record_loading import load

Told = tuple[int, float, float]
"""Of one treatment: number of figures, their mean, and the sum of squares about it."""
Figures = dict[Key, list[Told]]
"""By kind, what each treatment of a batch gave."""
KEYS = ("species", "glue", "conditioning", "orientation", "cure_s", "gap_mm", "pressure_mpa", SOLID_GRAIN)
LEAST_SHARE = 0.05
"""Joints expected to bear less say nothing of what they would bear when cured."""


def of_own_pieces(w: AppContext, conn: sqlite3.Connection, besides: int | None = None) -> dict[Key, History]:
    """Mean, scatter and number of every kind of piece broken so far, in all batches ``besides`` one."""

    def joined(_: object) -> dict[Key, History]:
        found: Figures = {}
        for figures in _FIGURES.of_all(w, conn, besides).values():
            for key, values in figures.items():
                found.setdefault(key, []).extend(values)
        return {k: _history(v) for k, v in found.items()}

    return w.cached(("history", besides), actions.last_id(conn), joined)


def usual_cv(history: dict[Key, History], method: str) -> tuple[float, int] | None:
    """Scatter within a kind, pooled over all kinds of joints of a method, with the pieces behind it."""
    own = [h for k, h in history.items() if k[0] == method and h.df >= 1 and k[5] != "solid"]
    weight = sum(h.df for h in own)
    if weight < 5:
        return None
    return (sum(h.cv**2 * h.df for h in own) / weight) ** 0.5, sum(h.n for h in own)


def _history(told: list[Told]) -> History:
    """Mean over all pieces of a kind, and their scatter within treatments: what treatments differ by is no scatter."""
    n = sum(own for own, _, _ in told)
    several = [(own, mean, squares) for own, mean, squares in told if own > 1 and mean > 0]
    df = sum(own - 1 for own, _, _ in several)
    relative = sum(squares / mean**2 for _, mean, squares in several)
    return History(sum(own * mean for own, mean, _ in told) / n, (relative / df) ** 0.5 if df else 0.0, n, df)


def _of_batch(w: AppContext, conn: sqlite3.Connection, batch_id: int, _last: int) -> Figures:
    return _figures(load(w, conn, batch_id)) if batches.standing(conn, batch_id).locked else {}


def _figures(record: BatchRecord) -> Figures:
    found: dict[Key, dict[int, list[float]]] = {}
    for s in record.counting:
        d = datum(piece_record(record, s), record.plan.target)
        # The load that a piece stood for a time, or was proof loaded with, was chosen: it is no strength.
        seen = piece_record(record, s).reading
        chosen = seen is not None and (seen.observation.held_s or seen.observation.kind in (Kind.HELD, Kind.PROOF))
        if not d.is_exact or chosen:
            continue
        levels = {k: level for k in KEYS if (level := record.level(s, k))}
        key = kind_of(record.plan.method, record.form(s).key, levels, s.role)
        if s.role == SOLID and record.loaded(s):
            levels[SOLID_GRAIN] = Level("".join(record.loaded(s)))
        made = made_share(record.plan, levels).share if s.role != SOLID else 1.0
        if made > LEAST_SHARE:
            found.setdefault(key, {}).setdefault(s.treatment_id, []).append(d.low / made)
    return {key: [_told(values) for values in own.values()] for key, own in found.items()}


def _told(values: list[float]) -> Told:
    mean = statistics.fmean(values)
    return len(values), mean, sum((v - mean) ** 2 for v in values)


def _read(body: list[Any]) -> Figures:
    return {cast(Key, tuple(key)): [(n, mean, squares) for n, mean, squares in told] for key, told in body}


_FIGURES: ByBatch[Figures] = ByBatch("figures", _of_batch, lambda f: list(f.items()), _read)
