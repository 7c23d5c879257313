"""Sentences against the figures that they speak of: numbers are read back, and nothing contradicts another."""

from __future__ import annotations

import math
import random
import re
import statistics

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from adhaero.core.compare.analysis import analyse
from adhaero.core.compare.axis import Levels
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.estimates import estimates
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import Judged
from adhaero.core.compare.saying import said
from adhaero.core.compare.verdict import Verdict, judge
from adhaero.core.observation import Kind
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.comparisons import Contrast, Family, Within

PERCENT = re.compile(r"by (\d+) % \((-?\d+) to (-?\d+) %\)")
TIMES = re.compile(r"(\d+\.\d) times as much as .+ \(([\d.e+]+) to ([\d.e+]+) times\)")
SPAN = re.compile(r" \(([+−]?\d+) % to ([+−]?\d+) %[);]")


def exact(*values: float) -> list[Datum]:
    return [Datum(Known.EXACT, v, v) for v in values]


def held(*values: float) -> list[Datum]:
    return [Datum(Known.AT_LEAST, v, math.inf, "held, at least") for v in values]


def apart(n: int) -> list[Datum]:
    return [Datum(Known.BELOW, 0.0, 0.0)] * n


def group(letter: str, data: list[Datum], *, control: bool = False, mode: str = "in-glue") -> Group:
    pieces = [Piece(f"{letter}{i}", d, Kind.EXACT, mode) for i, d in enumerate(data)]
    return Group(letter, f"glue {letter}", "joint", "standard" if control else None, pieces)


def family(*pairs: Within, of: str = "glue", strata: str = "", every_pair: bool = False) -> Family:
    contrast = Contrast("new against old", "new", "old", pairs)
    contrasts = (contrast,) if strata else tuple(Contrast("", p.first, p.second, (p,)) for p in pairs)
    return Family(f"factor:{of}", "factor", "Compare new with old", contrasts, of, strata, every_pair=every_pair)


def verdict(groups: list[Group], *families: Family, levels: tuple[Levels, ...] = (), zero: bool = True) -> Verdict:
    analysis = analyse(groups, fallen_as_zero=zero)
    return judge(analysis, lambda v: f"{v:.0f} N", families=families or None, levels=levels, fallen_as_zero=zero)


def judged(v: Verdict) -> list[Judged]:
    return [j for r in v.results for j in r.comparisons]


def headline(v: Verdict) -> str:
    return v.findings[0].text


def drawn(seed: int, mean: float, n: int = 6, cv: float = 0.1) -> list[float]:
    rng = random.Random(seed)
    return [max(1.0, rng.gauss(mean, cv * mean)) for _ in range(n)]


def check(v: Verdict) -> int:
    """Read every comparison back from its sentence; how many had numbers."""
    assert v.case is not None
    read = 0
    for r in v.results:
        for j in r.comparisons:
            text = said(v.case, r.family, j)
            assert ("can't tell yet" in text) == (j.outcome is Outcome.UNKNOWN), text
            assert ("same for practical purposes" in text) == (j.outcome is Outcome.SAME), text
            if " weaker than " in text:
                assert j.outcome is Outcome.WORSE
            if " at most " in text:
                assert j.outcome is Outcome.WORSE
            elif " stronger than " in text or " times as much as " in text:
                assert j.outcome is Outcome.BETTER
            if j.ratio is None or j.low is None or j.high is None:
                continue
            if m := PERCENT.search(text):
                own, near, far = (int(x) / 100 for x in m.groups())
                sign = 1 if j.ratio > 1 else -1
                assert own == pytest.approx(abs(j.ratio - 1), abs=0.006)
                ends = sorted(1 + sign * e for e in (near, far))
                assert ends == pytest.approx([j.low, j.high], abs=0.006)
                read += 1
            elif m := TIMES.search(text):
                told = [float(x) for x in m.groups()]
                assert told == pytest.approx([j.ratio, j.low, j.high], rel=0.06)
                read += 1
            elif m := SPAN.search(text):
                told = [1 + int(x.replace("−", "-")) / 100 for x in m.groups()]
                assert told == pytest.approx([j.low, j.high], abs=0.006)
                read += 1
    return read


