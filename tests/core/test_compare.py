"""Properties of the statistics, closed forms, the treatment of bounds, and the verdict."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy import stats

from adhaero.core.compare.analysis import Analysis, analyse
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.letters import cliques, letters
from adhaero.core.compare.outcome import Outcome, outcome_of_ratio
from adhaero.core.compare.planned import Judged
from adhaero.core.compare.verdict import Verdict, judge
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.statistics import studentized_range
from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.descriptive import summarise, summarise_data
from adhaero.core.statistics.pairwise import games_howell, welch_anova
from adhaero.core.statistics.ratio import ratio_of_means

values = st.lists(st.floats(0.5, 1000), min_size=3, max_size=12)


def mpa(*numbers: float) -> list[Datum]:
    return [Datum(Known.EXACT, n, n) for n in numbers]


AT_LEAST = Datum(Known.AT_LEAST, 8.0, math.inf, "held, at least")
BETWEEN = Datum(Known.BETWEEN, 7.0, 9.0)
APART = Datum(Known.BELOW, 0.0, 0.0)


# Studentized range --------------------------------------------------------------------------------


@pytest.mark.parametrize("df", [1.0, 2.0, 3.7, 12.0, 250.0])
@pytest.mark.parametrize("q", [0.05, 0.8, 2.5, 6.0, 40.0])
def test_two_groups_are_students_t(df: float, q: float) -> None:
    expected = 2 * stats.t.sf(q / math.sqrt(2), df)
    assert float(studentized_range.tail(q, 2, df)) == pytest.approx(expected, rel=1e-7, abs=1e-12)


@pytest.mark.parametrize("k", [3, 8, 32])
@pytest.mark.parametrize("df", [1.3, 5.0, 19.5, 120.0])
def test_agrees_with_the_general_purpose_library(k: int, df: float) -> None:
    for q in (1.0, 3.0, 5.5):
        expected = float(stats.studentized_range.sf(q, k, df))
        assert float(studentized_range.tail(q, k, df)) == pytest.approx(expected, abs=1e-6)


def test_quantile_inverts_the_tail() -> None:
    df = np.array([1.0, 1.5, 4.0, 11.2, 300.0, 1e5])
    for alpha in (0.001, 0.05, 0.5):
        q = studentized_range.quantile(alpha, 6, df)
        assert studentized_range.tail(q, 6, df) == pytest.approx(np.full(6, alpha), rel=1e-7)


def test_tail_falls_from_one_to_nothing() -> None:
    p = studentized_range.tail(np.linspace(0, 60, 200), 5, 9.0)
    assert p[0] == 1.0
    assert np.all(np.diff(p) <= 1e-15)
    assert p[-1] < 1e-9
    assert np.isnan(studentized_range.tail(np.nan, 3, 5.0))


# Groups -------------------------------------------------------------------------------------------


@given(st.lists(values, min_size=2, max_size=5), st.floats(0.1, 10), st.floats(-200, 200))
@settings(max_examples=60, deadline=None)
def test_shift_and_scale_change_nothing_but_the_size(groups: list[list[float]], scale: float, shift: float) -> None:
    assume(all(np.std(g) > 1e-3 for g in groups))
    moved = [[scale * v + shift for v in g] for g in groups]
    for a, b in zip(games_howell(groups), games_howell(moved), strict=True):
        assert b.diff == pytest.approx(scale * a.diff, rel=1e-6, abs=1e-6)
        assert b.p == pytest.approx(a.p, rel=1e-4, abs=1e-7)
    first, second = welch_anova(groups), welch_anova(moved)
    assert first is not None
    assert second is not None
    assert second.f == pytest.approx(first.f, rel=1e-4, abs=1e-7)


@given(st.lists(values, min_size=2, max_size=5))
@settings(max_examples=60, deadline=None)
def test_interval_and_p_say_the_same(groups: list[list[float]]) -> None:
    for pair in games_howell(groups, 0.05):
        if pair.p is None or pair.ci_low is None or pair.ci_high is None:
            continue
        assert pair.ci_low <= pair.diff <= pair.ci_high
        if abs(pair.p - 0.05) > 1e-9:
            assert (pair.p < 0.05) == (pair.ci_low > 0 or pair.ci_high < 0)


@given(st.lists(values, min_size=2, max_size=7))
@settings(max_examples=60, deadline=None)
def test_letters_share_exactly_what_was_not_told_apart(groups: list[list[float]]) -> None:
    pairs = games_howell(groups)
    order = sorted(range(len(groups)), key=lambda i: -float(np.mean(groups[i])))
    sets = cliques(order, pairs)
    if sets is None:
        assert any(p.p is None for p in pairs)
        return
    shown = letters(order, sets)
    assert all(shown.values())
    for pair in pairs:
        assert bool(set(shown[pair.first]) & set(shown[pair.second])) == (pair.p is not None and pair.p >= 0.05)


def test_holm_by_hand() -> None:
    assert holm([0.01, 0.03, 0.04]) == pytest.approx([0.03, 0.06, 0.06])
    assert holm([0.04, 0.01, 0.03]) == pytest.approx([0.06, 0.03, 0.06])
    assert holm([0.9, 0.8]) == [1.0, 1.0]


def test_false_alarms_are_as_rare_as_promised() -> None:
    """Four alike treatments with unlike scatter: some pair differs in about 5 % of batches, not more."""
    rng = np.random.default_rng(7)
    alarms = 0
    for _ in range(400):
        groups = [rng.normal(10, sd, n).tolist() for sd, n in ((1, 6), (2, 6), (0.5, 8), (1.5, 5))]
        alarms += any(p.p is not None and p.p < 0.05 for p in games_howell(groups))
    assert alarms / 400 < 0.09


# Summary ------------------------------------------------------------------------------------------


def test_summary_by_hand() -> None:
    """435, 610, 640, 655, 660: mean 600, median 640, SD 94.3, CV 15.7 %, interval 483 to 717, middle three 635."""
    s = summarise([435, 610, 640, 655, 660])
    assert (s.mean, s.median, s.mean_without_extremes) == (600, 640, 635)
    assert s.sd == pytest.approx(94.3, abs=0.05)
    assert s.cv == pytest.approx(0.157, abs=5e-4)
    assert (s.ci_low, s.ci_high) == (pytest.approx(483, abs=0.5), pytest.approx(717, abs=0.5))


@given(values)
def test_order_of_pieces_does_not_matter(numbers: list[float]) -> None:
    assert summarise(numbers) == summarise(numbers[::-1])


def test_a_bound_is_never_averaged_as_exact() -> None:
    s = summarise_data([*mpa(9.0, 10.0), AT_LEAST])
    assert s.bounded
    assert s.mean is None
    assert s.mean_low == pytest.approx(9.0)
    assert s.mean_high is None
    assert s.n_at_least == 1
    assert s.min_low == 8.0


def test_a_step_gives_a_range_for_the_mean() -> None:
    s = summarise_data([*mpa(9.0, 10.0), BETWEEN])
    assert (s.mean_low, s.mean_high) == (pytest.approx(26 / 3), pytest.approx(28 / 3))
    assert s.mean is None


def test_fallen_pieces_both_ways() -> None:
    data = [*mpa(9.0, 11.0), APART]
    zero, without = summarise_data(data), summarise_data(data, fallen_as_zero=False)
    assert (zero.n, zero.mean, zero.mean_without_fallen) == (3, pytest.approx(20 / 3), 10.0)
    assert (without.n, without.mean, without.n_fell_apart) == (2, 10.0, 1)


def test_nothing_broken_is_nothing_claimed() -> None:
    s = summarise_data([])
    assert (s.n, s.mean, s.mean_low, s.bounded) == (0, None, None, False)


# Ratios -------------------------------------------------------------------------------------------


@given(values, values)
@settings(max_examples=60)
def test_a_ratio_lies_in_its_interval(a: list[float], b: list[float]) -> None:
    r = ratio_of_means(a, b)
    assert r is not None
    if r.fieller and r.fieller.ci_low is not None and r.fieller.ci_high is not None:
        assert r.fieller.ci_low - 1e-9 <= r.ratio <= r.fieller.ci_high + 1e-9


def test_a_ratio_needs_both_sides() -> None:
    assert ratio_of_means([], [1.0, 2.0]) is None
    assert ratio_of_means([1.0], [0.0, 0.0]) is None


def test_the_interval_of_a_ratio_covers_as_often_as_it_says() -> None:
    rng = np.random.default_rng(11)
    hits = 0
    for _ in range(400):
        r = ratio_of_means(rng.normal(8, 1.2, 6).tolist(), rng.normal(10, 0.8, 5).tolist())
        assert r is not None
        assert r.fieller is not None
        assert r.fieller.ci_low is not None
        assert r.fieller.ci_high is not None
        hits += r.fieller.ci_low <= 0.8 <= r.fieller.ci_high
    assert 0.92 <= hits / 400 <= 0.985


# Verdict ------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("low", "high", "expected"),
    [
        (1.12, 1.30, Outcome.BETTER),
        (0.70, 0.88, Outcome.WORSE),
        (0.92, 1.09, Outcome.SAME),
        (1.01, 1.09, Outcome.SAME),
        (1.02, 1.30, Outcome.BETTER),
        (0.92, 1.11, Outcome.UNKNOWN),
        (0.60, 1.30, Outcome.UNKNOWN),
    ],
)
def test_the_four_outcomes(low: float, high: float, expected: Outcome) -> None:
    assert outcome_of_ratio(low, high, 0.1) is expected


def group(
    letter: str,
    data: list[Datum],
    *,
    control: bool = False,
    role: str = "joint",
    solid: str = "ash",
    mode: str = "in-glue",
) -> Group:
    pieces = [Piece(f"{letter}{i}", d, Kind.EXACT, mode, 10.0, set_up=1) for i, d in enumerate(data)]
    served = "standard" if control else "solid" if role == "solid" else None
    return Group(letter, f"Glue {letter}", role, served, pieces, solid)


def verdict(a: Analysis, **more: float) -> Verdict:
    return judge(a, lambda v: f"{v:.2f} MPa", **more)  # type: ignore[arg-type]


def judged(v: Verdict) -> list[Judged]:
    return [j for r in v.results for j in r.comparisons]


STRONG = group("A", mpa(11.8, 12.1, 12.4, 11.9, 12.2, 12.0), control=True)
WEAK = group("B", mpa(8.1, 7.9, 8.3, 8.0, 7.8, 8.2))
ALIKE = group("C", mpa(12.0, 12.2, 11.9, 12.1, 12.3, 11.8))
SOLID = group("S", mpa(14.8, 15.2, 15.0, 15.1), role="solid")


def test_what_differs_is_judged_with_its_interval() -> None:
    v = verdict(analyse([STRONG, WEAK, ALIKE, SOLID]))
    assert v.reference == 0
    weaker = next(c for c in judged(v) if (c.first, c.second) == ("B", "A"))
    assert weaker.outcome is Outcome.WORSE
    assert weaker.ratio == pytest.approx(0.667, abs=0.005)
    assert weaker.low is not None
    assert weaker.low < weaker.ratio
    assert not v.caveats


def test_no_sentence_claims_more_than_its_interval() -> None:
    rng = np.random.default_rng(5)
    for _ in range(30):
        groups = [group(x, mpa(*rng.normal(10 + i, 2, 5).clip(0.5))) for i, x in enumerate("ABC")]
        for c in judged(verdict(analyse(groups))):
            assert c.low is not None
            assert c.high is not None
            assert c.p is not None
            assert (c.p < 0.05) == (c.low > 1 or c.high < 1), "the interval and p say the same"
            if c.outcome is Outcome.BETTER:
                assert c.low > 1
            elif c.outcome is Outcome.WORSE:
                assert c.high < 1
            elif c.outcome is Outcome.SAME:
                assert 0.9 <= c.low < c.high <= 1.1


def test_a_tie_is_never_a_win() -> None:
    """A gap of 1 % with a CV of 20 %."""
    a = group("A", mpa(8, 10, 12, 9, 11, 10), control=True)
    b = group("B", mpa(8.1, 10.1, 12.1, 9.1, 11.1, 10.1))
    assert judged(verdict(analyse([a, b])))[0].outcome is Outcome.UNKNOWN


def test_bounds_are_named_and_take_part() -> None:
    """B held beyond 8 once and broke below 9.6 twice: weaker than A all the same."""
    bound = group("B", [*mpa(9.0, 9.5), AT_LEAST])
    a = analyse([STRONG, bound, ALIKE])
    assert a.tested == [0, 2]
    v = verdict(a)
    assert any("Glue B: of 3 pieces 1 did not break" in s.text for s in v.caveats)
    against = next(j for j in judged(v) if j.first == "B")
    assert against.route == "medians"
    assert against.outcome is Outcome.WORSE
    assert against.high is not None
    assert against.high < 0.9


def test_two_pieces_make_no_claim() -> None:
    a = analyse([STRONG, group("B", mpa(5.0, 5.1)), ALIKE])
    assert a.tested == [0, 2]
    assert a.rows[1].untested == "2 pieces are too few for any claim about scatter"


def test_percent_of_solid_needs_the_own_wood() -> None:
    other = group("S", mpa(14.8, 15.2, 15.0), role="solid", solid="elm")
    row = analyse([STRONG, other]).rows[0]
    assert row.efficiency is None
    assert row.efficiency_missing == "no solid reference"


def test_weak_points_are_listed() -> None:
    pieces = [Piece("x", d, set_up=i % 2 + 1, flags=("nominal area",)) for i, d in enumerate(mpa(9, 10, 11))]
    unbroken = Piece("y", Datum(Known.NONE, math.nan, math.nan))
    mixed = Group("B", "Glue B", "joint", None, [*pieces, unbroken, Piece("z", APART)])
    texts = " ".join(s.text for s in verdict(analyse([group("A", mpa(9, 10, 12)), mixed])).caveats)
    for words in ("fell apart", "No solid piece", "set-ups", "not measured", "not broken yet"):
        assert words in texts


def test_without_any_break_nothing_is_judged() -> None:
    v = verdict(analyse([group("A", []), group("B", [])]))
    assert all(j.outcome is Outcome.UNKNOWN and "not broken yet" in j.why for j in judged(v))


@pytest.mark.parametrize(
    ("flagged", "said"),
    [
        ("A", ["Glue A: broken at another age than planned (3 of 3)."]),
        ("ABC", ["3 of 4 treatments: broken at another age than planned (9 of 9)."]),
        ("ABCD", ["All treatments: broken at another age than planned (12 of 12)."]),
    ],
)
def test_what_most_treatments_have_in_common_is_said_once(flagged: str, said: list[str]) -> None:
    def marked(letter: str) -> Group:
        plain = group(letter, mpa(9.0, 10.0, 11.0))
        kinds = ("age off",) if letter in flagged else ()
        return replace(plain, pieces=[replace(p, flags=kinds) for p in plain.pieces])

    found = verdict(analyse([marked(k) for k in "ABCD"])).caveats
    assert [f.text for f in found if "another age" in f.text] == said
