"""The answers of a batch: its questions, decided and put into words."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import NamedTuple

from adhaero.core.claims.claim import Claim
from adhaero.core.claims.judge import Judge
from adhaero.core.compare.analysis import Row
from adhaero.core.compare.as_study import Shared
from adhaero.core.compare.lasting import Lasted
from adhaero.core.inference import Inference
from adhaero.core.plan.document import Plan
from adhaero.core.plan.judging import WordScale
from adhaero.core.quantity import BASE, Dimension
from adhaero.core.questions import judged_by
from adhaero.core.questions.decide import DECIDERS, decide, parts
from adhaero.core.questions.does_it_depend import DIFFERS
from adhaero.core.questions.propose import asked, lacks
from adhaero.core.questions.question import (
    OWN,
    Answer,
    JudgeBy,
    Line,
    Picture,
    Question,
    QuestionKind,
    Standing,
    has_base,
    has_factors,
    picture_of,
)
from adhaero.core.questions.study import TREATMENT, Study
from adhaero.core.times import span
from adhaero.core.units import Units
from adhaero.core.wording.evidence import evidence
from adhaero.core.wording.next_steps import next_steps, rests_on
from adhaero.core.wording.preview import asks
from adhaero.core.wording.render import render, render_parts
from adhaero.core.wording.say import Say, lower_first, three_digits
from adhaero.workflow.batch_record import BatchRecord
from adhaero.workflow.compare.answer_data import Asked, asked_of, asked_side_by_side
from adhaero.workflow.compare.as_done import as_done


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
    """The answer to one question. ``lacks`` says what is missing for it, where it cannot be given; ``next`` what would
    settle what it leaves open; ``unit`` is the base unit of its figures.
    """

    id: str
    question: str
    kind: QuestionKind
    of: str
    text: str
    as_seen: bool
    late: bool
    table: list[AnswerRow]
    against: str
    unit: str
    picture: Picture
    claims: list[Claim]
    evidence: list[str]
    caveats: list[str]
    next: list[str]
    lacks: list[str]


class Told(NamedTuple):
    """How figures are written: in which units, of which dimension, money in which currency, and how large is said."""

    units: Units
    dimension: Dimension
    currency: str = ""
    scale: WordScale | None = None

    def say(self, study: Study, inference: Inference, *, in_time: bool = False) -> Say:
        """How things of a study are called."""
        show = span if in_time else partial(self.units.text, dimension=self.dimension)
        money = lambda cost: f"{three_digits(cost):g} {self.currency}".strip()  # noqa: E731
        return Say(study, show, span, money, inference, scale=self.scale)


def answers(
    record: BatchRecord, rows: Sequence[Row], passed: Mapping[str, str], told: Told, cost: Mapping[str, float],
    lasted: Collection[Lasted], shared: Shared | None = None,
) -> list[AnswerView]:  # fmt: skip
    """Return the answers to a plan's questions, in their order. ``passed`` is how pieces (by code) came out by
    the plan's rule, ``cost`` what a joint of a treatment (by letter) costs, ``lasted`` how long pieces were whole,
    ``shared`` what pieces of several treatments have in common.
    """
    own = asked_of(record, list({r.group.letter: r for r in rows}.values()), passed, cost, shared)
    questions = asked(record.plan)
    if not record.plan.questions and 2 * sum(p.load_n is not None for p in lasted) > sum(r.summary.n for r in rows):
        # A load stood on most pieces, and nobody asked: then it is how long they hold, and their loads were chosen.
        questions = [Question(QuestionKind.HOW_LONG_DOES_IT_HOLD, q.of, id="k0") for q in questions[:1]] + questions
    return [_asked(_with_made_base(q, record), n, record.plan, own, told, lasted) for n, q in enumerate(questions)]


def _with_made_base(q: Question, record: BatchRecord) -> Question:
    """The question without its reference level, where that level was not made as planned and is to be enough."""
    lost = q.kind is QuestionKind.HOW_MUCH_IS_ENOUGH and (q.of, q.against) in as_done(record)
    return replace(q, against="") if lost else q


def side_answer(record: BatchRecord, rows: Sequence[Row], words: str, told: Told, shared: Shared | None) -> AnswerView:
    """Return the answer to a side question: of treatments, whatever they differ in, against their control if any."""
    own = asked_side_by_side(rows, shared)
    control = next((r.group.letter for r in rows if r.group.is_control and r.group.letter in own.treatments), "")
    kind = QuestionKind.BETTER_THAN if control and len(own.treatments) > 1 else QuestionKind.WHICH_IS_BEST
    inference = inference_of(record.plan)
    say, judge = told.say(own.study, inference), Judge(own.study, inference)
    return answer_of(Question(kind, TREATMENT, control, words=words), own, say, judge)


def inference_of(plan: Plan) -> Inference:
    """Return the risk, the margin and the power of a plan."""
    return Inference(plan.assumptions.alpha, plan.assumptions.matters, plan.assumptions.power)


def _asked(q: Question, place: int, plan: Plan, own: Asked, told: Told, lasted: Collection[Lasted]) -> AnswerView:
    wanting = lacks(q, plan)
    words = q.words or (plan.question if place == 0 and not plan.questions else "") or asks(q, plan)
    in_time = q.kind is QuestionKind.HOW_LONG_DOES_IT_HOLD
    if in_time and not lasted:
        wanting = [*wanting, "No piece has a time yet: note how long each one held."]
    if not _able(q, own.study) or (in_time and not lasted):
        picture = picture_of(q, len(own.treatments))
        return AnswerView(q.id, words, q.kind, q.of, "", False, q.late, [], "", "", picture, [], [], [], [], wanting)
    study = own.lasting(lasted) if in_time else own.priced(q.of) if q.kind in PRICED else own.study
    inference = inference_of(plan)
    judge, say = Judge(study, inference), told.say(study, inference, in_time=in_time)
    unit = BASE[Dimension.TIME if in_time else told.dimension]
    return answer_of(replace(q, words=words), own, say, judge, unit, wanting)


def answer_of(
    q: Question, own: Asked, say: Say, judge: Judge, unit: str = "", wanting: Sequence[str] = ()
) -> AnswerView:  # fmt: skip
    """Return the answer to a question that can be answered, decided by ``judge`` and put into the words of ``say``."""
    study = judge.study
    a, apart = decide(q, study, judge), parts(q, study, judge)
    text = render_parts(say, q.within, apart) if apart else render(say, a)
    rows = [_row(a, x, own, say) for x in a.lines]
    # Each part has a base of its own: no heading can name one for all of them.
    against = _against(a, say) if len({x.base for _, x in apart}) < 2 else ""
    return AnswerView(
        q.id, q.words, q.kind, q.of, text, text.startswith("As seen"), q.late, rows, against, unit,
        picture_of(q, len(rows)), list(a.claims), evidence(say, a, judge),
        [*_caveats(a), *_differs(a, say, judge), *rests_on(say, a, judge)],
        next_steps(say, a, judge), list(wanting),
    )  # fmt: skip


def _able(q: Question, study: Study) -> bool:
    """Whether all that a question names is there: a plan may have lost a level or a factor that was asked about."""
    if q.kind not in DECIDERS or not has_factors(q, {f.key for f in study.factors}):
        return False
    return has_base(q, {x.id for x in study.factor(q.of).levels})


def _against(a: Answer, say: Say) -> str:
    """What the shares of a table are of; empty where that has no name, or is a level's own pieces."""
    q = a.question
    if q.judge_by != JudgeBy.AVERAGE and q.kind in judged_by.CAN:
        return ""
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


