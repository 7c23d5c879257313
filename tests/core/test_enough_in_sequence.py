"""How much is enough goes outwards from the sound end, and stops at the first level that is not shown to be enough."""

from __future__ import annotations

import pytest

from adhaero.core.claims.claim import Basis, Relation
from adhaero.core.claims.judge import Judge, Pair
from adhaero.core.inference import Inference
from adhaero.core.piece_record import Known
from adhaero.core.questions.decide import decide
from adhaero.core.questions.how_much_is_enough import SCATTERED_END
from adhaero.core.questions.question import Answer, Question, QuestionKind, Standing
from adhaero.core.questions.study import Cell, Factor, Level, Sample, Study, Unit
from adhaero.core.wording.render import render
from adhaero.core.wording.say import Say

INFERENCE = Inference()
ENOUGH, UNCLEAR, LITTLE = Standing.ENOUGH, Standing.UNCLEAR, Standing.TOO_LITTLE


def exact(*values: float) -> tuple[Unit, ...]:
    return tuple(Unit(Known.EXACT, v, v) for v in values)


def fell(n: int) -> tuple[Unit, ...]:
    return tuple(Unit(Known.BELOW, 0.0, 1.0) for _ in range(n))


def held(n: int, at: float) -> tuple[Unit, ...]:
    return tuple(Unit(Known.AT_LEAST, at) for _ in range(n))


def study(**levels: tuple[Unit, ...]) -> Study:
    """Clamp times: ``h4=pieces`` is four hours."""
    made = tuple(Level(k, f"{k[1:]} h", 3600.0 * float(k[1:])) for k in levels)
    cells = tuple(Cell({"clamp": k}, units) for k, units in levels.items())
    return Study((Factor("clamp", "Clamp time", made),), cells)


def answer(s: Study, **asked: str) -> Answer:
    return decide(Question(QuestionKind.HOW_MUCH_IS_ENOUGH, "clamp", **asked), s, Judge(s, INFERENCE))


def standings(a: Answer) -> dict[str, Standing]:
    return {x.level: x.standing for x in a.lines}


def test_beyond_a_level_that_is_open_none_is_called_enough() -> None:
    tight, open_ = exact(9.9, 10.0, 10.1, 10.0, 9.95, 10.05), exact(8.4, 10.2, 9.5, 8.2, 10.4, 8.9)
    s = study(h1=exact(9.8, 9.9, 10.0, 9.9, 9.85, 9.95), h4=open_, h24=tight)
    assert standings(answer(s)) == {"h24": ENOUGH, "h4": UNCLEAR, "h1": UNCLEAR}
    # Held against the middle one, which is asked for, each side goes by itself.
    wide = study(h1=tight, h4=tight, h24=tight)
    assert set(standings(answer(wide, against="h4")).values()) == {ENOUGH}


def test_an_end_of_crushed_pieces_is_no_base_and_that_is_said() -> None:
    even = exact(9.6, 10.3, 9.9, 10.2, 9.8, 10.1)
    crushed = exact(9.7, 3.1, 10.2, 4.0, 9.9, 2.8)
    s = study(h1=exact(6.0, 6.3, 5.8, 6.1, 6.2, 5.9), h4=even, h24=crushed)
    a = answer(s)
    assert a.base == "h4"
    assert a.verdict == SCATTERED_END
    assert standings(a)["h1"] is LITTLE
    text = render(Say(s, lambda v: f"{v:.3g} MPa", lambda v: f"{v / 3600:g} h", lambda c: f"{c:g}", INFERENCE), a)
    assert "24 h scatters too much to hold others against" in text
    assert answer(study(h1=even, h4=exact(9.7, 10.4, 10, 10.3, 9.9, 10.2), h24=even)).verdict == ""


@pytest.mark.parametrize(("fallen", "end"), [(0, ENOUGH), (6, LITTLE)])
def test_what_fell_apart_decides_though_the_rest_held_as_much(fallen: int, end: Standing) -> None:
    even = exact(9.6, 10.3, 9.9, 10.2, 9.8, 10.1, 10.0, 9.95)
    s = study(h1=even[fallen:] + exact(10.1, 9.9)[: 2 if fallen else 0] + fell(fallen), h24=even)
    a = answer(s)
    assert standings(a)["h1"] is end
    assert (a.claims[0].basis is Basis.FALLEN) == bool(fallen)


def test_two_failures_among_pieces_that_only_held_are_judged_by_order() -> None:
    mostly_held = exact(6.0, 6.5) + held(6, 8.0)
    s = study(h1=mostly_held, h24=exact(7.4, 7.6, 7.5, 7.7, 7.3, 7.45))
    (claim,) = Judge(s, INFERENCE).claims([_pair(s)])
    assert claim.basis is Basis.ORDER
    enough = study(h1=exact(6.0, 6.5, 6.2, 6.1) + held(2, 8.0), h24=exact(9.4, 9.6, 9.5, 9.7, 9.3, 9.45))
    (claim,) = Judge(enough, INFERENCE).claims([_pair(enough)])
    assert (claim.basis, claim.relation) == (Basis.BOUNDS, Relation.WEAKER)


def _pair(s: Study) -> Pair:
    def sample(level: str) -> list[Sample]:
        return [s.sample({"clamp": level})]

    return Pair("h1", "h24", sample("h1"), sample("h24"))
