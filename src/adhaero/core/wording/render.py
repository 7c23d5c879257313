"""Answers as text: one teller for each kind of question."""

from __future__ import annotations

from collections.abc import Callable

from adhaero.core.questions.question import Answer, QuestionKind
from adhaero.core.wording import comparing, counting, holding
from adhaero.core.wording.say import Say

TELLERS: dict[QuestionKind, Callable[[Say, Answer], str]] = {
    QuestionKind.WHICH_IS_BEST: comparing.best,
    QuestionKind.BETTER_THAN: comparing.better,
    QuestionKind.DOES_IT_MATTER: comparing.matters,
    QuestionKind.DOES_IT_DEPEND: comparing.depends,
    QuestionKind.IS_IT_WORTH_IT: comparing.worth,
    QuestionKind.HOW_MUCH_IS_ENOUGH: holding.enough,
    QuestionKind.WHAT_IS_LEFT: holding.left,
    QuestionKind.DOES_IT_LAST: holding.left,
    QuestionKind.CLOSE_TO_SOLID: holding.solid,
    QuestionKind.DOES_IT_PASS: counting.passes,
    QuestionKind.HOW_DOES_IT_FAIL: counting.fails,
    QuestionKind.HOW_LONG_DOES_IT_HOLD: counting.survives,
    QuestionKind.HOW_STRONG: counting.strong,
}


def render(say: Say, a: Answer) -> str:
    """Return the answer in at most three sentences."""
    return TELLERS[a.question.kind](say, a)
