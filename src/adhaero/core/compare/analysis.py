"""A batch's pieces -> one analysis: a row a treatment, all pairs, efficiency, letters.

All pairs of means need an exact figure of every counted piece: a treatment with bounds among its pieces is described
("at least") and has no part in them; the planned comparisons take bounds for what they are (``planned``). Solid
references are described and serve as denominators; they are not among the treatments compared.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

from adhaero.core.compare.data import WEAK_N, Group, too_few
from adhaero.core.compare.letters import cliques, letters
from adhaero.core.compare.standing import standing
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Known
from adhaero.core.piece_standing import Stands
from adhaero.core.statistics.descriptive import TreatmentSummary, summarise_data
from adhaero.core.statistics.pairwise import Pair, Tails, Welch, games_howell_again, welch_anova
from adhaero.core.statistics.ranks import Kruskal, kruskal_wallis
from adhaero.core.statistics.ratio import Ratio, ratio_of_means


@dataclass(frozen=True)
class Row:
    """One treatment in figures; ``efficiency`` is against the solid wood that is loaded the same way.

    ``held`` pieces broke while a load stood on them: they bore it, and count.
    """

    group: Group
    summary: TreatmentSummary
    made: int
    unbroken: int
    void: int
    held: int
    left_out: int
    wood_failure_pct: float | None
    modes: dict[str, int]
    efficiency: Ratio | None
    efficiency_missing: str | None
    letters: str | None
    untested: str | None


@dataclass(frozen=True)
class Analysis:
    """The whole comparison. ``pairs`` index into ``tested``, those into ``rows``; ``tails`` are for the next look."""

    rows: list[Row]
    tested: list[int]
    welch: Welch | None
    pairs: list[Pair]
    kruskal: Kruskal | None
    set_ups: list[int] = field(default_factory=list)
    tails: Tails | None = None


def values_of(group: Group, fallen_as_zero: bool) -> list[float]:
    """The figures of a treatment that are known as one number; those that fell apart as zero where that is asked."""
    kinds = (Known.EXACT, Known.BELOW) if fallen_as_zero else (Known.EXACT,)
    return [d.low for d in group.data(fallen_as_zero=fallen_as_zero) if d.known in kinds]


def _row(group: Group, solid: dict[str, tuple[Group, TreatmentSummary]], fallen_as_zero: bool) -> Row:
    data = group.data(fallen_as_zero=fallen_as_zero)
    summary = summarise_data(data, fallen_as_zero=fallen_as_zero)
    opened = [p for p in group.pieces if p.opened]
    wood = [p.wood_failure_pct for p in opened if p.wood_failure_pct is not None]
    far = Counter(p.stands for p in group.pieces)
    efficiency, missing = None, None
    if group.role != "solid":
        reference = solid.get(group.solid) if group.solid else None
        if reference is None:
            missing = group.no_solid or "no solid reference"
        elif summary.bounded or reference[1].bounded:
            missing = "a mean that is only a limit has no ratio"
        elif not summary.n or not reference[1].n:
            wanting = reference if summary.n else (group, summary)
            missing = standing(*wanting).value
        else:
            whole = [group.solid_scale * v for v in values_of(reference[0], fallen_as_zero)]
            efficiency = ratio_of_means(values_of(group, fallen_as_zero), whole)
    return Row(
        group=group,
        summary=summary,
        made=len(group.pieces),
        unbroken=sum(n for s, n in far.items() if not s.ended),
        void=far[Stands.EXCLUDED],
        held=sum(p.kind is Kind.HELD for p in group.pieces),
        left_out=len(group.left_out),
        wood_failure_pct=sum(wood) / len(wood) if wood else None,
        modes=dict(Counter(p.failure_mode for p in opened if p.failure_mode)),
        efficiency=efficiency,
        efficiency_missing=missing,
        letters=None,
        untested=_untested(summary, group.unit),
    )


def _untested(summary: TreatmentSummary, unit: str) -> str | None:
    if summary.n == 0:
        return "all pieces fell apart" if summary.n_fell_apart else "no piece broken yet"
    if summary.bounded:
        return "some loads are only known to be at least, or between two steps"
    return too_few(summary.n, unit) if summary.n < WEAK_N else None


def _about(g: Group) -> tuple[object, ...]:
    return g.label, g.left_out, g.control, g.unit, g.solid_scale


def _unchanged(old: Analysis | None, groups: Sequence[Group]) -> dict[int, Row]:
    """Rows of an older look whose pieces are the very same ones, unless a solid reference has changed."""
    if old is None or len(old.rows) != len(groups):
        return {}
    same = {
        i: row
        for i, (row, g) in enumerate(zip(old.rows, groups, strict=True))
        if _about(row.group) == _about(g)
        and len(row.group.pieces) == len(g.pieces)
        and all(a is b for a, b in zip(row.group.pieces, g.pieces, strict=True))
    }
    solid_changed = any(g.role == "solid" and i not in same for i, g in enumerate(groups))
    return {} if solid_changed else same


def analyse(
    groups: Sequence[Group], *, fallen_as_zero: bool = True, alpha: float = 0.05, old: Analysis | None = None
) -> Analysis:
    """Analyse a batch in one figure (all loads in N, or all strengths in MPa).

    ``old`` is an analysis of the same batch made the same way: what has not changed since is taken from it.
    """
    kept = _unchanged(old, groups)
    solid: dict[str, tuple[Group, TreatmentSummary]] = {}
    for g in groups:
        if g.role == "solid":
            data = g.data(fallen_as_zero=fallen_as_zero)
            solid[g.solid] = g, summarise_data(data, fallen_as_zero=fallen_as_zero)
    rows = [kept[i] if i in kept else _row(g, solid, fallen_as_zero) for i, g in enumerate(groups)]
    tested = [i for i, r in enumerate(rows) if r.group.role != "solid" and r.untested is None]
    values = [values_of(rows[i].group, fallen_as_zero) for i in tested]
    known = old.tails if old else None
    pairs, tails = games_howell_again(values, alpha, known)
    order = sorted(range(len(tested)), key=lambda t: (-(rows[tested[t]].summary.mean or 0.0), t))
    sets = cliques(order, pairs, alpha) if len(tested) > 1 else None
    if sets is not None:
        named = letters(order, sets)
        rows = [Row(**{**vars(r), "letters": named[tested.index(i)]}) if i in tested else r for i, r in enumerate(rows)]
    set_ups = sorted({p.set_up for g in groups for p in g.pieces if p.set_up is not None})
    return Analysis(rows, tested, welch_anova(values), pairs, kruskal_wallis(values), set_ups, tails)
