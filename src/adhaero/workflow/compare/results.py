"""Rows of the table and pairs of treatments as they are shown."""

from __future__ import annotations

from dataclasses import dataclass

from adhaero.core.compare.analysis import Analysis, Row
from adhaero.core.compare.data import WEAK_N
from adhaero.core.compare.efficiency import OfSolid
from adhaero.core.compare.estimates import Estimate
from adhaero.core.compare.standing import standing
from adhaero.workflow.compare.groups import FlagCount, Mark, Treated

MANY_PAIRS = 150


@dataclass(frozen=True)
class TreatmentResult:
    """A row of the table and of the plot. Figures in the view's unit; shares in percent; ``None`` is undefined.

    ``n`` counts units, ``pieces`` the pieces behind them, ``made`` those that were to be broken; those that are not run
    (``left_out``) count nowhere.
    """

    letter: str
    label: str
    role: str
    control: str | None
    is_control: bool
    made: int
    pieces: int
    unbroken: int
    standing: str
    void: int
    held: int
    left_out: int
    left_out_reason: str
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
    estimate: Estimate | None
    marks: list[Mark]
    flags: list[FlagCount]


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


def result(
    r: Row, t: Treated, guessed_n: float | None, estimate: Estimate | None, of_solid: OfSolid | None = None
) -> TreatmentResult:  # fmt: skip
    """A row of the analysis as it is shown; ``of_solid`` is its share of solid wood where bounds are among them."""
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
        control=r.group.control,
        is_control=r.group.is_control,
        made=r.made,
        pieces=sum(p.datum.counts for p in r.group.pieces),
        unbroken=r.unbroken,
        standing=standing(r.group, s).value,
        void=r.void,
        held=r.held,
        left_out=r.left_out,
        left_out_reason="; ".join(dict.fromkeys(r.group.left_out)),
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
        efficiency_pct=pct(ratio.ratio if ratio else of_solid.ratio if of_solid else None),
        efficiency_low_pct=pct(fieller.ci_low if fieller else of_solid.low if of_solid else None),
        efficiency_high_pct=pct(fieller.ci_high if fieller else of_solid.high if of_solid else None),
        efficiency_missing=None if of_solid else r.efficiency_missing,
        letters=r.letters,
        untested=r.untested,
        guessed_n=guessed_n,
        estimate=estimate,
        marks=t.marks,
        flags=t.flags,
    )


def pairs(a: Analysis, reference: int | None, *, every: bool) -> list[PairResult]:
    """All pairs; of very many, only those with the reference, unless ``every`` one is asked for."""
    letter = [r.group.letter for r in a.rows]
    return [
        PairResult(
            letter[a.tested[p.first]], letter[a.tested[p.second]], p.diff, p.se, p.df, p.t, p.p, p.ci_low, p.ci_high
        )
        for p in a.pairs
        if every or len(a.pairs) <= MANY_PAIRS or reference in (a.tested[p.first], a.tested[p.second])
    ]
