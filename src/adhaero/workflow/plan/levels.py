"""Levels as people list them, with the bottles of the shop among the glues."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, replace
from datetime import date, datetime

from adhaero.core.joint_forms import FORMS
from adhaero.core.materials.bottle import BottleEvent, state
from adhaero.core.method_catalogue import METHODS
from adhaero.core.plan.bottle_caveats import PlannedBottle
from adhaero.core.plan.document import Level, Plan, Product
from adhaero.core.plan.level_list import read_levels
from adhaero.core.refusal import Problem
from adhaero.store import bottles
from adhaero.store.bottles import Bottle
from adhaero.workflow.context import AppContext, moment


@dataclass(frozen=True)
class ListedLevels:
    """What a list was read as, and what those of its levels stand for that are bottles of the shop."""

    levels: list[Level]
    products: dict[str, Product]
    problems: list[Problem]


def read_list(w: AppContext, field: str, text: str, unit: str, method: str) -> ListedLevels:
    """Read a list of levels of a field, for a plan that tests by ``method``."""
    with w.db.read() as conn:
        known = {b.label: b for b in bottles.bottles(conn)} if field == "glue" else {}
    forms = METHODS[method].forms if field == "form" and method in METHODS else ()
    found = read_levels(field, text, unit, {label: label for label in known}, {f: FORMS[f].name for f in forms})
    used = {str(level.value) for level in found.levels} & known.keys()
    products = {value: Product(family) for value, family in found.families.items()}
    products |= {label: product_of(known[label]) for label in sorted(used)}
    return ListedLevels(list(found.levels), products, list(found.problems))


def product_of(bottle: Bottle) -> Product:
    """What a level that is this bottle stands for."""
    return Product(bottle.family, bottle.limits, bottle.id)


def planned_bottles(conn: sqlite3.Connection, plan: Plan, now: datetime) -> list[PlannedBottle]:
    """The bottles that levels of the glue stand for, with what they went through until now."""
    known, went = {b.id: b for b in bottles.bottles(conn)}, bottles.events(conn)

    def day(text: str | None) -> date | None:
        return date.fromisoformat(text) if text else None

    found = []
    for product in plan.products.values():
        b = known.get(product.bottle or 0)
        if b is not None:
            events = [BottleEvent(e.kind, moment(e.at), e.note) for e in went.get(b.id, ())]
            found.append(PlannedBottle(b.label, b.family, day(b.opened_on), day(b.expires_on), state(events, now)))
    return found


def of_another_shop(plan: Plan) -> Plan:
    """A plan from a file: what its glues are stays with it, the numbers of bottles mean nothing in this shop."""
    return replace(plan, products={name: replace(p, bottle=None) for name, p in plan.products.items()})


def with_bottles(conn: sqlite3.Connection, plan: Plan) -> Plan:
    """A draft with what its bottles' labels say now; levels named like a bottle are taken to be that bottle."""
    known = {b.id: b for b in bottles.bottles(conn)}
    by_label = {b.label: b for b in known.values()}
    found = {
        name: replace(p, family=b.family, label=b.limits) if (b := known.get(p.bottle or 0)) else p
        for name, p in plan.products.items()
    }
    values = {level.value for f in plan.factors if f.key == "glue" for level in f.levels}
    values |= {level.value for r in (plan.constants, *(e.changes for e in plan.extras)) if (level := r.get("glue"))}
    for value in values - found.keys():
        if isinstance(value, str) and value in by_label:
            found[value] = product_of(by_label[value])
    return replace(plan, products={name: p for name, p in found.items() if name in values})
