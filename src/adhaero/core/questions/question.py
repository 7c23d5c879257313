"""A question about a study, and the parts of its answer. No text is written here."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from adhaero.core.claims.claim import Claim


class QuestionKind(StrEnum):
    """The kinds of question."""

    WHICH_IS_BEST = "which_is_best"
    BETTER_THAN = "better_than"
    IS_IT_TRUE = "is_it_true"
    DOES_IT_MATTER = "does_it_matter"
    HOW_MUCH_IS_ENOUGH = "how_much_is_enough"
    WHAT_IS_LEFT = "what_is_left"
    DOES_IT_LAST = "does_it_last"
    HOW_LONG_DOES_IT_HOLD = "how_long_does_it_hold"
    DOES_IT_PASS = "does_it_pass"
    CLOSE_TO_SOLID = "close_to_solid"
    HOW_STRONG = "how_strong"
    HOW_DOES_IT_FAIL = "how_does_it_fail"
    DOES_IT_DEPEND = "does_it_depend"
    IS_IT_WORTH_IT = "is_it_worth_it"
    WHICH_FOR_WHAT = "which_for_what"


class Standing(StrEnum):
    """What an answer says of one level."""

    TOP = "top"
    STRONGER = "stronger"
    WEAKER = "weaker"
    ALIKE = "alike"
    UNCLEAR = "unclear"
    NOT_ENOUGH_DATA = "not_enough_data"
    NOTHING_LEFT = "nothing_left"
    LEFT_OUT = "left_out"
    STILL_TO_BREAK = "still_to_break"
    NOT_COMPARED = "not_compared"
    ENOUGH = "enough"
    TOO_LITTLE = "too_little"
    PASSES = "passes"
    FAILS = "fails"
    LASTS = "lasts"
    LOSES = "loses"
    GAINS = "gains"
    BASE = "base"


class JudgeBy(StrEnum):
    """What a level is judged by: average, weakest piece, how many broke in the wood, how many passed the rule."""

    AVERAGE = "average"
    WEAKEST = "weakest"
    WOOD = "wood"
    LIMIT = "limit"


SOLID, OWN = "solid", "own"
"""What a question may be against, apart from a level: matching solid wood, and each level itself before."""


@dataclass(frozen=True)
class Question:
    """What is asked: ``of`` a factor, ``along`` the factor in which a level has its own counterpart (dry beside
    soaked), ``against`` a level, ``SOLID``, ``OWN`` or nothing, ``within`` the factor in whose levels it is answered
    separately. ``share`` is the part that counts, ``words`` are the user's own; a ``late`` one was asked after results
    were seen.
    """

    kind: QuestionKind
    of: str
    against: str = ""
    along: str = ""
    within: str = ""
    share: float = 0.9
    figure: str = "strength"
    judge_by: str = "average"
    words: str = ""
    late: bool = False
    id: str = field(default="", compare=False)


NEED_BASE = (QuestionKind.BETTER_THAN, QuestionKind.DOES_IT_DEPEND, QuestionKind.IS_IT_TRUE)
OF_ITSELF = (QuestionKind.WHAT_IS_LEFT, QuestionKind.DOES_IT_LAST)
"""Kinds that need a level to hold others against, and kinds that can hold each level against itself before."""


NEED_WITHIN = (QuestionKind.DOES_IT_DEPEND, QuestionKind.WHICH_FOR_WHAT)
"""Kinds that are asked over the levels of another factor: what it may depend on, the jobs."""


def has_base(q: Question, levels: Collection[str]) -> bool:
    """Return whether the reference of a question exists and suits its kind."""
    if q.against == OWN:
        return q.kind in OF_ITSELF and bool(q.along)
    if q.against == SOLID:
        return q.kind is QuestionKind.CLOSE_TO_SOLID
    return q.against in levels if q.against else q.kind not in NEED_BASE


def has_factors(q: Question, keys: Collection[str]) -> bool:
    """Whether the factors a question names are there, none of them twice. Only what is held against itself goes along
    a factor, and then it is answered over all.
    """
    named = [x for x in (q.of, q.along, q.within) if x]
    if q.kind in NEED_WITHIN and not q.within:
        return False
    together = not q.along or (q.kind in OF_ITSELF and not q.within)
    return together and q.of in keys and set(named) <= set(keys) and len(set(named)) == len(named)


class Picture(StrEnum):
    """What shows an answer best."""

    PIECES = "plot"
    RANKED = "ranked"
    ALONG = "curve"
    KEPT = "kept"
    LINES = "lines"
    LASTING = "lasting"
    FAILURES = "failures"


MANY = 12
"""Levels from which on a ranked list says more than a row of pieces for each."""


def picture_of(q: Question, levels: int) -> Picture:
    """Return the picture of a question that is asked of so many levels."""
    match q.kind:
        case QuestionKind.HOW_MUCH_IS_ENOUGH:
            return Picture.ALONG
        case QuestionKind.WHAT_IS_LEFT | QuestionKind.DOES_IT_LAST:
            return Picture.ALONG if not q.along and q.kind is QuestionKind.DOES_IT_LAST else Picture.KEPT
        case QuestionKind.HOW_LONG_DOES_IT_HOLD:
            return Picture.LASTING
        case QuestionKind.HOW_DOES_IT_FAIL:
            return Picture.FAILURES
        case QuestionKind.DOES_IT_DEPEND | QuestionKind.WHICH_FOR_WHAT:
            return Picture.LINES
    return Picture.RANKED if levels > MANY else Picture.PIECES


@dataclass(frozen=True)
class Line:
    """One row of an answer: a ``level`` (``within`` a level of another factor), its standing, ``n`` pieces that held,
    ``fallen`` ones, its ``figure`` (``at_least``: a lower bound; ``high``: the upper end where steps leave one), the
    ``ratio`` to what it is held against with its interval, and ``counts`` by outcome where things are counted.
    ``mean_low`` and ``mean_high`` are the interval of the mean, ``bears`` what 19 of 20 such pieces hold, as figures.
    """

    level: str
    standing: Standing
    within: str = ""
    n: int = 0
    fallen: int = 0
    unbroken: int = 0
    figure: float | None = None
    at_least: bool = False
    high: float | None = None
    lowest: float | None = None
    ratio: float | None = None
    ratio_low: float | None = None
    ratio_high: float | None = None
    mean_low: float | None = None
    mean_high: float | None = None
    bears: float | None = None
    in_wood: int = 0
    told: int = 0
    counts: Mapping[str, int] = field(default_factory=dict)
    cost: float | None = None


@dataclass(frozen=True)
class Answer:
    """What is known of a question: its lines in the order in which they are told, the claims they rest on, the level
    that others are held against (``base``), and what is decided of the whole (``verdict``).
    """

    question: Question
    lines: tuple[Line, ...]
    claims: tuple[Claim, ...] = ()
    base: str = ""
    verdict: str = ""

    @property
    def so_far(self) -> bool:
        """Whether some pieces are still to break."""
        return any(x.standing is Standing.STILL_TO_BREAK or x.unbroken for x in self.lines)

    def of(self, *standings: Standing) -> list[Line]:
        """The lines of these standings, in order."""
        return [x for x in self.lines if x.standing in standings]
