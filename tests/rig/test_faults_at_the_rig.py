"""No fault at the rig ends as an exact load that is none: each at three rates and two paces (`benchmarks`)."""

from __future__ import annotations

import pytest
from benchmarks.faults_at_the_rig import FAULTS, PACES_S, RATES_HZ, clean, played, row

NEVER_EXACT = {"stands_with_its_counter", "stands_while_counting", "drops_out_at_the_break", "clipped",
               "another_capacity", "another_unit"}  # fmt: skip


@pytest.mark.parametrize("fault", FAULTS)
@pytest.mark.parametrize("rate", RATES_HZ)
def test_what_is_called_exact_is_and_limits_hold_the_truth(fault: str, rate: int) -> None:
    for pace in PACES_S if rate < 1000 else ("fast",):
        found = row(FAULTS[fault], rate, PACES_S[pace], draws=3 if rate < 1000 else 2)
        assert (found.false, found.outside) == (0, 0), (pace, found)
        assert not (fault in NEVER_EXACT and found.kinds["exact"]), (pace, found)
        assert fault != "two_peaks" or found.asked == found.kinds.total(), "which of the two counts is asked"


@pytest.mark.parametrize(("rate", "pace"), [(10, "slow"), (80, "slow"), (80, "fast"), (1000, "fast")])
def test_a_clean_pull_is_exact(rate: int, pace: str) -> None:
    found = row(clean, rate, PACES_S[pace], draws=6 if rate < 1000 else 3)
    assert found.kinds["exact"] == found.kinds.total()


def test_a_slow_rig_at_a_quick_pull_gives_limits() -> None:
    """50 N from one sample to the next: the peak lies between, and it is said why."""
    _, found = played(clean, 10, PACES_S["fast"], 1)
    assert found is not None
    assert (found.kind, found.bound_by) == ("between", "slow")
