"""Answers as text: one teller for each kind of question."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from adhaero.core.questions import judged_by
from adhaero.core.questions.question import Answer, JudgeBy, QuestionKind
from adhaero.core.wording import claiming, comparing, counting, holding, judging_by
from adhaero.core.wording.say import MOST_SENTENCES, MOST_SIGNS, Say, joined, upper_first

TELLERS: dict[QuestionKind, Callable[[Say, Answer], list[str]]] = {
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
    QuestionKind.IS_IT_TRUE: claiming.claimed,
    QuestionKind.WHICH_FOR_WHAT: claiming.for_what,
}


def render(say: Say, a: Answer) -> str:
    """Return the answer in at most three sentences."""
    return " ".join(_teller(a)(say, a))


def _teller(a: Answer) -> Callable[[Say, Answer], list[str]]:
    otherwise = a.question.judge_by != JudgeBy.AVERAGE and a.question.kind in judged_by.CAN
    return judging_by.told if otherwise else TELLERS[a.question.kind]


def render_parts(say: Say, factor: str, parts: Sequence[tuple[str, Answer]]) -> str:
    """Return the first sentence of the answer in each level of ``factor``, up to three, and where there are more."""
    told, more = parts[:MOST_SENTENCES], parts[MOST_SENTENCES:]
    if more:
        told, more = parts[: MOST_SENTENCES - 1], parts[MOST_SENTENCES - 1 :]
    found = []
    for level, a in told:
        text = f"{upper_first(say.place(factor, level))}: {_teller(a)(say, a)[0]}"
        while len(text) > MOST_SIGNS and "; " in text:
            text = text.rpartition("; ")[0] + "."
        found.append(text)
    if more:
        found.append(f"{joined([say.name(factor, level) for level, _ in more])}: see the table.")
    return " ".join(found)
