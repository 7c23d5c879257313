"""The planned comparisons: what always holds of them, and what a plan compares."""

from __future__ import annotations

import random
from dataclasses import replace

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from adhaero.core.compare.analysis import analyse
from adhaero.core.compare.changes import changes
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import Judged, Setting, judge_families
from adhaero.core.compare.schools import by_every_school
from adhaero.core.compare.verdict import Verdict, judge
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.comparisons import Contrast, Family, Within, families, primary
from adhaero.core.plan.document import Compared, Factor, Level, first_plan
from adhaero.core.statistics.adjust import holm, step_alphas

LOADS = st.lists(st.floats(100, 9000), min_size=3, max_size=7)


def group(letter: str, values: list[float], *, control: bool = False, label: str = "") -> Group:
    pieces = [Piece(f"{letter}{i}", Datum(Known.EXACT, v, v), Kind.EXACT, "in-glue") for i, v in enumerate(values)]
    return Group(letter, label or f"Glue {letter}", "joint", "standard" if control else None, pieces)


def verdict(groups: list[Group]) -> Verdict:
    return judge(analyse(groups), lambda v: f"{v:.0f} N")


def judged(v: Verdict) -> list[Judged]:
    return [j for r in v.results for j in r.comparisons]


@settings(deadline=None, max_examples=60)
@given(st.lists(st.floats(0.0001, 1), min_size=1, max_size=9, unique=True))
def test_the_level_of_each_step_agrees_with_holm(p: list[float]) -> None:
    for own, adjusted, alpha in zip(p, holm(p), step_alphas(p, 0.05), strict=True):
        assume(abs(adjusted - 0.05) > 1e-9)
        assert (adjusted < 0.05) == (own < alpha)


@settings(deadline=None, max_examples=30)
@given(st.lists(LOADS, min_size=2, max_size=4), st.floats(0.01, 100), st.randoms())
def test_unit_order_and_names_leave_the_verdict_alone(
    values: list[list[float]], unit: float, dice: random.Random
) -> None:
    plain = [group(x, v, control=i == 0) for i, (x, v) in enumerate(zip("ABCD", values, strict=False))]
    scaled = [group(g.letter, [unit * p.datum.low for p in g.pieces], control=g.is_control) for g in plain]
    renamed = [replace(g, label=f"Renamed {g.letter}") for g in plain]
    mixed = [replace(g, pieces=dice.sample(list(g.pieces), len(g.pieces))) for g in plain]
    ends = [(j.first, j.second, j.outcome) for j in judged(verdict(plain))]
    for other in (scaled, renamed, mixed):
        assert [(j.first, j.second, j.outcome) for j in judged(verdict(other))] == ends


def test_two_percent_at_a_scatter_of_twenty_never_wins() -> None:
    rng = random.Random(9)
    wins = 0
    for _ in range(150):
        a, b = ([rng.gauss(m, 0.2 * m) for _ in range(6)] for m in (1000, 1020))
        wins += judged(verdict([group("A", a, control=True), group("B", b)]))[0].outcome is Outcome.BETTER
    assert wins <= 150 * 0.05 + 4


def test_the_order_depends_on_how_you_average() -> None:
    """X (400, 900, 950) leads by its mean, Y (700, 710, 720) by its lowest piece."""
    v = verdict([group("X", [400.0, 900, 950]), group("Y", [700.0, 710, 720])])
    assert v.case is not None
    found = by_every_school(v.case.setting)
    assert found is not None
    first = {s.key: min(s.places, key=s.places.__getitem__) for s in found.schools}
    assert (first["mean"], first["minimum"], first["median"]) == ("X", "Y", "X")
    assert found.text.startswith("The winner depends on how you average")
    assert "limit" not in first, "three pieces are too few for a low percentile"
    assert abs(sum(found.first.values()) - 1) < 1e-9
    tied = verdict([group("X", [1.0, 2, 3]), group("Y", [1.0, 2, 3]), group("Z", [0.5, 0.6, 0.7])])
    assert tied.case is not None
    places = by_every_school(tied.case.setting)
    assert places is not None
    assert places.schools[0].places == {"X": 1, "Y": 1, "Z": 3}


