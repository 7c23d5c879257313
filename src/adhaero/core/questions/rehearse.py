"""A study broken many times over before it is made: how often its answer would be right, open, or wrong.

Every piece that is not broken yet gets a figure, drawn about what is expected of its treatment; then the question is
decided as it will be with real pieces. What counts as right is known, since the truth was chosen.
"""

from __future__ import annotations

import math
import time
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from random import Random

from adhaero.core.claims.judge import Judge
from adhaero.core.inference import Inference
from adhaero.core.piece_record import Known
from adhaero.core.questions import does_it_depend, does_it_matter
from adhaero.core.questions.decide import decide
from adhaero.core.questions.levels import levels_of
from adhaero.core.questions.question import OWN, Answer, Line, Question, QuestionKind, Standing
from adhaero.core.questions.study import Cell, Sample, Study, Unit

RUNS, SECONDS = 200, 1.6
"""Rehearsals, or as many of them as fit into this time."""
COUNTS = (3, 4, 5, 6, 8, 10, 12, 16, 20, 30)
"""Numbers of pieces per treatment to try when looking for how many are needed."""
TRIED = 60
CAN = (
    QuestionKind.WHICH_IS_BEST, QuestionKind.BETTER_THAN, QuestionKind.DOES_IT_MATTER, QuestionKind.HOW_MUCH_IS_ENOUGH,
    QuestionKind.WHAT_IS_LEFT, QuestionKind.DOES_IT_LAST, QuestionKind.CLOSE_TO_SOLID, QuestionKind.DOES_IT_DEPEND,
    QuestionKind.IS_IT_TRUE,
)  # fmt: skip
"""Kinds whose truth follows from what is expected of each treatment."""
_DOWN = (Standing.WEAKER, Standing.NOTHING_LEFT)


class Outcome(StrEnum):
    """How an answer stands to the truth."""

    RIGHT = "right"
    OPEN = "open"
    WRONG = "wrong"


@dataclass(frozen=True)
class Truth:
    """What is expected: the mean of each cell by its levels (all of them, by factor), of solid pieces by their level,
    and the scatter of single pieces (a CV).
    """

    means: Mapping[tuple[tuple[str, str], ...], float]
    solid: Mapping[str, float]
    cv: float

    def of(self, levels: Mapping[str, str]) -> float:
        """Return the mean of a cell."""
        return self.means[key(levels)]


def key(levels: Mapping[str, str]) -> tuple[tuple[str, str], ...]:
    """Return what a cell is known by."""
    return tuple(sorted(levels.items()))


@dataclass(frozen=True)
class Tally:
    """How many rehearsals there were, and how they ended."""

    runs: int
    right: int
    open: int
    wrong: int


def break_all(study: Study, truth: Truth, rng: Random, n: int | None = None) -> Study:
    """Return the study with every unbroken piece broken; with ``n`` of each, if that is given."""

    def drawn(mean: float, count: int) -> tuple[Unit, ...]:
        # A log-normal of this mean and this CV: no piece breaks below nothing.
        s = math.sqrt(math.log1p(truth.cv**2))
        figures = (mean * math.exp(rng.gauss(0, s) - s * s / 2) for _ in range(count))
        return tuple(Unit(Known.EXACT, v, v) for v in figures)

    cells = tuple(
        Cell(c.levels, c.units + drawn(truth.of(c.levels), c.unbroken if n is None else n)) for c in study.cells
    )
    solid = {k: Sample(s.units + drawn(truth.solid[k], s.unbroken)) for k, s in study.solid.items() if k in truth.solid}
    return replace(study, cells=cells, solid=solid)


def rehearse(
    q: Question, study: Study, truth: Truth, inference: Inference, rng: Random, *, n: int | None = None,
    runs: int = RUNS, seconds: float = SECONDS,
) -> Tally:  # fmt: skip
    """Return how ``runs`` rehearsals ended, or as many as ``seconds`` allow (at least ten)."""
    ended: Counter[Outcome] = Counter()
    begun = time.monotonic()
    while ended.total() < runs and (ended.total() < 10 or time.monotonic() - begun < seconds):
        made = break_all(study, truth, rng, n)
        ended[outcome(q, decide(q, made, Judge(made, inference)), made, truth, inference)] += 1
    return Tally(ended.total(), ended[Outcome.RIGHT], ended[Outcome.OPEN], ended[Outcome.WRONG])


def needed(q: Question, study: Study, truth: Truth, inference: Inference, rng: Random) -> int | None:
    """Return the least of ``COUNTS`` of each with which four of five answers are right; ``None`` if none of them is."""
    low, high = 0, len(COUNTS)
    while low < high:
        middle = (low + high) // 2
        tally = rehearse(q, study, truth, inference, rng, n=COUNTS[middle], runs=TRIED, seconds=SECONDS / 4)
        low, high = (low, middle) if tally.right >= inference.power * tally.runs else (middle + 1, high)
    return COUNTS[low] if low < len(COUNTS) else None


