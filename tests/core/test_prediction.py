"""Guesses against what came out, by hand."""

from __future__ import annotations

import pytest

from adhaero.core.compare.prediction import in_words, score


def test_order_and_size_of_a_guess() -> None:
    s = score({"A": 100, "B": 80, "C": 60}, {"A": 90, "B": 95, "C": 50})
    assert s is not None
    assert (s.treatments, s.pairs_right, s.pairs) == (3, 2, 3)
    assert s.off == pytest.approx((10 / 90 + 15 / 95 + 10 / 50) / 3)
    assert in_words(s) == "Your guess put 2 of 3 pairs in the right order; its loads were off by 16 % on average."


def test_ties_count_as_half() -> None:
    s = score({"A": 100, "B": 100}, {"A": 90, "B": 95})
    assert s is not None
    assert s.pairs_right == 0.5


def test_nothing_to_compare() -> None:
    assert score({"A": 100}, {"A": 90, "B": 95}) is None
    assert score({"A": 100, "B": 50}, {"A": 90}) is None
    assert score({}, {"A": 90, "B": 95}) is None
    assert score({"A": 100, "B": 50}, {"A": 90, "B": 0}) is None
