"""The rack of weights: totals by hand, what can still be reached, and what a break says."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from adhaero.core.breaking.rack import NEWTONS_PER_G, Rack, Step, check_step, checked, ended, hanging, reachable
from adhaero.core.observation import Kind
from adhaero.core.refusal import Refusal

START = datetime(2026, 11, 26, 10, tzinfo=UTC)
RACK = Rack(((10_000, 2), (5_000, 2), (2_000, 3)), hanger_g=1_400)
G = 9.80665 / 1000


def steps(*masses_kg: float) -> list[Step]:
    return [Step(round(1000 * m), START + timedelta(seconds=10 * i)) for i, m in enumerate(masses_kg)]


def test_the_largest_and_what_can_be_reached_by_hand() -> None:
    """2 x 10, 2 x 5, 3 x 2 kg and a hanger of 1.4 kg: 37.4 kg at most; with 30 kg on it, 32, 34 and 36 come next."""
    assert RACK.largest_g == 37_400
    h = hanging(RACK, steps(10, 10, 5, 5))
    assert [m - RACK.hanger_g for m in h.next_g] == [32_000, 34_000, 36_000]
    assert not h.runs_out
    everything = hanging(RACK, steps(10, 10, 5, 5, 2, 2, 2))
    assert (everything.total_g, everything.runs_out, everything.next_g) == (37_400, True, ())


def test_a_log_of_steps_by_hand() -> None:
    """Hanger 1.4, add 10, add 10, take 10 off, add 5, add 2.5 kg: 18.9 kg, and 21.4 kg were borne."""
    rack = Rack(((10_000, 2), (5_000, 1), (2_500, 1)), hanger_g=1_400)
    h = hanging(rack, steps(10, 10, -10, 5, 2.5))
    assert h.total_g == 18_900
    assert h.borne_g == 21_400, "10 kg were taken off a piece that was whole under 21.4 kg"
    broke = ended(h, "adding", START + timedelta(seconds=40), G, 0.0)
    assert (broke.kind, broke.low_n) == (Kind.HELD, pytest.approx(21.4 * 9.80665)), (
        "it broke under less than it had borne"
    )


def test_the_weight_of_a_gram() -> None:
    assert pytest.approx(9.80665 / 1000, rel=1e-15) == NEWTONS_PER_G


def test_held_18_7_broke_on_21_2_by_hand() -> None:
    rack = Rack(((10_000, 1), (5_000, 1), (2_500, 2)), hanger_g=1_200)
    h = hanging(rack, steps(10, 5, 2.5, 2.5))
    broke = ended(h, "adding", START, G, 0.0)
    assert broke.kind is Kind.BETWEEN
    assert (broke.low_n, broke.high_n) == (pytest.approx(18.7 * 9.80665), pytest.approx(21.2 * 9.80665))


def test_a_break_while_it_hung_says_for_how_long() -> None:
    """Last mass at 0:30, broke at 1:45: held for 75 s. A lever of 4 and a tare of 12 N are in the load."""
    h = hanging(RACK, steps(10, 5, 5, 2))
    broke = ended(h, "hanging", START + timedelta(seconds=105), 4 * G, 12.0)
    assert (broke.kind, broke.held_s) == (Kind.HELD, 75.0)
    assert broke.low_n == pytest.approx(4 * 23.4 * 9.80665 + 12)
    assert ended(h, "holds", START, G, 0.0).kind is Kind.AT_LEAST


def test_a_filled_vessel_by_hand() -> None:
    """17.3 kg weighed after the break: 169.7 N; at an arm of 80 mm that is a moment of 13.57 N m."""
    broke = ended(hanging(RACK, []), "filled", START, G, 0.0, 17_300)
    assert broke.kind is Kind.EXACT
    assert broke.low_n == pytest.approx(169.7, abs=0.05)
    assert (broke.low_n or 0) * 0.08 == pytest.approx(13.57, abs=0.01)
    with pytest.raises(Refusal):
        ended(hanging(RACK, []), "filled", START, G, 0.0)


def test_a_break_at_the_first_weight_was_borne_by_nothing() -> None:
    broke = ended(hanging(RACK, steps(10)), "adding", START, G, 12.0)
    assert (broke.low_n, broke.high_n) == (0.0, pytest.approx(11.4 * 9.80665 + 12))


@given(st.dictionaries(st.integers(1, 40), st.integers(1, 3), min_size=1, max_size=4))
def test_what_can_be_reached_is_every_choice(kinds: dict[int, int]) -> None:
    choices = product(*(range(n + 1) for n in kinds.values()))
    every = {sum(m * k for m, k in zip(kinds, c, strict=True)) for c in choices} - {0}
    assert reachable(list(kinds.items())) == every


@pytest.mark.parametrize(
    ("rack", "field"),
    [
        (Rack(((10_000, 1), (10_000, 2))), "weights"),
        (Rack(((0, 1),)), "weights.0"),
        (Rack(((10, 0),)), "weights.0"),
        (Rack(hanger_g=-1), "hanger_g"),
        (Rack(vessel_g=2_000_000), "vessel_g"),
    ],
)
def test_a_rack_that_makes_no_sense(rack: Rack, field: str) -> None:
    with pytest.raises(Refusal) as refused:
        checked(rack)
    assert refused.value.problems[0].field == field


@pytest.mark.parametrize("wrong", [(10, 10, 10), (-5,), (3,), (5, -5, -5)])
def test_a_weight_that_is_not_there(wrong: tuple[float, ...]) -> None:
    *before, last = steps(*wrong)
    for n, step in enumerate(before):
        check_step(RACK, before[:n], step.mass_g)
    with pytest.raises(Refusal):
        check_step(RACK, before, last.mass_g)


def test_what_hangs_hangs_though_the_rack_was_changed() -> None:
    h = hanging(Rack(((20_000, 1),), hanger_g=1_400), steps(10, 5))
    assert (h.total_g, h.borne_g, h.left) == (16_400, 11_400, ((20_000, 1),))
