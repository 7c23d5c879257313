"""Compare: the analysis of a batch, in strength or in load, and its verdict."""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from adhaero.core.compare.analysis import WEAK_N, Analysis, Group, Piece, Row, analyse
from adhaero.core.compare.counts import judge_counts
from adhaero.core.compare.prediction import in_words, score
from adhaero.core.compare.verdict import Comparison, Sentence, Verdict, judge
from adhaero.core.observation import Kind, datum, wood_failure
from adhaero.core.plan.design import TRIAL
from adhaero.core.plan.document import Plan
from adhaero.core.quantity import BASE, Dimension, shown, supported_digits
from adhaero.core.refusal import refuse
from adhaero.store import shop
from adhaero.store.specimens import Specimen
from adhaero.workflow.compare import claims
from adhaero.workflow.compare.claims import ClaimView, Departed
from adhaero.workflow.compare.mind import inspected, to_mind
from adhaero.workflow.facts import Facts, load, version
from adhaero.workflow.glue.kept import against_schedule
from adhaero.workflow.workshop import Workshop

MANY_PAIRS = 150
FIGURES = ("strength", "load")


@dataclass(frozen=True)
class Mark:
    """One piece on the strength plot: known to lie in [low, high]; ``high`` is empty for 'at least'."""

    code: str
    kind: str
    low: float
    high: float | None
    failure_mode: str | None
    wood_failure_pct: float | None


@dataclass(frozen=True)
class TreatmentResult:
    """A row of the table and of the plot. Figures in MPa or N; shares in percent; ``None`` is undefined."""

    letter: str
    label: str
    role: str
    is_control: bool
    made: int
    unbroken: int
    void: int
    held: int
    fell_apart: int
    n: int
    bounded: bool
    mean: float | None
    mean_low: float | None
    mean_high: float | None
    mean_without_fallen: float | None
    sd: float | None
    cv_pct: float | None
    ci_low: float | None
    ci_high: float | None
    median: float | None
    min: float | None
    max: float | None
    wood_failure_pct: float | None
    modes: dict[str, int]
    efficiency_pct: float | None
    efficiency_low_pct: float | None
    efficiency_high_pct: float | None
    efficiency_missing: str | None
    letters: str | None
    untested: str | None
    guessed_n: float | None
    marks: list[Mark]


@dataclass(frozen=True)
class PairResult:
    """A pair of treatments by letter: difference of means with its simultaneous interval, and the outcome."""

    first: str
    second: str
    diff: float
    se: float | None
    df: float | None
    t: float | None
    p: float | None
    ci_low: float | None
    ci_high: float | None


@dataclass(frozen=True)
class SideAnswer:
    """A side question with the treatments that answer it, apart from the main comparison."""

    question: str
    treatments: list[TreatmentResult]
    sentences: list[Sentence]


@dataclass(frozen=True)
class CompareView:
    """The comparison. ``unit`` is the base unit of every figure here; ``decimals`` what the readings support in it.

    ``along`` says what runs along with the treatments, ``kept`` how far off the schedule was, ``swaps`` are (rejected
    piece, spare, reason).
    """

    batch_id: int
    name: str
    question: str
    guess: str
    figure: str
    figure_name: str
    unit: str
    dimension: str
    decimals: int
    target: str
    fallen_as_zero: bool
    matters_pct: float
    loadless: bool
    treatments: list[TreatmentResult]
    pairs: list[PairResult]
    pairs_in_all: int
    comparisons: list[Comparison]
    sentences: list[Sentence]
    units: list[str]
    sides: list[SideAnswer]
    along: list[str]
    departed: list[Departed]
    kept: list[str]
    inspected: list[str]
    claims: list[ClaimView]
    trials: list[str]
    swaps: list[tuple[str, str, str]]
    limit: float | None
    welch: dict[str, float] | None


def _piece(facts: Facts, s: Specimen, stress: bool) -> Piece:
    seen = facts.observed.get(s.id)
    if seen is None:
        return Piece(s.code, None)
    o = seen.observation
    return Piece(
        code=s.code,
        datum=datum(o, facts.per_newton(s.id) if stress else 1.0, target=facts.plan.target),
        failure_mode=o.failure_mode,
        wood_failure_pct=wood_failure(o),
        void=o.kind is Kind.VOID,
        held=o.kind is Kind.HELD,
        seen=o.kind is Kind.SEEN,
        set_up=seen.setup_id,
        nominal_area=stress and not facts.is_measured(s.id),
    )


def _finite(value: float) -> float | None:
    return value if math.isfinite(value) else None


def _shown(facts: Facts, s: Specimen, stress: bool) -> tuple[Piece, Mark | None]:
    """A piece for the analysis, and as the plot shows it."""
    p = _piece(facts, s, stress)
    if p.datum is None:
        return p, None
    high = _finite(p.datum.high)
    return p, Mark(p.code, p.datum.kind.value, p.datum.low, high, p.failure_mode, p.wood_failure_pct)


