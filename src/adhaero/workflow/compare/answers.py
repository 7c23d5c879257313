"""The answers of a batch: its pieces as a study, its questions decided, and all of it in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from adhaero.core.claims.claim import Claim
from adhaero.core.claims.judge import Judge
from adhaero.core.compare.analysis import Row
from adhaero.core.compare.data import Group
from adhaero.core.inference import Inference
from adhaero.core.observation import WOOD_MODES
from adhaero.core.piece_record import Known
from adhaero.core.plan.document import Plan, level_name
from adhaero.core.quantity import Dimension
from adhaero.core.questions.decide import DECIDERS, decide
from adhaero.core.questions.propose import asked, lacks
from adhaero.core.questions.question import Answer, Line, Question, QuestionKind, Standing
from adhaero.core.questions.study import WOOD, Cell, Factor, Level, Sample, Study, Unit
from adhaero.core.units import Units
from adhaero.core.wording.evidence import evidence
from adhaero.core.wording.render import render
from adhaero.core.wording.say import Say
from adhaero.workflow.batch_record import BatchRecord

PASSES = {"passes": True, "fails": False}


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


def answers(
    record: BatchRecord, rows: Sequence[Row], passed: Mapping[str, str], cost: Mapping[str, float], *, load: bool
) -> list[AnswerView]:
    """Return the answers to the questions of a plan, in their order. ``passed`` is how pieces (by code) came out by
    the plan's rule, ``cost`` what a joint of a treatment (by letter) costs.
    """
    plan = record.plan
    study = study_of(record, list({r.group.letter: r for r in rows}.values()), passed, cost)
    inference = Inference(plan.assumptions.alpha, plan.assumptions.matters, plan.assumptions.power)
    judge = Judge(study, inference)
    dimension = Dimension.FORCE if load else record.method.figure_dimension
    say = Say(study, lambda v: record.units.text(v, dimension), inference=inference)
    return [_view(q, plan, study, judge, say, record.units) for q in asked(plan)]


def _view(q: Question, plan: Plan, study: Study, judge: Judge, say: Say, units: Units) -> AnswerView:
    able = q.kind in DECIDERS and any(f.key == q.of for f in study.factors)
    wanting = lacks(q, plan)
    words = q.words or ""
    if not able or (q.within and not any(f.key == q.within for f in study.factors)):
        return AnswerView(q.id, words, q.kind, q.of, "", False, q.late, [], "", [], [], [], wanting)
    a = decide(q, study, judge)
    text = render(say, a)
    rows = [_row(a, x, study, say) for x in a.lines]
    against = say.name(q.of, a.base) if any(x.id == a.base for x in study.factor(q.of).levels) else a.base
    return AnswerView(q.id, words, q.kind, q.of, text, text.startswith("As seen"), q.late, rows, against,
                      list(a.claims), evidence(say, a), _caveats(a), wanting)  # fmt: skip


def _row(a: Answer, x: Line, study: Study, say: Say) -> AnswerRow:
    q = a.question
    inner = q.within or q.along
    within = study.factor(inner).level(x.within).text if inner and x.within else ""
    return AnswerRow(
        study.factor(q.of).level(x.level).text, within, [], x.n, x.fallen, x.unbroken, x.figure,
        say.figure(x) if x.n else "", x.at_least, x.standing, x.ratio, x.ratio_low, x.ratio_high, dict(x.counts),
    )  # fmt: skip


def _caveats(a: Answer) -> list[str]:
    """What could overturn the answer: that it compares wood."""
    told = sum(x.told for x in a.lines)
    wood = sum(x.in_wood for x in a.lines)
    if told and wood > told / 2 and a.question.kind is not QuestionKind.HOW_DOES_IT_FAIL:
        return [f"{wood} of {told} pieces failed in the wood, so this mostly compares wood."]
    return []


def study_of(record: BatchRecord, rows: Sequence[Row], passed: Mapping[str, str], cost: Mapping[str, float]) -> Study:
    """Return the pieces of a batch as a study. A single treatment beside the grid is a level of its own of the factor
    in which it differs, at the usual levels of the others.
    """
    plan = record.plan
    factors = {f.key: [_level(f.key, x.id, level_name(f.key, x), x.value) for x in f.levels] for f in plan.factors}
    cells, costs = [], dict[str, float]()
    first = plan.factors[0].key if plan.factors else ""
    for r in rows:
        planned = record.planned.get(r.group.letter)
        if planned is None or r.group.role == "solid":
            continue
        levels = _levels(plan, planned.cell, planned.id, planned.label, planned.changed, factors)
        cells.append(Cell(levels, _units(r.group, passed), r.unbroken, r.left_out, r.void))
        if r.group.letter in cost and first:
            costs.setdefault(levels[first], cost[r.group.letter])
    made = tuple(Factor(f.key, f.name, tuple(factors[f.key]), f.key.startswith("gap")) for f in plan.factors)
    solid, by = _solid(record, rows, plan)
    return Study(made, tuple(cells), solid, by, costs, plan.target == "adhesive")


def _level(key: str, id_: str, text: str, value: object) -> Level:
    return Level(id_, text, float(value) if isinstance(value, float | int) else None)


def _levels(
    plan: Plan, cell: Sequence[int] | None, id_: str, label: str, changed: Sequence[str],
    factors: dict[str, list[Level]],
) -> dict[str, str]:  # fmt: skip
    if cell is not None:
        return {f.key: f.levels[i].id for f, i in zip(plan.factors, cell, strict=True)}
    own = next((f.key for f in plan.factors if f.key in changed), plan.factors[0].key)
    if all(x.id != id_ for x in factors[own]):
        factors[own].append(Level(id_, label))
    usual = {f.key: plan.control.get(f.key) or f.levels[0].id for f in plan.factors}
    return {**usual, own: id_}


def _units(g: Group, passed: Mapping[str, str]) -> tuple[Unit, ...]:
    by_code = {p.code: p for p in g.pieces}
    found = [_unit(d.known, d.low, d.high, by_code[codes[0]].failure_mode or "", PASSES.get(passed.get(codes[0], "")))
             for d, codes in g.units(fallen_as_zero=False)]  # fmt: skip
    counted = {c for _, codes in g.units(fallen_as_zero=False) for c in codes}
    seen = (p for p in g.pieces if p.code not in counted and p.opened)
    return (*found, *(Unit(Known.NONE, mode=_mode(p.failure_mode or ""), passed=PASSES.get(passed.get(p.code, "")))
                      for p in seen))  # fmt: skip


def _unit(known: Known, low: float, high: float, mode: str, passed: bool | None) -> Unit:
    return Unit(known, low, high, _mode(mode), passed)


def _mode(mode: str) -> str:
    """A failure mode as questions know it: where in the wood is no matter to them."""
    return WOOD if mode in WOOD_MODES else mode


def _solid(record: BatchRecord, rows: Sequence[Row], plan: Plan) -> tuple[dict[str, Sample], str]:
    """The solid pieces by the level that decides which of them a joint is held against."""
    own = {r.group.solid: Sample(_units(r.group, {})) for r in rows if r.group.role == "solid"}
    joints = [(r, record.planned[r.group.letter]) for r in rows
              if r.group.role != "solid" and r.group.letter in record.planned and not r.group.no_solid]  # fmt: skip
    keys = {r.group.solid for r, _ in joints if r.group.solid}
    if len(keys) == 1:
        return ({"": own[k]} if (k := keys.pop()) in own else {}), ""
    for i, f in enumerate(plan.factors):
        by_level: dict[str, set[str]] = {}
        for r, t in joints:
            if t.cell is not None:
                by_level.setdefault(f.levels[t.cell[i]].id, set()).add(r.group.solid)
        if by_level and all(len(k) == 1 for k in by_level.values()):
            return {level: own[k] for level, ks in by_level.items() if (k := next(iter(ks))) in own}, f.key
    return {}, ""
