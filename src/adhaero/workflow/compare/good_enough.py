"""What counts as good enough, applied: pieces that pass by treatment, limits of the user's own, a formula's column."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from adhaero.core import formula
from adhaero.core.compare.analysis import Analysis, Row, values_of
from adhaero.core.compare.caveat import Caveat
from adhaero.core.compare.passing import Passed, Seen, judge, reaches
from adhaero.core.method import FAILURE_NAMES
from adhaero.core.piece_record import datum
from adhaero.core.plan.judging import LOAD, STRENGTH, Judging, Limit
from adhaero.core.plan.treatments import SOLID
from adhaero.core.properties import OwnValue
from adhaero.core.quantity import Dimension
from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.shares import Share, fisher, share
from adhaero.store.specimens import Specimen
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.groups import treated
from adhaero.workflow.compare.sections import with_curves
from adhaero.workflow.piece_records import piece_record

Own = Mapping[str, Mapping[str, OwnValue]]
"""Values of the plan's own properties by property id and code."""


@dataclass(frozen=True)
class PassRow:
    """How many pieces of a treatment surely pass, of those that are told; ``open`` are those that are not. The interval
    is Clopper and Pearson's, in percent; ``p`` against the control by Fisher's test, adjusted by Holm.
    """

    letter: str
    label: str
    passed: int
    told: int
    open: int
    low_pct: float
    high_pct: float
    p: float | None


@dataclass(frozen=True)
class LimitRow:
    """How many pieces of a treatment surely reach a limit, of those told, and its mean as a share of it, in percent."""

    letter: str
    reached: int
    told: int
    open: int
    mean_pct: float | None


@dataclass(frozen=True)
class LimitView:
    """A limit of the user's own with what reaches it; ``shown`` whether it is one of the figure that is compared."""

    name: str
    figure: str
    value: float
    source: str
    usable: bool
    shown: bool
    rows: list[LimitRow]


@dataclass(frozen=True)
class FormulaRow:
    """Means of the raw figure and by the formula, of the ``n`` pieces for which both are known."""

    letter: str
    n: int
    raw: float | None
    adjusted: float | None
    sd: float | None


@dataclass(frozen=True)
class FormulaView:
    """The column of a formula: its name, its text, what it measures."""

    name: str
    text: str
    dimension: str
    rows: list[FormulaRow]


@dataclass(frozen=True)
class GoodEnough:
    """All of it; ``rule`` in words, empty without one, ``pieces`` how each came out (code -> passes, fails, open);
    ``unknown`` are limits that no curve shows yet.
    """

    rule: str
    rows: list[PassRow]
    pieces: dict[str, str]
    limits: list[LimitView]
    formula: FormulaView | None
    unknown: list[str]


def names_of(record: BatchRecord) -> dict[str, str]:
    """Names by which a formula may use the plan's own properties -> their ids."""
    return {formula.as_name(p.name): p.id for p in record.plan.properties}


def in_words(j: Judging, record: BatchRecord) -> str:
    """The rule as a sentence's end: "at least 5 MPa, at least 80 % wood failure"."""
    r, units = j.rule, record.units
    dimension = Dimension.FORCE if r.figure == LOAD else record.method.figure_dimension
    said = [
        "" if r.least is None else f"at least {units.text(r.least, dimension)}",
        "" if r.of_solid is None else f"at least {100 * r.of_solid:g} % of solid wood",
        "" if r.of_usable is None else f"at least {100 * r.of_usable:g} % of the usable limit",
        "" if r.wood_pct is None else f"at least {r.wood_pct:g} % wood failure",
        "" if not r.modes else "gives way " + " or ".join(FAILURE_NAMES[m].lower() for m in r.modes),
    ]
    return ", ".join(x for x in said if x)


def good_enough(
    record: BatchRecord, a: Analysis, without: Sequence[str], own: Own, *, load: bool, fallen_as_zero: bool
) -> GoodEnough:
    """What counts as good enough, applied to every piece but those that are left out (``without``, codes)."""
    out = set(without)
    j = with_curves(record, record.plan.judging, out)
    if record.plan.judging == Judging():
        return GoodEnough("", [], {}, [], None, [])
    solid = _strength_of_solid(record, out, fallen_as_zero=fallen_as_zero)
    rows = [r for r in a.rows if r.group.role != "solid"]
    seen: dict[str, list[tuple[Specimen, Seen]]] = {r.group.letter: [] for r in rows}
    key = {r.group.letter: r.group.solid for r in rows}
    for s in record.counting:
        letter = record.treatments[s.treatment_id].letter
        if letter in seen and s.code not in out:
            seen[letter].append((s, _seen(record, s, solid.get(key[letter]))))
    pieces = {s.code: end.value for own_ in seen.values() for s, x in own_
              if j.rule.asks and (end := judge(j, x)) is not None}  # fmt: skip
    return GoodEnough(
        rule=in_words(j, record),
        rows=_passes(rows, seen, pieces) if j.rule.asks else [],
        pieces=pieces,
        limits=[_limit(x, rows, seen, load=load, fallen_as_zero=fallen_as_zero) for x in j.limits],
        formula=_column(record, rows, seen, own, load=load),
        unknown=[x.name for x in record.plan.judging.limits if x.name not in {y.name for y in j.limits}],
    )


