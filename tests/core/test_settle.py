"""How many more pieces settle a claim: the promised chance is held by simulation, with the scatter only estimated."""

from __future__ import annotations

import math
from statistics import fmean, median

import numpy as np
import pytest

from adhaero.core.claims.claim import Claim, Relation
from adhaero.core.claims.judge import Judge, Pair
from adhaero.core.claims.settle import chance, more_of_each, to_be_alike, to_be_shown
from adhaero.core.piece_record import Known
from adhaero.core.plan.power import power
from adhaero.core.questions.study import Cell, Factor, Level, Study, Unit


def judged(*samples: list[float]) -> tuple[Claim, Judge]:
    """The second sample against the first."""
    ids = "ABCDEFGH"[: len(samples)]
    cells = [
        Cell({"glue": x}, tuple(Unit(Known.EXACT, v, v) for v in own)) for x, own in zip(ids, samples, strict=True)
    ]
    study = Study((Factor("glue", "glue", tuple(Level(x, x) for x in ids)),), tuple(cells))
    judge = Judge(study)
    first, second = (study.sample({"glue": x}) for x in "BA")
    (claim,) = judge.claims([Pair("B", "A", [first], [second])])
    return claim, judge


def drawn(mean: float, n: int, cv: float, rng: np.random.Generator) -> list[float]:
    return (mean * (1 + cv * rng.normal(0, 1, n))).tolist()


def exactly(mean: float, n: int, cv: float) -> list[float]:
    z = np.linspace(-1, 1, n)
    return (mean * (1 + cv * (z - z.mean()) / z.std(ddof=1))).tolist()


def test_the_promised_chance_holds_on_average_over_what_the_pilot_says_of_the_scatter() -> None:
    """Pilots of five and five; each promises 80 %. What each number would really reach, by the noncentral t."""
    rng, cv, size = np.random.default_rng(7), 0.15, math.log(1.2)
    reached = []
    for _ in range(400):
        s = float(np.sqrt((rng.chisquare(4) + rng.chisquare(4)) / 8)) * cv
        n = to_be_shown(size, round(s, 4), 8.0, 0.05, 0.8)
        assert n is not None
        reached.append(power(n, size, cv, 0.05, both_tails=False))
    assert fmean(reached) > 0.77
    assert median(reached) > 0.8


def test_with_a_scatter_that_is_known_it_is_the_usual_number() -> None:
    assert chance(17, 0.1, 0.1, 1e6, 0.05) == pytest.approx(power(17, 0.1, 0.1, 0.05, both_tails=False), abs=1e-3)


@pytest.mark.parametrize(("ratio", "settled"), [(0.88, Relation.WEAKER), (1.0, Relation.ALIKE)])
def test_with_so_many_more_it_is_mostly_settled(ratio: float, settled: Relation) -> None:
    claim, judge = judged(exactly(100, 5, 0.1), exactly(100 * ratio, 5, 0.1))
    assert claim.relation is Relation.UNCLEAR
    more = more_of_each(claim, judge)
    assert more is not None
    rng = np.random.default_rng(3)
    ended = sum(
        judged(drawn(100, 5 + more, 0.1, rng), drawn(100 * ratio, 5 + more, 0.1, rng))[0].relation is settled
        for _ in range(200)
    )
    assert ended > 145, "eight of ten, and more where the scatter was thought larger than it is"


def test_near_to_what_matters_no_number_settles_it() -> None:
    assert more_of_each(*judged(exactly(100, 5, 0.1), exactly(90.5, 5, 0.1))) is None
    assert more_of_each(*judged(exactly(100, 5, 0.1), exactly(50, 5, 0.1))) is None, "it is settled"
    assert to_be_alike(0.01, 0.9, 4.0, 0.05, 0.8) is None, "too scattered for any number that could be made"
