"""Every case of every reference file, against numbers made with R; a folder of other cases may stand in for ours."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from tests.core.references import along, bounds, few, means, several
from tests.core.references.cases import cases, topics

CHECKS: dict[str, Callable[[Any], None]] = {
    "blocks": means.blocks,
    "censored": bounds.censored,
    "censored_groups": bounds.censored_groups,
    "contrasts": several.contrasts,
    "counts": several.counts,
    "curves": along.curves,
    "factorial": several.factorial,
    "logrank": along.logrank,
    "moderated": few.moderated,
    "nested": means.nested,
    "outliers": several.outliers,
    "plateau": along.plateau,
    "power": means.power,
    "ratios": means.ratios,
    "summary": means.summary,
    "tolerance": several.tolerance,
    "trend": along.trend,
    "welch": means.welch,
}
ALL = [(topic, case) for topic in topics() for case in cases(topic)]


@pytest.mark.parametrize(("topic", "case"), ALL, ids=[f"{t}-{c['name']}" for t, c in ALL])
def test_numbers_agree(topic: str, case: Any) -> None:
    CHECKS[topic](case)


def test_every_topic_has_cases_and_a_check() -> None:
    """Neither an empty folder nor a topic that nobody looks at may pass for agreement."""
    assert set(topics()) == set(CHECKS)
    assert min(len(cases(topic)) for topic in topics()) >= 9
