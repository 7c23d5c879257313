"""Answers as text: one teller for each kind of question."""

from __future__ import annotations

from collections.abc import Callable

from adhaero.core.questions.question import Answer, Kind
from adhaero.core.wording import comparing, counting, holding
from adhaero.core.wording.say import Say

TELLERS: dict[Kind, Callable[[Say, Answer], str]] = {
    Kind.WHICH_IS_BEST: comparing.best, Kind.BETTER_THAN: comparing.better, Kind.DOES_IT_MATTER: comparing.matters,
    Kind.DOES_IT_DEPEND: comparing.depends, Kind.IS_IT_WORTH_IT: comparing.worth,
    Kind.HOW_MUCH_IS_ENOUGH: holding.enough, Kind.WHAT_IS_LEFT: holding.left, Kind.DOES_IT_LAST: holding.left,
    Kind.CLOSE_TO_SOLID: holding.solid, Kind.DOES_IT_PASS: counting.passes, Kind.HOW_DOES_IT_FAIL: counting.fails,
    Kind.HOW_LONG_DOES_IT_HOLD: counting.survives, Kind.HOW_STRONG: counting.strong,
}  # fmt: skip


def render(say: Say, a: Answer) -> str:
    """Return the answer in at most three sentences."""
    return TELLERS[a.question.kind](say, a)
