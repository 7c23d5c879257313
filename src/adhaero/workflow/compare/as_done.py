"""Levels as they were made: where most pieces of a level left it, its real value stands for it, and its name says so.

A joint that was planned for 24 h and left its clamp after 3 min says nothing of 24 h. A level counts as left when more
than half of its pieces with something on record are farther off than the tolerance of the plan (core.tolerances), or
were glued with another glue; its real value is the median of what was done.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from statistics import median

from adhaero.core.materials.glue import GLUES
from adhaero.core.piece_record import PieceRecord
from adhaero.core.plan.document import Factor, Level, level_name
from adhaero.core.plan.fields import FIELDS
from adhaero.core.quantity import Dimension
from adhaero.core.times import span
from adhaero.core.tolerances import WATCHED, actual, departures
from adhaero.store.specimens import StoredTreatment
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.piece_records import piece_record


@dataclass(frozen=True)
class Done:
    """What was really made of a level: ``value`` in its base unit (``None``: a word), in ``words``, and as planned;
    ``pieces`` of it that are off, ``of`` those of which it is known.
    """

    value: float | None
    words: str
    planned: str
    pieces: int
    of: int

    @property
    def name(self) -> str:
        """The level as a sentence calls it: "3 min instead of 24 h"."""
        return f"{self.words} instead of {self.planned}"


AsDone = dict[tuple[str, str], Done]
"""By the key of a factor and the id of its level; only levels that were not made as planned."""


def as_done(record: BatchRecord) -> AsDone:
    """Return the levels of a batch that were not made as planned."""
    if "as done" not in record.derived:
        record.derived["as done"] = _as_done(record)
    found: AsDone = record.derived["as done"]
    return found


def label_of(record: BatchRecord, t: StoredTreatment) -> str:
    """A treatment's label, with what was really made of it: "clamp time 24 h (really 3 min)"."""
    done, planned = as_done(record), record.planned.get(t.letter)
    if not done or planned is None or planned.cell is None:
        return t.label
    levels = [(f.key, f.levels[i].id) for f, i in zip(record.plan.factors, planned.cell, strict=True)]
    real = [done[x].words for x in levels if x in done]
    return f"{t.label} (really {', '.join(real)})" if real else t.label


def left_in_words(record: BatchRecord) -> list[str]:
    """A sentence for every level that was not made as planned."""
    named = {(f.key, x.id): f.name for f in record.plan.factors for x in f.levels}
    return [
        f"{named[place]} {d.planned} was not made: {d.pieces} of {d.of} joints came to about {d.words}. "
        "The answers go by what was done."
        for place, d in as_done(record).items()
    ]


def _as_done(record: BatchRecord) -> AsDone:
    watched = [(i, f) for i, f in enumerate(record.plan.factors) if f.key in WATCHED or f.key == "glue"]
    pieces: dict[tuple[int, int], list[PieceRecord]] = {}
    for s in record.counting if watched else ():
        t = record.planned.get(record.treatments[s.treatment_id].letter)
        for i, _ in watched:
            if t is not None and t.cell is not None:
                pieces.setdefault((i, t.cell[i]), []).append(piece_record(record, s))
    found: AsDone = {}
    for i, f in watched:
        for place, level in enumerate(f.levels):
            own = pieces.get((i, place), [])
            done = _other_glue(own, level) if f.key == "glue" else _off(record, f, level, own)
            if done is not None:
                found[f.key, level.id] = done
    return found


def _off(record: BatchRecord, f: Factor, level: Level, own: list[PieceRecord]) -> Done | None:
    known = [v for p in own if (v := actual(p, f.key)) is not None]
    off = sum(any(d.field == f.key for d in departures(p)) for p in own)
    if 2 * off <= len(known):
        return None
    value, dimension = median(known), FIELDS[f.key].dimension
    assert dimension is not None
    words = span(value) if dimension is Dimension.TIME else record.units.text(value, dimension)
    return Done(value, words, level_name(f.key, level), off, len(known))


def _other_glue(own: list[PieceRecord], level: Level) -> Done | None:
    used = list(_glues(own))
    other = Counter(glue for glue, planned in used if glue != planned)
    if 2 * other.total() <= len(used):
        return None
    glue, n = other.most_common(1)[0]
    return Done(None, GLUES[glue].name, level_name("glue", level), n, len(used))


def _glues(own: list[PieceRecord]) -> Iterator[tuple[str, str]]:
    """(family used, family planned) of the pieces of which both are known."""
    for p in own:
        g = p.gluing
        if g is not None and g.glue in GLUES and g.planned_glue in GLUES:
            yield g.glue, g.planned_glue
