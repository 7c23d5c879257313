"""Plan: draft, look at what it can find out, lock."""

from __future__ import annotations

import logging
import sqlite3
from dataclasses import dataclass, replace
from typing import Any

from adhaero.core.plan import design
from adhaero.core.plan.checks import problems
from adhaero.core.plan.differences import Difference, differences
from adhaero.core.plan.document import Plan
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.plan.questions import QUESTIONS, plan_for
from adhaero.core.plan.records import completed, in_shop_units
from adhaero.core.plan.treatments import treatments
from adhaero.core.refusal import Problem, Refusal, refuse
from adhaero.core.units import Units
from adhaero.store import actions, batches, observations, shop, specimens, templates
from adhaero.store.templates import Template
from adhaero.workflow.context import Act, AppContext, Conflict, NotFound, need_batch, need_version
from adhaero.workflow.plan import asking, forecast, guessing
from adhaero.workflow.plan.asking import AskedView, QuestionKindView
from adhaero.workflow.plan.forecast import Forecast
from adhaero.workflow.plan.guessing import GuessView
from adhaero.workflow.plan.levels import of_another_shop, with_bottles
from adhaero.workflow.plan.making import write_pieces

_log = logging.getLogger(__name__)


@dataclass(frozen=True)
class PlanView:
    """A plan with everything that follows from it."""

    batch_id: int
    name: str
    version: int
    kind: str
    document: dict[str, Any]
    seed: int
    reopenable: bool
    forecast: Forecast
    templates: list[Template]
    others: list[tuple[int, str]]
    notes: list[batches.VersionNote]
    guesses: list[GuessView]
    can_guess: bool
    questions: list[AskedView]
    kinds: list[QuestionKindView]


def _name(text: str) -> str:
    name = " ".join(text.split())
    if not 1 <= len(name) <= 120:
        raise refuse("name", "the name is empty or longer than 120 characters", "Give the batch a short name.")
    return name


def create(w: AppContext, name: str, key: str | None = None, start: str = "own") -> dict[str, Any]:
    """A new batch with a first draft, begun from a question. Returns its id."""
    if start not in QUESTIONS:
        raise refuse("start", f"{start[:40]!r} is no question to start from", "Choose one from the list.")
    return begin(w, _name(name), in_shop_units(plan_for(start), _units(w)), key)


def _units(w: AppContext) -> Units:
    with w.db.read() as conn:
        return shop.units(conn)


def begin(w: AppContext, name: str, plan: Plan, key: str | None, cloned_from: int | None = None) -> dict[str, Any]:
    """A new batch with this plan as its draft. Returns its id."""
    seed = w.new_seed()

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        batch_id = batches.add_batch(conn, name, w.stamp(), cloned_from)
        actions.assign(conn, action_id, batch_id)
        batches.add_version(conn, batch_id, "draft", plan, seed, "", action_id)
        return {"id": batch_id}

    return w.perform(
        Act("plan", "create", f"Began {name}", key=key, request=f"{name}{plan.start}{cloned_from}", undoable=False),
        body,
    )


def view(w: AppContext, batch_id: int) -> PlanView:
    """The plan that stands."""
    with w.db.read() as conn:
        batch = need_batch(conn, batch_id)
        version = need_version(conn, batch_id)
        locked = version.kind != "draft"
        broken = locked and observations.any_standing(conn, batch_id)
        return PlanView(
            batch_id=batch_id,
            name=batch.name,
            version=version.number,
            kind=version.kind,
            document=version.plan.to_json(),
            seed=version.seed,
            reopenable=locked and not actions.later_work(conn, batch_id),
            forecast=_forecast(w, conn, version.plan, batch_id),
            templates=templates.templates(conn),
            others=[(i, name) for i, name in batches.names(conn) if i != batch_id],
            notes=batches.version_notes(conn, batch_id),
            guesses=guessing.views(conn, batch_id, opened=broken),
            can_guess=locked and not broken,
            questions=asking.views(version.plan),
            kinds=asking.kinds(version.plan),
        )


def _forecast(w: AppContext, conn: sqlite3.Connection, plan: Plan, batch_id: int) -> Forecast:
    """What follows from a plan. One that cannot be worked out opens all the same, and says how to get on: nobody is
    locked out of a batch by what was typed into it.
    """
    try:
        return forecast.forecast(w, conn, plan, batch_id)
    except (ArithmeticError, LookupError, TypeError, ValueError) as error:
        _log.exception("a plan cannot be worked out", exc_info=error)
        remedy = "Undo the last change of this plan: the version before it worked."
        return forecast.nothing([Problem("plan", "something in this plan cannot be worked out", remedy)])


def _need_draft(conn: sqlite3.Connection, batch_id: int, base: int) -> batches.PlanVersion:
    need_batch(conn, batch_id)
    version = need_version(conn, batch_id)
    if version.kind != "draft":
        raise refuse(
            "plan",
            "the plan is locked and cannot be changed",
            "Undo the lock while nothing has been made, or begin another batch.",
        )
    if version.number != base:
        raise Conflict(
            [
                Problem(
                    "version",
                    "the plan was changed in another window since you opened it",
                    "Reload to see that change, then make yours again. Nothing was overwritten.",
                )
            ]
        )
    return version


