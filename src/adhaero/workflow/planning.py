"""Plan: draft, look at what it can find out, lock."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Any

from adhaero.core.glue.clamping import force_n
from adhaero.core.plan import design
from adhaero.core.plan.document import (
    Caveat,
    Plan,
    cells,
    first_plan,
    method_of,
    plan_from_json,
    problems,
    warnings,
)
from adhaero.core.refusal import Problem, Refusal, refuse
from adhaero.store import actions, batches, specimens
from adhaero.workflow.workshop import Act, Conflict, Workshop, need_batch


@dataclass(frozen=True)
class TreatmentView:
    """A treatment as planned: what it is, how many, and the clamp force that its nominal area needs."""

    letter: str
    label: str
    role: str
    is_control: bool
    replicates: int
    clamp_force_n: float | None


@dataclass(frozen=True)
class ReachView:
    """What this number of pieces can show; differences in percent of the reference mean."""

    n: int
    one_pair_pct: float | None
    all_pairs_pct: float | None
    one_control_pct: float | None
    needed: int | None
    curve: list[tuple[int, float]]


@dataclass(frozen=True)
class PlanView:
    """A plan with everything that follows from it. ``reach`` is empty while the plan has problems."""

    batch_id: int
    name: str
    version: int
    kind: str
    document: dict[str, Any]
    seed: int
    problems: list[Problem]
    warnings: list[Caveat]
    treatments: list[TreatmentView]
    pieces: int
    blanks: int
    reach: ReachView | None
    glued_area_mm2: float | None
    reopenable: bool


def _name(text: str) -> str:
    name = " ".join(text.split())
    if not 1 <= len(name) <= 120:
        raise refuse("name", "the name is empty or longer than 120 characters", "Give the batch a short name.")
    return name


def create(w: Workshop, name: str, key: str | None = None) -> dict[str, Any]:
    """A new batch with a first draft. Returns its id."""
    name, seed = _name(name), w.new_seed()

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        batch_id = batches.add_batch(conn, name, w.stamp())
        actions.assign(conn, action_id, batch_id)
        batches.add_version(conn, batch_id, "draft", first_plan(), seed, "", action_id)
        return {"id": batch_id}

    return w.perform(Act("plan", "create", f"Began {name}", key=key, request=name, undoable=False), body)


def _pct(share: float | None) -> float | None:
    return None if share is None else 100 * share


def _evaluate(plan: Plan) -> dict[str, Any]:
    wrong = problems(plan)
    blocking = {p.field.split(".")[0] for p in wrong}
    shape_ok = not blocking & {"factors", "constants", "sizes", "method", "control"}
    area = None
    if not blocking & {"sizes", "method"}:
        area = method_of(plan).glued_area_mm2(plan.sizes)
    treatments = design.treatments(plan) if shape_ok else []
    r = design.reach(plan) if not blocking & {"factors", "replicates", "assumptions"} and cells(plan) else None
    return {
        "problems": wrong,
        "warnings": warnings(plan) if not wrong else [],
        "treatments": [
            TreatmentView(t.letter, t.label, t.role, t.is_control, t.replicates, _clamp_force(t, area))
            for t in treatments
        ],
        "pieces": sum(t.replicates for t in treatments),
        "blanks": sum(t.replicates * (1 if t.role == design.SOLID else 2) for t in treatments),
        "reach": None
        if r is None
        else ReachView(
            r.n,
            _pct(r.one_pair),
            _pct(r.all_pairs),
            _pct(r.one_control),
            r.needed,
            [(n, 100 * d) for n, d in r.curve],
        ),
        "glued_area_mm2": area,
    }


def _clamp_force(t: design.Treatment, area: float | None) -> float | None:
    pressure = t.record["pressure_mpa"].value if t.role == design.JOINT else None
    return force_n(float(pressure), area) if area and isinstance(pressure, float | int) else None


def view(w: Workshop, batch_id: int) -> PlanView:
    """The plan that stands."""
    with w.db.read() as conn:
        batch = need_batch(conn, batch_id)
        version = batches.current_version(conn, batch_id)
        assert version is not None, "a batch has had a draft since it was created"
        locked = version.kind != "draft"
        return PlanView(
            batch_id=batch_id,
            name=batch.name,
            version=version.number,
            kind=version.kind,
            document=version.plan.to_json(),
            seed=version.seed,
            reopenable=locked and not actions.later_work(conn, batch_id),
            **_evaluate(version.plan),
        )


def _need_draft(conn: sqlite3.Connection, batch_id: int, base: int) -> batches.PlanVersion:
    need_batch(conn, batch_id)
    version = batches.current_version(conn, batch_id)
    assert version is not None
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


def save_draft(w: Workshop, batch_id: int, base: int, name: str, document: dict[str, Any], key: str | None) -> None:
    """Save a draft over version ``base``; ``Conflict`` if another one stands by now.

    A draft may have problems, but must be a plan: what cannot be read at all is refused.
    """
    plan, name = plan_from_json(document), _name(name)

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        old = _need_draft(conn, batch_id, base)
        batches.rename(conn, batch_id, name)
        number = batches.add_version(conn, batch_id, "draft", plan, old.seed, "", action_id)
        return {"version": number}

    w.perform(Act("plan", "draft", "Changed the plan", batch_id, key=key, request=f"{base}{document}"), body)


def lock(w: Workshop, batch_id: int, base: int, person: str, key: str | None) -> dict[str, Any]:
    """Lock the plan: check it whole, then write treatments and specimens. Returns the number of pieces."""

    def body(conn: sqlite3.Connection, action_id: int) -> dict[str, Any]:
        old = _need_draft(conn, batch_id, base)
        wrong = problems(old.plan)
        if wrong:
            raise Refusal(wrong)
        batches.add_version(conn, batch_id, "locked", old.plan, old.seed, "", action_id)
        planned = design.treatments(old.plan)
        names = {f.key: f.name for f in old.plan.factors}
        ids = specimens.add_treatments(conn, batch_id, planned, names, action_id)
        pieces = design.specimens(old.plan, old.seed, specimens.taken_codes(conn))
        specimens.add_specimens(conn, batch_id, planned, ids, pieces, action_id)
        return {"pieces": len(pieces)}

    return w.perform(
        Act("plan", "lock", "Locked the plan", batch_id, person, key=key, request=f"lock {batch_id} {base}"), body
    )
