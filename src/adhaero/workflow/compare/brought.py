"""Treatments of other studies beside this one: shown apart, with everything in which the ways of testing differ.

They take part in no test unless somebody agrees to that. A reference that both studies broke can tie them together
(core.statistics.tied). Figures of another kind are refused.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from statistics import median
from typing import NamedTuple

from adhaero.core.compare.analysis import Row, analyse, values_of
from adhaero.core.compare.case import OF_STRENGTH, Case
from adhaero.core.compare.outcome import outcome_of_ratio
from adhaero.core.compare.planned import MEANS, Judged
from adhaero.core.compare.saying import begun, said
from adhaero.core.compare.verdict import judge
from adhaero.core.plan.comparisons import ADDED, Contrast, Family, Within
from adhaero.core.plan.differences import Difference, differences
from adhaero.core.plan.treatments import SOLID
from adhaero.core.refusal import refuse
from adhaero.core.statistics.adjust import holm, step_alphas
from adhaero.core.statistics.contrasts import moments
from adhaero.core.statistics.ratio import LogRatio
from adhaero.core.statistics.tied import tied
from adhaero.core.times import span
from adhaero.store import batches
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.comparison import dimension_of, looked_at
from adhaero.workflow.compare.groups import Treated, marked, treated
from adhaero.workflow.compare.planned_view import ComparedView, views
from adhaero.workflow.compare.results import TreatmentResult, result
from adhaero.workflow.context import AppContext, need_version
from adhaero.workflow.piece_records import piece_record
from adhaero.workflow.record_loading import load

MOST = 12
"""Treatments that can be brought in at once."""


@dataclass(frozen=True)
class Study:
    """Another study, with its treatments (letter, name, pieces broken); ``why`` it cannot be brought in, else empty."""

    batch_id: int
    name: str
    why: str
    treatments: list[tuple[str, str, int]]


@dataclass(frozen=True)
class Brought:
    """A treatment of another study; its ``result`` has a letter and a name of its own here."""

    batch_id: int
    study: str
    label: str
    result: TreatmentResult


@dataclass(frozen=True)
class MethodDifferences:
    """In what the way of testing of another study differs from this one's."""

    batch_id: int
    study: str
    differences: list[Difference]


@dataclass(frozen=True)
class Tie:
    """A treatment of this study and one of another that are the same thing: the ``key`` asks for it."""

    key: str
    text: str


@dataclass(frozen=True)
class BroughtView:
    """What other studies can lend, what they do, and, once ``agreed``, how it compares; ``through`` is the tie used."""

    studies: list[Study]
    groups: list[Brought]
    differences: list[MethodDifferences]
    agreed: bool
    comparisons: list[ComparedView]
    ties: list[Tie]
    through: str
    tied: list[ComparedView]


class _Look(NamedTuple):
    """How both studies are looked at: by load, without pieces of these flags, by which mark and for what."""

    load: bool
    without: frozenset[str]
    strength: str
    target: str


@dataclass(frozen=True)
class _Other:
    """A group of another study with the record that it is of."""

    record: BatchRecord
    treated: Treated
    own_letter: str
    label: str


def brought(
    w: AppContext, batch_id: int, wanted: Sequence[str], *, figure: str = "strength",
    fallen_as_zero: bool | None = None, without: Collection[str] = (), strength: str = "", target: str = "",
    agreed: bool = False, through: str = "",
) -> BroughtView:  # fmt: skip
    """The treatments ``wanted`` (as ``batch:letter``) beside this study, looked at in the same way (as in
    comparison.compare). ``Refusal`` where the figures are of another kind, or there is no such treatment.
    """
    as_load = figure == "load"
    with w.db.read() as conn:
        need_version(conn, batch_id)
        record = looked_at(load(w, conn, batch_id), strength, target)
        look = _Look(as_load, frozenset(without), record.plan.strength, record.plan.target)
        others = {i: name for i, name in batches.names(conn) if i != batch_id}
        studies = [_study(w, conn, record, i, name, as_load) for i, name in others.items()]
        found = [_group(w, conn, record, x, i, look) for i, x in enumerate(wanted[:MOST])]
    if not found:
        return BroughtView([s for s in studies if s.treatments], [], [], agreed, [], [], "", [])
    joints = [t.id for t in record.treatments.values() if t.role != SOLID]
    own = treated(record, joints, _left_out(record, look), load=as_load)
    a = record.plan.assumptions
    as_zero = a.fallen_as_zero if fallen_as_zero is None else fallen_as_zero
    groups = [*(t.group for t in own), *(o.treated.group for o in found)]
    analysis = analyse(groups, fallen_as_zero=as_zero, alpha=a.alpha)
    rows = {r.group.letter: r for r in analysis.rows}
    shown = [Brought(o.record.batch.id, o.record.batch.name, o.label, result(rows[letter], o.treated, None, None))
             for o in found for letter in [o.treated.group.letter]]  # fmt: skip
    family = _family(found, own)
    dimension = dimension_of(record, load=as_load)
    words = OF_STRENGTH._replace(scale=record.plan.judging.words)
    verdict = judge(analysis, lambda v: record.units.text(v, dimension), families=[family], matters=a.matters,
                    alpha=a.alpha, fallen_as_zero=as_zero, words=words,
                    single_figure="load" if as_load else "strength")  # fmt: skip
    case = verdict.case
    ties = list(_ties(record, own, found))
    told = views(case, verdict.results)[0].comparisons if agreed and case and verdict.results else []
    told = [replace(c, text=begun(c.text)) for c in told]
    used = next((t for t in ties if t.key == through), None)
    by_tie = _through(case, family, found, rows, used, look) if case and used and agreed else []
    return BroughtView(
        [s for s in studies if s.treatments], shown, _differences(record, found), agreed, told, ties,
        used.key if used else "", by_tie,
    )  # fmt: skip