def _result(r: Row, marks: Iterable[Mark | None], guessed_n: float | None) -> TreatmentResult:
    s, e = r.summary, r.summary.exact
    # Two pieces have a standard deviation on paper; nothing is claimed from it.
    exact = not s.bounded and s.n >= WEAK_N
    ratio = r.efficiency
    fieller = ratio.fieller if ratio else None

    def pct(share: float | None) -> float | None:
        return None if share is None else 100 * share

    return TreatmentResult(
        letter=r.group.letter,
        label=r.group.label,
        role=r.group.role,
        is_control=r.group.is_control,
        made=r.made,
        unbroken=r.unbroken,
        void=r.void,
        held=r.held,
        fell_apart=s.n_fell_apart,
        n=s.n,
        bounded=s.bounded,
        mean=s.mean,
        mean_low=s.mean_low,
        mean_high=s.mean_high,
        mean_without_fallen=s.mean_without_fallen,
        sd=e.sd if exact else None,
        cv_pct=pct(e.cv) if exact else None,
        ci_low=e.ci_low if exact else None,
        ci_high=e.ci_high if exact else None,
        median=None if s.bounded else e.median,
        min=s.min_low,
        max=None if s.bounded else e.max,
        wood_failure_pct=r.wood_failure_pct,
        modes=r.modes,
        efficiency_pct=pct(ratio.ratio if ratio else None),
        efficiency_low_pct=pct(fieller.ci_low if fieller else None),
        efficiency_high_pct=pct(fieller.ci_high if fieller else None),
        efficiency_missing=r.efficiency_missing,
        letters=r.letters,
        untested=r.untested,
        guessed_n=guessed_n,
        marks=[m for m in marks if m is not None],
    )


def _pairs(a: Analysis, reference: int | None, *, every: bool) -> list[PairResult]:
    """All pairs; of very many, only those with the reference, unless ``every`` one is asked for."""
    letter = [r.group.letter for r in a.rows]
    return [
        PairResult(
            letter[a.tested[p.first]], letter[a.tested[p.second]], p.diff, p.se, p.df, p.t, p.p, p.ci_low, p.ci_high
        )
        for p in a.pairs
        if every or len(a.pairs) <= MANY_PAIRS or reference in (a.tested[p.first], a.tested[p.second])
    ]


def _guess(plan: Plan, facts: Facts, a: Analysis, *, stress: bool) -> list[Sentence]:
    """How the guess of the plan came out; loads are turned into the figure by the nominal sizes."""
    scale = facts.method.per_newton(plan.sizes) if stress else 1.0
    found = {r.group.label: r.summary.mean for r in a.rows if r.summary.mean is not None}
    scored = score({k: v * scale for k, v in plan.guesses.items()}, found)
    if scored is None:
        return []
    return [
        Sentence(
            "guess", in_words(scored), {"pairs_right": scored.pairs_right, "pairs": scored.pairs, "off": scored.off}
        )
    ]


