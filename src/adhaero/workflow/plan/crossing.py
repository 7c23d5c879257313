"""A further crossing for a draft, read from lists of levels as people write them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from adhaero.core.plan.crossing import with_crossing
from adhaero.core.plan.document import Factor
from adhaero.core.plan.fields import FIELDS
from adhaero.core.plan.formats import plan_from_json
from adhaero.core.refusal import Problems, refuse
from adhaero.workflow.context import AppContext
from adhaero.workflow.plan.levels import read_list


@dataclass(frozen=True)
class Listing:
    """A factor of the crossing: a field, and its levels as they are listed."""

    key: str
    text: str
    unit: str = ""


@dataclass(frozen=True)
class Crossed:
    """A plan's document with the crossing in it: ``treatments`` answer it, ``made`` of them are new."""

    document: dict[str, Any]
    treatments: int
    made: int


def crossed(
    w: AppContext, document: dict[str, Any], question: str, listed: Sequence[Listing], replicates: int
) -> Crossed:
    """The document with every combination of the ``listed`` levels beside its grid; the first of each list is the
    control of the crossing. Nothing is stored.
    """
    plan, p = plan_from_json(document), Problems()
    p.check(0 < len(question.strip()) <= 300, "question", "the crossing has no question", "Say what it is to answer.")
    p.check(1 <= replicates <= 500, "replicates", "must be 1 to 500", "Type how many pieces.")
    keys = [x.key for x in listed]
    p.check(bool(keys), "factors", "nothing is crossed", "List the levels of one field or more.")
    factors, products = [], dict(plan.products)
    for i, x in enumerate(listed):
        field = f"factors.{i}"
        if not p.check(keys.index(x.key) == i, field, "stands twice", "List its levels together."):
            continue
        if not p.check(x.key in FIELDS, field, f"{x.key[:40]!r} is no field", "Choose one from the list."):
            continue
        found = read_list(w, x.key, x.text, x.unit, plan.method)
        for problem in found.problems:
            p.add(field, problem.message, problem.remedy)
        p.check(bool(found.levels), field, f"{FIELDS[x.key].name} has no levels", "List them, the control first.")
        products |= found.products
        factors.append(Factor(x.key, FIELDS[x.key].name, tuple(found.levels)))
    p.raise_if_any()
    count = 1
    for f in factors:
        count *= len(f.levels)
    if not 2 <= count <= 128:
        raise refuse("factors", f"that is {count} treatments", "A crossing has 2 to 128.")
    new = with_crossing(replace(plan, products=products), question.strip(), factors, replicates)
    made = len(new.extras) - len(plan.extras)
    return Crossed(new.to_json(), len(new.side_questions[-1].treatments), made)