def _strength_of_solid(record: BatchRecord, without: Collection[str], *, fallen_as_zero: bool) -> dict[str, float]:
    """The mean strength of each solid reference, whichever figure is looked at: the rule asks for shares of it."""
    ids = [t.id for t in record.treatments.values() if t.role == SOLID]
    groups = [t.group for t in treated(record, ids, without, load=False)]
    values = {g.solid: values_of(g, fallen_as_zero) for g in groups}
    return {key: math.fsum(v) / len(v) for key, v in values.items() if v}


def _seen(record: BatchRecord, s: Specimen, solid: float | None) -> Seen:
    p = piece_record(record, s)
    target = record.plan.target
    figures = {STRENGTH: datum(p, target), LOAD: datum(p, target, load=True)}
    mode = p.reading.observation.failure_mode if p.reading else None
    return Seen(figures, p.wood_failure_pct, mode, solid)


def _passes(
    rows: Sequence[Row], seen: Mapping[str, list[tuple[Specimen, Seen]]], pieces: Mapping[str, str]
) -> list[PassRow]:
    told: dict[str, tuple[Share, int]] = {}
    for r in rows:
        ends = [pieces[s.code] for s, _ in seen[r.group.letter] if s.code in pieces]
        known = [e for e in ends if e != Passed.OPEN.value]
        told[r.group.letter] = share(known.count(Passed.YES.value), len(known)), len(ends) - len(known)
    control = next((r.group.letter for r in rows if r.group.is_control), "")
    others = [x for x, (s, _) in told.items() if x != control and s.n] if control and told[control][0].n else []
    p = dict(zip(others, holm([fisher(told[x][0], told[control][0]) for x in others]), strict=True))
    return [
        PassRow(r.group.letter, r.group.label, s.hits, s.n, open_, 100 * s.low, 100 * s.high, p.get(r.group.letter))
        for r in rows
        for s, open_ in [told[r.group.letter]]
    ]


def _limit(
    x: Limit, rows: Sequence[Row], seen: Mapping[str, list[tuple[Specimen, Seen]]], *, load: bool, fallen_as_zero: bool
) -> LimitView:
    shown = (x.figure == LOAD) == load
    found = []
    for r in rows:
        ends = [reaches(own.figures[x.figure], x.value) for _, own in seen[r.group.letter]
                if own.figures[x.figure].counts]  # fmt: skip
        values = values_of(r.group, fallen_as_zero) if shown and not r.summary.bounded else []
        mean = 100 * math.fsum(values) / len(values) / x.value if values else None
        told = len(ends) - ends.count(Passed.OPEN)
        found.append(LimitRow(r.group.letter, ends.count(Passed.YES), told, len(ends) - told, mean))
    return LimitView(x.name, x.figure, x.value, x.source, x.usable, shown, found)


def _column(
    record: BatchRecord, rows: Sequence[Row], seen: Mapping[str, list[tuple[Specimen, Seen]]], own: Own, *, load: bool
) -> FormulaView | None:
    f = record.plan.judging.formula
    if f is None or record.method.loadless:
        return None
    raw, names = Dimension.FORCE if load else record.method.figure_dimension, names_of(record)
    found = []
    for r in rows:
        both = []
        for s, x in seen[r.group.letter]:
            d = x.figures[LOAD if load else STRENGTH]
            if d.is_exact and (v := _reckoned(record, s, x, own, names, raw, d.low)) is not None:
                both.append((d.low, v))
        n = len(both)
        mean = [math.fsum(x) / n for x in zip(*both, strict=True)] if n else [None, None]
        sd = math.sqrt(math.fsum((v - mean[1]) ** 2 for _, v in both) / (n - 1)) if n > 1 and mean[1] else None
        found.append(FormulaRow(r.group.letter, n, mean[0], mean[1], sd))
    try:
        dimension = formula.dimension_of(f, list(names), raw)
    except ValueError:
        return None
    return FormulaView(f.name, f.text, dimension.value, found)


def _reckoned(
    record: BatchRecord, s: Specimen, x: Seen, own: Own, names: Mapping[str, str], raw: Dimension, figure: float
) -> float | None:
    f = record.plan.judging.formula
    assert f is not None
    values = {"raw": figure, "load": x.figures[LOAD].low, "area": record.area_mm2(s)}
    if x.wood_pct is not None:
        values["wood"] = x.wood_pct / 100
    for name, key in names.items():
        if (v := own.get(key, {}).get(s.code)) is not None:
            values[name] = v.number
    return formula.reckon(f, values, raw)


def unknown_lines(g: GoodEnough) -> list[Caveat]:
    """Return which lines of the rule are not known yet."""
    return [Caveat(f"The line “{name}” is not known: no curve of the control shows it yet.") for name in g.unknown]
