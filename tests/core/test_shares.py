"""Counts of pieces: closed forms and worked examples, not what the code printed."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.statistics.adjust import holm
from adhaero.core.statistics.shares import fisher, share


def test_none_of_n_has_the_closed_form_bound() -> None:
    for n in (1, 5, 20):
        s = share(0, n)
        assert (s.share, s.low) == (0, 0)
        assert s.high == pytest.approx(1 - 0.025 ** (1 / n))
        assert share(n, n).low == pytest.approx(0.025 ** (1 / n))


def test_of_no_pieces_anything_is_possible() -> None:
    assert (share(0, 0).share, share(0, 0).low, share(0, 0).high) == (None, 0, 1)


@given(st.integers(1, 40), st.data())
def test_the_interval_is_exact(n: int, data: st.DataObject) -> None:
    hits = data.draw(st.integers(1, n))
    low = share(hits, n).low

    def at_least(p: float) -> float:
        return math.fsum(math.comb(n, k) * p**k * (1 - p) ** (n - k) for k in range(hits, n + 1))

    assert at_least(low) == pytest.approx(0.025, rel=1e-6)


def test_fisher_on_four_against_four() -> None:
    # 3 of 4 against 1 of 4: P(3 or 4 hits of 8 with 4 in all, or as extreme) = (16 + 1 + 16 + 1) / 70.
    assert fisher(share(3, 4), share(1, 4)) == pytest.approx(34 / 70)
    assert fisher(share(4, 4), share(0, 4)) == pytest.approx(2 / 70)


def test_holm_adjusts_the_smallest_most_and_keeps_the_order() -> None:
    assert holm([0.01, 0.04, 0.03]) == pytest.approx([0.03, 0.06, 0.06])
    assert holm([0.5, 0.9]) == [1.0, 1.0]
    assert holm([]) == []
