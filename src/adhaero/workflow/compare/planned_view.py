"""What the plan compares, for the analysis and for the page: its families, its numeric factors, and how they ended."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from adhaero.core.compare.axis import Levels
from adhaero.core.compare.case import Case
from adhaero.core.compare.data import counted, p_in_words
from adhaero.core.compare.planned import FamilyResult
from adhaero.core.compare.saying import known_end, over_in_words, said
from adhaero.core.plan.comparisons import SIDE, Family
from adhaero.core.plan.document import Factor, Level, level_name
from adhaero.core.plan.fields import FIELDS
from adhaero.core.plan.level_order import in_order
from adhaero.core.quantity import UNITS
from adhaero.core.questions.propose import asked
from adhaero.core.questions.question import QuestionKind
from adhaero.core.units import as_typed
from adhaero.core.wording.say import percent
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.as_done import as_done


@dataclass(frozen=True)
class ComparedView:
    """A comparison as it ended; ``ratio`` with its interval are shares (``None`` for no end), ``p`` is adjusted within
    its family, ``route`` how it was judged (core.compare.planned).
    """

    first: str
    second: str
    stratum: str
    outcome: str
    route: str
    ratio: float | None
    low: float | None
    high: float | None
    p: float | None
    p_by_order: float | None
    text: str


@dataclass(frozen=True)
class PooledView:
    """A contrast pooled over its strata: of the level ``first``; ``agree`` whether they may have one ratio;
    ``high`` is ``None`` where there is no upper end.
    """

    name: str
    first: str
    strata: int
    ratio: float
    low: float
    high: float | None
    p: float
    agree: bool
    outcome: str
    text: str


@dataclass(frozen=True)
class FamilyView:
    """One family of planned comparisons; ``of`` is the factor's key, ``strata`` what they are within, ``blocks`` what
    was taken out of it.
    """

    id: str
    kind: str
    sentence: str
    of: str
    strata: str
    every_pair: bool
    comparisons: list[ComparedView]
    pooled: list[PooledView]
    blocks: str


@dataclass(frozen=True)
class LevelView:
    """A level of a factor; ``value`` is its number in the base unit, where it is one."""

    id: str
    name: str
    value: float | None


@dataclass(frozen=True)
class FactorView:
    """A factor with its levels in order; ``axis`` is whether they are numbers."""

    key: str
    name: str
    axis: bool
    levels: list[LevelView]


def wanted(record: BatchRecord) -> list[Family]:
    """The families of the main question: what the plan compares, side questions apart."""
    return [f for f in record.compared if f.kind != SIDE]


def of_question(record: BatchRecord, number: int) -> list[Family]:
    """The family of a side question, by its place."""
    key = f"side:{record.plan.side_questions[number].id}"
    return [f for f in record.compared if f.id == key]


def numeric(record: BatchRecord, found: Sequence[Family]) -> list[Levels]:
    """The factors that are an axis, with where each treatment lies on it."""
    axes = {f.of for f in found if f.axis and not f.struck}
    return [_levels(record, f) for f in record.plan.factors if f.key in axes]


def _levels(record: BatchRecord, factor: Factor) -> Levels:
    at, done = {}, as_done(record)
    for t in record.planned.values():
        value = t.record[factor.key].value if t.cell is not None and factor.key in t.record else None
        if isinstance(value, float | int):
            real = done.get((factor.key, t.record[factor.key].id))
            at[t.letter] = float(value) if real is None or real.value is None else real.value
    reference = _base(record, factor)
    names = {value: name for x in factor.levels for name, value in [_made(record, factor, x)] if value is not None}
    unit = factor.levels[0].unit
    known = FIELDS.get(factor.key)

    def named(x: float) -> str:
        if x in names:
            return names[x]
        rounded = float(f"{x:.2g}")
        if known is not None and known.dimension is not None:
            return as_typed(rounded, known.dimension, unit) if not unit else _rounded(x, factor)
        return f"{rounded:g} {unit}".strip()

    return Levels(
        factor.key,
        factor.name,
        at,
        named,
        reference,
        *_one_unit(factor),
    )


def _base(record: BatchRecord, factor: Factor) -> float:
    """Where the level lies that others are held against: as the question about the factor has it, else the control,
    else the last.
    """
    ordered = list(in_order(Factor(factor.key, factor.name, factor.levels, "value")).levels)
    levels = {x.id: _made(record, factor, x)[1] for x in ordered}
    for q in asked(record.plan):
        if factor.key == q.along or (factor.key == q.of and q.kind is QuestionKind.DOES_IT_LAST):
            wanted = q.against if q.of == factor.key and q.against in levels else ordered[0].id
        elif factor.key == q.of and (q.against in levels or factor.key.startswith("gap")):
            wanted = q.against if q.against in levels else ordered[0].id
        else:
            continue
        return levels[wanted] or 0.0
    place = factor.place(record.plan.control.get(factor.key, ""))
    chosen = factor.levels[place] if place is not None else ordered[-1]
    if (factor.key, chosen.id) not in as_done(record):
        return levels[chosen.id] or 0.0
    # An end that was not made as planned is no reference: the sound end of what was made is.
    made = [v for v in levels.values() if v is not None]
    return min(made) if factor.key.startswith("gap") else max(made)


def _made(record: BatchRecord, factor: Factor, level: Level) -> tuple[str, float | None]:
    """The name and the value of a level as it was made."""
    real = as_done(record).get((factor.key, level.id))
    value = float(level.value) if isinstance(level.value, float | int) else None
    if real is None:
        return level_name(factor.key, level), value
    return real.name, value if real.value is None else real.value


def _one_unit(factor: Factor) -> tuple[str, float]:
    """The unit that the levels are typed in, and how much of the axis one of it is."""
    known, unit = FIELDS.get(factor.key), factor.levels[0].unit
    if known is None or known.dimension is None or not unit:
        return unit, 1.0
    found = UNITS.get((known.dimension, unit))
    return (unit, float(found.factor)) if found is not None else (unit, 1.0)


def _rounded(x: float, factor: Factor) -> str:
    """A number between the levels with two digits, in the unit that they are typed in."""
    known, unit = FIELDS[factor.key], factor.levels[0].unit
    assert known.dimension is not None
    one = as_typed(x, known.dimension, unit)
    number, _, symbol = one.partition(" ")
    try:
        return f"{float(f'{float(number):.2g}'):g} {symbol}"
    except ValueError:
        return one


def factors_view(record: BatchRecord, found: Sequence[Family]) -> list[FactorView]:
    """The factors with their levels, for tables and axes."""
    axes = {f.of for f in found if f.axis}
    return [
        FactorView(
            f.key,
            f.name,
            f.key in axes,
            [LevelView(x.id, *_made(record, f, x)) for x in in_order(f).levels],
        )
        for f in record.plan.factors
    ]


def cell_of(record: BatchRecord, letter: str) -> dict[str, str]:
    """The levels (ids) of a treatment by the factors' keys; empty outside the grid."""
    t = record.planned.get(letter)
    if t is None or t.cell is None:
        return {}
    return {f.key: f.levels[i].id for f, i in zip(record.plan.factors, t.cell, strict=True)}