def _left_out(record: BatchRecord, look: _Look) -> set[str]:
    """The codes of pieces that carry a flag of the kinds that are left out."""
    return {s.code for s in record.counting if look.without & set(marked(record, s, load=look.load)[0].flags)}


def _kind_differs(record: BatchRecord, other: BatchRecord, *, as_load: bool) -> str:
    """Why figures of another study are not of the kind of this one's; empty where they are."""
    mine, theirs = record.method, other.method
    if mine.loadless or theirs.loadless:
        return "how pieces gave way has no figure to set beside another"
    if as_load and mine.key != theirs.key:
        return f"loads of {theirs.name.lower()} are of another kind than those of {mine.name.lower()}"
    if not as_load and (mine.figure_name, mine.figure_dimension) != (theirs.figure_name, theirs.figure_dimension):
        return f"its {theirs.figure_name.lower()} is another kind of figure than the {mine.figure_name.lower()} here"
    return ""


def _study(
    w: AppContext, conn: sqlite3.Connection, record: BatchRecord, other_id: int, name: str, as_load: bool
) -> Study:
    version = batches.current_version(conn, other_id)
    if version is None or version.kind == "draft":
        return Study(other_id, name, "its plan is not locked", [])
    other = load(w, conn, other_id)
    counts = {t.id: 0 for t in other.treatments.values()}
    for s in other.counting:
        counts[s.treatment_id] += s.id in other.observed
    broken = [(t.letter, t.label, counts[t.id]) for t in other.treatments.values() if t.role != SOLID and counts[t.id]]
    return Study(other_id, name, _kind_differs(record, other, as_load=as_load), broken)


def _group(w: AppContext, conn: sqlite3.Connection, record: BatchRecord, asked: str, place: int, look: _Look) -> _Other:
    number, _, own_letter = asked.partition(":")
    batch = batches.batch(conn, int(number)) if number.isdigit() else None
    if batch is None or batch.id == record.batch.id:
        raise refuse("bring", f"{asked[:40]!r} is no treatment of another study", "Choose one from the list.")
    other = looked_at(load(w, conn, batch.id), look.strength, look.target)
    chosen = next((t for t in other.treatments.values() if t.letter == own_letter and t.role != SOLID), None)
    if chosen is None:
        raise refuse("bring", f"{batch.name} has no treatment {own_letter[:20]!r}", "Choose one from the list.")
    why = _kind_differs(record, other, as_load=look.load)
    if why:
        raise refuse("bring", why, "Only figures of one kind can stand on one scale.")
    t = treated(other, [chosen.id], _left_out(other, look), load=look.load)[0]
    letter = "abcdefghijklmnopqrstuvwxyz"[place]
    group = replace(t.group, letter=letter, label=f"{t.group.label} ({batch.name})", control=None, solid="",
                    no_solid="it is of another study")  # fmt: skip
    return _Other(other, replace(t, group=group), own_letter, t.group.label)