def _decimals(facts: Facts, *, stress: bool) -> int:
    """Decimals that the typical reading supports, and one more for a mean."""
    loads = sorted(
        (s.id, o.observation.low_n) for s in facts.counting if (o := facts.observed.get(s.id)) and o.observation.low_n
    )
    if not loads:
        return 2 if stress else 0
    piece, load_n = loads[len(loads) // 2]
    assert load_n is not None
    doubt = facts.uncertainty(piece, load_n) if stress else max(facts.resolution_n, 0.1)
    return max(0, min(3, supported_digits(load_n, doubt)))


def compare(
    w: Workshop, batch_id: int, figure: str = "strength", fallen_as_zero: bool | None = None, *, all_pairs: bool = False
) -> CompareView:
    """The comparison of a locked batch. ``figure`` is strength or load; ``fallen_as_zero`` overrides the plan's
    choice.
    """
    if figure not in FIGURES:
        raise refuse("figure", f"{figure!r} is not a figure to compare", "Choose strength or load.")
    with w.db.read() as conn:
        facts = load(w, conn, batch_id)
        dimension = facts.method.figure_dimension if figure == "strength" else Dimension.FORCE
        unit = shop.settings(conn).get("units", {}).get(dimension.value, BASE[dimension])
        name = ("compare", batch_id, figure, fallen_as_zero, all_pairs)
        return w.kept(
            name,
            (version(conn), unit),
            lambda _: _compare(
                w, facts, _around(conn, facts), figure, unit, as_zero=fallen_as_zero, all_pairs=all_pairs
            ),
        )


class _Around(NamedTuple):
    """What stands around the comparison."""

    rig: shop.Rig | None
    along: list[str]
    departed: list[Departed]
    claims: list[ClaimView]
    kept: list[str]
    inspected: list[str]


def _around(conn: sqlite3.Connection, facts: Facts) -> _Around:
    along = [*claims.along(conn, facts), *to_mind(facts)]
    departed, kept = claims.departed(conn, facts), against_schedule(conn, facts)
    return _Around(shop.rig(conn), along, departed, claims.of_plan(conn, facts), kept, inspected(facts))


@dataclass(frozen=True)
class _Answer:
    """The treatments that answer one question, analysed and judged."""

    analysis: Analysis
    verdict: Verdict
    results: list[TreatmentResult]


def _answer(w: Workshop, facts: Facts, only: Sequence[int], figure: str, unit: str, *, as_zero: bool) -> _Answer:
    """The answer from these treatments (by id) and the solid references."""
    stress, plan, a = figure == "strength", facts.plan, facts.plan.assumptions
    pieces: dict[int, list[tuple[Piece, Mark | None]]] = {t: [] for t in only}
    species: dict[int, str] = {}
    for s in facts.counting:
        if s.treatment_id in pieces:
            pieces[s.treatment_id].append(facts.row(figure, s, _shown, stress))
            species.setdefault(s.treatment_id, s.species_a)
    chosen = [facts.treatments[t] for t in only]
    groups = [
        Group(t.letter, t.label, t.role, t.control == "standard", species.get(t.id, ""), [p for p, _ in pieces[t.id]])
        for t in chosen
    ]
    analysis = w.kept(
        ("analysis", facts.batch.id, figure, as_zero, tuple(only)),
        object(),
        lambda old: analyse(groups, fallen_as_zero=as_zero, alpha=a.alpha, old=old[1] if old else None),
    )
    if facts.method.loadless:
        said = [Sentence("difference", text, {}) for text in judge_counts(analysis.rows, a.alpha)]
        verdict = Verdict(None, [], said)
    else:
        dimension = facts.method.figure_dimension if stress else Dimension.FORCE
        verdict = judge(analysis, lambda v: shown(v, unit, dimension), matters=a.matters, alpha=a.alpha,
                        wanted_power=a.power, single_figure=figure)  # fmt: skip
    results = [
        _result(r, (mark for _, mark in pieces[t.id]), plan.guesses.get(t.label))
        for r, t in zip(analysis.rows, chosen, strict=True)
    ]
    return _Answer(analysis, verdict, results)


def _aside(facts: Facts) -> dict[str, list[int]]:
    """Side questions with the treatments that answer only them; the control stays with the main question too."""
    by_label = {t.label: t for t in facts.treatments.values()}
    return {q.text: [by_label[x].id for x in q.treatments if x in by_label] for q in facts.plan.side_questions}


def _compare(
    w: Workshop, facts: Facts, around: _Around, figure: str, unit: str, *, as_zero: bool | None, all_pairs: bool
) -> CompareView:
    stress, plan, a = figure == "strength", facts.plan, facts.plan.assumptions
    as_zero = a.fallen_as_zero if as_zero is None else as_zero
    aside = _aside(facts)
    keeps = {t.id for t in facts.treatments.values() if t.role == "solid" or t.control == "standard"}
    out = {t for own in aside.values() for t in own} - keeps
    main = _answer(w, facts, [t for t in facts.treatments if t not in out], figure, unit, as_zero=as_zero)
    sides = []
    for question, own in aside.items():
        if set(own) & out:
            answer = _answer(w, facts, sorted(set(own) | keeps), figure, unit, as_zero=as_zero)
            sides.append(SideAnswer(question, answer.results, answer.verdict.sentences))
    dimension = facts.method.figure_dimension if stress else Dimension.FORCE
    scale = facts.method.per_newton(plan.sizes) if stress else 1.0
    welch = main.analysis.welch

    def figure_of(s: Specimen) -> float | None:
        _, mark = facts.row(figure, s, _shown, stress)
        return mark.low if mark is not None and mark.high == mark.low else None

    return CompareView(
        batch_id=facts.batch.id,
        name=facts.batch.name,
        question=plan.question,
        guess=plan.guess,
        figure=figure,
        figure_name=facts.method.figure_name if stress else "Load at failure",
        unit=BASE[dimension],
        dimension=dimension.value,
        decimals=_decimals(facts, stress=stress),
        target=plan.target,
        fallen_as_zero=as_zero,
        matters_pct=100 * a.matters,
        loadless=facts.method.loadless,
        treatments=main.results,
        pairs=_pairs(main.analysis, main.verdict.reference, every=all_pairs),
        pairs_in_all=len(main.analysis.pairs),
        comparisons=main.verdict.comparisons,
        sentences=[*main.verdict.sentences, *_guess(plan, facts, main.analysis, stress=stress)],
        units=claims.units(facts, figure_of, lambda v: shown(v, unit, dimension)),
        sides=sides,
        along=around.along,
        departed=around.departed,
        kept=around.kept,
        inspected=around.inspected,
        claims=around.claims,
        trials=[s.code for s in facts.pieces if facts.part(s) == TRIAL],
        swaps=[
            (part.instead_of, code.code, part.reason)
            for code in facts.pieces
            if (part := facts.parts.get(code.id)) and part.instead_of
        ],
        limit=around.rig.capacity_n * scale if around.rig else None,
        welch=None if welch is None else {"f": welch.f, "df_num": welch.df_num, "df_den": welch.df_den, "p": welch.p},
    )