def outcome(q: Question, a: Answer, study: Study, truth: Truth, inference: Inference) -> Outcome:
    """Return how an answer stands to the truth."""
    margin = inference.margin
    match q.kind:
        case QuestionKind.WHICH_IS_BEST:
            return _worst(_best(own, a, truth, margin) for own in _heights(q, study, truth))
        case QuestionKind.DOES_IT_MATTER if not a.base:
            spread = max(max(h.values()) - min(h.values()) for _, h in _heights(q, study, truth))
            told = {does_it_matter.YES: True, does_it_matter.NO: False}.get(a.verdict)
            return _held(told, spread >= math.log1p(margin))
        case QuestionKind.DOES_IT_DEPEND:
            base = a.base
            ratios: dict[str, list[float]] = {}
            for _, h in _heights(q, study, truth):
                for level, height in h.items():
                    ratios.setdefault(level, []).append(height - h[base])
            differ = max(max(r) - min(r) for r in ratios.values()) >= math.log1p(margin)
            return _held({does_it_depend.DIFFERS: True, does_it_depend.SAME: False}.get(a.verdict), differ)
        case (
            QuestionKind.HOW_MUCH_IS_ENOUGH
            | QuestionKind.WHAT_IS_LEFT
            | QuestionKind.DOES_IT_LAST
            | QuestionKind.IS_IT_TRUE
        ):
            return _worst(_reaches(x, r, math.log(q.share), margin) for x, r in _ratios(q, a, study, truth))
    return _worst(_stands(x, r, margin) for x, r in _ratios(q, a, study, truth))


def _held(told: bool | None, so: bool) -> Outcome:
    return Outcome.OPEN if told is None else Outcome.RIGHT if told == so else Outcome.WRONG


def _worst(found: Iterator[Outcome]) -> Outcome:
    ends = set(found)
    return Outcome.WRONG if Outcome.WRONG in ends else Outcome.OPEN if Outcome.OPEN in ends else Outcome.RIGHT


def _heights(q: Question, study: Study, truth: Truth) -> Iterator[tuple[str, dict[str, float]]]:
    """How high each level truly lies (logarithms, over all strata), once for each level it is answered within."""
    for at in levels_of(q, study, Judge(study)):
        within = next(iter(at.at.values()), "")
        yield within, {x: _height(truth, [{**at.at, **s, at.of.key: x} for s in at.strata]) for x in at.ids}


def _height(truth: Truth, cells: list[dict[str, str]]) -> float:
    known = [math.log(truth.means[key(c)]) for c in cells if key(c) in truth.means]
    return math.fsum(known) / len(known) if known else -math.inf


def _best(own: tuple[str, dict[str, float]], a: Answer, truth: Truth, margin: float) -> Outcome:
    within, heights = own
    best = max(heights.values())
    near = {x for x, h in heights.items() if h >= best + math.log1p(-margin)}
    truly = {x for x, h in heights.items() if h >= best - 1e-9}
    lines = [x for x in a.lines if x.within == within]
    top = {x.level for x in lines if x.standing is Standing.TOP}
    out = {x.level for x in lines if x.standing in _DOWN}
    if truly & out or (top and not top & near):
        return Outcome.WRONG
    return Outcome.RIGHT if top <= near and set(heights) - near <= out else Outcome.OPEN


def _ratios(q: Question, a: Answer, study: Study, truth: Truth) -> Iterator[tuple[Line, float]]:
    """The lines of an answer with what they truly have of what they are held against (a logarithm)."""
    for x in a.lines:
        if x.standing is Standing.BASE:
            continue
        inner = q.within or q.along
        fixed = {q.of: x.level, **({inner: x.within} if inner and x.within else {})}
        cells = [dict(c.levels) for c in study.cells if all(c.levels.get(k) == v for k, v in fixed.items())]
        if q.kind is QuestionKind.CLOSE_TO_SOLID:
            solid = [truth.solid.get(c.get(study.solid_by, ""), 0.0) for c in cells]
            if all(solid):
                yield x, _height(truth, cells) - math.fsum(map(math.log, solid)) / len(solid)
            continue
        against = {inner: a.base} if q.along and q.against in ("", OWN) else {q.of: a.base}
        yield x, _height(truth, cells) - _height(truth, [{**c, **against} for c in cells])


def _stands(x: Line, ratio: float, margin: float) -> Outcome:
    far = abs(ratio) >= math.log1p(margin) - 1e-9
    if x.standing is Standing.STRONGER:
        return Outcome.RIGHT if ratio > 0 else Outcome.WRONG
    if x.standing in _DOWN:
        return Outcome.RIGHT if ratio < 0 else Outcome.WRONG
    if x.standing is Standing.ALIKE:
        return Outcome.WRONG if far else Outcome.RIGHT
    return Outcome.OPEN if far else Outcome.RIGHT


def _reaches(x: Line, ratio: float, share: float, margin: float) -> Outcome:
    """Whether a level that is said to reach the share, or not to, truly does."""
    enough = ratio >= share - 1e-9
    if x.standing is Standing.GAINS:
        return Outcome.RIGHT if ratio > 0 else Outcome.WRONG
    if x.standing in (Standing.ENOUGH, Standing.LASTS):
        return Outcome.RIGHT if enough else Outcome.WRONG
    if x.standing in (Standing.TOO_LITTLE, Standing.LOSES):
        return Outcome.WRONG if enough else Outcome.RIGHT
    # What lies close to the share need not be told.
    return Outcome.OPEN if abs(ratio - share) >= math.log1p(margin) else Outcome.RIGHT