def test_what_another_view_changes_is_said() -> None:
    label = {"A": "Ash", "B": "Beech", "C": "Oak"}
    was, now = {("A", "B"): "better"}, {("A", "B"): "can't tell yet"}
    said = changes({"A": 3, "B": 2, "C": 1}, {"A": 2, "B": 3}, was, now, label)
    assert said == ["The order of Ash and Beech turns.", "Ash against Beech: can't tell yet, not better.",
                    "Oak: no figure in this view."]  # fmt: skip
    assert changes({"A": 1}, {"A": 2}, {}, {}, label) == ["Neither the order nor an outcome changes."]


PLAN = replace(
    first_plan(),
    factors=(
        Factor("conditioning", "Conditioning", (Level("dry"), Level("soak-24h"))),
        Factor("species", "Species", (Level("ash"), Level("oak"), Level("beech"))),
        Factor("gap_mm", "Gap", (Level(0.0, "mm"), Level(0.2, "mm"), Level(0.5, "mm"))),
    ),
    constants={**first_plan().constants, "glue": Level("casein")},
    control={"conditioning": "l1"},
)


def test_each_factor_is_compared_within_the_others() -> None:
    found = {f.of: f for f in families(PLAN)}
    assert found["conditioning"].sentence == "What is kept of Dry, indoors within each species and gap"
    assert len(found["conditioning"].pairs) == 9
    assert len(found["species"].pairs) == 3 * 6
    assert found["species"].every_pair
    # Numbers make an axis. Without a control a gap is set against the least, other numbers against the last.
    assert found["gap_mm"].axis
    assert {c.second for c in found["gap_mm"].contrasts} == {"gap 0 mm"}
    doses = Factor("dose", "Dose", (Level(0.0), Level(2.0), Level(5.0)))
    (other,) = families(replace(PLAN, factors=(doses,), control={}))
    assert {c.second for c in other.contrasts} == {"dose 5"}
    assert len(found["gap_mm"].pairs) == 2 * 6
    first = primary(list(found.values()))
    assert first is not None
    assert first.of == "conditioning"


def test_a_cell_that_is_not_made_takes_its_comparison_along() -> None:
    cell = {"conditioning": "l2", "species": "l1", "gap_mm": "l1"}
    found = {f.of: f for f in families(replace(PLAN, dropped=(cell,)))}
    assert len(found["conditioning"].pairs) == 8
    struck = families(replace(PLAN, compared=Compared(struck=("factor:species",))))
    assert [f.of for f in struck if f.struck] == ["species"]


@settings(deadline=None, max_examples=40)
@given(st.integers(0, 10_000), st.integers(3, 6))
def test_letters_agree_with_all_pairs(seed: int, k: int) -> None:
    """Two treatments share a letter exactly where their pair is not told apart."""
    rng = np.random.default_rng(seed)
    middles = rng.uniform(60, 140, k)
    groups = [
        Group(f"T{i}", f"T{i}", "joint", None, [
            Piece(f"T{i}{n}", Datum(Known.EXACT, v, v), Kind.EXACT)
            for n, v in enumerate((middles[i] * np.exp(rng.normal(0, 0.1, 5))).tolist())])
        for i in range(k)
    ]  # fmt: skip
    a = analyse(groups)
    for pair in a.pairs:
        first, second = (a.rows[a.tested[x]].letters for x in (pair.first, pair.second))
        assert first is not None
        assert second is not None
        assert pair.p is not None
        assert bool(set(first) & set(second)) == (pair.p >= 0.05)


def test_what_fell_apart_decides_over_strata_too() -> None:
    """B holds as much as A where it holds, but five of eight fell apart, in both woods."""
    rng = random.Random(2)

    def glued(letter: str, fallen: int) -> Group:
        apart = [Piece(f"{letter}f{i}", Datum(Known.BELOW, 0, 0), Kind.FELL_APART) for i in range(fallen)]
        held = group(letter, [rng.gauss(4000, 200) for _ in range(8 - fallen)])
        return replace(held, pieces=[*held.pieces, *apart])

    rows = {r.group.letter: r for r in analyse([glued("A", 0), glued("B", 5), glued("C", 0), glued("D", 5)]).rows}
    both = Contrast("B against A", "B", "A", (Within("B", "A", "ash"), Within("D", "C", "oak")))
    (found,) = judge_families([Family("f", "factor", "", (both,), "glue", "wood")], Setting(rows))
    (over,) = found.pooled
    assert over.by_fallen
    assert over.outcome is Outcome.WORSE
    assert over.low < 1 < over.high, "those that held are not shown to differ"
    assert {j.outcome for j in found.comparisons} == {Outcome.WORSE}
