"""Rules for pieces, the words for sizes, and formulas that are reckoned with their units."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from adhaero.core.compare.passing import Passed, Seen, judge, reaches
from adhaero.core.formula import Formula, check, dimension_of, reckon
from adhaero.core.piece_record import Datum, Known
from adhaero.core.plan.judging import Judging, Limit, PassRule, Section, WordScale, check_judging, judging_from
from adhaero.core.quantity import Dimension
from adhaero.core.refusal import Problems, Refusal


def seen(low: float, high: float | None = None, known: Known = Known.EXACT, **more: object) -> Seen:
    d = Datum(known, low, low if high is None else high)
    values = {"wood_pct": None, "mode": "in-glue", **more}
    return Seen({"strength": d, "load": d}, **values)  # type: ignore[arg-type]


def test_bounds_leave_open_what_they_do_not_tell() -> None:
    assert reaches(Datum(Known.AT_LEAST, 6, math.inf), 5) is Passed.YES
    assert reaches(Datum(Known.AT_LEAST, 4, math.inf), 5) is Passed.OPEN
    assert reaches(Datum(Known.BETWEEN, 4, 6), 5) is Passed.OPEN
    assert reaches(Datum(Known.BETWEEN, 3, 4), 5) is Passed.NO
    assert reaches(Datum(Known.BELOW, 0, 0), 5) is Passed.NO
    assert reaches(Datum(Known.NONE, math.nan, math.nan), 5) is Passed.OPEN


def test_every_condition_has_to_hold() -> None:
    j = Judging(PassRule(least=5, wood_pct=50, modes=("wood-deep", "in-glue")))
    assert judge(j, seen(6, wood_pct=60)) is Passed.YES
    assert judge(j, seen(6, wood_pct=40)) is Passed.NO
    assert judge(j, seen(6)) is Passed.OPEN, "nobody looked at its faces"
    assert judge(j, seen(4)) is Passed.NO, "it fails whatever its faces say"
    assert judge(j, seen(6, wood_pct=60, mode="interface")) is Passed.NO
    assert judge(j, seen(0, known=Known.BELOW, mode=None)) is Passed.NO
    assert judge(j, seen(math.nan, known=Known.NONE, mode=None)) is None


def test_shares_of_solid_wood_and_of_the_usable_limit() -> None:
    """Control breaks at 2,000 N and gives for good from 1,400 N: 980 N are 49 % of the one and 70 % of the other."""
    usable = Limit("gives for good", 1400, "load", usable=True)
    assert judge(Judging(PassRule(of_usable=0.7), (usable,)), seen(980)) is Passed.YES
    assert judge(Judging(PassRule(of_usable=0.71), (usable,)), seen(980)) is Passed.NO
    assert judge(Judging(PassRule(of_solid=0.49)), seen(980, solid=2000.0)) is Passed.YES
    assert judge(Judging(PassRule(of_solid=0.50)), seen(980, solid=2000.0)) is Passed.NO
    assert judge(Judging(PassRule(of_solid=0.50)), seen(980)) is Passed.OPEN


@settings(deadline=None, max_examples=80)
@given(st.floats(0.1, 100), st.floats(0.1, 100), st.floats(0.1, 100))
def test_asking_for_more_never_lets_more_pass(figure: float, least: float, more: float) -> None:
    asked = [judge(Judging(PassRule(least=x)), seen(figure)) for x in sorted((least, least + more))]
    assert asked in ([Passed.YES, Passed.YES], [Passed.YES, Passed.NO], [Passed.NO, Passed.NO])


def test_words_for_sizes_do_not_depend_on_the_side() -> None:
    words = WordScale(0.03, 0.10, 0.25)
    assert [words.word(r) for r in (1.02, 0.95, 0.8, 0.5, 2.0)] == [
        "about equal",
        "slightly",
        "clearly",
        "far",
        "far",
    ]
    for ratio in (0.5, 0.85, 0.93, 0.99):
        assert words.word(ratio) == words.word(1 / ratio)


def test_a_formula_with_credit_for_wood() -> None:
    """8.0 MPa with half of its face in the wood give 8.8 MPa."""
    credit = Formula("with credit", "raw * (1 + 0.2 × wood)")
    assert reckon(credit, {"raw": 8.0, "wood": 0.5}, Dimension.STRESS) == pytest.approx(8.8)
    assert dimension_of(credit) is Dimension.STRESS
    assert reckon(credit, {"raw": 8.0}, Dimension.STRESS) is None, "nobody looked at its face"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("raw + wood", "adds a stress and a plain number"),
        ("raw + load", "adds a stress and a force"),
        ("raw * load", "no figure here"),
        ("raw * foam", "'foam' is not known"),
        ("raw +", "cannot be read"),
        ("open('x')", "something else"),
        ("raw if wood else load", "something else"),
        ("raw ** 900", "something else"),
        ("", "is empty"),
    ],
)
def test_formulas_that_say_nothing_are_refused(text: str, said: str) -> None:
    with pytest.raises(Refusal) as refused:
        check(Formula("own", text))
    assert said in refused.value.problems[0].message


def test_units_are_carried_through() -> None:
    assert dimension_of(Formula("x", "load / area")) is Dimension.STRESS
    assert reckon(Formula("x", "load / area"), {"load": 1000, "area": 500}, Dimension.STRESS) == 2
    assert dimension_of(Formula("x", "raw / load"), raw=Dimension.FORCE) is Dimension.NUMBER
    assert reckon(Formula("x", "-raw^2 / raw + 3 * raw"), {"raw": 5}, Dimension.STRESS) == 10
    assert reckon(Formula("x", "2 * raw"), {"raw": 36.9}, Dimension.MOMENT) == pytest.approx(73.8)
    assert reckon(Formula("x", "raw / wood"), {"raw": 5, "wood": 0}, Dimension.STRESS) is None
    assert dimension_of(Formula("x", "raw / minutes"), ["minutes"]) is Dimension.STRESS


def test_what_is_wrong_with_a_rule_names_its_field() -> None:
    p = Problems()
    wrong = Judging(PassRule(least=-1, wood_pct=120, of_usable=0.5, modes=("sideways",)),
                    (Limit("", 0), Limit("b", 2, usable=True), Limit("c", 3, usable=True)),
                    words=WordScale(0.3, 0.1, 0.2), formula=Formula("x", "raw + wood"),
                    section=Section("height", 0))  # fmt: skip
    check_judging(wrong, (), Dimension.STRESS, ("width", "depth"), p)
    assert {x.field for x in p.found} >= {
        "judging.rule.least", "judging.rule.wood_pct", "judging.rule.modes", "judging.limits", "judging.limits.0.name",
        "judging.limits.0.value", "judging.words", "judging.formula.text", "judging.section.size",
        "judging.section.power",
    }  # fmt: skip
    assert judging_from({}) == Judging()


def test_a_limit_is_reached_by_what_stands_on_it() -> None:
    """A piece that bears just what is asked passes; the least bit below it does not."""
    assert reaches(Datum(Known.EXACT, 5.0, 5.0), 5.0) is Passed.YES
    assert reaches(Datum(Known.EXACT, 4.999999, 4.999999), 5.0) is Passed.NO
    assert reaches(Datum(Known.BETWEEN, 5.0, 6.0), 5.0) is Passed.YES
    assert judge(Judging(PassRule()), seen(1.0)) is Passed.YES, "what asks for nothing is passed by all"