def views(case: Case, results: Sequence[FamilyResult]) -> list[FamilyView]:
    """The families as they are shown, that of the main question first."""
    return [
        FamilyView(
            r.family.id,
            r.family.kind,
            r.family.sentence,
            r.family.of,
            r.family.strata,
            r.family.every_pair,
            [
                ComparedView(j.first, j.second, j.stratum, j.outcome.value, j.route, j.ratio, j.low, known_end(j.high),
                             j.p, j.by_order, said(case, r.family, j))
                for j in r.comparisons
            ],
            [
                PooledView(o.name, o.first, o.strata, o.ratio, o.low, known_end(o.high), o.p, o.agree, o.outcome.value,
                           over_in_words(case, r.family, o))
                for o in r.pooled
            ],
            _taken_out(r),
        )
        for r in sorted(results, key=lambda r: r is not case.main)
    ]  # fmt: skip


def _taken_out(r: FamilyResult) -> str:
    """That blocks were taken out, how much that was, and what would be said otherwise."""
    if r.shared is None:
        return ""
    text = f"Judged within {counted(r.shared.blocks, r.shared.name)}, which take out {percent(r.shared.taken_out)} "
    text += "of the squared scatter"
    if len(r.comparisons) == 1 and r.left_in[0].p is not None:
        return f"{text} ({p_in_words(r.comparisons[0].p or 0.0)}; left in, {p_in_words(r.left_in[0].p)})."
    other = sum(a.outcome is not b.outcome for a, b in zip(r.comparisons, r.left_in, strict=True))
    return f"{text}; left in, {other} of {counted(len(r.comparisons), 'comparison')} would end otherwise."
