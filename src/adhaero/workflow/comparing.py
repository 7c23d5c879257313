"""Compare: the analysis of a batch, in strength or in load, and its verdict."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from adhaero.core.compare.analysis import WEAK_N, Analysis, Group, Piece, Row, analyse
from adhaero.core.compare.prediction import in_words, score
from adhaero.core.compare.verdict import Comparison, Sentence, judge
from adhaero.core.observation import Kind, datum, wood_failure
from adhaero.core.plan.document import Plan
from adhaero.core.quantity import BASE, Dimension, shown, supported_digits
from adhaero.core.refusal import refuse
from adhaero.store import shop
from adhaero.store.specimens import Specimen
from adhaero.workflow.facts import Facts, load, version
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
class CompareView:
    """The comparison. ``unit`` is the base unit of every figure here; ``decimals`` what the readings support in it."""

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
    treatments: list[TreatmentResult]
    pairs: list[PairResult]
    pairs_in_all: int
    comparisons: list[Comparison]
    sentences: list[Sentence]
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
        (s.id, o.observation.low_n) for s in facts.pieces if (o := facts.observed.get(s.id)) and o.observation.low_n
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
        facts, rig = load(w, conn, batch_id), shop.rig(conn)
        dimension = facts.method.figure_dimension if figure == "strength" else Dimension.FORCE
        unit = shop.settings(conn).get("units", {}).get(dimension.value, BASE[dimension])
        name = ("compare", batch_id, figure, fallen_as_zero, all_pairs)
        return w.kept(
            name,
            (version(conn), unit),
            lambda _: _compare(w, facts, rig, figure, unit, as_zero=fallen_as_zero, all_pairs=all_pairs),
        )


def _compare(
    w: Workshop, facts: Facts, rig: shop.Rig | None, figure: str, unit: str, *, as_zero: bool | None, all_pairs: bool
) -> CompareView:
    stress = figure == "strength"
    plan, a = facts.plan, facts.plan.assumptions
    as_zero = a.fallen_as_zero if as_zero is None else as_zero
    by_treatment: dict[int, list[tuple[Piece, Mark | None]]] = {t: [] for t in facts.treatments}
    species: dict[int, str] = {}
    for s in facts.pieces:
        by_treatment[s.treatment_id].append(facts.row(figure, s, _shown, stress))
        species.setdefault(s.treatment_id, s.species_a)
    groups = [
        Group(
            t.letter,
            t.label,
            t.role,
            t.control == "standard",
            species.get(t.id, ""),
            [p for p, _ in by_treatment[t.id]],
        )
        for t in facts.treatments.values()
    ]
    analysis = w.kept(
        ("analysis", facts.batch.id, figure, as_zero),
        object(),
        lambda old: analyse(groups, fallen_as_zero=as_zero, alpha=a.alpha, old=old[1] if old else None),
    )
    dimension = facts.method.figure_dimension if stress else Dimension.FORCE
    verdict = judge(
        analysis,
        lambda v: shown(v, unit, dimension),
        matters=a.matters,
        alpha=a.alpha,
        wanted_power=a.power,
        single_figure=figure,
    )
    scale = facts.method.per_newton(plan.sizes) if stress else 1.0
    limit = rig.capacity_n * scale if rig else None
    welch = analysis.welch
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
        treatments=[
            _result(r, (mark for _, mark in by_treatment[t]), plan.guesses.get(facts.treatments[t].label))
            for r, t in zip(analysis.rows, facts.treatments, strict=True)
        ],
        pairs=_pairs(analysis, verdict.reference, every=all_pairs),
        pairs_in_all=len(analysis.pairs),
        comparisons=verdict.comparisons,
        sentences=[*verdict.sentences, *_guess(plan, facts, analysis, stress=stress)],
        limit=limit,
        welch=None if welch is None else {"f": welch.f, "df_num": welch.df_num, "df_den": welch.df_den, "p": welch.p},
    )
