"""A plan rehearsed: how often its answer would be right, and one made-up answer as it would look."""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, replace
from random import Random

from adhaero.core.claims.judge import Judge
from adhaero.core.compare.data import listed
from adhaero.core.plan.document import Plan, method_of
from adhaero.core.plan.treatments import Treatment, treatments
from adhaero.core.quantity import BASE, Dimension
from adhaero.core.questions.planned_study import asked_factors, placed, study_of
from adhaero.core.questions.propose import asked, lacks
from adhaero.core.questions.question import JudgeBy, Question, has_base, has_factors
from adhaero.core.questions.rehearse import CAN, Tally, Truth, break_all, key, needed, rehearse
from adhaero.core.questions.study import Study
from adhaero.core.refusal import refuse
from adhaero.core.units import Units
from adhaero.core.wording.say import percent
from adhaero.store import batches, shop
from adhaero.workflow.compare.answer_data import Asked
from adhaero.workflow.compare.answers import AnswerView, Told, answer_of, inference_of
from adhaero.workflow.context import AppContext
from adhaero.workflow.plan.forecast import forecast

SEED = 20417
USUAL = -0.2
"""What is supposed of one level where nothing else is known to differ."""


@dataclass(frozen=True)
class Rehearsal:
    """How the rehearsals of a question ended; ``supposed`` says from what, ``needed`` how many of each it takes to be
    right four times of five (``None``: more than were tried), ``example`` one answer with made-up figures.
    """

    runs: int
    right: int
    open: int
    wrong: int
    supposed: str
    text: str
    needed: int | None
    example: AnswerView


def rehearsal(w: AppContext, batch_id: int, place: int, level: str, share: float | None) -> Rehearsal:
    """Return how the question at ``place`` would be answered. ``level`` is supposed to hold ``share`` more (or less,
    below 0) than is expected of it otherwise; without one the second level of a plan in which nothing is expected to
    differ. ``Refusal`` where the plan can't be rehearsed.
    """
    with w.db.read() as conn:
        version = batches.current_version(conn, batch_id)
        if version is None:
            raise refuse("batch", "does not exist", "Choose one from Today.")
        plan, units = version.plan, shop.units(conn)
        questions = asked(plan)
        if not 0 <= place < len(questions):
            raise refuse("question", "is not in the plan", "Choose one of its questions.")
        q = questions[place]
        _check(q, plan)
        loads, source = _expected(w, conn, plan, batch_id)
        return _of(plan, q, loads, source, level, share, units)


def _check(q: Question, plan: Plan) -> None:
    factors, _ = placed(plan, treatments(plan))
    levels = {x.id for f in factors if f.key == q.of for x in f.levels}
    if q.kind not in CAN or q.judge_by != JudgeBy.AVERAGE:
        raise refuse("question", "this kind can't be rehearsed", "It needs no strength, or counts pieces only.")
    if method_of(plan).loadless or not has_factors(q, {f.key for f in factors}) or not has_base(q, levels):
        raise refuse("question", "is not complete", " ".join(lacks(q, plan)) or "This method has no load.")


def _expected(w: AppContext, conn: sqlite3.Connection, plan: Plan, batch_id: int) -> tuple[dict[str, float], str]:
    """Return what each treatment (by letter) is expected to hold, N, and where that is from: the user's guess, else the
    forecast, else the same as the first treatment that has one, and then it is said of which.
    """
    found = forecast(w, conn, plan, batch_id)
    if found.problems:
        wrong = found.problems[0]
        raise refuse(wrong.field, wrong.message, wrong.remedy)
    made, loads = treatments(plan), {e.letter: e.load_n for e in found.loads}
    guessed = {t.letter: plan.guesses[t.id] for t in made if plan.guesses.get(t.id)}
    known = {**loads, **guessed}
    first = next((t for t in made if t.letter in known), made[0])
    unknown = [t.label for t in made if t.letter not in known]
    from_forecast = any(t.letter not in guessed and t.letter in loads for t in made)
    parts = [*(["your guesses"] if guessed else []), *(["the forecast"] if from_forecast else [])]
    source = f"Expected loads are from {' and '.join(parts)}" if parts else "No load is known"
    if unknown and parts:
        source += f"; nothing is known of {listed(unknown)}, taken to hold as much as {first.label}"
    return {t.letter: known.get(t.letter, known.get(first.letter, 1000.0)) for t in made}, source


