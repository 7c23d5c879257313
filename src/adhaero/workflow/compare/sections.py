"""What solid wood and control lend to a comparison: loads of another section, and where the control begins to give."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from math import fsum, sqrt

from adhaero.core.breaking.trace import STRENGTHS
from adhaero.core.plan.judging import LOAD, Judging, Limit
from adhaero.core.plan.treatments import SOLID
from adhaero.core.quantity import Dimension
from adhaero.core.statistics.descriptive import t_quantile
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.piece_records import piece_record


def _mean_size(record: BatchRecord, pieces: Sequence[Specimen], size: str) -> float | None:
    own = [v for s in pieces if (v := record.sizes(s.id).get(size)) is not None]
    return fsum(own) / len(own) if own else None


def scale_of_solid(record: BatchRecord, joints: Sequence[Specimen], solid: Sequence[Specimen]) -> float:
    """By what loads of these solid pieces are multiplied before these joints are set against them: the plan's rule,
    (size of the joints / size of the solid pieces) to a power; 1 without a rule or without either.
    """
    rule = record.plan.judging.section
    if rule is None:
        return 1.0
    own, theirs = (_mean_size(record, x, rule.size) for x in (joints, solid))
    return (own / theirs) ** rule.power if own and theirs else 1.0


def with_curves(record: BatchRecord, j: Judging, without: Collection[str]) -> Judging:
    """The same with limits that are taken from the curves of the control; one that no curve tells is left out."""
    limits = [found for x in j.limits if (found := _from_curves(record, x, without) if x.mark else x) is not None]
    return replace(j, limits=tuple(limits))


def _from_curves(record: BatchRecord, x: Limit, without: Collection[str]) -> Limit | None:
    controls = {t.id for t in record.treatments.values()
                if (p := record.planned.get(t.letter)) and p.control == "standard"}  # fmt: skip
    counting = [s for s in record.counting if s.code not in without]
    for name, own in (
        ("the control", [s for s in counting if s.treatment_id in controls]),
        ("solid wood", [s for s in counting if s.role == SOLID]),
    ):
        values = [v for s in own if (v := _marked(record, s, x)) is not None]
        if values:
            return replace(
                x,
                value=fsum(values) / len(values),
                source=f"curves of {name}: {STRENGTHS[x.mark]}, {_span(record, x, values)}",
            )
    return None


def _span(record: BatchRecord, x: Limit, values: Sequence[float]) -> str:
    """How well the mean is known."""
    n, mean = len(values), fsum(values) / len(values)
    if n < 2:
        return "of one piece"
    half = t_quantile(0.95, n - 1) * sqrt(fsum((v - mean) ** 2 for v in values) / (n - 1) / n)
    dimension = Dimension.FORCE if x.figure == LOAD else record.method.figure_dimension
    low, high = (record.units.text(v, dimension, half / 10) for v in (mean - half, mean + half))
    return f"mean of {n} ({low} to {high})"


def _marked(record: BatchRecord, s: Specimen, x: Limit) -> float | None:
    p = piece_record(record, s)
    load = p.reading.marks.get(x.mark) if p.reading else None
    return None if load is None else load if x.figure == LOAD else load * p.per_newton