@settings(deadline=None, max_examples=40)
@given(st.lists(st.integers(300, 9000), min_size=2, max_size=5), st.integers(0, 999))
@example([300, 344, 300, 300], 273)  # an interval that ends at 0 %
def test_numbers_in_sentences_are_those_of_the_comparison(means: list[int], seed: int) -> None:
    groups = [group(x, exact(*drawn(seed + i, m)), control=i == 0) for i, (x, m) in
              enumerate(zip("ABCDE", means, strict=False))]  # fmt: skip
    v = verdict(groups)
    assert check(v) == len(means) - 1
    texts = [f.text for f in v.findings if f.family != "headline"]
    assert all(t[0].isupper() or not t[0].isalpha() for t in texts)
    assert len(set(texts)) == len(texts), "nothing is said twice"


@settings(deadline=None, max_examples=15)
@given(st.integers(0, 999), st.floats(0.2, 0.6))
def test_with_bounds_they_are_too(seed: int, share: float) -> None:
    rng = random.Random(seed)
    groups = []
    for i, (letter, mean) in enumerate((("A", 4000), ("B", 2500), ("C", 4100))):
        values = drawn(seed + i, mean)
        data = [held(v)[0] if rng.random() < share else exact(v)[0] for v in values]
        groups.append(group(letter, data, control=i == 0))
    check(verdict(groups))


def test_the_headline_says_what_the_pairs_say() -> None:
    """Who is named as weaker is so in the comparisons, and nobody else."""
    truth = {"A": 4000, "B": 2000, "C": 4050, "D": 1000}
    v = verdict([group(x, exact(*drawn(i, m)), control=x == "A") for i, (x, m) in enumerate(truth.items())])
    weaker = {j.first for j in judged(v) if j.outcome is Outcome.WORSE}
    assert weaker == {"B", "D"}
    assert "Glue B and glue D are weaker by" in headline(v).replace("glue B and", "Glue B and")
    assert "glue C can't be told apart" in headline(v) or "glue C is the same" in headline(v)


def test_a_treatment_that_never_failed_is_told_by_its_bound() -> None:
    a, b = group("A", exact(*drawn(1, 1000)), control=True), group("B", held(*drawn(2, 2500)))
    v = verdict([a, b])
    (j,) = judged(v)
    assert j.outcome is Outcome.BETTER
    assert re.search(r"glue B holds at least [\d.]+ times as much as glue A: none of it failed", headline(v), re.I)
    back = verdict([group("B", held(*drawn(2, 2500)), control=True), group("A", exact(*drawn(1, 1000)))])
    assert "at most" in headline(back)
    assert "of which none failed" in headline(back)
    early = verdict([a, group("C", held(*drawn(3, 500)))])
    assert judged(early)[0].outcome is Outcome.UNKNOWN
    assert "can't tell yet; none of glue C failed" in headline(early)
    both = verdict([group("A", held(*drawn(1, 900)), control=True), group("B", held(*drawn(2, 900)))])
    assert headline(both).startswith("Can't tell yet")


def test_against_nothing_there_is_no_percentage() -> None:
    v = verdict([group("A", apart(5), control=True), group("B", exact(*drawn(1, 3000, 5)))])
    assert "next to nothing" in headline(v)
    assert "%" not in headline(v)
    kept = verdict([group("A", apart(2) + exact(*drawn(4, 2000, 4)), control=True),
                    group("B", exact(*drawn(1, 3000)))], zero=False)  # fmt: skip
    assert judged(kept)[0].ratio == pytest.approx(1.5, abs=0.2), "those that fell apart count apart"


def test_all_in_the_wood_is_said_of_the_wood() -> None:
    v = verdict([group("A", exact(*drawn(1, 4000)), control=True, mode="wood-deep"),
                 group("B", exact(*drawn(2, 2000)), mode="wood-deep")])  # fmt: skip
    assert headline(v).endswith("this compares the wood.") or "compares the wood, not the glue" in headline(v)


