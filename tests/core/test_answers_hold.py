"""Answers to random studies of every kind: no claim against another, no figure that its table does not have."""

from __future__ import annotations

import random
import re

import pytest
from benchmarks.truth import MARGIN, K, figures_apart, made, overwhelming_untold

from adhaero.core.claims.claim import contradictions
from adhaero.core.claims.judge import Judge
from adhaero.core.inference import Inference
from adhaero.core.questions.decide import DECIDERS, decide
from adhaero.core.questions.question import QuestionKind
from adhaero.core.wording.render import render
from adhaero.core.wording.say import MOST_SENTENCES, MOST_SIGNS, Say, three_digits

KINDS = sorted(k for k in DECIDERS if k is not K.HOW_LONG_DOES_IT_HOLD)


@pytest.mark.parametrize("kind", KINDS)
def test_sentence_table_and_claims_agree(kind: QuestionKind) -> None:
    rng = random.Random(f"held {kind}")
    for _ in range(12):
        m = made(kind, rng)
        inference = Inference(margin=MARGIN)
        a = decide(m.question, m.study, Judge(m.study, inference))
        say = Say(m.study, lambda v: f"{three_digits(v):,.10g} N", inference=inference)
        text = render(say, a)
        assert contradictions(a.claims) == []
        assert overwhelming_untold(m, a) == [], text
        told = re.split(r"(?<=[.?])\s+(?=[A-Z“\d])", text)
        assert [s for s in told if len(s) > MOST_SIGNS] == []
        assert len(told) <= MOST_SENTENCES, text
        assert figures_apart(a, text, say) == [], text
        assert re.search(r"\d", text) or not any(x.figure for x in a.lines), text


@pytest.mark.parametrize("kind", KINDS)
def test_the_order_of_factors_decides_nothing(kind: QuestionKind) -> None:
    rng = random.Random(f"order {kind}")
    for _ in range(3):
        m = made(kind, rng)
        turned = type(m.study)(**{**{k: getattr(m.study, k) for k in ("cells", "solid", "solid_by", "cost")},
                                  "factors": m.study.factors[::-1]})  # fmt: skip
        answers = [decide(m.question, s, Judge(s, Inference(margin=MARGIN))) for s in (m.study, turned)]
        assert {(x.level, x.within, x.standing) for x in answers[0].lines} == {
            (x.level, x.within, x.standing) for x in answers[1].lines
        }
