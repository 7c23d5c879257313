"""Glue-ups as units: a worked example with figures given."""

from __future__ import annotations

import pytest

from adhaero.core.statistics.nested import nested


def test_four_glueups_of_three_sections() -> None:
    means = (415, 485, 355, 450)
    values = [m + d for m in means for d in (-25, 0, 25)]
    found = nested(values, [g for g in "ABCD" for _ in range(3)])
    assert found is not None
    assert (found.pieces, found.parents) == (12, 4)
    assert found.se_parents == pytest.approx(27.7, abs=0.05)
    assert found.se_pieces < found.se_parents


@pytest.mark.parametrize("parents", ["AAAA", "ABCD"])
def test_nothing_to_tell_without_shared_parents(parents: str) -> None:
    assert nested([1.0, 2.0, 3.0, 4.0], list(parents)) is None
