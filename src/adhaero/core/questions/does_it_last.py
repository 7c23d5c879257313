"""Does it last: time runs forward, and each level is held against itself earlier."""

from __future__ import annotations

from adhaero.core.claims.judge import Judge
from adhaero.core.questions import what_is_left
from adhaero.core.questions.question import Answer, Question
from adhaero.core.questions.study import Study


def decide(q: Question, study: Study, judge: Judge) -> Answer:
    """Return the loss of each level over the span, or of each age against the first where there is one level."""
    return what_is_left.decide(q, study, judge)