def test_what_is_kept_is_told_with_what_is_lost() -> None:
    groups = [group("A", exact(*drawn(1, 4000))), group("B", exact(*drawn(2, 3000)))]
    v = verdict(groups, family(Within("B", "A"), of="conditioning"))
    kept, lost = (int(x) for x in re.findall(r"keeps (\d+) %.*loses (\d+) %", headline(v))[0])
    assert kept + lost == 100
    assert kept == pytest.approx(100 * (judged(v)[0].ratio or 0), abs=0.6)


def test_what_several_keep_is_told_of_each() -> None:
    """Soaked, frozen and outdoors against dry: the most different of them alone would be a third of the answer."""
    means = {"A": 4000, "B": 2400, "C": 3200, "D": 3960}
    v = verdict([group(x, exact(*drawn(i, m))) for i, (x, m) in enumerate(means.items())],
                family(*[Within(x, "A") for x in "BCD"], of="conditioning"))  # fmt: skip
    b, c, d = (
        f"{100 * (j.ratio or 0):.0f} % ({100 * (j.low or 0):.0f} to {100 * (j.high or 0):.0f} %" for j in judged(v)
    )
    open_ = "that it changes can't be told yet"
    assert headline(v) == f"Of glue A: glue B keeps {b}); glue C {c}); glue D {d}: {open_})."
    pairs = {x: tuple(Within(x + g, "A" + g, g) for g in "12") for x in "BCD"}
    contrasts = tuple(Contrast(x, x, "A", own) for x, own in pairs.items())
    groups = [
        group(x + g, exact(*drawn(i, means[x])) if x != "D" else apart(4)) for i, x in enumerate(means) for g in "12"
    ]
    over = verdict(groups, Family("factor:c", "factor", "", contrasts, "conditioning", "glue"))
    # What has no ratio to be pooled is not passed over.
    assert headline(over).startswith("Over 2 glues, of A: B keeps ")
    assert headline(over).endswith("; D is told below.")


def test_strata_are_pooled_or_all_told() -> None:
    """Over three woods; where one of them has no ratio it is left out and counted; where none has, all are told."""
    groups = [group(x, exact(*drawn(i, m))) for i, (x, m) in
              enumerate({"A": 4000, "B": 2000, "C": 3000, "D": 1500, "E": 5000}.items())]  # fmt: skip
    pairs = [Within("B", "A", "ash"), Within("D", "C", "oak"), Within("F", "E", "elm")]
    v = verdict([*groups, group("F", apart(4))], family(*pairs, strata="wood"))
    (over,) = v.results[0].pooled
    assert over.left_out == ("elm",)
    assert "over 2 of 3 woods" in headline(v)
    assert over.ratio == pytest.approx(0.5, rel=0.15)
    none = [group(x, apart(4)) for x in "BD"] + [g for g in groups if g.letter in "AC"]
    told = verdict(none, family(*pairs[:2], strata="wood"))
    assert not told.results[0].pooled
    assert headline(told) == "Compare new with old: of 2 comparisons 2 worse."


def test_several_levels_over_their_strata_are_told_in_one_sentence() -> None:
    """Three amounts against the usual one in two classes: the most different alone would be half of the answer."""
    truth = {"usual": 4000, "starved": 2000, "thin": 3200, "heavy": 3990}
    letters = {(amount, c): f"{amount} {c}" for c in ("inner", "outer") for amount in truth}
    groups = [group(x, exact(*drawn(i, truth[amount], 12, 0.05))) for i, ((amount, _), x) in enumerate(letters.items())]
    contrasts = tuple(
        Contrast(f"{a} against usual", a, "usual", tuple(
            Within(letters[a, c], letters["usual", c], c) for c in ("inner", "outer"))) for a in list(truth)[1:]
    )  # fmt: skip
    v = verdict(groups, Family("factor:mine", "factor", "Compare amounts", contrasts, "mine", "class"))
    ratio = {o.first: f"{100 * (1 - o.ratio):.0f}" for o in v.results[0].pooled}
    assert headline(v).startswith(
        f"Against usual, over 2 classes: starved and thin are weaker by {ratio['starved']} and {ratio['thin']} %; "
        "heavy is the same for practical purposes"
    )


def axis(reference: float, *at: float) -> Levels:
    return Levels("clamp_s", "Clamp time", dict(zip("ABCDEF", at, strict=False)), lambda x: f"{x:.3g} h", reference)


