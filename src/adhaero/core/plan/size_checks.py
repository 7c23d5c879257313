"""Sizes of a plan: of all pieces, of a joint form, of a single treatment; each named where it was stated."""

from __future__ import annotations

from collections.abc import Iterator

from adhaero.core.joint_forms import FORMS, FREE
from adhaero.core.plan.document import Plan, method_of
from adhaero.core.plan.fields import FIELDS, SIZE
from adhaero.core.plan.records import (
    cells,
    form_of,
    forms_of,
    record_of,
    record_of_extra,
    sizes_of,
)
from adhaero.core.refusal import Problems, Refusal
from adhaero.core.units import Units


def check_sizes(plan: Plan, p: Problems, units: Units) -> None:
    """Every size that is missing, beyond what can be made, or does not go with the others."""
    method, forms = method_of(plan), forms_of(plan)
    for form in forms:
        own = plan.form_sizes.get(form, {})
        try:
            method.refuse_bad_sizes({**plan.sizes, **own}, forms=(form,), units=units)
        except Refusal as refusal:
            for found in refusal.problems:
                key = found.field.removeprefix("sizes.")
                stated = next((k for k in own if key.startswith(k)), None)
                if found.field in [x.field for x in p.found]:
                    continue
                p.add(f"form_sizes.{form}.{key}" if stated else found.field, found.message, found.remedy)
    able = {s.key for s in method.sizes_for(forms)}
    for where, key in _stated(plan):
        size = key.removeprefix(SIZE)
        name = FIELDS[key].name if key in FIELDS else size
        p.check(size in able, where, f"{name} is no size of this test", "Choose another size, method or joint form.")
    if not p.found:
        _check_each(plan, p, units)
    if FREE in forms:
        p.check(bool(plan.area_source.strip()), "area_source", "it is not said where the glued area comes from",
                "Say how it was found: drawn, measured, computed from what.")  # fmt: skip
    p.check(len(plan.area_source) <= 200, "area_source", "where the area comes from is longer than 200 characters",
            "Shorten it.")  # fmt: skip


def _stated(plan: Plan) -> Iterator[tuple[str, str]]:
    for i, factor in enumerate(plan.factors):
        if factor.key.startswith(SIZE):
            yield f"factors.{i}", factor.key
    for i, extra in enumerate(plan.extras):
        yield from ((f"extras.{i}.changes.{k}", k) for k in extra.changes if k.startswith(SIZE))


def _check_each(plan: Plan, p: Problems, units: Units) -> None:
    """Treatments with sizes of their own: do they go with the others of their joint?"""
    sized = next((i for i, f in enumerate(plan.factors) if f.key.startswith(SIZE)), None)
    made = [(f"factors.{sized}", record_of(plan, c)) for c in cells(plan)] if sized is not None else []
    made += [
        (f"extras.{i}.changes", record_of_extra(plan, e))
        for i, e in enumerate(plan.extras)
        if any(k.startswith(SIZE) for k in e.changes) or "form" in e.changes
    ]
    said: set[str] = set()
    for where, record in made:
        form = form_of(plan, record)
        try:
            method_of(plan).refuse_bad_sizes(sizes_of(plan, form, record), forms=(form,), units=units)
        except Refusal as refusal:
            for found in refusal.problems:
                text = f"{FORMS[form].name}: {found.message}"
                if text not in said:
                    said.add(text)
                    p.add(where, text, found.remedy)