def save_draft(w: AppContext, batch_id: int, base: int, name: str, document: dict[str, Any], key: str | None) -> None:
    """Save a draft over version ``base``; ``Conflict`` if another one stands by now.

    A draft may have problems, but must be a plan: what cannot be read at all is refused.
    """
    plan, name = completed(plan_from_json(document), _units(w)), _name(name)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        old = _need_draft(conn, batch_id, base)
        batches.rename(conn, batch_id, name)
        number = batches.add_version(conn, batch_id, "draft", with_bottles(conn, plan), old.seed, "", action_id)
        return {"version": number}

    w.perform(Act("plan", "draft", "Changed the plan", batch_id, key=key, request=f"{base}{document}"), body)


def start_from(w: AppContext, batch_id: int, base: int, start: str, key: str | None) -> None:
    """Begin a draft anew from a question; what was written before comes back with undo."""
    if start not in QUESTIONS:
        raise refuse("start", f"{start[:40]!r} is no question to start from", "Choose one from the list.")

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        old = _need_draft(conn, batch_id, base)
        begun = in_shop_units(plan_for(start), shop.units(conn))
        return {"version": batches.add_version(conn, batch_id, "draft", begun, old.seed, "", action_id)}

    what = f"Started from: {QUESTIONS[start].name}"
    w.perform(Act("plan", "start", what, batch_id, key=key, request=f"{base}{start}"), body)


def start_from_template(w: AppContext, batch_id: int, base: int, template_id: int, key: str | None) -> None:
    """Begin a draft anew from a template of the workshop; what was written before comes back with undo."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        plan = templates.plan(conn, template_id)
        if plan is None:
            raise NotFound(f"There is no template {template_id}.")
        old = _need_draft(conn, batch_id, base)
        return {"version": batches.add_version(conn, batch_id, "draft", plan, old.seed, "", action_id)}

    act = Act("plan", "start", "Started from a template", batch_id, key=key, request=f"{base} template {template_id}")
    w.perform(act, body)


def keep_as_template(w: AppContext, batch_id: int, name: str, key: str | None) -> dict[str, Any]:
    """Keep the plan of a batch under a name, to begin others from. Guesses stay with the batch."""
    clean = _name(name)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        need_batch(conn, batch_id)
        version = need_version(conn, batch_id)
        if any(t.name == clean for t in templates.templates(conn)):
            raise refuse("name", f"there is already a template {clean!r}", "Give it another name.")
        return {"id": templates.add(conn, clean, replace(version.plan, guesses={}), action_id)}

    act = Act("shop", "template", f"Kept the template {clean}", key=key, request=f"template {batch_id}{clean}")
    return w.perform(act, body)


def retire_template(w: AppContext, template_id: int, key: str | None) -> dict[str, Any]:
    """Take a template out of use."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        if templates.plan(conn, template_id) is None:
            raise NotFound(f"There is no template {template_id}.")
        templates.retire(conn, template_id, action_id)
        return {"id": template_id}

    return w.perform(Act("shop", "template", "Took a template out of use", key=key, request=f"out {template_id}"), body)


@dataclass(frozen=True)
class Against:
    """A plan held against another one."""

    name: str
    other: str
    differences: list[Difference]


def against(w: AppContext, batch_id: int, other_id: int) -> Against:
    """Everything in which the plans of two batches differ."""
    with w.db.read() as conn:
        names = [need_batch(conn, b).name for b in (batch_id, other_id)]
        plans = [need_version(conn, b).plan for b in (batch_id, other_id)]
    return Against(names[0], names[1], differences(plans[0], plans[1]))


def lock(
    w: AppContext, batch_id: int, base: int, person: str, key: str | None, seed: int | None = None
) -> dict[str, Any]:
    """Lock the plan: check it whole, then write treatments and specimens. Returns the number of pieces.

    ``seed`` repeats the random orders of another batch; without one the draft's own is taken.
    """

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        old = _need_draft(conn, batch_id, base)
        wrong = problems(old.plan)
        if wrong:
            raise Refusal(wrong)
        drawn = old.seed if seed is None else seed
        batches.add_version(conn, batch_id, "locked", old.plan, drawn, "", action_id)
        planned = treatments(old.plan)
        names = {f.key: f.name for f in old.plan.factors}
        ids = specimens.add_treatments(conn, batch_id, planned, names, action_id)
        pieces = design.specimens(old.plan, drawn, specimens.taken_codes(conn))
        write_pieces(conn, batch_id, old.plan, planned, ids, pieces, drawn, action_id)
        return {"pieces": len(pieces)}

    return w.perform(
        Act("plan", "lock", "Locked the plan", batch_id, person, key=key, request=f"lock {batch_id} {base} {seed}"),
        body,
    )


def duplicate(w: AppContext, batch_id: int, name: str, key: str | None) -> dict[str, Any]:
    """A new batch whose draft is a copy of another's plan. Returns its id."""
    with w.db.read() as conn:
        need_batch(conn, batch_id)
        version = need_version(conn, batch_id)
    return begin(w, _name(name), version.plan, key, cloned_from=batch_id)


def import_plan(w: AppContext, name: str, document: dict[str, Any], key: str | None) -> dict[str, Any]:
    """A new batch from a plan's document, as ``export`` of another workshop gave it. Returns its id."""
    return begin(w, _name(name), of_another_shop(plan_from_json(document)), key)