def along(means: dict[str, float], reference: float, *, cv: float = 0.04) -> Verdict:
    groups = [group(x, exact(*drawn(i, m, 6, cv))) if m else group(x, apart(6))
              for i, (x, m) in enumerate(means.items())]  # fmt: skip
    levels = axis(reference, *range(1, len(means) + 1))
    against = next(x for x, place in levels.at.items() if place == reference)
    pairs = [Within(x, against) for x in means if x != against]
    return verdict(groups, family(*pairs, of="clamp_s"), levels=(levels,))


def test_the_plateau_stops_at_the_first_level_that_fails() -> None:
    v = along({"A": 4000, "B": 2000, "C": 3950, "D": 4000}, 4)
    # A is high again, but B between them is not: the walk goes no further.
    assert headline(v) == (
        "From 3 h on within 10 % of 4 h; 2 h is weaker by 50 %; 1 h is the same for practical purposes."
    )
    assert v.axes[0].series[0].text.startswith("From 3 h on within 10 % of 4 h; 2 h is not shown to be.")
    assert v.axes[0].series[0].plateau == ["C", "D"]
    assert headline(along({"A": 4000, "B": 3990, "C": 4000}, 3)) == "From 1 h on within 10 % of 3 h."
    wide = along({"A": 3500, "B": 3800, "C": 4000}, 3, cv=0.3)
    assert headline(wide) == "No level below 3 h is shown to be within 10 % of it."
    middle = along({"A": 2000, "B": 3980, "C": 4000, "D": 3990}, 3)
    assert middle.axes[0].series[0].plateau == ["B", "C", "D"]
    nothing = along({"A": 0, "B": 3000, "C": 4000}, 3)
    assert "Next to nothing: 1 h." in nothing.axes[0].series[0].text


def test_strata_that_disagree_along_an_axis_are_told_each_by_itself() -> None:
    """Tight joints bear little pressure, cupped ones do not: pooled, or by its trend alone, neither would be told."""
    truth = {"A": 3950, "B": 4000, "C": 4000, "D": 1600, "E": 3200, "F": 4000}
    levels = Levels("pressure_mpa", "Clamp pressure", dict(zip("ABCDEF", (1, 2, 4, 1, 2, 4), strict=True)),
                    lambda x: f"{x:.0f} bar", 4, "bar")  # fmt: skip
    contrasts = tuple(Contrast("", str(x), "4", (Within(a, "C", "tight"), Within(b, "F", "cupped")))
                      for x, a, b in ((1, "A", "D"), (2, "B", "E")))  # fmt: skip
    v = verdict([group(x, exact(*drawn(i, m, 8, 0.04))) for i, (x, m) in enumerate(truth.items())],
                Family("factor:pressure_mpa", "factor", "Compare", contrasts, "pressure_mpa", "fit", axis=True),
                levels=(levels,))  # fmt: skip
    assert not all(o.agree for o in v.results[0].pooled)
    cupped = f"{less(v, 'D', 'F')} and {less(v, 'E', 'F')}"
    assert headline(v) == (
        f"Tight: from 1 bar on within 10 % of 4 bar; cupped: 1 bar and 2 bar are weaker than 4 bar by {cupped} %."
    )


def test_a_flat_series_shows_no_trend_and_a_falling_one_does() -> None:
    flat = along({"A": 4000, "B": 4010, "C": 3990, "D": 4000}, 1, cv=0.1)
    assert headline(flat).startswith("No trend is shown")
    falling = along({"A": 4000, "B": 3500, "C": 3000, "D": 2400}, 1)
    assert headline(falling) == (
        "2 h and above are weaker than 1 h, "
        f"by {less(falling, 'B', 'A')} % at 2 h and {less(falling, 'D', 'A')} % at 4 h."
    )


def less(v: Verdict, x: str, than: str) -> str:
    """By how many percent the mean of one group lies below that of another."""
    assert v.case is not None
    means = [statistics.mean(p.datum.low for p in v.case.row(y).group.pieces) for y in (x, than)]
    return f"{100 * (1 - means[0] / means[1]):.0f}"


