"""A further crossing in the same batch: its own factors, its own control, its own question."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import product

from adhaero.core.plan.document import Asked, Extra, Factor, Level, Plan, treatment_name
from adhaero.core.plan.records import record_of_extra
from adhaero.core.plan.treatments import JOINT, treatments
from adhaero.core.refusal import refuse

MOST = 128
"""Single treatments of a plan."""


def with_crossing(plan: Plan, question: str, factors: Sequence[Factor], replicates: int) -> Plan:
    """The plan with every combination of ``factors`` beside its grid, each as a single treatment, and a side question
    that sets them against the first one. A combination that the plan makes already is not made again.
    """
    made = {_values(t.record): t.id for t in treatments(plan) if t.role == JOINT}
    extras, answering = list(plan.extras), []
    taken = {e.label.lower() for e in extras}
    for levels in product(*(f.levels for f in factors)):
        changes = {f.key: level for f, level in zip(factors, levels, strict=True)}
        label = " · ".join(treatment_name(f, level) for f, level in zip(factors, levels, strict=True))
        label = next(x for n in range(1, MOST + 2) if (x := label if n == 1 else f"{label} ({n})").lower() not in taken)
        new = Extra(label, changes, replicates)
        known = made.get(_values(record_of_extra(plan, new)))
        if known is None:
            # An own id at once, which the side question can name.
            known = next(x for n in range(1, 2 * MOST) if (x := f"x{n}") not in {e.id for e in extras})
            extras.append(replace(new, id=known))
            taken.add(label.lower())
        answering.append(known)
    if len(extras) > MOST:
        raise refuse("factors", f"that makes {len(extras)} single treatments", f"Keep to {MOST}: list fewer levels.")
    asked = Asked(question, tuple(dict.fromkeys(answering)), against=answering[0])
    return replace(plan, extras=tuple(extras), side_questions=(*plan.side_questions, asked))


def _values(record: Mapping[str, Level]) -> str:
    return repr(sorted((k, v.value) for k, v in record.items()))
