"""The answers of a batch: its questions, decided and put into words."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import NamedTuple

from adhaero.core.claims.claim import Claim
from adhaero.core.claims.judge import Judge
from adhaero.core.compare.analysis import Row
from adhaero.core.compare.lasting import Lasted
from adhaero.core.inference import Inference
from adhaero.core.plan.document import Plan
from adhaero.core.quantity import Dimension
from adhaero.core.questions.decide import DECIDERS, decide, parts
from adhaero.core.questions.propose import asked, lacks
from adhaero.core.questions.question import OWN, Answer, Line, Question, QuestionKind, Standing, has_base, has_factors
from adhaero.core.questions.study import Study
from adhaero.core.units import Units
from adhaero.core.wording.evidence import evidence
from adhaero.core.wording.preview import asks
from adhaero.core.wording.render import render, render_parts
from adhaero.core.wording.say import Say, three_digits
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.answer_data import Asked, asked_of


@dataclass(frozen=True)
class AnswerRow:
    """A row of an answer's table: a level by name with its standing, pieces, figure, and share of what it is held
    against. Figures are in the base unit of the comparison; ``text`` is the figure as the sentence says it.
    """

    name: str
    within: str
    letters: list[str]
    n: int
    fallen: int
    unbroken: int
    figure: float | None
    text: str
    at_least: bool
    standing: Standing
    share: float | None
    low: float | None
    high: float | None
    counts: dict[str, int]


@dataclass(frozen=True)
class AnswerView:
    """The answer to one question. ``lacks`` says what is missing for it, where it cannot be given."""

    id: str
    question: str
    kind: QuestionKind
    of: str
    text: str
    as_seen: bool
    late: bool
    table: list[AnswerRow]
    against: str
    claims: list[Claim]
    evidence: list[str]
    caveats: list[str]
    lacks: list[str]


class Told(NamedTuple):
    """How figures are written: in which units, of which dimension, and money in which currency."""

    units: Units
    dimension: Dimension
    currency: str = ""

    def say(self, study: Study, inference: Inference, *, in_time: bool) -> Say:
        """How things of a study are called."""
        show = partial(self.units.text, dimension=Dimension.TIME if in_time else self.dimension)
        return Say(study, show, show, lambda cost: f"{three_digits(cost):g} {self.currency}".strip(), inference)


def answers(
    record: BatchRecord, rows: Sequence[Row], passed: Mapping[str, str], told: Told, cost: Mapping[str, float],
    lasted: Collection[Lasted],
) -> list[AnswerView]:  # fmt: skip
    """Return the answers to a plan's questions, in their order. ``passed`` is how pieces (by code) came out by
    the plan's rule, ``cost`` what a joint of a treatment (by letter) costs, ``lasted`` how long pieces were whole.
    """
    own = asked_of(record, list({r.group.letter: r for r in rows}.values()), passed, cost)
    return [_view(q, n, record.plan, own, told, lasted) for n, q in enumerate(asked(record.plan))]


def _view(q: Question, place: int, plan: Plan, own: Asked, told: Told, lasted: Collection[Lasted]) -> AnswerView:
    wanting = lacks(q, plan)
    words = q.words or (plan.question if place == 0 and not plan.questions else "") or asks(q, plan)
    in_time = q.kind is QuestionKind.HOW_LONG_DOES_IT_HOLD
    if in_time and not lasted:
        wanting = [*wanting, "No piece has a time yet: note how long each one held."]
    if not _able(q, own.study) or (in_time and not lasted):
        return AnswerView(q.id, words, q.kind, q.of, "", False, q.late, [], "", [], [], [], wanting)
    study = own.lasting(lasted) if in_time else own.priced(q.of) if q.kind is QuestionKind.IS_IT_WORTH_IT else own.study
    inference = Inference(plan.assumptions.alpha, plan.assumptions.matters, plan.assumptions.power)
    judge, say = Judge(study, inference), told.say(study, inference, in_time=in_time)
    a, apart = decide(q, study, judge), parts(q, study, judge)
    text = render_parts(say, q.within, apart) if apart else render(say, a)
    rows = [_row(a, x, own, say) for x in a.lines]
    # Each part has a base of its own: no heading can name one for all of them.
    against = _against(a, say) if len({x.base for _, x in apart}) < 2 else ""
    return AnswerView(q.id, words, q.kind, q.of, text, text.startswith("As seen"), q.late, rows, against,
                      list(a.claims), evidence(say, a), _caveats(a), wanting)  # fmt: skip


def _able(q: Question, study: Study) -> bool:
    """Whether all that a question names is there: a plan may have lost a level or a factor that was asked about."""
    if q.kind not in DECIDERS or not has_factors(q, {f.key for f in study.factors}):
        return False
    return has_base(q, {x.id for x in study.factor(q.of).levels})


def _against(a: Answer, say: Say) -> str:
    """What the shares of a table are of; empty where they are of nothing that has a name."""
    q = a.question
    if q.along and q.against in ("", OWN):
        return f"its own {say.state(q.along, a.base)}" if a.base else ""
    return say.name(q.of, a.base) if any(x.id == a.base for x in say.study.factor(q.of).levels) else a.base


def _row(a: Answer, x: Line, own: Asked, say: Say) -> AnswerRow:
    q, study = a.question, own.study
    inner = q.within or q.along
    within = study.factor(inner).level(x.within).text if inner and x.within else ""
    letters = own.letters({q.of: x.level, **({inner: x.within} if within else {})})
    return AnswerRow(
        study.factor(q.of).level(x.level).text, within, letters, x.n, x.fallen, x.unbroken, x.figure,
        say.figure(x) if x.n else "", x.at_least, x.standing, x.ratio, x.ratio_low, x.ratio_high, dict(x.counts),
    )  # fmt: skip


def _caveats(a: Answer) -> list[str]:
    """What could overturn the answer: most pieces failed in the wood."""
    told = sum(x.told for x in a.lines)
    wood = sum(x.in_wood for x in a.lines)
    if told and wood > told / 2 and a.question.kind is not QuestionKind.HOW_DOES_IT_FAIL:
        return [f"{wood} of {told} pieces failed in the wood, so this mostly compares wood."]
    return []
