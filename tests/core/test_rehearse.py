"""Rehearsals: what counts as right follows from the truth that was chosen, and their counts from known chances."""

from __future__ import annotations

import math
from dataclasses import replace
from random import Random
from statistics import fmean, stdev

import pytest

from adhaero.core.claims.judge import Judge
from adhaero.core.inference import Inference
from adhaero.core.plan.power import power
from adhaero.core.questions.decide import decide
from adhaero.core.questions.question import OWN, SOLID, Question, QuestionKind, Standing
from adhaero.core.questions.rehearse import Outcome, Truth, break_all, key, needed, outcome, rehearse
from adhaero.core.questions.study import Cell, Factor, Level, Sample, Study

GLUE = Factor("glue", "glue", tuple(Level(x, x) for x in ("a", "b", "c")))
STATE = Factor("state", "state", (Level("dry", "dry"), Level("wet", "wet")))
TIME = Factor("time", "time", tuple(Level(f"{h} h", f"{h} h", h) for h in (1.0, 2.0, 8.0)))
USUAL = Inference()


def glues(n: int, **means: float) -> tuple[Study, Truth]:
    cells = tuple(Cell({"glue": x}, unbroken=n) for x in means)
    study = Study((replace(GLUE, levels=tuple(Level(x, x) for x in means)),), cells)
    return study, Truth({key({"glue": x}): v for x, v in means.items()}, {}, 0.1)


def test_pieces_are_drawn_about_what_is_expected() -> None:
    study, truth = glues(4000, a=1000, b=500)
    made = break_all(study, truth, Random(3))
    for level, mean in (("a", 1000), ("b", 500)):
        values = made.sample({"glue": level}).values
        assert len(values) == 4000
        assert fmean(values) == pytest.approx(mean, rel=0.01)
        assert stdev(values) / fmean(values) == pytest.approx(0.1, rel=0.04)
    assert not any(c.unbroken for c in made.cells)
    assert len(break_all(study, truth, Random(3), 5).sample({"glue": "a"}).values) == 5


def test_two_glues_are_told_apart_as_often_as_the_power_says() -> None:
    """Two treatments, their scatter nearly the same: right as often as a t test of that size has power."""
    study, truth = glues(6, a=1000, b=800)
    tally = rehearse(
        Question(QuestionKind.BETTER_THAN, "glue", "a"), study, truth, USUAL, Random(1), runs=600, seconds=60
    )
    expected = power(6, math.log(1.25), 0.1, 0.05)
    assert tally.runs == 600
    assert tally.right / tally.runs == pytest.approx(expected, abs=0.06)
    assert tally.wrong <= 3


@pytest.mark.parametrize(
    ("kind", "against", "along"),
    [
        (QuestionKind.WHICH_IS_BEST, "", ""),
        (QuestionKind.BETTER_THAN, "a", ""),
        (QuestionKind.DOES_IT_MATTER, "", ""),
        (QuestionKind.DOES_IT_MATTER, "a", ""),
    ],
)
def test_without_a_difference_hardly_any_answer_is_wrong(kind: QuestionKind, against: str, along: str) -> None:
    study, truth = glues(5, a=1000, b=1000, c=1000)
    tally = rehearse(Question(kind, "glue", against, along), study, truth, USUAL, Random(2), runs=200, seconds=60)
    assert tally.wrong <= 0.05 * 200 + 6


def test_far_apart_and_many_pieces_is_always_right() -> None:
    study, truth = glues(12, a=1000, b=600, c=300)
    for q in (Question(QuestionKind.WHICH_IS_BEST, "glue"), Question(QuestionKind.BETTER_THAN, "glue", "b")):
        assert rehearse(q, study, truth, USUAL, Random(5), runs=30, seconds=60).right == 30
    assert needed(Question(QuestionKind.WHICH_IS_BEST, "glue"), study, truth, USUAL, Random(5)) == 3
    close, near = glues(5, a=1000, b=985)
    assert (
        needed(Question(QuestionKind.BETTER_THAN, "glue", "a"), close, replace(near, cv=0.4), USUAL, Random(5)) == 3
    ), "what is within the margin need not be told apart"


def crossed(q: Question, n: int, means: dict[tuple[str, str], float], solid: float = 0.0) -> tuple[Outcome, Standing]:
    """One rehearsal with hardly any scatter: the outcome and the standing of the last line."""
    other = STATE if ("a", "wet") in means else TIME
    cells = tuple(Cell({"glue": a, other.key: b}, unbroken=n) for a, b in means)
    levels = tuple(Level(x, x) for x in dict.fromkeys(a for a, _ in means))
    study = Study((replace(GLUE, levels=levels), other), cells, {"": Sample(unbroken=n)} if solid else {})
    truth = Truth({key({"glue": a, other.key: b}): v for (a, b), v in means.items()}, {"": solid}, 0.005)
    made = break_all(study, truth, Random(4))
    a = decide(q, made, Judge(made))
    return outcome(q, a, made, truth, USUAL), a.lines[-1].standing


def test_every_kind_knows_its_truth() -> None:
    kept = Question(QuestionKind.WHAT_IS_LEFT, "glue", OWN, along="state")
    wet = {("a", "dry"): 1000.0, ("a", "wet"): 950.0, ("b", "dry"): 800.0, ("b", "wet"): 400.0}
    assert crossed(kept, 4, wet) == (Outcome.RIGHT, Standing.LOSES)
    depends = Question(QuestionKind.DOES_IT_DEPEND, "glue", "a", within="state")
    assert crossed(depends, 4, wet)[0] is Outcome.RIGHT
    each = Question(QuestionKind.WHICH_IS_BEST, "glue", within="state")
    turned = {("a", "dry"): 1000.0, ("a", "wet"): 300.0, ("b", "dry"): 800.0, ("b", "wet"): 400.0}
    assert crossed(each, 4, turned)[0] is Outcome.RIGHT
    solid = Question(QuestionKind.CLOSE_TO_SOLID, "glue", SOLID)
    assert crossed(solid, 4, wet, solid=970.0)[0] is Outcome.RIGHT
    times = {("a", "1 h"): 300.0, ("a", "2 h"): 950.0, ("a", "8 h"): 1000.0}
    enough = Question(QuestionKind.HOW_MUCH_IS_ENOUGH, "time")
    times = {(a, b.replace(" h", ".0 h")): v for (a, b), v in times.items()}
    assert crossed(enough, 4, times)[0] is Outcome.RIGHT


def test_an_answer_that_is_not_so_is_wrong() -> None:
    """Decided of one study, held against the truth of another."""
    study, truth = glues(5, a=1000, b=500, c=490)
    made = break_all(study, truth, Random(6))
    other = Truth({key({"glue": x}): v for x, v in {"a": 500, "b": 1000, "c": 1000}.items()}, {}, 0.1)
    for q in (Question(QuestionKind.WHICH_IS_BEST, "glue"), Question(QuestionKind.BETTER_THAN, "glue", "a"),
              Question(QuestionKind.CLOSE_TO_SOLID, "glue", SOLID)):  # fmt: skip
        held = replace(made, solid={"": made.sample({"glue": "a"})}) if q.against == SOLID else made
        a = decide(q, held, Judge(held))
        assert outcome(q, a, held, replace(truth, solid={"": 1000.0}), USUAL) is Outcome.RIGHT
        assert outcome(q, a, held, replace(other, solid={"": 300.0}), USUAL) is Outcome.WRONG
