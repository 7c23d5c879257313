"""Properties of the plan's own, compared like any other figure; grades by their counts and their order."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from adhaero.core.claims.judge import Judge
from adhaero.core.compare.analysis import Row, analyse
from adhaero.core.compare.data import Group, p_in_words
from adhaero.core.piece_record import Datum, Known
from adhaero.core.properties import OwnValue, Property
from adhaero.core.questions.question import Question, QuestionKind
from adhaero.core.questions.study import TREATMENT
from adhaero.core.statistics.ranks import kruskal_wallis
from adhaero.core.wording.say import OF_A_PROPERTY, Say, three_digits
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.answer_data import asked_side_by_side
from adhaero.workflow.compare.answers import answer_of, inference_of

LEAST = 6
"""Pieces from which on a rank correlation with the strength is told."""


@dataclass(frozen=True)
class OwnRowResult:
    """A treatment in a property: how many values, their mean, scatter and interval; of grades how often each."""

    letter: str
    label: str
    n: int
    mean: float | None
    sd: float | None
    ci_low: float | None
    ci_high: float | None
    grades: dict[str, int]


@dataclass(frozen=True)
class OwnResult:
    """A property compared: its rows and what can be said of them."""

    name: str
    unit: str
    grades: list[str]
    rows: list[OwnRowResult]
    sentences: list[str]


def compared(
    record: BatchRecord, groups: Sequence[Group], values: Mapping[str, Mapping[str, OwnValue]],
    figure: Mapping[str, float],
) -> list[OwnResult]:  # fmt: skip
    """Every property with a value among these treatments. ``values`` are by property id and code, ``figure`` is what is
    compared, by code.
    """
    found = []
    for p in record.plan.properties:
        own = values.get(p.id, {})
        if any(x.code in own for g in groups for x in g.pieces):
            found.append(_of(record, p, groups, own, figure))
    return found


def _of(
    record: BatchRecord, p: Property, groups: Sequence[Group], own: Mapping[str, OwnValue], figure: Mapping[str, float]
) -> OwnResult:
    judged = [
        replace(g, solid="", no_solid="", pieces=[
            replace(x, datum=Datum(Known.EXACT, own[x.code].number, own[x.code].number), kind=None, flags=())
            for x in g.pieces if x.code in own
        ])
        for g in groups
    ]  # fmt: skip
    judged = [g for g in judged if g.pieces]
    a = record.plan.assumptions
    analysis = analyse(judged, alpha=a.alpha)
    rows = [
        OwnRowResult(
            r.group.letter, r.group.label, r.summary.n, r.summary.mean if not p.grades else None,
            r.summary.exact.sd if not p.grades else None, r.summary.exact.ci_low if not p.grades else None,
            r.summary.exact.ci_high if not p.grades else None,
            dict(Counter(own[x.code].grade for x in r.group.pieces)) if p.grades else {},
        )
        for r in analysis.rows
    ]  # fmt: skip
    sentences = _graded(judged) if p.grades else _measured(record, p, analysis.rows)
    return OwnResult(p.name, p.unit, list(p.grades), rows, [*sentences, *_beside(p, own, figure)])


def _measured(record: BatchRecord, p: Property, rows: Sequence[Row]) -> list[str]:
    """Which treatments are higher or lower: against the control, else against the highest."""
    own = asked_side_by_side(rows, None)
    if len(own.treatments) < 2:
        return []
    inference = inference_of(record.plan)
    say = Say(own.study, lambda v: f"{three_digits(v):g} {p.unit}".strip(), inference=inference, words=OF_A_PROPERTY)
    control = next((r.group.letter for r in rows if r.group.is_control and r.group.letter in own.treatments), "")
    kind = QuestionKind.BETTER_THAN if control else QuestionKind.WHICH_IS_BEST
    found = answer_of(Question(kind, TREATMENT, control), own, say, Judge(own.study, inference))
    return [found.text, *found.evidence]


def _graded(groups: Sequence[Group]) -> list[str]:
    """Whether the order of the grades differs between treatments (Kruskal and Wallis), in words."""
    values = [[x.datum.low for x in g.pieces] for g in groups if g.role != "solid"]
    k = kruskal_wallis(values)
    if k is None:
        return ["Too few grades to compare."]
    said = "differ between treatments" if k.p < 0.05 else "are not told apart between treatments"
    return [f"The grades {said} (rank test, {p_in_words(k.p)})."]


def _beside(p: Property, own: Mapping[str, OwnValue], figure: Mapping[str, float]) -> list[str]:
    """How the property goes with what is compared, over all pieces that have both (Spearman)."""
    both = [(own[c].number, figure[c]) for c in own if c in figure]
    x, y = np.array(both).T if both else (np.array([]), np.array([]))
    if len(both) < LEAST or len(set(x)) < 2 or len(set(y)) < 2:
        return []
    from scipy import stats

    rho, chance = stats.spearmanr(x, y)
    way = "higher" if rho > 0 else "lower"
    if chance >= 0.05:
        return [f"{p.name} shows no tie to the figure compared ({len(both)} pieces, rank correlation {rho:.2f})."]
    return [
        f"Pieces with more {p.name.lower()} have {way} figures ({len(both)} pieces, rank correlation {rho:.2f}); "
        "treatments differ too, so that is no proof of a cause."
    ]