PRICED = (QuestionKind.IS_IT_WORTH_IT, QuestionKind.WHICH_FOR_WHAT)
POOLED = (QuestionKind.WHICH_IS_BEST, QuestionKind.BETTER_THAN, QuestionKind.DOES_IT_MATTER,
          QuestionKind.HOW_MUCH_IS_ENOUGH)  # fmt: skip
"""Kinds that are answered over all levels of the other factors, if nobody asked for each of them."""


def _differs(a: Answer, say: Say, judge: Judge) -> Iterator[str]:
    """Other factors in whose levels the answer is not the same."""
    q, study = a.question, judge.study
    base = a.base or (a.lines[0].level if a.lines else "")
    if q.kind not in POOLED or q.within or q.along or not base:
        return
    others = [f for f in study.factors if f.key != q.of and len({c.levels[f.key] for c in study.cells}) > 1]
    shared = judge.sharing(len(others))
    for f in others:
        found = decide(Question(QuestionKind.DOES_IT_DEPEND, q.of, base, within=f.key), study, shared)
        if found.verdict == DIFFERS:
            told = render(say, found).removeprefix("Yes: ")
            yield f"It is not the same in each {lower_first(f.name)}: {told}"


def _caveats(a: Answer) -> list[str]:
    """What could overturn the answer: most pieces failed in the wood."""
    told = sum(x.told for x in a.lines)
    wood = sum(x.in_wood for x in a.lines)
    if told and wood > told / 2 and a.question.kind is not QuestionKind.HOW_DOES_IT_FAIL:
        return [f"{wood} of {told} pieces failed in the wood, so this mostly compares wood."]
    return []
