"""Every answer case, with its factors in either order: standings, figures, and what the text says."""

from __future__ import annotations

import re
from typing import Any

import pytest

from adhaero.core.claims.claim import contradictions
from adhaero.core.questions.decide import DECIDERS
from adhaero.core.questions.question import Line
from adhaero.core.wording.render import TELLERS
from adhaero.core.wording.say import MOST_SENTENCES, MOST_SIGNS
from tests.core.answering import answered, cases, holds, kinds, lines_of

ALL = [(kind, case) for kind in kinds() for case in cases(kind)]


def figures(x: Line) -> list[float]:
    """Every figure that a line gives."""
    found = [x.figure, x.high, x.ratio, x.ratio_low, x.mean_low, x.bears, *map(float, x.counts.values())]
    if x.figure is not None and x.high is not None:
        found.append((x.figure + x.high) / 2)
    return [v for v in found if v is not None]


@pytest.mark.parametrize("turned", [False, True], ids=["as given", "turned"])
@pytest.mark.parametrize(("kind", "case"), ALL, ids=[f"{k}-{c['name']}" for k, c in ALL])
def test_an_answer_says_what_anybody_would(kind: str, case: Any, *, turned: bool) -> None:
    a, text = answered(case, turned=turned)
    expected = case["expected"]
    for key, wanted in expected["relations"].items():
        right = {wanted, *_list(expected.get("also_right", {}).get(key, ()))}
        found = {x.standing.value for x in lines_of(a, key, case)}
        assert found, key
        assert found <= right, f"{key}: {found} instead of {right}; {text}"
    for key, value in expected["figures"].items():
        near = [v for x in lines_of(a, key, case) for v in figures(x)]
        assert any(abs(v - value) <= max(0.02 * abs(value), 0.006) for v in near), (key, value, near, text)
    for key, (low, high) in expected.get("ranges", {}).items():
        near = [v for x in lines_of(a, key, case) for v in figures(x)]
        assert any(low * 0.99 - 1e-9 <= v <= high * 1.01 + 1e-9 for v in near), (key, low, high, near, text)
    missing = [t for t in expected["in_text"] if not holds(text, t)]
    assert missing == [], text
    assert [t for t in expected["not_in_text"] if t.lower() in text.lower()] == [], text
    told = re.split(r"(?<=[.?])\s+(?=[A-Z“\d])", text)
    assert len(told) <= MOST_SENTENCES, text
    assert [s for s in told if len(s) > MOST_SIGNS] == [], text
    assert contradictions(a.claims) == []


def _list(right: Any) -> list[str]:
    return [right] if isinstance(right, str) else list(right)


def test_every_kind_of_which_there_are_cases_has_a_check() -> None:
    assert set(kinds()) <= {k.value for k in DECIDERS}
    assert set(DECIDERS) == set(TELLERS)
    assert min(len(cases(k)) for k in kinds()) >= 4
