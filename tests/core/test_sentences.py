"""Sentences against the figures that they speak of: numbers are read back, and nothing contradicts another."""

from __future__ import annotations

import math
import random
import re

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from adhaero.core.compare.analysis import analyse
from adhaero.core.compare.axis import Levels
from adhaero.core.compare.data import Group, Piece
from adhaero.core.compare.estimates import estimates
from adhaero.core.compare.outcome import Outcome
from adhaero.core.compare.planned import Judged
from adhaero.core.compare.saying import over_in_words, said
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


def told(v: Verdict) -> str:
    """The first comparison in words."""
    assert v.case is not None
    r = v.results[0]
    return said(v.case, r.family, r.comparisons[0])


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
    assert v.case is not None
    texts = [said(v.case, r.family, j) for r in v.results for j in r.comparisons] + [c.text for c in v.caveats]
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


def test_a_treatment_that_never_failed_is_told_by_its_bound() -> None:
    a, b = group("A", exact(*drawn(1, 1000)), control=True), group("B", held(*drawn(2, 2500)))
    v = verdict([a, b])
    (j,) = judged(v)
    assert j.outcome is Outcome.BETTER
    assert re.search(r"glue B holds at least [\d.]+ times as much as glue A: none of it failed", told(v))
    back = verdict([group("B", held(*drawn(2, 2500)), control=True), group("A", exact(*drawn(1, 1000)))])
    assert "at most" in told(back)
    assert "of which none failed" in told(back)
    early = verdict([a, group("C", held(*drawn(3, 500)))])
    assert judged(early)[0].outcome is Outcome.UNKNOWN
    assert "can't tell yet; none of glue C failed" in told(early)
    both = verdict([group("A", held(*drawn(1, 900)), control=True), group("B", held(*drawn(2, 900)))])
    assert "can't tell yet" in told(both)


def test_against_nothing_there_is_no_percentage() -> None:
    v = verdict([group("A", apart(5), control=True), group("B", exact(*drawn(1, 3000, 5)))])
    assert told(v).startswith("glue B is stronger than glue A (5 of 5 held against 0 of 5")
    assert "%" not in told(v)
    kept = verdict([group("A", apart(2) + exact(*drawn(4, 2000, 4)), control=True),
                    group("B", exact(*drawn(1, 3000)))], zero=False)  # fmt: skip
    assert judged(kept)[0].ratio == pytest.approx(1.5, abs=0.2), "those that fell apart count apart"


def test_all_in_the_wood_is_said_of_the_wood() -> None:
    v = verdict([group("A", exact(*drawn(1, 4000)), control=True, mode="wood-deep"),
                 group("B", exact(*drawn(2, 2000)), mode="wood-deep")])  # fmt: skip
    assert "compares the wood, not the glue" in told(v)


def test_strata_are_pooled_or_all_told() -> None:
    """Over three woods; where one of them has no ratio it is left out and counted; where none has, all are told."""
    groups = [group(x, exact(*drawn(i, m))) for i, (x, m) in
              enumerate({"A": 4000, "B": 2000, "C": 3000, "D": 1500, "E": 5000}.items())]  # fmt: skip
    pairs = [Within("B", "A", "ash"), Within("D", "C", "oak"), Within("F", "E", "elm")]
    v = verdict([*groups, group("F", apart(4))], family(*pairs, strata="wood"))
    (over,) = v.results[0].pooled
    assert over.left_out == ("elm",)
    assert v.case is not None
    assert "over 2 of 3 woods" in over_in_words(v.case, v.results[0].family, over)
    assert over.ratio == pytest.approx(0.5, rel=0.15)
    none = [group(x, apart(4)) for x in "BD"] + [g for g in groups if g.letter in "AC"]
    gone = verdict(none, family(*pairs[:2], strata="wood"))
    assert not gone.results[0].pooled
    assert [j.outcome for j in judged(gone)] == [Outcome.WORSE] * 2


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
