"""Claims held against pieces, one pick for each job, and questions judged by something else than the average."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import pytest

from adhaero.core.claims.judge import Judge
from adhaero.core.piece_record import Known
from adhaero.core.questions import is_it_true
from adhaero.core.questions.decide import decide
from adhaero.core.questions.question import Answer, JudgeBy, Question, QuestionKind, Standing
from adhaero.core.questions.study import WOOD, Cell, Factor, Level, Study, Unit
from adhaero.core.statistics.shares import share
from adhaero.core.wording.render import render
from adhaero.core.wording.say import Say, three_digits

FELL = Unit(Known.BELOW, 0.0, 0.0, passed=False)


def pieces(*loads: float, least: float = 0.0, wood: int = 0) -> tuple[Unit, ...]:
    """Pieces of these loads; those of ``least`` or more pass, the first ``wood`` of them broke in the wood."""
    return tuple(
        Unit(Known.EXACT, v, v, WOOD if i < wood else "in-glue", passed=v >= least if least else None)
        for i, v in enumerate(loads)
    )


def study(cells: Mapping[str, Sequence[Unit]], cost: Mapping[str, float] | None = None) -> Study:
    """Cells by "glue" or "glue job"."""
    crossed = [tuple(name.split()) for name in cells]
    keys = ("glue", "job")[: len(crossed[0])]
    factors = tuple(
        Factor(k, k, tuple(Level(x, x) for x in dict.fromkeys(c[i] for c in crossed))) for i, k in enumerate(keys)
    )
    made = tuple(
        Cell(dict(zip(keys, c, strict=True)), tuple(own)) for c, own in zip(crossed, cells.values(), strict=True)
    )
    return Study(factors, made, cost=cost or {})


def asked(q: Question, s: Study) -> tuple[Answer, str]:
    a = decide(q, s, Judge(s))
    return a, render(Say(s, lambda v: f"{three_digits(v):g} N", money=lambda c: f"{c:g} ct"), a)


def standings(a: Answer) -> dict[str, Standing]:
    return {f"{x.level} {x.within}".strip(): x.standing for x in a.lines}


CLAIM = Question(QuestionKind.IS_IT_TRUE, "glue", "A", share=0.9)


@pytest.mark.parametrize(
    ("loads", "verdict", "start"),
    [
        ((1001.0, 1012, 989, 1003, 995, 1004), is_it_true.TRUE, "True: B (1000 N) holds 100 %"),
        ((701.0, 712, 689, 703, 695, 704), is_it_true.UNTRUE, "Not true: B (701 N) holds 70 %"),
        ((1000.0, 700, 1250, 820, 1100, 600), is_it_true.NOT_SHOWN, "Not shown: B (912 N) holds 91 %"),
    ],
)
def test_a_claim_is_true_not_true_or_not_shown(loads: tuple[float, ...], verdict: str, start: str) -> None:
    a, text = asked(CLAIM, study({"A": pieces(1000, 1010, 990, 1005, 995, 1000), "B": pieces(*loads)}))
    assert a.verdict == verdict
    assert text.startswith(start)
    assert "of A (1000 N); at least 90 % was claimed." in text
    assert ("B could still be either" in text) == (verdict == is_it_true.NOT_SHOWN)


def test_one_level_that_falls_short_makes_a_claim_untrue_and_a_fallen_one_too() -> None:
    base, good = pieces(1000, 1010, 990, 1005), pieces(1001, 1011, 991, 1006)
    a, text = asked(CLAIM, study({"A": base, "B": good, "C": pieces(500, 510, 490, 505)}))
    assert a.verdict == is_it_true.UNTRUE
    assert standings(a) == {"A": Standing.BASE, "B": Standing.ENOUGH, "C": Standing.TOO_LITTLE}
    assert text.index("C (501 N)") < text.index("B (1000 N)"), "what decides comes first"
    a, text = asked(CLAIM, study({"A": base, "B": (FELL,) * 4}))
    assert a.verdict == is_it_true.UNTRUE
    assert "B fell apart (all 4)" in text


def test_more_than_the_base_can_be_claimed() -> None:
    more = Question(QuestionKind.IS_IT_TRUE, "glue", "A", share=1.2)
    base = pieces(1000, 1010, 990, 1005, 995)
    assert asked(more, study({"A": base, "B": pieces(1500, 1510, 1490, 1505, 1495)}))[0].verdict == is_it_true.TRUE
    assert asked(more, study({"A": base, "B": pieces(1100, 1110, 1090, 1105, 1095)}))[0].verdict == is_it_true.UNTRUE


def test_too_few_pieces_bear_out_nothing() -> None:
    a, text = asked(CLAIM, study({"A": pieces(1000), "B": pieces(1000)}))
    assert a.verdict == is_it_true.NOT_SHOWN
    assert text.startswith("As seen: ")


JOBS = Question(QuestionKind.WHICH_FOR_WHAT, "glue", within="job")
LIMIT = 600.0


def jobs() -> dict[str, tuple[Unit, ...]]:
    """Epoxy passes everywhere, PVA indoors alone, paste nowhere, hide indoors but for one piece."""
    return {
        "epoxy in": pieces(1300, 1310, 1320, least=LIMIT), "epoxy out": pieces(900, 910, 920, least=LIMIT),
        "pva in": pieces(1100, 1110, 1120, least=LIMIT), "pva out": pieces(300, 310, 900, least=LIMIT),
        "paste in": pieces(210, 200, 190, least=LIMIT), "paste out": (FELL,) * 3,
    }  # fmt: skip


def test_the_cheapest_of_those_that_passed_is_picked_for_each_job() -> None:
    a, text = asked(JOBS, study(jobs(), {"epoxy": 31.0, "pva": 4.0, "paste": 1.0}))
    assert standings(a) == {
        "pva in": Standing.TOP, "epoxy in": Standing.PASSES, "paste in": Standing.FAILS, "epoxy out": Standing.TOP,
        "pva out": Standing.FAILS, "paste out": Standing.FAILS,
    }  # fmt: skip
    assert text.startswith(
        "Use pva for in (1110 N, 3 of 3 passed, 4 ct a joint); epoxy for out (910 N, 3 of 3 passed, 31 ct"
    )
    assert "the cheapest of those of which every piece passed your rule" in text
    assert "paste passed nowhere" in text


def test_without_prices_the_strongest_is_picked_and_where_nothing_passed_it_is_said() -> None:
    a, text = asked(JOBS, study(jobs()))
    assert standings(a)["epoxy in"] is Standing.TOP
    assert "the strongest of those" in text
    only = {k: v for k, v in jobs().items() if k != "epoxy out"} | {"epoxy out": pieces(100, 110, 120, least=LIMIT)}
    _, text = asked(JOBS, study(only))
    assert "nothing passed for out" in text
    few = {"epoxy in": pieces(1300, least=LIMIT), "pva in": pieces(1100, least=LIMIT)}
    _, text = asked(JOBS, study(few))
    assert text == "There is not enough to pick from for in."


def judged(by: JudgeBy, cells: Mapping[str, Sequence[Unit]], against: str = "") -> tuple[Answer, str]:
    kind = QuestionKind.BETTER_THAN if against else QuestionKind.WHICH_IS_BEST
    return asked(Question(kind, "glue", against, judge_by=by), study(cells))


def test_judged_by_the_weakest_piece_the_order_is_another() -> None:
    """The first of them by average has the weakest piece of all."""
    a, text = judged(
        JudgeBy.WEAKEST, {"A": pieces(1500, 1400, 300), "B": pieces(900, 910, 920), "C": pieces(850, 990, 880)}
    )
    assert [x.level for x in a.lines] == ["B", "C", "A"]
    assert a.lines[0].standing is Standing.TOP
    assert text.startswith("By the weakest piece, B (900 N) comes first, then C (850 N) and A (300 N)")
    assert "On average: A (1070 N), B (910 N) and C (907 N)." in text
    a, text = judged(JudgeBy.WEAKEST, {"A": (*pieces(1500, 1400), FELL), "B": pieces(900, 910, 920)})
    assert "fell apart of A (1 of 3)" in text
    assert a.lines[0].level == "B"


def test_judged_by_breaks_in_the_wood_counts_are_compared() -> None:
    cells = {"A": pieces(*[900.0] * 8, wood=8), "B": pieces(*[1000.0] * 8, wood=0), "C": pieces(*[950.0] * 8, wood=7)}
    a, text = judged(JudgeBy.WOOD, cells)
    assert standings(a) == {"A": Standing.TOP, "C": Standing.UNCLEAR, "B": Standing.WEAKER}
    exact = share(7, 8)
    line = next(x for x in a.lines if x.level == "C")
    assert (line.ratio_low, line.ratio_high) == (exact.low, exact.high)
    assert text.startswith(
        "By breaks in the wood: A 8 of 8, C 7 of 8 and B 0 of 8 broke in the wood. B less often than A."
    )
    against, _ = judged(JudgeBy.WOOD, cells, "B")
    assert standings(against) == {"A": Standing.STRONGER, "C": Standing.STRONGER, "B": Standing.BASE}


def test_judged_by_a_limit_what_passed_counts() -> None:
    cells = {"A": pieces(900, 910, 100, least=LIMIT), "B": pieces(700, 710, 720, least=LIMIT)}
    a, text = judged(JudgeBy.LIMIT, cells)
    assert [x.level for x in a.lines] == ["B", "A"]
    assert text.startswith("By your rule: B 3 of 3 and A 2 of 3 passed. So few pieces show no clear difference.")
    unseen = {"A": pieces(900, 910, 920), "B": pieces(700, 710, 720)}
    assert judged(JudgeBy.LIMIT, unseen)[1].startswith("By your rule nothing can be said: no piece was looked at.")