def test_levels_that_are_told_from_the_reference_are_named_and_the_others_are_left_open() -> None:
    """No plateau is no answer: what is known of each level is."""
    rising = along({"A": 1400, "B": 2500, "C": 3900, "D": 4100}, 4, cv=0.13)
    assert rising.axes[0].series[0].plateau == ["D"]
    by = f"{less(rising, 'A', 'D')} and {less(rising, 'B', 'D')}"
    told = f"1 h and 2 h are weaker than 4 h by {by} %; 3 h can't be told from it yet"
    assert headline(rising) == f"{told}."
    middle = along({"A": 2000, "B": 3980, "C": 4000, "D": 5200}, 3)
    more = less(middle, "D", "C").removeprefix("-")
    assert headline(middle) == (
        f"From 2 h to 4 h at least 90 % of 3 h; 4 h is stronger by {more} %; "
        f"1 h is weaker by {less(middle, 'A', 'C')} %."
    )
    over = along({"A": 1000, "B": 3000, "C": 4100, "D": 3400}, 4).axes[0].series[0]
    assert "It rises on the whole (p < 0.001), with its highest at 3 h." in over.text
    # All that is in reach of the last level is more: then that it is "at least 90 %" says nothing.
    crushed = along({"A": 2000, "B": 4000, "C": 4100, "D": 3000}, 4)
    assert crushed.axes[0].series[0].plateau == ["B", "C", "D"]
    more = " and ".join(less(crushed, x, "D").removeprefix("-") for x in "BC")
    assert headline(crushed) == (
        f"2 h and 3 h are stronger than 4 h by {more} %; 1 h is weaker by {less(crushed, 'A', 'D')} %."
    )
    first = along({"A": 4000, "B": 3990, "C": 2000, "D": 0}, 1)
    # What is next to nothing takes no percentages, and then its neighbour neither.
    assert headline(first) == "Up to 2 h within 10 % of 1 h; 3 h and 4 h are weaker."


def test_estimates_are_of_one_kind() -> None:
    """With a bound among them all joints are ranked by medians; what never failed by its smallest load."""
    plain = verdict([group("A", exact(*drawn(1, 4000))), group("B", exact(*drawn(2, 3000)))])
    assert plain.case is not None
    assert {e.of for e in estimates(plain.case.setting).values()} == {"mean"}
    values = drawn(1, 4000)
    mixed = verdict([group("A", exact(*values[1:]) + held(values[0])), group("B", exact(*drawn(2, 3000))),
                     group("C", held(5000.0, 5200, 5100))])  # fmt: skip
    assert mixed.case is not None
    found = estimates(mixed.case.setting)
    assert {x: e.of for x, e in found.items()} == {"A": "median", "B": "median", "C": "at least"}
    assert found["C"].value == 5000
    assert found["B"].value == pytest.approx(math.exp(sum(map(math.log, drawn(2, 3000))) / 6), rel=1e-6)
    for e in found.values():
        assert e.low is None or (e.high is not None and e.low < e.value < e.high)


def test_ranking_names_whom_each_leader_beats() -> None:
    groups = [group(x, exact(*drawn(i, m, 8, 0.05))) for i, (x, m) in
              enumerate({"A": 4000, "B": 2000, "C": 3950, "D": 2050}.items())]  # fmt: skip
    v = verdict(groups)
    beaten = {(j.first, j.second) if j.outcome is Outcome.BETTER else (j.second, j.first)
              for j in judged(v) if j.outcome in (Outcome.BETTER, Outcome.WORSE)}  # fmt: skip
    assert beaten == {("A", "B"), ("A", "D"), ("C", "B"), ("C", "D")}
    assert headline(v) == "Glue A and glue C hold more than glue B and glue D."
    alike = [group(x, exact(*drawn(i, 4000, 5, 0.2))) for i, x in enumerate("ABC")]
    assert headline(verdict(alike)) == "None of the 3 treatments is told apart from another yet."
    same = [group(x, exact(*drawn(i, 4000, 9, 0.01))) for i, x in enumerate("AB")]
    assert headline(verdict(same)) == "All 2 treatments are the same for practical purposes."