def _of(
    plan: Plan, q: Question, loads: Mapping[str, float], source: str, level: str, share: float | None, units: Units
) -> Rehearsal:  # fmt: skip
    made = treatments(plan)
    study, inference = study_of(plan, made), inference_of(plan)
    truth, supposed = _truth(plan, q, study, made, loads, source, level, share)
    # How many runs there is time for must not decide which one is shown: each draws from a stream of its own.
    tally = rehearse(q, study, truth, inference, Random(SEED))
    enough = needed(q, study, truth, inference, Random(SEED + 1))
    example = break_all(study, truth, Random(SEED + 2))
    _, letters = placed(plan, made)
    told = Told(units, Dimension.FORCE, scale=plan.judging.words)
    view = answer_of(replace(q, words=q.words or plan.question), Asked(example, letters, {}),
                     told.say(example, inference), Judge(example, inference), BASE[Dimension.FORCE])  # fmt: skip
    return Rehearsal(
        tally.runs, tally.right, tally.open, tally.wrong, supposed, _text(plan, tally, enough), enough, view
    )


def _truth(
    plan: Plan, q: Question, study: Study, made: list[Treatment], loads: Mapping[str, float], source: str, level: str,
    share: float | None,
) -> tuple[Truth, str]:  # fmt: skip
    _, letters = placed(plan, made)
    means = {key(own): loads[letter] for letter, own in letters.items()}
    factor = study.factor(q.along or q.of)
    ids = [x.id for x in factor.levels]
    same = _alike(plan, factor.key, means)
    if not level and same and len(ids) > 1:
        own = [x.id for f in asked_factors(plan) if f.key == factor.key for x in f.levels]
        level = next(x for x in reversed(own) if x != q.against)
        share = USUAL
    if level:
        if level not in ids:
            raise refuse("level", f"is none of the {factor.name.lower()}", "Choose one of them.")
        change = 1 + (USUAL if share is None else share)
        means = {k: v * (change if dict(k)[factor.key] == level else 1.0) for k, v in means.items()}
        way = f"{percent(abs(change - 1))} {'more' if change > 1 else 'less'}"
        others = "and the other levels are alike" if same else "against what is expected of it"
        source = f"{source}. Supposed: {factor.level(level).text} holds {way}, {others}"
    solid = [loads[t.letter] for t in made if t.role == "solid"]
    cv = plan.assumptions.cv
    return (
        Truth(means, {"": sum(solid) / len(solid)} if solid else {}, cv),
        f"{source}. Single pieces scatter by {percent(cv)}.",
    )


def _alike(plan: Plan, factor: str, means: Mapping[tuple[tuple[str, str], ...], float]) -> bool:
    """Return whether the same load is expected at every level of a factor; single treatments do not count."""
    grid = {x.id for f in asked_factors(plan) if f.key == factor for x in f.levels}
    logs: dict[str, list[float]] = {}
    for k, v in means.items():
        if dict(k)[factor] in grid:
            logs.setdefault(dict(k)[factor], []).append(math.log(v))
    heights = [math.fsum(own) / len(own) for own in logs.values()]
    return max(heights) - min(heights) < 0.01


def _text(plan: Plan, t: Tally, enough: int | None) -> str:
    n = plan.replicates
    text = (
        f"In {t.runs} rehearsals the answer was right {t.right} times, open {t.open} times and wrong {t.wrong} times."
    )
    if enough is None:
        return f"{text} Even 30 of each would not be right four times of five: the difference is too small for that."
    if enough > n:
        return f"{text} With about {enough} of each instead of {n} it would be right four times of five."
    if enough < n:
        return f"{text} About {enough} of each would do for four times of five."
    return text
