"""What a plan asks, as the page shows it: each question with the answer as it will read, and what is lacking for it."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from adhaero.core.plan.document import Plan
from adhaero.core.questions.planned_study import asked_factors
from adhaero.core.questions.propose import MOST, asked, fits, lacks
from adhaero.core.questions.question import Question, QuestionKind
from adhaero.core.refusal import refuse
from adhaero.core.wording.preview import LINES, asks, preview
from adhaero.store import batches, observations
from adhaero.workflow.context import Act, AppContext, need_locked


@dataclass(frozen=True)
class AskedView:
    """A question of the plan. ``own``: it stands in the plan, and is not only proposed from its words and factors."""

    id: str
    words: str
    kind: QuestionKind
    of: str
    along: str
    against: str
    within: str
    share: float
    figure: str
    judge_by: str
    late: bool
    own: bool
    asks: str
    preview: str
    lacks: list[str]


@dataclass(frozen=True)
class QuestionKindView:
    """A kind of question to choose from: the line of the picker it is listed under, and how it differs there."""

    kind: QuestionKind
    line: str
    about: str
    fits: bool


def views(plan: Plan) -> list[AskedView]:
    """The questions of a plan, the main one first."""
    own = bool(plan.questions)
    return [AskedView(**{k: getattr(q, k) for k in _SAME}, own=own, asks=asks(q, plan), preview=preview(q, plan),
                      lacks=lacks(q, plan)) for q in asked(plan)]  # fmt: skip


_SAME = ("id", "words", "kind", "of", "along", "against", "within", "share", "figure", "judge_by", "late")


def kinds(plan: Plan) -> list[QuestionKindView]:
    """Every kind, and whether it fits this plan as it stands."""
    fitting = {q.kind for q in fits(plan)}
    return [QuestionKindView(k, line, about, k in fitting) for k, (line, about) in LINES.items()]


def ask(w: AppContext, batch_id: int, questions: Sequence[Question], person: str, key: str | None) -> dict[str, Any]:
    """Ask other questions of a locked plan, or in another order: no piece is touched. One that is new after the first
    piece was broken is marked as asked after results were seen.
    """
    if not questions:
        raise refuse("questions", "nothing is asked", "Keep at least one question.")
    if len(questions) > MOST:
        raise refuse("questions", f"there are over {MOST}", "Keep the most important ones.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        version = need_locked(conn, batch_id)
        plan = version.plan
        before = {_asks(q) for q in asked(plan)}
        seen = observations.any_standing(conn, batch_id)
        marked = tuple(replace(q, late=q.late or (seen and _asks(q) not in before)) for q in questions)
        amended = replace(plan, questions=marked)
        keys = {f.key for f in asked_factors(plan)}
        for i, q in enumerate(marked):
            if q.of not in keys:
                raise refuse(f"questions.{i}.of", "does not differ in this plan", "Choose a factor of the plan.")
        batches.add_version(conn, batch_id, "amended", amended, version.seed, "", action_id)
        return {"questions": len(marked)}

    act = Act("plan", "amend", "Changed what is asked", batch_id, person, key=key, request=f"questions {questions}")
    return w.perform(act, body)


def _asks(q: Question) -> tuple[str | float, ...]:
    """What counts as another question: a change of its words or of its place does not."""
    return q.kind, q.of, q.along, q.against, q.within, q.share, q.judge_by
