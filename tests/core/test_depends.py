"""Whether an answer depends on another factor: seldom said where it does not, and said where it clearly does."""

from __future__ import annotations

import random

from adhaero.core.claims.judge import Judge
from adhaero.core.inference import Inference
from adhaero.core.piece_record import Known
from adhaero.core.questions.decide import decide
from adhaero.core.questions.does_it_depend import DIFFERS
from adhaero.core.questions.question import Question, QuestionKind
from adhaero.core.questions.study import Cell, Factor, Level, Study, Unit

INFERENCE = Inference()


def study(rng: random.Random, n: int, turned: float = 1.0) -> Study:
    """Two glues in three woods, which differ; the ratio of the glues is the same in all but the last (``turned``)."""
    glues = tuple(Level(x, x) for x in ("A", "B"))
    woods = tuple(Level(x, x) for x in ("ash", "oak", "pine"))
    cells = []
    for wood, height in zip(woods, (10.0, 14.0, 7.0), strict=True):
        for glue, factor in zip(glues, (1.0, 0.8 * (turned if wood.id == "pine" else 1.0)), strict=True):
            values = [height * factor * rng.lognormvariate(0, 0.15) for _ in range(n)]
            cells.append(Cell({"glue": glue.id, "wood": wood.id}, tuple(Unit(Known.EXACT, v, v) for v in values)))
    return Study((Factor("glue", "Glue", glues), Factor("wood", "Wood", woods)), tuple(cells))


def differs(s: Study) -> bool:
    question = Question(QuestionKind.DOES_IT_DEPEND, "glue", "A", within="wood")
    return decide(question, s, Judge(s, INFERENCE)).verdict == DIFFERS


def test_one_ratio_is_seldom_said_to_differ_with_few_pieces_either() -> None:
    rng = random.Random(4)
    assert sum(differs(study(rng, 3)) for _ in range(200)) <= 16


def test_a_ratio_that_is_half_in_one_wood_is_said_to_differ() -> None:
    rng = random.Random(5)
    assert sum(differs(study(rng, 8, turned=0.5)) for _ in range(40)) >= 36