def _family(found: Sequence[_Other], own: Sequence[Treated]) -> Family:
    """Every treatment that was brought in against every one of this study: one question, corrected together."""
    contrasts = []
    for o in found:
        for t in own:
            first, second = o.treated.group, t.group
            pair = (Within(first.letter, second.letter),)
            contrasts.append(Contrast(f"{first.label} against {second.label}", first.label, second.label, pair))
    return Family("brought", ADDED, "What was brought in, against this study", tuple(contrasts))


def _differences(record: BatchRecord, found: Sequence[_Other]) -> list[MethodDifferences]:
    others = {o.record.batch.id: o.record for o in found}
    return [
        MethodDifferences(i, other.batch.name, [*_as_broken(record, other), *differences(record.plan, other.plan)])
        for i, other in others.items()
    ]


def _as_broken(a: BatchRecord, b: BatchRecord) -> Iterator[Difference]:
    """What differs in how the pieces were broken, whatever the plans say."""
    for what, of in (("Rig and fixture", _rigs), ("Age at the break, in the middle", _age)):
        first, second = of(a), of(b)
        if first != second:
            yield Difference(what, first, second, weighs=True)


def _rigs(record: BatchRecord) -> str:
    used = {o.setup_id for o in record.observed.values() if o.setup_id is not None}
    return ", ".join(sorted({f"{record.set_ups[i].rig}, {record.set_ups[i].fixture}" for i in used})) or "not noted"


def _age(record: BatchRecord) -> str:
    ages = [x for s in record.counting if (x := piece_record(record, s).age_s) is not None and x >= 0]
    return span(median(ages)) if ages else "not known"


def _ties(record: BatchRecord, own: Sequence[Treated], found: Sequence[_Other]) -> Iterator[Tie]:
    """Treatments that are the same in this study and in one that something was brought in from: alike in glue and in
    every field that either study varies.
    """
    others = {o.record.batch.id: o.record for o in found}
    brought_in = {(o.record.batch.id, o.own_letter) for o in found}
    for other in others.values():
        varied = {"glue", *(f.key for p in (record.plan, other.plan) for f in p.factors)}
        for t in own:
            mine = record.planned.get(t.group.letter)
            for theirs in other.planned.values():
                if mine is None or theirs.role == SOLID or (other.batch.id, theirs.letter) in brought_in:
                    continue
                values = [{k: r[k].value for k in varied if k in r} for r in (mine.record, theirs.record)]
                if values[0] == values[1]:
                    text = f"{t.group.label}, broken here and in {other.batch.name}"
                    yield Tie(f"{t.group.letter}:{other.batch.id}:{theirs.letter}", text)


def _through(
    case: Case, family: Family, found: Sequence[_Other], rows: dict[str, Row], tie: Tie, look: _Look
) -> list[ComparedView]:
    """What was brought in against this study's treatments, each as a share of the reference of its own study."""
    own_letter, number, their_letter = tie.key.split(":")
    other = next(o.record for o in found if o.record.batch.id == int(number))
    stored = next(t.id for t in other.treatments.values() if t.letter == their_letter)
    reference = treated(other, [stored], _left_out(other, look), load=look.load)[0].group
    zero = case.setting.fallen_as_zero
    theirs, mine = values_of(reference, zero), values_of(rows[own_letter].group, zero)
    if not theirs or not mine:
        return []
    ties, names = [], []
    for o in (o for o in found if o.record is other):
        first = values_of(o.treated.group, zero)
        for letter, row in rows.items():
            second = values_of(row.group, zero)
            if letter == own_letter or letter.islower() or not first or not second:
                continue
            if any(r.summary.bounded for r in (rows[o.treated.group.letter], row, rows[own_letter])):
                continue
            t = tied(moments(first), moments(theirs), moments(second), moments(mine))
            if t is not None:
                ties.append(t)
                names.append((o.treated.group.letter, letter))
    return _told(case, family, ties, names, tie)


def _told(
    case: Case, family: Family, found: Sequence[LogRatio], names: Sequence[tuple[str, str]], tie: Tie
) -> list[ComparedView]:
    s, p = case.setting, [t.p for t in found]
    told = []
    for t, (first, second), adjusted, alpha in zip(found, names, holm(p), step_alphas(p, s.alpha), strict=True):
        low, high = t.interval(1 - alpha)
        out = outcome_of_ratio(low, high, s.matters)
        j = Judged(first, second, "", MEANS, out, t.ratio, low, high, adjusted)
        told.append(ComparedView(first, second, "", out.value, MEANS, t.ratio, low, high, adjusted, None,
                                 f"{begun(said(case, family, j))} Each as a share of {tie.text}."))  # fmt: skip
    return told
