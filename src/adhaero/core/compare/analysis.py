"""A batch's pieces -> one analysis: a row a treatment, all pairs, efficiency, letters.

Tests need an exact figure of every counted piece: a treatment with bounds among its pieces is described ("at least")
but not tested, and the reason is given. Solid references are described and serve as denominators; they are not among
the treatments compared.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

from adhaero.core.compare.groups import (
    Kruskal,
    Pair,
    Welch,
    cliques,
    games_howell,
    kruskal_wallis,
    letters,
    welch_anova,
)
from adhaero.core.compare.ratios import Ratio, ratio_of_means
from adhaero.core.compare.summary import TreatmentSummary, summarise_data
from adhaero.core.observation import Datum, Kind

WEAK_N = 3
"""Below this number of pieces nothing is claimed that rests on scatter."""


@dataclass(frozen=True)
class Piece:
    """One specimen's part in the analysis; ``datum`` is ``None`` while unbroken, void, held, seen or excluded."""

    code: str
    datum: Datum | None
    failure_mode: str | None = None
    wood_failure_pct: float | None = None
    void: bool = False
    held: bool = False
    seen: bool = False
    set_up: int | None = None
    nominal_area: bool = False


@dataclass(frozen=True)
class Group:
    """A treatment with its pieces. ``species`` finds the matching solid reference."""

    letter: str
    label: str
    role: str
    is_control: bool
    species: str
    pieces: Sequence[Piece]


@dataclass(frozen=True)
class Row:
    """One treatment in figures; ``efficiency`` is against the solid reference of its own species."""

    group: Group
    summary: TreatmentSummary
    made: int
    unbroken: int
    void: int
    held: int
    wood_failure_pct: float | None
    modes: dict[str, int]
    efficiency: Ratio | None
    efficiency_missing: str | None
    letters: str | None
    untested: str | None


@dataclass(frozen=True)
class Analysis:
    """The whole comparison. ``pairs`` index into ``tested``, which index into ``rows``."""

    rows: list[Row]
    tested: list[int]
    welch: Welch | None
    pairs: list[Pair]
    kruskal: Kruskal | None
    set_ups: list[int] = field(default_factory=list)


def _values(group: Group, fallen_as_zero: bool) -> list[float]:
    kinds = (Kind.EXACT, Kind.FELL_APART) if fallen_as_zero else (Kind.EXACT,)
    return [p.datum.low for p in group.pieces if p.datum is not None and p.datum.kind in kinds]


def _row(group: Group, solid: dict[str, tuple[Group, TreatmentSummary]], fallen_as_zero: bool) -> Row:
    broken = [p for p in group.pieces if p.datum is not None]
    summary = summarise_data([p.datum for p in broken if p.datum is not None], fallen_as_zero=fallen_as_zero)
    opened = [p for p in group.pieces if p.datum is not None or p.seen]
    wood = [p.wood_failure_pct for p in opened if p.wood_failure_pct is not None]
    void, held = sum(p.void for p in group.pieces), sum(p.held for p in group.pieces)
    efficiency, missing = None, None
    if group.role != "solid":
        reference = solid.get(group.species)
        if reference is None:
            missing = f"no solid reference of {group.species}"
        elif summary.bounded or reference[1].bounded:
            missing = "a mean that is only a bound has no ratio"
        elif not summary.n or not reference[1].n:
            missing = "not broken yet"
        else:
            efficiency = ratio_of_means(_values(group, fallen_as_zero), _values(reference[0], fallen_as_zero))
    return Row(
        group=group,
        summary=summary,
        made=len(group.pieces),
        unbroken=len(group.pieces) - len(opened) - void - held,
        void=void,
        held=held,
        wood_failure_pct=sum(wood) / len(wood) if wood else None,
        modes=dict(Counter(p.failure_mode for p in opened if p.failure_mode)),
        efficiency=efficiency,
        efficiency_missing=missing,
        letters=None,
        untested=_untested(summary),
    )


def _untested(summary: TreatmentSummary) -> str | None:
    if summary.n == 0:
        return "no piece broken yet"
    if summary.bounded:
        return "some loads are only known to be at least, or between two steps"
    if summary.n == 1:
        return "one piece shows that it can happen, not how often"
    if summary.n < WEAK_N:
        return f"{summary.n} pieces are too few for any claim about scatter"
    return None


def _unchanged(old: Analysis | None, groups: Sequence[Group]) -> dict[int, Row]:
    """Rows of an older look whose pieces are the very same ones, unless a solid reference has changed."""
    if old is None or len(old.rows) != len(groups):
        return {}
    same = {
        i: row
        for i, (row, g) in enumerate(zip(old.rows, groups, strict=True))
        if row.group.label == g.label
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
            data = [p.datum for p in g.pieces if p.datum is not None]
            solid[g.species] = g, summarise_data(data, fallen_as_zero=fallen_as_zero)
    rows = [kept[i] if i in kept else _row(g, solid, fallen_as_zero) for i, g in enumerate(groups)]
    tested = [i for i, r in enumerate(rows) if r.group.role != "solid" and r.untested is None]
    values = [_values(rows[i].group, fallen_as_zero) for i in tested]
    pairs = games_howell(values, alpha)
    order = sorted(range(len(tested)), key=lambda t: (-(rows[tested[t]].summary.mean or 0.0), t))
    sets = cliques(order, pairs, alpha) if len(tested) > 1 else None
    if sets is not None:
        named = letters(order, sets)
        rows = [Row(**{**vars(r), "letters": named[tested.index(i)]}) if i in tested else r for i, r in enumerate(rows)]
    set_ups = sorted({p.set_up for g in groups for p in g.pieces if p.set_up is not None})
    return Analysis(rows, tested, welch_anova(values), pairs, kruskal_wallis(values), set_ups)
