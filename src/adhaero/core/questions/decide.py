"""The kinds of question with what decides each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from adhaero.core.claims.judge import Judge
from adhaero.core.questions import (
    better_than,
    close_to_solid,
    does_it_depend,
    does_it_matter,
    does_it_pass,
    how_does_it_fail,
    how_long_does_it_hold,
    how_much_is_enough,
    how_strong,
    is_it_true,
    is_it_worth_it,
    judged_by,
    what_is_left,
    which_for_what,
    which_is_best,
)
from adhaero.core.questions.question import Answer, JudgeBy, Question, QuestionKind
from adhaero.core.questions.study import Study

DECIDERS: dict[QuestionKind, Callable[[Question, Study, Judge], Answer]] = {
    QuestionKind.WHICH_IS_BEST: which_is_best.decide,
    QuestionKind.BETTER_THAN: better_than.decide,
    QuestionKind.DOES_IT_MATTER: does_it_matter.decide,
    QuestionKind.HOW_MUCH_IS_ENOUGH: how_much_is_enough.decide,
    QuestionKind.WHAT_IS_LEFT: what_is_left.decide,
    QuestionKind.DOES_IT_LAST: what_is_left.decide,
    QuestionKind.HOW_LONG_DOES_IT_HOLD: how_long_does_it_hold.decide,
    QuestionKind.DOES_IT_PASS: does_it_pass.decide,
    QuestionKind.CLOSE_TO_SOLID: close_to_solid.decide,
    QuestionKind.HOW_STRONG: how_strong.decide,
    QuestionKind.HOW_DOES_IT_FAIL: how_does_it_fail.decide,
    QuestionKind.DOES_IT_DEPEND: does_it_depend.decide,
    QuestionKind.IS_IT_WORTH_IT: is_it_worth_it.decide,
    QuestionKind.IS_IT_TRUE: is_it_true.decide,
    QuestionKind.WHICH_FOR_WHAT: which_for_what.decide,
}


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return the answer to a question."""
    otherwise = q.judge_by != JudgeBy.AVERAGE and q.kind in judged_by.CAN
    return judged_by.decide(q, study, judge) if otherwise else DECIDERS[q.kind](q, study, judge)


BY_THEMSELVES = (QuestionKind.WHICH_IS_BEST, QuestionKind.DOES_IT_DEPEND, QuestionKind.CLOSE_TO_SOLID,
                 QuestionKind.WHICH_FOR_WHAT)  # fmt: skip
"""Kinds whose sentences name the level that each part is answered within."""


def parts(q: Question, study: Study, judge: Judge) -> list[tuple[str, Answer]]:
    """Return the answer in each level of the factor a question is answered within; none where one sentence tells all.
    Each has a base and a verdict of its own.
    """
    if not q.within or q.kind in BY_THEMSELVES:
        return []
    one, levels = replace(q, within=""), [x.id for x in study.factor(q.within).levels]
    own = {x: study.only(q.within, x) for x in levels}
    return [(x, decide(one, own[x], judge)) for x in levels if own[x].cells]
